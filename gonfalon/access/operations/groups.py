"""Where a group sits, and bringing one to its end (§1)."""

from collections.abc import Sequence
from typing import Any

from rest_framework import serializers

from gonfalon.access.entries import GROUPS
from gonfalon.access.operations.base import Data, OnEntry, Reader, known
from gonfalon.access.sight import Sight
from gonfalon.accounts.models import Group
from gonfalon.core import operations
from gonfalon.core.model import policy as core
from gonfalon.core.model.policy import Policy
from gonfalon.ledger.models import By


class _Group(Reader):
    group = serializers.CharField()

    def validate_group(self, key: str) -> str:
        return known(key, self.policy.groups, "group")


class _MoveGroup(_Group):
    parent = serializers.CharField(allow_null=True)

    def validate_parent(self, key: str | None) -> str | None:
        return key and known(key, self.policy.groups, "group")

    def validate(self, data: Data) -> Data:
        if circle := circle_of(data["group"], data["parent"], self.policy):
            names = dict(Group.objects.filter(pk__in=circle).values_list("key", "name"))
            steps = " in ".join(names.get(key, key) for key in circle)
            raise serializers.ValidationError({"parent": f"The group would be inside itself: {steps}."})
        return data


class _DropGroup(_Group):
    def validate_group(self, key: str) -> str:
        super().validate_group(key)
        if named := group_named_by(self.policy, key):
            raise serializers.ValidationError(f"It cannot be ended yet: {named}.")
        return key


def circle_of(group: str, parent: str | None, policy: Policy) -> list[str]:
    """The groups that would lie in each other, from `group` to itself again; none where nothing does."""
    if parent is None:
        return []
    chain = policy.group_chain(parent)
    return [group, *chain[: chain.index(group) + 1]] if group in chain else []


def group_named_by(policy: Policy, key: str) -> str | None:
    """What a group still has or is named by, in words; None when nothing."""
    here = core.Subject.group(key)
    if any(key in account.groups for account in policy.accounts.values()):
        return "somebody is still in it"
    if any(group.parent == key for group in policy.groups.values()):
        return "another group is still in it"
    given: list[core.Assignment | core.DirectGrant] = [*policy.assignments.values(), *policy.direct_grants.values()]
    if any(one.to == here for one in given):
        return "something is still given to it"
    if any(d.to == here or d.receivers == key for d in policy.delegations.values()):
        return "a delegation still names it"
    if any(limit.to == here for limit in policy.limits.values()):
        return "a limit still names it"
    return None


class _OnGroups(OnEntry):
    entries, dropped_by, key = GROUPS, ("drop-group", "group"), "group"
    duty = "roles.assign"


class MoveGroup(_OnGroups):
    reader = _MoveGroup

    def operation(self, data: Data) -> operations.PutGroup:
        return operations.PutGroup(core.Group(data["group"], data["parent"]))

    def as_it_was(self, was: Any) -> Data:
        return {"kind": "move-group", "group": was["key"], "parent": was["parent"]}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        if data["group"] not in policy.groups or (data["parent"] and data["parent"] not in policy.groups):
            return "the group, or the one above it, is no longer there"
        return "it would be inside itself by now" if circle_of(data["group"], data["parent"], policy) else None


class DropGroup(_OnGroups):
    reader = _DropGroup

    def operation(self, data: Data) -> operations.DropGroup:
        return operations.DropGroup(data["group"])

    def as_it_was(self, was: Any) -> Data:
        name = Group.objects.get(pk=was["key"]).name
        return {"kind": "put-group", "group": was["key"], "name": name, "parent": was["parent"]}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return group_named_by(policy, data["group"])


class PutGroup(_OnGroups):
    """A group is put back as it was; only made to take back its end."""

    def read(self, data: Data, policy: Policy, sight: Sight) -> Data:
        raise serializers.ValidationError({"kind": "A group is made under Groups, not staged."})

    def operation(self, data: Data) -> operations.PutGroup:
        return operations.PutGroup(core.Group(data["group"], data["parent"]))

    def write_all(self, every: Sequence[Data], by: By) -> None:
        Group.objects.bulk_create(Group(key=data["group"], name=data["name"]) for data in every)
        super().write_all(every, by)

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        above = data["parent"]
        return None if above is None or above in policy.groups else "the group above it is gone"
