"""Which action each bit stands for, and which capability it asks of which kind of node.

    columns = ActionColumns(tree.type_names, ["see", "edit"])
    columns.columns[0].capability("berth", published=False)     # "berth.see-draft"

Answers are integers, one a node, with a bit for each action, so that a step of §4 is a few array operations.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from gonfalon.core.decide.grants import capability_of
from gonfalon.core.decide.limits import LimitIndex
from gonfalon.core.model.bits import Bits, Bools, Ints
from gonfalon.core.model.policy import Scope
from gonfalon.core.model.vocabulary import CHANGING, LOCKS_OPEN, WHOLE_BRANCH

MOST_ACTIONS = 60
"""How many actions may be asked at once: 64 bits, less those for `edit-live` and `locks.open`."""

_LOOKED_UP = 12
"""Up to so many actions are unpacked by looking their bits up in a table of all combinations."""
_IN_A_PIECE = 1 << 15
"""How many numbers are looked up at once, so that they and their answers fit into a processor's cache."""
_SIZES: Any = ((8, np.uint8), (16, np.uint16), (32, np.uint32), (64, np.uint64))


@dataclass(frozen=True, slots=True)
class Column:
    """One bit: the action that limits must name, and the capability asked; `new` is the type a `create` makes."""

    action: str
    asks: str | None = None
    new: str | None = None

    def capability(self, type: str, published: bool) -> str:
        """The capability asked of a node of a type, published or not."""
        if self.asks is not None:
            return self.asks if "." in self.asks else f"{type}.{self.asks}"
        return capability_of(self.action, type, "published" if published else "draft")


class ActionColumns:
    """The columns of some actions, and sets of columns as integers of `dtype`.

    The columns asked for come first, in their order; `edit-live` and `locks.open` are added where
    an action needs them. With `alone`, `remove` and `move` ask about the node alone, not its branch.
    """

    def __init__(self, type_names: Sequence[str], actions: Sequence[str], *, alone: bool = False) -> None:
        if len(actions) > MOST_ACTIONS:
            raise ValueError(f"no more than {MOST_ACTIONS} actions can be asked at once")
        self.type_names = tuple(type_names)
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
        self.on_nodes = self.bits(i for i, column in enumerate(self.columns) if column.new is None)
        self.nothing = np.zeros(2 * len(self.type_names), dtype=self.dtype)

    def _add(self, column: Column) -> int:
        self.columns.append(column)
        return len(self.columns) - 1

    def bits(self, columns: Any) -> Any:
        """The columns as one number."""
        return self.dtype(sum(1 << i for i in columns))

    def bit(self, column: int) -> Any:
        """One column as a number."""
        return self.dtype(1 << column)

    def new_within(self, scope: Scope) -> Any:
        """The columns that make a node of a type the scope covers. It is made without topics (§8)."""
        if scope.topics is not None:
            return self.dtype(0)
        types = scope.types
        return self.bits(
            i for i, c in enumerate(self.columns) if c.new is not None and (types is None or c.new in types)
        )

    def unpack(self, bits: Bits, out: Bools, order: Ints | None = None) -> None:
        """Write the asked columns of `[holders, rows]` into `[holders, rows, actions]` booleans, the rows in an order.

        Bits of other columns are not set.
        """
        step = max(1, _IN_A_PIECE // max(1, bits.shape[1]))
        for first in range(0, len(bits), step):
            some, told = bits[first : first + step], out[first : first + step]
            some = some if order is None else some.take(order, axis=1)
            if len(self.actions) <= _LOOKED_UP:
                self._unpacked.take(some, axis=0, out=told, mode="clip")
            else:
                for i in range(len(self.actions)):
                    np.not_equal(some & self.bit(i), 0, out=told[..., i])

    @cached_property
    def _unpacked(self) -> Bools:
        """`[bits, actions]` what each number of asked columns says."""
        numbers: Bools = np.arange(1 << len(self.actions))[:, None] >> np.arange(len(self.actions)) & 1 == 1
        return numbers

    def columns_of(self, limits: LimitIndex, every: Iterable[int]) -> Bits:
        """For each number of action bits, as `LimitIndex` has them, the columns that ask about those actions."""
        asked = [(1 << i, limits.bit(column.action)) for i, column in enumerate(self.columns)]
        return np.array([sum([bit for bit, of in asked if bits >> of & 1]) for bits in every], dtype=self.dtype)

    @cached_property
    def branching(self) -> "ActionColumns":
        """A columns of this one's actions on whole branches, about each node alone."""
        return ActionColumns(self.type_names, [a for a in self.actions if a in WHOLE_BRANCH], alone=True)


def _column(action: str) -> Column:
    if action.startswith("create:"):
        type = action.removeprefix("create:")
        return Column("create", f"{type}.create", type)
    return Column(action)
