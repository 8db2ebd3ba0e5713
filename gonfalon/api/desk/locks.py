"""Locks: which there are, closing something and opening it again, where one works (§4)."""

from collections.abc import Iterable
from typing import Any

from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access import models
from gonfalon.access.change_sets import apply_at_once
from gonfalon.access.describe import Names, capital
from gonfalon.access.sight import HIDDEN_PERSON
from gonfalon.accounts.names import names_of
from gonfalon.api.changes.change_set import require_duties
from gonfalon.api.guard import GuardedView, May, decide
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.core import Question
from gonfalon.core.model.policy import Lock
from gonfalon.core.model.vocabulary import LOCKS_OPEN
from gonfalon.inputs import Input
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY


class LockShape(serializers.Serializer):
    """What is closed, by whom, since when and why, and whether one may open it."""

    id = serializers.CharField()
    node = serializers.CharField()
    title = serializers.CharField()
    field = serializers.CharField(allow_null=True)
    component = serializers.CharField(allow_null=True)
    what = serializers.CharField(help_text="What is closed, in words.")
    why = serializers.CharField(allow_blank=True)
    by = serializers.CharField(allow_null=True)
    at = serializers.DateTimeField()
    may_open = serializers.BooleanField()


class LockInput(Input):
    """What is to be closed: a node, or one field or one component of it; and a word for whoever meets it."""

    node = serializers.CharField(max_length=120)
    field = serializers.CharField(max_length=120, required=False, allow_null=True)
    component = serializers.CharField(max_length=120, required=False, allow_null=True)
    why = serializers.CharField(max_length=200, required=False, allow_blank=True, default="")


class LocksView(GuardedView):
    doors = {"get": May("desk.open"), "post": May("desk.open")}
    locks = {"post": (POLICY, NODES.shared)}

    @extend_schema(
        responses=LockShape(many=True), operation_id="locks", parameters=[OpenApiParameter("branch", str), *PAGED]
    )
    def get(self, request: Request) -> Response:
        """The locks on pages that one sees, or on those of a branch. Four queries."""
        every = [k for k in self.viewpoint.snapshot.policy.locks.values() if self._in_branch(request, k)]
        return paged(request, told_locks(every, self.viewpoint))

    def _in_branch(self, request: Request, lock: Lock) -> bool:
        tree, branch = self.viewpoint.nodes.tree, request.query_params.get("branch")
        if lock.node not in self.viewpoint.on_desk.named or lock.node not in tree:
            return False
        if branch and branch not in tree.path(lock.node):
            return False
        return lock.field is None or self._shows(lock)

    def _shows(self, lock: Lock) -> bool:
        """Whether whoever asks may see the field that is locked."""
        here, target = self.viewpoint, self.viewpoint.nodes.tree.target(lock.node)
        question = Question(here.subject, "see-field", target, here.at, field=lock.field)
        return decide(here, question, trail=False).allow

    @extend_schema(request=LockInput, responses={201: LockShape}, operation_id="lock")
    def post(self, request: Request) -> Response:
        """Close something to everyone who may not open locks there. It can be undone as one."""
        given = LockInput(data=request.data)
        given.is_valid(raise_exception=True)
        operation = {"kind": "set-lock", **given.validated_data}
        _at_once(operation, self.viewpoint, self.session.by)
        said = given.validated_data
        made = models.Lock.objects.filter(
            node=said["node"], field=said.get("field"), component=said.get("component")
        ).latest("locked_at")
        return Response(told_locks([Lock(made.id, made.node, made.field, made.component)], self.viewpoint)[0], 201)


class LockView(GuardedView):
    doors = {"delete": May("desk.open")}
    locks = {"delete": (POLICY, NODES.shared)}

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="open_lock")
    def delete(self, request: Request, lock: str) -> Response:
        """Open a lock."""
        there = self.viewpoint.snapshot.policy.locks.get(lock)
        if there is None or there.node not in self.viewpoint.sight.nodes:
            raise NotFound("lock")
        _at_once({"kind": "open-lock", "lock": lock}, self.viewpoint, self.session.by)
        return Response(status=204)


def _at_once(operation: dict[str, Any], viewpoint: Viewpoint, by: Any) -> None:
    require_duties(viewpoint, [operation])
    apply_at_once(viewpoint.account or "", [operation], by, viewpoint.sight)


def told_locks(locks: Iterable[Lock], viewpoint: Viewpoint) -> list[dict[str, Any]]:
    """Locks as `LockShape` has them, on nodes that whoever asks sees. Three queries."""
    locks = list(locks)
    rows = models.Lock.objects.in_bulk([k.id for k in locks])
    known = {row.locked_by for row in rows.values() if row.locked_by is not None}
    keepers = names_of(known) if known else {}
    names = Names([{"node": k.node} for k in locks], viewpoint.sight, viewpoint.catalogue)
    nodes = [k.node for k in locks]
    opens = viewpoint.survey.allowed([viewpoint.subject], nodes, [LOCKS_OPEN], viewpoint.at)[0, :, 0].tolist()
    return [
        {
            "id": k.id,
            "node": k.node,
            "title": names.node(k.node),
            "field": k.field,
            "component": k.component,
            "what": capital(f"{names.part(k.field, k.component)}{names.node(k.node)}"),
            "why": rows[k.id].why,
            "by": keepers.get(rows[k.id].locked_by or "", HIDDEN_PERSON if rows[k.id].locked_by else None),
            "at": rows[k.id].locked_at,
            "may_open": may,
        }
        for k, may in zip(locks, opens, strict=True)
        if k.id in rows
    ]
