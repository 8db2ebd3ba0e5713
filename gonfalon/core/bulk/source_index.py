"""Everybody's sources in arrays, so that those of many accounts are looked up at once (§3, §4).

    roll = Roll(policy, limits, tree)
    numbers = roll.enrol([ada, ben])            # a number for each holder
    roll.people[numbers, Person.OWN]            # what is asked of holders again and again
    entries, counts = roll.entries(numbers)     # the entries of each, one holder after the other
    roll.facts[entries, Fact.START]             # where in the tree each entry begins to count

An *entry* is what a source says within one branch: a source whose scope names two branches apart has two,
one that names none has one for the whole tree. Sources of one role with an equal scope share theirs.
"""

from collections.abc import Sequence
from enum import IntEnum
from threading import RLock

import numpy as np

from gonfalon.core.bulk.grant_tables import Tables
from gonfalon.core.decide.grants import Holding, Source
from gonfalon.core.decide.limits import LimitIndex
from gonfalon.core.model.bits import Growing, Ints, spread
from gonfalon.core.model.policy import Policy, Scope, Subject
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import Effect


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


class Person(IntEnum):
    """What a holder is: the columns of `Roll.people`."""

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


class Roll:
    """Numbers holders, entries, and what entries are made of. They only ever grow; `lock` is held while anything does.

    Made `like` another over the same tree, it begins with all that the other knows, under the same numbers.
    """

    def __init__(self, policy: Policy, limits: LimitIndex, tree: Tree, like: "Roll | None" = None) -> None:
        self.tree, self.limits = tree, limits
        self.lock = RLock()
        self.tables: Tables = Tables(policy, None if like is None else like.tables)
        self.withins: dict[Scope, int] = {Scope(): 0}
        self.groups: dict[tuple[Subject, ...], int] = {(): 0}
        self.everyone: list[Holding] = []
        self._facts, self._people, self._entries = Growing(len(Fact)), Growing(len(Person)), Growing()
        self._numbers: dict[tuple[int, ...], int] = {}
        self._sources: dict[Source, tuple[int, ...]] = {}
        self._enrolled: dict[Holding, int] = {}
        self._runs: dict[frozenset[str] | None, tuple[tuple[int, int], ...]] = {None: ((0, len(tree)),)}
        if like is not None:
            with like.lock:
                self._take_over(like)

    def __len__(self) -> int:
        return len(self._numbers)

    def _take_over(self, like: "Roll") -> None:
        """Begin with what another knows, but for sources through groups that stops name in one policy only."""
        self._facts, self._people, self._entries = like._facts.copy(), like._people.copy(), like._entries.copy()
        self._numbers, self._runs, self.everyone = like._numbers.copy(), like._runs.copy(), like.everyone.copy()
        self.withins, self.groups = like.withins.copy(), like.groups.copy()
        self._sources, self._enrolled = like._sources.copy(), like._enrolled.copy()
        if otherwise := self.limits.subjects[Effect.STOP] ^ like.limits.subjects[Effect.STOP]:
            for source in [source for source in self._sources if not otherwise.isdisjoint(source.groups)]:
                del self._sources[source]
            for who in [who for who in self._enrolled if not otherwise.isdisjoint(who.subjects)]:
                del self._enrolled[who]

    @property
    def facts(self) -> Ints:
        """`[entries, Fact]` what each is made of."""
        return self._facts.rows

    @property
    def people(self) -> Ints:
        """`[holders, Person]` what each is; who each is, `everyone` tells."""
        return self._people.rows

    def enrol(self, holders: Sequence[Holding]) -> Ints:
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
        first, last = people[:, Person.FIRST], people[:, Person.LAST]
        return self._entries.rows[spread(first, last)[1]], last - first

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

    def _add(self, unknown: Sequence[Holding]) -> None:
        entries: list[int] = []
        people: list[tuple[int, ...]] = []
        before = len(self._entries)
        for who in unknown:
            first = before + len(entries)
            for source in who.sources if who.active and not who.keyholder else ():
                found = self._sources.get(source)
                entries += self._of_source(source) if found is None else found
            confined = who.account is not None and bool(who.account.reach)
            people.append((first, before + len(entries), who.active, who.keyholder, who.own, confined))
        self._entries.add(entries)
        self._people.add(people)
        self._enrolled.update(zip(unknown, range(len(self.everyone), len(self._people)), strict=True))
        self.everyone += unknown

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
            self._facts.add([facts])
        return number
