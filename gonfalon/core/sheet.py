"""What can be said of some nodes whoever asks, as the bits of a plan: made once, shared by all accounts.

sheet = Sheet(plan, limits, policy, written, positions)        # None: the whole tree
sheet.given(source.said, Extent.ALL) & ~sheet.in_force(source.subjects, Effect.STOP)
"""

from collections.abc import Iterable
from functools import cached_property, reduce
from hashlib import blake2b
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.holding import Said, Source
from gonfalon.core.limits import LimitIndex
from gonfalon.core.plan import Bits, Bools, Plan
from gonfalon.core.policy import Account, Policy, Scope, Subject
from gonfalon.core.tree import Tree
from gonfalon.core.vocabulary import Effect, Extent


class Sheet:
    """What can be said of some nodes, whoever asks, for the actions of a plan.

    `positions` are places in the tree, ascending, or None for the whole tree.
    """

    def __init__(
        self,
        plan: Plan,
        limits: LimitIndex,
        policy: Policy,
        written: "Written",
        positions: NDArray[np.intp] | None = None,
    ) -> None:
        self.plan, self.limits, self.policy, self.written, self.tree = plan, limits, policy, written, plan.tree
        self.positions = positions
        self.length = len(self.tree) if positions is None else len(positions)
        self.kinds = self._of(self.tree.kinds)
        self.published = self._of(self.tree.published)
        self.nothing = np.zeros(self.length, dtype=plan.dtype)
        self._given: dict[tuple[Said, Extent], Bits | None] = {}
        self._barred: dict[Said, Bits | None] = {}
        self._covers: dict[Scope, Bits] = {}
        self._forces: dict[tuple[tuple[Subject, ...], Effect], Bits | None] = {}
        self._counting: dict[Said, bool] = {}
        self._narrowings: dict[tuple[Subject, Effect], bytes | None] = {}
        self._near: dict[str, NDArray[np.intp]] = {}
        self._stands: dict[Source, Stand | None] = {}

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
                self._given[key] = table.take(self.kinds)
        return self._given[key]

    def barred(self, said: Said) -> Bits | None:
        if said not in self._barred:
            table = self.plan.barred(said)
            self._barred[said] = None if table is None else table.take(self.kinds)
        return self._barred[said]

    def covers(self, scope: Scope) -> Bits | None:
        """Every bit where a scope covers what the column asks about; None where it covers all (§3)."""
        if scope.unrestricted:
            return None
        if scope not in self._covers:
            here = self._places(scope)
            on_nodes = here.copy()
            if scope.types is not None:
                types = [type in scope.types for type in self.tree.type_names]
                on_nodes &= np.repeat(types, 2)[self.kinds]
            if scope.topics is not None:
                on_nodes &= self._of(self.tree.having_topic(scope.topics))
            covered = on_nodes * self.plan.on_nodes
            if (new := self.plan.new_within(scope)) != 0:
                covered |= here * new
            self._covers[scope] = covered
        return self._covers[scope]

    def _places(self, scope: Scope) -> Bools:
        """Where the sites and branches of a scope lie."""
        places = np.ones(self.length, dtype=bool) if scope.branches is None else self.beneath(scope.branches)
        if scope.sites is not None:
            places &= self._of(self.tree.having("site", scope.sites))
        return places

    def beneath(self, branches: frozenset[str]) -> Bools:
        within = np.zeros(self.length, dtype=bool)
        for branch in branches:
            if branch not in self.tree:
                continue
            span = self.tree.branch(branch)
            start, end, _ = self._edges([span.start, span.stop])
            within[start:end] = True
        return within

    def counts(self, source: Source) -> bool:
        """Whether a source can give or take anything at all on this sheet."""
        said = source.said
        if said not in self._counting:
            bars = self.in_force(source.role_subjects, Effect.BAR)
            parts = (self.given(said, Extent.OWN), self.barred(said), bars)
            self._counting[said] = any(part is not None and part.any() for part in parts)
        return self._counting[said]

    def stand(self, source: Source) -> "Stand | None":
        """What a source comes to on this sheet; None when it gives and bars nothing here."""
        if source not in self._stands:
            self._stands[source] = self._stand(source) if self.counts(source) else None
        return self._stands[source]

    def _stand(self, source: Source) -> "Stand | None":
        covers = self.covers(source.scope)
        if covers is not None and not covers.any():
            return None
        stops = self.in_force(source.subjects, Effect.STOP)
        taken = None if stops is None else ~stops
        given = [self.given(source.said, extent) for extent in (Extent.OWN, Extent.TEAM, Extent.ALL)]
        bars = [self.barred(source.said), self.in_force(source.role_subjects, Effect.BAR)]
        gives = [_digest(part, covers, taken) for part in given]
        barring = tuple(_digest(part, covers) for part in bars)
        return Stand((*gives, *barring), gives[0] != gives[2]) if any((*gives, *barring)) else None

    def narrowing(
        self, subjects: Iterable[Subject], effect: Literal[Effect.STOP, Effect.BAR]
    ) -> frozenset[bytes | None]:
        """What `in_force` comes to on this sheet, to compare; None in it is a subject that nothing narrows here."""
        return frozenset(self._narrowing(subject, effect) for subject in subjects)

    def _narrowing(self, subject: Subject, effect: Literal[Effect.STOP, Effect.BAR]) -> bytes | None:
        key = (subject, effect)
        if key not in self._narrowings:
            limited = self.limits.limited(subject)
            self._narrowings[key] = _digest(self._force(subject, effect)) if limited else None
        return self._narrowings[key]

    # -- what narrows --------------------------------------------------------------------------

    def in_force(self, subjects: tuple[Subject, ...], effect: Literal[Effect.STOP, Effect.BAR]) -> Bits | None:
        """The columns for which a limit of this effect is in force for any of the subjects; None: nowhere."""
        key = (subjects, effect)
        if key not in self._forces:
            found = [self._force(subject, effect) for subject in subjects if self.limits.limited(subject)]
            there = [force for force in found if force is not None]
            self._forces[key] = reduce(np.bitwise_or, there) if there else None
        return self._forces[key]

    def _force(self, subject: Subject, effect: Effect) -> Bits | None:
        force = self.plan.force(self.limits, subject)
        values = force.of(effect)
        if not any(values):
            return None
        return np.repeat(np.array(values, dtype=self.plan.dtype), np.diff(self._edges(force.starts)))

    def _edges(self, starts: list[int]) -> NDArray[np.intp]:
        """Where runs along the tree begin in this sheet, and its end."""
        if self.positions is None:
            return np.minimum([*starts, self.length], self.length)
        return np.append(np.searchsorted(self.positions, starts), self.length)

    def outside(self, account: Account) -> Bools | None:
        """Where the account's reach leaves a node out; None when it is not confined."""
        if not account.reach:
            return None
        outside = np.zeros(self.length, dtype=bool)
        for tree, branches in account.reach.items():
            outside |= self._of(self.tree.having("tree", frozenset({tree}))) & ~self.beneath(branches)
        return outside

    @cached_property
    def deep(self) -> "Sheet":
        """A sheet that holds the whole branch of every node here, for `remove` and `move`; this one if it does."""
        if self.positions is None:
            return self
        opens = np.zeros(len(self.tree) + 1, dtype=np.intp)
        np.add.at(opens, self.positions, 1)
        np.add.at(opens, self.tree.ends[self.positions], -1)
        within = (np.cumsum(opens[:-1]) > 0).nonzero()[0]
        return Sheet(self.plan.branching, self.limits, self.policy, self.written, within)

    @cached_property
    def branches(self) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.intp]]:
        """The rows with something beneath them, and where in `deep` the branch of each begins and ends."""
        positions = np.arange(self.length) if self.positions is None else self.positions
        rows = (self.tree.ends[positions] > positions + 1).nonzero()[0]
        starts, ends = positions[rows], self.tree.ends[positions[rows]]
        if self.deep.positions is not None:
            starts, ends = (np.searchsorted(self.deep.positions, edge) for edge in (starts, ends))
        return rows, starts, ends

    @cached_property
    def locked(self) -> Bools | None:
        """The nodes with a lock on the whole of them; None when no node has one."""
        nodes = {k.node for k in self.policy.locks.values() if k.field is None and k.component is None}
        at = [self.tree.index[node] for node in nodes if node in self.tree]
        if not at:
            return None
        locked = np.zeros(len(self.tree), dtype=bool)
        locked[at] = True
        here = self._of(locked)
        return here if here.any() else None

    # -- who wrote what ------------------------------------------------------------------------

    def by(self, account: Account, *, team: bool) -> Bits | None:
        """Every bit on what the account wrote, or with `team` a direct fellow member; None when it is nothing."""
        rows = self.rows_near(account) if team else self.rows_by(account)
        if not len(rows):
            return None
        mask = self.nothing.copy()
        mask[rows] = self.plan.every
        return mask

    def rows_by(self, account: Account) -> NDArray[np.intp]:
        """The rows of what the account wrote."""
        return self._rows(self.written.by_author(account.id))

    def rows_near(self, account: Account) -> NDArray[np.intp]:
        """The rows of what the account, or a direct fellow member of a group, wrote."""
        if account.id not in self._near:
            found = [self.written.by_author(account.id), *(self.written.by_group(g) for g in account.groups)]
            self._near[account.id] = self._rows(np.unique(np.concatenate(found)))
        return self._near[account.id]

    def _rows(self, positions: NDArray[np.intp]) -> NDArray[np.intp]:
        """The rows of those among some ascending positions that are here."""
        if self.positions is None or not len(positions) or not self.length:
            return positions[: self.length]
        rows: NDArray[np.intp] = np.minimum(np.searchsorted(self.positions, positions), self.length - 1)
        here: NDArray[np.intp] = rows[self.positions[rows] == positions]
        return here


class Written:
    """Where in a tree the work of each author lies, and of the direct members of each group, ascending."""

    def __init__(self, policy: Policy, tree: Tree) -> None:
        self._by_author: dict[str, list[int]] = {}
        for i, node in enumerate(tree.nodes):
            if node.author is not None:
                self._by_author.setdefault(node.author, []).append(i)
        self._by_group: dict[str, list[int]] = {}
        for author, positions in self._by_author.items():
            for group in policy.accounts[author].groups if author in policy.accounts else ():
                self._by_group.setdefault(group, []).extend(positions)

    def by_author(self, id: str) -> NDArray[np.intp]:
        return np.array(self._by_author.get(id, ()), dtype=np.intp)

    def by_group(self, key: str) -> NDArray[np.intp]:
        return np.array(sorted(self._by_group.get(key, ())), dtype=np.intp)


class Stand(NamedTuple):
    """What a source comes to on a sheet: equal stands give and bar the same there."""

    parts: tuple[bytes | None, ...]
    minds_author: bool


def _digest(bits: Bits | None, *within: Bits | None) -> bytes | None:
    """What some bits come to within others, in a few bytes to compare by; None when it is nothing."""
    for mask in within:
        if bits is not None and mask is not None:
            bits = bits & mask
    return blake2b(bits.tobytes(), digest_size=16).digest() if bits is not None and bits.any() else None
