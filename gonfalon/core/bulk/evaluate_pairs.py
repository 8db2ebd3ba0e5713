"""What some holders may do, each at rows of their own, without asking about any other row (§4).

may_each(crowd, holder, row)     # by pair of them the bits of crowd.alone()[holder, row]
"""

import numpy as np

from gonfalon.core.bulk.evaluate_batch import Crowd
from gonfalon.core.bulk.grant_tables import Level
from gonfalon.core.model.bits import Bits, Ints, met, spread


def may_each(crowd: Crowd, holder: Ints, row: Ints, near: Level | None = None) -> Bits:
    """By pair of a holder of the crowd and a row of its sheet, a bit for each action asked; `near` as in `Crowd.alone`.

    ValueError for a sheet that asks about whole branches: there an answer rests on other rows too.
    """
    sheet, plan, found = crowd.sheet, crowd.sheet.plan, crowd.found
    if plan.whole_branch:
        raise ValueError("whole branches are asked about with all their rows")
    of, entry = _counting(crowd, holder, row)
    level = _levels(crowd, holder, row, near)
    given = met(of, found.at(level[of], entry, row[of]), len(row))
    some = found.barring[entry].nonzero()[0]
    barred = met(of[some], found.bars[found.barring[entry[some]], row[of[some]]], len(row))
    given[crowd.enrolled.unbound[holder]] = plan.every
    passed: Bits = given & ~barred
    narrowed = crowd.narrowed[holder].nonzero()[0]
    for i, taken in crowd.taken(np.unique(holder[narrowed])):
        here = narrowed[holder[narrowed] == i]
        passed[here] &= ~taken[row[here]]
    sheet.close(passed, row)
    passed &= plan.asked
    return passed


def _counting(crowd: Crowd, holder: Ints, row: Ints) -> tuple[Ints, Ints]:
    """Pairs, and entries of their holders that count at their rows, as places in `crowd.found`."""
    of, pair = spread(crowd.edges[holder], crowd.edges[holder + 1])
    entry, at = crowd.entry[pair], row[of]
    here = (crowd.found.first[entry] <= at) & (at < crowd.found.last[entry])
    return of[here], entry[here]


def _levels(crowd: Crowd, holder: Ints, row: Ints, near: Level | None) -> Ints:
    """By pair how near to the holder the row was written, as a level of what is given."""
    levels = np.full(len(row), Level.ALL if near is None else near)
    if near is None and crowd.found.closer.any():
        asked = holder * crowd.sheet.length + row
        for level in (Level.TEAM, Level.OWN):
            cells = crowd.written[level]
            near_them = np.sort(cells.holder * crowd.sheet.length + cells.row)
            place = np.searchsorted(near_them, asked)
            place[place == len(near_them)] = 0
            levels[near_them[place] == asked if len(near_them) else slice(0)] = level
    levels[crowd.enrolled.own[holder]] = Level.OWN
    return levels
