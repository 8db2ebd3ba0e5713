"""`remove` and `move` need the same of every node beneath (§4): taken where something beneath fails.

    keep_unfailing(crowd, near, passed)      # passed: [holders, rows], the answers about each node alone

Beneath the rows of a sheet lie more nodes than the sheet has: a second one is asked about them, for those
holders and branches that a count of kinds leaves any hope.
"""

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from gonfalon.core.arrays import Bits, Ints, either, has, met, spread
from gonfalon.core.pairs import may_each
from gonfalon.core.plan import Plan
from gonfalon.core.roll import Fact
from gonfalon.core.sheet import MOST_CELLS, at_once
from gonfalon.core.tables import Level
from gonfalon.core.vocabulary import WHOLE_BRANCH

if TYPE_CHECKING:
    from gonfalon.core.crowd import Crowd

_NONE = np.array([], dtype=np.intp)
_DEARER = 8
"""Asking about a cell by itself costs so many times what one among all cells of all holders does."""


def keep_unfailing(crowd: "Crowd", near: Level | None, passed: Bits) -> None:
    """Keep `remove` and `move` in `passed` only where the same may be done to all beneath; `near` as in `Crowd.may`."""
    sheet, (rows, starts, ends) = crowd.sheet, crowd.sheet.branches
    if not len(rows):
        return
    asked = passed[:, rows] & sheet.plan.whole_branch
    if sheet.positions is None:
        holder, branch = asked.nonzero()
        _keep(passed, holder, rows[branch], _all_of(passed, holder, starts[branch], ends[branch]), sheet.plan)
        return
    asked[[i for i, who in enumerate(crowd.holders) if who.keyholder]] = 0
    hopeless = asked & _hopeless(crowd, asked, near)
    passed[:, rows] ^= hopeless
    holder, branch = (asked ^ hopeless).nonzero()
    beneath = np.unique(branch)
    deep = sheet.beneath(starts[beneath], ends[beneath])
    first, last = deep.rows_from(starts[branch]), deep.rows_from(ends[branch])
    asking, whose = np.unique(holder, return_inverse=True)
    if (last - first).sum() * _DEARER < len(asking) * deep.length:
        whole = _each_of(crowd.on(deep, asking), near, whose, first, last)
        _keep(passed, holder, rows[branch], _as_asked(sheet.plan, whole), sheet.plan)
        return
    for part in at_once(deep, len(asking)):
        pairs = slice(*np.searchsorted(whose, (part.start, part.stop)))
        each = crowd.on(deep, asking[part]).may(near)
        whole = _all_of(each, whose[pairs] - part.start, first[pairs], last[pairs])
        _keep(passed, holder[pairs], rows[branch[pairs]], _as_asked(sheet.plan, whole), sheet.plan)


def _keep(passed: Bits, holder: Ints, row: Ints, whole: Bits, plan: Plan) -> None:
    """Keep of the actions on whole branches, pair by pair, those that the whole passes."""
    passed[holder, row] &= whole | ~plan.whole_branch


def _each_of(crowd: "Crowd", near: Level | None, holder: Ints, first: Ints, last: Ints) -> Bits:
    """By pair of a holder and a run of rows, what passes in all of the run, row by row: the first before the others."""
    whole = may_each(crowd, holder, first, near)
    hoping = whole.nonzero()[0]
    until = np.cumsum(last[hoping] - first[hoping])
    for start in range(0, int(until[-1]) + 1 if len(until) else 0, MOST_CELLS):
        some = hoping[slice(*np.searchsorted(until, (start, start + MOST_CELLS)))]
        of, row = spread(first[some] + 1, last[some])
        may = may_each(crowd, holder[some[of]], row, near)
        whole[some] &= ~met(of, ~may, len(some))
    return whole


def _all_of(each: Bits, holder: Ints, first: Ints, last: Ints) -> Bits:
    """By pair of a holder and a run of rows, what passes in all of the run; `each` is `[holders, rows]`."""
    if not len(holder):
        return each[:0, 0]
    edges = np.stack((first, last), axis=1) + holder[:, None] * each.shape[1]
    along = np.append(each, each.dtype.type(0))
    whole: Bits = np.bitwise_and.reduceat(along, edges.ravel())[::2]
    return whole


def _as_asked(plan: Plan, bits: Bits) -> Bits:
    """Bits of a plan's actions on whole branches as the plan itself has them."""
    each = ((plan.bit(column), below) for column, below in _columns(plan))
    as_asked: Bits = np.bitwise_or.reduce([has(bits, below) * bit for bit, below in each])
    return as_asked


def _columns(plan: Plan) -> Iterator[tuple[int, int]]:
    """Where actions on whole branches are in a plan, and in that of whole branches alone."""
    below = plan.branching.actions
    return ((i, below.index(action)) for i, action in enumerate(plan.actions) if action in WHOLE_BRANCH)


def _hopeless(crowd: "Crowd", asked: Bits, near: Level | None) -> Bits:
    """`[holders, branches]` `remove` and `move` where the branch holds more than the holder can be given them for.

    Those are the nodes of kinds that something of theirs gives it for, and as many as they or their team wrote of
    kinds that something gives it for on their own work.
    """
    plan, held = crowd.sheet.plan, crowd.sheet.kinds_beneath.T
    given = _given(crowd, Level.OWN if near is None else near)
    to_strangers = _given(crowd, Level.ALL if near is None else near)
    hopeless = np.zeros_like(asked)
    for column, below in _columns(plan):
        never = (~has(given, below)).astype(np.float32) @ held > 0
        strange = (~has(to_strangers, below)).astype(np.float32) @ held
        holder, branch = ((strange > 0) & ~never & has(asked, column)).nonzero()
        never[holder, branch] = strange[holder, branch] > _near_beneath(crowd, holder, branch)
        hopeless |= never * plan.bit(column)
    return hopeless


def _given(crowd: "Crowd", near: Level) -> Bits:
    """`[holders, kinds]` what something of theirs gives each on whole branches, so near to them."""
    roll, below = crowd.sheet.ground.roll, crowd.sheet.plan.branching
    level = np.where([who.own for who in crowd.holders], Level.OWN, near)
    saids, said = np.unique(roll.facts[crowd.numbers, Fact.SAID], return_inverse=True)
    told = roll.tables.of(below, saids)[np.repeat(level, crowd.counts), said]
    return either(np.repeat(np.arange(len(crowd.holders)), crowd.counts), told, len(crowd.holders))


def _near_beneath(crowd: "Crowd", holder: Ints, branch: Ints) -> Ints:
    """By pair of them how many nodes of the branch the holder or their team wrote."""
    authors, length, (_, starts, ends) = crowd.sheet.ground.authors, len(crowd.sheet.tree), crowd.sheet.branches
    some, number = np.unique(holder, return_inverse=True)
    accounts = [crowd.holders[i].account for i in some.tolist()]
    near = [_NONE if account is None else authors.near(account) for account in accounts]
    along = np.concatenate((_NONE, *near)) + np.repeat(np.arange(len(near)) * length, [len(there) for there in near])
    first, last = (np.searchsorted(along, number * length + edge[branch]) for edge in (starts, ends))
    beneath: Ints = last - first
    return beneath
