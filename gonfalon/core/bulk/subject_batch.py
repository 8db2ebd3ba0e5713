"""Some holders with the entries of each on the roll, and what else is asked of each again and again, in arrays.

enrolled = SubjectBatch.of(ground, [ada, ben])
enrolled.numbers, enrolled.counts     # the entries of each, one holder after the other
enrolled.some(which)                  # of some of them, without looking anybody up again
"""

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from gonfalon.core.bulk.authorship import Numbered
from gonfalon.core.bulk.policy_index import PolicyIndex
from gonfalon.core.bulk.source_index import HolderColumn
from gonfalon.core.decide.grants import SubjectGrants
from gonfalon.core.model.bits import Bools, Ints
from gonfalon.core.model.policy import Subject


class SubjectBatch:
    """Holders, in an order; `numbers` are the entries of one after the other, `counts` how many each has."""

    def __init__(self, policy_index: PolicyIndex, holders: Ints) -> None:
        """`holders` by their numbers on the roll of the ground."""
        self.policy_index, self.holders = policy_index, holders
        self.numbers, self.counts = policy_index.source_index.entries(holders)
        people = policy_index.source_index.people[holders] != 0
        active, keyholder = people[:, HolderColumn.ACTIVE], people[:, HolderColumn.KEYHOLDER]
        self.active: Bools = active
        self.own: Bools = people[:, HolderColumn.OWN]
        """By holder whether everything is supposed to be their own work."""
        self.unbound: Bools = keyholder & active
        """By holder whether they are a keyholder who is active."""
        self.bound: Bools = active & ~keyholder
        """By holder whether limits and reach narrow them: whoever is active and no keyholder."""
        self.confined: Bools = people[:, HolderColumn.CONFINED]
        """By holder whether they may do nothing outside some branches."""

    @classmethod
    def of(cls, policy_index: PolicyIndex, who: Sequence[SubjectGrants]) -> "SubjectBatch":
        """Holders who are looked up on the roll."""
        return cls(policy_index, policy_index.source_index.intern(who))

    def __len__(self) -> int:
        return len(self.holders)

    def some(self, which: Ints) -> "SubjectBatch":
        """Some of the holders, in that order."""
        some = SubjectBatch(self.policy_index, self.holders[which])
        if "authoring" in self.__dict__:
            some.authoring = self.authoring.some(which)
        return some

    def at(self, i: int) -> SubjectGrants:
        """The holder in a place."""
        return self.policy_index.source_index.everyone[int(self.holders[i])]

    @cached_property
    def who(self) -> list[SubjectGrants]:
        everyone = self.policy_index.source_index.everyone
        return [everyone[number] for number in self.holders.tolist()]

    @property
    def holder(self) -> Ints:
        """By entry the place of its holder."""
        return np.repeat(np.arange(len(self)), self.counts)

    def any_of(self, subjects: frozenset[Subject]) -> Bools:
        """By holder whether they, or a group of theirs, are among some subjects."""
        return np.array([not subjects.isdisjoint(who.subjects) for who in self.who], dtype=bool)

    @cached_property
    def authoring(self) -> Numbered:
        """The holders, and their groups, as authors."""
        return self.policy_index.authors.numbered([who.account for who in self.who])
