"""What entries of the roll come to on a sheet: for each a run of rows, what it says, and where that counts.

    found = sheet.kept(Stands).of(entries)
    found.at(AuthorRelation.TEAM, i, row)     # given by entry i at a row that a fellow member wrote

What is said is looked up by kind of node, in tables; a *mask* keeps of it what lies within the sites, types and
topics of a scope and is not stopped for a role or a group on the way. Mask 0 keeps all: most entries have that.
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
"""Bytes of masks that one sheet may keep: that of a whole tree lives as long as its policy, and people come and go."""
_MOST = 0.5
"""The part of all kinds of node, and of all that is said, from which on the whole is worth keeping for other sheets."""
_SHIFT = 20
_MASK = (1 << _SHIFT) - 1


class GrantColumns(NamedTuple):
    """By entry: the rows where it counts, a place in `tables` (0: it says nothing here), one in `masks` and `bars`.

    `tables` is `[levels, places, kinds]`, `masks` and `bars` `[places, rows]`; `bars` is what an entry bars, 0 nothing.
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
        """The same of some entries."""
        columns = ("first", "last", "said", "mask", "barring")
        return self._replace(**{column: getattr(self, column)[which] for column in columns})

    @property
    def everywhere(self) -> Bools:
        """By entry whether it counts in every row."""
        everywhere: Bools = (self.first == 0) & (self.last == len(self.kinds))
        return everywhere

    @property
    def closer(self) -> Bools:
        """By entry whether what it says gives more on the holder's own work than on a stranger's."""
        closer: Bools = np.any(self.tables[AuthorRelation.OWN] != self.tables[AuthorRelation.ALL], axis=1)[self.said]
        return closer

    def at(self, level: AuthorRelation | Ints, entry: Ints, row: Ints) -> Bits:
        """What entries give at rows where they count, pair by pair."""
        bits: Bits = self.tables[level, self.said[entry], self.kinds[row]]
        masked = self.mask[entry].nonzero()[0]
        bits[masked] &= self.masks[self.mask[entry[masked]], row[masked]]
        return bits

    def along(self, level: AuthorRelation, i: int) -> Bits:
        """What entry `i` gives on such work in each row where it counts."""
        here = slice(self.first[i], self.last[i])
        bits: Bits = self.tables[level, self.said[i]].take(self.kinds[here])
        return bits & self.masks[self.mask[i], here] if self.mask[i] else bits


class GrantsOnNodes:
    """Tables, masks and bars of one sheet, as far as they have been asked for."""

    def __init__(self, batch: NodeBatch) -> None:
        self.batch, self.source_index = batch, batch.policy_index.source_index
        kinds = len(batch.columns.nothing)
        self._tables = np.zeros((len(GIVES), 1, kinds), dtype=batch.columns.dtype)
        """`[levels, what is said, kinds]`, as far as anybody has been asked for who says it; the first is nothing."""
        self._barred = np.zeros((1, kinds), dtype=batch.columns.dtype)
        self._place = np.zeros(0, dtype=np.intp)
        """Where in the tables what is said stands: 0 not yet known, -1 it counts for nothing."""
        self._said = np.zeros(1, dtype=np.intp)
        """What is said at each place."""
        self._limited = np.zeros((2, 1), dtype=bool)
        """`[effects, places]` whether the role is stopped, or barred, somewhere here."""
        self._groups: dict[int, int] = {}
        """By place in `SourceIndex.groups` the first place with the same of them stopped here; 0 where none is."""
        self._stopped: dict[tuple[Subject, ...], int] = {(): 0}
        self._forget()

    def _forget(self) -> None:
        """Begin anew, with masks that keep all and bars that take nothing."""
        self._masks, self._bars = _Rows(self.batch.all), _Rows(self.batch.nothing)

    def of(self, entries: Ints) -> GrantColumns:
        """What some entries come to."""
        facts = self.source_index.facts[entries]
        with self.source_index.lock:
            if self._masks.nbytes + self._bars.nbytes > MOST_KEPT:
                self._forget()
            said = np.maximum(self._told(facts[:, SourceColumn.SAID]), 0)
            counting = said.nonzero()[0]
            first, last, mask, barring = np.zeros((4, len(entries)), dtype=np.intp)
            first[counting] = self.batch.rows_from(facts[counting, SourceColumn.START])
            last[counting] = self.batch.rows_from(facts[counting, SourceColumn.END])
            said[first >= last] = 0
            here = said.nonzero()[0]
            within, of = facts[here, SourceColumn.WITHIN], said[here]
            stopped, barred = self._limited[:, of]
            barred = barred | np.any(self._barred[of], axis=1)
            groups = self._narrowing(facts[here, SourceColumn.GROUPS])
            mask[here] = self._masks.of(_packed(np.where(stopped, of, 0), within, groups), self._masking)
            barring[here[barred]] = self._bars.of(_packed(of[barred], within[barred]), self._barring)
            masks, bars = self._masks.every, self._bars.every
            for i in (mask > 0).nonzero()[0].tolist():
                if last[i] - first[i] < self.batch.length and np.all(
                    masks[mask[i], first[i] : last[i]] == self._masks.first[0]
                ):
                    mask[i] = 0
            return GrantColumns(first, last, said, mask, barring, self.batch.kinds, self._tables, masks, bars)

    # -- what is said --------------------------------------------------------------------------

    def _told(self, said: Ints) -> Ints:
        """Where each thing said stands in the tables; -1 where it gives and bars nothing here."""
        tables = self.source_index.tables
        self._place = np.concatenate((self._place, np.zeros(len(tables.every) - len(self._place), dtype=np.intp)))
        asked = np.zeros(len(self._place), dtype=bool)
        asked[said] = True
        unknown = (asked & (self._place == 0)).nonzero()[0]
        if len(unknown):
            columns, present = self.batch.columns, self.batch.present
            most = present.mean() > _MOST and len(unknown) > _MOST * len(tables.every)
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

    def _limits_on(self, saids: Ints) -> Bools:
        """`[effects, said]` whether a limit stops, or bars, one of its roles here."""
        limited = np.zeros((2, len(saids)), dtype=bool)
        for row, narrowed in zip(limited, map(self.batch.narrowed, EFFECTS), strict=True):
            if named := narrowed.places.keys():
                row[:] = [not named.isdisjoint(self.source_index.tables.every[said].subjects) for said in saids]
        return limited

    # -- where it counts -----------------------------------------------------------------------

    def _narrowing(self, groups: Ints) -> Ints:
        """The first place in `SourceIndex.groups` that comes to the same stops here; 0 where none is stopped."""
        each, of = np.unique(groups, return_inverse=True)
        named, every = self.batch.narrowed(Effect.STOP).places, list(self.source_index.groups)
        for number in each.tolist():
            if number not in self._groups:
                stopped = tuple([group for group in every[number] if group in named])
                self._groups[number] = self._stopped.setdefault(stopped, number)
        return np.array([self._groups[number] for number in each.tolist()], dtype=np.intp)[of]

    def _masking(self, keys: Ints) -> Bits:
        said, within, groups = _unpacked(keys)
        masks = self._within(np.full((len(keys), self.batch.length), self.batch.columns.every), within)
        stops, every = self.batch.narrowed(Effect.STOP), list(self.source_index.groups)
        for mask, by_role, through in zip(masks, said.tolist(), groups.tolist(), strict=True):
            roles = self.source_index.tables.every[self._said[by_role]].subjects if by_role else ()
            for where, bits in stops.runs((*roles, *every[through])):
                mask[where] &= ~bits
        return masks

    def _barring(self, keys: Ints) -> Bits:
        said, within, _ = _unpacked(keys)
        barred = self._barred[said].take(self.batch.kinds, axis=1)
        bars = self.batch.narrowed(Effect.BAR)
        for row, place in zip(barred, said.tolist(), strict=True):
            for where, bits in bars.runs(self.source_index.tables.every[self._said[place]].subjects):
                row[where] |= bits
        return self._within(barred, within)

    def _within(self, bits: Bits, within: Ints) -> Bits:
        """Some bits, but for what lies outside the sites, types and topics of a scope."""
        some = within.nonzero()[0]
        if len(some):
            numbers, place = np.unique(within[some], return_inverse=True)
            scopes = list(self.source_index.withins)
            bits[some] &= self.batch.masks([scopes[number] for number in numbers])[place]
        return bits


class _Rows:
    """Rows of bits by key, made as they are asked for; those equal to the first share its place, 0."""

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


def _packed(said: Ints, within: Ints, groups: Ints | int = 0) -> Ints:
    """Three numbers as one key."""
    packed: Ints = (said << _SHIFT | within) << _SHIFT | groups
    return packed


def _unpacked(keys: Ints) -> tuple[Ints, Ints, Ints]:
    return keys >> 2 * _SHIFT, keys >> _SHIFT & _MASK, keys & _MASK
