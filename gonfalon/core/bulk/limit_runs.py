"""Limits in force along a tree, for all subjects at once, as runs of positions (§4).

    runs = LimitRuns(limits)
    runs.on(columns, Effect.STOP)     # parallel columns: subject, start, end, action bits

Of a subject's intervals only those are kept in which some column is stopped or barred.
"""

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Literal, NamedTuple
from weakref import WeakKeyDictionary

import numpy as np

from gonfalon.core.bulk.columns import ActionColumns
from gonfalon.core.decide.limits import LimitIndex, LimitIntervals
from gonfalon.core.model.bits import Bits, Ints
from gonfalon.core.model.policy import Subject
from gonfalon.core.model.vocabulary import Effect

Narrowing = Literal[Effect.STOP, Effect.BAR]
EFFECTS: tuple[Narrowing, ...] = (Effect.STOP, Effect.BAR)


class Runs(NamedTuple):
    """Parallel columns, by run: a place in `LimitRuns.subjects`, the first position, the one after the last, bits."""

    subject: Ints
    start: Ints
    end: Ints
    bits: Bits


class _Intervals(NamedTuple):
    """Every interval of every subject, one after the other; `bits` are places in `values`, as `LimitIndex` has them."""

    subject: Ints
    start: Ints
    end: Ints
    bits: dict[Narrowing, Ints]
    values: Mapping[int, int]


class LimitRuns:
    """The intervals of every subject that a limit names, one subject after the other."""

    def __init__(self, limits: LimitIndex) -> None:
        self.limits = limits
        self._on: WeakKeyDictionary[ActionColumns, dict[Narrowing, Runs]] = WeakKeyDictionary()

    def on(self, columns: ActionColumns, effect: Narrowing) -> Runs:
        """The runs in which limits of an effect narrow any of the columns; kept for as long as the columns are."""
        kept = self._on.setdefault(columns, {})
        if effect not in kept:
            steps = self._steps
            bits = columns.columns_of(self.limits, steps.values)[steps.bits[effect]]
            some = bits.nonzero()[0]
            kept[effect] = Runs(steps.subject[some], steps.start[some], steps.end[some], bits[some])
        return kept[effect]

    @cached_property
    def subjects(self) -> list[Subject]:
        """Whoever a limit names."""
        return list(self.limits.named)

    @cached_property
    def _steps(self) -> _Intervals:
        each = [intervals for subject in self.subjects if (intervals := self.limits.intervals_for(subject)) is not None]
        values: dict[int, int] = {}
        return _Intervals(
            np.repeat(np.arange(len(each)), [len(intervals.starts) for intervals in each]),
            np.array([start for intervals in each for start in intervals.starts], dtype=np.intp),
            np.array([end for intervals in each for end in _ends(intervals, self.limits)], dtype=np.intp),
            {
                effect: _numbered([bits for intervals in each for bits in intervals.of(effect)], values)
                for effect in EFFECTS
            },
            values,
        )


def _numbered(every: Sequence[int], numbers: dict[int, int]) -> Ints:
    return np.array([numbers.setdefault(each, len(numbers)) for each in every], dtype=np.intp)


def _ends(intervals: LimitIntervals, limits: LimitIndex) -> list[int]:
    return [*intervals.starts[1:], len(limits.tree)]
