"""Standing in for someone, and stepping out."""

from dataclasses import replace
from datetime import timedelta

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.policy_changes import NotKnown
from gonfalon.access.words import REASON_WORDS
from gonfalon.accounts.models import Account
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.problems import Conflict, Invalid, Refused
from gonfalon.core.model.vocabulary import STAND_IN, Reason
from gonfalon.inputs import Input
from gonfalon.ledger.models import record
from gonfalon.verify.excess import beyond_words
from gonfalon.viewpoint.session import StandingIn
from gonfalon.work import NODES, POLICY

LASTS = timedelta(minutes=30)
NOBODY = "There is no such account, or you may not stand in for it."
AS_ACTOR = May(STAND_IN, as_actor=True, while_looking=True)


class StandInInput(Input):
    account = serializers.CharField()
    came_from = serializers.RegexField(
        r"^/(?!/)[^\s\\]*$",
        max_length=500,
        default="/verify",
        error_messages={"invalid": "This is no place here."},
    )
    staged = serializers.BooleanField(default=False)
    at = serializers.DateTimeField(
        required=False, allow_null=True, help_text="A moment to come, or one that is past; without it, now."
    )


class StandInView(GuardedView):
    doors = {"post": May(STAND_IN, as_actor=True), "patch": AS_ACTOR, "delete": AS_ACTOR}
    locks = {"post": (POLICY.shared, NODES.shared), "patch": (POLICY.shared,), "delete": (POLICY.shared,)}
    whoever_asks = frozenset({"delete"})

    @extend_schema(request=StandInInput, responses={204: OpenApiResponse()}, operation_id="stand_in")
    def post(self, request: Request) -> Response:
        """Begin to look at the desk as someone else has it, or with `staged` as they would with what is staged.

        Nobody's password is needed. With what is staged, or at another moment, they are as they would be or were there,
        and whoever stands in as they are now (§7). Pages are as they are now, also at a moment that is past.
        """
        given = StandInInput(data=request.data)
        given.is_valid(raise_exception=True)
        viewpoint, actor = self.viewpoint, self.session.actor
        staged = given.validated_data["staged"]
        subject = Account.objects.filter(pk=given.validated_data["account"]).first()
        if subject is None or actor is None:
            raise Invalid({"/account": NOBODY})
        at = given.validated_data.get("at")
        if staged and at is not None and at < viewpoint.at:
            raise Invalid({"/at": "What is staged was not so then. Choose a moment to come."})
        standing_in = StandingIn(subject.id, viewpoint.at + LASTS, given.validated_data["came_from"], staged, at)
        try:
            answer = self.session.may_stand_in(standing_in)
        except NotKnown as unknown:
            raise Invalid({"/at": str(unknown)}) from None
        if answer is None:
            known = subject.id in viewpoint.sight.people
            raise Invalid({"/at": f"{subject.name} was not here then."} if known else {"/account": NOBODY})
        if not answer.allow and subject.id not in viewpoint.sight.people:
            raise Invalid({"/account": NOBODY})
        if not answer.allow:
            why = REASON_WORDS[answer.reason]
            if answer.reason is Reason.BEYOND and actor.id != subject.id and not subject.keyholder:
                there = self.session.as_seen_by(standing_in)
                excess = viewpoint.engine.excess_under(there.engine, actor.id, subject.id, viewpoint.at, there.at)
                why = beyond_words(excess, viewpoint)
            raise Refused(str(answer.reason), f"You may not stand in for {subject.name}. {why}")
        self.session.stand_in(standing_in)
        record(
            self.session.by,
            "stand-in.begun",
            about=("account", subject.id),
            way="staged" if staged else "at" if at else "",
            name=subject.name,
            at=f"{at:%-d %B %Y, %H:%M} UTC" if at else "",
        )
        return Response(status=204)

    @extend_schema(request=None, responses={204: OpenApiResponse()}, operation_id="stand_in_longer")
    def patch(self, request: Request) -> Response:
        """Look on for as long again as one looks from the beginning."""
        under_way = self.session.standing_in
        if under_way is None:
            raise Conflict("You are not standing in for anybody.")
        self.session.stand_in(replace(under_way, until=self.session.at + LASTS))
        record(self.session.by, "stand-in.longer", about=("account", under_way.account))
        return Response(status=204)

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="step_out")
    def delete(self, request: Request) -> Response:
        if self.session.standing_in:
            record(
                self.session.by,
                "stand-in.ended",
                about=("account", self.session.standing_in.account),
            )
        self.session.stand_in(None)
        return Response(status=204)
