"""The second factor: given when signing in, set up and taken away by oneself, shown again before the riskiest acts."""

import json
from typing import Any

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.accounts import factors
from gonfalon.accounts.client import client_of
from gonfalon.accounts.models import Account, Factor
from gonfalon.accounts.signin import Guess, TooManyGuesses
from gonfalon.accounts.tickets import void
from gonfalon.api.guard import Anyone, Arrived, GuardedView, SignedIn, prove_again
from gonfalon.api.problems import Invalid, NotFound, Problem, TooMany
from gonfalon.api.session.own import check_password, own
from gonfalon.api.session.session import SessionShape, arrive, session_data
from gonfalon.inputs import Input
from gonfalon.ledger.models import record
from gonfalon.viewpoint.session import Session
from gonfalon.work import locked

MOST = 10
"""So many factors one account may have."""


class ProofInput(Input):
    """One of these."""

    code = serializers.CharField(max_length=20, required=False)
    recovery = serializers.CharField(max_length=60, required=False)
    passkey = serializers.DictField(required=False, help_text="What the browser answered to the challenge.")


class ProveInput(ProofInput):
    password = serializers.CharField(max_length=1000, trim_whitespace=False, required=False)


class ChallengeShape(serializers.Serializer):
    """What the browser needs to make a passkey or to ask for one (WebAuthn)."""

    options = serializers.DictField()


class ProofsShape(serializers.Serializer):
    """What one can show that it is oneself by."""

    kinds = serializers.ListField(child=serializers.ChoiceField(choices=["password", "code", "passkey", "recovery"]))


class FactorShape(serializers.Serializer):
    id = serializers.CharField()
    kind = serializers.ChoiceField(choices=Factor.Kind.choices)
    name = serializers.CharField()
    made_at = serializers.DateTimeField()
    used_at = serializers.DateTimeField(allow_null=True)


class FactorsShape(serializers.Serializer):
    factors = FactorShape(many=True)
    recovery_codes = serializers.IntegerField(help_text="How many are left.")
    passkeys = serializers.BooleanField(help_text="Whether this site can be reached in a way that passkeys need.")


class EnrolmentShape(serializers.Serializer):
    """What an app for codes is told, as text and as a picture."""

    secret = serializers.CharField()
    address = serializers.CharField()
    picture = serializers.CharField()


class FactorInput(Input):
    """Codes, by the first of them; or a passkey, by what the browser made."""

    name = serializers.CharField(max_length=60)
    code = serializers.CharField(max_length=20, required=False)
    passkey = serializers.DictField(required=False)


class AddedShape(FactorsShape):
    codes = serializers.ListField(
        child=serializers.CharField(), help_text="Codes for when it is lost, shown this once; with the first factor."
    )


class CodesShape(serializers.Serializer):
    codes = serializers.ListField(child=serializers.CharField())


class SecondFactorView(GuardedView):
    doors = {
        "post": Anyone("Whoever gave their password here is not signed in yet."),
        "put": Anyone("Whoever gave their password here is not signed in yet."),
    }
    locks = {"put": (), "post": ()}
    never_rehearsed = frozenset({"put", "post"})

    @extend_schema(request=None, responses=ChallengeShape, operation_id="passkey_challenge")
    def put(self, request: Request) -> Response:
        """Ask for a passkey of whoever gave their password here."""
        return Response(_ask_passkey(_half_way(self.session), self.session))

    @extend_schema(request=ProofInput, responses=SessionShape, operation_id="give_factor")
    def post(self, request: Request) -> Response:
        """Give the second factor, and be signed in."""
        account = _half_way(self.session)
        given = ProofInput(data=request.data)
        given.is_valid(raise_exception=True)
        _prove(account, given.validated_data, self.session, request)
        return Response(session_data(arrive(request, account)))


class ProveView(GuardedView):
    doors = {"get": Arrived(), "put": Arrived(), "post": Arrived()}
    locks = {"put": (), "post": ()}

    @extend_schema(responses=ProofsShape, operation_id="proofs")
    def get(self, request: Request) -> Response:
        """What one can show that it is oneself by: the second factor where there is one, else the password."""
        return Response({"kinds": factors.kinds_of(own(self.session)) or ["password"]})

    @extend_schema(request=None, responses=ChallengeShape, operation_id="passkey_challenge_again")
    def put(self, request: Request) -> Response:
        """Ask for one of one's own passkeys."""
        return Response(_ask_passkey(own(self.session), self.session))

    @extend_schema(request=ProveInput, responses={204: OpenApiResponse()}, operation_id="prove")
    def post(self, request: Request) -> Response:
        """Show once more that it is oneself."""
        me = own(self.session)
        given = ProveInput(data=request.data)
        given.is_valid(raise_exception=True)
        data = given.validated_data
        if factors.kinds_of(me):
            _prove(me, data, self.session, request)
        else:
            check_password(me, data.get("password", ""), request, "/password")
        self.session.prove_again()
        return Response(status=204)


class OwnFactorsView(GuardedView):
    doors = {"get": Arrived(), "post": Arrived()}
    locks = {"post": ()}

    @extend_schema(responses=FactorsShape, operation_id="own_factors")
    def get(self, request: Request) -> Response:
        return Response(_factors_data(own(self.session)))

    @extend_schema(request=FactorInput, responses=AddedShape, operation_id="add_factor")
    def post(self, request: Request) -> Response:
        """Take up a second factor that was begun here."""
        me = own(self.session)
        prove_again(self.session)
        given = FactorInput(data=request.data)
        given.is_valid(raise_exception=True)
        locked(Account.objects).get(pk=me.pk)
        kept = me.factors.count()
        if kept >= MOST:
            raise Invalid({"/name": f"An account has {MOST} of them at most. Take one away first."})
        factor = _add(me, given.validated_data, self.session)
        void(me.id)
        record(self.session.by, "account.factor-added", about=("account", me.id), name=me.name, factor=factor.name)
        codes = factors.new_recovery_codes(me) if not kept else []
        return Response({**_factors_data(me), "codes": codes})


class EnrolmentView(GuardedView):
    doors = {"post": Arrived(), "put": Arrived()}
    locks = {"post": (), "put": ()}

    @extend_schema(request=None, responses=EnrolmentShape, operation_id="begin_codes")
    def post(self, request: Request) -> Response:
        """Begin with codes: a secret for an app, which counts once its first code is given."""
        me = own(self.session)
        prove_again(self.session)
        secret = factors.new_secret()
        self.session.keep("secret", secret)
        address, picture = factors.enrolment(me, secret)
        return Response({"secret": secret, "address": address, "picture": picture})

    @extend_schema(request=None, responses=ChallengeShape, operation_id="begin_passkey")
    def put(self, request: Request) -> Response:
        """Begin with a passkey: what the browser needs to make one."""
        me = own(self.session)
        prove_again(self.session)
        options, challenge = factors.registration(me)
        self.session.keep("challenge", challenge)
        return Response({"options": json.loads(options)})


class OwnFactorView(GuardedView):
    doors = {"delete": SignedIn()}
    locks = {"delete": ()}

    @extend_schema(responses=FactorsShape, operation_id="remove_factor")
    def delete(self, request: Request, factor: str) -> Response:
        """Take one's own second factor away."""
        me = own(self.session)
        prove_again(self.session)
        row = me.factors.filter(pk=factor).first()
        if row is None:
            raise NotFound("factor")
        factors.remove_factor(row)
        void(me.id)
        record(self.session.by, "account.factor-removed", about=("account", me.id), name=me.name, factor=row.name)
        return Response(_factors_data(me))


class RecoveryCodesView(GuardedView):
    doors = {"post": SignedIn()}
    locks = {"post": ()}

    @extend_schema(request=None, responses=CodesShape, operation_id="new_recovery_codes")
    def post(self, request: Request) -> Response:
        """New codes for when the second factor is lost; the old ones are worth nothing any more."""
        me = own(self.session)
        prove_again(self.session)
        if not me.factors.exists():
            raise Invalid({"": "There is no second factor yet that could be lost."})
        record(self.session.by, "account.codes-made", about=("account", me.id), name=me.name)
        return Response({"codes": factors.new_recovery_codes(me)})


def _half_way(session: Session) -> Account:
    account = session.half_way
    if account is None:
        raise Problem(410, "sign-in-over", "Sign in again", "That took a while. Give your password once more.")
    return account


def _ask_passkey(account: Account, session: Session) -> dict[str, Any]:
    options, challenge = factors.challenge(account)
    session.keep("challenge", challenge)
    return {"options": json.loads(options)}


def _prove(account: Account, data: dict[str, Any], session: Session, request: Request) -> None:
    """Raise Invalid unless one of what is given proves that it is whoever has the account; TooMany after many tries."""
    try:
        guess = Guess(account, client_of(request._request))
    except TooManyGuesses as wait:
        raise TooMany(wait.seconds) from None
    if "passkey" in data:
        right = factors.passes_passkey(account, session.kept("challenge") or "", data["passkey"])
        wrong = {"/passkey": "This passkey is not one of this account."}
    elif "recovery" in data:
        right = factors.passes_recovery(account, data["recovery"])
        wrong = {"/recovery": "This is not one of the codes that are left."}
    else:
        right = factors.passes_code(account, data.get("code", ""))
        wrong = {"/code": "This is not the code of now, or it was used already."}
    if not right:
        raise Invalid(wrong)
    guess.was_right()


def _add(me: Account, data: dict[str, Any], session: Session) -> Factor:
    try:
        if "passkey" in data:
            return factors.add_passkey(me, data["name"], session.kept("challenge") or "", data["passkey"])
        secret = session.kept("secret") or ""
        if not secret:
            raise Invalid({"/code": "Begin anew: that took a while."})
        try:
            return factors.add_code(me, data["name"], secret, data.get("code", ""))
        except factors.WrongFactor:
            session.keep("secret", secret)  # so that it can be typed again
            raise
    except factors.WrongFactor:
        pointer = "/passkey" if "passkey" in data else "/code"
        raise Invalid({pointer: "This does not fit. Try the code that is shown now."}) from None


def _factors_data(me: Account) -> dict[str, Any]:
    rows = me.factors.values("id", "kind", "name", "made_at", "used_at")
    return {
        "factors": list(rows),
        "recovery_codes": me.recovery_codes.count(),
        "passkeys": factors.can_have_passkeys(),
    }
