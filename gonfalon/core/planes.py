"""Answers as bits: one integer a node, one bit an action, so that a step of §4 is a few array operations.

    plan = Plan(policy, tree, ["see", "edit"])
    sheet = Sheet(plan, limits, policy, written, positions)        # None: the whole tree
    sheet.given(source, Extent.ALL) & ~sheet.stopped(source)

A plan knows which capabilities its actions ask of each kind of node; a sheet holds what can be said of
each node whoever asks, made once and shared by all accounts.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property, reduce
from hashlib import blake2b
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.holding import Said, Source, capability_of
from gonfalon.core.limits import LimitIndex
from gonfalon.core.policy import Account, Limit, Policy, Scope, Subject
from gonfalon.core.tree import Tree
from gonfalon.core.vocabulary import CHANGING, LOCKS_OPEN, WHOLE_BRANCH, Effect, Extent

Bits = NDArray[np.uint64]
"""An unsigned integer for each node, with a bit for each column of a plan: typed as the largest there may be."""
Bools = NDArray[np.bool_]

MOST_ACTIONS = 60
"""Actions one plan can hold: 64 bits, less those it may need of its own."""

_SIZES: Any = ((8, np.uint8), (16, np.uint16), (32, np.uint32), (64, np.uint64))


@dataclass(frozen=True, slots=True)
class Column:
    """One bit: the action that limits must name, and the capability asked; `new` is the type a `create` makes."""

    action: str
    asks: str | None = None
    new: str | None = None

    def capability(self, type: str, published: bool) -> str:
        if self.asks is not None:
            return self.asks if "." in self.asks else f"{type}.{self.asks}"
        return capability_of(self.action, type, "published" if published else "draft")


class Plan:
    """Which bit stands for what, and the tables of what each role gives to each kind of node.

    The columns asked for come first, in their order; `edit-live` and `locks.open` are added where
    an action needs them. With `alone`, `remove` and `move` ask about the node alone, not its branch.
    """

    def __init__(self, tree: Tree, actions: Sequence[str], *, alone: bool = False) -> None:
        if len(actions) > MOST_ACTIONS:
            raise ValueError(f"a plan holds no more than {MOST_ACTIONS} actions")
        self.tree = tree
        self.actions = tuple(actions)
        self.columns = [_column(action) for action in actions]
        self.live = self._add(Column("edit", "edit-live")) if "edit" in actions else None
        self.opens = self._add(Column(LOCKS_OPEN)) if CHANGING.intersection(actions) else None
        self.dtype: type[np.uint64] = next(size for most, size in _SIZES if len(self.columns) <= most)
        self.asked = self.bits(range(len(actions)))
        self.every = self.bits(range(len(self.columns)))
        self.edits = self.bits(i for i, a in enumerate(actions) if a == "edit")
        self.changing = self.bits(i for i, a in enumerate(actions) if a in CHANGING)
        self.whole_branch = self.bits(i for i, a in enumerate(actions) if a in WHOLE_BRANCH and not alone)
        self._makes_new = sum(1 << i for i, column in enumerate(self.columns) if column.new is not None)
        self.on_nodes = self.bits(i for i, column in enumerate(self.columns) if column.new is None)
        self._asking: dict[str, list[tuple[int, int]]] = {}
        for i, column in enumerate(self.columns):
            for kind in range(2 * len(tree.type_names)):
                capability = column.capability(tree.type_names[kind // 2], kind % 2 == 0)
                self._asking.setdefault(capability, []).append((kind, i))
        self._tables: dict[tuple[Said, Extent], Bits | None] = {}
        self._forces: dict[Subject, Force] = {}

    def _add(self, column: Column) -> int:
        self.columns.append(column)
        return len(self.columns) - 1

    def bits(self, columns: Any) -> Any:
        """The columns as one number."""
        return self.dtype(sum(1 << i for i in columns))

    def bit(self, column: int) -> Any:
        return self.dtype(1 << column)

    def table(self, said: Said, least: Extent) -> Bits | None:
        """What is given at `least` or longer, for each kind of node; None when nothing is.

        Any extent gives `create` (§2). Where a shorter extent gives no more, it is the same table.
        """
        key = (said, least)
        if key not in self._tables:
            table = self._rows(c for c, e in said.extents.items() if e >= least or c.endswith(".create"))
            longer = self.table(said, Extent(least + 1)) if least < Extent.ALL else None
            same = table is not None and longer is not None and bool((table == longer).all())
            self._tables[key] = longer if same else table
        return self._tables[key]

    def barred(self, said: Said) -> Bits | None:
        """What is barred for each kind of node; None when nothing is."""
        return self._rows(said.barred)

    def _rows(self, capabilities: Iterable[str]) -> Bits | None:
        """For each kind of node the columns that ask one of these capabilities."""
        rows = [0] * (2 * len(self.tree.type_names))
        for capability in capabilities:
            for kind, column in self._asking.get(capability, ()):
                rows[kind] |= 1 << column
        return np.array(rows, dtype=self.dtype) if any(rows) else None

    def new_within(self, scope: Scope) -> Any:
        """The columns that make a node of a type the scope covers. It is made without topics (§8)."""
        if scope.topics is not None:
            return self.dtype(0)
        types = scope.types
        return self.bits(
            i for i, c in enumerate(self.columns) if c.new is not None and (types is None or c.new in types)
        )

    def unpacked(self, bits: Bits) -> Bools:
        """`[nodes, actions]`: the asked columns as booleans."""
        each = np.unpackbits(bits.view(np.uint8), bitorder="little")
        return each.reshape(len(bits), 8 * bits.itemsize)[:, : len(self.actions)].view(bool)

    def force(self, limits: LimitIndex, subject: Subject) -> "Force":
        """The limits in force for a subject, for all columns at once (§4); kept."""
        if subject not in self._forces:
            self._forces[subject] = self._force(limits, subject)
        return self._forces[subject]

    @cached_property
    def branching(self) -> "Plan":
        """A plan of this one's actions on whole branches, about each node alone."""
        return Plan(self.tree, [a for a in self.actions if a in WHOLE_BRANCH], alone=True)

    def _force(self, limits: LimitIndex, subject: Subject) -> "Force":
        """What `limits.steps` tells for one action; here each limit is a number of columns it matches."""
        force = Force([0], [0], [0])
        above: list[tuple[int, int, int]] = []
        stops = bars = 0
        tree, by_node = self.tree, limits.on_nodes_for(subject)
        for i in sorted(tree.index[node] for node in by_node):
            while above and above[-1][0] <= i:
                end, stops, bars = above.pop()
                force.put(end, stops, bars)
            met = by_node[tree.nodes[i].id]
            below = self._meet([k for k in met if k.applies != "node"], stops, bars)
            here = self._meet([k for k in met if k.applies != "beneath"], stops, bars)
            new = self._makes_new
            above.append((int(tree.ends[i]), stops, bars))
            force.put(i, here[0] & ~new | below[0] & new, here[1] & ~new | below[1] & new)
            force.put(i + 1, *below)
            stops, bars = below
        for end, stops, bars in reversed(above):
            force.put(end, stops, bars)
        return force

    def _meet(self, met: Iterable[Limit], stops: int, bars: int) -> tuple[int, int]:
        """The columns stopped and barred at a node, given the limits there and what comes from above."""
        by_effect = dict.fromkeys(Effect, 0)
        for limit in met:
            by_effect[limit.effect] |= self._matched(limit)
        lifted = by_effect[Effect.LIFT] & ~by_effect[Effect.STOP] & ~by_effect[Effect.BAR]
        return by_effect[Effect.STOP] | stops & ~lifted, by_effect[Effect.BAR] | bars & ~lifted

    def _matched(self, limit: Limit) -> int:
        if limit.actions is None:
            return int(self.every)
        return sum(1 << i for i, column in enumerate(self.columns) if column.action in limit.actions)


class Force(NamedTuple):
    """Columns stopped and barred along the tree: values hold from their start until the next."""

    starts: list[int]
    stops: list[int]
    bars: list[int]

    def put(self, start: int, stops: int, bars: int) -> None:
        if self.starts[-1] == start:
            self.stops[-1], self.bars[-1] = stops, bars
        else:
            self.starts.append(start)
            self.stops.append(stops)
            self.bars.append(bars)


def _column(action: str) -> Column:
    if action.startswith("create:"):
        type = action.removeprefix("create:")
        return Column("create", f"{type}.create", type)
    return Column(action)


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
        values = force.bars if effect is Effect.BAR else force.stops
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
