"""Signing in and out, who one is, and for whom one stands in."""

from typing import Any

from django.middleware.csrf import get_token
from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import Duty
from gonfalon.access.demands import FACTOR
from gonfalon.access.models import Review
from gonfalon.accounts.client import client_of
from gonfalon.accounts.factors import kinds_of
from gonfalon.accounts.models import Account
from gonfalon.accounts.signin import TooManyGuesses, account_for
from gonfalon.api.guard import Anyone, Arrived, GuardedView, decide
from gonfalon.api.problems import Problem, TooMany
from gonfalon.api.shapes import RoleTagShape, role_tags
from gonfalon.core import Question
from gonfalon.core.model.vocabulary import Kind
from gonfalon.ledger.models import By, record
from gonfalon.verify.presence import Presence

PLACES = {
    "define": ("roles.define",),
    "assign": ("roster.see",),
    "limit": ("limits.set",),
    "verify": ("impersonate.start", "expectations.keep"),
    "desk": ("desk.open",),
    "ledger": ("ledger.read",),
}
"""The places of the crossbar, with the capabilities any one of which opens each."""


class PersonShape(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()
    email = serializers.CharField()
    keyholder = serializers.BooleanField()
    roles = RoleTagShape(many=True)


class StandingInShape(serializers.Serializer):
    until = serializers.DateTimeField()
    came_from = serializers.CharField()
    staged = serializers.BooleanField()


class ArrivingShape(serializers.Serializer):
    """Somebody who signed in and must have more before anything is open: a second factor, fields of the profile."""

    name = serializers.CharField()
    factor = serializers.BooleanField()
    fields_missing = serializers.ListField(child=serializers.CharField())


class SessionShape(serializers.Serializer):
    """Who signed in, whom decisions are about, and which places and duties are open to them."""

    factors = serializers.ListField(
        child=serializers.ChoiceField(choices=["code", "passkey", "recovery"]),
        help_text="What is asked for besides the password that was just given.",
    )
    arriving = ArrivingShape(allow_null=True)
    actor = PersonShape(allow_null=True)
    subject = PersonShape(allow_null=True)
    standing_in = StandingInShape(allow_null=True)
    places = serializers.ListField(child=serializers.CharField())
    duties = serializers.ListField(child=serializers.CharField())


class SignInInput(serializers.Serializer):
    email = serializers.EmailField(error_messages={"invalid": "This is not an e-mail address."})
    password = serializers.CharField(trim_whitespace=False, max_length=1000)


class SessionView(GuardedView):
    doors = {
        "get": Anyone("It tells only about whoever asks."),
        "post": Anyone("Signing in comes before any account."),
        "delete": Arrived(while_looking=True),
    }
    locks = {"post": (), "delete": ()}

    @extend_schema(responses=SessionShape, operation_id="session")
    def get(self, request: Request) -> Response:
        get_token(request._request)
        if self.presence.stand_in_over:
            self.presence.stand_in(None)  # whoever reads this knows that it has ended
        return Response(session_data(self.presence))

    @extend_schema(request=SignInInput, responses=SessionShape, operation_id="sign_in")
    def post(self, request: Request) -> Response:
        given = SignInInput(data=request.data)
        given.is_valid(raise_exception=True)
        client = client_of(request._request)
        try:
            account = account_for(**given.validated_data, client=client)
        except TooManyGuesses as wait:
            raise TooMany(wait.seconds) from None
        if account is None:
            raise Problem(403, "sign-in-failed", "Not signed in", "This address and password do not belong together.")
        if kinds_of(account):
            self.presence.ask_factor(account)
            return Response(session_data(self.presence))
        return Response(session_data(arrive(request, account)))

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="sign_out")
    def delete(self, request: Request) -> Response:
        self.presence.sign_out()
        return Response(status=204)


def arrive(request: Request, account: Account) -> Presence:
    """Sign somebody in who has shown that it is them; the presence from now on."""
    before: Presence = request._request.presence
    before.sign_in(account, client_of(request._request), request.headers.get("User-Agent", ""))
    record(By(account.id), "account.signed-in", f"{account.name} signed in", about=("account", account.id))
    request._request.presence = before.again()
    return request._request.presence


def session_data(presence: Presence) -> dict[str, Any]:
    """The session as the front end reads it. At most one query more than whoever asks costs anyway."""
    standing_in = presence.standing_in
    duties = {
        duty.key for duty in presence.snapshot.catalogue.duties.values() if presence.actor and _open(presence, duty)
    }
    people = [p for p in (presence.actor, presence.subject) if p]
    held = {p.id: _roles(presence, p) for p in people}
    tags = role_tags({key for keys in held.values() for key in keys})
    half_way = presence.half_way
    return {
        "factors": kinds_of(half_way) if half_way else [],
        "arriving": _arriving(presence),
        "actor": _person(presence.actor, held, tags),
        "subject": _person(presence.subject, held, tags),
        "standing_in": standing_in
        and {"until": standing_in.until, "came_from": standing_in.came_from, "staged": standing_in.staged},
        "places": [
            *(place for place, any_of in PLACES.items() if not duties.isdisjoint(any_of)),
            *(["hand-out"] if _hands_out(presence) else []),
            *(["reviews"] if "roster.see" not in duties and _reviews(presence) else []),
        ],
        "duties": sorted(duties),
    }


def _arriving(presence: Presence) -> dict[str, Any] | None:
    if presence.arriving is None or not presence.missing:
        return None
    fields = sorted(presence.missing - {FACTOR})
    return {"name": presence.arriving.name, "factor": FACTOR in presence.missing, "fields_missing": fields}


def _hands_out(presence: Presence) -> bool:
    """Whether any delegation lets whoever asks give something to others."""
    if not presence.actor or not presence.snapshot.policy.delegations:
        return False
    return bool(presence.snapshot.engine.handing_out.delegated(presence.who, presence.at))


def _reviews(presence: Presence) -> bool:
    """Whether a review that is under way waits for whoever asks."""
    if presence.who is None:
        return False
    return Review.objects.filter(closed_at=None, reviewers__contains=presence.who).exists()


def _open(presence: Presence, duty: Duty) -> bool:
    if duty.kind not in (Kind.OPENING, Kind.SITEWIDE):
        return False
    return decide(presence, Question(presence.who, duty.key, at=presence.at), trail=False).allow


def _roles(presence: Presence, account: Account) -> list[str]:
    holding = presence.snapshot.engine.grants.of(account.id, presence.at)
    return list(dict.fromkeys(s.role for s in holding.sources if s.kind == "assignment" and s.role))


def _person(account: Account | None, held: dict[str, list[str]], tags: dict[str, Any]) -> dict[str, Any] | None:
    if account is None:
        return None
    return {
        "id": account.id,
        "name": account.name,
        "email": account.email,
        "keyholder": account.keyholder,
        "roles": [tags[key] for key in held[account.id]],
    }
