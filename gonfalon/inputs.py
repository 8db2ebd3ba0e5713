"""What clients send, read with nothing in it that nobody reads and no more of anything than fits.

A text is at most LONGEST_WORD characters, a list or an object at most MOST_LISTED things, unless its field says
otherwise: so that whatever is sent costs no more than these bounds let it, before any of it is looked up.
"""

from collections.abc import Iterable, Mapping
from typing import Any

from django.core.validators import MaxLengthValidator
from rest_framework import serializers

LONGEST_WORD = 500
MOST_LISTED = 1_000


def refuse_unknown(data: Any, known: Iterable[str]) -> None:
    """Raise ValidationError, naming them, where keys were sent that nobody reads."""
    there = list(known)
    unknown = [key for key in data if key not in there] if isinstance(data, Mapping) else []
    if unknown:
        told = f"This is not known here; known is {', '.join(there) or 'nothing'}."
        raise serializers.ValidationError({str(key)[:100]: told for key in unknown[:20]})


class Bounded(serializers.Serializer):
    """Fields that say no bound of their own have one."""

    def get_fields(self) -> dict[str, Any]:
        fields: dict[str, Any] = super().get_fields()
        for field in fields.values():
            _bound(field)
        return fields


class Input(Bounded):
    """A body, or a part of one: a key that is not known is refused by its name."""

    def to_internal_value(self, data: Any) -> Any:
        refuse_unknown(data, self.fields)
        return super().to_internal_value(data)


def _bound(field: serializers.Field) -> None:
    """Give a field, and what is within it, a bound where it has none."""
    if isinstance(field, serializers.ListField | serializers.DictField):
        if getattr(field, "max_length", None) is None:
            field.max_length = MOST_LISTED
            message = f"At most {MOST_LISTED} fit in here."
            field.validators = [*field.validators, MaxLengthValidator(MOST_LISTED, message)]
        if field.child is not None:
            _bound(field.child)
    elif isinstance(field, serializers.CharField) and field.max_length is None:
        field.max_length = LONGEST_WORD
        message = f"At most {LONGEST_WORD} characters fit in here."
        field.validators = [*field.validators, MaxLengthValidator(LONGEST_WORD, message)]
