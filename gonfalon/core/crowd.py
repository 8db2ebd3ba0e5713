"""What many holders may do at the rows of one sheet, at once (§4).

    bits = may(sheet, holders)              # [holders, rows], a bit for each action asked
    bits = may(sheet, holders, Extent.TEAM) # as if every node were by a fellow member of a team of theirs

Each source comes to the same for all who hold it on their account or through a group, so that a holder costs
one OR for each source that counts here, and few steps more for what they or their team wrote.
"""

from collections.abc import Hashable, Iterable, Sequence

import numpy as np

from gonfalon.core.ground import Rows
from gonfalon.core.holding import Holding, Source
from gonfalon.core.plan import Bits, Bools
from gonfalon.core.sheet import Sheet, Stand
from gonfalon.core.vocabulary import WHOLE_BRANCH, Effect, Extent

MOST_CELLS = 1 << 21
"""Holders times rows that are best asked at once: arrays that fit into a processor's cache some ten times."""


def may(sheet: Sheet, holders: Sequence[Holding], near: Extent | None = None) -> Bits:
    """`[holders, rows]` what each may do, as the asked columns of the sheet's plan.

    `near` supposes how near to the holder everything was written (ALL: by strangers) in the place of who did.
    """
    plan = sheet.plan
    passed = granted(sheet, holders, near)
    if plan.live is not None:
        may_edit_live = has(passed, plan.live)
        passed &= ~((sheet.published & ~may_edit_live) * plan.edits)
    if plan.opens is not None and sheet.locked is not None:
        may_open = has(passed, plan.opens)
        passed &= ~((sheet.locked & ~may_open) * plan.changing)
    if plan.whole_branch:
        _keep_whole_branches(sheet, holders, near, passed)
    passed &= plan.asked
    return passed


def granted(sheet: Sheet, holders: Sequence[Holding], near: Extent | None = None) -> Bits:
    """`[holders, rows]` where steps 1 to 5 pass, column by column, whatever else an action asks."""
    top: Bits = np.zeros((len(holders), sheet.length), dtype=sheet.plan.dtype)
    for row, who in zip(top, holders, strict=True):
        if who.keyholder and who.active:
            row[:] = sheet.plan.every
        elif who.active:
            stands = _stands(sheet, who)
            _add(row, stands, Extent.OWN if who.own else near or Extent.ALL)
            if near is None:
                _add_written(sheet, who, row, stands)
            _narrow(sheet, who, row, stands)
    return top


def reached(sheet: Sheet, who: Holding, source: Source, near: Extent | None = None) -> Bits | None:
    """`[rows]` where one source of a holder reaches the top of step 4; None where it gives nothing."""
    stand = sheet.stand(source)
    if stand is None or stand.own is None:
        return None
    row = sheet.nothing.copy()
    _add(row, [stand], Extent.OWN if who.own else near or Extent.ALL)
    if near is None:
        _add_written(sheet, who, row, [stand])
    return row


def footing(sheet: Sheet, who: Holding) -> Hashable:
    """What the answers rest on, for a stranger: holders with an equal footing may do the same on the sheet."""
    if not who.active or who.keyholder:
        return who.active
    counting = [source for source in who.sources if source.said in sheet.counting]
    stands = frozenset(alike.number for source in counting if (alike := sheet.alike(source)) is not None)
    if who.account is None:
        return stands, who.own
    stopped = sheet.narrowing(who.subjects[:1], Effect.STOP)
    barred = sheet.narrowing(who.subjects, Effect.BAR)
    reach = frozenset(who.account.reach.items()) if who.account.reach else None
    return stands, stopped, barred, reach


def minds_author(sheet: Sheet, who: Holding) -> bool:
    """Whether it can count for somebody's answers on a sheet who wrote a node."""
    if not who.active or who.keyholder:
        return False
    return any((alike := sheet.alike(source)) is not None and alike.minds_author for source in who.sources)


def has(bits: Bits, column: int) -> Bools:
    has: Bools = np.not_equal(bits & bits.dtype.type(1 << column), 0)
    return has


def at_once(sheet: Sheet, holders: int) -> Iterable[slice]:
    """Holders in pieces that are best asked at once."""
    step = max(1, MOST_CELLS // max(1, sheet.length))
    return [slice(first, first + step) for first in range(0, holders, step)]


def _stands(sheet: Sheet, who: Holding) -> list[Stand]:
    counting = [source for source in who.sources if source.said in sheet.counting]
    return [stand for source in counting if (stand := sheet.stand(source)) is not None]


def _add(row: Bits, stands: Iterable[Stand], near: Extent) -> None:
    for stand in stands:
        given = stand.given(near)
        if given is not None:
            here = row[stand.rows]
            np.bitwise_or(here, given, out=here)


def _add_written(sheet: Sheet, who: Holding, row: Bits, stands: Sequence[Stand]) -> None:
    """Add what is given on what the holder or their team wrote, beyond what is given on anybody's work."""
    closer = [stand for stand in stands if stand.own is not stand.far]
    if not closer or who.account is None:
        return
    own, near = sheet.rows_by(who.account), sheet.rows_near(who.account)
    for stand in closer:
        _add_at(row, stand, stand.own, own)
        if stand.team is not stand.far:
            _add_at(row, stand, stand.team, near)


def _add_at(row: Bits, stand: Stand, given: Bits | None, rows: Rows) -> None:
    if given is None or not len(rows):
        return
    if len(given) != len(row):
        first, last = np.searchsorted(rows, (stand.rows.start, stand.rows.stop))
        rows = rows[first:last]
        given = given[rows - stand.rows.start]
    else:
        given = given[rows]
    row[rows] |= given


def _narrow(sheet: Sheet, who: Holding, row: Bits, stands: Iterable[Stand]) -> None:
    """Take what is barred, what a stop on the account itself takes, and what is out of its reach."""
    for stand in stands:
        if stand.bars is not None:
            row[stand.rows] &= ~stand.bars
    if not sheet.limits.subjects[Effect.BAR].isdisjoint(who.subjects):
        bars = sheet.in_force(who.subjects, Effect.BAR)
        if bars is not None:
            row &= ~bars
    if who.account is None:
        return
    if who.subjects[0] in sheet.limits.subjects[Effect.STOP]:
        stops = sheet.in_force(who.subjects[:1], Effect.STOP)
        if stops is not None:
            row &= ~stops
    outside = sheet.outside(who.account)
    if outside is not None:
        row[outside] = 0


def _keep_whole_branches(sheet: Sheet, holders: Sequence[Holding], near: Extent | None, passed: Bits) -> None:
    """Keep `remove` and `move` only where the same may be done to all beneath (§4)."""
    plan, (rows, starts, ends) = sheet.plan, sheet.branches
    if sheet.positions is None:
        for row in passed:
            _keep_unfailing(sheet, row, row.copy(), sheet)
        return
    passing = (passed[:, rows] & plan.whole_branch) != 0
    asking = np.array([i for i in passing.any(axis=1).nonzero()[0] if not holders[i].keyholder], dtype=np.intp)
    some = [holders[i] for i in asking]
    passed[np.ix_(asking, rows)] &= ~_hopeless(sheet, some, near)
    hoping = (passed[np.ix_(asking, rows)] & plan.whole_branch) != 0
    beneath = hoping.any(axis=0)
    asking, deep = asking[hoping.any(axis=1)], sheet.beneath(starts[beneath], ends[beneath])
    for part in at_once(deep, len(asking)):
        for i, each in zip(asking[part], may(deep, [holders[i] for i in asking[part]], near), strict=True):
            _keep_unfailing(sheet, passed[i], each, deep)


def _keep_unfailing(sheet: Sheet, row: Bits, each: Bits, deep: Sheet) -> None:
    """Take `remove` and `move` off the rows beneath which something fails in `each`, the answers of `deep`."""
    rows, starts, ends = sheet.branches
    if deep.positions is not None:
        starts, ends = (np.searchsorted(deep.positions, edge) for edge in (starts, ends))
    for column, action in enumerate(sheet.plan.actions):
        if action in WHOLE_BRANCH:
            fails = (each & deep.plan.bit(deep.plan.actions.index(action))) == 0
            failing = np.concatenate(([0], np.cumsum(fails, dtype=np.int32)))
            row[rows[failing[ends] > failing[starts]]] &= ~sheet.plan.bit(column)


def _hopeless(sheet: Sheet, holders: Sequence[Holding], near: Extent | None) -> Bits:
    """`[holders, branches]` `remove` and `move` where a branch holds more nodes than the holder can be given them for.

    Those are the nodes of kinds that something of theirs gives it for, and as many as they or their team wrote.
    """
    below, (_, starts, ends) = sheet.plan.branching, sheet.branches
    given = np.tile(below.nothing, (len(holders), 1))
    written = np.zeros((len(holders), len(starts)), dtype=np.intp)
    for row, count, who in zip(given, written, holders, strict=True):
        least = Extent.OWN if who.own else near or Extent.ALL
        for source in who.sources:
            table = below.table(source.said, least)
            if table is not None:
                row |= table
        if near is None and who.account is not None and len(there := sheet.ground.near(who.account)):
            count[:] = np.searchsorted(there, ends) - np.searchsorted(there, starts)
    hopeless = np.zeros(written.shape, dtype=sheet.plan.dtype)
    for column, action in enumerate(sheet.plan.actions):
        if action in WHOLE_BRANCH:
            lacking = (given & below.bit(below.actions.index(action))) == 0
            hopeless |= (lacking.astype(np.float32) @ sheet.kinds_beneath.T > written) * sheet.plan.bit(column)
    return hopeless
