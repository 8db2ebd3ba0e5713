"""What the arrays of whole trees hold."""

from collections.abc import Sequence
from copy import copy
from typing import Any

import numpy as np
from numpy.typing import NDArray

Bits = NDArray[np.uint64]
"""An unsigned integer for each node, with a bit for each column of a plan: typed as the largest there may be."""
Bools = NDArray[np.bool_]
Ints = NDArray[np.intp]
"""Positions in a tree, rows of a sheet, numbers of things: places in some other array."""

Words = NDArray[np.uint64]
"""Sets of holders, one a row: a bit for each, 64 in a word."""


class Growing:
    """Rows of integers that are added one after the other, at little cost each."""

    def __init__(self, *shape: int) -> None:
        self._rows = np.empty((1024, *shape), dtype=np.intp)
        self._used = 0

    def __len__(self) -> int:
        return self._used

    @property
    def rows(self) -> Ints:
        """`[rows, ...]` those there are."""
        return self._rows[: self._used]

    def add(self, rows: Sequence[Any]) -> None:
        until = self._used + len(rows)
        if until > len(self._rows):
            more = np.empty((max(until, 2 * len(self._rows)), *self._rows.shape[1:]), dtype=np.intp)
            more[: self._used] = self.rows
            self._rows = more
        self._rows[self._used : until] = rows
        self._used = until

    def copy(self) -> "Growing":
        other = copy(self)
        other._rows = self._rows.copy()
        return other


def has(bits: Bits, column: int) -> Bools:
    """Where the bit of a column is set."""
    has: Bools = np.not_equal(bits & bits.dtype.type(1 << column), 0)
    return has


def stable_argsort(numbers: Ints) -> Ints:
    """The order of some numbers, equal ones as they come; small integers are sorted many times as fast."""
    small = int(numbers.max(initial=0)) < 1 << 15
    return np.argsort(numbers.astype(np.int16) if small else numbers, kind="stable")


def join_sorted(ones: Ints, others: Ints) -> tuple[Ints, Ints]:
    """Every pair of places with equal values, in the order of the first; the second values ascending."""
    return expand_ranges(np.searchsorted(others, ones, "left"), np.searchsorted(others, ones, "right"))


def expand_ranges(first: Ints, last: Ints) -> tuple[Ints, Ints]:
    """Each place of some runs, run by run: which run it is of, and where it is."""
    counts = last - first
    of = np.repeat(np.arange(len(first)), counts)
    along = np.arange(len(of)) - np.repeat(np.cumsum(counts) - counts, counts)
    return of, first[of] + along


def or_by_group(whose: Ints, bits: Bits, count: int) -> Bits:
    """`[count, ...]` for each all bits of those rows that are its; `whose` ascends."""
    found: Bits = np.zeros((count, *bits.shape[1:]), dtype=bits.dtype)
    turn = np.arange(len(whose)) - np.searchsorted(whose, whose)
    for i in range(int(turn.max(initial=-1)) + 1):
        some = (turn == i).nonzero()[0]
        found[whose[some]] |= bits[some]
    return found


def or_by_pair(whose: Ints, bits: Bits, count: int) -> Bits:
    """`[count]` the same of single numbers, where each has many."""
    found: Bits = np.zeros(count, dtype=bits.dtype)
    if len(whose):
        firsts = np.concatenate(([0], np.diff(whose).nonzero()[0] + 1))
        found[whose[firsts]] = np.bitwise_or.reduceat(bits, firsts)
    return found


def packed(holds: Bools) -> Words:
    """`[columns, words]` who of `[holders, columns]` has each column."""
    octets = np.packbits(holds, axis=0, bitorder="little").T
    padded = np.zeros((len(octets), -(-len(holds) // 64) * 8), dtype=np.uint8)
    padded[:, : octets.shape[1]] = octets
    words: Words = padded.view("<u8")
    return words


def members(words: Words) -> tuple[Ints, Ints]:
    """Every pair of a set and a holder in it, in the order of the sets."""
    octets = words.view(np.uint8)
    row, place = octets.nonzero()
    pair, bit = np.unpackbits(octets[row, place][:, None], axis=1, bitorder="little").nonzero()
    return row[pair], place[pair] * 8 + bit


def words_of(row: Ints, holder: Ints, rows: int, holders: int) -> Words:
    """`[rows, words]` the sets of some pairs."""
    words = np.zeros((rows, -(-holders // 64)), dtype="<u8")
    bits = np.uint64(1) << (holder & 63).astype(np.uint64)
    np.bitwise_or.at(words.reshape(-1), row * words.shape[1] + (holder >> 6), bits)
    return words
