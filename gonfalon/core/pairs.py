"""What some holders may do, each at a row of their own, without asking about any other row (§4).

may_each(crowd, holder, row)     # by pair of them the bits of crowd.may()[holder, row]
"""

import numpy as np

from gonfalon.core.arrays import Bits, Ints, spread
from gonfalon.core.crowd import Crowd
from gonfalon.core.tables import Level


def may_each(crowd: Crowd, holder: Ints, row: Ints) -> Bits:
    """By pair of a holder of the crowd and a row of its sheet, a bit for each action asked.

    ValueError for a sheet that asks about whole branches: there an answer rests on other rows too.
    """
    sheet, plan = crowd.sheet, crowd.sheet.plan
    if plan.whole_branch:
        raise ValueError("whole branches are asked about with all their rows")
    of, entry = _counting(crowd, holder, row)
    near = _near(crowd, holder, row)
    given, barred = (np.zeros(len(row), dtype=plan.dtype) for _ in range(2))
    np.bitwise_or.at(given, of, crowd.found.at(near[of], entry, row[of]))
    some = crowd.found.barring[entry].nonzero()[0]
    np.bitwise_or.at(barred, of[some], crowd.found.bars[crowd.found.barring[entry[some]], row[of[some]]])
    given[np.array([who.keyholder and who.active for who in crowd.holders], dtype=bool)[holder]] = plan.every
    passed: Bits = given & ~barred
    for i, taken in crowd.taken():
        here = (holder == i).nonzero()[0]
        passed[here] &= ~taken[row[here]]
    sheet.close(passed, row)
    passed &= plan.asked
    return passed


def _counting(crowd: Crowd, holder: Ints, row: Ints) -> tuple[Ints, Ints]:
    """Pairs, and entries of their holders that count at their rows, as places in `crowd.found`."""
    edges = np.searchsorted(crowd.holder, np.arange(len(crowd.holders) + 1))
    of, pair = spread(edges[holder], edges[holder + 1])
    entry, at = crowd.entry[pair], row[of]
    here = (crowd.found.first[entry] <= at) & (at < crowd.found.last[entry])
    return of[here], entry[here]


def _near(crowd: Crowd, holder: Ints, row: Ints) -> Ints:
    """By pair how near to the holder the row was written, as a level of what is given."""
    sheet = crowd.sheet
    accounts = sheet.ground.policy.accounts
    themselves: dict[str, int] = {}
    members: dict[str, list[int]] = {}
    for i, who in enumerate(crowd.holders):
        if who.account is not None:
            themselves[who.account.id] = i
            for group in who.account.groups:
                members.setdefault(group, []).append(i)
    own: list[int] = []
    team: list[int] = []
    for at, position in enumerate(range(sheet.length) if sheet.positions is None else sheet.positions.tolist()):
        author = accounts.get(sheet.tree.nodes[position].author or "")
        if author is not None:
            own += [themselves[author.id] * sheet.length + at] if author.id in themselves else []
            team += [i * sheet.length + at for group in author.groups for i in members.get(group, ())]
    near = np.full((len(crowd.holders), sheet.length), Level.ALL, dtype=np.int8)
    near.reshape(-1)[team] = Level.TEAM
    near.reshape(-1)[own] = Level.OWN
    near[[who.own for who in crowd.holders]] = Level.OWN
    return near[holder, row].astype(np.intp)
