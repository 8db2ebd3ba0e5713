"""Everybody's sources in arrays, so that those of many accounts are looked up at once (§3, §4).

    roll = SourceIndex(policy, limits, tree)
    numbers = roll.enrol([ada, ben])            # a number for each holder
    roll.people[numbers, HolderColumn.OWN]            # what is asked of holders again and again
    entries, counts = roll.entries(numbers)     # the entries of each, one holder after the other
    roll.facts[entries, SourceColumn.START]             # where in the tree each entry begins to count

An *entry* is what a source says within one branch: a source whose scope names two branches apart has two,
one that names none has one for the whole tree. Sources of one role with an equal scope share theirs.
"""

from collections.abc import Sequence
from enum import IntEnum
from threading import RLock

import numpy as np

from gonfalon.core.bulk.grant_tables import Tables
from gonfalon.core.decide.grants import GrantSource, SubjectGrants
from gonfalon.core.decide.limits import LimitIndex
from gonfalon.core.model.bits import Growing, Ints, expand_ranges
from gonfalon.core.model.policy import Policy, Scope, Subject
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import Effect


class SourceColumn(IntEnum):
    """What an entry is made of: the columns of `SourceIndex.facts`."""

    SAID = 0
    """A number of `SourceIndex.tables`."""
    WITHIN = 1
    """A place in `SourceIndex.withins`: a scope without its branches. The first restricts nothing."""
    GROUPS = 2
    """A place in `SourceIndex.groups`: those that the source came through and some stop names. The first has none."""
    START = 3
    """The first position of the tree where it counts."""
    END = 4
    """The position after the last."""


class HolderColumn(IntEnum):
    """What a holder is: the columns of `SourceIndex.people`."""

    FIRST = 0
    """Where the entries of the holder begin in the roll's list of all."""
    LAST = 1
    """Where those of the next begin."""
    ACTIVE = 2
    KEYHOLDER = 3
    OWN = 4
    """Whether everything is supposed to be their own work."""
    CONFINED = 5
    """Whether they may do nothing outside some branches."""


class SourceIndex:
    """Numbers holders, entries, and what entries are made of. They only ever grow; `lock` is held while anything does.

    Made `like` another over the same tree, it begins with all that the other knows, under the same numbers.
    """

    def __init__(self, policy: Policy, limits: LimitIndex, tree: Tree, previous: "SourceIndex | None" = None) -> None:
        self.tree, self.limits = tree, limits
        self.lock = RLock()
        self.tables: Tables = Tables(policy, None if previous is None else previous.tables)
        self.withins: dict[Scope, int] = {Scope(): 0}
        self.groups: dict[tuple[Subject, ...], int] = {(): 0}
        self.everyone: list[SubjectGrants] = []
        self._facts, self._people, self._entries = Growing(len(SourceColumn)), Growing(len(HolderColumn)), Growing()
        self._numbers: dict[tuple[int, ...], int] = {}
        self._sources: dict[GrantSource, tuple[int, ...]] = {}
        self._enrolled: dict[SubjectGrants, int] = {}
        self._runs: dict[frozenset[str] | None, tuple[tuple[int, int], ...]] = {None: ((0, len(tree)),)}
        if previous is not None:
            with previous.lock:
                self._take_over(previous)

    def __len__(self) -> int:
        return len(self._numbers)

    def _take_over(self, previous: "SourceIndex") -> None:
        """Begin with what another knows, but for sources through groups that stops name in one policy only."""
        self._facts, self._people, self._entries = (
            previous._facts.copy(),
            previous._people.copy(),
            previous._entries.copy(),
        )
        self._numbers, self._runs, self.everyone = (
            previous._numbers.copy(),
            previous._runs.copy(),
            previous.everyone.copy(),
        )
        self.withins, self.groups = previous.withins.copy(), previous.groups.copy()
        self._sources, self._enrolled = previous._sources.copy(), previous._enrolled.copy()
        if otherwise := self.limits.subjects[Effect.STOP] ^ previous.limits.subjects[Effect.STOP]:
            for source in [source for source in self._sources if not otherwise.isdisjoint(source.groups)]:
                del self._sources[source]
            for who in [who for who in self._enrolled if not otherwise.isdisjoint(who.subjects)]:
                del self._enrolled[who]

    @property
    def facts(self) -> Ints:
        """`[entries, SourceColumn]` what each is made of."""
        return self._facts.rows

    @property
    def people(self) -> Ints:
        """`[holders, HolderColumn]` what each is; who each is, `everyone` tells."""
        return self._people.rows

    def intern(self, holders: Sequence[SubjectGrants]) -> Ints:
        """A number for each of some holders."""
        with self.lock:
            numbers = list(map(self._enrolled.get, holders))
            if None in numbers:
                self._add([*dict.fromkeys(who for who in holders if who not in self._enrolled)])
                numbers = list(map(self._enrolled.get, holders))
            return np.array(numbers, dtype=np.intp)

    def entries(self, holders: Ints) -> tuple[Ints, Ints]:
        """The entries of holders, by their numbers, one after the other, and how many each has.

        Whoever is inactive or a keyholder has none.
        """
        people = self.people[holders]
        first, last = people[:, HolderColumn.FIRST], people[:, HolderColumn.LAST]
        return self._entries.rows[expand_ranges(first, last)[1]], last - first

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

    def _add(self, unknown: Sequence[SubjectGrants]) -> None:
        entries: list[int] = []
        people: list[tuple[int, ...]] = []
        before = len(self._entries)
        for who in unknown:
            first = before + len(entries)
            for source in who.sources if who.active and not who.keyholder else ():
                found = self._sources.get(source)
                entries += self._of_source(source) if found is None else found
            confined = who.account is not None and bool(who.account.reach)
            people.append((first, before + len(entries), who.active, who.keyholder, who.as_author, confined))
        self._entries.add(entries)
        self._people.add(people)
        self._enrolled.update(zip(unknown, range(len(self.everyone), len(self._people)), strict=True))
        self.everyone += unknown

    def _of_source(self, source: GrantSource) -> tuple[int, ...]:
        stopped, (sites, branches, types, topics) = self.limits.subjects[Effect.STOP], source.scope
        within, groups = 0, tuple([group for group in source.groups if group in stopped])
        if not (sites is None and types is None and topics is None):
            within = self.withins.setdefault(Scope(sites, None, types, topics), len(self.withins))
        facts = self.tables.number(source.resolved), within, self.groups.setdefault(groups, len(self.groups))
        numbers = tuple([self._number((*facts, *run)) for run in self.runs(branches)])
        self._sources[source] = numbers
        return numbers

    def _number(self, facts: tuple[int, ...]) -> int:
        number = self._numbers.get(facts)
        if number is None:
            number = self._numbers[facts] = len(self._numbers)
            self._facts.add([facts])
        return number
