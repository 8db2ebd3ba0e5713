"""Some holders, with their grants one after the other and what is asked of holders again and again, as arrays.

subjects = SubjectBatch.of(policy_index, [ada, ben])
subjects.numbers, subjects.counts     # the grants of each, one holder after the other, and how many each has
subjects.some(which)                  # some of them, without looking anybody up again
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
    """Holders in an order: `numbers` are their grants in the source index, `counts` how many each has."""

    def __init__(self, policy_index: PolicyIndex, holders: Ints) -> None:
        """`holders` by their numbers in the source index."""
        self.policy_index, self.holders = policy_index, holders
        self.numbers, self.counts = policy_index.source_index.grants_of(holders)
        holder_rows = policy_index.source_index.holder_rows[holders] != 0
        active, keyholder = holder_rows[:, HolderColumn.ACTIVE], holder_rows[:, HolderColumn.KEYHOLDER]
        self.active: Bools = active
        self.own: Bools = holder_rows[:, HolderColumn.OWN]
        """`[holders]` whether each counts as the author of every node."""
        self.unbound: Bools = keyholder & active
        """`[holders]` whether each is an active keyholder."""
        self.bound: Bools = active & ~keyholder
        """`[holders]` whether limits and reach apply: active, and no keyholder."""
        self.confined: Bools = holder_rows[:, HolderColumn.CONFINED]
        """`[holders]` whether each has a reach."""

    @classmethod
    def of(cls, policy_index: PolicyIndex, who: Sequence[SubjectGrants]) -> "SubjectBatch":
        """Holders, looked up in the source index."""
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
        return self.policy_index.source_index.holders[int(self.holders[i])]

    @cached_property
    def who(self) -> list[SubjectGrants]:
        """The holders, in their order."""
        everyone = self.policy_index.source_index.holders
        return [everyone[number] for number in self.holders.tolist()]

    @property
    def holder(self) -> Ints:
        """`[grants]` the place of the holder of each grant."""
        return np.repeat(np.arange(len(self)), self.counts)

    def any_of(self, subjects: frozenset[Subject]) -> Bools:
        """`[holders]` whether the account, or a group of it, is among some subjects of limits."""
        return np.array([not subjects.isdisjoint(who.subjects) for who in self.who], dtype=bool)

    @cached_property
    def authoring(self) -> Numbered:
        """The holders, and their groups, as authors."""
        return self.policy_index.authors.numbered([who.account for who in self.who])
