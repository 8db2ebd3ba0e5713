"""What roles say, build on and allow; and taking a role away."""

from typing import Any

from rest_framework import serializers

from gonfalon.access import models as rows
from gonfalon.access.keys import spend
from gonfalon.access.operations.base import Data, OperationKind, Reader, known
from gonfalon.access.sight import Sight
from gonfalon.access.vocabulary import kind_of, vocabulary
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


class SetAnswer(OperationKind):
    duty = "roles.define"
    reader = _SetAnswer

    def operation(self, data: Data) -> operations.Operation:
        return operations.SetAnswer(data["role"], data["capability"], data["says"])

    def write(self, data: Data, by: By) -> None:
        cell = {"role_id": data["role"], "capability": data["capability"]}
        if data["says"] is None:
            rows.Answer.objects.filter(**cell).delete()
        else:
            rows.Answer.objects.update_or_create(**cell, defaults={"says": data["says"]})

    def reverse(self, data: Data, was: Any) -> Data:
        return {**data, "says": was}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return _gone(data, policy)


class SetBuildsOn(OperationKind):
    duty = "roles.define"
    reader = _SetBuildsOn

    def operation(self, data: Data) -> operations.Operation:
        return operations.SetBuildsOn(data["role"], data["builds_on"])

    def write(self, data: Data, by: By) -> None:
        rows.Role.objects.filter(pk=data["role"]).update(builds_on=data["builds_on"])

    def reverse(self, data: Data, was: Any) -> Data:
        return {**data, "builds_on": was}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        above = data["builds_on"]
        if above is not None and (above not in policy.roles or data["role"] in policy.role_chain(above)):
            return "the role it built on is gone, or builds on it by now"
        return _gone(data, policy)


class SetComponents(OperationKind):
    duty = "roles.define"
    reader = _SetComponents

    def operation(self, data: Data) -> operations.Operation:
        components = data["components"]
        return operations.SetComponents(data["role"], None if components is None else frozenset(components))

    def write(self, data: Data, by: By) -> None:
        row, listed = rows.Role.objects.get(pk=data["role"]), data["components"]
        if listed is not None:
            there = vocabulary().in_use.components
            listed = sorted({*listed, *(key for key in row.components or () if key not in there)})
        row.components = listed
        row.save(update_fields=["components"])

    def reverse(self, data: Data, was: Any) -> Data:
        return {**data, "components": was}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return _gone(data, policy)


class SetFacets(OperationKind):
    duty = "roles.define"
    reader = _SetFacets

    def operation(self, data: Data) -> operations.Operation:
        facets = data["facets"]
        return operations.SetFacets(data["role"], data["component"], None if facets is None else frozenset(facets))

    def write(self, data: Data, by: By) -> None:
        row = rows.Role.objects.get(pk=data["role"])
        others = {component: facets for component, facets in row.facets.items() if component != data["component"]}
        row.facets = others if data["facets"] is None else {**others, data["component"]: data["facets"]}
        row.save(update_fields=["facets"])

    def reverse(self, data: Data, was: Any) -> Data:
        return {**data, "facets": was}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return _gone(data, policy)


class DropRole(OperationKind):
    duty = "roles.define"
    reader = _DropRole

    def operation(self, data: Data) -> operations.Operation:
        return operations.DropRole(data["role"])

    def write(self, data: Data, by: By) -> None:
        rows.Role.objects.get(pk=data["role"]).delete()
        spend("role", data["role"])

    def reverse(self, data: Data, was: Any) -> Data:
        row = rows.Role.objects.get(pk=data["role"])
        worn = {name: getattr(row, name) for name in _WORN}
        # From its rows, so that what it says about extensions that are switched off is not lost.
        grants = dict(row.answers.values_list("capability", "says"))
        says = {**was, "grants": grants, "components": row.components, "facets": row.facets}
        return {"kind": "put-role", "role": row.key, "row": worn, "says": says}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        return named_by(policy, data["role"])


class PutRole(OperationKind):
    """A role is put back as it was; only made to take back its removal."""

    duty = "roles.define"

    def read(self, data: Data, policy: Policy, sight: Sight) -> Data:
        raise serializers.ValidationError({"kind": "A role is made under Roles, not staged."})

    def operation(self, data: Data) -> operations.Operation:
        says = data["says"]
        components = says["components"]
        return operations.PutRole(
            core.Role(
                data["role"],
                says["grants"],
                says["builds_on"],
                None if components is None else frozenset(components),
                {component: frozenset(facets) for component, facets in says["facets"].items()},
            )
        )

    def write(self, data: Data, by: By) -> None:
        says = data["says"]
        role = rows.Role.objects.create(
            key=data["role"],
            builds_on_id=says["builds_on"],
            components=says["components"],
            facets=says["facets"],
            **data["row"],
        )
        rows.Answer.objects.bulk_create(
            rows.Answer(role=role, capability=capability, says=word) for capability, word in says["grants"].items()
        )

    def reverse(self, data: Data, was: Any) -> Data:
        return {"kind": "drop-role", "role": data["role"]}

    def obstacle(self, data: Data, policy: Policy) -> str | None:
        if rows.Role.objects.filter(name__iexact=data["row"]["name"]).exists():
            return "another role has its name by now"
        above = data["says"]["builds_on"]
        return None if above is None or above in policy.roles else "the role it built on is gone"


_WORN = ("name", "description", "colour", "pattern", "position", "shipped")


def _gone(data: Data, policy: Policy) -> str | None:
    return None if data["role"] in policy.roles else "the role is no longer there"
