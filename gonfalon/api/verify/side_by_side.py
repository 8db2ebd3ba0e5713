"""Side by side: two or three people, or one at different moments, on the same page, over the tree and on the board."""

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

import numpy as np
from django.template.loader import render_to_string
from django.utils.dateparse import parse_datetime
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.policy_changes import NotKnown
from gonfalon.access.words import REASON_WORDS
from gonfalon.accounts.models import Account
from gonfalon.api.desk.page_data import page_data
from gonfalon.api.guard import GuardedView, May, place_of
from gonfalon.api.paging import PAGED, whole
from gonfalon.api.problems import Invalid, NotFound, Refused
from gonfalon.api.shapes import RoleTagShape, role_tags
from gonfalon.api.site.drawing import page_context
from gonfalon.content.listing import head_of
from gonfalon.core import HypotheticalSubject, Question
from gonfalon.core.model.question import Who
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import STAND_IN
from gonfalon.verify.side_by_side import ON_TREE, Answer, Row, TreeAnswers, board_rows, page_rows
from gonfalon.verify.whom import whom_words
from gonfalon.viewpoint.standing_in import StandingIn
from gonfalon.viewpoint.viewpoint import Viewpoint

MOST_SIDES = 3
MOST_ROWS = 200
LONGEST_SIDE = 600
SIDE = OpenApiParameter(
    "side",
    str,
    many=True,
    required=True,
    description=(
        "Whom, two or three times: `account:ID`, `visitor`, `roles:KEY,KEY` or `groups:KEY`, and after semicolons "
        "`own`, `staged` or `at=MOMENT`."
    ),
)


class SideShape(serializers.Serializer):
    side = serializers.CharField(help_text="As it was asked for.")
    name = serializers.CharField()
    note = serializers.CharField(help_text="When, and whether with what is staged.")
    roles = RoleTagShape(many=True)
    html = serializers.CharField(allow_null=True, help_text="The page as they have it; null where they do not see it.")


class SideAnswerShape(serializers.Serializer):
    says = serializers.CharField()
    reason = serializers.CharField(allow_blank=True)


class SideRowShape(serializers.Serializer):
    group = serializers.ChoiceField(choices=["action", "field", "part", "insert", "board"])
    key = serializers.CharField()
    name = serializers.CharField()
    differs = serializers.BooleanField()
    asked = serializers.DictField(child=serializers.CharField())
    answers = SideAnswerShape(many=True)


class SideNodeShape(serializers.Serializer):
    id = serializers.CharField()
    title = serializers.CharField()
    depth = serializers.IntegerField()
    differs = serializers.BooleanField()
    answers = serializers.ListField(child=SideAnswerShape(many=True), help_text="By side, by action.")


class SideBySideShape(serializers.Serializer):
    sides = SideShape(many=True)
    title = serializers.CharField(allow_null=True)
    rows = SideRowShape(many=True, help_text="Of the page, or of the board.")
    nodes = SideNodeShape(many=True, help_text="Of the tree, a page of them.")
    actions = serializers.ListField(child=serializers.CharField(), help_text="What is asked of each node.")
    differing = serializers.IntegerField()
    total = serializers.IntegerField()


class SideBySideView(GuardedView):
    doors = {"get": May(STAND_IN, as_actor=True)}
    never_rehearsed = frozenset({"get"})

    @extend_schema(
        responses=SideBySideShape,
        operation_id="side_by_side",
        parameters=[
            SIDE,
            OpenApiParameter("show", str, enum=["page", "parts", "tree", "board"]),
            OpenApiParameter("node", str, description="Which page."),
            OpenApiParameter("differing", bool, description="Only what differs."),
            *PAGED,
        ],
    )
    def get(self, request: Request) -> Response:
        """What each may do: on a page and its parts, at each node of the tree, or by capability.

        Whoever asks is one of them, or could stand in for them (§7): nothing is told that they could not look at.
        """
        asked = request.query_params.getlist("side")
        if not 2 <= len(asked) <= MOST_SIDES:
            raise Invalid({"/side": f"Say two or {MOST_SIDES} sides."})
        whom = [self._read(side) for side in asked]
        sides = [self._side(one) for one in whom]
        show, only = request.query_params.get("show") or "page", request.query_params.get("differing") == "true"
        told: dict[str, Any] = {"title": None, "rows": [], "nodes": [], "actions": list(ON_TREE)}
        htmls: list[str | None] = [None] * len(sides)
        if show in ("page", "parts"):
            told |= self._page(request, sides, htmls if show == "page" else [], only)
        elif show == "board":
            told |= _rows(board_rows(sides), only)
        elif show == "tree":
            told |= self._tree(request, sides, only)
        else:
            raise Invalid({"/show": "Say page, parts, tree or board."})
        heads = [self._head(*each) for each in zip(asked, whom, sides, htmls, strict=True)]
        return Response({"sides": heads, **told})

    def _page(self, request: Request, sides: list[Viewpoint], htmls: list[str | None], only: bool) -> dict[str, Any]:
        place = place_of(request.query_params.get("node", "")[:LONGEST_SIDE])
        if not self.session.actor_sees(place.target):
            raise NotFound
        for i, side in enumerate(sides[: len(htmls)]):
            if _sees(side, place.target):
                drawn = page_context(side, place.row, place.above, page_data(side, place.row, place.above))
                head = head_of(place.row, drawn["site"])
                htmls[i] = render_to_string("site/page.html", drawn | {"head": head, "preview": True})
        return {"title": place.row.title, **_rows(page_rows(sides, place.row, place.above), only)}

    def _tree(self, request: Request, sides: list[Viewpoint], only: bool) -> dict[str, Any]:
        nodes, answers = sides[0].nodes, TreeAnswers(sides, self.session.actors_viewpoint.in_sight.whole)
        rows = answers.differs.nonzero()[0] if only else np.arange(len(answers.positions))
        offset = whole(request, "offset", 0)
        told = []
        for row in rows[offset : offset + MOST_ROWS].tolist():
            id = nodes.tree.nodes[answers.positions[row]].id
            told.append(
                {
                    "id": id,
                    "title": nodes.titles[id],
                    "depth": len(nodes.tree.path(id)) - 1,
                    "differs": bool(answers.differs[row]),
                    "answers": [[_answer(answer) for answer in each] for each in answers.at(row)],
                }
            )
        return {"nodes": told, "differing": int(answers.differs.sum()), "total": len(rows)}

    def _head(self, asked: str, one: StandingIn, side: Viewpoint, html: str | None) -> dict[str, Any]:
        sources = side.snapshot.engine.grants.of(side.subject, side.at).sources
        held = list(dict.fromkeys(s.role for s in sources if s.kind in ("assignment", "made-up") and s.role))
        tags = role_tags(held)
        when = f"on {one.at:%-d %B %Y, %H:%M} UTC" if one.at else ""
        made_up = isinstance(one.who, HypotheticalSubject)
        wrote = f"author of {'everything' if made_up and one.who.as_author else 'nothing'}" if made_up else ""  # type: ignore[union-attr]
        note = [wrote, "with what is staged" if one.staged else "", when]
        return {
            "side": asked,
            "name": whom_words(one.who),
            "note": ", ".join(filter(None, note)),
            "roles": [tags[key] for key in held],
            "html": html,
        }

    def _side(self, one: StandingIn) -> Viewpoint:
        """How one of them sees the site. Raises Invalid or Refused unless whoever asks may look as they do."""
        actor = self.session.actor
        known = not isinstance(one.who, str) or one.who in self.session.actors_viewpoint.sight.people
        nobody = Invalid({"/side": "There is no such account, or you may not stand in for it."})
        if isinstance(one.who, str) and (not known or not Account.objects.filter(pk=one.who).exists()):
            raise nobody
        try:
            oneself = actor is not None and one.who == actor.id
            if not (oneself and not one.staged and one.at is None):
                answer = self.session.may_stand_in(one, beside=True)
                if answer is None:
                    raise Invalid({"/side": "There was nobody like that then."})
                if not answer.allow:
                    why = REASON_WORDS[answer.reason]
                    raise Refused(str(answer.reason), f"You may not look beside {whom_words(one.who)}. {why}")
            return self.session.as_seen_by(one)
        except NotKnown as unknown:
            raise Invalid({"/side": str(unknown)}) from None

    def _read(self, side: str) -> StandingIn:
        """One side as the address has it. Raises Invalid."""
        if len(side) > LONGEST_SIDE:
            raise Invalid({"/side": "This is too long."})
        first, *more = side.split(";")
        said = {key: value for key, _, value in (part.partition("=") for part in more)}
        if unknown := said.keys() - {"own", "staged", "at"}:
            raise Invalid({"/side": f"This is not known here: {min(unknown)}."})
        at = parse_datetime(said["at"].replace(" ", "+")) if "at" in said else None
        if "at" in said and (at is None or at.tzinfo is None):
            raise Invalid({"/side": "This is no moment."})
        until = self.session.at + timedelta(minutes=1)
        return StandingIn(self._who(first, said), until, "", "staged" in said, at, made_up="made-up")

    def _who(self, first: str, said: Mapping[str, str]) -> Who:
        kind, _, value = first.partition(":")
        keys = tuple(dict.fromkeys(key for key in value.split(",") if key))
        policy = self.session.in_force.policy
        if kind == "visitor" and not value:
            return None
        if kind == "account" and value:
            return value
        if kind == "roles" and keys and all(key in policy.roles for key in keys):
            return HypotheticalSubject(keys, "own" in said)
        if kind == "groups" and keys and all(key in policy.groups for key in keys):
            return HypotheticalSubject((), "own" in said, groups=tuple(sorted(keys)))
        raise Invalid({"/side": "Say account:ID, visitor, roles:KEY,KEY or groups:KEY."})


def _sees(side: Viewpoint, target: Target) -> bool:
    return side.snapshot.engine.decide(Question(side.subject, "see", target, side.at)).allow


def _rows(every: list[Row], only: bool) -> dict[str, Any]:
    return {
        "rows": [
            {
                "group": row.group,
                "key": row.key,
                "name": row.name,
                "differs": row.differs,
                "asked": row.asked,
                "answers": [_answer(answer) for answer in row.answers],
            }
            for row in every
            if row.differs or not only
        ],
        "differing": sum(row.differs for row in every),
        "total": len(every),
    }


def _answer(answer: Answer) -> dict[str, str]:
    return {"says": answer.says, "reason": answer.reason}
