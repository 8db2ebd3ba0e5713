"""The names that sentences may hold, by what they are names of.

lexicon = Lexicon({"node": {"n1": "Pier 3"}, "role": {"tenant": "Tenant editor"}})
lexicon.name("node", "n1")                  # "Pier 3"
lexicon.found("node", "edit Pier 3.", 5)    # Found(keys=("n1",), end=11)

Whoever makes one decides what may be known: what is not in it can be neither read nor written.
"""

import re
from collections.abc import Iterator, Mapping
from typing import NamedTuple

SORTS: Mapping[str, str] = {
    "role": "a role",
    "group": "a group",
    "account": "a person",
    "node": "a page",
    "kind": "a kind of content",
    "field": "a field",
    "component": "a component",
    "facet": "a side of a component",
    "placed": "a duty",
    "duty": "a duty",
    "verb": "something that is done with kinds of content",
    "action": "something that a limit may name",
    "baseline": "everyone",
    "site": "a site",
    "topic": "a topic",
}
"""What there are names of, and how one is called. `placed` are duties asked of a page, `duty` all others."""
_FIRST_WORD = re.compile(r"\w+|\S")


class Found(NamedTuple):
    """A name that stands somewhere: the keys of those called so, and the position after it."""

    keys: tuple[str, ...]
    end: int


class _Index(NamedTuple):
    """Of one sort: a key by folded name, all of them where several are alike, and by the first word of names how long
    they are, a bit for each length: of 100,000 names nothing is made that Python has to look after one by one."""

    keys: Mapping[str, str]
    alike: Mapping[str, list[str]]
    lengths: Mapping[str, int]


class Lexicon:
    """Names by sort and key. Case does not matter where they are looked for."""

    def __init__(self, names: Mapping[str, Mapping[str, str]], *, without_names: bool = False) -> None:
        """`names` are by sort, then by key. `without_names`: keys are all there is, and a quoted name is not minded."""
        self.names, self.without_names = names, without_names
        self._indexes: dict[str, _Index] = {}

    def name(self, sort: str, key: str) -> str | None:
        """What a key is called; None where there is nothing of that key."""
        return self.names.get(sort, {}).get(key)

    def found(self, sort: str, text: str, at: int) -> Found | None:
        """The longest name of a sort that stands in a text at a position, and ends where a word does."""
        first = _FIRST_WORD.match(text, at)
        if first is None:
            return None
        index = self._index(sort)
        lengths = index.lengths.get(first.group().casefold(), 0)
        while lengths:
            length = lengths.bit_length() - 1
            lengths ^= 1 << length
            low, end = text[at : at + length].casefold(), at + length
            if low in index.keys and not _within_word(text, end):
                return Found(tuple(index.alike.get(low) or [index.keys[low]]), end)
        return None

    def like(self, sort: str, typed: str, most: int) -> list[tuple[str, str]]:
        """Names of a sort with their keys: those that begin with what is typed, then those of which a word does."""
        wanted = typed.casefold()
        holds = [(key, name, low) for key, name, low in self._folded(sort) if wanted in low]
        begins = [(name, key) for key, name, low in holds if low.startswith(wanted)]
        later = re.compile(rf"(?<!^)(?<!\w){re.escape(wanted)}")
        return [*begins, *((name, key) for key, name, low in holds if later.search(low))][:most]

    def is_alike(self, sort: str, name: str) -> bool:
        """Whether several things of a sort bear a name."""
        return name.casefold() in self._index(sort).alike

    def _folded(self, sort: str) -> Iterator[tuple[str, str, str]]:
        return ((key, name, name.casefold()) for key, name in self.names.get(sort, {}).items())

    def _index(self, sort: str) -> _Index:
        known = self._indexes.get(sort)
        if known is None:
            keys: dict[str, str] = {}
            alike: dict[str, list[str]] = {}
            lengths: dict[str, int] = {}
            for key, name, low in self._folded(sort):
                if keys.setdefault(low, key) != key:
                    alike.setdefault(low, [keys[low]]).append(key)
                if first := _FIRST_WORD.match(name):
                    word = first.group().casefold()
                    lengths[word] = lengths.get(word, 0) | 1 << len(name)
            known = self._indexes[sort] = _Index(keys, alike, lengths)
        return known


def _within_word(text: str, at: int) -> bool:
    """Whether a word goes on over a position."""
    return 0 < at < len(text) and text[at - 1].isalnum() and text[at].isalnum()
