"""Shapes that several answers share."""

from collections.abc import Iterable
from typing import Any

from rest_framework import serializers

from gonfalon.access.models import Role


class WithFields(serializers.Serializer):
    """A shape that has `fields`, a name that serializers use themselves: declared as `fields_`."""

    def get_fields(self) -> dict:
        fields = super().get_fields()
        fields["fields"] = fields.pop("fields_")
        fields["fields"].source = None
        return fields


class ClothShape(serializers.Serializer):
    colour = serializers.CharField()
    pattern = serializers.CharField()


class ScopeShape(serializers.Serializer):
    """Where something holds; a missing list does not restrict."""

    sites = serializers.ListField(child=serializers.CharField(), required=False)
    branches = serializers.ListField(child=serializers.CharField(), required=False)
    types = serializers.ListField(child=serializers.CharField(), required=False)
    topics = serializers.ListField(child=serializers.CharField(), required=False)


class RoleShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    description = serializers.CharField()
    builds_on = serializers.CharField(allow_null=True)
    baseline = serializers.CharField()
    cloth = ClothShape()
    holders = serializers.IntegerField(allow_null=True, help_text="Counted for whoever sees the roster.")
    subject = serializers.CharField(help_text="Its holders, as a sentence about them begins.")
    groups = serializers.IntegerField(allow_null=True)
    ends = serializers.DateTimeField(allow_null=True)
    start = serializers.ListField(
        child=serializers.CharField(), allow_null=True, help_text="Parts of the start page its holders see."
    )
    version = serializers.IntegerField()


class RoleTagShape(serializers.Serializer):
    """As much of a role as marks it beside a name."""

    key = serializers.CharField()
    name = serializers.CharField()
    cloth = ClothShape()


def role_tags(keys: Iterable[str]) -> dict[str, dict[str, Any]]:
    """Tags of these roles by key, in one query."""
    return {
        role.key: {"key": role.key, "name": role.name, "cloth": {"colour": role.colour, "pattern": role.pattern}}
        for role in Role.objects.filter(pk__in=set(keys))
    }


class RiskShape(serializers.Serializer):
    role = serializers.CharField()
    what = serializers.CharField()
    why = serializers.CharField()
