"""The X-ray: while one stands in for somebody, what is closed to them, and why, as far as one may see it oneself."""

from collections.abc import Sequence
from functools import cached_property
from typing import Any

from drf_spectacular.utils import extend_schema, extend_schema_view
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.desk.tree import FIND, TREE, DeskRows, TreeRowShape
from gonfalon.api.guard import GuardedView, decide, tree_named
from gonfalon.api.paging import PAGED
from gonfalon.api.problems import NotFound, Problem
from gonfalon.api.tree import Children, Found, Way
from gonfalon.api.verify.stand_in import AS_ACTOR
from gonfalon.content.models import Node
from gonfalon.content.nodes import InSight, ancestors, as_target
from gonfalon.core import Question
from gonfalon.core.bulk.survey import CODE, REASONS
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import ACTIONS, SECTION_OF_TREE, TREES, Reason
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.viewpoint import Viewpoint


class ClosedShape(serializers.Serializer):
    """That they do not see a node, or see it but may not edit it, and why."""

    seen = serializers.BooleanField()
    reason = serializers.CharField()


class XrayRowShape(TreeRowShape):
    closed = ClosedShape(allow_null=True)


class _XrayRows(DeskRows):
    """Nodes that they see and those that one sees oneself, with what they may do, and what not."""

    doors = {"get": AS_ACTOR}

    @cached_property
    def sight(self) -> InSight:
        theirs, mine = standing(self.session).on_desk, self.session.actors_sight
        return InSight(theirs.whole | mine.whole, theirs.named | mine.named)

    def wanted(self, request: Request) -> str:
        """Media too where they have none: what is in sight says what is told."""
        return tree_named(request)

    def rows(self, request: Request, positions: Sequence[int]) -> list[dict[str, Any]]:
        viewpoint, mine = self.viewpoint, self.session.actors_sight.whole
        reasons, tree = viewpoint.survey.reasons(viewpoint.subject, ["see", "edit"], viewpoint.at), viewpoint.nodes.tree
        shut = {tree: closed for tree in TREES if (closed := _section_closed(viewpoint, tree))}
        return [
            row | {"closed": (shut.get(tree.nodes[i].tree) or _closed(*reasons[i].tolist())) if mine[i] else None}
            for i, row in zip(positions, super().rows(request, positions), strict=True)
        ]


@extend_schema_view(
    get=extend_schema(responses=XrayRowShape(many=True), operation_id="xray_top", parameters=[TREE, *PAGED])
)
class XrayTopView(_XrayRows, Children):
    """What stands at the top of a tree, closed or not."""


@extend_schema_view(
    get=extend_schema(responses=XrayRowShape(many=True), operation_id="xray_children", parameters=PAGED)
)
class XrayChildrenView(_XrayRows, Children):
    """What stands under a node, closed or not."""


@extend_schema_view(get=extend_schema(responses=XrayRowShape(many=True), operation_id="xray_way", parameters=PAGED))
class XrayWayView(_XrayRows, Way):
    """All that is listed once everything above a node stands open, closed or not."""


@extend_schema_view(get=extend_schema(responses=XrayRowShape(many=True), operation_id="xray_found", parameters=FIND))
class XrayFoundView(_XrayRows, Found):
    """The first 200 nodes whose titles hold some words, or those of some ids, with what is above; closed or not."""


def _section_closed(viewpoint: Viewpoint, tree: str) -> dict[str, Any] | None:
    """Why nothing of a tree is there for them on the desk, if it is not."""
    answer = decide(viewpoint, Question(viewpoint.subject, SECTION_OF_TREE[tree], at=viewpoint.at), trail=False)
    return None if answer.allow else {"seen": False, "reason": str(answer.reason)}


def _closed(see: int, edit: int) -> dict[str, Any] | None:
    """From the positions of their reasons in REASONS."""
    seen = see == CODE[Reason.ALLOWED]
    reason = edit if seen else see
    return None if reason == CODE[Reason.ALLOWED] else {"seen": seen, "reason": str(REASONS[reason])}


class GhostShape(serializers.Serializer):
    kind = serializers.ChoiceField(choices=["action", "field", "component", "facet"])
    key = serializers.CharField()
    name = serializers.CharField()
    reason = serializers.CharField()


class XrayPageShape(serializers.Serializer):
    title = serializers.CharField()
    ghosts = GhostShape(many=True)


class XrayPageView(GuardedView):
    doors = {"get": AS_ACTOR}

    @extend_schema(responses=XrayPageShape, operation_id="xray_page")
    def get(self, request: Request, node: str) -> Response:
        """What is closed on one page: actions, fields, components, facets. Names and reasons, no values."""
        viewpoint = standing(self.session)
        row = Node.objects.filter(pk=node).first()
        target = as_target(row, ancestors(row)) if row else None
        if row is None or target is None or not self.session.actor_sees(target):
            raise NotFound
        return Response({"title": row.title, "ghosts": list(_ghosts(viewpoint, row, target))})


def _ghosts(viewpoint: Viewpoint, row: Node, target: Target) -> Any:
    def closed(action: str, **part: Any) -> str | None:
        answer = decide(viewpoint, Question(viewpoint.subject, action, target, viewpoint.at, **part), trail=False)
        return None if answer.allow else str(answer.reason)

    for action in ACTIONS:
        if action != "create" and (reason := closed(action)):
            yield {"kind": "action", "key": action, "name": action, "reason": reason}
    for field in viewpoint.catalogue.type(row.type).fields:
        if reason := closed("see-field", field=field.key):
            yield {"kind": "field", "key": field.key, "name": field.name, "reason": reason}
    for component in row.components:
        for facet in viewpoint.snapshot.policy.components.get(component["kind"], ()):
            part = {"component": component["kind"], "facet": facet, "component_id": component["id"]}
            if reason := closed("change-facet", **part):
                yield {"kind": "facet", "key": f"{component['id']}.{facet}", "name": facet, "reason": reason}
    for kind, component in viewpoint.catalogue.components.items():
        if reason := closed("insert-component", component=kind):
            yield {"kind": "component", "key": kind, "name": component.name, "reason": reason}


def standing(session: Session) -> Viewpoint:
    """How whoever is stood in for sees the site. Raises Problem where nobody is."""
    if session.standing_in is None:
        raise Problem(409, "not-standing-in", "Nobody is stood in for", "Stand in for someone first.")
    return session.viewpoint
