"""Groups: the tree of them, one with what it is given and who is in it, making, renaming and ending."""

from collections import Counter, defaultdict
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.change_sets import staged_policy
from gonfalon.access.groups import GroupNameTaken, ending, make_group, rename_group
from gonfalon.access.holders import Holders
from gonfalon.accounts.models import Group
from gonfalon.accounts.names import names_of
from gonfalon.api.assign.given import GivenShape, Telling, given_to
from gonfalon.api.changes.change_set import ChangeSetShape, change_set_data, stage_all
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, require
from gonfalon.api.names import NameField
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import ChangedMeanwhile, Invalid, NotFound
from gonfalon.core.model.policy import Policy, Subject
from gonfalon.inputs import Input
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY, RowLock, locked


class GroupShape(serializers.Serializer):
    """A group; who is in it and what it is given is told to whoever sees the roster."""

    key = serializers.CharField()
    name = serializers.CharField()
    parent = serializers.CharField(allow_null=True)
    members = serializers.IntegerField(allow_null=True, help_text="Those of groups beneath it included.")
    direct = serializers.IntegerField(allow_null=True, help_text="Those in the group itself.")
    roles = serializers.ListField(child=serializers.CharField(), allow_null=True)


class StagedMemberShape(serializers.Serializer):
    """Somebody whom one has staged to come into the group, or to leave it."""

    id = serializers.CharField()
    name = serializers.CharField()
    member = serializers.BooleanField()


class GroupPageShape(serializers.Serializer):
    group = GroupShape()
    staged = StagedMemberShape(many=True)
    parent = serializers.CharField(allow_null=True, help_text="With what is staged.")
    above = serializers.ListField(child=serializers.CharField(), help_text="The groups above it, the nearest first.")
    given = GivenShape(many=True)


_NAMELESS = {"blank": "A group needs a name.", "required": "A group needs a name."}


class GroupInput(Input):
    name = NameField(max_length=120, error_messages=_NAMELESS)
    parent = serializers.CharField(required=False, allow_null=True)

    def validate_parent(self, key: str | None) -> str | None:
        if key is not None and not Group.objects.filter(pk=key).exists():
            raise serializers.ValidationError("There is no such group.")
        return key


class GroupChangeInput(Input):
    name = NameField(max_length=120, error_messages=_NAMELESS)


class GroupsView(GuardedView):
    doors = {"get": May("roster.see", "limits.set", "roles.assign"), "post": May("roles.assign")}
    locks = {"post": (POLICY,)}

    @extend_schema(responses=GroupShape(many=True), operation_id="groups", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """All groups by name. One query."""
        return paged(request, groups_data(list(Group.objects.all()), self.viewpoint))

    @extend_schema(request=GroupInput, responses={201: GroupShape}, operation_id="make_group")
    def post(self, request: Request) -> Response:
        """Make a group that nobody is in yet."""
        given = GroupInput(data=request.data)
        given.is_valid(raise_exception=True)
        name = given.validated_data["name"]
        try:
            group = make_group(name, self.session.by, parent=given.validated_data.get("parent"))
        except GroupNameTaken:
            raise _taken(name) from None
        return Response(groups_data([group], self.viewpoint)[0], status=201)


class GroupView(GuardedView):
    doors = {"get": May("roster.see"), "patch": May("roles.assign")}
    locks = {"patch": (POLICY, RowLock("accounts.Group", "group"))}

    @extend_schema(responses=GroupPageShape, operation_id="group", parameters=[ETAG])
    def get(self, request: Request, group: str) -> Response:
        """What a group is given, directly and by the groups above it; what one has staged oneself included."""
        row = _known(group)
        policy = self.viewpoint.snapshot.policy
        proposed = staged_policy(self.viewpoint.account or "", policy)
        if group not in policy.groups:
            raise NotFound("group")
        subjects = {Subject.group(key) for p in (policy, proposed) if group in p.groups for key in p.group_chain(group)}
        given = list(given_to(subjects, policy, proposed))
        telling = Telling(self.viewpoint, given)
        standing: Policy = proposed if group in proposed.groups else policy
        data = {
            "group": groups_data([row], self.viewpoint)[0],
            "staged": _staged_members(group, policy, proposed),
            "parent": standing.groups[group].parent,
            "above": list(standing.group_chain(group)[1:]),
            "given": [_directly(group, telling.data(one)) for one in given],
        }
        return Response(data, headers={"ETag": etag(row.version)})

    @extend_schema(request=GroupChangeInput, responses=GroupShape, operation_id="rename_group", parameters=TAGGED)
    def patch(self, request: Request, group: str) -> Response:
        """Another name. It decides nothing, so it is saved at once."""
        expected = expected_version(request)
        row = locked(Group.objects).filter(pk=group).first() or _known(group)
        if expected != etag(row.version):
            raise ChangedMeanwhile(f"{row.name} was changed while you were editing it.", {"name": row.name})
        given = GroupChangeInput(data=request.data)
        given.is_valid(raise_exception=True)
        try:
            rename_group(row, given.validated_data["name"], self.session.by)
        except GroupNameTaken:
            raise _taken(given.validated_data["name"]) from None
        return Response(groups_data([row], self.viewpoint)[0], headers={"ETag": etag(row.version)})


def _staged_members(group: str, policy: Policy, proposed: Policy) -> list[dict[str, Any]]:
    """Whose membership of a group would change, by name. A query where there are any."""
    turned = {
        id: group in account.groups
        for id, account in proposed.accounts.items()
        if account is not policy.accounts.get(id)
        and (group in account.groups) != (id in policy.accounts and group in policy.accounts[id].groups)
    }
    names = names_of(turned) if turned else {}
    return [{"id": id, "name": names[id], "member": member} for id, member in turned.items()]


class GroupEndingView(GuardedView):
    doors = {"post": May("roles.assign")}
    locks = {"post": (POLICY.shared,)}

    @extend_schema(request=None, responses=ChangeSetShape, operation_id="stage_group_ending")
    def post(self, request: Request, group: str) -> Response:
        """Stage all that ends a group."""
        require(self.viewpoint, "roster.see")  # what is staged names its members
        policy = staged_policy(self.viewpoint.account or "", self.viewpoint.snapshot.policy)
        if group not in policy.groups:
            raise NotFound("group")
        stage_all(self.viewpoint, ending(group, policy), self.viewpoint.sight)
        return Response(change_set_data(self.viewpoint))


def groups_data(rows: list[Group], viewpoint: Viewpoint) -> list[dict[str, Any]]:
    """Groups as they are told; who is in them, to whoever sees the roster. No query."""
    people = viewpoint.sight.roster
    policy, holders = viewpoint.snapshot.policy, viewpoint.holders
    given: dict[str, dict[str, None]] = defaultdict(dict)
    for a in policy.assignments.values():
        if a.to.kind == "group":
            given[a.to.id][a.role] = None
    direct = Counter(key for account in policy.accounts.values() for key in account.groups)
    return [
        {
            "key": row.key,
            "name": row.name,
            "parent": row.parent_id,
            "members": _members(holders, row.key) if people else None,
            "direct": direct[row.key] if people else None,
            "roles": list(given[row.key]) if people else None,
        }
        for row in rows
    ]


def _directly(group: str, told: dict[str, Any]) -> dict[str, Any]:
    """Something given, as told on the page of a group: through another one, or not."""
    return {**told, "group": None if told["group"] == group else told["group"]}


def _members(holders: Holders, key: str) -> int:
    return len(holders.members.get(key, ()))


def _known(key: str) -> Group:
    row = Group.objects.filter(pk=key).first()
    if row is None:
        raise NotFound("group")
    return row


def _taken(name: str) -> Invalid:
    return Invalid({"/name": f"Another group is called {name} already."})
