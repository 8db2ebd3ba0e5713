"""How many answers turned, between one policy and another."""

from collections.abc import Iterable, Iterator, Mapping
from typing import NamedTuple

import numpy as np

from gonfalon.core.plan import Bools


class Turned(NamedTuple):
    """How many answers turned to yes and to no: nodes, profiles, or 1 for what is asked of neither."""

    gained: int
    lost: int

    def __add__(self, other: object) -> "Turned":
        if not isinstance(other, Turned):
            return NotImplemented
        return Turned(self.gained + other.gained, self.lost + other.lost)


NOTHING = Turned(0, 0)
Turns = Mapping[str, Turned]
"""By action, `create:T`, plain capability, or part: `see-field berth.dues`, `insert-component table`, `see account`."""

Answers = Mapping[str, Bools]
"""Yes or no at each of some places, by the name of what was asked."""


def turns_of(counted: Iterable[tuple[str, int, int]]) -> Turns:
    return {name: Turned(gained, lost) for name, gained, lost in counted if gained or lost}


def added(turns: Turns, more: Turns) -> Turns:
    names = {**turns, **more}
    sums = ((n, turns.get(n, NOTHING), more.get(n, NOTHING)) for n in names)
    return turns_of((n, a.gained + b.gained, a.lost + b.lost) for n, a, b in sums)


def differences(was: Mapping[str, Bools], now: Mapping[str, Bools]) -> Iterator[tuple[str, int, int]]:
    none = np.zeros(1, dtype=bool)
    for name in {**was, **now}:
        before, after = was.get(name, none), now.get(name, none)
        yield name, int(np.count_nonzero(after & ~before)), int(np.count_nonzero(before & ~after))
