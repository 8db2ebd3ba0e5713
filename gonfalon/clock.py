"""Ids, secrets and times come from here and nowhere else, so that whatever is done again can repeat them.

with standing_still(Ids()):
    now() == now()                  # and new_id() gives the ids that it gave before, if any
"""

import secrets
import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import UTC, datetime

_ALPHABET = "0123456789abcdefghjkmnpqrstvwxyz"


class Ids:
    """The ids and secrets that some work was given, in order, to be given again when it is done again."""

    def __init__(self, given: Iterable[str] = ()) -> None:
        self._given = list(given)
        self._next = 0

    @property
    def given(self) -> tuple[str, ...]:
        """All of them, in order."""
        return tuple(self._given)

    def begin(self) -> None:
        """Give them again from the first."""
        self._next = 0

    def give(self, make: Callable[[], str]) -> str:
        """The next of them; one that is made where there is none."""
        if self._next == len(self._given):
            self._given.append(make())
        self._next += 1
        return self._given[self._next - 1]


_moment: ContextVar[datetime | None] = ContextVar("moment", default=None)
_ids: ContextVar[Ids | None] = ContextVar("ids", default=None)


@contextmanager
def standing_still(ids: Ids, at: datetime | None = None) -> Iterator[None]:
    """Let no time pass, at some moment or the present one, and let ids come from these."""
    ids.begin()
    moment, source = _moment.set(at or datetime.now(UTC)), _ids.set(ids)
    try:
        yield
    finally:
        _moment.reset(moment)
        _ids.reset(source)


def now() -> datetime:
    """The present moment, aware, in UTC; in a unit of work the one at which it began."""
    return _moment.get() or datetime.now(UTC)


def new_id() -> str:
    """A new id: 20 lower-case characters that sort by when they were made."""
    return _given(_made_up)


def new_secret() -> str:
    """A new secret for a link: 43 characters that nobody can guess."""
    return _given(lambda: secrets.token_urlsafe(32))


def _given(make: Callable[[], str]) -> str:
    ids = _ids.get()
    return ids.give(make) if ids else make()


def _made_up() -> str:
    number = (time.time_ns() // 1_000_000) << 52 | secrets.randbits(52)
    digits = []
    for _ in range(20):
        number, digit = divmod(number, 32)
        digits.append(_ALPHABET[digit])
    return "".join(reversed(digits))
