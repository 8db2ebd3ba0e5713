"""What entries of the roll come to on a sheet: for each a run of rows, and bits there.

    found = sheet.stands.of(entries)
    found.bits[found.parts[i, Level.TEAM], found.first[i] : found.last[i]]     # given on a fellow member's work

Bits are made once for each mixture of what is said, within which sites, types and topics, through which groups;
many mixtures at once. Row 0 of the bits is nothing.
"""

from collections.abc import Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from gonfalon.core.plan import Bits, Bools
from gonfalon.core.roll import Fact
from gonfalon.core.tables import Ints, Level
from gonfalon.core.vocabulary import Effect

if TYPE_CHECKING:
    from gonfalon.core.sheet import Sheet

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
        self._numbers: dict[int, int] = {}
        self._parts = np.zeros((0, len(Level)), dtype=np.intp)
        self._bits = np.zeros((1, sheet.length), dtype=sheet.plan.dtype)
        self._used = 1

    def of(self, entries: Ints) -> Found:
        """What some entries come to."""
        facts = self.roll.facts[entries]
        first, last = self.sheet.rows_from(facts[:, Fact.START]), self.sheet.rows_from(facts[:, Fact.END])
        here = first < last
        said, within, groups = (facts[here, fact] for fact in (Fact.SAID, Fact.WITHIN, Fact.GROUPS))
        mixtures, place = np.unique((said << _SHIFT | within) << _SHIFT | groups, return_inverse=True)
        parts = np.zeros((len(entries), len(Level)), dtype=np.intp)
        with self.roll.lock:
            missing = [mixture for mixture in mixtures.tolist() if mixture not in self._numbers]
            if missing:
                self._make(missing)
            numbers = [self._numbers[mixture] for mixture in mixtures.tolist()]
            parts[here] = self._parts[numbers][place]
            return Found(first, last, parts, self._bits)

    def _make(self, mixtures: Sequence[int]) -> None:
        """Add the bits of mixtures that there are none of yet."""
        sheet, many = self.sheet, np.array(mixtures, dtype=np.intp)
        saids, said = np.unique(many >> 2 * _SHIFT, return_inverse=True)
        within, groups = many >> _SHIFT & _MASK, many & _MASK
        tables = self.roll.tables.of(sheet.plan, saids, sheet.present)
        subjects = [self.roll.tables.every[number].subjects for number in saids]
        bars = [sheet.in_force(some, Effect.BAR) for some in subjects]
        told = tables.any(axis=2)
        told[Level.BARS] |= [barred is not None for barred in bars]
        for level in (Level.OWN, Level.TEAM):
            told[level] &= (tables[level] != tables[level + 1]).any(axis=1)
        level, number = told[:, said].nonzero()
        rows = self._add(len(level))
        made = self._bits[rows]
        tables[level, said[number]].take(sheet.kinds, axis=1, out=made, mode="clip")
        self._narrow(made, level, said[number], [sheet.in_force(some, Effect.STOP) for some in subjects], bars)
        self._within(made, within[number])
        self._without(made, np.where(level < Level.BARS, groups[number], 0))
        parts = np.zeros((len(many), len(Level)), dtype=np.intp)
        parts[number, level] = np.arange(rows.start, rows.stop)
        for level in (Level.TEAM, Level.OWN):
            same = ~told[level, said]
            parts[same, level] = parts[same, level + 1]
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

    @staticmethod
    def _narrow(made: Bits, level: Ints, said: Ints, stops: Sequence[Bits | None], bars: Sequence[Bits | None]) -> None:
        """Take what is stopped for a role from what is given, and add what is barred for it."""
        keeps = [None if stopped is None else ~stopped for stopped in stops]
        for row, number, barring in zip(made, said.tolist(), (level == Level.BARS).tolist(), strict=True):
            if barring and (barred := bars[number]) is not None:
                row |= barred
            elif not barring and (kept := keeps[number]) is not None:
                row &= kept

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
        every = list(self.roll.groups)
        for i in groups.nonzero()[0].tolist():
            stopped = self.sheet.in_force(every[groups[i]], Effect.STOP)
            if stopped is not None:
                made[i] &= ~stopped
