"""Whom to stand in for, as it is sent: an account, null for a visitor, or roles that somebody made up would hold."""

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from gonfalon.access.entries import read_scope
from gonfalon.access.operations.assignments import Scope as ScopeInput
from gonfalon.core import HypotheticalSubject
from gonfalon.core.model.question import Who
from gonfalon.inputs import Input

MOST_HELD = 20
"""Roles, and groups, that somebody made up may hold and be in."""


class HeldRoleInput(Input):
    """A role held within a scope. Its context has the `policy`, and the `sight` of whoever asks."""

    role = serializers.CharField()
    scope = ScopeInput(required=False)


@extend_schema_field(
    {
        "oneOf": [
            {"type": "string"},
            {
                "type": "object",
                "properties": {"role": {"type": "string"}, "scope": {"$ref": "#/components/schemas/ScopeRequest"}},
                "required": ["role"],
            },
        ]
    }
)
class HeldRoleField(serializers.Field):
    """A role's key, or a role with a scope."""

    def to_internal_value(self, data: Any) -> tuple[str, Any]:
        if isinstance(data, str):
            data = {"role": data}
        if not isinstance(data, dict):
            raise serializers.ValidationError("Say a role, or a role with a scope.")
        given = HeldRoleInput(data=data, context=self.context)
        given.is_valid(raise_exception=True)
        key = given.validated_data["role"]
        if key not in self.context["policy"].roles:
            raise serializers.ValidationError("There is no such role.")
        scope = given.validated_data.get("scope") or {}
        return key, read_scope(scope) if scope else None


class WhomInput(Input):
    """Either `account`, or `roles` with `groups` and `own`."""

    account = serializers.CharField(required=False, allow_null=True, help_text="Null is a visitor.")
    roles = serializers.ListField(child=HeldRoleField(), required=False, max_length=MOST_HELD)
    groups = serializers.ListField(child=serializers.CharField(), required=False, max_length=MOST_HELD)
    own = serializers.BooleanField(required=False, help_text="Whether they count as the author of everything.")

    def validate_groups(self, groups: list[str]) -> list[str]:
        if any(key not in self.context["policy"].groups for key in groups):
            raise serializers.ValidationError("There is no such group.")
        return groups

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        made_up = {"roles", "groups", "own"} & data.keys()
        if "account" in data and made_up:
            raise serializers.ValidationError({min(made_up): "Say an account, or roles and groups; not both."})
        if "account" not in data and not {"roles", "groups"} & data.keys():
            raise serializers.ValidationError({"account": "Say whom: an account, null for a visitor, or roles."})
        return data


def whom(data: dict[str, Any]) -> Who:
    """Whoever was sent, of what a WhomInput has read."""
    if "account" in data:
        account: str | None = data["account"]
        return account
    held = data.get("roles", [])
    return HypotheticalSubject(
        tuple(dict.fromkeys(key for key, scope in held if scope is None)),
        data.get("own", False),
        tuple(dict.fromkeys((key, scope) for key, scope in held if scope is not None)),
        tuple(sorted(set(data.get("groups", [])))),
    )
