"""What clients send, read with nothing in it that nobody reads."""

from collections.abc import Iterable, Mapping
from typing import Any

from rest_framework import serializers


def refuse_unknown(data: Any, known: Iterable[str]) -> None:
    """Raise ValidationError, naming them, where keys were sent that nobody reads."""
    there = list(known)
    unknown = [key for key in data if key not in there] if isinstance(data, Mapping) else []
    if unknown:
        told = f"This is not known here; known is {', '.join(there) or 'nothing'}."
        raise serializers.ValidationError({str(key)[:100]: told for key in unknown[:20]})


class Input(serializers.Serializer):
    """A body, or a part of one: a key that is not known is refused by its name."""

    def to_internal_value(self, data: Any) -> Any:
        refuse_unknown(data, self.fields)
        return super().to_internal_value(data)
