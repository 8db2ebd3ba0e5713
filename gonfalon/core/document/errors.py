"""What is wrong with something that was given, each named by its place in it (RFC 6901).

    checker = Validator()
    name = checker.text({"id": 3}["id"], ("roles", "id"))
    checker.faults        # [Fault(pointer='/roles/id', message='this is a number; it should be text')]

A checker reads on after a fault, so that all of them are found at once.
"""

import re
from collections.abc import Container, Iterable, Iterator
from datetime import UTC, datetime
from typing import Any, NamedTuple

Path = tuple[str | int, ...]

_TIME = re.compile(r"\d{4}-\d\d-\d\d[Tt]\d\d:\d\d:\d\d(\.\d+)?([Zz]|[+-]\d\d:\d\d)", re.ASCII)
_LONGEST_SHOWN = 60


class Fault(NamedTuple):
    """One thing that is wrong: where, as a JSON Pointer, and what, in words."""

    pointer: str
    message: str

    def __str__(self) -> str:
        return f"{self.pointer or '/'}: {self.message}"


class PolicyError(ValueError):
    """A policy document that cannot be taken. `faults` holds everything wrong with it."""

    def __init__(self, faults: Iterable[Fault]) -> None:
        self.faults = tuple(faults)
        super().__init__("\n".join(str(fault) for fault in self.faults[:20]))


class Unreadable(ValueError):
    """A question that cannot be asked: `fault` is the first thing wrong with it."""

    def __init__(self, fault: Fault) -> None:
        self.fault = fault
        super().__init__(str(fault))


class Repeated(dict[str, Any]):
    """A JSON object that gave some of its keys more than once; `keys_twice` are those."""

    keys_twice: tuple[str, ...] = ()


def pointer(path: Iterable[str | int]) -> str:
    """A path as a JSON Pointer.

    >>> pointer(("fields", "a/b~c", 0))
    '/fields/a~1b~0c/0'
    """
    return "".join("/" + str(step).replace("~", "~0").replace("/", "~1") for step in path)


def shown(text: str) -> str:
    """A text as a message quotes it: not too long, and without halves of characters."""
    clean = text[: _LONGEST_SHOWN + 1].encode("utf-8", "replace").decode()
    return f"“{clean}”" if len(clean) <= _LONGEST_SHOWN else f"“{clean[:_LONGEST_SHOWN]}…”"


def writable(text: str) -> bool:
    """Whether a text can be written as UTF-8: it holds no lone surrogate."""
    if text.isascii():
        return True
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return True


def _is(value: object) -> str:
    if isinstance(value, str):
        return shown(value)
    if value is None or isinstance(value, bool):
        return {None: "null", True: "true", False: "false"}[value]
    named = {int: "a number", float: "a number", list: "a list"}
    return next((word for type, word in named.items() if isinstance(value, type)), "an object")


class Validator:
    """Reads JSON values, noting what is wrong with them. Every reader gives None for what it cannot take."""

    def __init__(self) -> None:
        self.faults: list[Fault] = []

    def fault(self, path: Path, message: str) -> None:
        """Note a fault at a place in the document."""
        where = pointer(path)
        self.faults.append(Fault(where if writable(where) else where.encode("utf-8", "replace").decode(), message))

    def wrong(self, value: object, path: Path, wanted: str) -> None:
        """Note that a value is not what was wanted there."""
        self.fault(path, f"this is {_is(value)}; it should be {wanted}")

    def mapping(
        self, value: object, path: Path, keys: Container[str] | None = None, required: Iterable[str] = ()
    ) -> dict[str, Any] | None:
        """An object as a dict without its nulls; `keys` are those it may have, None any."""
        if not isinstance(value, dict):
            self.wrong(value, path, "an object")
            return None
        if isinstance(value, Repeated):
            for key in value.keys_twice:
                self.fault((*path, key), "this key is given more than once")
        known = {}
        for key, inner in value.items():
            if not isinstance(key, str) or not writable(key):
                self.fault((*path, str(key)), "a key has to be text without lone surrogates")
            elif keys is not None and key not in keys:
                self.fault((*path, key), "this key is not known here")
            elif inner is not None:
                known[key] = inner
        for key in required:
            if key not in known:
                self.fault((*path, key), "this is missing")
        return known

    def entries(self, value: object, path: Path) -> Iterator[tuple[str, Any, Path]]:
        """The entries of an object keyed by ids, each with its path. None is an empty one."""
        for key, inner in (self.mapping(value, path) or {}).items() if value is not None else ():
            yield key, inner, (*path, key)

    def listing(self, value: object, path: Path) -> list[Any]:
        """A list; None is an empty one."""
        if value is None or isinstance(value, list):
            return value or []
        self.wrong(value, path, "a list")
        return []

    def text(self, value: object, path: Path) -> str | None:
        """The value if it is text; else a fault, and None."""
        if not isinstance(value, str):
            self.wrong(value, path, "text")
            return None
        if not writable(value):
            self.fault(path, "this holds half a character (a lone surrogate)")
            return None
        return value

    def truth(self, value: object, path: Path) -> bool:
        """The value if it is true or false; else a fault, and False."""
        if value is None or isinstance(value, bool):
            return bool(value)
        self.wrong(value, path, "true or false")
        return False

    def word(self, value: object, path: Path, words: Iterable[str]) -> str | None:
        """One of some fixed words."""
        words = tuple(words)
        if isinstance(value, str) and value in words:
            return value
        self.wrong(value, path, _one_of(words))
        return None

    def known(self, value: object, path: Path, known: Container[str], what: str) -> str | None:
        """The id of something there is."""
        if isinstance(value, str) and value in known:
            return value
        if isinstance(value, str):
            self.fault(path, f"there is no {what} {shown(value)}")
        else:
            self.wrong(value, path, f"the id of {'an' if what[0] in 'aeiou' else 'a'} {what}")
        return None

    def some(self, value: object, path: Path, known: Container[str], what: str) -> frozenset[str]:
        """A list of ids of things there are."""
        found = [self.known(id, (*path, i), known, what) for i, id in enumerate(self.listing(value, path))]
        return frozenset(id for id in found if id is not None)

    def words(self, value: object, path: Path, words: Iterable[str]) -> frozenset[str]:
        """A list of fixed words."""
        words = tuple(words)
        found = [self.word(word, (*path, i), words) for i, word in enumerate(self.listing(value, path))]
        return frozenset(word for word in found if word is not None)

    def time(self, value: object, path: Path) -> datetime | None:
        """A time with its offset (RFC 3339), in UTC. None when there is none."""
        if value is None:
            return None
        try:
            return read_time(value)
        except (TypeError, ValueError, OverflowError):
            self.wrong(value, path, "a time with its offset, such as 2026-01-01T00:00:00Z")
            return None


def read_time(value: object) -> datetime:
    """A time of RFC 3339 in UTC. TypeError, ValueError or OverflowError when it is none."""
    if not isinstance(value, str):
        raise TypeError("a time is text")
    if not _TIME.fullmatch(value):
        raise ValueError("not a time of RFC 3339")
    return datetime.fromisoformat(value.upper()).astimezone(UTC)


def _one_of(words: tuple[str, ...]) -> str:
    quoted = [f"“{word}”" for word in words]
    return quoted[0] if len(quoted) == 1 else f"{', '.join(quoted[:-1])} or {quoted[-1]}"
