"""What a request asked of the rules, question by question: gathered where somebody wants to know, as in a rehearsal.

with gathering() as asked:
    answer = view(request)
asked                       # [Asked(question, decision, own), ...] in the order in which it was asked
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import NamedTuple

from gonfalon.core import Decision, Question
from gonfalon.viewpoint.viewpoint import Viewpoint


class Asked(NamedTuple):
    """A question, its answer, and whether whoever it is about counts as the author of what it is about."""

    question: Question
    decision: Decision
    own: bool


_gathered: ContextVar[list[Asked] | None] = ContextVar("asked", default=None)


@contextmanager
def gathering() -> Iterator[list[Asked]]:
    """What is asked until this ends."""
    asked: list[Asked] = []
    token = _gathered.set(asked)
    try:
        yield asked
    finally:
        _gathered.reset(token)


def note_asked(here: Viewpoint, question: Question, decision: Decision) -> None:
    """Note a question on which an answer to a request rested."""
    gathered = _gathered.get()
    if gathered is not None:
        target = question.target
        gathered.append(Asked(question, decision, target is not None and here.wrote(target.author)))
