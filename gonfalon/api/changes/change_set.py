"""The tray: staging, dropping and applying one's own change set."""

from itertools import islice
from typing import Any

from django.db.models import Count
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access import change_sets, operations
from gonfalon.access.describe import in_sight
from gonfalon.access.models import ChangeSet
from gonfalon.access.operations import kind_named
from gonfalon.access.progress import how_far
from gonfalon.access.sight import Sight
from gonfalon.api.changes.operation_shapes import OperationField, OperationsField
from gonfalon.api.guard import GuardedView, May, ask, require
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import Conflict, Invalid, NotFound, Refused
from gonfalon.inputs import Input
from gonfalon.ledger.models import Entry
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY

MOST_LISTED = 1_000
DUTIES = ("roles.define", "roles.assign", "limits.set", "accounts.disable")


class OperationShape(serializers.Serializer):
    position = serializers.IntegerField()
    kind = serializers.CharField()
    what = serializers.CharField()
    was = serializers.CharField(allow_null=True)
    now = serializers.CharField()
    stale = serializers.BooleanField()
    data = OperationField()


class KeptShape(serializers.Serializer):
    """A change set put aside under a name."""

    id = serializers.CharField()
    name = serializers.CharField()
    begun_at = serializers.DateTimeField()
    operations = serializers.IntegerField()


class ChangeSetShape(serializers.Serializer):
    name = serializers.CharField()
    operations = OperationShape(many=True)
    kept = KeptShape(many=True)


class NameInput(Input):
    name = serializers.CharField(
        max_length=80,
        error_messages={"blank": "Give it a name to find it by.", "required": "Give it a name to find it by."},
    )


class StageInput(Input):
    operations = OperationsField()


class AppliedShape(serializers.Serializer):
    id = serializers.CharField()
    entry = serializers.IntegerField()
    summary = serializers.CharField()


def change_set_data(viewpoint: Viewpoint) -> dict[str, Any]:
    owner = viewpoint.account or ""
    staged = change_sets.staged(owner, viewpoint.snapshot.policy, viewpoint.sight)
    own = ChangeSet.objects.filter(owner_id=owner, state__in=[ChangeSet.State.OPEN, ChangeSet.State.KEPT])
    rows = list(own.annotate(count=Count("operations")).order_by("begun_at"))
    return {
        "name": next((row.name for row in rows if row.state == ChangeSet.State.OPEN), ""),
        "kept": [
            {"id": row.id, "name": row.name, "begun_at": row.begun_at, "operations": row.count}
            for row in rows
            if row.state == ChangeSet.State.KEPT
        ],
        "operations": [
            {
                "position": op.position,
                "kind": op.data["kind"],
                "stale": op.stale,
                "data": in_sight(op.data, viewpoint.sight),
                **op.told,
            }
            for op in staged
        ],
    }


def require_duties(viewpoint: Viewpoint, asked: list[dict[str, Any]]) -> None:
    """Raise Refused unless whoever asks has the duty of each operation, where it is asked."""
    for duty, node in duties_of(asked, viewpoint):
        if node is None:
            require(viewpoint, duty)
        elif node in viewpoint.sight.nodes and node in viewpoint.nodes.tree:
            ask(viewpoint, "see", viewpoint.nodes.tree.target(node))
            ask(viewpoint, duty, viewpoint.nodes.tree.target(node))


def has_duties(viewpoint: Viewpoint, asked: list[dict[str, Any]]) -> bool:
    """Whether `require_duties` would pass."""
    try:
        require_duties(viewpoint, asked)
    except (Refused, NotFound):
        return False
    return True


def duties_of(asked: list[dict[str, Any]], viewpoint: Viewpoint) -> set[tuple[str, str | None]]:
    """The duty of each operation, and the node on which it is asked: what is not there asks nothing."""
    policy = viewpoint.snapshot.policy
    return {(kind.duty, kind.asked_at(data, policy)) for data in asked if (kind := kind_named(data))}


def stage_all(viewpoint: Viewpoint, asked: list[dict[str, Any]], sight: Sight) -> None:
    """Stage operations, each allowed only to whoever has its duty; they name only what is in sight."""
    require_duties(viewpoint, asked)
    change_sets.stage(viewpoint.account or "", asked, viewpoint.snapshot.policy, sight)


def _applied(entry: Entry, viewpoint: Viewpoint) -> dict[str, Any]:
    summary = change_sets.told(entry, viewpoint.sight)
    return {"id": entry.about_id, "entry": entry.number, "summary": summary}


class ChangeSetView(GuardedView):
    doors = {"get": May(*DUTIES), "delete": May(*DUTIES)}
    locks = {"delete": (POLICY.shared, NODES.shared)}

    @extend_schema(responses=ChangeSetShape, operation_id="change_set")
    def get(self, request: Request) -> Response:
        return Response(change_set_data(self.viewpoint))

    @extend_schema(responses={200: ChangeSetShape}, operation_id="discard")
    def delete(self, request: Request) -> Response:
        change_sets.discard(self.viewpoint.account or "")
        return Response(change_set_data(self.viewpoint))


class StageView(GuardedView):
    doors = {"post": May(*DUTIES)}
    locks = {"post": (POLICY.shared, NODES.shared)}

    @extend_schema(request=StageInput, responses=ChangeSetShape, operation_id="stage")
    def post(self, request: Request) -> Response:
        """Stage operations, each allowed only to whoever has its duty."""
        given = StageInput(data=request.data)
        given.is_valid(raise_exception=True)
        stage_all(self.viewpoint, given.validated_data["operations"], self.viewpoint.sight)
        return Response(change_set_data(self.viewpoint))


class StagedOperationView(GuardedView):
    doors = {"delete": May(*DUTIES)}
    locks = {"delete": (POLICY.shared, NODES.shared)}

    @extend_schema(responses={200: ChangeSetShape}, operation_id="unstage")
    def delete(self, request: Request, position: int) -> Response:
        change_sets.unstage(self.viewpoint.account or "", position)
        return Response(change_set_data(self.viewpoint))


class UndoView(GuardedView):
    doors = {"post": May(*DUTIES)}
    locks = {"post": (POLICY.shared, NODES.shared)}

    @extend_schema(request=None, responses=ChangeSetShape, operation_id="undo_last")
    def post(self, request: Request) -> Response:
        change_sets.unstage(self.viewpoint.account or "")
        return Response(change_set_data(self.viewpoint))


class RebaseView(GuardedView):
    doors = {"post": May(*DUTIES)}
    locks = {"post": (POLICY.shared, NODES.shared)}

    @extend_schema(request=None, responses=ChangeSetShape, operation_id="rebase")
    def post(self, request: Request, position: int) -> Response:
        """Mean one's own word on top of what others applied meanwhile; what says nothing new is dropped."""
        change_sets.rebase(self.viewpoint.account or "", position, self.viewpoint.snapshot.policy)
        return Response(change_set_data(self.viewpoint))


class KeepView(GuardedView):
    doors = {"post": May(*DUTIES)}
    locks = {"post": (POLICY.shared, NODES.shared)}

    @extend_schema(request=NameInput, responses=ChangeSetShape, operation_id="put_aside")
    def post(self, request: Request) -> Response:
        """Put what is staged aside under a name."""
        given = NameInput(data=request.data)
        given.is_valid(raise_exception=True)
        try:
            change_sets.put_aside(self.viewpoint.account or "", given.validated_data["name"])
        except change_sets.NothingStaged:
            raise Invalid({"": "Nothing is staged."}) from None
        return Response(change_set_data(self.viewpoint))


class AppliedSetShape(serializers.Serializer):
    id = serializers.CharField()
    applied_at = serializers.DateTimeField()


class AppliedSetsView(GuardedView):
    doors = {"get": May(*DUTIES)}

    @extend_schema(responses=AppliedSetShape(many=True), operation_id="applied_sets", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """Change sets that are applied and not undone, the last one first: the last MOST_LISTED of those that changed
        nothing out of sight."""
        rows = islice(change_sets.undoable_by(self.viewpoint.sight), MOST_LISTED)
        return paged(request, [{"id": row.id, "applied_at": row.ended_at} for row in rows])


class TakeUpView(GuardedView):
    doors = {"post": May(*DUTIES)}
    locks = {"post": (POLICY.shared, NODES.shared)}

    @extend_schema(request=None, responses=ChangeSetShape, operation_id="take_up")
    def post(self, request: Request, change_set: str) -> Response:
        if not change_sets.take_up(self.viewpoint.account or "", change_set):
            raise NotFound("change set")
        return Response(change_set_data(self.viewpoint))


class UndoneView(GuardedView):
    doors = {"post": May(*DUTIES)}
    locks = {"post": (POLICY, NODES)}

    @extend_schema(request=None, responses=AppliedShape, operation_id="undo_applied")
    def post(self, request: Request, change_set: str) -> Response:
        """Take back an applied change set as one, whoever applied it."""
        row = change_sets.undoable().filter(pk=change_set).first()
        if row is None or not operations.are_known(row.operations.values_list("data", "was"), self.viewpoint.sight):
            raise NotFound("change set")
        require_duties(self.viewpoint, [op.reverse for op in row.operations.all()])
        try:
            viewpoint = self.viewpoint
            entry = change_sets.undo_applied(row, viewpoint.account or "", self.session.by, viewpoint.sight)
        except change_sets.BuiltOn as built_on:
            raise Conflict(str(built_on), built_on=built_on.told) from None
        return Response(_applied(entry, self.viewpoint))


class ProgressShape(serializers.Serializer):
    """Steps; none in all where nothing long is under way."""

    done = serializers.IntegerField()
    total = serializers.IntegerField()


class ProgressView(GuardedView):
    doors = {"get": May("desk.open", *DUTIES)}

    @extend_schema(responses=ProgressShape, operation_id="progress")
    def get(self, request: Request) -> Response:
        """How far one's own staging, applying or undoing has come, or one's own work on a large branch of pages."""
        done, total = how_far(self.viewpoint.account or "") or (0, 0)
        return Response({"done": done, "total": total})


class ApplyView(GuardedView):
    doors = {"post": May(*DUTIES)}
    locks = {"post": (POLICY, NODES.shared)}

    @extend_schema(request=None, responses=AppliedShape, operation_id="apply")
    def post(self, request: Request) -> Response:
        owner = self.viewpoint.account or ""
        require_duties(self.viewpoint, [row.data for row in change_sets.staged_rows(owner)])
        try:
            entry = change_sets.apply_staged(owner, self.session.by)
        except change_sets.NothingStaged:
            raise Invalid({"": "Nothing is staged."}) from None
        except change_sets.StaleOperations as stale:
            raise Conflict(str(stale), positions=stale.positions) from None
        return Response(_applied(entry, self.viewpoint))
