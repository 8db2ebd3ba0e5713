"""One account: what it is given and what that adds up to, and changing who it is."""

from collections.abc import Iterable
from datetime import date
from typing import Any

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.change_sets import staged_policy
from gonfalon.access.describe import Names
from gonfalon.access.people import let_address_go
from gonfalon.access.roster import Roster
from gonfalon.access.uses import last_used
from gonfalon.accounts.factors import kinds_of
from gonfalon.accounts.models import Account
from gonfalon.accounts.tickets import waiting_address
from gonfalon.api.assign.given import BranchShape, Given, GivenShape, Telling, given_to
from gonfalon.api.assign.inviting import account_known
from gonfalon.api.assign.roster import RosterRowShape, Row, rows_data
from gonfalon.api.assign.sums import SumShape, sum_of
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, ask, prove_again
from gonfalon.api.people import AccountChangeInput, WhoShape, change_account, who_data
from gonfalon.api.problems import ChangedMeanwhile, NotFound
from gonfalon.core.decide.grants import SubjectGrantsCache
from gonfalon.core.model.policy import Assignment, Policy, Subject
from gonfalon.core.model.tree import profile
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY, RowLock, locked


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
    used = serializers.DictField(
        child=serializers.DateField(), help_text="When each role last gave it something, by role."
    )
    sum = SumShape(allow_null=True, help_text="What all of it adds up to; null for a keyholder, who may do everything.")
    reach = serializers.DictField(child=BranchShape(many=True))


class AccountView(GuardedView):
    doors = {"get": May("roster.see"), "patch": May("roster.see")}
    locks = {"patch": (POLICY, RowLock("accounts.Account", "account"))}

    @extend_schema(responses=AccountShape, operation_id="account", parameters=[ETAG])
    def get(self, request: Request, account: str) -> Response:
        """What an account is given and what it adds up to, what one has staged oneself included."""
        row = account_known(account, self.viewpoint)
        return Response(account_data(row, self.viewpoint), headers={"ETag": etag(row.version)})

    @extend_schema(request=AccountChangeInput, responses=AccountShape, operation_id="change_account", parameters=TAGGED)
    def patch(self, request: Request, account: str) -> Response:
        """Name, language and profile at once; a new address once it is confirmed there."""
        ask(self.viewpoint, "see", profile(account))
        ask(self.viewpoint, "edit", profile(account))
        expected = expected_version(request)
        row = locked(Account.objects).filter(pk=account).first() or account_known(account, self.viewpoint)
        if expected != etag(row.version):
            raise ChangedMeanwhile(f"{row.name} was changed while you were editing.", who_data(row, self.viewpoint))
        given = AccountChangeInput(data=request.data)
        given.is_valid(raise_exception=True)
        if given.validated_data.get("email", row.email).lower() != row.email.lower():
            prove_again(self.session)
        change_account(row, given.validated_data, self.viewpoint, self.session.by)
        return Response(account_data(row, self.viewpoint), headers={"ETag": etag(row.version)})


class NewAddressView(GuardedView):
    doors = {"delete": May("roster.see")}
    locks = {"delete": (POLICY.shared, RowLock("accounts.Account", "account"))}

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="let_address_go")
    def delete(self, request: Request, account: str) -> Response:
        """Take a new address back that waits to be confirmed."""
        ask(self.viewpoint, "see", profile(account))
        ask(self.viewpoint, "edit", profile(account))
        if not let_address_go(account_known(account, self.viewpoint), self.session.by):
            raise NotFound("new address")
        return Response(status=204)


def account_data(row: Account, viewpoint: Viewpoint) -> dict[str, Any]:
    """An account with all it is given, as `AccountShape` has it."""
    policy, at, id = viewpoint.snapshot.policy, viewpoint.at, row.id
    proposed = staged_policy(viewpoint.account or "", policy)
    roster = Roster(viewpoint.snapshot, at)
    given = list(given_to(_subjects(id, policy) | _subjects(id, proposed), policy, proposed))
    reach = proposed.accounts[id].reach
    telling = Telling(viewpoint, given, (branch for tops in reach.values() for branch in tops))
    sources = SubjectGrantsCache(proposed).of(id, at).sources
    names = Names((), viewpoint.sight, viewpoint.catalogue, viewpoint.nodes.titles)
    notes = frozenset(roster.notes(id, row.state, row.last_seen))
    as_row = Row(id, row.name, row.email, row.state, row.keyholder, row.last_seen, row.created_at, notes)
    waiting = waiting_address(row)
    return {
        "account": rows_data([as_row], roster, names.groups)[0],
        "state": proposed.accounts[id].state,
        "who": who_data(row, viewpoint),
        "factors": kinds_of(row),
        "new_address": waiting.email if waiting else None,
        "memberships": list(_memberships(id, policy, proposed)),
        "given": [telling.data(one) for one in given],
        "used": _used(id, given),
        "sum": None if row.keyholder else sum_of(id, sources, viewpoint, names),
        "reach": {tree: telling.branches(tops) for tree, tops in reach.items()},
    }


def _used(id: str, given: list[Given]) -> dict[str, date]:
    held = [(id, g.what.role) for g in given if isinstance(g.what, Assignment)]
    return {role: day for (_, role), day in last_used(held).items()}


def _subjects(id: str, policy: Policy) -> set[Subject]:
    groups = policy.all_groups(policy.accounts[id])
    return {Subject.account(id)} | {Subject.group(group) for group in groups}


def _memberships(id: str, policy: Policy, proposed: Policy) -> Iterable[dict[str, str]]:
    was, now_in = policy.accounts[id].groups, proposed.accounts[id].groups
    for key in sorted(was | now_in):
        yield {"key": key, "staged": "" if key in was & now_in else "new" if key in now_in else "ending"}
