"""Operations as the schema has them: one shape for each kind, told apart by `kind`."""

from typing import Any

from drf_spectacular.utils import PolymorphicProxySerializer, extend_schema_field
from rest_framework import serializers

from gonfalon.access.operations import KINDS
from gonfalon.inputs import refuse_unknown

MOST = 2_000


def _shape(kind: str, reader: type[serializers.Serializer]) -> type[serializers.Serializer]:
    name = "".join(word.capitalize() for word in kind.split("-"))
    members: dict[str, Any] = {"kind": serializers.ChoiceField(choices=[kind]), "__doc__": f"Staged as `{kind}`."}
    return type(name, (reader,), members)


_SHAPES = {kind: _shape(kind, one.reader) for kind, one in KINDS.items() if one.staged and hasattr(one, "reader")}
"""Those that can be staged; what only takes others back is made by the server alone."""


@extend_schema_field(PolymorphicProxySerializer("Operation", _SHAPES, resource_type_field_name="kind"))
class OperationField(serializers.JSONField):
    """One operation as it is staged."""


class _Sent(serializers.DictField):
    """One operation as it is sent. What a kind makes of it is for `OperationKind.read`."""

    def to_internal_value(self, data: Any) -> Any:
        sent = super().to_internal_value(data)
        if shape := _SHAPES.get(str(sent.get("kind"))):
            refuse_unknown(sent, shape().fields)
        return sent


@extend_schema_field(PolymorphicProxySerializer("Operation", _SHAPES, resource_type_field_name="kind", many=True))
class OperationsField(serializers.ListField):
    """Operations, read one by one against the policy they are for."""

    child = _Sent()

    def __init__(self, **options: Any) -> None:
        super().__init__(allow_empty=False, max_length=MOST, **options)
