"""What entries of the roll come to on a sheet: for each a run of rows, and bits there.

    found = sheet.stands.of(entries)
    found.bits[found.parts[i, Level.TEAM], found.first[i] : found.last[i]]     # given on a fellow member's work

Bits are made once for each mixture of what is said, within which sites, types and topics, through which groups;
many mixtures at once. Row 0 of the bits is nothing.
"""

from collections.abc import Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from gonfalon.core.arrays import Bits, Bools, Ints
from gonfalon.core.roll import Fact
from gonfalon.core.tables import Level
from gonfalon.core.vocabulary import Effect

if TYPE_CHECKING:
    from gonfalon.core.sheet import Sheet

MOST_KEPT = 1 << 28
"""Bytes of bits that one sheet may keep: that of a whole tree lives as long as its policy, and people come and go."""
_MOST = 0.5
"""The part of all kinds of node, and of all that is said, from which on the whole is worth keeping for other sheets."""
_SHIFT = 20
_MASK = (1 << _SHIFT) - 1


class Found(NamedTuple):
    """By entry: the rows where it counts, and the row of `bits` with what it gives or bars at each level."""

    first: Ints
    last: Ints
    parts: Ints
    bits: Bits

    def some(self, which: Bools) -> "Found":
        return self._replace(first=self.first[which], last=self.last[which], parts=self.parts[which])


class Stands:
    """The bits of mixtures on one sheet, as far as they have been asked for."""

    def __init__(self, sheet: "Sheet") -> None:
        self.sheet, self.roll = sheet, sheet.ground.roll
        kinds = len(sheet.plan.nothing)
        self._tables = np.zeros((len(Level), 0, kinds), dtype=sheet.plan.dtype)
        """`[levels, what is said, kinds]`, as far as anybody has been asked for who says it."""
        self._place = np.zeros(0, dtype=np.intp)
        """Where in the tables what is said stands: 0 not yet known, -1 it counts for nothing, else the place and 1."""
        self._forget()

    def _forget(self) -> None:
        """Begin anew, with nothing."""
        self._numbers: dict[int, int] = {}
        self._parts = np.zeros((0, len(Level)), dtype=np.intp)
        self._bits = np.zeros((1, self.sheet.length), dtype=self.sheet.plan.dtype)
        self._used = 1

    def of(self, entries: Ints) -> Found:
        """What some entries come to."""
        facts = self.roll.facts[entries]
        parts = np.zeros((len(entries), len(Level)), dtype=np.intp)
        with self.roll.lock:
            if self._used * self.sheet.nothing.nbytes > MOST_KEPT:
                self._forget()
            counting = (self._told(facts[:, Fact.SAID]) > 0).nonzero()[0]
            first, last = np.zeros((2, len(entries)), dtype=np.intp)
            first[counting] = self.sheet.rows_from(facts[counting, Fact.START])
            last[counting] = self.sheet.rows_from(facts[counting, Fact.END])
            here = first < last
            said, within, groups = (facts[here, fact] for fact in (Fact.SAID, Fact.WITHIN, Fact.GROUPS))
            mixtures, place = np.unique((said << _SHIFT | within) << _SHIFT | groups, return_inverse=True)
            missing = [mixture for mixture in mixtures.tolist() if mixture not in self._numbers]
            if missing:
                self._make(missing)
            numbers = [self._numbers[mixture] for mixture in mixtures.tolist()]
            parts[here] = self._parts[numbers][place]
            return Found(first, last, parts, self._bits)

    def _told(self, said: Ints) -> Ints:
        """Where each thing said stands in the tables, and 1; -1 where it gives and bars nothing here."""
        tables, barred = self.roll.tables, self.sheet.narrowed(Effect.BAR).places
        self._place = np.concatenate((self._place, np.zeros(len(tables.every) - len(self._place), dtype=np.intp)))
        asked = np.zeros(len(self._place), dtype=bool)
        asked[said] = True
        unknown = (asked & (self._place == 0)).nonzero()[0]
        if len(unknown):
            plan, present = self.sheet.plan, self.sheet.present
            most = present.mean() > _MOST and len(unknown) > _MOST * len(tables.every)
            told = tables.of(plan, unknown) if most else tables.some(plan, unknown, present)
            counting = np.any(told, axis=(0, 2))
            if barred:
                counting |= np.array([not barred.keys().isdisjoint(tables.every[i].subjects) for i in unknown])
            self._place[unknown] = -1
            self._place[unknown[counting]] = self._tables.shape[1] + np.arange(1, np.count_nonzero(counting) + 1)
            self._tables = np.concatenate((self._tables, told[:, counting]), axis=1)
        return self._place[said]

    def _make(self, mixtures: Sequence[int]) -> None:
        """Add the bits of mixtures that there are none of yet."""
        many = np.array(mixtures, dtype=np.intp)
        saids, said = np.unique(many >> 2 * _SHIFT, return_inverse=True)
        within, groups = many >> _SHIFT & _MASK, many & _MASK
        tables = self._tables[:, self._place[saids] - 1]
        roles = [self.roll.tables.every[number].subjects for number in saids]
        stops, bars = ([self.sheet.narrowed(e).runs(some) for some in roles] for e in (Effect.STOP, Effect.BAR))
        told = np.any(tables, axis=2)
        told[Level.BARS] |= np.array([bool(barred) for barred in bars])
        for near in (Level.OWN, Level.TEAM):
            told[near] &= np.any(tables[near] != tables[near + 1], axis=1)
        level, number = told[:, said].nonzero()
        rows = self._add(len(level))
        made = self._bits[rows]
        tables[level, said[number]].take(self.sheet.kinds, axis=1, out=made, mode="clip")
        for row, of, barring in zip(made, said[number].tolist(), (level == Level.BARS).tolist(), strict=True):
            for where, bits in bars[of] if barring else stops[of]:
                row[where] = row[where] | bits if barring else row[where] & ~bits
        self._within(made, within[number])
        self._without(made, np.where(level < Level.BARS, groups[number], 0))
        parts = np.zeros((len(many), len(Level)), dtype=np.intp)
        parts[number, level] = np.arange(rows.start, rows.stop)
        for near in (Level.TEAM, Level.OWN):
            same = ~told[near, said]
            parts[same, near] = parts[same, near + 1]
        self._numbers |= {mixture: len(self._parts) + i for i, mixture in enumerate(mixtures)}
        self._parts = np.concatenate((self._parts, parts))

    def _add(self, count: int) -> slice:
        rows = slice(self._used, self._used + count)
        if rows.stop > len(self._bits):
            bits = np.empty((max(rows.stop, 2 * len(self._bits)), self.sheet.length), dtype=self.sheet.plan.dtype)
            bits[: self._used] = self._bits[: self._used]
            self._bits = bits
        self._used = rows.stop
        return rows

    def _within(self, made: Bits, within: Ints) -> None:
        """Take what lies outside the sites, types and topics of a scope."""
        some = within.nonzero()[0]
        if len(some):
            numbers, place = np.unique(within[some], return_inverse=True)
            scopes = list(self.roll.withins)
            masks = self.sheet.masks([scopes[number] for number in numbers])
            for i, number in zip(some.tolist(), place.tolist(), strict=True):
                made[i] &= masks[number]

    def _without(self, made: Bits, groups: Ints) -> None:
        """Take what is stopped for groups that it came through."""
        every, narrowed = list(self.roll.groups), self.sheet.narrowed(Effect.STOP)
        runs = {group: narrowed.runs(every[group]) for group in np.unique(groups).tolist()}
        for i, group in enumerate(groups.tolist()):
            for where, bits in runs[group]:
                made[i, where] &= ~bits
