"""How many answers turned, between one policy and another."""

from collections.abc import Iterable, Mapping
from typing import NamedTuple


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


def turns_of(counted: Iterable[tuple[str, int, int]]) -> Turns:
    return {name: Turned(gained, lost) for name, gained, lost in counted if gained or lost}
