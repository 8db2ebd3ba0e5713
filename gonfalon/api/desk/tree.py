"""The desk's tree, and that of everything that chooses a node: what one may see of it, part by part."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_view
from rest_framework import serializers
from rest_framework.request import Request

from gonfalon.api.guard import May, may
from gonfalon.api.paging import PAGED
from gonfalon.api.tree import Children, Found, Part, RowShape, Way
from gonfalon.content.nodes import InSight

TREE = OpenApiParameter("tree", str, enum=["content", "media"])
FIND = [
    TREE,
    OpenApiParameter("words", str),
    OpenApiParameter("type", str),
    OpenApiParameter("under", str, many=True),
    OpenApiParameter("id", str, many=True),
    *PAGED,
]


SAYING_WHERE = ("roles.assign", "limits.set")


class TreeRowShape(RowShape):
    site = serializers.CharField(allow_null=True)
    may_edit = serializers.BooleanField()
    locked = serializers.BooleanField(help_text="Whether the whole node is locked.")
    nodes = serializers.IntegerField(help_text="How many nodes in sight are on its branch, itself included.")


class DeskRows(Part):
    """Nodes with what whoever asks may do with them."""

    doors = {"get": May("desk.open", *SAYING_WHERE)}

    @property
    def sight(self) -> InSight:
        """Of content too only where that section is open, but for those who say where something is given or limited."""
        says_where = any(may(self.viewpoint, duty) for duty in SAYING_WHERE)
        return self.viewpoint.in_sight if says_where else self.viewpoint.on_desk

    def rows(self, request: Request, positions: Sequence[int]) -> list[dict[str, Any]]:
        viewpoint = self.viewpoint
        tree, whole = viewpoint.nodes.tree, self.sight.whole
        ids = [tree.nodes[i].id for i in positions]
        locked = {k.node for k in viewpoint.snapshot.policy.locks.values() if k.field is None and k.component is None}
        edit = viewpoint.survey.allowed([viewpoint.subject], ids, ["edit"], viewpoint.at)[0, :, 0]
        seen = np.concatenate([[0], np.cumsum(whole)])
        return [
            {
                "site": tree.nodes[i].site if whole[i] else None,
                "may_edit": bool(whole[i] and may),
                "locked": bool(whole[i] and tree.nodes[i].id in locked),
                "nodes": int(seen[tree.ends[i]] - seen[i]),
            }
            for i, may in zip(positions, edit, strict=True)
        ]


@extend_schema_view(
    get=extend_schema(responses=TreeRowShape(many=True), operation_id="desk_top", parameters=[TREE, *PAGED])
)
class DeskTopView(DeskRows, Children):
    """What stands at the top of a tree."""


@extend_schema_view(
    get=extend_schema(responses=TreeRowShape(many=True), operation_id="desk_children", parameters=PAGED)
)
class DeskChildrenView(DeskRows, Children):
    """What stands under a node."""


@extend_schema_view(get=extend_schema(responses=TreeRowShape(many=True), operation_id="desk_way", parameters=PAGED))
class DeskWayView(DeskRows, Way):
    """All that is listed once everything above a node stands open."""


@extend_schema_view(get=extend_schema(responses=TreeRowShape(many=True), operation_id="desk_found", parameters=FIND))
class DeskFoundView(DeskRows, Found):
    """The first 200 nodes whose titles hold some words, or those of some ids, with what is above each."""
