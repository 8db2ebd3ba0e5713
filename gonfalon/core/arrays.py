"""What the arrays of whole trees hold."""

import numpy as np
from numpy.typing import NDArray

Bits = NDArray[np.uint64]
"""An unsigned integer for each node, with a bit for each column of a plan: typed as the largest there may be."""
Bools = NDArray[np.bool_]
Ints = NDArray[np.intp]
"""Positions in a tree, rows of a sheet, numbers of things: places in some other array."""


def has(bits: Bits, column: int) -> Bools:
    """Where the bit of a column is set."""
    has: Bools = np.not_equal(bits & bits.dtype.type(1 << column), 0)
    return has


def joined(ones: Ints, others: Ints) -> tuple[Ints, Ints]:
    """Every pair of places with equal values, in the order of the first; the second values ascending."""
    return spread(np.searchsorted(others, ones, "left"), np.searchsorted(others, ones, "right"))


def spread(first: Ints, last: Ints) -> tuple[Ints, Ints]:
    """Each place of some runs, run by run: which run it is of, and where it is."""
    counts = last - first
    of = np.repeat(np.arange(len(first)), counts)
    along = np.arange(len(of)) - np.repeat(np.cumsum(counts) - counts, counts)
    return of, first[of] + along


def either(whose: Ints, bits: Bits, count: int) -> Bits:
    """`[count, ...]` for each all bits of those rows that are its; `whose` ascends."""
    found: Bits = np.zeros((count, *bits.shape[1:]), dtype=bits.dtype)
    turn = np.arange(len(whose)) - np.searchsorted(whose, whose)
    for i in range(int(turn.max(initial=-1)) + 1):
        some = (turn == i).nonzero()[0]
        found[whose[some]] |= bits[some]
    return found


def met(whose: Ints, bits: Bits, count: int) -> Bits:
    """`[count]` the same of single numbers, where each has many."""
    found: Bits = np.zeros(count, dtype=bits.dtype)
    if len(whose):
        firsts = np.concatenate(([0], np.diff(whose).nonzero()[0] + 1))
        found[whose[firsts]] = np.bitwise_or.reduceat(bits, firsts)
    return found
