"""Asking about whole branches under two policies: `remove` and `move` need the same of all beneath (§4).

    asker = BranchesAsker(sides, at, ["remove"], places)
    asker.turns(["ada", "ben"])         # {"ada": {"remove": Turned(gained=1, lost=0)}}

First each node is asked about alone. Where nothing lies beneath, that is the answer. Higher up, only a branch that
holds a node whose own answer turned can turn, and it is asked about on the side where that node passes.
"""

from collections.abc import Sequence
from datetime import datetime
from functools import cached_property

import numpy as np

from gonfalon.core.arrays import Bits, Ints, has
from gonfalon.core.crowd import Crowd
from gonfalon.core.places import Places, Sides, sheets_of
from gonfalon.core.sheet import MOST_CELLS, Sheet
from gonfalon.core.turned import Turns, turns_of
from gonfalon.core.whole_branches import keep_unfailing


class BranchesAsker:
    """Asks of many accounts, each by itself, where in one tree the answers about whole branches turn.

    `places` are those where the answer about a node alone may turn.
    """

    def __init__(self, sides: Sides, at: datetime, actions: Sequence[str], places: Places) -> None:
        self.sides, self.at, self.actions, self.places = sides, at, tuple(actions), places
        self.tree = sides[1].survey.tree
        self.sheets = self._sheets(places)

    def turns(self, who: Sequence[str | None], *, anything: bool = False) -> dict[str | None, Turns]:
        """What turns for each of some accounts that anything turns for.

        Where it is enough to know whether `anything` does, no branch is asked about for whom something turns
        where nothing lies beneath: those counts come without the branches.
        """
        found: dict[str | None, Turns] = {}
        step = max(1, MOST_CELLS // max(1, len(self.places.positions), len(self._branches[0])))
        for first in range(0, len(who), step):
            some = who[first : first + step]
            was, now = (self._alone(side, sheet, some) for side, sheet in enumerate(self.sheets))
            turning = (1, now & ~was), (0, was & ~now)
            gained, lost = (self._counted(side, some, turned, anything) for side, turned in turning)
            for i in (np.any(gained, axis=1) | np.any(lost, axis=1)).nonzero()[0].tolist():
                found[some[i]] = turns_of(zip(self.actions, gained[i].tolist(), lost[i].tolist(), strict=True))
        return found

    def _counted(self, side: int, who: Sequence[str | None], turned: Bits, anything: bool) -> Ints:
        """`[accounts, actions]` at how many nodes what is `turned`, asked of each alone, turns for the whole of it."""
        bare = turned[:, self.tree.ends[self.places.positions] == self.places.positions + 1]
        counts = self._by_action(bare)
        asked = np.any(turned, axis=1)
        if anything:
            asked &= ~np.any(bare, axis=1)
        some = asked.nonzero()[0]
        if len(some):
            counts[some] += self._by_action(self._branches_passing(side, [who[i] for i in some.tolist()], turned[some]))
        return counts

    def _by_action(self, bits: Bits) -> Ints:
        """`[accounts, actions]` in how many rows of some bits, `[accounts, rows]`, each action is."""
        return np.stack([np.count_nonzero(has(bits, i), axis=1) for i in range(len(self.actions))], axis=1)

    def _alone(self, side: int, sheet: Sheet, who: Sequence[str | None]) -> Bits:
        """`[accounts, rows]` what each may do with each node alone: nothing where there is no such account."""
        held = self.sides[side].holdings(who, self.at)
        there = [holding for holding in held if holding is not None]
        alone = np.zeros((len(who), sheet.length), dtype=sheet.plan.dtype)
        alone[[holding is not None for holding in held]] = Crowd(sheet, there).may()
        return alone

    def _branches_passing(self, side: int, who: Sequence[str | None], turned: Bits) -> Bits:
        """`[accounts, branches]` which branches with a node that is `turned`, passing on this side, do so as a whole.

        On the other side none of them does, since that node fails there.
        """
        branches, first, last = self._branches
        passing = np.zeros((len(who), len(branches)), dtype=turned.dtype)
        for i in range(len(self.actions)):
            until = np.zeros((len(who), turned.shape[1] + 1), dtype=np.int32)
            np.cumsum(has(turned, i), axis=1, out=until[:, 1:])
            passing |= (until[:, last] > until[:, first]) * turned.dtype.type(1 << i)
        held = self.sides[side].holdings(who, self.at)
        keep_unfailing(Crowd(self._wholes[side], [holding for holding in held if holding is not None]), None, passing)
        return passing

    @cached_property
    def _branches(self) -> tuple[Ints, Ints, Ints]:
        """Positions of nodes whose branch holds more than themselves, with the run of the places in it, if any."""
        ends = self.tree.ends
        branches = (ends > np.arange(len(ends)) + 1).nonzero()[0]
        first, last = (np.searchsorted(self.places.positions, edge) for edge in (branches, ends[branches]))
        holding = first < last
        return branches[holding], first[holding], last[holding]

    @cached_property
    def _wholes(self) -> list[Sheet]:
        """A sheet for each side of the tops of those branches, about all that is beneath them."""
        places = Places.among(self.tree, self._branches[0])
        return sheets_of(self.sides, self.actions, (places, places))

    def _sheets(self, places: Places) -> list[Sheet]:
        return sheets_of(self.sides, self.actions, (places, places), alone=True)
