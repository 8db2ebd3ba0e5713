"""What a role or an account may do where: a mark for each action at each node, part by part of the tree."""

from collections import defaultdict
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_view
from rest_framework import serializers
from rest_framework.request import Request

from gonfalon.access.sight import Sight
from gonfalon.api.guard import May
from gonfalon.api.limit.limits import staged_surveyor
from gonfalon.api.paging import PAGED
from gonfalon.api.problems import NotFound
from gonfalon.api.tree import Children, Found, Part, RowShape, Way
from gonfalon.core import HypotheticalSubject, Policy
from gonfalon.core.bulk.survey import Marks, Surveyor
from gonfalon.core.model.bits import Ints
from gonfalon.core.model.policy import Limit
from gonfalon.core.model.question import Who
from gonfalon.core.model.vocabulary import ACTIONS, Effect
from gonfalon.viewpoint.viewpoint import Viewpoint

TREE = OpenApiParameter("tree", str, enum=["content", "media"])
WHOM = [OpenApiParameter("role", str), OpenApiParameter("account", str), *PAGED]
FIND = [TREE, OpenApiParameter("words", str), OpenApiParameter("limits", bool), *WHOM]
MARKED = [action for action in ACTIONS if action != "create"]


class TreeMarkShape(serializers.Serializer):
    extent = serializers.IntegerField()
    stopped = serializers.BooleanField()
    barred = serializers.BooleanField()
    outside = serializers.BooleanField()
    baseline = serializers.BooleanField()


class MarkedRowShape(RowShape):
    """A node with its marks, one for each of §2's actions in their order; one known by name alone has none."""

    limits = serializers.IntegerField()
    lifts = serializers.IntegerField()
    staged = serializers.BooleanField()
    marks = TreeMarkShape(many=True)


class _MarkedRows(Part):
    doors = {"get": May("limits.set")}

    def rows(self, request: Request, positions: Sequence[int]) -> list[dict[str, Any]]:
        viewpoint, (survey, proposed) = self.viewpoint, staged_surveyor(self.viewpoint)
        who, here = _whom(request, proposed, viewpoint.sight), np.array(positions, dtype=np.intp)
        marks = survey.marks(who, MARKED, viewpoint.at, here)
        creates = _creates(survey, who, viewpoint, here)
        at_node = _limits_by_node(proposed)
        rows = []
        for row, position in enumerate(positions):
            told: list[dict[str, Any]] = []
            if self.sight.whole[position]:
                told = [_mark(marks, row, j) for j in range(len(MARKED))]
                told.insert(1, _mark(creates, row, 0))
            limits = at_node[viewpoint.nodes.tree.nodes[position].id]
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


def _limits_by_node(policy: Policy) -> dict[str, list[Limit]]:
    at_node: dict[str, list[Limit]] = defaultdict(list)
    for limit in policy.limits.values():
        at_node[limit.node].append(limit)
    return at_node


def _whom(request: Request, policy: Policy, sight: Sight) -> Who:
    """The role or account the question is about; an account out of sight is as good as not there."""
    if role := request.query_params.get("role"):
        if role not in policy.roles:
            raise NotFound("role")
        return HypotheticalSubject(() if role in policy.baseline else (role,))
    account = request.query_params.get("account", "")
    if account not in policy.accounts or account not in sight.people:
        raise NotFound("account")
    return account


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


def _mark(marks: Marks, i: int, j: int) -> dict[str, Any]:
    return {
        "extent": int(marks.extent[i, j]),
        "stopped": bool(marks.stopped[i, j]),
        "barred": bool(marks.barred[i, j]),
        "outside": bool(marks.outside[i, j]),
        "baseline": bool(marks.baseline[i, j]),
    }
