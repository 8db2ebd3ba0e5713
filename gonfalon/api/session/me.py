"""One's own account: who one is, one's password, and where one is signed in."""

from typing import Any

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from ua_parser import parse

from gonfalon.accounts.models import Account
from gonfalon.accounts.passwords import trouble
from gonfalon.accounts.sessions import end_session, end_sessions, open_sessions
from gonfalon.accounts.tickets import void
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import Arrived, GuardedView, decide, prove_again, refuse
from gonfalon.api.people import AccountChangeInput, WhoShape, change_account, who_data
from gonfalon.api.problems import ChangedMeanwhile, Invalid, NotFound
from gonfalon.api.session.own import check_password, own
from gonfalon.api.shapes import Input
from gonfalon.core import Question
from gonfalon.core.model.tree import profile
from gonfalon.ledger.models import record
from gonfalon.viewpoint.session import Session
from gonfalon.work import POLICY, locked


class MeShape(WhoShape):
    id = serializers.CharField()


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
    return {"id": me.id, **who_data(me, session.arriving_viewpoint)}


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


class OwnPasswordView(GuardedView):
    doors = {"post": Arrived()}
    locks = {"post": ()}

    @extend_schema(request=PasswordInput, responses={204: OpenApiResponse()}, operation_id="change_password")
    def post(self, request: Request) -> Response:
        """Choose another password; everywhere else one is signed out."""
        me = own(self.session)
        given = PasswordInput(data=request.data)
        given.is_valid(raise_exception=True)
        check_password(me, given.validated_data["current"], request, "/current")
        if reasons := trouble(given.validated_data["password"], me):
            raise Invalid({"/password": " ".join(reasons)})
        me.set_password(given.validated_data["password"])
        me.save(update_fields=["password"])
        end_sessions(me.id, but=self.session.session_id)
        void(me.id)
        record(self.session.by, "account.password-chosen", about=("account", me.id), name=me.name)
        self.session.prove(me)
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
