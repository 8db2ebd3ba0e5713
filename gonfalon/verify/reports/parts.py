"""What a report is made of: sections of rows, each row with the sentences that say the same (docs/sentences.md)."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

MOST_ROWS, MOST_SENTENCES = 2_000, 200
"""Of a section, and of a row: a report has to be kept, and read. What is more is told by its number."""


@dataclass(slots=True)
class Row:
    """Its cells, and a sentence for each answer in it; `cloths` are the keys of roles it is about."""

    cells: tuple[str, ...]
    sentences: Sequence[str] = ()
    cloths: Sequence[str] = ()

    def data(self) -> dict[str, Any]:
        """As JSON keeps it."""
        said = list(self.sentences)
        more = [f"And {len(said) - MOST_SENTENCES} more."] if len(said) > MOST_SENTENCES else []
        return {"cells": list(self.cells), "sentences": said[:MOST_SENTENCES] + more, "cloths": list(self.cloths)}


@dataclass(slots=True)
class Section:
    """A table, or, without columns, a few words."""

    title: str
    columns: Sequence[str] = ()
    rows: list[Row] = field(default_factory=list)
    words: str = ""


@dataclass(slots=True)
class Report:
    """All of it; `facts` are figures with their words, `left_out` what its maker may not know."""

    title: str
    facts: list[tuple[int, str]] = field(default_factory=list)
    sections: list[Section] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)

    def data(self) -> dict[str, Any]:
        """As JSON keeps it."""
        return {
            "title": self.title,
            "facts": [{"count": count, "words": words} for count, words in self.facts],
            "left_out": self.left_out,
            "sections": [
                {
                    "title": section.title,
                    "words": section.words,
                    "columns": list(section.columns),
                    "rows": [row.data() for row in _at_most(section)],
                }
                for section in self.sections
            ],
        }


def _at_most(section: Section) -> list[Row]:
    more = len(section.rows) - MOST_ROWS
    if more <= 0:
        return section.rows
    return [*section.rows[:MOST_ROWS], Row((f"And {more} more", *[""] * (len(section.columns) - 1)))]
