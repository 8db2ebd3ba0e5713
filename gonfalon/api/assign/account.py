"""One account: what it is given and what that adds up to, and changing who it is."""

from collections.abc import Iterable
from typing import Any

from django.db import transaction
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import ContentType, Duty
from gonfalon.access.change_sets import staged_policy
from gonfalon.access.roster import Roster
from gonfalon.accounts.factors import kinds_of
from gonfalon.accounts.models import Account, Ticket
from gonfalon.api.assign.given import BranchShape, GivenShape, Telling, given_to
from gonfalon.api.assign.making import account_known
from gonfalon.api.assign.roster import RosterRowShape, Row, rows_data
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, SignedIn, ask, prove_again
from gonfalon.api.people import AccountChangeInput, WhoShape, change_account, who_data
from gonfalon.api.problems import ChangedMeanwhile
from gonfalon.clock import now
from gonfalon.core.decide.grants import GrantSource, SubjectGrantsCache, gives
from gonfalon.core.model.policy import Policy, Subject
from gonfalon.core.model.tree import profile
from gonfalon.core.model.vocabulary import ACTIONS, Extent
from gonfalon.verify.presence import Presence


class SumMarkShape(serializers.Serializer):
    role = serializers.CharField(allow_null=True)
    extent = serializers.IntegerField()
    baseline = serializers.BooleanField()
    barred = serializers.BooleanField()
    somewhere = serializers.BooleanField()


class SumRowShape(serializers.Serializer):
    type = serializers.CharField()
    marks = serializers.DictField(child=SumMarkShape(many=True))


class SumDutyShape(serializers.Serializer):
    """A duty that something gives or bars, in words, with the sources that do."""

    key = serializers.CharField()
    name = serializers.CharField()
    area = serializers.CharField()
    marks = SumMarkShape(many=True)


class MembershipShape(serializers.Serializer):
    """A group an account is in; `staged` tells that one is about to let it join or leave."""

    key = serializers.CharField()
    staged = serializers.ChoiceField(choices=["", "new", "ending"])


class AccountShape(serializers.Serializer):
    account = RosterRowShape()
    state = serializers.CharField(help_text="With what is staged.")
    who = WhoShape()
    factors = serializers.ListField(
        child=serializers.CharField(), help_text="What it signs in with besides its password."
    )
    new_address = serializers.CharField(allow_null=True, help_text="One that waits to be confirmed.")
    memberships = MembershipShape(many=True)
    given = GivenShape(many=True)
    sum = SumRowShape(many=True)
    duties = SumDutyShape(many=True)
    reach = serializers.DictField(child=BranchShape(many=True))


class AccountView(GuardedView):
    doors = {"get": May("roster.see"), "patch": SignedIn()}

    @extend_schema(responses=AccountShape, operation_id="account", parameters=[ETAG])
    def get(self, request: Request, account: str) -> Response:
        """What an account is given and what it adds up to, what one has staged oneself included."""
        row = account_known(account, self.presence)
        return Response(account_data(row, self.presence), headers={"ETag": etag(row.version)})

    @extend_schema(request=AccountChangeInput, responses=AccountShape, operation_id="change_account", parameters=TAGGED)
    @transaction.atomic
    def patch(self, request: Request, account: str) -> Response:
        """Name, language and profile at once; a new address once it is confirmed there."""
        ask(self.presence, "see", profile(account))
        ask(self.presence, "edit", profile(account))
        expected = expected_version(request)
        row = Account.objects.select_for_update().filter(pk=account).first() or account_known(account, self.presence)
        if expected != etag(row.version):
            raise ChangedMeanwhile(f"{row.name} was changed while you were editing.", who_data(row, self.presence))
        given = AccountChangeInput(data=request.data)
        given.is_valid(raise_exception=True)
        if given.validated_data.get("email", row.email).lower() != row.email.lower():
            prove_again(self.presence)
        change_account(row, given.validated_data, self.presence)
        return Response(account_data(row, self.presence), headers={"ETag": etag(row.version)})


def account_data(row: Account, presence: Presence) -> dict[str, Any]:
    """An account with all it is given, as `AccountShape` has it."""
    policy, at, id = presence.snapshot.policy, presence.at, row.id
    proposed = staged_policy(presence.who or "", policy)
    roster = Roster(presence.snapshot, at)
    given = list(given_to(_subjects(id, policy) | _subjects(id, proposed), policy, proposed))
    reach = proposed.accounts[id].reach
    telling = Telling(presence, given, (branch for tops in reach.values() for branch in tops))
    sources = SubjectGrantsCache(proposed).of(id, at).sources
    notes = frozenset(roster.notes(id, row.state, row.last_seen))
    as_row = Row(id, row.name, row.email, row.state, row.keyholder, row.last_seen, row.created_at, notes)
    waiting = Ticket.objects.filter(account=row, purpose=Ticket.Purpose.EMAIL, used_at=None, ends_at__gt=now()).first()
    return {
        "account": rows_data([as_row], roster)[0],
        "state": proposed.accounts[id].state,
        "who": who_data(row, presence),
        "factors": kinds_of(row),
        "new_address": waiting.email if waiting else None,
        "memberships": list(_memberships(id, policy, proposed)),
        "given": [telling.data(one) for one in given],
        "sum": [] if row.keyholder else list(_sum(sources, presence.snapshot.catalogue.types.values())),
        "duties": [] if row.keyholder else list(_duties(sources, presence.snapshot.catalogue.duties.values())),
        "reach": {tree: telling.branches(tops) for tree, tops in reach.items()},
    }


def _subjects(id: str, policy: Policy) -> set[Subject]:
    groups = policy.all_groups(policy.accounts[id])
    return {Subject.account(id)} | {Subject.group(group) for group in groups}


def _memberships(id: str, policy: Policy, proposed: Policy) -> Iterable[dict[str, str]]:
    was, now_in = policy.accounts[id].groups, proposed.accounts[id].groups
    for key in sorted(was | now_in):
        yield {"key": key, "staged": "" if key in was & now_in else "new" if key in now_in else "ending"}


def _sum(sources: tuple[GrantSource, ...], types: Iterable[ContentType]) -> Iterable[dict[str, Any]]:
    """For each type and action, the sources that give it, a longer one making shorter ones needless."""
    for type in types:
        if type.tree is None:
            continue
        marks = {action: list(_marks(sources, f"{type.key}.{action}")) for action in ACTIONS}
        if any(marks.values()):
            yield {"type": type.key, "marks": marks}


def _duties(sources: tuple[GrantSource, ...], duties: Iterable[Duty]) -> Iterable[dict[str, Any]]:
    for duty in duties:
        if marks := list(_marks(sources, duty.key)):
            yield {"key": duty.key, "name": duty.name, "area": duty.area, "marks": marks}


def _marks(sources: tuple[GrantSource, ...], capability: str) -> Iterable[dict[str, Any]]:
    answers = [(s, s.statements[capability]) for s in sources if capability in s.statements]
    barring = [s for s, answer in answers if answer.says == "barred"]
    if barring:
        somewhere = all(not s.scope.unrestricted for s in barring)
        yield {"role": barring[0].role, "extent": 0, "baseline": False, "barred": True, "somewhere": somewhere}
        if not somewhere:
            return
    best: dict[str | None, tuple[Extent, bool, bool]] = {}
    for source, answer in answers:
        if gives(answer.says):
            extent, _, somewhere = best.get(source.role, (Extent.NONE, False, True))
            narrow = somewhere and not source.scope.unrestricted
            best[source.role] = (max(extent, answer.extent), source.kind == "baseline", narrow)
    beyond = [e for e, baseline, narrow in best.values() if not baseline and not narrow]
    for role, (extent, baseline, somewhere) in best.items():
        if not (baseline and any(e >= extent for e in beyond)):
            yield {
                "role": role,
                "extent": int(extent),
                "baseline": baseline,
                "barred": False,
                "somewhere": somewhere,
            }
