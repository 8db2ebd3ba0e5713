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
from gonfalon.api.guard import GuardedView
from gonfalon.api.problems import Conflict, Invalid, Refused
from gonfalon.api.standing import about, step_out
from gonfalon.api.verify.walking import Rehearsing
from gonfalon.api.verify.whom_input import WhomInput, whom
from gonfalon.clock import new_id
from gonfalon.core import HypotheticalSubject
from gonfalon.core.model.vocabulary import Reason
from gonfalon.inputs import Input
from gonfalon.ledger.models import record
from gonfalon.verify.excess import beyond_words
from gonfalon.verify.rehearsals import begin, end, lengthen
from gonfalon.verify.whom import whom_words
from gonfalon.viewpoint.standing_in import StandingIn
from gonfalon.work import NODES, POLICY

LASTS = timedelta(minutes=30)
FARTHEST = timedelta(days=36_525)
"""How far ahead one may rehearse: what is done there ends later still."""
NOBODY = "There is no such account, or you may not stand in for it."
AS_ACTOR = Rehearsing(while_looking=True)


class StandInInput(WhomInput):
    came_from = serializers.RegexField(
        r"^/(?!/)[^\s\\]*$",
        max_length=500,
        default="/verify",
        error_messages={"invalid": "This is no place here."},
    )
    staged = serializers.BooleanField(default=False)
    mode = serializers.ChoiceField(
        choices=["look", "rehearse"],
        default="look",
        help_text="`rehearse`: do what they could do and see it done, and nothing of it is kept.",
    )
    at = serializers.DateTimeField(
        required=False, allow_null=True, help_text="A moment to come, or one that is past; without it, now."
    )


class StandInChangeInput(Input):
    mode = serializers.ChoiceField(choices=["look", "rehearse"], required=False)


class StandInView(GuardedView):
    doors = {"post": Rehearsing(), "patch": AS_ACTOR, "delete": AS_ACTOR}
    locks = {"post": (POLICY.shared, NODES.shared), "patch": (POLICY.shared,), "delete": (POLICY.shared,)}
    whoever_asks = frozenset({"delete"})
    never_rehearsed = frozenset({"post", "patch", "delete"})

    @extend_schema(request=StandInInput, responses={204: OpenApiResponse()}, operation_id="stand_in")
    def post(self, request: Request) -> Response:
        """Begin to look at the site as someone else has it, or with `staged` as they would with what is staged.

        Nobody's password is needed, and no account: a visitor, or somebody made up who holds some roles, will do. With
        what is staged, or at another moment, they are as they would be or were there, and whoever stands in as they are
        now (§7). Pages are as they are now, also at a moment that is past.
        """
        viewpoint = self.viewpoint
        context = {"policy": viewpoint.snapshot.policy, "sight": viewpoint.sight}
        given = StandInInput(data=request.data, context=context)
        given.is_valid(raise_exception=True)
        staged, at = given.validated_data["staged"], given.validated_data.get("at")
        rehearses = given.validated_data["mode"] == "rehearse"
        who = whom(given.validated_data)
        made_up = new_id() if isinstance(who, HypotheticalSubject) else ""
        if staged and at is not None and at < viewpoint.at:
            raise Invalid({"/at": "What is staged was not so then. Choose a moment to come."})
        until = viewpoint.at + LASTS
        standing_in = StandingIn(who, until, given.validated_data["came_from"], staged, at, made_up)
        self._ask(standing_in, rehearses)
        self._begin(standing_in, rehearses)
        record(
            self.session.by,
            "stand-in.begun",
            about=about(standing_in),
            way=_way(standing_in, rehearses),
            name=whom_words(who),
            at=f"{at:%-d %B %Y, %H:%M} UTC" if at else "",
        )
        return Response(status=204)

    def _begin(self, standing_in: StandingIn, rehearses: bool) -> None:
        """Stand in from now on, in one mode or the other; a rehearsal begins with nothing done."""
        before = self.session.standing_in
        if before is not None and before.rehearsal:
            end(before.rehearsal)
        rehearsal, actor = new_id() if rehearses else "", self.session.actor
        if actor and rehearsal:
            begin(rehearsal, actor.id, standing_in.until)
        self.session.stand_in(replace(standing_in, rehearsal=rehearsal))

    def _ask(self, standing_in: StandingIn, rehearses: bool) -> None:
        """Raise Invalid or Refused unless whoever asks may stand in so."""
        if rehearses and standing_in.at is not None and standing_in.at < self.session.at:
            raise Invalid({"/mode": "What is past can only be looked at. Choose a moment to come, or look only."})
        if rehearses and standing_in.at is not None and standing_in.at > self.session.at + FARTHEST:
            raise Invalid({"/at": "A rehearsal is within the next hundred years."})
        viewpoint, actor, who = self.viewpoint, self.session.actor, standing_in.who
        subject = Account.objects.filter(pk=who).first() if isinstance(who, str) else None
        if actor is None or (isinstance(who, str) and subject is None):
            raise Invalid({"/account": NOBODY})
        known = subject is None or subject.id in viewpoint.sight.people
        name = subject.name if subject else whom_words(who)
        try:
            answer = self.session.may_stand_in(standing_in, rehearses=rehearses)
        except NotKnown as unknown:
            raise Invalid({"/at": str(unknown)}) from None
        if answer is None:
            raise Invalid({"/at": f"{name} was not here then."} if known else {"/account": NOBODY})
        if not answer.allow and not known:
            raise Invalid({"/account": NOBODY})
        if not answer.allow:
            why = REASON_WORDS[answer.reason]
            told = rehearses or actor.id != who
            if answer.reason is Reason.BEYOND and told and not (subject and subject.keyholder):
                there = self.session.as_seen_by(standing_in)
                excess = viewpoint.engine.excess_under(there.engine, actor.id, who, viewpoint.at, there.at)
                why = beyond_words(excess, viewpoint)
            what = "rehearse as yourself" if rehearses and actor.id == who else f"stand in for {name}"
            raise Refused(str(answer.reason), f"You may not {what}. {why}")

    @extend_schema(request=StandInChangeInput, responses={204: OpenApiResponse()}, operation_id="stand_in_on")
    def patch(self, request: Request) -> Response:
        """Go on for as long again; with another `mode` in that one, and what was done in a rehearsal is gone."""
        given = StandInChangeInput(data=request.data)
        given.is_valid(raise_exception=True)
        under_way = self.session.standing_in
        if under_way is None:
            raise Conflict("You are not standing in for anybody.")
        onward = replace(under_way, until=self.session.at + LASTS)
        mode = given.validated_data.get("mode", under_way.mode)
        if mode != under_way.mode:
            self._ask(onward, mode == "rehearse")
            self._begin(onward, mode == "rehearse")
            record(self.session.by, f"stand-in.{mode}", about=about(under_way))
        else:
            if under_way.rehearsal:
                lengthen(under_way.rehearsal, onward.until)
            self.session.stand_in(onward)
            record(self.session.by, "stand-in.longer", about=about(under_way))
        return Response(status=204)

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="step_out")
    def delete(self, request: Request) -> Response:
        step_out(self.session)
        return Response(status=204)


def _way(standing_in: StandingIn, rehearses: bool) -> str:
    """How it is told in the ledger."""
    how = "staged" if standing_in.staged else "at" if standing_in.at else ""
    return "-".join(filter(None, ("rehearse" if rehearses else "", how)))
