"""Two or three people beside each other: on one page and its parts, over the tree, and on the board.

    rows = page_rows(sides, row, above)         # a line for each action, field, facet and component
    TreeAnswers(sides, seen).at(0)              # a line for each page, worked out when it is shown
    rows = board_rows(sides)                    # a line for each capability

A side is a viewpoint. What differs is told by the answers alone, not by why they are so.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from gonfalon.access.catalogue.verbs import VERB_WORDS
from gonfalon.content.models import Node
from gonfalon.content.nodes import as_target
from gonfalon.core import Question
from gonfalon.core.bulk.survey import CODE, REASONS
from gonfalon.core.model.bits import Bools, Ints
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import ACTIONS, Extent, Kind, Reason
from gonfalon.viewpoint.viewpoint import Viewpoint

Sides = Sequence[Viewpoint]
ON_TREE = ("see", "edit", "publish", "remove")
"""What the tree shows of each node."""


@dataclass(frozen=True, slots=True)
class Answer:
    """Of one side: `no` or `yes`, of a field also `see` or `change`, of a capability an extent; and why not."""

    says: str
    reason: str = ""


@dataclass(frozen=True, slots=True)
class Row:
    """One thing that is asked of every side."""

    group: str
    key: str
    name: str
    answers: tuple[Answer, ...]
    asked: dict[str, str]
    """The question, as Why reads it."""

    @property
    def differs(self) -> bool:
        """Whether the sides come to different answers."""
        return len({answer.says for answer in self.answers}) > 1


def page_rows(sides: Sides, row: Node, above: list[Node]) -> list[Row]:
    """A page: each action, field, facet of a part, and component that might be put in. In memory: no query."""
    target = as_target(row, above)
    return [
        *_actions(sides, target),
        *_fields(sides, row, target),
        *_facets(sides, row, target),
        *_components(sides, row, target),
    ]


def board_rows(sides: Sides) -> list[Row]:
    """Each capability, with how far it is given to each side anywhere at all, or whether something bars it."""
    catalogue = sides[0].catalogue
    every = [c for c in catalogue.capabilities() if any(c in _stated(side) for side in sides)]
    return [
        Row("board", c, catalogue.phrase(c), tuple(Answer(_extent(side, c)) for side in sides), {"capability": c})
        for c in every
    ]


class TreeAnswers:
    """What each side may do at every page of the tree that may be told of: the answers of whole columns at once."""

    def __init__(self, sides: Sides, seen: Bools) -> None:
        tree = sides[0].nodes.tree
        self.positions: Ints = (seen & tree.having("tree", frozenset({"content"}))).nonzero()[0]
        """Where those pages stand in the tree."""
        self._codes = np.stack([side.survey.reasons(side.subject, ON_TREE, side.at)[self.positions] for side in sides])
        allowed = self._codes == CODE[Reason.ALLOWED]
        self.differs: Bools = (allowed != allowed[0]).any(axis=(0, 2))
        """`[positions]` whether the sides come to different answers there."""

    def at(self, row: int) -> list[list[Answer]]:
        """The answers to ON_TREE at one of the positions, by side."""
        return [[_answer(REASONS[code]) for code in codes] for codes in self._codes[:, row].tolist()]


def _actions(sides: Sides, target: Target) -> Iterator[Row]:
    for action in ACTIONS:
        if action != "create":
            answers = tuple(_answer(_reason(side, action, target)) for side in sides)
            yield Row("action", action, VERB_WORDS[action][0], answers, {"action": action})


def _fields(sides: Sides, row: Node, target: Target) -> Iterator[Row]:
    for field in sides[0].catalogue.type(row.type).fields:
        answers = []
        for side in sides:
            sees, changes = (_reason(side, f"{verb}-field", target, field=field.key) for verb in ("see", "change"))
            if sees is not Reason.ALLOWED:
                answers.append(Answer("no", str(sees)))
            else:
                answers.append(Answer("change") if changes is Reason.ALLOWED else Answer("see", str(changes)))
        yield Row("field", field.key, field.name, tuple(answers), {"action": "change-field", "field": field.key})


def _facets(sides: Sides, row: Node, target: Target) -> Iterator[Row]:
    for number, component in enumerate(row.components, 1):
        name = sides[0].catalogue.component_name(component["kind"])
        for facet in sides[0].snapshot.policy.components.get(component["kind"], ()):
            part = {"component": component["kind"], "facet": facet, "component_id": component["id"]}
            answers = tuple(_answer(_reason(side, "change-facet", target, **part)) for side in sides)
            asked = {"action": "change-facet", **part}
            yield Row("part", f"{component['id']}.{facet}", f"{number}. {name}, {facet}", answers, asked)


def _components(sides: Sides, row: Node, target: Target) -> Iterator[Row]:
    catalogue = sides[0].catalogue
    for kind, component in catalogue.components.items():
        if catalogue.takes(row.type, kind):
            answers = tuple(_answer(_reason(side, "insert-component", target, component=kind)) for side in sides)
            yield Row("insert", kind, component.name, answers, {"action": "insert-component", "component": kind})


def _reason(side: Viewpoint, action: str, target: Target, **part: Any) -> Reason:
    return side.engine.decide(Question(side.subject, action, target, side.at, **part)).reason


def _answer(reason: Reason) -> Answer:
    return Answer("yes") if reason is Reason.ALLOWED else Answer("no", str(reason))


def _stated(side: Viewpoint) -> set[str]:
    sources = side.snapshot.engine.grants.of(side.subject, side.at).sources
    return {capability for source in sources for capability in source.statements}


def _extent(side: Viewpoint, capability: str) -> str:
    """`barred`, or how far it reaches by the source that gives most: `own`, `team`, `all`, `yes`, or nothing."""
    if side.keyholder:
        return "all"
    held = side.snapshot.engine.grants.of(side.subject, side.at)
    if not held.active or any(capability in source.resolved.barred for source in held.sources):
        return "barred" if held.active else ""
    longest = max((source.resolved.extents.get(capability, 0) for source in held.sources), default=0)
    if longest and side.snapshot.policy.kind(capability) is not Kind.GRADED:
        return "yes"
    return {Extent.NONE: "", Extent.OWN: "own", Extent.TEAM: "team"}.get(Extent(longest), "all")
