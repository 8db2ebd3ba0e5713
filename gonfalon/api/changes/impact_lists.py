"""What one's staged changes would do, one by one: each account, each page for one of them, each page for anybody."""

from typing import Any

import numpy as np
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.accounts.names import names_of
from gonfalon.api.changes.impact import DOOR, VISITORS, TouchedShape
from gonfalon.api.guard import GuardedView, decide, refuse
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.core import Policy, Question
from gonfalon.core.diff.counts import Delta
from gonfalon.verify.impact_text import has_pages, has_places, turn_words
from gonfalon.verify.presence import Presence
from gonfalon.verify.preview import as_staged


class TurnShape(serializers.Serializer):
    """One thing that changes for an account; `places` says whether its nodes can be listed."""

    key = serializers.CharField()
    words = serializers.CharField()
    gained = serializers.IntegerField()
    lost = serializers.IntegerField()
    places = serializers.BooleanField()


class AccountImpactShape(serializers.Serializer):
    account = serializers.CharField(allow_null=True)
    name = serializers.CharField()
    turns = TurnShape(many=True)


class ImpactAccountsView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(responses=AccountImpactShape(many=True), operation_id="impact_accounts", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """Everyone for whom something changes, those who lose most first. Names for one page only.

        Who is there, and what they may do, is told to whoever sees the roster.
        """
        _require_roster(self.presence)
        changed = as_staged(self.presence).changed
        turned, policy = changed.deltas, changed.after.policy
        ordered = sorted(turned, key=lambda who: (-_sum(turned[who].values()).lost, -_sum(turned[who].values()).gained))
        page = paged(request, ordered)
        names = names_of(who for who in page.data if isinstance(who, str))
        page.data = [
            {
                "account": who,
                "name": "Visitors" if who is None else names.get(who, who),
                "turns": [_turn(key, turn, policy) for key, turn in turned[who].items()],
            }
            for who in page.data
        ]
        return page


def _require_roster(presence: Presence) -> None:
    question = Question(presence.who, "roster.see", at=presence.at)
    answer = decide(presence, question)
    if not answer.allow:
        refuse(question, answer)


def _sum(turns: Any) -> Delta:
    return sum(turns, Delta(0, 0))


def _turn(key: str, turn: Delta, policy: Policy) -> dict[str, Any]:
    words, places = turn_words(key, policy), has_places(key, policy)
    return {"key": key, "words": words, "gained": turn.gained, "lost": turn.lost, "places": places}


class NodeTitleShape(serializers.Serializer):
    title = serializers.CharField()


class ImpactNodesShape(serializers.Serializer):
    gained = NodeTitleShape(many=True)
    lost = NodeTitleShape(many=True)


class ImpactNodesView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(
        responses=ImpactNodesShape,
        operation_id="impact_nodes",
        parameters=[OpenApiParameter("key", str, required=True), OpenApiParameter("account", str)],
    )
    def get(self, request: Request) -> Response:
        """The nodes where one thing changes for one account, in the order of the tree; without one, for visitors."""
        _require_roster(self.presence)
        who = request.query_params.get("account") or None
        changed = as_staged(self.presence).changed
        key = request.query_params.get("key", "")
        if key not in changed.deltas.get(who, {}) or not _turn(key, Delta(0, 0), changed.after.policy)["places"]:
            raise NotFound("change")
        gained, lost = changed.nodes(who, key)
        titles, sight = self.presence.nodes.titles, self.presence.visible_ids
        return Response(
            {
                way: [{"title": titles[id] if id in sight else "a page out of sight"} for id in ids]
                for way, ids in (("gained", gained), ("lost", lost))
            }
        )


class PageImpactShape(TouchedShape):
    """A page, and who gain and lose something there."""

    title = serializers.CharField()


class ImpactPagesView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(
        responses=PageImpactShape(many=True),
        operation_id="impact_pages",
        parameters=[OpenApiParameter("key", str, required=True), *PAGED],
    )
    def get(self, request: Request) -> Response:
        """The pages where one thing changes for anybody, those where it does for most first.

        Of a change to one account they tell what that account may do where, so that this too asks `roster.see`.
        """
        _require_roster(self.presence)
        changed, key = as_staged(self.presence).changed, request.query_params.get("key", "")
        if key not in changed.totals or not has_pages(key, changed.after.policy):
            raise NotFound("change")
        gained, lost = changed.at_nodes(key, changed.deltas.keys() - VISITORS)
        visitors_gain, visitors_lose = changed.at_nodes(key, VISITORS)
        touched = gained + lost + visitors_gain + visitors_lose
        turning = np.argsort(-touched, kind="stable")[: np.count_nonzero(touched)]
        page = paged(request, turning.tolist())
        nodes, titles, sight = changed.after.tree.nodes, self.presence.nodes.titles, self.presence.visible_ids
        page.data = [
            {
                "title": titles[nodes[i].id] if nodes[i].id in sight else "a page out of sight",
                "gain": int(gained[i]),
                "lose": int(lost[i]),
                "visitors_gain": bool(visitors_gain[i]),
                "visitors_lose": bool(visitors_lose[i]),
            }
            for i in page.data
        ]
        return page
