"""What roles say, build on and allow; and taking a role away."""

from collections.abc import Sequence
from typing import Any

from rest_framework import serializers

from gonfalon.access import models as rows
from gonfalon.access.entries import ANSWERS, BUILDS_ON, CHANGEABLE, INSERTABLE, ROLES
from gonfalon.access.operations.base import Data, OnCell, OnEntry, Reader, known
from gonfalon.access.sight import Sight
from gonfalon.access.vocabulary import kind_of
from gonfalon.core import operations
from gonfalon.core.model import policy as core
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import SAYS
from gonfalon.ledger.models import By


class _SetAnswer(Reader):
    role = serializers.CharField()
    capability = serializers.CharField()
    says = serializers.CharField(allow_null=True)

    def validate(self, data: Data) -> Data:
        kind = kind_of(data["capability"], self.policy)
        if kind is None:
            raise serializers.ValidationError({"capability": f"There is no capability “{data['capability']}”."})
        if data["says"] is not None and data["says"] not in SAYS[kind]:
            raise serializers.ValidationError({"says": f"Say one of: {', '.join(SAYS[kind])}."})
        return data


class _SetBuildsOn(Reader):
    role = serializers.CharField()
    builds_on = serializers.CharField(allow_null=True)

    def validate_builds_on(self, key: str | None) -> str | None:
        return key and known(key, self.policy.roles, "role")

    def validate(self, data: Data) -> Data:
        above = data["builds_on"]
        if above is not None:
            chain = self.policy.role_chain(above)
            if data["role"] in chain:
                steps = " → ".join([data["role"], *chain[: chain.index(data["role"]) + 1]])
                raise serializers.ValidationError({"builds_on": f"The role would build on itself: {steps}."})
        return data


class _SetComponents(Reader):
    role = serializers.CharField()
    components = serializers.ListField(child=serializers.CharField(), allow_null=True)

    def validate_components(self, components: list[str] | None) -> list[str] | None:
        there = self.policy.components
        return components if components is None else sorted({known(c, there, "component") for c in components})


class _SetFacets(Reader):
    role = serializers.CharField()
    component = serializers.CharField()
    facets = serializers.ListField(child=serializers.CharField(), allow_null=True)

    def validate_component(self, key: str) -> str:
        return known(key, self.policy.components, "component")

    def validate(self, data: Data) -> Data:
        for facet in data["facets"] or ():
            if facet not in self.policy.components[data["component"]]:
                raise serializers.ValidationError({"facets": f"This component has no facet “{facet}”."})
        return {**data, "facets": None if data["facets"] is None else sorted(set(data["facets"]))}


class _DropRole(Reader):
    role = serializers.CharField()

    def validate_role(self, key: str) -> str:
        known(key, self.policy.roles, "role")
        if key in self.policy.baseline:
            raise serializers.ValidationError("A baseline role cannot be removed.")
        if named := named_by(self.policy, key):
            raise serializers.ValidationError(f"It cannot be removed yet: {named}.")
        return key


def named_by(policy: Policy, role: str) -> str | None:
    """What still holds, builds on or names a role, in words; None when nothing does."""
    if any(a.role == role for a in policy.assignments.values()):
        return "somebody still holds it"
    if above := [key for key, r in policy.roles.items() if r.builds_on == role]:
        return f"{', '.join(above)} builds on it"
    if any(k.to == core.Subject.role(role) for k in policy.limits.values()):
        return "a limit still names it"
    if any(role in d.roles or d.to == core.Subject.role(role) for d in policy.delegations.values()):
        return "a delegation still names it"
    if any(role in rule.table for rule in policy.fields.values()):
        return "a field rule still names it"
    return None


class _OfARole(OnCell):
    duty = "roles.define"

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return None if data["role"] in policy.roles else "the role is no longer there"


class SetAnswer(_OfARole):
    entries, says = ANSWERS, "says"
    reader = _SetAnswer

    def operation(self, data: Data) -> operations.SetAnswer:
        return operations.SetAnswer(data["role"], data["capability"], data["says"])


class SetBuildsOn(_OfARole):
    entries, says = BUILDS_ON, "builds_on"
    reader = _SetBuildsOn

    def operation(self, data: Data) -> operations.SetBuildsOn:
        return operations.SetBuildsOn(data["role"], data["builds_on"])

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        above = data["builds_on"]
        if above is not None and (above not in policy.roles or data["role"] in policy.role_chain(above)):
            return "the role it built on is gone, or builds on it by now"
        return super().obstacle(data, policy)


class SetComponents(_OfARole):
    entries, says = INSERTABLE, "components"
    reader = _SetComponents

    def operation(self, data: Data) -> operations.SetComponents:
        return operations.SetComponents(data["role"], _set(data["components"]))


class SetFacets(_OfARole):
    entries, says = CHANGEABLE, "facets"
    reader = _SetFacets

    def operation(self, data: Data) -> operations.SetFacets:
        return operations.SetFacets(data["role"], data["component"], _set(data["facets"]))


class _OnRoles(OnEntry):
    entries, dropped_by, key = ROLES, ("drop-role", "role"), "role"
    duty = "roles.define"


class DropRole(_OnRoles):
    reader = _DropRole

    def operation(self, data: Data) -> operations.DropRole:
        return operations.DropRole(data["role"])

    def as_it_was(self, was: Any) -> Data:
        row = rows.Role.objects.get(pk=was["key"])
        worn = {name: getattr(row, name) for name in _WORN}
        # From its rows, so that what it says about extensions that are switched off is not lost.
        grants = dict(row.answers.values_list("capability", "says"))
        says = {**was, "grants": grants, "components": row.components, "facets": row.facets}
        return {"kind": "put-role", "role": row.key, "row": worn, "says": says}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return named_by(policy, data["role"])


class PutRole(_OnRoles):
    """A role is put back as it was; only made to take back its removal."""

    def read(self, data: Data, policy: Policy, sight: Sight) -> Data:
        raise serializers.ValidationError({"kind": "A role is made under Roles, not staged."})

    def operation(self, data: Data) -> operations.PutRole:
        says = data["says"]
        facets = {component: frozenset(some) for component, some in says["facets"].items()}
        return operations.PutRole(
            core.Role(data["role"], says["grants"], says["builds_on"], _set(says["components"]), facets)
        )

    def write_all(self, every: Sequence[Data], by: By) -> None:
        rows.Role.objects.bulk_create(rows.Role(key=data["role"], **data["row"]) for data in every)
        super().write_all(every, by)
        said = {(data["role"], key): word for data in every for key, word in data["says"]["grants"].items()}
        ANSWERS.put(said.items(), by)

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        if rows.Role.objects.filter(name__iexact=data["row"]["name"]).exists():
            return "another role has its name by now"
        above = data["says"]["builds_on"]
        return None if above is None or above in policy.roles else "the role it built on is gone"


_WORN = ("name", "description", "colour", "pattern", "position", "shipped", "shipped_lists")


def _set(listed: list[str] | None) -> frozenset[str] | None:
    return None if listed is None else frozenset(listed)
