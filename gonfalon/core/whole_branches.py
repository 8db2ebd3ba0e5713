"""`remove` and `move` need the same of every node beneath (§4): taken where something beneath fails.

    keep_unfailing(crowd, near, passed)      # passed: [holders, rows], the answers about each node alone

Beneath the rows of a sheet lie more nodes than the sheet has: a second one is asked about them, for those
holders and branches that a count of kinds leaves any hope.
"""

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from gonfalon.core.arrays import Bits, Ints, either, has
from gonfalon.core.plan import Plan
from gonfalon.core.roll import Fact
from gonfalon.core.sheet import at_once
from gonfalon.core.tables import Level
from gonfalon.core.vocabulary import WHOLE_BRANCH

if TYPE_CHECKING:
    from gonfalon.core.crowd import Crowd

_NONE = np.array([], dtype=np.intp)
_LARGE = 64
"""Branches of more nodes are worth weighing closely before all that lies beneath them is asked about."""


def keep_unfailing(crowd: "Crowd", near: Level | None, passed: Bits) -> None:
    """Keep `remove` and `move` in `passed` only where the same may be done to all beneath; `near` as in `Crowd.may`."""
    sheet, (rows, starts, ends) = crowd.sheet, crowd.sheet.branches
    asked = passed[:, rows] & sheet.plan.whole_branch
    if sheet.positions is None:
        holder, branch = asked.nonzero()
        passed[holder, rows[branch]] &= _all_of(passed, holder, starts[branch], ends[branch]) | ~sheet.plan.whole_branch
        return
    asked[[i for i, who in enumerate(crowd.holders) if who.keyholder]] = 0
    hopeless = asked & _hopeless(crowd, asked, near)
    passed[:, rows] ^= hopeless
    holder, branch = (asked ^ hopeless).nonzero()
    beneath = np.unique(branch)
    deep = sheet.beneath(starts[beneath], ends[beneath])
    first, last = deep.rows_from(starts), deep.rows_from(ends)
    asking = np.unique(holder)
    for part in at_once(deep, len(asking)):
        some = asking[part]
        pairs = slice(*np.searchsorted(holder, (some[0], some[-1] + 1)))
        whose, of = holder[pairs], branch[pairs]
        each = crowd.on(deep, some).may(near)
        whole = _all_of(each, np.searchsorted(some, whose), first[of], last[of])
        passed[whose, rows[of]] &= _as_asked(sheet.plan, whole) | ~sheet.plan.whole_branch


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

    Those are nodes of kinds that something of theirs gives it for; of a large branch, where it is given on their or
    their team's work alone, no more than they wrote there.
    """
    plan, held = crowd.sheet.plan, crowd.sheet.kinds_beneath.T
    large = (held.sum(axis=0) > _LARGE).nonzero()[0] if near is None else _NONE
    given = _given(crowd, Level.OWN if near is None else near)
    to_strangers = _given(crowd, Level.ALL) if len(large) else given
    hopeless = np.zeros_like(asked)
    for column, below in _columns(plan):
        never = (~has(given, below)).astype(np.float32) @ held > 0
        strange = (~has(to_strangers, below)).astype(np.float32) @ held[:, large]
        holder, which = ((strange > 0) & ~never[:, large] & has(asked[:, large], column)).nonzero()
        never[holder, large[which]] = strange[holder, which] > _near_beneath(crowd, holder, large[which])
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
    along = np.concatenate((_NONE, *(there + i * length for i, there in enumerate(near))))
    first, last = (np.searchsorted(along, number * length + edge[branch]) for edge in (starts, ends))
    beneath: Ints = last - first
    return beneath
