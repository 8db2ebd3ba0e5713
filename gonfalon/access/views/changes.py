"""The tray: staging, dropping and applying one's own change set."""

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access import change_sets, operations
from gonfalon.core import Question
from gonfalon.server.guard import GuardedView, May, decide, refuse
from gonfalon.server.presence import Presence
from gonfalon.server.problems import Conflict, Invalid

DUTIES = ("roles.define", "roles.assign", "limits.set")


class OperationShape(serializers.Serializer):
    position = serializers.IntegerField()
    kind = serializers.CharField()
    what = serializers.CharField()
    was = serializers.CharField(allow_null=True)
    now = serializers.CharField()
    stale = serializers.BooleanField()
    data = serializers.JSONField()


class ChangeSetShape(serializers.Serializer):
    operations = OperationShape(many=True)


class StageInput(serializers.Serializer):
    operations = serializers.ListField(child=serializers.DictField(), allow_empty=False, max_length=2000)


class AppliedShape(serializers.Serializer):
    entry = serializers.IntegerField()
    summary = serializers.CharField()


def change_set_data(presence: Presence) -> dict[str, Any]:
    staged = change_sets.staged(presence.who or "", presence.snapshot.policy)
    return {
        "operations": [
            {"position": op.position, "kind": op.data["kind"], "stale": op.stale, "data": op.data, **op.told}
            for op in staged
        ]
    }


def _require_duty(presence: Presence, duty: str) -> None:
    question = Question(presence.who, duty, at=presence.at)
    answer = decide(presence, question)
    if not answer.allow:
        refuse(question, answer)


class ChangeSetView(GuardedView):
    doors = {"get": May(*DUTIES), "delete": May(*DUTIES)}

    @extend_schema(responses=ChangeSetShape, operation_id="change_set")
    def get(self, request: Request) -> Response:
        return Response(change_set_data(self.presence))

    @extend_schema(responses={200: ChangeSetShape}, operation_id="discard")
    def delete(self, request: Request) -> Response:
        change_sets.discard(self.presence.who or "")
        return Response(change_set_data(self.presence))


class StageView(GuardedView):
    doors = {"post": May(*DUTIES)}

    @extend_schema(request=StageInput, responses=ChangeSetShape, operation_id="stage")
    def post(self, request: Request) -> Response:
        """Stage operations, each allowed only to whoever has its duty."""
        given = StageInput(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data["operations"]
        for duty in {operations.kind_named(data).duty for data in asked}:
            _require_duty(self.presence, duty)
        change_sets.stage(self.presence.who or "", asked, self.presence.snapshot.policy)
        return Response(change_set_data(self.presence))


class StagedOperationView(GuardedView):
    doors = {"delete": May(*DUTIES)}

    @extend_schema(responses={200: ChangeSetShape}, operation_id="unstage")
    def delete(self, request: Request, position: int) -> Response:
        change_sets.unstage(self.presence.who or "", position)
        return Response(change_set_data(self.presence))


class UndoView(GuardedView):
    doors = {"post": May(*DUTIES)}

    @extend_schema(request=None, responses=ChangeSetShape, operation_id="undo_last")
    def post(self, request: Request) -> Response:
        change_sets.unstage(self.presence.who or "")
        return Response(change_set_data(self.presence))


class ApplyView(GuardedView):
    doors = {"post": May(*DUTIES)}

    @extend_schema(request=None, responses=AppliedShape, operation_id="apply")
    def post(self, request: Request) -> Response:
        owner = self.presence.who or ""
        for duty in {operations.KINDS[row.data["kind"]].duty for row in change_sets.staged_rows(owner)}:
            _require_duty(self.presence, duty)
        try:
            entry = change_sets.apply_staged(owner, self.presence.by)
        except change_sets.NothingStaged:
            raise Invalid({"": "Nothing is staged."}) from None
        except change_sets.StaleOperations as stale:
            raise Conflict(str(stale), positions=stale.positions) from None
        return Response({"entry": entry.number, "summary": entry.summary})
