"""What can be said of some nodes whoever asks, as the bits of a plan: made once, shared by all accounts.

sheet = Sheet(plan, ground, positions)        # None: the whole tree
stand = sheet.stand(source)                                    # what the source comes to here, or None
stand.far, stand.team, stand.own                               # given on anybody's work, a team's, one's own
"""

from bisect import bisect_left
from collections.abc import Hashable, Iterable, Iterator
from functools import cached_property, reduce
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.ground import Ground, Rows
from gonfalon.core.holding import Said, Source
from gonfalon.core.plan import Bits, Bools, Plan
from gonfalon.core.policy import Account, Scope, Subject
from gonfalon.core.vocabulary import Effect, Extent

Narrowing = Literal[Effect.STOP, Effect.BAR]


_NONE: frozenset[int] = frozenset()


class Cover(NamedTuple):
    """The rows of a scope: a run of them, and of those the bits of `mask` (None: every bit of all of them)."""

    rows: slice
    mask: Bits | None


class Stand(NamedTuple):
    """What a source gives and bars on the rows of a run.

    `own` holds what is given, within its scope and not stopped, on the holder's own work, `team` on their
    team's, `far` on anybody's; where a longer extent gives the same, they are one array. None is nothing.
    """

    rows: slice
    own: Bits | None
    team: Bits | None
    far: Bits | None
    bars: Bits | None

    def given(self, near: Extent) -> Bits | None:
        """What is given on work that is as near as that to the holder."""
        return self.far if near is Extent.ALL else self.team if near is Extent.TEAM else self.own


class Alike(NamedTuple):
    """Sources with the same number give and bar the same on a sheet."""

    number: int
    minds_author: bool


class Sheet:
    """What can be said of some nodes, whoever asks, for the actions of a plan.

    `positions` are places in the tree, ascending, or None for the whole tree.
    """

    def __init__(self, plan: Plan, ground: Ground, positions: Rows | None = None) -> None:
        self.plan, self.ground, self.tree, self.limits = plan, ground, plan.tree, ground.limits
        self.positions = None if positions is not None and len(positions) == len(self.tree) else positions
        self.length = len(self.tree) if positions is None else len(positions)
        self.kinds = self._of(self.tree.kinds)
        self.published = self._of(self.tree.published)
        self.nothing = np.zeros(self.length, dtype=plan.dtype)
        self.all = np.full(self.length, plan.every, dtype=plan.dtype)
        self.everything = slice(0, self.length)
        self._given: dict[tuple[Said, Extent], Bits | None] = {}
        self._barred: dict[Said, Bits | None] = {}
        self._covers: dict[Scope, Cover | None] = {}
        self._forces: dict[tuple[Subject, Effect], Bits | None] = {}
        self._in_force: dict[tuple[tuple[Subject, ...], Effect], Bits | None] = {}
        self._stands: dict[Source, Stand | None] = {}
        self._alike: dict[Source, Alike | None] = {}
        self._numbers: dict[Hashable, int] = {}

    def _of(self, whole: NDArray[Any]) -> NDArray[Any]:
        return whole if self.positions is None else whole[self.positions]

    # -- what sources say ----------------------------------------------------------------------

    def given(self, said: Said, least: Extent) -> Bits | None:
        """What is given at `least` or longer, wherever the node is."""
        key = (said, least)
        if key not in self._given:
            table = self.plan.table(said, least)
            if table is None:
                self._given[key] = None
            elif least < Extent.ALL and table is self.plan.table(said, Extent(least + 1)):
                self._given[key] = self.given(said, Extent(least + 1))
            else:
                self._given[key] = _some(table.take(self.kinds))
        return self._given[key]

    def barred(self, said: Said) -> Bits | None:
        if said not in self._barred:
            table = self.plan.barred(said)
            self._barred[said] = None if table is None else _some(table.take(self.kinds))
        return self._barred[said]

    @cached_property
    def counting(self) -> set[Said]:
        """What can give or take anything at all on this sheet, wherever it is given."""
        present = np.bincount(self.kinds, minlength=2 * len(self.tree.type_names)) > 0
        return self.ground.saying(self.plan.capabilities(present))

    def stand(self, source: Source) -> Stand | None:
        """What a source comes to on this sheet; None when it gives and bars nothing here."""
        if source.said not in self.counting:
            return None
        try:
            return self._stands[source]
        except KeyError:
            stand = self._stands[source] = self._stand(source)
            return stand

    def _stand(self, source: Source) -> Stand | None:
        cover = self.covers(source.scope)
        if cover is None:
            return None
        stops = self.in_force(source.subjects, Effect.STOP)
        bars = _also(self.barred(source.said), self.in_force(source.role_subjects, Effect.BAR))
        said = [self.given(source.said, extent) for extent in (Extent.OWN, Extent.TEAM, Extent.ALL)]
        own, team, far = (_within(cover, given, stops) for given in said)
        team = far if said[1] is said[2] else team
        own = team if said[0] is said[1] else own
        barring = _within(cover, bars)
        return None if own is None and barring is None else Stand(cover.rows, own, team, far, barring)

    def alike(self, source: Source) -> Alike | None:
        """A number to tell sources apart by what they come to here; None as for `stand`."""
        if source.said not in self.counting:
            return None
        if source not in self._alike:
            stand = self.stand(source)
            self._alike[source] = None if stand is None else self._compared(stand)
        return self._alike[source]

    def _compared(self, stand: Stand) -> Alike:
        told = [None if part is None else part.tobytes() for part in stand[1:]]
        return Alike(self._number((stand.rows.start, stand.rows.stop, *told)), told[0] != told[2])

    # -- where scopes lie ----------------------------------------------------------------------

    def covers(self, scope: Scope) -> Cover | None:
        """Where a scope covers what the columns ask about; None where it covers nothing (§3)."""
        if scope not in self._covers:
            self._covers[scope] = self._cover(scope)
        return self._covers[scope]

    def _cover(self, scope: Scope) -> Cover | None:
        rows, here = self._beneath(scope.branches)
        if rows.start == rows.stop:
            return None
        if scope.sites is not None:
            here = self.tree.matching("site", scope.sites)[self._sites[rows]] & (True if here is None else here)
        if here is None and scope.types is None and scope.topics is None:
            return Cover(rows, None)
        here = np.ones(rows.stop - rows.start, dtype=bool) if here is None else here
        on_nodes = here.copy()
        if scope.types is not None:
            types = [type in scope.types for type in self.tree.type_names]
            on_nodes &= np.repeat(types, 2)[self.kinds[rows]]
        if scope.topics is not None:
            on_nodes &= self.tree.matching_topic(scope.topics)[self._topics[rows]]
        mask = on_nodes * self.plan.on_nodes | here * self.plan.new_within(scope)
        return Cover(rows, mask) if mask.any() else None

    def within(self, scope: Scope, bits: Bits) -> Bits:
        """Some bits of all rows, where a scope covers them."""
        cover = self.covers(scope)
        if cover is not None and cover.mask is None and cover.rows == self.everything:
            return bits
        covered = self.nothing.copy()
        if cover is not None:
            covered[cover.rows] = bits[cover.rows] if cover.mask is None else bits[cover.rows] & cover.mask
        return covered

    def _beneath(self, branches: frozenset[str] | None) -> tuple[slice, Bools | None]:
        """The run of rows that holds some branches, and those of them that lie in one (None: all of them)."""
        if branches is None:
            return self.everything, None
        spans = [self._rows_of(branch) for branch in branches if branch in self.tree]
        spans = [(start, end) for start, end in spans if start < end]
        if not spans:
            return slice(0, 0), None
        first, last = min(start for start, _ in spans), max(end for _, end in spans)
        if (first, last) in spans:
            return slice(first, last), None
        here = np.zeros(last - first, dtype=bool)
        for start, end in spans:
            here[start - first : end - first] = True
        return slice(first, last), here

    def _rows_of(self, branch: str) -> tuple[int, int]:
        span = self.tree.branch(branch)
        if self.positions is None:
            return span.start, span.stop
        return bisect_left(self._places, span.start), bisect_left(self._places, span.stop)

    @cached_property
    def _sites(self) -> NDArray[np.intp]:
        return self._of(self.tree.codes("site"))

    @cached_property
    def _topics(self) -> NDArray[np.intp]:
        return self._of(self.tree.codes("topics"))

    @cached_property
    def _places(self) -> list[int]:
        return [] if self.positions is None else self.positions.tolist()

    # -- what narrows --------------------------------------------------------------------------

    def in_force(self, subjects: tuple[Subject, ...], effect: Narrowing) -> Bits | None:
        """The columns for which a limit of this effect is in force for any of the subjects; None: nowhere."""
        key = (subjects, effect)
        if key not in self._in_force:
            there = list(self._narrowing(subjects, effect))
            self._in_force[key] = reduce(np.bitwise_or, there) if there else None
        return self._in_force[key]

    def _narrowing(self, subjects: Iterable[Subject], effect: Narrowing) -> Iterator[Bits]:
        limited = self.limits.subjects[effect]
        for subject in subjects:
            if subject in limited and (force := self._force(subject, effect)) is not None:
                yield force

    def _force(self, subject: Subject, effect: Narrowing) -> Bits | None:
        key = (subject, effect)
        if key not in self._forces:
            force = self.plan.force(self.limits, subject)
            values = np.array(force.of(effect), dtype=self.plan.dtype)
            runs = np.diff(self._edges(force.starts)) if values.any() else None
            self._forces[key] = None if runs is None else _some(np.repeat(values, runs))
        return self._forces[key]

    def _edges(self, starts: list[int]) -> NDArray[np.intp]:
        """Where runs along the tree begin in this sheet, and its end."""
        if self.positions is None:
            return np.minimum([*starts, self.length], self.length)
        return np.append(np.searchsorted(self.positions, starts), self.length)

    def narrowing(self, subjects: Iterable[Subject], effect: Narrowing) -> frozenset[int]:
        """What limits on some subjects come to on this sheet, to compare."""
        if self.limits.subjects[effect].isdisjoint(subjects):
            return _NONE
        return frozenset(self._number(force.tobytes()) for force in self._narrowing(subjects, effect))

    def _number(self, told: Hashable) -> int:
        return self._numbers.setdefault(told, len(self._numbers))

    def outside(self, account: Account) -> Bools | None:
        """Where the account's reach leaves a node out; None when it is not confined."""
        if not account.reach:
            return None
        outside = np.zeros(self.length, dtype=bool)
        for tree, branches in account.reach.items():
            inside = np.zeros(self.length, dtype=bool)
            rows, here = self._beneath(branches)
            inside[rows] = True if here is None else here
            outside |= self._of(self.tree.having("tree", frozenset({tree}))) & ~inside
        return outside

    @cached_property
    def locked(self) -> Bools | None:
        """The nodes with a lock on the whole of them; None when no node has one."""
        here = self._of(self.ground.locked)
        return here if here.any() else None

    # -- whole branches ------------------------------------------------------------------------

    @cached_property
    def branches(self) -> tuple[Rows, Rows, Rows]:
        """The rows with something beneath them, and where in the tree the branch of each begins and ends."""
        positions = np.arange(self.length) if self.positions is None else self.positions
        rows = (self.tree.ends[positions] > positions + 1).nonzero()[0]
        return rows, positions[rows], self.tree.ends[positions[rows]]

    @cached_property
    def kinds_beneath(self) -> NDArray[np.float32]:
        """`[branches, kinds]`: how many nodes of each kind the branch of each of those rows holds, itself included."""
        _, starts, ends = self.branches
        count = 2 * len(self.tree.type_names)
        held = [np.bincount(self.tree.kinds[i:j], minlength=count) for i, j in zip(starts, ends, strict=True)]
        return np.array(held, dtype=np.float32).reshape(len(starts), count)

    def beneath(self, starts: Rows, ends: Rows) -> "Sheet":
        """A sheet of some branches of the tree, whole, for `remove` and `move`."""
        opens = np.zeros(len(self.tree) + 1, dtype=np.intp)
        np.add.at(opens, starts, 1)
        np.add.at(opens, ends, -1)
        within = (np.cumsum(opens[:-1]) > 0).nonzero()[0]
        return Sheet(self.plan.branching, self.ground, within)

    # -- who wrote what ------------------------------------------------------------------------

    def rows_by(self, account: Account) -> Rows:
        """The rows of what the account wrote, ascending."""
        return self._here(self.ground.by(account))

    def rows_near(self, account: Account) -> Rows:
        """The rows of what the account, or a direct fellow member of a group, wrote, ascending."""
        return self._here(self.ground.near(account))

    def _here(self, written: Rows) -> Rows:
        """The rows of those among some positions that are on this sheet."""
        if self.positions is None or not len(written) or not self.length:
            return written[: self.length]
        rows: Rows = np.searchsorted(self.positions, written)
        rows = np.minimum(rows, self.length - 1)
        here: Rows = rows[self.positions[rows] == written]
        return here


def _some(bits: Bits) -> Bits | None:
    return bits if bits.any() else None


def _also(bits: Bits | None, more: Bits | None) -> Bits | None:
    if bits is None or more is None:
        return more if bits is None else bits
    return bits | more


def _within(cover: Cover, bits: Bits | None, taken: Bits | None = None) -> Bits | None:
    """Some bits of the rows covered, without those taken; None when nothing is left."""
    if bits is None or (taken is None and cover.mask is None and cover.rows == slice(0, len(bits))):
        return bits
    bits = bits[cover.rows]
    if cover.mask is not None:
        bits = bits & cover.mask
    if taken is not None:
        bits = bits & ~taken[cover.rows]
    return _some(bits)
