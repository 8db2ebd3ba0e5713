"""Everybody's sources in arrays, so that those of many accounts are looked up at once (§3, §4).

    roll = Roll(policy, limits, tree)
    numbers, counts = roll.entries([ada, ben])  # the entries of each holder, one holder after the other
    roll.facts[numbers, Fact.START]             # where in the tree each entry begins to count

An *entry* is what a source says within one branch: a source whose scope names two branches apart has two,
one that names none has one for the whole tree. Sources of one role with an equal scope share theirs.
"""

from collections.abc import Iterable
from enum import IntEnum
from threading import RLock

import numpy as np

from gonfalon.core.arrays import Ints
from gonfalon.core.holding import Holding, Source
from gonfalon.core.limits import LimitIndex
from gonfalon.core.policy import Policy, Scope, Subject
from gonfalon.core.tables import Tables
from gonfalon.core.tree import Tree
from gonfalon.core.vocabulary import Effect

_NONE = np.array([], dtype=np.intp)


class Fact(IntEnum):
    """What an entry is made of: the columns of `Roll.facts`."""

    SAID = 0
    """A number of `Roll.tables`."""
    WITHIN = 1
    """A place in `Roll.withins`: a scope without its branches. The first restricts nothing."""
    GROUPS = 2
    """A place in `Roll.groups`: those that the source came through and some stop names. The first has none."""
    START = 3
    """The first position of the tree where it counts."""
    END = 4
    """The position after the last."""


class Roll:
    """Numbers entries and what they are made of. They only ever grow; `lock` is held while anything does.

    Made `like` another over the same tree, it begins with all that the other knows, under the same numbers.
    """

    def __init__(self, policy: Policy, limits: LimitIndex, tree: Tree, like: "Roll | None" = None) -> None:
        self.tree, self.limits = tree, limits
        self.lock = RLock()
        self.tables: Tables = Tables(policy, None if like is None else like.tables)
        self.withins: dict[Scope, int] = {Scope(): 0}
        self.groups: dict[tuple[Subject, ...], int] = {(): 0}
        self.facts = np.empty((1024, len(Fact)), dtype=np.intp)
        self._numbers: dict[tuple[int, ...], int] = {}
        self._sources: dict[Source, tuple[int, ...]] = {}
        self._holders: dict[Holding, Ints] = {}
        self._runs: dict[frozenset[str] | None, tuple[tuple[int, int], ...]] = {None: ((0, len(tree)),)}
        if like is not None:
            with like.lock:
                self._take_over(like)

    def __len__(self) -> int:
        return len(self._numbers)

    def _take_over(self, like: "Roll") -> None:
        """Begin with what another knows, but for sources through groups that stops name in one policy only."""
        self.facts, self._numbers, self._runs = like.facts.copy(), like._numbers.copy(), like._runs.copy()
        self.withins, self.groups = like.withins.copy(), like.groups.copy()
        self._sources, self._holders = like._sources.copy(), like._holders.copy()
        if otherwise := self.limits.subjects[Effect.STOP] ^ like.limits.subjects[Effect.STOP]:
            for source in [source for source in self._sources if not otherwise.isdisjoint(source.groups)]:
                del self._sources[source]
            for who in [who for who in self._holders if not otherwise.isdisjoint(who.subjects)]:
                del self._holders[who]

    def entries(self, holders: Iterable[Holding]) -> tuple[Ints, Ints]:
        """The entries of holders one after the other, and how many each has: none who is inactive or a keyholder."""
        with self.lock:
            known = self._holders
            each = [known[who] if who in known else self._of(who) for who in holders]
        counts = np.fromiter(map(len, each), dtype=np.intp, count=len(each))
        return np.concatenate((_NONE, *each)), counts

    def runs(self, branches: frozenset[str] | None) -> tuple[tuple[int, int], ...]:
        """Branches (None: the whole tree) as runs of positions, none within another, ascending."""
        if branches is not None and branches not in self._runs:
            spans = sorted((span.start, span.stop) for span in map(self.tree.branch, branches & self.tree.index.keys()))
            runs: list[tuple[int, int]] = []
            for start, end in spans:
                if not runs or start >= runs[-1][1]:
                    runs.append((start, end))
            self._runs[branches] = tuple(runs)
        return self._runs[branches]

    def _of(self, who: Holding) -> Ints:
        every: list[int] = []
        for source in who.sources if who.active and not who.keyholder else ():
            found = self._sources.get(source)
            every += self._of_source(source) if found is None else found
        numbers = self._holders[who] = np.array(every, dtype=np.intp)
        return numbers

    def _of_source(self, source: Source) -> tuple[int, ...]:
        stopped, (sites, branches, types, topics) = self.limits.subjects[Effect.STOP], source.scope
        within, groups = 0, tuple([group for group in source.groups if group in stopped])
        if not (sites is None and types is None and topics is None):
            within = self.withins.setdefault(Scope(sites, None, types, topics), len(self.withins))
        facts = self.tables.number(source.said), within, self.groups.setdefault(groups, len(self.groups))
        numbers = tuple([self._number((*facts, *run)) for run in self.runs(branches)])
        self._sources[source] = numbers
        return numbers

    def _number(self, facts: tuple[int, ...]) -> int:
        number = self._numbers.get(facts)
        if number is None:
            number = self._numbers[facts] = len(self._numbers)
            if number == len(self.facts):
                self.facts = np.concatenate((self.facts, np.empty_like(self.facts)))
            self.facts[number] = facts
        return number
