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


class Total(NamedTuple):
    """What turns of one action for all: how many accounts gain and lose it, and the most that one of them does.

    Visitors are no account, and told apart; the most is of them too.
    """

    gain: int = 0
    lose: int = 0
    most_gained: int = 0
    most_lost: int = 0
    visitors: Turned = NOTHING

    def and_account(self, turned: Turned) -> "Total":
        return self._replace(gain=self.gain + (turned.gained > 0), lose=self.lose + (turned.lost > 0))._at_most(turned)

    def and_visitors(self, turned: Turned) -> "Total":
        return self._replace(visitors=turned)._at_most(turned)

    def _at_most(self, turned: Turned) -> "Total":
        return self._replace(
            most_gained=max(self.most_gained, turned.gained), most_lost=max(self.most_lost, turned.lost)
        )


Turns = Mapping[str, Turned]
"""By action, `create:T`, plain capability, or part: `see-field berth.dues`, `insert-component table`, `see account`."""


def turns_of(counted: Iterable[tuple[str, int, int]]) -> Turns:
    return {name: Turned(gained, lost) for name, gained, lost in counted if gained or lost}
