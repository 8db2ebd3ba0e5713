"""Signing in and out, who one is, and for whom one stands in."""

from typing import Any

from django.middleware.csrf import get_token
from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import Duty
from gonfalon.access.demands import FACTOR, PASSWORD
from gonfalon.access.models import Review
from gonfalon.accounts.client import client_of
from gonfalon.accounts.factors import kinds_of
from gonfalon.accounts.models import Account
from gonfalon.accounts.signin import TooManyGuesses, account_for
from gonfalon.api.guard import Anyone, Arrived, GuardedView, decide
from gonfalon.api.names import LONGEST_ADDRESS
from gonfalon.api.problems import Problem, TooMany
from gonfalon.api.shapes import RoleTagShape, role_tags
from gonfalon.core import HypotheticalSubject, Question
from gonfalon.core.document.writer import write_who
from gonfalon.core.model.question import Who
from gonfalon.core.model.vocabulary import Kind
from gonfalon.inputs import Input
from gonfalon.ledger.models import By, record
from gonfalon.verify.rehearsals import end, end_those_over
from gonfalon.verify.whom import whom_words
from gonfalon.viewpoint.session import Session

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
    language = serializers.CharField()
    keyholder = serializers.BooleanField()
    roles = RoleTagShape(many=True)


class SubjectShape(serializers.Serializer):
    """Whom decisions are about."""

    id = serializers.CharField(allow_null=True, help_text="Null for a visitor, and for somebody made up.")
    name = serializers.CharField()
    email = serializers.CharField()
    keyholder = serializers.BooleanField()
    roles = RoleTagShape(many=True)
    whose = serializers.ChoiceField(choices=["account", "visitor", "roles"])
    own = serializers.BooleanField(help_text="Whether somebody made up counts as the author of everything.")
    asked_as = serializers.DictField(help_text="How a question names them: `account`, or `roles`, `groups` and `own`.")


class StandingInShape(serializers.Serializer):
    mode = serializers.ChoiceField(choices=["look", "rehearse"])
    until = serializers.DateTimeField()
    came_from = serializers.CharField()
    staged = serializers.BooleanField()
    at = serializers.DateTimeField(allow_null=True, help_text="At which moment; null is now.")


class ArrivingShape(serializers.Serializer):
    """Somebody who signed in and must have more before anything is open: a second factor,
    a password of their own, fields of the profile."""

    name = serializers.CharField()
    factor = serializers.BooleanField()
    password = serializers.BooleanField(help_text="Whether somebody else chose the password, so that it is changed.")
    fields_missing = serializers.ListField(child=serializers.CharField())


class SessionShape(serializers.Serializer):
    """Who signed in, whom decisions are about, and which places and duties are open to them."""

    factors = serializers.ListField(
        child=serializers.ChoiceField(choices=["code", "passkey", "recovery"]),
        help_text="What is asked for besides the password that was just given.",
    )
    arriving = ArrivingShape(allow_null=True)
    actor = PersonShape(allow_null=True)
    subject = SubjectShape(allow_null=True)
    standing_in = StandingInShape(allow_null=True)
    eyes = serializers.CharField(help_text="To be sent as Drawn-For with all that a screen writes.")
    places = serializers.ListField(child=serializers.CharField())
    duties = serializers.ListField(child=serializers.CharField())


class SignInInput(Input):
    email = serializers.EmailField(
        max_length=LONGEST_ADDRESS, error_messages={"invalid": "This is not an e-mail address."}
    )
    password = serializers.CharField(trim_whitespace=False, max_length=1000)


class SessionView(GuardedView):
    doors = {
        "get": Anyone("It tells only about whoever asks."),
        "post": Anyone("Signing in comes before any account."),
        "delete": Arrived(while_looking=True),
    }
    locks = {"post": (), "delete": ()}
    never_rehearsed = frozenset({"post", "delete"})
    whoever_asks = frozenset({"delete"})

    @extend_schema(responses=SessionShape, operation_id="session")
    def get(self, request: Request) -> Response:
        get_token(request._request)
        if self.session.stand_in_over:
            self.session.stand_in(None)  # whoever reads this knows that it has ended
            end_those_over()
        return Response(session_data(self.session))

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
            self.session.ask_factor(account)
            return Response(session_data(self.session))
        return Response(session_data(arrive(request, account)))

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="sign_out")
    def delete(self, request: Request) -> Response:
        under_way = self.session.standing_in
        if under_way is not None and under_way.rehearsal:
            end(under_way.rehearsal)
        self.session.sign_out()
        return Response(status=204)


def arrive(request: Request, account: Account) -> Session:
    """Sign somebody in who has shown that it is them; the session from now on."""
    before: Session = request._request.asked_by
    before.sign_in(account, client_of(request._request), request.headers.get("User-Agent", ""))
    record(By(account.id), "account.signed-in", about=("account", account.id), name=account.name)
    request._request.asked_by = before.again()
    return request._request.asked_by


def session_data(session: Session) -> dict[str, Any]:
    """The session as the front end reads it. At most one query more than whoever asks costs anyway."""
    standing_in = session.standing_in
    every = session.viewpoint.snapshot.catalogue.duties.values()
    duties = {duty.key for duty in every if not session.as_visitor and _open(session, duty)}
    people = {p.id: p for p in (session.actor, session.subject) if p}
    held: dict[Who, list[str]] = {id: _roles(session, id) for id in people}
    who = session.viewpoint.subject
    held[who] = _roles(session, who)
    tags = role_tags({key for keys in held.values() for key in keys})
    half_way = session.half_way
    return {
        "factors": kinds_of(half_way) if half_way else [],
        "arriving": _arriving(session),
        "eyes": session.eyes,
        "actor": _person(session.actor, held, tags),
        "subject": _subject(session, [tags[key] for key in held[who]]),
        "standing_in": standing_in
        and {
            "mode": standing_in.mode,
            "until": standing_in.until,
            "came_from": standing_in.came_from,
            "staged": standing_in.staged,
            "at": standing_in.at,
        },
        "places": [
            *(place for place, any_of in PLACES.items() if not duties.isdisjoint(any_of)),
            *(["hand-out"] if _hands_out(session) else []),
            *(["reviews"] if "roster.see" not in duties and _reviews(session) else []),
        ],
        "duties": sorted(duties),
    }


def _arriving(session: Session) -> dict[str, Any] | None:
    if session.arriving is None or not session.missing:
        return None
    lacks = session.missing
    return {
        "name": session.arriving.name,
        "factor": FACTOR in lacks,
        "password": PASSWORD in lacks,
        "fields_missing": sorted(lacks - {FACTOR, PASSWORD}),
    }


def _hands_out(session: Session) -> bool:
    """Whether any delegation lets whoever asks give something to others."""
    if session.as_visitor or not session.viewpoint.snapshot.policy.delegations:
        return False
    return bool(
        session.viewpoint.snapshot.engine.handing_out.delegated(session.viewpoint.subject, session.viewpoint.at)
    )


def _reviews(session: Session) -> bool:
    """Whether a review that is under way waits for whoever asks."""
    if session.viewpoint.account is None:
        return False
    return Review.objects.filter(closed_at=None, reviewers__contains=session.viewpoint.account).exists()


def _open(session: Session, duty: Duty) -> bool:
    if duty.kind not in (Kind.OPENING, Kind.SITEWIDE):
        return False
    here = session.viewpoint
    return decide(here, Question(here.subject, duty.key, at=here.at), trail=False).allow


def _roles(session: Session, who: Who) -> list[str]:
    here = session.viewpoint
    if isinstance(who, str) and who not in here.snapshot.policy.accounts:
        return []  # at a moment before the account was made
    sources = here.snapshot.engine.grants.of(who, here.at).sources
    return list(dict.fromkeys(s.role for s in sources if s.kind in ("assignment", "made-up") and s.role))


def _subject(session: Session, roles: list[dict[str, Any]]) -> dict[str, Any] | None:
    """Whom decisions are about; None where nobody signed in."""
    if session.actor is None:
        return None
    account, who = session.subject, session.viewpoint.subject
    return {
        "id": account.id if account else None,
        "name": account.name if account else whom_words(who),
        "email": account.email if account else "",
        "keyholder": account is not None and account.keyholder,
        "roles": roles,
        "whose": "account" if account else "visitor" if who is None else "roles",
        "own": isinstance(who, HypotheticalSubject) and who.as_author,
        "asked_as": write_who(who),
    }


def _person(account: Account | None, held: dict[Who, list[str]], tags: dict[str, Any]) -> dict[str, Any] | None:
    if account is None:
        return None
    return {
        "id": account.id,
        "name": account.name,
        "email": account.email,
        "language": account.language,
        "keyholder": account.keyholder,
        "roles": [tags[key] for key in held[account.id]],
    }
