"""What one's staged changes would do, one by one: each account, each page for one of them, each page for anybody."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.sight import HIDDEN_NODE
from gonfalon.accounts.names import names_of
from gonfalon.api.changes.impact import DOOR, VISITORS, TouchedShape
from gonfalon.api.guard import GuardedView, require
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.core import Policy
from gonfalon.core.diff.counts import Delta
from gonfalon.verify.impact_text import has_pages, has_places, turn_words
from gonfalon.verify.preview import as_staged
from gonfalon.viewpoint.viewpoint import Viewpoint


class TurnShape(serializers.Serializer):
    """One thing that changes for an account; `places` says whether its nodes can be listed.

    How many there are is told to whoever sees all nodes, as are those of no place; to others it is null.
    """

    key = serializers.CharField()
    words = serializers.CharField()
    gained = serializers.IntegerField(allow_null=True)
    lost = serializers.IntegerField(allow_null=True)
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
        require(self.viewpoint, "roster.see")
        changed = as_staged(self.viewpoint).changed
        turned, policy = changed.deltas, changed.after.policy
        ordered = sorted(turned, key=lambda who: (-_sum(turned[who].values()).lost, -_sum(turned[who].values()).gained))
        page = paged(request, ordered)
        names = names_of(who for who in page.data if isinstance(who, str))
        page.data = [
            {
                "account": who,
                "name": "Visitors" if who is None else names.get(who, who),
                "turns": [_turn(key, turn, policy, self.viewpoint) for key, turn in turned[who].items()],
            }
            for who in page.data
        ]
        return page


def _sum(turns: Any) -> Delta:
    return sum(turns, Delta(0, 0))


def _turn(key: str, turn: Delta, policy: Policy, viewpoint: Viewpoint) -> dict[str, Any]:
    words, places = turn_words(key, policy, viewpoint.catalogue), has_places(key, policy)
    counted = (viewpoint.sees_all_nodes and not key.startswith("create:")) or not places
    gained, lost = turn if counted else (None, None)
    return {"key": key, "words": words, "gained": gained, "lost": lost, "places": places}


def places_for(key: str, viewpoint: Viewpoint) -> Callable[[str], bool]:
    """Whether something can be done at a node at all: a kind can be made beneath some kinds alone."""
    action, _, type = key.partition(":")
    if action != "create":
        return lambda id: True
    under, tree = viewpoint.catalogue.type(type).under, viewpoint.nodes.tree
    return lambda id: id in tree and tree.nodes[tree.index[id]].type in under


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
        """The nodes where one thing changes for one account, in the order of the tree; without one, for visitors.

        Those out of sight are one entry, however many they are.
        """
        require(self.viewpoint, "roster.see")
        who = request.query_params.get("account") or None
        changed = as_staged(self.viewpoint).changed
        key = request.query_params.get("key", "")
        if key not in changed.deltas.get(who, {}) or not has_places(key, changed.after.policy):
            raise NotFound("change")
        takes = places_for(key, self.viewpoint)
        gained, lost = ([id for id in ids if takes(id)] for ids in changed.nodes(who, key))
        return Response({"gained": self._titles(gained), "lost": self._titles(lost)})

    def _titles(self, ids: Sequence[str]) -> list[dict[str, str]]:
        titles, sight = self.viewpoint.nodes.titles, self.viewpoint.sight
        told = [{"title": titles[id]} for id in ids if id in sight.nodes]
        return told + [{"title": HIDDEN_NODE}] * (len(told) < len(ids))


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
        """The pages in sight where one thing changes for anybody, those where it does for most first.

        Of a change to one account they tell what that account may do where, so that this too asks `roster.see`.
        """
        require(self.viewpoint, "roster.see")
        changed, key = as_staged(self.viewpoint).changed, request.query_params.get("key", "")
        if key not in changed.totals or not has_pages(key, changed.after.policy):
            raise NotFound("change")
        gained, lost = changed.at_nodes(key, changed.deltas.keys() - VISITORS)
        visitors_gain, visitors_lose = changed.at_nodes(key, VISITORS)
        touched = gained + lost + visitors_gain + visitors_lose
        takes, tree = places_for(key, self.viewpoint), self.viewpoint.nodes.tree
        there = self.viewpoint.in_sight.whole & np.array([takes(node.id) for node in tree.nodes], dtype=bool)
        touched = np.where(there, touched, 0)
        turning = np.argsort(-touched, kind="stable")[: np.count_nonzero(touched)]
        page = paged(request, turning.tolist())
        nodes, titles = changed.after.tree.nodes, self.viewpoint.nodes.titles
        page.data = [
            {
                "title": titles[nodes[i].id],
                "gain": int(gained[i]),
                "lose": int(lost[i]),
                "visitors_gain": bool(visitors_gain[i]),
                "visitors_lose": bool(visitors_lose[i]),
            }
            for i in page.data
        ]
        return page
