"""How many answers turned, between one policy and another."""

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple


class Delta(NamedTuple):
    """How many answers turned to yes and to no: nodes, profiles, or 1 for what is asked of neither."""

    gained: int
    lost: int

    def __add__(self, other: object) -> "Delta":
        if not isinstance(other, Delta):
            return NotImplemented
        return Delta(self.gained + other.gained, self.lost + other.lost)


NOTHING = Delta(0, 0)


class Total(NamedTuple):
    """One action over all accounts: how many gain and lose it, and the most answers that any of them does.

    Visitors are no account, and told apart; the most is of them too.
    """

    gain: int
    lose: int
    most_gained: int
    most_lost: int
    visitors: Delta

    @classmethod
    def of(cls, accounts: Sequence[Delta], visitors: Delta = NOTHING) -> "Total":
        """Summed over the deltas of accounts, and those of visitors beside them."""
        gained, lost = zip(*accounts, visitors, strict=True)
        gain, lose = (len(accounts) - counts[: len(accounts)].count(0) for counts in (gained, lost))
        return cls(gain, lose, max(gained), max(lost), visitors)


Deltas = Mapping[str, Delta]
"""By action, `create:T`, plain capability, or part: `see-field berth.dues`, `insert-component table`, `see account`."""


def deltas_of(counted: Iterable[tuple[str, int, int]]) -> Deltas:
    """Deltas by name, from names with how many answers turned to yes and to no; without those where none did."""
    return {name: Delta(gained, lost) for name, gained, lost in counted if gained or lost}
