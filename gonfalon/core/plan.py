"""Which questions are asked of whole trees, and of what kind of node they ask which capability.

    plan = Plan(tree, ["see", "edit"])
    plan.table(said, Extent.ALL)       # for each kind of node a number, with a bit for each action given

Answers are bits: one integer a node, one bit an action, so that a step of §4 is a few array operations.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.holding import Said, capability_of
from gonfalon.core.limits import LimitIndex, Steps
from gonfalon.core.policy import Limit, Scope, Subject
from gonfalon.core.tree import Tree
from gonfalon.core.vocabulary import CHANGING, LOCKS_OPEN, WHOLE_BRANCH, Extent

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
        self.nothing = np.zeros(2 * len(tree.type_names), dtype=self.dtype)
        self._asking: dict[str, list[tuple[int, int]]] = {}
        for i, column in enumerate(self.columns):
            for kind in range(2 * len(tree.type_names)):
                capability = column.capability(tree.type_names[kind // 2], kind % 2 == 0)
                self._asking.setdefault(capability, []).append((kind, i))
        self._tables: dict[tuple[Said, Extent], Bits | None] = {}
        self._forces: dict[Subject, Steps] = {}

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
            longer = self.table(said, Extent(least + 1)) if least < Extent.ALL and table is not None else None
            same = table is not None and longer is not None and np.array_equal(table, longer)
            self._tables[key] = longer if same else table
        return self._tables[key]

    def barred(self, said: Said) -> Bits | None:
        """What is barred for each kind of node; None when nothing is."""
        return self._rows(said.barred)

    def capabilities(self, kinds: NDArray[np.bool_]) -> set[str]:
        """What is asked of nodes of some kinds."""
        return {c for c, asking in self._asking.items() if any(kinds[kind] for kind, _ in asking)}

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
        """`[..., actions]`: the asked columns as booleans."""
        each = np.unpackbits(np.ascontiguousarray(bits).view(np.uint8), bitorder="little")
        return each.reshape(*bits.shape, 8 * bits.itemsize)[..., : len(self.actions)].view(bool)

    def force(self, limits: LimitIndex, subject: Subject) -> Steps:
        """The limits in force for a subject, for all columns at once (§4); kept."""
        if subject not in self._forces:
            self._forces[subject] = limits.along(subject, self._matched, self._makes_new)
        return self._forces[subject]

    @cached_property
    def branching(self) -> "Plan":
        """A plan of this one's actions on whole branches, about each node alone."""
        return Plan(self.tree, [a for a in self.actions if a in WHOLE_BRANCH], alone=True)

    def _matched(self, limit: Limit) -> int:
        if limit.actions is None:
            return int(self.every)
        return sum(1 << i for i, column in enumerate(self.columns) if column.action in limit.actions)


def _column(action: str) -> Column:
    if action.startswith("create:"):
        type = action.removeprefix("create:")
        return Column("create", f"{type}.create", type)
    return Column(action)
