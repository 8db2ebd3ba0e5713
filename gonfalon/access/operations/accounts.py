"""What an account is confined to, which groups it is in, and whether it is active (§1)."""

from typing import Any

from rest_framework import serializers

from gonfalon.access.entries import MEMBERSHIPS, REACHES, STATES
from gonfalon.access.operations.base import Data, OnCell, Reader, known, known_nodes
from gonfalon.accounts.models import Account
from gonfalon.core import operations
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import TREES

LAST_KEYHOLDER = "This is the last active keyholder. Make somebody else one first."


class _OfAccount(Reader):
    account = serializers.CharField()

    def validate_account(self, id: str) -> str:
        return known(id, self.policy.accounts if id in self.sight.people else (), "account")


class _SetReach(_OfAccount):
    tree = serializers.ChoiceField(choices=TREES)
    branches = serializers.ListField(child=serializers.CharField(), allow_null=True)

    def validate_branches(self, branches: list[str] | None) -> list[str] | None:
        return branches if branches is None else sorted(set(known_nodes(branches, "branch", self.sight)))


class _SetMember(_OfAccount):
    group = serializers.CharField()
    member = serializers.BooleanField()

    def validate_group(self, key: str) -> str:
        return known(key, self.policy.groups, "group")


class _SetState(_OfAccount):
    state = serializers.ChoiceField(choices=["active", "invited", "disabled"])
    """To enable somebody who never chose a password is to invite them again: the one comes to the other."""

    def validate(self, data: Data) -> Data:
        if data["state"] == "disabled" and last_keyholder(data["account"], self.policy):
            raise serializers.ValidationError({"account": LAST_KEYHOLDER})
        if data["state"] != "disabled":
            active = self.policy.accounts[data["account"]].state == "active"
            chose = active or Account.objects.get(pk=data["account"]).has_usable_password()
            return {**data, "state": "active" if chose else "invited"}
        return data


def last_keyholder(account: str, policy: Policy) -> bool:
    """Whether an account is the one keyholder left who is active."""
    return [id for id, a in policy.accounts.items() if a.keyholder and a.state == "active"] == [account]


class _OfAnAccount(OnCell):
    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return None if data["account"] in policy.accounts else "the account is no longer there"


class SetReach(_OfAnAccount):
    entries, says = REACHES, "branches"
    duty = "roles.assign"
    reader = _SetReach

    def operation(self, data: Data) -> operations.SetReach:
        branches = data["branches"]
        return operations.SetReach(data["account"], data["tree"], None if branches is None else frozenset(branches))


class SetMember(_OfAnAccount):
    entries, says = MEMBERSHIPS, "member"
    duty = "roles.assign"
    reader = _SetMember

    def operation(self, data: Data) -> operations.SetMember:
        return operations.SetMember(data["account"], data["group"], data["member"])

    def said(self, data: Data) -> str | None:
        return "member" if data["member"] else None

    def reverse(self, data: Data, was: Any) -> Data:
        return {**data, "member": was is not None}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return super().obstacle(data, policy) if data["group"] in policy.groups else "the group is no longer there"


class SetState(_OfAnAccount):
    entries, says = STATES, "state"
    duty = "accounts.disable"
    reader = _SetState

    def operation(self, data: Data) -> operations.SetState:
        return operations.SetState(data["account"], data["state"])

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        if data["state"] == "disabled" and last_keyholder(data["account"], policy):
            return "it is the last active keyholder"
        return super().obstacle(data, policy)
