"""Requests of those who were refused: asking, the inbox of those who can give it, and the outcome."""

from typing import Any

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.sight import HIDDEN_PERSON
from gonfalon.accounts.names import names_of
from gonfalon.api.changes.change_set import require_duties
from gonfalon.api.changes.operation_shapes import OperationsField
from gonfalon.api.guard import GuardedView, May, SignedIn
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import Conflict, Invalid, NotFound
from gonfalon.api.verify.why import WayToYesShape, told
from gonfalon.core.document.errors import Unreadable
from gonfalon.inputs import Input
from gonfalon.verify.models import AccessRequest
from gonfalon.verify.requests import (
    Decided,
    MayAlready,
    TooManyOpen,
    ask_for,
    decline,
    grant,
    ways_to,
    words_for,
)
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY

DECIDING = ("roles.assign", "roles.define", "limits.set")
MOST_KEPT = 200


class RequestInput(Input):
    """What somebody would do, as the rules ask it, and a word of their own."""

    action = serializers.CharField(max_length=60)
    node = serializers.CharField(required=False, max_length=120)
    type = serializers.CharField(required=False, max_length=120)
    field = serializers.CharField(required=False, max_length=120)
    component = serializers.CharField(required=False, max_length=120)
    facet = serializers.CharField(required=False, max_length=120)
    component_id = serializers.CharField(required=False, max_length=120)
    word = serializers.CharField(max_length=500, allow_blank=True, default="")


class RequestShape(serializers.Serializer):
    id = serializers.CharField()
    account = serializers.CharField(allow_null=True)
    who = serializers.CharField()
    what = serializers.CharField(help_text="As it reads after “may”.")
    node = serializers.CharField(allow_null=True)
    word = serializers.CharField()
    state = serializers.ChoiceField(choices=AccessRequest.State.choices)
    asked_at = serializers.DateTimeField()
    decided_at = serializers.DateTimeField(allow_null=True)
    answer = serializers.CharField()
    until = serializers.DateTimeField(allow_null=True)


class RequestPageShape(serializers.Serializer):
    request = RequestShape()
    ways = WayToYesShape(many=True)


class GrantInput(Input):
    operations = OperationsField(help_text="Of the change that one read.")
    until = serializers.DateTimeField(required=False, allow_null=True)


class DeclineInput(Input):
    word = serializers.CharField(max_length=500, allow_blank=True, default="")


class RequestsView(GuardedView):
    doors = {"get": May(*DECIDING), "post": SignedIn()}
    locks = {"post": (POLICY.shared, NODES.shared)}

    @extend_schema(responses=RequestShape(many=True), operation_id="requests", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """The requests, those that are open first. Two queries."""
        rows = sorted(AccessRequest.objects.all()[:MOST_KEPT], key=lambda row: row.state != "open")
        return paged(request, told_requests(rows, self.viewpoint))

    @extend_schema(request=RequestInput, responses={201: RequestShape}, operation_id="ask_for_access")
    def post(self, request: Request) -> Response:
        """Ask for something one was refused. Asking twice is one request."""
        given = RequestInput(data=request.data)
        given.is_valid(raise_exception=True)
        asked = dict(given.validated_data)
        word = asked.pop("word")
        if "node" in asked and asked["node"] not in self.viewpoint.sight.nodes:
            raise NotFound
        try:
            row = ask_for(asked, word, self.viewpoint, self.session.by)
        except Unreadable as unreadable:
            raise Invalid({unreadable.fault.pointer: unreadable.fault.message}) from None
        except TooManyOpen:
            raise Conflict("You have many requests open already. Wait until some are decided.") from None
        except MayAlready:
            raise Conflict("You may do this already.") from None
        return Response(told_requests([row], self.viewpoint)[0], status=201)


class RequestView(GuardedView):
    doors = {"get": May(*DECIDING)}

    @extend_schema(responses=RequestPageShape, operation_id="request")
    def get(self, request: Request, request_id: str) -> Response:
        """A request with the smallest changes that would turn the answer."""
        row = _known(request_id, self.viewpoint)
        ways = ways_to(row, self.viewpoint) if row.state == AccessRequest.State.OPEN else []
        return Response({"request": told_requests([row], self.viewpoint)[0], "ways": told(ways, self.viewpoint)})


class GrantView(GuardedView):
    doors = {"post": May(*DECIDING)}
    locks = {"post": (POLICY, NODES.shared)}

    @extend_schema(request=GrantInput, responses={204: OpenApiResponse()}, operation_id="grant")
    def post(self, request: Request, request_id: str) -> Response:
        """Make one of the changes, for a time or for good. One that reads otherwise by now is not made."""
        row = _known(request_id, self.viewpoint)
        given = GrantInput(data=request.data)
        given.is_valid(raise_exception=True)
        operations = given.validated_data["operations"]
        way = next((way for way in ways_to(row, self.viewpoint) if way.operations == operations), None)
        if way is None:
            raise Conflict("What would do has changed since you looked. Look again.")
        require_duties(self.viewpoint, way.operations)
        try:
            grant(row, way, given.validated_data.get("until"), self.viewpoint, self.session.by)
        except Decided:
            raise Conflict("Somebody decided about it meanwhile.") from None
        return Response(status=204)


class DeclineView(GuardedView):
    doors = {"post": May(*DECIDING)}
    locks = {"post": (POLICY.shared, NODES.shared)}

    @extend_schema(request=DeclineInput, responses={204: OpenApiResponse()}, operation_id="decline")
    def post(self, request: Request, request_id: str) -> Response:
        """Say no, with a word."""
        row = _known(request_id, self.viewpoint)
        given = DeclineInput(data=request.data)
        given.is_valid(raise_exception=True)
        try:
            decline(row, given.validated_data["word"], self.viewpoint, self.session.by)
        except Decided:
            raise Conflict("Somebody decided about it meanwhile.") from None
        return Response(status=204)


class OwnRequestsView(GuardedView):
    doors = {"get": SignedIn()}

    @extend_schema(responses=RequestShape(many=True), operation_id="own_requests")
    def get(self, request: Request) -> Response:
        """What one asked for oneself, and what came of it."""
        rows = AccessRequest.objects.filter(account_id=self.viewpoint.account or "")[:50]
        return Response(told_requests(list(rows), self.viewpoint))


def _known(id: str, viewpoint: Viewpoint) -> AccessRequest:
    """A request by somebody that whoever asks may know of. Raises NotFound."""
    row = AccessRequest.objects.filter(pk=id).first()
    if row is None or row.account_id not in viewpoint.sight.people:
        raise NotFound("request")
    return row


def told_requests(rows: list[AccessRequest], viewpoint: Viewpoint) -> list[dict[str, Any]]:
    """Requests as `RequestShape` has them. One query."""
    names = names_of(row.account_id for row in rows if row.account_id in viewpoint.sight.people)
    return [
        {
            "id": row.id,
            "account": row.account_id if row.account_id in names else None,
            "who": names.get(row.account_id, HIDDEN_PERSON),
            "what": words_for(row.question, viewpoint.sight, viewpoint),
            "node": node if (node := row.question.get("node")) in viewpoint.sight.nodes else None,
            "word": row.word if row.account_id in names else "",
            "state": row.state,
            "asked_at": row.asked_at,
            "decided_at": row.decided_at,
            "answer": row.answer,
            "until": row.until,
        }
        for row in rows
    ]
