"""`remove` and `move` need the same of every node beneath (§4): taken where something beneath fails.

    keep_unfailing(crowd, near, passed)      # passed: [holders, rows], the answers about each node alone

Beneath the rows of a sheet lie more nodes than the sheet has: a second one is asked about them, for those
holders and branches that a count of kinds leaves any hope.
"""

from typing import TYPE_CHECKING

import numpy as np

from gonfalon.core.arrays import Bits, Ints
from gonfalon.core.roll import Fact
from gonfalon.core.sheet import Sheet, at_once
from gonfalon.core.tables import Level
from gonfalon.core.vocabulary import WHOLE_BRANCH

if TYPE_CHECKING:
    from gonfalon.core.crowd import Crowd

_NONE = np.array([], dtype=np.intp)


def keep_unfailing(crowd: "Crowd", near: Level | None, passed: Bits) -> None:
    """Keep `remove` and `move` in `passed` only where the same may be done to all beneath; `near` as in `Crowd.may`."""
    sheet, (rows, starts, ends) = crowd.sheet, crowd.sheet.branches
    if sheet.positions is None:
        for part in at_once(sheet, len(passed)):
            _take_failing(sheet, passed, np.arange(len(passed))[part], passed[part].copy(), sheet)
        return
    passing = (passed[:, rows] & sheet.plan.whole_branch) != 0
    passing[[i for i, who in enumerate(crowd.holders) if who.keyholder]] = False
    holder, branch = passing.nonzero()
    passed[holder, rows[branch]] &= ~_hopeless(crowd, holder, branch, near)
    hoping = (passed[holder, rows[branch]] & sheet.plan.whole_branch) != 0
    asking, beneath = np.unique(holder[hoping]), np.unique(branch[hoping])
    deep = sheet.beneath(starts[beneath], ends[beneath])
    for part in at_once(deep, len(asking)):
        _take_failing(sheet, passed, asking[part], crowd.on(deep, asking[part]).may(near), deep)


def _take_failing(sheet: Sheet, passed: Bits, which: Ints, each: Bits, deep: Sheet) -> None:
    """Take `remove` and `move` off the rows beneath which something fails in `each`, the answers of `deep` to some."""
    rows, starts, ends = sheet.branches
    starts, ends = deep.rows_from(starts), deep.rows_from(ends)
    failing = np.zeros((len(which), deep.length + 1), dtype=np.int32)
    for column, action in enumerate(sheet.plan.actions):
        if action in WHOLE_BRANCH:
            fails = (each & deep.plan.bit(deep.plan.actions.index(action))) == 0
            np.cumsum(fails, axis=1, out=failing[:, 1:])
            holder, branch = (passed[np.ix_(which, rows)] & sheet.plan.bit(column)).nonzero()
            lost = failing[holder, ends[branch]] > failing[holder, starts[branch]]
            passed[which[holder[lost]], rows[branch[lost]]] &= ~sheet.plan.bit(column)


def _hopeless(crowd: "Crowd", holder: Ints, branch: Ints, near: Level | None) -> Bits:
    """By pair of them `remove` and `move` where the branch holds more than the holder can be given them for.

    Those are the nodes of kinds that something of theirs gives it for, and as many as they or their team wrote.
    """
    sheet, roll = crowd.sheet, crowd.sheet.ground.roll
    below = sheet.plan.branching
    saids, said = np.unique(roll.facts[crowd.numbers, Fact.SAID], return_inverse=True)
    tables, edges = roll.tables.of(below, saids), np.concatenate(([0], np.cumsum(crowd.counts)))
    given = np.tile(below.nothing, (len(crowd.holders), 1))
    for i in np.unique(holder).tolist():
        level = Level.OWN if crowd.holders[i].own else Level.ALL if near is None else near
        given[i] = np.bitwise_or.reduce(tables[level, said[edges[i] : edges[i + 1]]], axis=0)
    written = _near_beneath(crowd, holder, branch) if near is None else 0
    hopeless = np.zeros(len(holder), dtype=sheet.plan.dtype)
    for column, action in enumerate(sheet.plan.actions):
        if action in WHOLE_BRANCH:
            lacking = (given & below.bit(below.actions.index(action))) == 0
            count = (lacking.astype(np.float32) @ sheet.kinds_beneath.T)[holder, branch]
            hopeless[count > written] |= sheet.plan.bit(column)
    return hopeless


def _near_beneath(crowd: "Crowd", holder: Ints, branch: Ints) -> Ints:
    """By pair of them how many nodes of the branch the holder or their team wrote."""
    authors, length, (_, starts, ends) = crowd.sheet.ground.authors, len(crowd.sheet.tree), crowd.sheet.branches
    accounts = [who.account for who in crowd.holders]
    near = [_NONE if account is None else authors.near(account) for account in accounts]
    along = np.concatenate((_NONE, *(there + i * length for i, there in enumerate(near))))
    first, last = (np.searchsorted(along, holder * length + edge[branch]) for edge in (starts, ends))
    beneath: Ints = last - first
    return beneath
