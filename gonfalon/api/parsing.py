"""Requests as JSON, read with care: how much, how deep, and nothing in it that cannot be kept.

What is wrong is told before any view runs, by JSON Pointer, so that no view minds it.
"""

import json
from collections.abc import Iterator
from typing import IO, Any

from rest_framework.exceptions import ParseError
from rest_framework.parsers import BaseParser

from gonfalon.api.problems import Invalid, TooLarge

LARGEST_REQUEST = 2 * 1024 * 1024
"""Bytes."""
DEEPEST = 20
"""Objects and lists within each other."""
MOST_VALUES = 40_000
"""Texts, numbers, lists and objects in one request."""
LARGEST_NUMBER = 2**53
"""Beyond it, JSON of other programs does not tell whole numbers apart (RFC 8259 §6)."""


class Json(BaseParser):
    """Parses a request's body. Raises TooLarge, ParseError or Invalid."""

    media_type = "application/json"

    def parse(
        self, stream: IO[bytes], media_type: str | None = None, parser_context: dict[str, Any] | None = None
    ) -> Any:
        raw = stream.read(LARGEST_REQUEST + 1)
        if len(raw) > LARGEST_REQUEST:
            raise TooLarge(f"A request has at most {LARGEST_REQUEST // 1024 // 1024} MB.")
        try:
            data = json.loads(raw.decode("utf-8"))
        except RecursionError:
            raise ParseError("This is nested too deeply.") from None
        except ValueError as wrong:
            raise ParseError(f"This is not JSON: {str(wrong)[:200]}.") from None
        if faults := dict(_faults(data)):
            raise Invalid(faults)
        return data


class PlainText(BaseParser):
    """Parses a text. Raises TooLarge, ParseError or Invalid."""

    media_type = "text/plain"

    def parse(
        self, stream: IO[bytes], media_type: str | None = None, parser_context: dict[str, Any] | None = None
    ) -> str:
        raw = stream.read(LARGEST_REQUEST + 1)
        if len(raw) > LARGEST_REQUEST:
            raise TooLarge(f"A request has at most {LARGEST_REQUEST // 1024 // 1024} MB.")
        try:
            text = raw.decode("utf-8")
        except UnicodeDecodeError:
            raise ParseError("This is not UTF-8.") from None
        if why := _unkept(text):
            raise Invalid({"": why})
        return text


def _faults(data: Any) -> Iterator[tuple[str, str]]:
    """What cannot be kept, with its JSON Pointer."""
    waiting: list[tuple[str, int, Any]] = [("", 1, data)]
    seen = 1
    while waiting:
        at, depth, value = waiting.pop()
        seen += len(value) if isinstance(value, dict | list) else 0
        if seen > MOST_VALUES:
            raise TooLarge(f"A request holds at most {MOST_VALUES:,} values.")
        if isinstance(value, str) and (why := _unkept(value)):
            yield at, why
        elif isinstance(value, int | float) and not abs(value) <= LARGEST_NUMBER:
            yield at, "This number is too large."
        elif isinstance(value, dict | list) and depth > DEEPEST:
            yield at, "This is nested too deeply."
        elif isinstance(value, list):
            waiting += [(f"{at}/{i}", depth + 1, inner) for i, inner in enumerate(value)]
        elif isinstance(value, dict):
            if any(_unkept(key) for key in value):
                yield at, "A name in this holds characters that cannot be kept."
            else:
                waiting += [(f"{at}/{_escaped(key)}", depth + 1, inner) for key, inner in value.items()]


def _unkept(text: str) -> str | None:
    if "\0" in text:
        return "This holds a character that cannot be kept."
    try:
        text.encode("utf-8")
    except UnicodeEncodeError:
        return "This holds half a character, a lone surrogate."
    return None


def _escaped(key: str) -> str:
    return key.replace("~", "~0").replace("/", "~1")
