"""What fields of pages can hold: how each kind is read and checked, and whether it names another node.

    read_value(field, "2026-05-31", writer)        # what is kept; ValueError with the reason

`access.catalogue.FIELD_KINDS` lists them; the desk has an input for each in `web/src/desk/FieldInput.tsx`.
"""

from collections.abc import Callable
from datetime import date
from typing import Any, Protocol

from django.utils.dateparse import parse_datetime

from gonfalon.access.catalogue import Field
from gonfalon.access.markup import is_link

LONGEST_TEXT = 20_000
LONGEST_LINE = 200


class Reader(Protocol):
    """Whoever writes: what they see, and the markup they may use."""

    finds: Callable[[str, str], bool]

    def clean(self, html: str) -> str:
        """A text with the markup that may be used."""


def read_value(field: Field, value: Any, writer: Reader) -> Any:
    """The value of a field, checked and cleaned; None for none. Raises ValueError with the reason."""
    if value is None or value == "" or value == []:
        return None
    return _READ[field.kind](field, value, writer)


def _text(longest: int) -> Callable[[Field, Any, Reader], str]:
    def read(field: Field, value: Any, writer: Reader) -> str:
        if not isinstance(value, str):
            raise ValueError(f"{field.name} is text.")
        if len(value) > longest:
            raise ValueError(f"{field.name} is too long.")
        return value

    return read


_line, _long = _text(LONGEST_LINE), _text(LONGEST_TEXT)


def _rich(field: Field, value: Any, writer: Reader) -> str:
    return writer.clean(_long(field, value, writer))


def _number(field: Field, value: Any, writer: Reader) -> int | float:
    try:
        number = float(value) if isinstance(value, str | int | float) and not isinstance(value, bool) else float("nan")
    except (ValueError, OverflowError):
        number = float("nan")
    if not abs(number) < 1e15:
        raise ValueError(f"{field.name} is a number, such as 1250.")
    return int(number) if number.is_integer() else number


def _yes(field: Field, value: Any, writer: Reader) -> bool:
    if value in (True, "yes"):
        return True
    if value in (False, "no"):
        return False
    raise ValueError(f"{field.name} is yes or no.")


def _date(field: Field, value: Any, writer: Reader) -> str:
    try:
        return date.fromisoformat(_line(field, value, writer)).isoformat()
    except ValueError:
        raise ValueError(f"{field.name} is a date, such as 2026-05-31.") from None


def _moment(field: Field, value: Any, writer: Reader) -> str:
    try:
        found = parse_datetime(_line(field, value, writer))
    except ValueError:
        found = None
    if found is None:
        raise ValueError(f"{field.name} is a date and time, such as 2026-05-31 18:30.")
    return found.isoformat(timespec="minutes")


def _choice(field: Field, value: Any, writer: Reader) -> str:
    if value not in field.choices:
        raise ValueError(f"{field.name} is one of: {', '.join(field.choices)}.")
    return str(value)


def _choices(field: Field, value: Any, writer: Reader) -> list[str]:
    if not isinstance(value, list) or not all(one in field.choices for one in value):
        raise ValueError(f"{field.name} are some of: {', '.join(field.choices)}.")
    return [choice for choice in field.choices if choice in value]


def _node(field: Field, value: Any, writer: Reader) -> str:
    id = _line(field, value, writer)
    if not writer.finds(field.kind, id):
        raise ValueError(f"{field.name} names something that is not there.")
    return id


def _link(field: Field, value: Any, writer: Reader) -> str:
    link = _long(field, value, writer).strip()
    if not is_link(link):
        raise ValueError(f"{field.name} begins with https:, mailto: or tel:, or leads to a page of this site.")
    return link


_READ: dict[str, Callable[[Field, Any, Reader], Any]] = {
    "text": _line,
    "long": _long,
    "rich": _rich,
    "number": _number,
    "yes": _yes,
    "date": _date,
    "moment": _moment,
    "choice": _choice,
    "choices": _choices,
    "reference": _node,
    "picture": _node,
    "document": _node,
    "link": _link,
}
