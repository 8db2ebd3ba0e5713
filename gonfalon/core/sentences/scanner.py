"""Going through a sentence: its words, names and times, and what could have stood where it makes no sense.

s = Scanner("holders of Tenant editor may ...", lexicon)
s.said("holders of"), s.name("role")        # (True, "tenant")
raise s.fault()                             # points at the word that was reached last
"""

import re
from collections.abc import Callable, Iterable, Mapping
from datetime import UTC, datetime
from typing import NamedTuple, TypeVar

from gonfalon.core.sentences.lexicon import SORTS, Lexicon

T = TypeVar("T")
MONTHS = (
    *("January", "February", "March", "April", "May", "June"),
    *("July", "August", "September", "October", "November", "December"),
)
_SPACE = re.compile(r"\s*")
_WORD = re.compile(r"[^\s.,;:?!()]+|\S")
_IN_QUOTES = r'"(?:[^"\\\n]|\\.)*"'
_QUOTED = re.compile(f"({_IN_QUOTES})")
_KEY = re.compile(rf"\s*\((?:([\w.-]+)|({_IN_QUOTES}))\)")
_ESCAPED = re.compile(r"\\(?:u\{([0-9a-f]{1,6})\}|(.))")
_TIME = re.compile(
    rf"(\d{{1,2}}) ({'|'.join(MONTHS)}) (\d{{4}})(?: (\d\d):(\d\d)(?::(\d\d)(?:\.(\d{{6}}))?)? (UTC|[+-]\d\d:\d\d))?\b",
    re.IGNORECASE | re.ASCII,
)
_MOST_OFFERED = 8


_FOLLOWED = {
    phrase: sort
    for sort, some in {"role": "holders", "group": "members"}.items()
    for phrase in (f"{some} of", f"nobody but {some} of", f"everyone but {some} of")
}
"""Words that are offered with the names that follow them, where such a name was begun without them."""


class Offer(NamedTuple):
    """Something that could stand from `at` to `end`: as it is written, and what it is."""

    text: str
    what: str
    at: int
    end: int


class Unclear(ValueError):
    """A sentence that makes no sense: at a word, `length` characters long; what is wrong, what could stand there."""

    def __init__(self, at: int, length: int, message: str, offers: tuple[Offer, ...] = ()) -> None:
        self.at, self.length, self.message, self.offers = at, length, message, offers
        super().__init__(message)


class Scanner:
    """A position in a text, which only moves on over what was looked for and found."""

    def __init__(self, text: str, lexicon: Lexicon) -> None:
        self.text, self.lexicon, self.at = text, lexicon, 0
        self._furthest = 0
        self._wanted: dict[int, dict[tuple[str, str], None]] = {}
        self._wrong: str | None = None
        self._called_so: tuple[Offer, ...] = ()
        self._sure = False

    def said(self, phrase: str) -> bool:
        """Go over some words, if they stand here."""
        at = self.at
        for n, word in enumerate(words := phrase.split()):
            start = self._spaced(at)
            end = start + len(word)
            goes_on = end < len(self.text) and word[-1].isalnum() and self.text[end].isalnum()
            if self.text[start:end].casefold() != word.casefold() or goes_on:
                far = n > 1  # one word of it may as well begin something else
                self._want(start if far else self._spaced(self.at), "", " ".join(words[n:] if far else words))
                return False
            at = end
        self.at = at
        return True

    def first_of(self, phrases: Iterable[str]) -> str | None:
        """Go over the first of some phrases that stands here, and tell which."""
        return next((phrase for phrase in phrases if self.said(phrase)), None)

    def name(self, sort: str) -> str | None:
        """Go over a name of a sort, plain or quoted with its key, and give the key; None where none stands here."""
        start = self._spaced(self.at)
        if self.text.startswith('"', start):
            return self._quoted_name(sort, start)
        found = self.lexicon.found(sort, self.text, start)
        if found is None:
            self._want(start, sort, SORTS[sort])
            return None
        if len(found.keys) > 1:
            called = self.text[start : found.end]
            each = (quoted(self.lexicon.name(sort, key) or called, key) for key in found.keys[:_MOST_OFFERED])
            offers = tuple(Offer(text, SORTS[sort], start, found.end) for text in each)
            self._refuse(start, f"Several are called “{called}”: say which, with its key.", offers)
            return None
        self.at = found.end
        return found.keys[0]

    def names(self, sort: str) -> list[str]:
        """Go over names of a sort, one after the other: "A, B". Empty where none stands here."""
        return self.several(lambda: self.name(sort))

    def several(self, look: Callable[[], T | None], again: bool = False) -> list[T]:
        """Go over what is looked for, several times with commas between. Empty where it does not stand here, or where
        one of them is said `again`, unless it may be."""
        every = list[T]()
        back = start = self.at
        while (one := look()) is not None:
            if one in every and not again:
                self._refuse(self._spaced(start), "This is said already.")
                return []
            every.append(one)
            back = self.at
            if not self.said(","):
                return every
            start = self.at
        self.at = back
        return every

    def quoted_text(self) -> str | None:
        """Go over a text in quotes, and give it."""
        start = self._spaced(self.at)
        found = _QUOTED.match(self.text, start)
        if found is None or not _as_written(found[1]):
            self._want(start, "", '"…"')
            return None
        self.at = found.end()
        return out_of_quotes(found[1])

    def time(self) -> datetime | None:
        """Go over a day, its first moment in UTC, or a day with a time and its zone."""
        start = self._spaced(self.at)
        found = _TIME.match(self.text, start)
        if found is None:
            self._want(start, "", "a day, as 30 June 2027, or 30 June 2027 18:00 UTC")
            return None
        day, month, year, hour, minute, second, fraction, zone = found.groups()
        number = [m.casefold() for m in MONTHS].index(month.casefold()) + 1
        offset = "+00:00" if zone is None or zone.upper() == "UTC" else zone
        said = f"{year}-{number:02}-{int(day):02}T{hour or '00'}:{minute or '00'}:{second or '00'}.{fraction or '0'}"
        try:
            at = datetime.fromisoformat(said.ljust(26, "0") + offset).astimezone(UTC)
        except (ValueError, OverflowError):
            self._refuse(start, "There is no such time.")
            return None
        self.at = found.end()
        return at

    def ended(self) -> bool:
        """Whether nothing more stands here, or a note after `#`."""
        at = self._spaced(self.at)
        if at == len(self.text) or self.text[at] == "#":
            return True
        self._want(at, "", "the end")
        return False

    def full_stop(self, mark: str = ".") -> None:
        """Go over the end of the sentence, if it is written."""
        if self.text.startswith(mark, self._spaced(self.at)):
            self.at = self._spaced(self.at) + 1

    def fault(self) -> Unclear:
        """What made no sense, at the furthest word that was reached."""
        at, missing = self._furthest, False
        if self._spaced(at) == len(self.text):
            words = list(_WORD.finditer(self.text))
            at, missing = (words[-1].start() if words else 0), True
        word = _WORD.match(self.text, at)
        length = 0 if word is None else len(word[0])
        if self._wrong is not None:
            return Unclear(at, length, self._wrong, self._called_so)
        there = "" if word is None else f"“{word[0]}”"
        could = list(dict.fromkeys(what for wanted in self._places().values() for _, what in wanted))
        options = ", ".join(could[:_MOST_OFFERED]) + (", …" if len(could) > _MOST_OFFERED else "")
        lead = f"After {there} something is missing" if missing and there else f"{there or 'This'} makes no sense here"
        return Unclear(at, length, f"{lead}. Here could stand: {options}.", self._offers())

    def _offers(self) -> tuple[Offer, ...]:
        """What could stand at the furthest place: names that hold what is typed there, as much of it as they do, else
        whatever words begin so."""
        found = [offer for at, wanted in self._places().items() for offer in self._offered_at(at, wanted)]
        return tuple(dict.fromkeys(found))[: 2 * _MOST_OFFERED]

    def _places(self) -> dict[int, dict[tuple[str, str], None]]:
        """What was looked for at the furthest place, and before a "the" there, which may begin a name as well."""
        furthest = self._spaced(self._furthest)
        return {
            at: wanted
            for at, wanted in sorted(self._wanted.items(), reverse=True)
            if at == self._furthest or self.text[at:furthest].strip().casefold() == "the"
        }

    def _offered_at(self, at: int, wanted: Mapping[tuple[str, str], None]) -> list[Offer]:
        typed = self.text[at:].rstrip(" .?")
        sorts = [(sort, "") for sort, _ in wanted if sort]
        sorts += [(_FOLLOWED[what], what + " ") for sort, what in wanted if not sort and what in _FOLLOWED]
        found = [
            Offer(what, "", at, at + len(typed))
            for sort, what in wanted
            if not sort and what.casefold().startswith(typed.casefold())
        ]
        for length in _lengths(typed):
            begun = typed[:length].removeprefix("the ")
            for sort, lead in sorts:
                names = self.lexicon.like(sort, begun, _MOST_OFFERED)
                names = names or (self.lexicon.like(sort, begun[:-1], _MOST_OFFERED) if begun.endswith("s") else [])
                texts = (self.written(sort, key) for _, key in names)
                found += [Offer(lead + text, SORTS[sort], at, at + length) for text in texts if text is not None]
            if found:
                break
        return found

    def written(self, sort: str, key: str) -> str | None:
        """A name as it is written where it is plain enough, else quoted with its key."""
        name = self.lexicon.name(sort, key)
        if name is None:
            return None
        return quoted(name, key) if self.lexicon.is_alike(sort, name) else name

    def _quoted_name(self, sort: str, start: int) -> str | None:
        text = _QUOTED.match(self.text, start)
        key = None if text is None else _KEY.match(self.text, text.end())
        if text is None or key is None or not (_as_written(text[1]) and _as_written(key[2] or '""')):
            self._refuse(start, 'A name in quotes is followed by its key: "Pier 3" (pier-3).')
            return None
        named = key[1] if key[1] is not None else out_of_quotes(key[2])
        name = self.lexicon.name(sort, named)
        if name is None:
            self._refuse(start, f"Nothing that could stand here has the key “{named}”.", sure=False)
            return None
        if not self.lexicon.without_names and out_of_quotes(text[1]) != name:
            offer = Offer(quoted(name, named), SORTS[sort], start, key.end())
            self._refuse(start, f"“{named}” is called “{name}”.", (offer,))
            return None
        self.at = key.end()
        return named

    def _spaced(self, at: int) -> int:
        space = _SPACE.match(self.text, at)
        return at if space is None else space.end()

    def _want(self, at: int, sort: str, what: str) -> None:
        self._reached(at)
        self._wanted.setdefault(at, {})[sort, what] = None

    def _refuse(self, at: int, wrong: str, called_so: tuple[Offer, ...] = (), *, sure: bool = True) -> None:
        """Note what is wrong at a place; of several the first that is `sure` whatever else is looked for there."""
        self._reached(at)
        if at == self._furthest and (self._wrong is None or (sure and not self._sure)):
            self._wrong, self._called_so, self._sure = wrong, called_so, sure

    def _reached(self, at: int) -> None:
        if at > self._furthest:
            self._furthest, self._wrong, self._called_so, self._sure = at, None, (), False


def _lengths(typed: str) -> list[int]:
    """How much of what is typed may be a name, in whole words from its beginning: all of it first."""
    return [word.end() for word in reversed([*re.finditer(r"\S+", typed)][:_MOST_OFFERED])]


def quoted(name: str, key: str) -> str:
    """A name as it is written with its key.

    >>> quoted("Pier 3", "pier-3")
    '"Pier 3" (pier-3)'
    """
    return f"{in_quotes(name)} ({key if re.fullmatch(r'[a-zA-Z0-9_.-]+', key) else in_quotes(key)})"


def in_quotes(text: str) -> str:
    """A text in quotes, on one line."""
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    return '"' + "".join(c if c.isprintable() else f"\\u{{{ord(c):x}}}" for c in escaped) + '"'


def _as_written(quoted: str) -> bool:
    """Whether a text in quotes is just as it would be written: nothing is escaped in it that need not be."""
    return in_quotes(out_of_quotes(quoted)) == quoted


def out_of_quotes(quoted: str) -> str:
    """A text as it is meant that stands in quotes.

    >>> out_of_quotes(in_quotes('the "old" quay'))
    'the "old" quay'
    """
    inner = quoted.removeprefix('"').removesuffix('"') if len(quoted) > 1 else quoted
    return _ESCAPED.sub(lambda found: found[2] if found[1] is None else _character(found[1]), inner)


def _character(number: str) -> str:
    value = int(number, 16)
    return chr(value) if value < 0x110000 else ""
