"""What an account is confined to, which groups it is in, and whether it is active (§1)."""

from collections.abc import Sequence
from typing import Any

from rest_framework import serializers

from gonfalon.access import models as rows
from gonfalon.access.operations.base import Data, OperationKind, Reader, known, known_nodes
from gonfalon.accounts.models import Account, Membership
from gonfalon.accounts.sessions import end_sessions
from gonfalon.accounts.tickets import void
from gonfalon.core import operations
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import TREES
from gonfalon.ledger.models import By

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
    state = serializers.ChoiceField(choices=["active", "disabled"])

    def validate(self, data: Data) -> Data:
        if data["state"] == "disabled" and last_keyholder(data["account"], self.policy):
            raise serializers.ValidationError({"account": LAST_KEYHOLDER})
        if data["state"] == "active" and not Account.objects.get(pk=data["account"]).has_usable_password():
            return {**data, "state": "invited"}
        return data


def last_keyholder(account: str, policy: Policy) -> bool:
    """Whether an account is the one keyholder left who is active."""
    return [id for id, a in policy.accounts.items() if a.keyholder and a.state == "active"] == [account]


class SetReach(OperationKind):
    duty = "roles.assign"
    reader = _SetReach

    def operation(self, data: Data) -> operations.Operation:
        branches = data["branches"]
        return operations.SetReach(data["account"], data["tree"], None if branches is None else frozenset(branches))

    def write(self, data: Data, by: By) -> None:
        tree = {"account_id": data["account"], "tree": data["tree"]}
        if data["branches"] is None:
            rows.Reach.objects.filter(**tree).delete()
        else:
            rows.Reach.objects.update_or_create(**tree, defaults={"branches": data["branches"]})

    def reverse(self, data: Data, was: Any) -> Data:
        return {**data, "branches": was}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return _gone(data, policy)


class SetMember(OperationKind):
    duty = "roles.assign"
    reader = _SetMember

    def operation(self, data: Data) -> operations.Operation:
        return operations.SetMember(data["account"], data["group"], data["member"])

    def write_all(self, every: Sequence[Data], by: By) -> None:
        joining = (data for data in every if data["member"])
        Membership.objects.bulk_create(
            (Membership(account_id=data["account"], group_id=data["group"]) for data in joining), ignore_conflicts=True
        )
        leaving: dict[str, list[str]] = {}
        for data in every:
            if not data["member"]:
                leaving.setdefault(data["group"], []).append(data["account"])
        for group, accounts in leaving.items():
            Membership.objects.filter(group=group, account__in=accounts).delete()

    def reverse(self, data: Data, was: Any) -> Data:
        return {**data, "member": was is not None}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return _gone(data, policy) if data["group"] in policy.groups else "the group is no longer there"


class SetState(OperationKind):
    """Disabling and enabling. Whoever is disabled is signed out everywhere, and stays so when enabled again."""

    duty = "accounts.disable"
    reader = _SetState

    def operation(self, data: Data) -> operations.Operation:
        return operations.SetState(data["account"], data["state"])

    def write_all(self, every: Sequence[Data], by: By) -> None:
        for state in {data["state"] for data in every}:
            accounts = [data["account"] for data in every if data["state"] == state]
            Account.objects.filter(pk__in=accounts).update(state=state)
            if state == "disabled":
                end_sessions(*accounts)
                void(*accounts)

    def reverse(self, data: Data, was: Any) -> Data:
        return {**data, "state": was}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        if data["state"] == "disabled" and last_keyholder(data["account"], policy):
            return "it is the last active keyholder"
        return _gone(data, policy)


def _gone(data: Data, policy: Policy) -> str | None:
    return None if data["account"] in policy.accounts else "the account is no longer there"
