"""Letting somebody hand out roles, and ending that (§9)."""

from typing import Any

from rest_framework import serializers

from gonfalon.access.entries import DELEGATIONS, read_scope
from gonfalon.access.operations.assignments import Scope
from gonfalon.access.operations.base import Data, OnEntry, Reader, Subject, WithId, known, read_time, scope_as_it_was
from gonfalon.core import operations
from gonfalon.core.model import policy as core
from gonfalon.core.model.policy import Policy


class _PutDelegation(Reader):
    delegation = serializers.CharField(required=False, help_text="The one that is to say something else.")
    to = Subject()
    roles = serializers.ListField(child=serializers.CharField(), allow_empty=False)
    scope = Scope(required=False)
    receivers = serializers.CharField(allow_null=True, required=False)
    ends = serializers.DateTimeField(allow_null=True, required=False)

    def validate_delegation(self, id: str) -> str:
        return known(id, self.policy.delegations, "delegation")

    def validate_to(self, to: Data) -> Data:
        return self.known_subject(to)

    def validate_roles(self, keys: list[str]) -> list[str]:
        for key in keys:
            if known(key, self.policy.roles, "role") in self.policy.baseline:
                raise serializers.ValidationError("Everyone has this role already; it is not given to anyone.")
        return sorted(set(keys))

    def validate_receivers(self, key: str | None) -> str | None:
        return key and known(key, self.policy.groups, "group")


class _DropDelegation(Reader):
    delegation = serializers.CharField()

    def validate_delegation(self, id: str) -> str:
        found = self.policy.delegations.get(id)
        out_of_sight = found is not None and found.to.kind == "account" and found.to.id not in self.sight.people
        return known(id, () if out_of_sight else self.policy.delegations, "delegation")


class _OnDelegations(OnEntry):
    entries, dropped_by = DELEGATIONS, ("drop-delegation", "delegation")
    duty = "roles.assign"

    def as_it_was(self, was: Any) -> Data:
        kept = {key: was[key] for key in ("id", "to", "roles", "receivers", "ends")}
        return {"kind": "put-delegation", **kept, "scope": scope_as_it_was(was)}


class PutDelegation(WithId, _OnDelegations):
    reader = _PutDelegation

    def complete(self, data: Data) -> Data:
        id = data.pop("delegation", None)
        return {**data, "id": id} if id else super().complete(data)

    def operation(self, data: Data) -> operations.Operation:
        return operations.PutDelegation(
            core.Delegation(
                data["id"],
                core.Subject(**data["to"]),
                frozenset(data["roles"]),
                read_scope(data.get("scope") or {}),
                data.get("receivers"),
                read_time(data.get("ends")),
            )
        )

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        subjects: Any = {"account": policy.accounts, "group": policy.groups, "role": policy.roles}[data["to"]["kind"]]
        gone = data["to"]["id"] not in subjects or not policy.roles.keys() >= set(data["roles"])
        if gone or (data.get("receivers") and data["receivers"] not in policy.groups):
            return "a role, a group or an account it names is no longer there"
        return None


class DropDelegation(_OnDelegations):
    reader = _DropDelegation

    def operation(self, data: Data) -> operations.Operation:
        return operations.DropDelegation(data["delegation"])
