"""Operations of a change set: checked when staged, told in words, written to rows when applied.

    kind = KINDS["set-answer"]
    data = kind.read({"role": "tenant", "capability": "event.edit", "says": "team"}, policy)
    kind.operation(data).apply(policy)     # in memory
    kind.write(data, by)                   # in rows, inside the caller's transaction

Both must come to the same policy; tests/api/test_change_sets.py holds them beside each other.
"""

from dataclasses import asdict
from datetime import datetime
from typing import Any

from django.utils.dateparse import parse_datetime
from rest_framework import serializers

from gonfalon.access import models as rows
from gonfalon.access.catalogue import TYPES, kind_of
from gonfalon.access.names import titles
from gonfalon.access.snapshot import field_rule
from gonfalon.access.snapshot import scope as read_scope
from gonfalon.core import changes
from gonfalon.core import policy as core
from gonfalon.core.policy import Policy
from gonfalon.core.vocabulary import ACTIONS, SAYS, Effect, Kind
from gonfalon.ledger.models import By
from gonfalon.moment import new_id

Data = dict[str, Any]

FIELD_MARKS = ("see-own", "see-all", "change-own", "change-all", "fill")


def _known(value: str, known: Any, what: str) -> str:
    if value not in known:
        raise serializers.ValidationError(f"There is no {what} “{value}”.")
    return value


class _Reader(serializers.Serializer):
    """Reads and checks one operation against the policy it is for."""

    @property
    def policy(self) -> Policy:
        return self.context["policy"]

    def validate_role(self, key: str) -> str:
        return _known(key, self.policy.roles, "role")


class _Scope(serializers.Serializer):
    sites = serializers.ListField(child=serializers.CharField(), required=False)
    branches = serializers.ListField(child=serializers.CharField(), required=False)
    types = serializers.ListField(child=serializers.CharField(), required=False)
    topics = serializers.ListField(child=serializers.CharField(), required=False)

    def validate_branches(self, branches: list[str]) -> list[str]:
        found = titles(branches)
        for branch in branches:
            _known(branch, found, "branch")
        return branches

    def validate_types(self, types: list[str]) -> list[str]:
        return [_known(type, TYPES, "type") for type in types]


class _Subject(serializers.Serializer):
    kind = serializers.ChoiceField(choices=["account", "group", "role"])
    id = serializers.CharField()


class _SetAnswer(_Reader):
    role = serializers.CharField()
    capability = serializers.CharField()
    says = serializers.CharField(allow_null=True)

    def validate(self, data: Data) -> Data:
        kind = kind_of(data["capability"])
        if kind is None:
            raise serializers.ValidationError({"capability": f"There is no capability “{data['capability']}”."})
        if data["says"] is not None and data["says"] not in SAYS[kind]:
            raise serializers.ValidationError({"says": f"Say one of: {', '.join(SAYS[kind])}."})
        return data


class _GiveRole(_Reader):
    role = serializers.CharField()
    to = _Subject()
    scope = _Scope(required=False)
    starts = serializers.DateTimeField(allow_null=True, required=False)
    ends = serializers.DateTimeField(allow_null=True, required=False)

    def validate_role(self, key: str) -> str:
        if _known(key, self.policy.roles, "role") in self.policy.baseline:
            raise serializers.ValidationError("Everyone has this role already; it is not given to anyone.")
        return key

    def validate_to(self, to: Data) -> Data:
        if to["kind"] == "role":
            raise serializers.ValidationError("A role is given to an account or a group.")
        known = self.policy.accounts if to["kind"] == "account" else self.policy.groups
        _known(to["id"], known, to["kind"])
        return to

    def validate(self, data: Data) -> Data:
        starts, ends = data.get("starts"), data.get("ends")
        if starts and ends and starts >= ends:
            raise serializers.ValidationError({"ends": "This is not after the beginning."})
        return data


class _TakeRole(_Reader):
    assignment = serializers.CharField()

    def validate_assignment(self, id: str) -> str:
        return _known(id, self.policy.assignments, "assignment")


class _SetLimit(_Reader):
    node = serializers.CharField()
    to = _Subject()
    effect = serializers.ChoiceField(choices=[e.value for e in Effect])
    applies = serializers.ChoiceField(choices=["node", "beneath", "branch"])
    actions = serializers.ListField(child=serializers.CharField(), allow_null=True, allow_empty=False)

    def validate_node(self, node: str) -> str:
        return _known(node, titles([node]), "node")

    def validate_to(self, to: Data) -> Data:
        known: Any = {
            "account": self.policy.accounts,
            "group": self.policy.groups,
            "role": self.policy.roles,
        }[to["kind"]]
        _known(to["id"], known, to["kind"])
        return to

    def validate_actions(self, actions: list[str] | None) -> list[str] | None:
        for action in actions or []:
            if action not in ACTIONS and self.policy.capabilities.get(action) is not Kind.PLACED:
                raise serializers.ValidationError(f"A limit cannot name the action “{action}”.")
        return actions


class _DropLimit(_Reader):
    limit = serializers.CharField()

    def validate_limit(self, id: str) -> str:
        return _known(id, self.policy.limits, "limit")


class _SetFieldRule(_Reader):
    type = serializers.CharField()
    field = serializers.CharField()
    mode = serializers.ChoiceField(choices=["open", "author", "table"])
    table = serializers.DictField(
        child=serializers.ListField(child=serializers.ChoiceField(choices=FIELD_MARKS)), required=False
    )

    def validate(self, data: Data) -> Data:
        known = self.policy.types.get(data["type"])
        if known is None or data["field"] not in known.fields:
            raise serializers.ValidationError({"field": "There is no such field."})
        for role in data.get("table", {}):
            if role not in self.policy.roles:
                raise serializers.ValidationError({"table": f"There is no role “{role}”."})
        return data


class OperationKind:
    """One kind of operation. `duty` is the capability whoever stages or applies it must have."""

    duty: str
    reader: type[_Reader]

    def read(self, data: Data, policy: Policy) -> Data:
        """The operation's data, checked and complete. Raises ValidationError naming the field."""
        reader = self.reader(data=data, context={"policy": policy})
        reader.is_valid(raise_exception=True)
        return {"kind": data["kind"], **self.complete(_jsonable(reader.validated_data))}

    def complete(self, data: Data) -> Data:
        return dict(data)

    def operation(self, data: Data) -> changes.Operation:
        raise NotImplementedError

    def write(self, data: Data, by: By) -> None:
        raise NotImplementedError


class SetAnswer(OperationKind):
    duty = "roles.define"
    reader = _SetAnswer

    def operation(self, data: Data) -> changes.Operation:
        return changes.SetAnswer(data["role"], data["capability"], data["says"])

    def write(self, data: Data, by: By) -> None:
        cell = {"role_id": data["role"], "capability": data["capability"]}
        if data["says"] is None:
            rows.Answer.objects.filter(**cell).delete()
        else:
            rows.Answer.objects.update_or_create(**cell, defaults={"says": data["says"]})


class _WithId(OperationKind):
    def complete(self, data: Data) -> Data:
        return {**data, "id": new_id()}


class GiveRole(_WithId):
    duty = "roles.assign"
    reader = _GiveRole

    def operation(self, data: Data) -> changes.Operation:
        return changes.GiveRole(
            core.Assignment(
                data["id"],
                data["role"],
                core.Subject(**data["to"]),
                read_scope(data.get("scope") or {}),
                core.Period(_time(data.get("starts")), _time(data.get("ends"))),
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
            starts=_time(data.get("starts")),
            ends=_time(data.get("ends")),
            given_by=by.actor,
        )


class TakeRole(OperationKind):
    duty = "roles.assign"
    reader = _TakeRole

    def operation(self, data: Data) -> changes.Operation:
        return changes.TakeRole(data["assignment"])

    def write(self, data: Data, by: By) -> None:
        rows.Assignment.objects.filter(pk=data["assignment"]).delete()


class SetLimit(_WithId):
    duty = "limits.set"
    reader = _SetLimit

    def operation(self, data: Data) -> changes.Operation:
        actions = data["actions"]
        return changes.SetLimit(
            core.Limit(
                data["id"],
                data["node"],
                core.Subject(**data["to"]),
                Effect(data["effect"]),
                data["applies"],
                None if actions is None else frozenset(actions),
            )
        )

    def write(self, data: Data, by: By) -> None:
        rows.Limit.objects.create(
            id=data["id"],
            node=data["node"],
            subject_kind=data["to"]["kind"],
            subject_id=data["to"]["id"],
            effect=data["effect"],
            applies=data["applies"],
            actions=data["actions"],
            set_by=by.actor,
        )


class DropLimit(OperationKind):
    duty = "limits.set"
    reader = _DropLimit

    def operation(self, data: Data) -> changes.Operation:
        return changes.DropLimit(data["limit"])

    def write(self, data: Data, by: By) -> None:
        rows.Limit.objects.filter(pk=data["limit"]).delete()


class SetFieldRule(OperationKind):
    duty = "limits.set"
    reader = _SetFieldRule

    def operation(self, data: Data) -> changes.Operation:
        return changes.SetFieldRule(data["type"], data["field"], _rule(data))

    def write(self, data: Data, by: By) -> None:
        cell = {"type": data["type"], "field": data["field"]}
        if data["mode"] == "open":
            rows.FieldRule.objects.filter(**cell).delete()
        else:
            rows.FieldRule.objects.update_or_create(
                **cell, defaults={"mode": data["mode"], "table": data.get("table") or {}}
            )


KINDS: dict[str, OperationKind] = {
    "set-answer": SetAnswer(),
    "give-role": GiveRole(),
    "take-role": TakeRole(),
    "set-limit": SetLimit(),
    "drop-limit": DropLimit(),
    "set-field-rule": SetFieldRule(),
}


def kind_named(data: Data) -> OperationKind:
    """The kind an operation's data names. Raises ValidationError."""
    kind = KINDS.get(data.get("kind", ""))
    if kind is None:
        raise serializers.ValidationError({"kind": f"Say one of: {', '.join(KINDS)}."})
    return kind


def operation(data: Data) -> changes.Operation:
    """A staged operation's data as the core's operation."""
    return KINDS[data["kind"]].operation(data)


def plain(standing: Any) -> Any:
    """How a part stands, as JSON, for keeping and comparing."""
    if standing is None or isinstance(standing, str):
        return standing
    return _jsonable(asdict(standing))


def _jsonable(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: _jsonable(inner) for key, inner in value.items()}
    if isinstance(value, frozenset | set | tuple | list):
        return sorted(_jsonable(inner) for inner in value)
    return value.isoformat() if isinstance(value, datetime) else value


def _rule(data: Data) -> core.FieldRule:
    table = data.get("table") or {}
    return core.OPEN_FIELD if data["mode"] == "open" else field_rule(data["mode"], table)


def _time(text: Any) -> datetime | None:
    return parse_datetime(text) if text else None
