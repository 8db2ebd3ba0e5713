"""Expectations as a text file: a sentence a line, headings that end with a colon, notes behind `#`.

What tenants were promised:
# agreed with them in spring
Ines Marrow may edit Pier 3, Sail loft.         # and nobody else's
"""

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import NamedTuple

from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.questions import Expected, read_expectation
from gonfalon.core.sentences.scanner import Unclear, in_quotes, out_of_quotes
from gonfalon.core.sentences.writing import write_expectation

LONGEST_LINE = 2_000
LONGEST_HEADING, LONGEST_NOTE, LONGEST_GROUP_NOTE = 100, 200, 500


class Line(NamedTuple):
    """An expectation with its note, and the number of its line, from 1 on."""

    expected: Expected
    note: str = ""
    number: int = 0


@dataclass(slots=True)
class Group:
    """The lines beneath a heading, or, where `name` is empty, before any; with what is noted beneath the heading."""

    name: str
    note: str = ""
    lines: list[Line] = field(default_factory=list)


class Fault(NamedTuple):
    """A line that makes no sense, by its number from 1 on."""

    number: int
    unclear: Unclear


def read_file(text: str, lexicon: Lexicon) -> tuple[list[Group], list[Fault]]:
    """The groups in their order, and all that makes no sense. Said twice, it makes none either."""
    groups, faults = [Group("")], list[Fault]()
    known: dict[str, int] = {}
    names = {""}
    heading = False
    for number, line in enumerate(text.splitlines(), 1):
        said = line.strip()
        try:
            if len(line) > LONGEST_LINE:
                raise Unclear(0, 0, f"A line has at most {LONGEST_LINE} characters.")
            if said.startswith("#"):
                if heading:
                    note = said.lstrip("# ").rstrip()
                    groups[-1].note = _at_most(LONGEST_GROUP_NOTE, f"{groups[-1].note} {note}".strip())
                continue
            heading = said.endswith(":") and not _is_noted(line, lexicon)
            if heading:
                groups.append(Group(_heading(said, names)))
            elif said:
                expected, note = read_expectation(line, lexicon)
                _said_once(known, expected, number)
                groups[-1].lines.append(Line(expected, _at_most(LONGEST_NOTE, note), number))
        except Unclear as unclear:
            faults.append(Fault(number, unclear))
    return groups, faults


def write_file(groups: Iterable[Group], lexicon: Lexicon, *, keys: bool = False) -> str:
    """The same as text; `keys`: every name with its key. Raises Unsayable."""
    parts = []
    for group in groups:
        lines = [write_heading(group.name)] if group.name else []
        lines += [f"# {_on_one_line(group.note)}"] if group.name and group.note else []
        for line in group.lines:
            note = f" # {_on_one_line(line.note)}" if line.note else ""
            lines.append(write_expectation(line.expected, lexicon, keys=keys) + note)
        if lines:
            parts.append("\n".join(lines))
    return "\n\n".join(parts) + ("\n" if parts else "")


def write_heading(name: str) -> str:
    """A heading as it is written.

    >>> write_heading("Safety at sea")
    'Safety at sea:'
    """
    return f"{in_quotes(name) if name.startswith(('#', chr(34))) or name != name.strip() else name}:"


def _is_noted(line: str, lexicon: Lexicon) -> bool:
    """Whether a colon at the end is one of a note behind a sentence."""
    try:
        return "#" in line and bool(read_expectation(line, lexicon)[1])
    except Unclear:
        return False


def _heading(said: str, names: set[str]) -> str:
    name = said[:-1].strip()
    if name.startswith('"'):
        name = out_of_quotes(name)
    if not name or len(name) > LONGEST_HEADING:
        raise Unclear(0, len(said), f"A heading has 1 to {LONGEST_HEADING} characters before its colon.")
    if name.casefold() in names:
        raise Unclear(0, len(said), "There is this heading already.")
    names.add(name.casefold())
    return name


def _said_once(known: dict[str, int], expected: Expected, number: int) -> None:
    key = repr((sorted(expected.question.items(), key=lambda item: item[0]), expected.expect, expected.reason))
    first = known.setdefault(key, number)
    if first != number:
        raise Unclear(0, 0, f"This is said already, in line {first}.")


def _on_one_line(note: str) -> str:
    return " ".join(note.split())


def _at_most(longest: int, note: str) -> str:
    if len(note) > longest:
        raise Unclear(0, 0, f"A note here has at most {longest} characters.")
    return note
