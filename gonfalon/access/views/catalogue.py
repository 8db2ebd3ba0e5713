"""Define: every capability, kind of content and component there is, in words."""

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access import catalogue
from gonfalon.server.guard import GuardedView, SignedIn


class FieldShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    kind = serializers.CharField()
    choices = serializers.ListField(child=serializers.CharField())


class TypeShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    plural = serializers.CharField()
    tree = serializers.CharField(allow_null=True)
    fields_ = FieldShape(many=True, source="fields")

    def get_fields(self) -> dict:
        fields = super().get_fields()
        fields["fields"] = fields.pop("fields_")
        fields["fields"].source = None
        return fields


class VerbShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    phrase = serializers.CharField()


class DutyShape(serializers.Serializer):
    key = serializers.CharField()
    kind = serializers.CharField()
    name = serializers.CharField()
    phrase = serializers.CharField()
    area = serializers.CharField()
    risk = serializers.CharField()


class ComponentShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    properties = serializers.DictField(child=serializers.CharField())
    facets = serializers.ListField(child=serializers.CharField())


class CatalogueShape(serializers.Serializer):
    types = TypeShape(many=True)
    verbs = VerbShape(many=True)
    duties = DutyShape(many=True)
    components = ComponentShape(many=True)


class CatalogueView(GuardedView):
    doors = {"get": SignedIn()}

    @extend_schema(responses=CatalogueShape, operation_id="catalogue")
    def get(self, request: Request) -> Response:
        return Response(
            {
                "types": [
                    {
                        "key": t.key,
                        "name": t.name,
                        "plural": t.plural,
                        "tree": t.tree,
                        "fields": [
                            {"key": f.key, "name": f.name, "kind": f.kind, "choices": f.choices} for f in t.fields
                        ],
                    }
                    for t in catalogue.TYPES.values()
                ],
                "verbs": [{"key": v.key, "name": v.name, "phrase": v.phrase} for v in catalogue.VERBS_IN_WORDS],
                "duties": [
                    {
                        "key": d.key,
                        "kind": d.kind,
                        "name": d.name,
                        "phrase": d.phrase,
                        "area": d.area,
                        "risk": d.risk,
                    }
                    for d in catalogue.DUTIES
                ],
                "components": [
                    {"key": c.key, "name": c.name, "properties": c.properties, "facets": c.facets}
                    for c in catalogue.COMPONENTS.values()
                ],
            }
        )
