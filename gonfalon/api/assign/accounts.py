"""Assign: the roster, the groups, and one account with all it is given."""

from collections import defaultdict
from collections.abc import Iterable
from typing import Any

from django.db.models import Q, QuerySet
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import ContentType
from gonfalon.access.change_sets import staged_policy
from gonfalon.access.describe import capability_words
from gonfalon.access.holders import Holders
from gonfalon.access.names import titles
from gonfalon.accounts.models import Account, Group, Membership
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.paging import PAGED, paged, whole
from gonfalon.api.problems import NotFound
from gonfalon.api.shapes import ScopeShape
from gonfalon.core.decide.grants import GrantSource, SubjectGrantsCache, gives
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Assignment, DirectGrant, Policy, Subject
from gonfalon.core.model.vocabulary import ACTIONS, Extent

PAGE = 200


class RosterRowShape(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()
    email = serializers.CharField()
    state = serializers.CharField()
    keyholder = serializers.BooleanField()
    roles = serializers.ListField(child=serializers.CharField())
    groups = serializers.ListField(child=serializers.CharField())
    last_seen = serializers.DateTimeField(allow_null=True)


class RosterShape(serializers.Serializer):
    count = serializers.IntegerField()
    results = RosterRowShape(many=True)


class RosterView(GuardedView):
    doors = {"get": May("roster.see")}

    @extend_schema(
        responses=RosterShape,
        operation_id="roster",
        parameters=[OpenApiParameter(name, str) for name in ("search", "role", "group", "state")]
        + [OpenApiParameter(name, int) for name in ("limit", "offset")],
    )
    def get(self, request: Request) -> Response:
        """A page of accounts. Four queries, whatever is asked; roles come from the policy in memory."""
        asked = request.query_params
        holders = self.presence.holders
        found = _filtered(asked, holders)
        offset, limit = whole(asked.get("offset"), 0), min(whole(asked.get("limit"), PAGE), PAGE)
        page = list(found[offset : offset + limit])
        groups: dict[str, list[str]] = defaultdict(list)
        for account, name in Membership.objects.filter(account__in=page).values_list("account_id", "group__name"):
            groups[account].append(name)
        return Response(
            {
                "count": found.count(),
                "results": [
                    {
                        "id": a.id,
                        "name": a.name,
                        "email": a.email,
                        "state": a.state,
                        "keyholder": a.keyholder,
                        "roles": holders.roles_of(a.id),
                        "groups": sorted(groups[a.id]),
                        "last_seen": a.last_seen,
                    }
                    for a in page
                ],
            }
        )


def _filtered(asked: Any, holders: Holders) -> QuerySet[Account]:
    found = Account.objects.all()
    for word in asked.get("search", "").split():
        found = found.filter(Q(name__icontains=word) | Q(email__icontains=word))
    if role := asked.get("role"):
        found = found.filter(pk__in=holders.accounts_of(role))
    if group := asked.get("group"):
        found = found.filter(pk__in=holders.members.get(group, []))
    if state := asked.get("state"):
        found = found.filter(state=state)
    return found


class GroupShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    parent = serializers.CharField(allow_null=True)
    members = serializers.IntegerField()
    roles = serializers.ListField(child=serializers.CharField())


class GroupsView(GuardedView):
    doors = {"get": May("roster.see", "limits.set")}

    @extend_schema(responses=GroupShape(many=True), operation_id="groups", parameters=PAGED)
    def get(self, request: Request) -> Response:
        policy = self.presence.snapshot.policy
        holders = self.presence.holders
        given: dict[str, list[str]] = defaultdict(list)
        for a in policy.assignments.values():
            if a.to.kind == "group":
                given[a.to.id].append(a.role)
        return paged(
            request,
            [
                {
                    "key": g.key,
                    "name": g.name,
                    "parent": g.parent_id,
                    "members": len(holders.members.get(g.key, [])),
                    "roles": given[g.key],
                }
                for g in Group.objects.all()
            ],
        )


class BranchShape(serializers.Serializer):
    id = serializers.CharField()
    title = serializers.CharField()


class GivenShape(serializers.Serializer):
    """A role or one capability given to the account, directly or through a group."""

    id = serializers.CharField()
    role = serializers.CharField(allow_null=True)
    capability = serializers.CharField(allow_null=True)
    says = serializers.CharField(allow_null=True)
    group = serializers.CharField(allow_null=True)
    scope = ScopeShape()
    branches = BranchShape(many=True)
    starts = serializers.DateTimeField(allow_null=True)
    ends = serializers.DateTimeField(allow_null=True)
    active = serializers.BooleanField()
    staged = serializers.ChoiceField(choices=["", "new", "ending"])


class SumMarkShape(serializers.Serializer):
    role = serializers.CharField(allow_null=True)
    extent = serializers.IntegerField()
    baseline = serializers.BooleanField()
    barred = serializers.BooleanField()


class SumRowShape(serializers.Serializer):
    type = serializers.CharField()
    marks = serializers.DictField(child=SumMarkShape(many=True))


class AccountShape(serializers.Serializer):
    account = RosterRowShape()
    given = GivenShape(many=True)
    sum = SumRowShape(many=True)
    reach = serializers.DictField(child=BranchShape(many=True))


class AccountView(GuardedView):
    doors = {"get": May("roster.see")}

    @extend_schema(responses=AccountShape, operation_id="account")
    def get(self, request: Request, account: str) -> Response:
        """What an account is given and what it adds up to, what one has staged oneself included."""
        row = Account.objects.prefetch_related("groups").filter(pk=account).first()
        if row is None:
            raise NotFound("account")
        policy = self.presence.snapshot.policy
        proposed = staged_policy(self.presence.who or "", policy)
        at = self.presence.at
        holding = SubjectGrantsCache(proposed).of(account, at)
        reach = proposed.accounts[account].reach
        given = list(_given(account, policy, proposed))
        names = titles({b for g, _ in given for b in g.scope.branches or ()} | {b for bs in reach.values() for b in bs})
        return Response(
            {
                "account": {
                    "id": row.id,
                    "name": row.name,
                    "email": row.email,
                    "state": row.state,
                    "keyholder": row.keyholder,
                    "roles": Holders(proposed, at).roles_of(account),
                    "groups": [g.name for g in row.groups.all()],
                    "last_seen": row.last_seen,
                },
                "given": [_given_data(g, staged, names, g.period.active(at)) for g, staged in given],
                "sum": []
                if row.keyholder
                else list(_sum(holding.sources, self.presence.snapshot.catalogue.types.values())),
                "reach": {tree: _branches(branches, names) for tree, branches in reach.items()},
            }
        )


def _given(account: str, policy: Policy, proposed: Policy) -> Iterable[tuple[Assignment | DirectGrant, str]]:
    groups = policy.all_groups(policy.accounts[account])
    subjects = {Subject.account(account)} | {Subject.group(g) for g in groups}
    for id, assignment in (policy.assignments | dict(proposed.assignments)).items():  # type: ignore[operator]
        if assignment.to in subjects:
            new, gone = id not in policy.assignments, id not in proposed.assignments
            yield assignment, "new" if new else "ending" if gone else ""
    for grant in proposed.direct_grants.values():
        if grant.to in subjects:
            yield grant, ""


def _given_data(given: Assignment | DirectGrant, staged: str, names: dict[str, str], active: bool) -> dict[str, Any]:
    direct = isinstance(given, DirectGrant)
    return {
        "id": given.id,
        "role": None if direct else given.role,  # type: ignore[union-attr]
        "capability": capability_words(given.capability) if direct else None,  # type: ignore[union-attr]
        "says": given.says if direct else None,  # type: ignore[union-attr]
        "group": given.to.id if given.to.kind == "group" else None,
        "scope": write_scope(given.scope),
        "branches": _branches(given.scope.branches or (), names),
        "starts": given.period.starts,
        "ends": given.period.ends,
        "active": active,
        "staged": staged,
    }


def _branches(ids: Iterable[str], names: dict[str, str]) -> list[dict[str, str]]:
    return [{"id": id, "title": names.get(id, id)} for id in sorted(ids)]


def _sum(sources: tuple[GrantSource, ...], types: Iterable[ContentType]) -> Iterable[dict[str, Any]]:
    """For each type and action, the sources that give it, a longer one making shorter ones needless."""
    for type in types:
        if type.tree is None:
            continue
        marks = {action: list(_marks(sources, f"{type.key}.{action}")) for action in ACTIONS}
        if any(marks.values()):
            yield {"type": type.key, "marks": marks}


def _marks(sources: tuple[GrantSource, ...], capability: str) -> Iterable[dict[str, Any]]:
    answers = [(s, s.statements[capability]) for s in sources if capability in s.statements]
    barring = [s for s, answer in answers if answer.says == "barred"]
    if barring:
        yield {"role": barring[0].role, "extent": 0, "baseline": False, "barred": True}
        return
    best: dict[str | None, tuple[Extent, bool]] = {}
    for source, answer in answers:
        if gives(answer.says):
            extent, _ = best.get(source.role, (Extent.NONE, False))
            best[source.role] = (max(extent, answer.extent), source.kind == "baseline")
    beyond = {role: e for role, (e, baseline) in best.items() if not baseline}
    for role, (extent, baseline) in best.items():
        if not (baseline and any(e >= extent for e in beyond.values())):
            yield {"role": role, "extent": int(extent), "baseline": baseline, "barred": False}
