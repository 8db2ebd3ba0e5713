"""Integers whose bits stand for actions, sets of holders as packed bits, and the array operations on both."""

from collections.abc import Sequence
from copy import copy
from typing import Any

import numpy as np
from numpy.typing import NDArray

Bits = NDArray[np.uint64]
"""Unsigned integers with a bit for each action column: typed here as the widest there may be."""
Bools = NDArray[np.bool_]
Ints = NDArray[np.intp]
"""Places in another array: positions in a tree, rows of a batch, numbers of things."""

Words = NDArray[np.uint64]
"""`[sets, words]` sets of holders: a bit for each holder, 64 in a word."""


class Growing:
    """Rows of integers that grow at the end, at little cost a row."""

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
        """Add rows at the end."""
        until = self._used + len(rows)
        if until > len(self._rows):
            more = np.empty((max(until, 2 * len(self._rows)), *self._rows.shape[1:]), dtype=np.intp)
            more[: self._used] = self.rows
            self._rows = more
        self._rows[self._used : until] = rows
        self._used = until

    def copy(self) -> "Growing":
        """A copy that grows by itself."""
        other = copy(self)
        other._rows = self._rows.copy()
        return other


def has(bits: Bits, column: int) -> Bools:
    """Where the bit of a column is set: booleans of the shape of `bits`."""
    has: Bools = np.not_equal(bits & bits.dtype.type(1 << column), 0)
    return has


def stable_argsort(numbers: Ints) -> Ints:
    """`[n]` the order that sorts some numbers, equal ones as they come; numbers below 2**15 are sorted by radix."""
    small = int(numbers.max(initial=0)) < 1 << 15
    return np.argsort(numbers.astype(np.int16) if small else numbers, kind="stable")


def join_sorted(ones: Ints, others: Ints) -> tuple[Ints, Ints]:
    """All pairs of places `(i, j)` with `ones[i] == others[j]`, by `i`; `others` ascends."""
    return expand_ranges(np.searchsorted(others, ones, "left"), np.searchsorted(others, ones, "right"))


def expand_ranges(first: Ints, last: Ints) -> tuple[Ints, Ints]:
    """The range that each place is of, and the place: 0 to 2 and 5 to 7 give [0, 0, 1, 1] and [0, 1, 5, 6]."""
    counts = last - first
    of = np.repeat(np.arange(len(first)), counts)
    along = np.arange(len(of)) - np.repeat(np.cumsum(counts) - counts, counts)
    return of, first[of] + along


def or_by_group(whose: Ints, bits: Bits, count: int) -> Bits:
    """`[count, ...]` the OR of the rows of each owner: row `i` is of `whose[i]`, ascending, few rows an owner."""
    found: Bits = np.zeros((count, *bits.shape[1:]), dtype=bits.dtype)
    turn = np.arange(len(whose)) - np.searchsorted(whose, whose)
    for i in range(int(turn.max(initial=-1)) + 1):
        some = (turn == i).nonzero()[0]
        found[whose[some]] |= bits[some]
    return found


def or_by_pair(whose: Ints, bits: Bits, count: int) -> Bits:
    """`[count]` the OR of single numbers by owner; `whose` ascends, many numbers an owner."""
    found: Bits = np.zeros(count, dtype=bits.dtype)
    if len(whose):
        firsts = np.concatenate(([0], np.diff(whose).nonzero()[0] + 1))
        found[whose[firsts]] = np.bitwise_or.reduceat(bits, firsts)
    return found


def packed(holds: Bools) -> Words:
    """`[columns, words]` for booleans `[holders, columns]`, the set of holders with each column."""
    octets = np.packbits(holds, axis=0, bitorder="little").T
    padded = np.zeros((len(octets), -(-len(holds) // 64) * 8), dtype=np.uint8)
    padded[:, : octets.shape[1]] = octets
    words: Words = padded.view("<u8")
    return words


def members(words: Words) -> tuple[Ints, Ints]:
    """All pairs of a set and a holder in it, by set."""
    octets = words.view(np.uint8)
    row, place = octets.nonzero()
    pair, bit = np.unpackbits(octets[row, place][:, None], axis=1, bitorder="little").nonzero()
    return row[pair], place[pair] * 8 + bit


def words_of(row: Ints, holder: Ints, rows: int, holders: int) -> Words:
    """`[rows, words]` the sets that some pairs of a row and a holder make."""
    words = np.zeros((rows, -(-holders // 64)), dtype="<u8")
    bits = np.uint64(1) << (holder & 63).astype(np.uint64)
    np.bitwise_or.at(words.reshape(-1), row * words.shape[1] + (holder >> 6), bits)
    return words
