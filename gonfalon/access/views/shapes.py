"""Shapes that several answers share."""

from rest_framework import serializers


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
    holders = serializers.IntegerField()
    groups = serializers.IntegerField()
    ends = serializers.DateTimeField(allow_null=True)
    version = serializers.IntegerField()
