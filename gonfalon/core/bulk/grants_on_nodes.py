"""For each grant, the node rows of one batch that it covers, and the action bits it gives or bars there.

    found = batch.kept(GrantsOnNodes).of(grants)
    found.at(AuthorRelation.TEAM, grant, row)        # the bits a grant gives at a row that a fellow member wrote

What a grant says depends only on the kind of node and is looked up in small tables. Where its scope names sites, types
or topics, or a stop names its role or group, a *mask* over all rows keeps what is left. Mask 0 keeps everything: most
grants have that one.
"""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from gonfalon.core.bulk.grant_tables import GIVES, AuthorRelation
from gonfalon.core.bulk.limit_runs import EFFECTS
from gonfalon.core.bulk.node_batch import NodeBatch
from gonfalon.core.bulk.source_index import SourceColumn
from gonfalon.core.model.bits import Bits, Bools, Ints
from gonfalon.core.model.policy import Subject
from gonfalon.core.model.vocabulary import Effect

MOST_KEPT = 1 << 27
"""Bytes of masks that one batch may keep, since batches of whole trees live as long as their policy."""
_MOST = 0.5
"""From this part of all kinds and of all rows of the tables on, whole tables are made and kept for other batches."""
_SHIFT = 20
_MASK = (1 << _SHIFT) - 1


class GrantColumns(NamedTuple):
    """One row a grant, in columns: from which row to which it counts, and places in the tables behind.

    `said` is a place in `tables`, `[relations, places, kinds]` (0: it says nothing here); `mask` one in `masks`, and
    `barring` one in `bars`, both `[places, rows]` (0: keeps all, and bars nothing). `kinds` is `[rows]`.
    """

    first: Ints
    last: Ints
    said: Ints
    mask: Ints
    barring: Ints
    kinds: Ints
    tables: Bits
    masks: Bits
    bars: Bits

    def some(self, which: Bools) -> "GrantColumns":
        """Only some of the grants."""
        columns = ("first", "last", "said", "mask", "barring")
        return self._replace(**{column: getattr(self, column)[which] for column in columns})

    @property
    def everywhere(self) -> Bools:
        """`[grants]` whether each counts in every row."""
        everywhere: Bools = (self.first == 0) & (self.last == len(self.kinds))
        return everywhere

    @property
    def author_matters(self) -> Bools:
        """`[grants]` whether each gives more on the holder's own work than on a stranger's."""
        author_matters: Bools = np.any(self.tables[AuthorRelation.OWN] != self.tables[AuthorRelation.ALL], axis=1)[
            self.said
        ]
        return author_matters

    def at(self, level: AuthorRelation | Ints, grant: Ints, row: Ints) -> Bits:
        """`[pairs]` the bits that each grant gives at its row, which must be one where it counts."""
        bits: Bits = self.tables[level, self.said[grant], self.kinds[row]]
        masked = self.mask[grant].nonzero()[0]
        bits[masked] &= self.masks[self.mask[grant[masked]], row[masked]]
        return bits

    def along(self, level: AuthorRelation, i: int) -> Bits:
        """`[last - first]` the bits that grant `i` gives in each row where it counts, on work so related."""
        here = slice(self.first[i], self.last[i])
        bits: Bits = self.tables[level, self.said[i]].take(self.kinds[here])
        return bits & self.masks[self.mask[i], here] if self.mask[i] else bits


class GrantsOnNodes:
    """The tables, masks and bars of one batch, made as they are asked for and shared by all holders."""

    def __init__(self, batch: NodeBatch) -> None:
        self.batch, self.source_index = batch, batch.policy_index.source_index
        kinds = len(batch.columns.nothing)
        self._tables = np.zeros((len(GIVES), 1, kinds), dtype=batch.columns.dtype)
        """`[relations, places, kinds]` for what has been asked for so far; place 0 says nothing."""
        self._barred = np.zeros((1, kinds), dtype=batch.columns.dtype)
        self._place = np.zeros(0, dtype=np.intp)
        """By row of `GrantTables` its place in the tables here: 0 not yet known, -1 it counts for nothing here."""
        self._said = np.zeros(1, dtype=np.intp)
        """By place the row of `GrantTables`."""
        self._limited = np.zeros((2, 1), dtype=bool)
        """`[2, places]` whether a stop, and whether a bar, names the role somewhere here."""
        self._groups: dict[int, int] = {}
        """By place in `SourceIndex.groups` the first place whose groups come to the same stops here; 0 for none."""
        self._stopped: dict[tuple[Subject, ...], int] = {(): 0}
        self._forget()

    def _forget(self) -> None:
        """Drop all masks and bars but the first ones, which keep all and bar nothing."""
        self._masks, self._bars = _Rows(self.batch.all), _Rows(self.batch.nothing)

    def of(self, grants: Ints) -> GrantColumns:
        """Some grants, by their numbers in the source index, on this batch."""
        grant_rows = self.source_index.grant_rows[grants]
        with self.source_index.lock:
            if self._masks.nbytes + self._bars.nbytes > MOST_KEPT:
                self._forget()
            said = np.maximum(self._places_of(grant_rows[:, SourceColumn.STATEMENTS]), 0)
            counting = said.nonzero()[0]
            first, last, mask, barring = np.zeros((4, len(grants)), dtype=np.intp)
            first[counting] = self.batch.rows_from(grant_rows[counting, SourceColumn.START])
            last[counting] = self.batch.rows_from(grant_rows[counting, SourceColumn.END])
            said[first >= last] = 0
            here = said.nonzero()[0]
            filter, of = grant_rows[here, SourceColumn.FILTER], said[here]
            stopped, barred = self._limited[:, of]
            barred = barred | np.any(self._barred[of], axis=1)
            groups = self._narrowing(grant_rows[here, SourceColumn.GROUPS])
            mask[here] = self._masks.of(_packed(np.where(stopped, of, 0), filter, groups), self._new_masks)
            barring[here[barred]] = self._bars.of(_packed(of[barred], filter[barred]), self._new_bars)
            masks, bars = self._masks.every, self._bars.every
            for i in (mask > 0).nonzero()[0].tolist():
                if last[i] - first[i] < self.batch.length and np.all(
                    masks[mask[i], first[i] : last[i]] == self._masks.first[0]
                ):
                    mask[i] = 0
            return GrantColumns(first, last, said, mask, barring, self.batch.kinds, self._tables, masks, bars)

    # -- what is said --------------------------------------------------------------------------

    def _places_of(self, said: Ints) -> Ints:
        """The places of rows of `GrantTables` here; -1 for one that gives and bars nothing here."""
        tables = self.source_index.tables
        self._place = np.concatenate((self._place, np.zeros(len(tables.every) - len(self._place), dtype=np.intp)))
        asked = np.zeros(len(self._place), dtype=bool)
        asked[said] = True
        unknown = (asked & (self._place == 0)).nonzero()[0]
        if len(unknown):
            columns, present = self.batch.columns, self.batch.present
            most = np.count_nonzero(present) > _MOST * len(present) and len(unknown) > _MOST * len(tables.every)
            told = tables.of(columns, unknown) if most else tables.some(columns, unknown, present)
            limited = self._limits_on(unknown)
            counting = np.any(told, axis=(0, 2)) | limited[1]
            self._place[unknown] = -1
            self._place[unknown[counting]] = len(self._said) + np.arange(np.count_nonzero(counting))
            self._said = np.concatenate((self._said, unknown[counting]))
            self._limited = np.concatenate((self._limited, limited[:, counting]), axis=1)
            self._tables = np.concatenate((self._tables, told[: len(GIVES), counting]), axis=1)
            self._barred = np.concatenate((self._barred, told[AuthorRelation.BARS, counting]))
        return self._place[said]

    def _limits_on(self, rows: Ints) -> Bools:
        """`[2, rows]` whether a stop, and whether a bar, names a role of each row of `GrantTables` here."""
        limited = np.zeros((2, len(rows)), dtype=bool)
        for row, narrowed in zip(limited, map(self.batch.narrowed, EFFECTS), strict=True):
            if named := narrowed.places.keys():
                row[:] = [not named.isdisjoint(self.source_index.tables.every[said].subjects) for said in rows.tolist()]
        return limited

    # -- where it counts -----------------------------------------------------------------------

    def _narrowing(self, groups: Ints) -> Ints:
        """For each place in `SourceIndex.groups` the first one that comes to the same stops here; 0 for none."""
        each, of = np.unique(groups, return_inverse=True)
        named, every = self.batch.narrowed(Effect.STOP).places, list(self.source_index.groups)
        for number in each.tolist():
            if number not in self._groups:
                stopped = tuple([group for group in every[number] if group in named])
                self._groups[number] = self._stopped.setdefault(stopped, number)
        return np.array([self._groups[number] for number in each.tolist()], dtype=np.intp)[of]

    def _new_masks(self, keys: Ints) -> Bits:
        """`[keys, rows]` the bits that stops on a role or groups, and a filter, leave."""
        said, filter, groups = _unpacked(keys)
        masks = self._filtered(np.full((len(keys), self.batch.length), self.batch.columns.every), filter)
        stops, every = self.batch.narrowed(Effect.STOP), list(self.source_index.groups)
        for mask, by_role, through in zip(masks, said.tolist(), groups.tolist(), strict=True):
            roles = self.source_index.tables.every[self._said[by_role]].subjects if by_role else ()
            for where, bits in stops.runs((*roles, *every[through])):
                mask[where] &= ~bits
        return masks

    def _new_bars(self, keys: Ints) -> Bits:
        """`[keys, rows]` the bits that a row of the tables bars, itself or by limits on its roles, within a filter."""
        said, filter, _ = _unpacked(keys)
        barred = self._barred[said].take(self.batch.kinds, axis=1)
        bars = self.batch.narrowed(Effect.BAR)
        for row, place in zip(barred, said.tolist(), strict=True):
            for where, bits in bars.runs(self.source_index.tables.every[self._said[place]].subjects):
                row[where] |= bits
        return self._filtered(barred, filter)

    def _filtered(self, bits: Bits, filter: Ints) -> Bits:
        """`[keys, rows]` some bits, cleared outside the sites, types and topics of the filter of each."""
        some = filter.nonzero()[0]
        if len(some):
            numbers, place = np.unique(filter[some], return_inverse=True)
            scopes = list(self.source_index.filters)
            bits[some] &= self.batch.masks([scopes[number] for number in numbers])[place]
        return bits


class _Rows:
    """Rows of bits by key, made as they are asked for; rows equal to the first share its place, 0."""

    def __init__(self, first: Bits) -> None:
        self.first = first
        self._places: dict[int, int] = {}
        self._every = first[None]
        self._used = 1

    @property
    def every(self) -> Bits:
        return self._every

    @property
    def nbytes(self) -> int:
        return self._used * self.first.nbytes

    def of(self, keys: Ints, make: Callable[[Ints], Bits]) -> Ints:
        """The place of each key. `make` gives rows of those not yet known."""
        each, of = np.unique(keys, return_inverse=True)
        missing = np.array([key for key in each.tolist() if key not in self._places], dtype=np.intp)
        if len(missing):
            self._add(missing, make(missing))
        return np.array([self._places[key] for key in each.tolist()], dtype=np.intp)[of]

    def _add(self, keys: Ints, rows: Bits) -> None:
        other = np.any(rows != self.first, axis=1)
        self._places |= dict.fromkeys(keys[~other].tolist(), 0)
        self._places |= zip(keys[other].tolist(), range(self._used, self._used + len(keys)), strict=False)
        until = self._used + int(np.count_nonzero(other))
        if until > len(self._every):
            room = 2 * until if self._used > 1 else until
            more = np.empty((room, len(self.first)), dtype=self.first.dtype)
            more[: self._used] = self._every[: self._used]
            self._every = more
        self._every[self._used : until] = rows[other]
        self._used = until


def _packed(said: Ints, filter: Ints, groups: Ints | int = 0) -> Ints:
    """Three numbers of at most 20 bits in one integer key."""
    packed: Ints = (said << _SHIFT | filter) << _SHIFT | groups
    return packed


def _unpacked(keys: Ints) -> tuple[Ints, Ints, Ints]:
    return keys >> 2 * _SHIFT, keys >> _SHIFT & _MASK, keys & _MASK
