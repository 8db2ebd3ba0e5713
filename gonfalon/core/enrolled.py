"""Some holders with the entries of each on the roll, and what else is asked of each again and again, in arrays.

enrolled = Enrolled(ground, [ada, ben])
enrolled.numbers, enrolled.counts     # the entries of each, one holder after the other
enrolled.some(which)                  # of some of them, without looking anything up again
"""

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from gonfalon.core.arrays import Bools, Ints, spread
from gonfalon.core.authors import Numbered
from gonfalon.core.ground import Ground
from gonfalon.core.holding import Holding
from gonfalon.core.policy import Subject


class Enrolled:
    """Holders, in an order; `numbers` are the entries of one after the other, `counts` how many each has."""

    def __init__(self, ground: Ground, who: Sequence[Holding]) -> None:
        self.ground, self.who = ground, list(who)
        self.numbers, self.counts = ground.roll.entries(self.who)

    def __len__(self) -> int:
        return len(self.who)

    def some(self, which: Ints) -> "Enrolled":
        """Some of the holders, in that order."""
        some = Enrolled.__new__(Enrolled)
        some.ground, some.who = self.ground, [self.who[i] for i in which.tolist()]
        ends = np.cumsum(self.counts)[which]
        some.counts = self.counts[which]
        some.numbers = self.numbers[spread(ends - some.counts, ends)[1]]
        some.own, some.unbound, some.bound = self.own[which], self.unbound[which], self.bound[which]
        some.confined = self.confined[which]
        if "authoring" in self.__dict__:
            some.authoring = self.authoring.some(which)
        return some

    @property
    def holder(self) -> Ints:
        """By entry the place of its holder."""
        return np.repeat(np.arange(len(self.who)), self.counts)

    @cached_property
    def own(self) -> Bools:
        """By holder whether everything is supposed to be their own work."""
        return np.array([who.own for who in self.who], dtype=bool)

    @cached_property
    def unbound(self) -> Bools:
        """By holder whether they are a keyholder who is active."""
        return np.array([who.keyholder and who.active for who in self.who], dtype=bool)

    @cached_property
    def bound(self) -> Bools:
        """By holder whether limits and reach narrow them: whoever is active and no keyholder."""
        return np.array([who.active and not who.keyholder for who in self.who], dtype=bool)

    @cached_property
    def confined(self) -> Bools:
        """By holder whether they may do nothing outside some branches."""
        return np.array([who.account is not None and bool(who.account.reach) for who in self.who], dtype=bool)

    def any_of(self, subjects: frozenset[Subject]) -> Bools:
        """By holder whether they, or a group of theirs, are among some subjects."""
        return np.array([not subjects.isdisjoint(who.subjects) for who in self.who], dtype=bool)

    @cached_property
    def authoring(self) -> Numbered:
        """The holders, and their groups, as authors."""
        return self.ground.authors.numbered([who.account for who in self.who])
