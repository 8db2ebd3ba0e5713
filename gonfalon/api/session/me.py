"""One's own account: who one is, one's password, and where one is signed in."""

from typing import Any

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from ua_parser import parse

from gonfalon.access.going import take_own_away
from gonfalon.access.people import let_address_go
from gonfalon.accounts.models import Account
from gonfalon.accounts.names import names_of
from gonfalon.accounts.passwords import trouble
from gonfalon.accounts.sessions import end_session, end_sessions, open_sessions
from gonfalon.accounts.tickets import void, waiting_address
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import Arrived, GuardedView, decide, may, prove_again, refuse
from gonfalon.api.people import AccountChangeInput, WhoShape, change_account, who_data
from gonfalon.api.problems import ChangedMeanwhile, Invalid, NotFound, Refused
from gonfalon.api.session.own import check_password, own
from gonfalon.core import Question
from gonfalon.core.model.tree import profile
from gonfalon.core.model.vocabulary import DESK_OPEN
from gonfalon.inputs import Input
from gonfalon.ledger.models import record
from gonfalon.viewpoint.session import Session
from gonfalon.work import POLICY, locked


class NewAddressShape(serializers.Serializer):
    """An address that waits to be confirmed, and who asked for it."""

    email = serializers.CharField()
    asked_by = serializers.CharField(allow_null=True, help_text="The name of somebody else; null is oneself.")


class MeShape(WhoShape):
    id = serializers.CharField()
    new_address = NewAddressShape(allow_null=True)
    may_go = serializers.BooleanField(help_text="Whether one may take the account away oneself.")


class OwnSessionShape(serializers.Serializer):
    """One place where one is signed in."""

    id = serializers.CharField()
    here = serializers.BooleanField(help_text="Whether it is the one that asks.")
    device = serializers.CharField()
    client = serializers.CharField()
    began_at = serializers.DateTimeField()
    used_at = serializers.DateTimeField()


class PasswordInput(Input):
    current = serializers.CharField(trim_whitespace=False, max_length=1000)
    password = serializers.CharField(trim_whitespace=False, max_length=1000)


def _me_data(me: Account, session: Session) -> dict[str, Any]:
    here = session.arriving_viewpoint
    return {"id": me.id, "new_address": _new_address(me), "may_go": _may_go(me, session), **who_data(me, here)}


def _may_go(me: Account, session: Session) -> bool:
    """Whether an account is a registered visitor's, who may take it away."""
    return not me.keyholder and not may(session.arriving_viewpoint, DESK_OPEN)


def _new_address(me: Account) -> dict[str, Any] | None:
    waiting = waiting_address(me)
    if waiting is None:
        return None
    other = waiting.made_by if waiting.made_by != me.id else None
    return {"email": waiting.email, "asked_by": names_of([other]).get(other) if other else None}


class MeView(GuardedView):
    doors = {"get": Arrived(), "patch": Arrived()}
    locks = {"patch": (POLICY.shared,)}

    @extend_schema(responses=MeShape, operation_id="me", parameters=[ETAG])
    def get(self, request: Request) -> Response:
        me = own(self.session)
        return Response(_me_data(me, self.session), headers={"ETag": etag(me.version)})

    @extend_schema(request=AccountChangeInput, responses=MeShape, operation_id="change_me", parameters=TAGGED)
    def patch(self, request: Request) -> Response:
        """Change who one is, as far as one may edit one's own profile; a new address once it is confirmed there."""
        me = own(self.session)
        question = Question(me.id, "edit", profile(me.id), self.session.at)
        answer = decide(self.session.viewpoint, question)
        if not answer.allow:
            refuse(self.viewpoint, question, answer)
        expected = expected_version(request)
        row = locked(Account.objects).get(pk=me.id)
        if expected != etag(row.version):
            theirs = who_data(row, self.session.arriving_viewpoint)
            raise ChangedMeanwhile("Your account was changed while you were editing.", theirs)
        given = AccountChangeInput(data=request.data)
        given.is_valid(raise_exception=True)
        if given.validated_data.get("email", row.email).lower() != row.email.lower():
            prove_again(self.session)
        change_account(row, given.validated_data, self.session.arriving_viewpoint, self.session.by)
        return Response(_me_data(row, self.session), headers={"ETag": etag(row.version)})


class OwnAddressView(GuardedView):
    doors = {"delete": Arrived()}
    locks = {"delete": (POLICY.shared,)}

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="let_own_address_go")
    def delete(self, request: Request) -> Response:
        """Take a new address back that waits to be confirmed, whoever asked for it."""
        if not let_address_go(own(self.session), self.session.by):
            raise NotFound("new address")
        return Response(status=204)


class OwnPasswordView(GuardedView):
    doors = {"post": Arrived()}
    locks = {"post": ()}

    @extend_schema(request=PasswordInput, responses={204: OpenApiResponse()}, operation_id="change_password")
    def post(self, request: Request) -> Response:
        """Choose another password; everywhere else one is signed out."""
        me = own(self.session)
        given = PasswordInput(data=request.data)
        given.is_valid(raise_exception=True)
        new = given.validated_data["password"]
        check_password(me, given.validated_data["current"], request, "/current")
        if reasons := trouble(new, me):
            raise Invalid({"/password": " ".join(reasons)})
        if me.password_given and me.check_password(new):
            raise Invalid({"/password": "Somebody else knows this one. Choose another."})
        me.set_password(new)
        me.password_given = False
        me.save(update_fields=["password", "password_given"])
        end_sessions(me.id, but=self.session.session_id)
        void(me.id)
        record(self.session.by, "account.password-chosen", about=("account", me.id), name=me.name)
        self.session.prove(me)
        return Response(status=204)


class GoInput(Input):
    current = serializers.CharField(trim_whitespace=False, max_length=1000)


class GoView(GuardedView):
    doors = {"post": Arrived()}
    locks = {"post": (POLICY,)}

    @extend_schema(request=GoInput, responses={204: OpenApiResponse()}, operation_id="take_own_away")
    def post(self, request: Request) -> Response:
        """Take one's own account away, as a registered visitor: name and address go, what one did stays."""
        me = own(self.session)
        if not _may_go(me, self.session):
            raise Refused("works-here", "Whoever works on the desk is taken off by those who run the site: ask them.")
        given = GoInput(data=request.data)
        given.is_valid(raise_exception=True)
        check_password(me, given.validated_data["current"], request, "/current")
        take_own_away(locked(Account.objects).get(pk=me.id), self.session.by)
        return Response(status=204)


class OwnSessionsView(GuardedView):
    doors = {"get": Arrived(), "delete": Arrived()}
    locks = {"delete": ()}

    @extend_schema(responses=OwnSessionShape(many=True), operation_id="own_sessions")
    def get(self, request: Request) -> Response:
        """Where one is signed in, the place used last first."""
        me, here = own(self.session), self.session.session_id
        rows = open_sessions(me.id)[:100]
        return Response(
            [
                {
                    "id": row.id,
                    "here": row.id == here,
                    "device": _device(row.agent),
                    "client": row.client,
                    "began_at": row.began_at,
                    "used_at": row.used_at,
                }
                for row in rows
            ]
        )

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="end_other_sessions")
    def delete(self, request: Request) -> Response:
        """Sign out everywhere but here."""
        end_sessions(own(self.session).id, but=self.session.session_id)
        _record_ended(self.session)
        return Response(status=204)


class OwnSessionView(GuardedView):
    doors = {"delete": Arrived()}
    locks = {"delete": ()}

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="end_session")
    def delete(self, request: Request, session: str) -> Response:
        """Sign out in one place."""
        if not end_session(own(self.session).id, session):
            raise NotFound("session")
        _record_ended(self.session)
        return Response(status=204)


def _record_ended(session: Session) -> None:
    me = own(session)
    record(session.by, "account.signed-out", about=("account", me.id), name=me.name)


def _device(agent: str) -> str:
    """A browser and a system in words."""
    found = parse(agent)
    browser = found.user_agent.family if found.user_agent else "A program"
    return f"{browser} on {found.os.family}" if found.os else browser
