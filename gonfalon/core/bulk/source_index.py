"""Every source of grants as rows of integers, so that those of many accounts are looked up at once (§3, §4).

    index = SourceIndex(policy, limits, tree)
    numbers = index.intern([ada, ben])               # [2] a number for each holder
    index.holder_rows[numbers, HolderColumn.CONFINED]
    grants, counts = index.grants_of(numbers)        # the grants of each holder, one holder after the other
    index.grant_rows[grants, SourceColumn.START]     # where in the tree each grant begins to count

A *grant* here is what one source says within one run of the tree: a source whose scope names two branches apart has
two grants, one that names none has one for the whole tree. Sources of one role with an equal scope share theirs.
"""

from collections.abc import Sequence
from enum import IntEnum
from threading import RLock

import numpy as np

from gonfalon.core.bulk.grant_tables import GrantTables
from gonfalon.core.decide.grants import GrantSource, SubjectGrants
from gonfalon.core.decide.limits import LimitIndex
from gonfalon.core.model.bits import Growing, Ints, expand_ranges
from gonfalon.core.model.policy import Policy, Scope, Subject
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import Effect


class SourceColumn(IntEnum):
    """The columns of `SourceIndex.grant_rows`."""

    STATEMENTS = 0
    """What the source says: a row of `SourceIndex.tables`."""
    FILTER = 1
    """A place in `SourceIndex.filters`: its scope without branches. The first restricts nothing."""
    GROUPS = 2
    """A place in `SourceIndex.groups`: those it came through that some stop names. The first has none."""
    START = 3
    """The first position of the tree where it counts."""
    END = 4
    """The position after the last."""


class HolderColumn(IntEnum):
    """The columns of `SourceIndex.holder_rows`."""

    FIRST = 0
    """Where the grants of the holder begin in the list of all grants by holder."""
    LAST = 1
    """Where those of the next begin."""
    ACTIVE = 2
    KEYHOLDER = 3
    OWN = 4
    """Whether the holder counts as the author of every node (a hypothetical subject)."""
    CONFINED = 5
    """Whether the account has a reach."""


class SourceIndex:
    """Numbers for holders, for their grants, and for what grants are made of. Numbers are never taken back.

    `lock` is held while anything is added. With a `previous` index over the same tree, all that it knows is taken
    over under the same numbers.
    """

    def __init__(self, policy: Policy, limits: LimitIndex, tree: Tree, previous: "SourceIndex | None" = None) -> None:
        self.tree, self.limits = tree, limits
        self.lock = RLock()
        self.tables: GrantTables = GrantTables(policy, None if previous is None else previous.tables)
        self.filters: dict[Scope, int] = {Scope(): 0}
        self.groups: dict[tuple[Subject, ...], int] = {(): 0}
        self.holders: list[SubjectGrants] = []
        self._grant_rows, self._holder_rows, self._grants = (
            Growing(len(SourceColumn)),
            Growing(len(HolderColumn)),
            Growing(),
        )
        self._numbers: dict[tuple[int, ...], int] = {}
        self._sources: dict[GrantSource, tuple[int, ...]] = {}
        self._interned: dict[SubjectGrants, int] = {}
        self._runs: dict[frozenset[str] | None, tuple[tuple[int, int], ...]] = {None: ((0, len(tree)),)}
        if previous is not None:
            with previous.lock:
                self._take_over(previous)

    def __len__(self) -> int:
        return len(self._numbers)

    def _take_over(self, previous: "SourceIndex") -> None:
        """Copy what another index knows, except sources through groups that stops name in only one of both policies."""
        self._grant_rows, self._holder_rows, self._grants = (
            previous._grant_rows.copy(),
            previous._holder_rows.copy(),
            previous._grants.copy(),
        )
        self._numbers, self._runs, self.holders = (
            previous._numbers.copy(),
            previous._runs.copy(),
            previous.holders.copy(),
        )
        self.filters, self.groups = previous.filters.copy(), previous.groups.copy()
        self._sources, self._interned = previous._sources.copy(), previous._interned.copy()
        if otherwise := self.limits.subjects[Effect.STOP] ^ previous.limits.subjects[Effect.STOP]:
            for source in [source for source in self._sources if not otherwise.isdisjoint(source.groups)]:
                del self._sources[source]
            for who in [who for who in self._interned if not otherwise.isdisjoint(who.subjects)]:
                del self._interned[who]

    @property
    def grant_rows(self) -> Ints:
        """`[grants, SourceColumn]` what each is made of."""
        return self._grant_rows.rows

    @property
    def holder_rows(self) -> Ints:
        """`[holders, HolderColumn]` what each is; `holders` has the holders themselves."""
        return self._holder_rows.rows

    def intern(self, holders: Sequence[SubjectGrants]) -> Ints:
        """A number for each of some holders."""
        with self.lock:
            numbers = list(map(self._interned.get, holders))
            if None in numbers:
                self._add([*dict.fromkeys(who for who in holders if who not in self._interned)])
                numbers = list(map(self._interned.get, holders))
            return np.array(numbers, dtype=np.intp)

    def grants_of(self, holders: Ints) -> tuple[Ints, Ints]:
        """The grants of holders, by their numbers, one after the other, and how many each has.

        Whoever is inactive or a keyholder has none.
        """
        holder_rows = self.holder_rows[holders]
        first, last = holder_rows[:, HolderColumn.FIRST], holder_rows[:, HolderColumn.LAST]
        return self._grants.rows[expand_ranges(first, last)[1]], last - first

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
        grants: list[int] = []
        holder_rows: list[tuple[int, ...]] = []
        before = len(self._grants)
        for who in unknown:
            first = before + len(grants)
            for source in who.sources if who.active and not who.keyholder else ():
                found = self._sources.get(source)
                grants += self._of_source(source) if found is None else found
            confined = who.account is not None and bool(who.account.reach)
            holder_rows.append((first, before + len(grants), who.active, who.keyholder, who.as_author, confined))
        self._grants.add(grants)
        self._holder_rows.add(holder_rows)
        self._interned.update(zip(unknown, range(len(self.holders), len(self._holder_rows)), strict=True))
        self.holders += unknown

    def _of_source(self, source: GrantSource) -> tuple[int, ...]:
        stopped, (sites, branches, types, topics) = self.limits.subjects[Effect.STOP], source.scope
        filter, groups = 0, tuple([group for group in source.groups if group in stopped])
        if not (sites is None and types is None and topics is None):
            filter = self.filters.setdefault(Scope(sites, None, types, topics), len(self.filters))
        row = self.tables.number(source.resolved), filter, self.groups.setdefault(groups, len(self.groups))
        numbers = tuple([self._number((*row, *run)) for run in self.runs(branches)])
        self._sources[source] = numbers
        return numbers

    def _number(self, row: tuple[int, ...]) -> int:
        number = self._numbers.get(row)
        if number is None:
            number = self._numbers[row] = len(self._numbers)
            self._grant_rows.add([row])
        return number
