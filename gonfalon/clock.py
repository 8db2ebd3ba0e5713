"""Ids and times come from here and nowhere else, so that whatever is done again can repeat them.

with standing_still(Ids()):
    now() == now()                  # and new_id() gives the ids that it gave before, if any
"""

import secrets
import time
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import UTC, datetime

_ALPHABET = "0123456789abcdefghjkmnpqrstvwxyz"


class Ids:
    """The ids that some work was given, in order, to be given again when it is done again."""

    def __init__(self) -> None:
        self._given: list[str] = []
        self._next = 0

    def begin(self) -> None:
        """Give them again from the first."""
        self._next = 0

    def give(self) -> str:
        if self._next == len(self._given):
            self._given.append(_made_up())
        self._next += 1
        return self._given[self._next - 1]


_moment: ContextVar[datetime | None] = ContextVar("moment", default=None)
_ids: ContextVar[Ids | None] = ContextVar("ids", default=None)


@contextmanager
def standing_still(ids: Ids) -> Iterator[None]:
    """Let no time pass, and let ids come from these."""
    ids.begin()
    at, source = _moment.set(datetime.now(UTC)), _ids.set(ids)
    try:
        yield
    finally:
        _moment.reset(at)
        _ids.reset(source)


def now() -> datetime:
    """The present moment, aware, in UTC; in a unit of work the one at which it began."""
    return _moment.get() or datetime.now(UTC)


def new_id() -> str:
    """A new id: 20 lower-case characters that sort by when they were made."""
    ids = _ids.get()
    return ids.give() if ids else _made_up()


def _made_up() -> str:
    number = (time.time_ns() // 1_000_000) << 52 | secrets.randbits(52)
    digits = []
    for _ in range(20):
        number, digit = divmod(number, 32)
        digits.append(_ALPHABET[digit])
    return "".join(reversed(digits))
