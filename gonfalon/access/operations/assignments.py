"""Giving roles and single capabilities, changing what was given, and taking it away (§3)."""

from typing import Any

from rest_framework import serializers

from gonfalon.access.entries import ASSIGNMENTS, DIRECT_GRANTS, read_scope
from gonfalon.access.operations.base import (
    Data,
    OnEntry,
    Reader,
    Subject,
    WithId,
    known,
    known_nodes,
    read_time,
    scope_as_it_was,
)
from gonfalon.access.sight import Sight
from gonfalon.access.vocabulary import kind_of
from gonfalon.core import operations
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model import policy as core
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import SAYS, WITHHELD
from gonfalon.inputs import Input

MOST_NAMED = 1000
"""So many things one list of a scope may name."""


class Scope(Input):
    """Where something holds: lists of things that there are, and of nodes in sight. No query."""

    sites = serializers.ListField(child=serializers.CharField(), required=False, max_length=MOST_NAMED)
    branches = serializers.ListField(child=serializers.CharField(), required=False, max_length=MOST_NAMED)
    types = serializers.ListField(child=serializers.CharField(), required=False, max_length=MOST_NAMED)
    topics = serializers.ListField(child=serializers.CharField(), required=False, max_length=MOST_NAMED)

    def validate_branches(self, branches: list[str]) -> list[str]:
        return known_nodes(branches, "branch", self.context["sight"])

    def validate_sites(self, keys: list[str]) -> list[str]:
        return [known(key, self.context["policy"].sites, "site") for key in keys]

    def validate_topics(self, keys: list[str]) -> list[str]:
        return [known(key, self.context["policy"].topics, "topic") for key in keys]

    def validate_types(self, types: list[str]) -> list[str]:
        return [known(type, self.context["policy"].types, "type") for type in types]


class _Given(Reader):
    """Where something given holds, and when."""

    scope = Scope(required=False)
    starts = serializers.DateTimeField(allow_null=True, required=False)
    ends = serializers.DateTimeField(allow_null=True, required=False)

    def validate(self, data: Data) -> Data:
        starts, ends = data.get("starts"), data.get("ends")
        if starts and ends and starts >= ends:
            raise serializers.ValidationError({"ends": "This is not after the beginning."})
        return data


class _Anew(_Given):
    to = Subject()

    def validate_to(self, to: Data) -> Data:
        if to["kind"] == "role":
            raise serializers.ValidationError("This is given to an account or a group.")
        return self.known_subject(to)


class _GiveRole(_Anew):
    role = serializers.CharField()

    def validate_role(self, key: str) -> str:
        if known(key, self.policy.roles, "role") in self.policy.baseline:
            raise serializers.ValidationError("Everyone has this role already; it is not given to anyone.")
        return key


class _GiveCapability(_Anew):
    capability = serializers.CharField()
    says = serializers.CharField()

    def validate(self, data: Data) -> Data:
        kind = kind_of(data["capability"], self.policy)
        if kind is None:
            raise serializers.ValidationError({"capability": f"There is no capability “{data['capability']}”."})
        words = [word for word in SAYS[kind] if word != WITHHELD]
        if data["says"] not in words:
            raise serializers.ValidationError({"says": f"Say one of: {', '.join(words)}."})
        return super().validate(data)


def _given(id: str, every: Any, sight: Sight, what: str) -> str:
    """The id of something given, if there is such and whoever asks may know to whom. Raises ValidationError."""
    given = every.get(id)
    out_of_sight = given is not None and given.to.kind == "account" and given.to.id not in sight.people
    return known(id, () if out_of_sight else every, what)


class _Assignment(Reader):
    assignment = serializers.CharField()

    def validate_assignment(self, id: str) -> str:
        return _given(id, self.policy.assignments, self.sight, "assignment")


class _DirectGrant(Reader):
    grant = serializers.CharField()

    def validate_grant(self, id: str) -> str:
        return _given(id, self.policy.direct_grants, self.sight, "direct grant")


class _ChangeRole(_Assignment, _Given):
    pass


class _ChangeCapability(_DirectGrant, _Given):
    pass


def _period(data: Data) -> core.Period:
    return core.Period(read_time(data.get("starts")), read_time(data.get("ends")))


def _as_it_was(was: Any) -> Data:
    """The data that would give the same again, of an assignment or a direct grant as it stood."""
    return {
        "id": was["id"],
        "to": was["to"],
        "scope": scope_as_it_was(was),
        "starts": was["period"]["starts"],
        "ends": was["period"]["ends"],
    }


def _changed(given: core.Assignment | core.DirectGrant, data: Data) -> Data:
    """Something given, with what of its scope and period is said anew."""
    period = given.period
    as_it_is = {
        "id": given.id,
        "to": {"kind": given.to.kind, "id": given.to.id},
        "scope": write_scope(given.scope),
        "starts": period.starts and period.starts.isoformat(),
        "ends": period.ends and period.ends.isoformat(),
    }
    return as_it_is | {key: data[key] for key in ("scope", "starts", "ends") if key in data}


def _receiver_gone(data: Data, policy: Policy) -> bool:
    receivers: Any = policy.accounts if data["to"]["kind"] == "account" else policy.groups
    return data["to"]["id"] not in receivers


class _OnAssignments(OnEntry):
    entries, dropped_by = ASSIGNMENTS, ("take-role", "assignment")
    duty = "roles.assign"

    def as_it_was(self, was: Any) -> Data:
        return {"kind": "give-role", "role": was["role"], **_as_it_was(was)}


class _OnDirectGrants(OnEntry):
    entries, dropped_by = DIRECT_GRANTS, ("take-capability", "grant")
    duty = "roles.assign"

    def as_it_was(self, was: Any) -> Data:
        said = {"capability": was["capability"], "says": was["says"]}
        return {"kind": "give-capability", **said, **_as_it_was(was)}


class GiveRole(WithId, _OnAssignments):
    reader = _GiveRole

    def operation(self, data: Data) -> operations.Operation:
        scope = read_scope(data.get("scope") or {})
        given = core.Assignment(data["id"], data["role"], core.Subject(**data["to"]), scope, _period(data))
        return operations.GiveRole(given)

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        if data["role"] not in policy.roles or _receiver_gone(data, policy):
            return "the role, or whoever held it, is no longer there"
        return None


class ChangeRole(GiveRole):
    """An assignment with another scope or period; kept as the assignment it becomes."""

    reader = _ChangeRole

    def read(self, data: Data, policy: Policy, sight: Sight) -> Data:
        asked = super().read(data, policy, sight)
        given = policy.assignments[asked["assignment"]]
        return {"kind": "give-role", "role": given.role, **_changed(given, asked)}


class TakeRole(_OnAssignments):
    reader = _Assignment

    def operation(self, data: Data) -> operations.Operation:
        return operations.TakeRole(data["assignment"])


class GiveCapability(WithId, _OnDirectGrants):
    reader = _GiveCapability

    def operation(self, data: Data) -> operations.Operation:
        to, scope = core.Subject(**data["to"]), read_scope(data.get("scope") or {})
        return operations.GiveCapability(
            core.DirectGrant(data["id"], to, data["capability"], data["says"], scope, _period(data))
        )

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return "whoever held it is no longer there" if _receiver_gone(data, policy) else None


class ChangeCapability(GiveCapability):
    """A direct grant with another scope or period; kept as the direct grant it becomes."""

    reader = _ChangeCapability

    def read(self, data: Data, policy: Policy, sight: Sight) -> Data:
        asked = super().read(data, policy, sight)
        given = policy.direct_grants[asked["grant"]]
        said = {"capability": given.capability, "says": given.says}
        return {"kind": "give-capability", **said, **_changed(given, asked)}


class TakeCapability(_OnDirectGrants):
    reader = _DirectGrant

    def operation(self, data: Data) -> operations.Operation:
        return operations.TakeCapability(data["grant"])
