"""Giving roles and taking them away."""

from typing import Any

from rest_framework import serializers

from gonfalon.access import models as rows
from gonfalon.access.operations.base import Data, OperationKind, Reader, Subject, WithId, known, known_nodes, read_time
from gonfalon.access.snapshot import scope as read_scope
from gonfalon.core import operations
from gonfalon.core.model import policy as core
from gonfalon.core.model.policy import Policy
from gonfalon.ledger.models import By


class _Scope(serializers.Serializer):
    sites = serializers.ListField(child=serializers.CharField(), required=False)
    branches = serializers.ListField(child=serializers.CharField(), required=False)
    types = serializers.ListField(child=serializers.CharField(), required=False)
    topics = serializers.ListField(child=serializers.CharField(), required=False)

    def validate_branches(self, branches: list[str]) -> list[str]:
        return known_nodes(branches, "branch", self.context["in_sight"])

    def validate_types(self, types: list[str]) -> list[str]:
        return [known(type, self.context["policy"].types, "type") for type in types]


class _GiveRole(Reader):
    role = serializers.CharField()
    to = Subject()
    scope = _Scope(required=False)
    starts = serializers.DateTimeField(allow_null=True, required=False)
    ends = serializers.DateTimeField(allow_null=True, required=False)

    def validate_role(self, key: str) -> str:
        if known(key, self.policy.roles, "role") in self.policy.baseline:
            raise serializers.ValidationError("Everyone has this role already; it is not given to anyone.")
        return key

    def validate_to(self, to: Data) -> Data:
        if to["kind"] == "role":
            raise serializers.ValidationError("A role is given to an account or a group.")
        receivers: Any = self.policy.accounts if to["kind"] == "account" else self.policy.groups
        known(to["id"], receivers, to["kind"])
        return to

    def validate(self, data: Data) -> Data:
        starts, ends = data.get("starts"), data.get("ends")
        if starts and ends and starts >= ends:
            raise serializers.ValidationError({"ends": "This is not after the beginning."})
        return data


class _TakeRole(Reader):
    assignment = serializers.CharField()

    def validate_assignment(self, id: str) -> str:
        return known(id, self.policy.assignments, "assignment")


class GiveRole(WithId):
    duty = "roles.assign"
    reader = _GiveRole

    def operation(self, data: Data) -> operations.Operation:
        return operations.GiveRole(
            core.Assignment(
                data["id"],
                data["role"],
                core.Subject(**data["to"]),
                read_scope(data.get("scope") or {}),
                core.Period(read_time(data.get("starts")), read_time(data.get("ends"))),
            )
        )

    def write(self, data: Data, by: By) -> None:
        to = data["to"]
        rows.Assignment.objects.create(
            id=data["id"],
            role_id=data["role"],
            account_id=to["id"] if to["kind"] == "account" else None,
            group_id=to["id"] if to["kind"] == "group" else None,
            scope=data.get("scope") or {},
            starts=read_time(data.get("starts")),
            ends=read_time(data.get("ends")),
            given_by=by.actor,
        )

    def reverse(self, data: Data, was: Any) -> Data:
        return {"kind": "take-role", "assignment": data["id"]}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        receivers: Any = policy.accounts if data["to"]["kind"] == "account" else policy.groups
        if data["role"] not in policy.roles or data["to"]["id"] not in receivers:
            return "the role, or whoever held it, is no longer there"
        return None


class TakeRole(OperationKind):
    duty = "roles.assign"
    reader = _TakeRole

    def operation(self, data: Data) -> operations.Operation:
        return operations.TakeRole(data["assignment"])

    def write(self, data: Data, by: By) -> None:
        rows.Assignment.objects.filter(pk=data["assignment"]).delete()

    def reverse(self, data: Data, was: Any) -> Data:
        scope = {name: values for name, values in was["scope"].items() if values is not None}
        return {
            "kind": "give-role",
            "id": data["assignment"],
            "role": was["role"],
            "to": was["to"],
            "scope": scope,
            "starts": was["period"]["starts"],
            "ends": was["period"]["ends"],
        }
