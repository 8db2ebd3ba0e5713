"""Limits in force along a tree, for all subjects at once, as runs of positions (§4).

    forces = Forces(limits)
    forces.on(plan, Effect.STOP)     # whose, from where, until where, which columns

Of the steps that `LimitIndex.along` tells only those are kept in which a column of the plan is stopped or barred.
"""

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.limits import LimitIndex, Steps
from gonfalon.core.plan import Bits, Plan
from gonfalon.core.policy import Subject
from gonfalon.core.vocabulary import Effect

Narrowing = Literal[Effect.STOP, Effect.BAR]
Ints = NDArray[np.intp]


class Runs(NamedTuple):
    """For each run a place in `Forces.subjects`, where in the tree it starts and ends, and the columns narrowed."""

    subject: Ints
    start: Ints
    end: Ints
    bits: Bits


class Forces:
    """The steps of every subject that a limit names, one subject after the other."""

    def __init__(self, limits: LimitIndex) -> None:
        self.limits = limits
        steps = {subject: along for subject in limits.named if (along := limits.along(subject)) is not None}
        self.subjects: list[Subject] = list(steps)
        self._subject = np.repeat(np.arange(len(steps)), [len(along.starts) for along in steps.values()])
        self._start = np.array([start for along in steps.values() for start in along.starts], dtype=np.intp)
        self._end = np.array([end for along in steps.values() for end in _ends(along, limits)], dtype=np.intp)
        self._values: dict[int, int] = {}
        self._by_effect: dict[Narrowing, Ints] = {
            effect: np.array(
                [self._value(bits) for along in steps.values() for bits in along.of(effect)], dtype=np.intp
            )
            for effect in (Effect.STOP, Effect.BAR)
        }
        self._on: dict[tuple[Plan, Narrowing], Runs] = {}

    def on(self, plan: Plan, effect: Narrowing) -> Runs:
        """Where limits of an effect narrow what a plan asks."""
        if (plan, effect) not in self._on:
            columns = np.array([plan.columns_of(self.limits, bits) for bits in self._values], dtype=plan.dtype)
            bits = columns[self._by_effect[effect]]
            some = bits.nonzero()[0]
            self._on[plan, effect] = Runs(self._subject[some], self._start[some], self._end[some], bits[some])
        return self._on[plan, effect]

    def _value(self, bits: int) -> int:
        return self._values.setdefault(bits, len(self._values))


def _ends(along: Steps, limits: LimitIndex) -> list[int]:
    return [*along.starts[1:], len(limits.tree)]
