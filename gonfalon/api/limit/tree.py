"""What a role or an account may do where: a mark for each action at each node, part by part of the tree."""

from collections import defaultdict
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_view
from rest_framework import serializers
from rest_framework.request import Request

from gonfalon.access.catalogue import MARKUP_PREFIX
from gonfalon.access.sight import Sight
from gonfalon.api.guard import May
from gonfalon.api.limit.limits import staged_surveyor
from gonfalon.api.paging import PAGED
from gonfalon.api.problems import NotFound
from gonfalon.api.tree import Children, Found, Part, RowShape, Way
from gonfalon.core import HypotheticalSubject, Policy
from gonfalon.core.bulk.survey import Marks, Surveyor
from gonfalon.core.model.bits import Ints
from gonfalon.core.model.policy import Limit, Subject
from gonfalon.core.model.question import Who
from gonfalon.core.model.vocabulary import ACTIONS, Effect
from gonfalon.viewpoint.viewpoint import Viewpoint

TREE = OpenApiParameter("tree", str, enum=["content", "media"])
WHOM = [
    *(OpenApiParameter(name, str) for name in ("role", "account", "group")),
    OpenApiParameter("visitor", bool),
    OpenApiParameter("roles", str, many=True, description="A made-up holder of all of them."),
    *PAGED,
]
FIND = [TREE, OpenApiParameter("words", str), OpenApiParameter("limits", bool), *WHOM]
MOST_ROLES = 20
MARKED = [action for action in ACTIONS if action != "create"]


class TreeMarkShape(serializers.Serializer):
    extent = serializers.IntegerField()
    stopped = serializers.BooleanField()
    barred = serializers.BooleanField()
    outside = serializers.BooleanField()
    baseline = serializers.BooleanField()
    set = serializers.ChoiceField(
        choices=["", *(e.value for e in Effect)], help_text="What is set at this very node, for whom the tree is about."
    )


class MarkedRowShape(RowShape):
    """A node with its marks: one for each of §2's actions in their order, then one for each placed duty by its key.

    One known by name alone has none.
    """

    limits = serializers.IntegerField()
    lifts = serializers.IntegerField()
    staged = serializers.BooleanField()
    marks = TreeMarkShape(many=True)


class _MarkedRows(Part):
    doors = {"get": May("limits.set")}

    def rows(self, request: Request, positions: Sequence[int]) -> list[dict[str, Any]]:
        viewpoint, (survey, proposed) = self.viewpoint, staged_surveyor(self.viewpoint)
        who, places = _whom(request, proposed, viewpoint.sight), np.array(positions, dtype=np.intp)
        actions = [*MARKED, *placed_duties(viewpoint)]
        marks = survey.marks(who, actions, viewpoint.at, places)
        creates = _creates(survey, who, viewpoint, places)
        at_node, mine = _limits_by_node(proposed), _subjects(who, proposed)
        rows = []
        for row, position in enumerate(positions):
            told: list[dict[str, Any]] = []
            limits = at_node[viewpoint.nodes.tree.nodes[position].id]
            if self.sight.whole[position]:
                here = [k for k in limits if k.to in mine]
                told = [_mark(marks, row, j, here, action) for j, action in enumerate(actions)]
                told.insert(1, _mark(creates, row, 0, here, "create"))
            rows.append(
                {
                    "limits": sum(k.effect is not Effect.LIFT for k in limits),
                    "lifts": sum(k.effect is Effect.LIFT for k in limits),
                    "staged": any(k.id not in viewpoint.snapshot.policy.limits for k in limits),
                    "marks": told,
                }
            )
        return rows


@extend_schema_view(
    get=extend_schema(responses=MarkedRowShape(many=True), operation_id="marked_top", parameters=[TREE, *WHOM])
)
class MarkedTopView(_MarkedRows, Children):
    """What stands at the top of a tree, with marks."""


@extend_schema_view(
    get=extend_schema(responses=MarkedRowShape(many=True), operation_id="marked_children", parameters=WHOM)
)
class MarkedChildrenView(_MarkedRows, Children):
    """What stands under a node, with marks."""


@extend_schema_view(get=extend_schema(responses=MarkedRowShape(many=True), operation_id="marked_way", parameters=WHOM))
class MarkedWayView(_MarkedRows, Way):
    """All that is listed once everything above a node stands open, with marks."""


@extend_schema_view(
    get=extend_schema(responses=MarkedRowShape(many=True), operation_id="marked_found", parameters=FIND)
)
class MarkedFoundView(_MarkedRows, Found):
    """The first 200 nodes whose titles hold some words, or with `limits` those that carry any, with what is above."""

    def found(self, request: Request) -> Iterator[int]:
        if request.query_params.get("limits") != "true":
            yield from super().found(request)
            return
        wanted, tree = self.wanted(request), self.viewpoint.nodes.tree
        proposed = staged_surveyor(self.viewpoint)[1]
        places = sorted(tree.index[node] for node in _limits_by_node(proposed) if node in self.sight.named)
        yield from (i for i in places if tree.nodes[i].tree == wanted)


def placed_duties(viewpoint: Viewpoint) -> list[str]:
    """The duties on pages that have columns of their own, in order; markup sets have none."""
    return [key for key in viewpoint.snapshot.policy.placed if not key.startswith(MARKUP_PREFIX)]


def _limits_by_node(policy: Policy) -> dict[str, list[Limit]]:
    at_node: dict[str, list[Limit]] = defaultdict(list)
    for limit in policy.limits.values():
        at_node[limit.node].append(limit)
    return at_node


def _whom(request: Request, policy: Policy, sight: Sight) -> Who:
    """Whom the question is about: a role, some roles, a member of a group, a visitor, or an account.

    An account out of sight is as good as not there.
    """
    asked = request.query_params
    roles = asked.getlist("roles") or asked.getlist("role")[:1]
    if any(role not in policy.roles for role in roles) or len(roles) > MOST_ROLES:
        raise NotFound("role")
    if roles:
        return HypotheticalSubject(tuple(role for role in dict.fromkeys(roles) if role not in policy.baseline))
    if group := asked.get("group"):
        return subject_named(f"group {group}", policy, sight)
    if asked.get("visitor") == "true":
        return None
    return subject_named(f"account {asked.get('account', '')}", policy, sight)


def _creates(survey: Surveyor, who: Who, viewpoint: Viewpoint, here: Ints) -> Marks:
    """How far `create` reaches under each node, over all types that may be made there."""
    types = [t for t in viewpoint.snapshot.catalogue.types.values() if t.under and not t.retired]
    marks = survey.marks(who, [f"create:{t.key}" for t in types], viewpoint.at, here)
    nodes = viewpoint.nodes.tree.nodes
    fits = np.array([[nodes[i].type in t.under for t in types] for i in here], dtype=bool)
    fits = fits.reshape(len(here), len(types))
    return Marks(
        (marks.extent * fits).max(axis=1, keepdims=True, initial=0),
        (marks.stopped & fits).any(axis=1, keepdims=True),
        (marks.barred & fits).any(axis=1, keepdims=True),
        (marks.outside & fits).any(axis=1, keepdims=True),
        (marks.baseline & fits).any(axis=1, keepdims=True),
    )


def subject_named(words: str, policy: Policy, sight: Sight) -> Who:
    """Whom some words name: `role KEY`, `group KEY`, `account ID` or `visitor`. Raises NotFound."""
    kind, _, id = words.partition(" ")
    if kind == "visitor":
        return None
    if kind == "role" and id in policy.roles:
        return HypotheticalSubject(() if id in policy.baseline else (id,))
    if kind == "group" and id in policy.groups:
        return HypotheticalSubject((), groups=(id,))
    if kind == "account" and id in policy.accounts and id in sight.people:
        return id
    raise NotFound(kind if kind in ("role", "group", "account") else "account")


def _subjects(who: Who, policy: Policy) -> set[Subject]:
    """Whom limits set on the tree's own cells name."""
    if who is None:
        return {Subject.role(key) for key in (policy.everyone,) if key is not None}
    if isinstance(who, str):
        return {Subject.account(who)}
    return {*map(Subject.role, who.roles), *map(Subject.group, who.groups)}


def _mark(marks: Marks, i: int, j: int, here: list[Limit], action: str) -> dict[str, Any]:
    effects = {k.effect for k in here if k.matches(action)}
    return {
        "set": next((str(e) for e in (Effect.BAR, Effect.STOP, Effect.LIFT) if e in effects), ""),
        "extent": int(marks.extent[i, j]),
        "stopped": bool(marks.stopped[i, j]),
        "barred": bool(marks.barred[i, j]),
        "outside": bool(marks.outside[i, j]),
        "baseline": bool(marks.baseline[i, j]),
    }
