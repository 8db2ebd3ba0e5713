"""What roles and direct grants say, as one table: a row for each, a column for each capability (§2).

    tables = GrantTables(policy)
    row = tables.number(resolved)                                 # resolved: ResolvedGrants
    tables.of(columns, [row])[AuthorRelation.TEAM, 0]             # [kinds] action bits given on a team's work

A *kind* of node is a type and whether the node is published: all that decides which capability an action asks.
"""

from collections.abc import Sequence
from enum import IntEnum

import numpy as np

from gonfalon.core.bulk.columns import ActionColumns, Column
from gonfalon.core.decide.grants import ResolvedGrants
from gonfalon.core.model.bits import Bits, Bools, Ints
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import Extent


class AuthorRelation(IntEnum):
    """How the author of a node is related to a holder, which tells what applies. BARS is where bars are kept."""

    OWN = 0
    TEAM = 1
    ALL = 2
    BARS = 3


GIVES = (AuthorRelation.OWN, AuthorRelation.TEAM, AuthorRelation.ALL)
_BARRED = Extent.ALL + 1


class GrantTables:
    """A row for each thing that says something, with what it says about every capability.

    With `previous` tables, all that they know is taken over under the same numbers.
    """

    def __init__(self, policy: Policy, previous: "GrantTables | None" = None) -> None:
        self._policy = policy
        known = {} if previous is None else previous._column
        capabilities = dict.fromkeys(known)
        for role in policy.roles.values():
            if previous is None or previous._policy.roles.get(role.key) is not role:
                capabilities.update(dict.fromkeys(role.grants))
        if previous is None or previous._policy.direct_grants is not policy.direct_grants:
            capabilities.update(dict.fromkeys(direct.capability for direct in policy.direct_grants.values()))
        self.every: list[ResolvedGrants] = []
        self._column: dict[str, int] = {capability: i for i, capability in enumerate(capabilities, start=1)}
        """Column 0 stands for capabilities that nobody says anything about."""
        self._numbers: dict[ResolvedGrants, int] = {}
        self._words = np.zeros((64, len(capabilities) + 1), dtype=np.uint8)
        self._asked: dict[ActionColumns, Ints] = {}
        self._by_column: dict[Column, Ints] = {}
        self._kept: dict[ActionColumns, Bits] = {}
        if previous is not None:
            self.every, self._numbers = previous.every.copy(), previous._numbers.copy()
            self._words = np.pad(previous._words, ((0, 0), (0, len(capabilities) - len(known))))
            if len(capabilities) == len(known):
                self._asked, self._kept = previous._asked.copy(), previous._kept.copy()

    def number(self, said: ResolvedGrants) -> int:
        """The row of what a role or direct grant says, added when it is new."""
        number = self._numbers.get(said)
        if number is None:
            number = self._numbers[said] = len(self.every)
            self.every.append(said)
            if number == len(self._words):
                self._words = np.concatenate((self._words, np.zeros_like(self._words)))
            words = self._words[number]
            for capability, extent in said.extents.items():
                words[self._column[capability]] = Extent.ALL if capability.endswith(".create") else extent
            for capability in said.barred:
                words[self._column[capability]] = _BARRED
        return number

    def of(self, columns: ActionColumns, numbers: Sequence[int] | Ints) -> Bits:
        """`[relations, numbers, kinds]` the action bits each row gives, and bars. Any extent gives `create` (§2)."""
        known = self._kept.get(columns)
        if known is None or known.shape[1] < len(self.every):
            done = 0 if known is None else known.shape[1]
            more = self.some(columns, np.arange(done, len(self.every)))
            known = self._kept[columns] = more if known is None else np.concatenate((known, more), axis=1)
        return known[:, numbers]

    def some(self, columns: ActionColumns, numbers: Sequence[int] | Ints, kinds: Bools | None = None) -> Bits:
        """The same for some kinds of node only (None: all), worked out anew and not kept."""
        asked = self._asked_by(columns)
        some: Ints = (np.ones(len(asked), dtype=bool) if kinds is None else kinds).nonzero()[0]
        words = self._words[np.asarray(numbers, dtype=np.intp)[:, None, None], asked[some]]
        # A word is an extent (1 own, 2 team, 3 all), 0 for nothing, 4 for barred.
        told = np.stack((words > 0, words > 1, words == Extent.ALL, words == _BARRED))
        told[: len(GIVES)] &= words < _BARRED
        # One bit a column, packed into bytes, then padded to the width of the columns' integers.
        packed = np.packbits(told, axis=-1, bitorder="little")
        padded = np.zeros((*packed.shape[:2], len(asked), np.dtype(columns.dtype).itemsize), dtype=np.uint8)
        padded[:, :, some, : packed.shape[-1]] = packed
        tables: Bits = padded.view(columns.dtype)[..., 0]
        return tables

    def _asked_by(self, columns: ActionColumns) -> Ints:
        """`[kinds, columns]` the capability that each column of the columns asks; 0 is one that nobody speaks of."""
        if columns not in self._asked:
            self._asked[columns] = np.stack([self._asked_of(columns, column) for column in columns.columns], axis=1)
        return self._asked[columns]

    def _asked_of(self, columns: ActionColumns, column: Column) -> Ints:
        """`[kinds]` the capability that a column asks."""
        if column not in self._by_column:
            kinds = [(name, published) for name in columns.type_names for published in (True, False)]
            every = [self._column.get(column.capability(*kind), 0) for kind in kinds]
            self._by_column[column] = np.array(every, dtype=np.intp)
        return self._by_column[column]
