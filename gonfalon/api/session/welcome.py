"""Where links from mails lead: choosing a password after an invitation or a forgotten one, and a new address."""

from typing import Any

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.first_keyholder import SomebodyIs, become_keyholder
from gonfalon.access.people import AddressTaken, confirm_address, forgotten, take_up
from gonfalon.accounts.client import client_of
from gonfalon.accounts.factors import kinds_of
from gonfalon.accounts.models import Account, Ticket
from gonfalon.accounts.passwords import trouble
from gonfalon.accounts.signin import TooManyGuesses, count_forgotten
from gonfalon.accounts.tickets import redeem, valid
from gonfalon.api.guard import Anyone, GuardedView
from gonfalon.api.names import LONGEST_ADDRESS, AddressField, NameField
from gonfalon.api.people import may_answer_for
from gonfalon.api.problems import Invalid, Problem, Refused, TooMany
from gonfalon.api.session.session import SessionShape, arrive, session_data
from gonfalon.inputs import Input
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY


class SecretInput(Input):
    secret = serializers.CharField(max_length=200)


class WelcomeShape(serializers.Serializer):
    """What a link is for."""

    purpose = serializers.ChoiceField(choices=Ticket.Purpose.choices)
    name = serializers.CharField()
    email = serializers.CharField()
    new_email = serializers.CharField(allow_blank=True)
    ends_at = serializers.DateTimeField()


class UseInput(SecretInput):
    password = serializers.CharField(trim_whitespace=False, max_length=1000, required=False)
    name = NameField(max_length=120, required=False, help_text="Of the first keyholder, as is the address.")
    email = AddressField(required=False)


class PasswordQuestion(Input):
    password = serializers.CharField(trim_whitespace=False, max_length=1000, allow_blank=True)
    secret = serializers.CharField(max_length=200, required=False)


class PasswordShape(serializers.Serializer):
    """Why a password would be refused; nothing when it is good enough."""

    reasons = serializers.ListField(child=serializers.CharField())


class ForgottenInput(Input):
    email = serializers.EmailField(
        max_length=LONGEST_ADDRESS, error_messages={"invalid": "This is not an e-mail address."}
    )


class WelcomeView(GuardedView):
    doors = {"post": Anyone("Whoever has the link may read what it is for.", while_looking=True)}
    never_rehearsed = frozenset({"post"})
    reads = frozenset({"post"})

    @extend_schema(request=SecretInput, responses=WelcomeShape, operation_id="welcome")
    def post(self, request: Request) -> Response:
        """What a link is for."""
        given = SecretInput(data=request.data)
        given.is_valid(raise_exception=True)
        return Response(_told(_found(valid(given.validated_data["secret"]))))


class WelcomeUseView(GuardedView):
    doors = {"post": Anyone("Whoever has the link may use it, once.")}
    locks = {"post": (POLICY,)}
    never_rehearsed = frozenset({"post"})

    @extend_schema(request=UseInput, responses=SessionShape, operation_id="use_welcome")
    def post(self, request: Request) -> Response:
        """Use a link: with a password it is chosen and one is signed in, else the new address is confirmed."""
        given = UseInput(data=request.data)
        given.is_valid(raise_exception=True)
        ticket = _found(redeem(given.validated_data["secret"]))
        if ticket.purpose == Ticket.Purpose.EMAIL:
            _asked_for_rightly(ticket, self.viewpoint)
            try:
                confirm_address(ticket)
            except AddressTaken:
                raise Invalid({"/secret": "Another account has this address by now."}) from None
            return Response(session_data(self.session))
        password = given.validated_data.get("password") or ""
        if reasons := trouble(password, ticket.account):
            raise Invalid({"/password": " ".join(reasons)})
        if ticket.purpose == Ticket.Purpose.FIRST:
            account = _first(ticket, given.validated_data, password)
        else:
            account = take_up(ticket, password)
        if kinds_of(account):
            self.session.ask_factor(account)
            return Response(session_data(self.session))
        return Response(session_data(arrive(request, account)))


class PasswordCheckView(GuardedView):
    doors = {"post": Anyone("It tells of a text alone, to whoever chooses a password.", while_looking=True)}
    reads = frozenset({"post"})

    @extend_schema(request=PasswordQuestion, responses=PasswordShape, operation_id="check_password")
    def post(self, request: Request) -> Response:
        """Whether a password is good enough, asked while it is typed."""
        given = PasswordQuestion(data=request.data)
        given.is_valid(raise_exception=True)
        about = self.session.arriving
        if about is None or given.validated_data.get("secret"):
            about = _found(valid(given.validated_data.get("secret") or "")).account
        return Response({"reasons": trouble(given.validated_data["password"], about)})


class ForgottenView(GuardedView):
    doors = {"post": Anyone("Whoever forgot their password cannot sign in.")}
    locks = {"post": ()}
    never_rehearsed = frozenset({"post"})

    @extend_schema(request=ForgottenInput, responses={204: OpenApiResponse()}, operation_id="forgotten")
    def post(self, request: Request) -> Response:
        """Send a link for a new password. The answer is the same whether there is such an account or not."""
        given = ForgottenInput(data=request.data)
        given.is_valid(raise_exception=True)
        try:
            count_forgotten(given.validated_data["email"], client_of(request._request))
        except TooManyGuesses as wait:
            raise TooMany(wait.seconds) from None
        forgotten.enqueue(given.validated_data["email"])
        return Response(status=204)


def _first(ticket: Ticket, said: dict[str, Any], password: str) -> Account:
    """Whoever says who they are as the first keyholder. Raises Invalid."""
    missing = {f"/{part}": "This is needed." for part in ("name", "email") if part not in said}
    if missing:
        raise Invalid(missing)
    try:
        return become_keyholder(ticket, said["name"], said["email"], password)
    except SomebodyIs:
        raise _over() from None
    except AddressTaken:
        raise Invalid({"/email": "Another account has this address."}) from None


def _found(ticket: Ticket | None) -> Ticket:
    if ticket is None:
        raise _over()
    return ticket


def _over() -> Problem:
    return Problem(410, "link-over", "This link is over", "It was used, or its time is up. Ask for another one.")


def _asked_for_rightly(ticket: Ticket, viewpoint: Viewpoint) -> None:
    """Raise that the link is over unless whoever asked for the address may still answer for the account."""
    if ticket.made_by is None or ticket.made_by == ticket.account_id:
        return
    asked = viewpoint.snapshot.policy.accounts.get(ticket.made_by)
    if asked is None or asked.state != "active":
        raise _over()
    try:
        may_answer_for(ticket.account, viewpoint.seen_by(asked.id))
    except Refused:
        raise _over() from None


def _told(ticket: Ticket) -> dict[str, Any]:
    return {
        "purpose": ticket.purpose,
        "name": ticket.account.name,
        "email": ticket.account.email,
        "new_email": ticket.email,
        "ends_at": ticket.ends_at,
    }
