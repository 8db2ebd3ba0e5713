"""Expectations as rows: read as the core asks them, told in words."""

from collections.abc import Iterable

from gonfalon.core.model.policy import Expectation as Asked
from gonfalon.core.model.vocabulary import Reason
from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.questions import Expected
from gonfalon.core.sentences.writing import Part, parts_of, write_expectation
from gonfalon.verify.lexicon import told
from gonfalon.verify.models import Expectation
from gonfalon.viewpoint.viewpoint import Viewpoint


def as_asked(row: Expectation) -> Asked:
    """The row as the core asks it (§8)."""
    return Asked(row.id, row.question, row.expect, Reason(row.reason) if row.reason else None, row.note)  # type: ignore[arg-type]


def as_said(row: Expectation) -> Expected:
    """The row as a sentence says it."""
    return Expected(row.question, row.expect, Reason(row.reason) if row.reason else None)


def sentences(rows: Iterable[Expectation], viewpoint: Viewpoint) -> dict[str, str]:
    """By id what is expected, without its full stop; nothing is named that is out of sight."""
    every = list(rows)
    if not every:
        return {}
    lexicon = told(viewpoint)
    return {row.id: write_expectation(as_said(row), lexicon).removesuffix(".") for row in every}


def in_parts(row: Expectation, lexicon: Lexicon) -> list[Part]:
    """The sentence of an expectation with its names told apart."""
    return parts_of(as_said(row), lexicon)
