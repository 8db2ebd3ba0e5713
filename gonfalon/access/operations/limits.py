"""Limits on places, and rules of fields."""

from typing import Any

from rest_framework import serializers

from gonfalon.access.entries import FIELD_RULES, LIMITS
from gonfalon.access.operations.base import Data, OnCell, OnEntry, Reader, Subject, WithId, known, known_nodes, plain
from gonfalon.access.sight import Sight
from gonfalon.core import operations
from gonfalon.core.model import policy as core
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import ACTIONS, FIELD_MARKS, Effect


def known_actions(actions: list[str] | None, policy: Policy) -> list[str] | None:
    """What a limit may name. Raises ValidationError."""
    for action in actions or []:
        if action not in ACTIONS and action not in policy.placed:
            raise serializers.ValidationError(f"A limit cannot name the action “{action}”.")
    return actions


class _SetLimit(Reader):
    node = serializers.CharField()
    to = Subject()
    effect = serializers.ChoiceField(choices=[e.value for e in Effect])
    applies = serializers.ChoiceField(choices=["node", "beneath", "branch"])
    actions = serializers.ListField(child=serializers.CharField(), allow_null=True, allow_empty=False)

    def validate_node(self, node: str) -> str:
        return known_nodes([node], "node", self.sight)[0]

    def validate_to(self, to: Data) -> Data:
        return self.known_subject(to)

    def validate_actions(self, actions: list[str] | None) -> list[str] | None:
        return known_actions(actions, self.policy)


class _OneLimit(Reader):
    limit = serializers.CharField()

    def validate_limit(self, id: str) -> str:
        limit = self.policy.limits.get(id)
        out_of_sight = limit is not None and limit.node not in self.sight.nodes
        return known(id, () if out_of_sight else self.policy.limits, "limit")


class _ChangeLimit(_OneLimit):
    effect = serializers.ChoiceField(choices=[e.value for e in Effect], required=False)
    applies = serializers.ChoiceField(choices=["node", "beneath", "branch"], required=False)
    actions = serializers.ListField(child=serializers.CharField(), allow_null=True, allow_empty=False, required=False)

    def validate_actions(self, actions: list[str] | None) -> list[str] | None:
        return known_actions(actions, self.policy)


class _SetFieldRule(Reader):
    type = serializers.CharField()
    field = serializers.CharField()
    mode = serializers.ChoiceField(choices=["open", "author", "table"])
    table = serializers.DictField(
        child=serializers.ListField(child=serializers.ChoiceField(choices=FIELD_MARKS)), required=False
    )

    def validate(self, data: Data) -> Data:
        type = self.policy.types.get(data["type"])
        if type is None or data["field"] not in type.fields:
            raise serializers.ValidationError({"field": "There is no such field."})
        for role in data.get("table", {}):
            if role not in self.policy.roles:
                raise serializers.ValidationError({"table": f"There is no role “{role}”."})
        return data


class _OnLimits(OnEntry):
    entries, dropped_by = LIMITS, ("drop-limit", "limit")
    duty = "limits.set"

    def as_it_was(self, was: Any) -> Data:
        kept = {key: was[key] for key in ("id", "node", "to", "effect", "applies", "actions")}
        return {"kind": "set-limit", **kept}


class SetLimit(WithId, _OnLimits):
    reader = _SetLimit

    def operation(self, data: Data) -> operations.Operation:
        actions = data["actions"]
        return operations.SetLimit(
            core.Limit(
                data["id"],
                data["node"],
                core.Subject(**data["to"]),
                Effect(data["effect"]),
                data["applies"],
                None if actions is None else frozenset(actions),
            )
        )

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        subjects: Any = {"account": policy.accounts, "group": policy.groups, "role": policy.roles}[data["to"]["kind"]]
        return None if data["to"]["id"] in subjects else "whoever it narrows is no longer there"


class ChangeLimit(SetLimit):
    """A limit that narrows something else, or elsewhere; kept as the limit it becomes."""

    reader = _ChangeLimit

    def read(self, data: Data, policy: Policy, sight: Sight) -> Data:
        asked = super().read(data, policy, sight)
        changed = {key: asked[key] for key in ("effect", "applies", "actions") if key in asked}
        return self.as_it_was(plain(policy.limits[asked["limit"]])) | changed


class DropLimit(_OnLimits):
    reader = _OneLimit

    def operation(self, data: Data) -> operations.Operation:
        return operations.DropLimit(data["limit"])


class SetFieldRule(OnCell):
    entries, says = FIELD_RULES, "rule"
    duty = "limits.set"
    reader = _SetFieldRule

    def operation(self, data: Data) -> operations.SetFieldRule:
        marks = {role: frozenset(listed) for role, listed in (data.get("table") or {}).items()}
        rule = core.OPEN_FIELD if data["mode"] == "open" else core.FieldRule(data["mode"], marks)
        return operations.SetFieldRule(data["type"], data["field"], rule)

    def said(self, data: Data) -> core.FieldRule | None:
        rule = self.operation(data).rule
        return None if rule == core.OPEN_FIELD else rule

    def heard(self, data: Data) -> Data:
        return data

    def reverse(self, data: Data, was: Any) -> Data:
        return {**data, "mode": was["mode"], "table": was["table"]}
