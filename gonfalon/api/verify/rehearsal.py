"""What was done in a rehearsal and what was refused, each step to be taken back alone; and reading many at once."""

from itertools import groupby
from typing import Any

from django.http.response import HttpResponseBase
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.guard import Arrived, GuardedView
from gonfalon.api.problems import Conflict, NotFound
from gonfalon.api.rehearsing import Outcome, Playing
from gonfalon.inputs import Input
from gonfalon.verify.models import RehearsedRequest
from gonfalon.verify.rehearsals import MOST_STEPS, Journal, journal

MOST_TOGETHER = 40
TOLD_HEADERS = ("ETag", "Total-Count", "Content-Type")


class WhyNotShape(serializers.Serializer):
    reason = serializers.CharField()
    detail = serializers.CharField()
    question = serializers.DictField(
        required=False, allow_null=True, help_text="What was refused, as access-rules §8 write it, to be expected."
    )


class StepShape(serializers.Serializer):
    """Something that was done, or asked for and refused."""

    n = serializers.IntegerField()
    said = serializers.ListField(child=serializers.CharField(), help_text="In sentences, as the ledger would tell it.")
    method = serializers.CharField()
    path = serializers.CharField()
    at = serializers.DateTimeField()
    refused = WhyNotShape(allow_null=True)
    fails = WhyNotShape(allow_null=True, help_text="Why it cannot be done again, now that others were taken back.")


class RehearsalShape(serializers.Serializer):
    steps = StepShape(many=True)
    most = serializers.IntegerField(help_text="How many steps fit.")


class ReadsInput(Input):
    paths = serializers.ListField(child=serializers.CharField(max_length=2_000), min_length=1, max_length=MOST_TOGETHER)


class ReadShape(serializers.Serializer):
    """What one address answered."""

    status = serializers.IntegerField()
    headers = serializers.DictField(child=serializers.CharField())
    body = serializers.CharField()


class _OfRehearsal(GuardedView):
    """About the rehearsal under way, by whoever rehearses."""

    never_rehearsed = frozenset({"get", "post", "delete"})

    def playing(self) -> Playing:
        """Raises Conflict where nobody rehearses."""
        under_way = self.session.standing_in
        if under_way is None or not under_way.rehearsal:
            raise Conflict("You are not rehearsing.")
        return Playing(self.request._request, self.session)

    def told(self) -> Response:
        """The steps, each as doing it again goes."""
        kept, outcomes = self.playing().outcomes()
        return Response({"steps": _steps(kept, outcomes), "most": MOST_STEPS})


class RehearsalView(_OfRehearsal):
    doors = {"get": Arrived(while_looking=True)}

    @extend_schema(responses=RehearsalShape, operation_id="rehearsal")
    def get(self, request: Request) -> Response:
        """What was done in the rehearsal under way and what was refused, and what of it cannot be done any more."""
        under_way = self.session.standing_in
        if under_way is None or not under_way.rehearsal:
            return Response({"steps": [], "most": MOST_STEPS})
        return self.told()


class RehearsedStepView(_OfRehearsal):
    doors = {"delete": Arrived(while_looking=True)}
    reads = frozenset({"delete"})

    @extend_schema(responses=RehearsalShape, operation_id="take_step_back")
    def delete(self, request: Request, step: int) -> Response:
        """Take one step back; the others are done without it."""
        self.playing()
        with journal(self.session.standing_in.rehearsal) as kept:  # type: ignore[union-attr]
            known = kept.take_back(step)
        if not known:
            raise NotFound("step")
        return self.told()


class RehearsalReadsView(_OfRehearsal):
    doors = {"post": Arrived(while_looking=True)}
    reads = frozenset({"post"})

    @extend_schema(request=ReadsInput, responses=ReadShape(many=True), operation_id="read_together")
    def post(self, request: Request) -> Any:
        """The answers to what a screen asks, all over the same playing of what was done."""
        playing = self.playing()
        given = ReadsInput(data=request.data)
        given.is_valid(raise_exception=True)
        answers = playing.together(given.validated_data["paths"])
        return Response([_read(answer) for answer in answers])


def _read(answer: HttpResponseBase) -> dict[str, Any]:
    told = {name: answer.headers[name] for name in TOLD_HEADERS if name in answer.headers}
    return {"status": answer.status_code, "headers": told, "body": answer.content.decode()}  # type: ignore[attr-defined]


def _steps(kept: Journal, outcomes: list[Outcome]) -> list[dict[str, Any]]:
    failed = {o.request.pk: o.problem for o in outcomes if o.status >= 400}
    return [_step(n, list(some), failed) for n, some in groupby(kept.requests, key=lambda request: request.step)]


def _step(n: int, requests: list[RehearsedRequest], failed: dict[int, Any]) -> dict[str, Any]:
    first = requests[0]
    problems = [failed[r.pk] for r in requests if r.pk in failed]
    fails = {key: str((problems[0] or {}).get(key, "")) for key in ("reason", "detail")} if problems else None
    return {
        "n": n,
        "said": list(dict.fromkeys(line for request in requests for line in request.said)),
        "method": first.method,
        "path": first.path,
        "at": first.at,
        "refused": first.refused,
        "fails": fails,
    }
