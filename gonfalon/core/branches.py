"""Asking about whole branches under two policies: `remove` and `move` need the same of all beneath (§4).

    asker = BranchesAsker(sides, at, ["remove"], places)
    asker.turns(["ada", "ben"])         # {"ada": {"remove": Turned(gained=1, lost=0)}}

First each node is asked about alone. Where nothing lies beneath, that is the answer. Higher up, only a branch that
holds a node whose own answer turned can turn, and only where its top passes.
"""

from collections.abc import Sequence
from datetime import datetime
from functools import cached_property

import numpy as np

from gonfalon.core.arrays import Bits, Ints, has
from gonfalon.core.askers import ActionsAsker
from gonfalon.core.crowd import Crowd
from gonfalon.core.places import Places, Sides, sheets_of
from gonfalon.core.sheet import MOST_CELLS, Sheet
from gonfalon.core.turned import NOTHING, Turns, turns_of


class BranchesAsker:
    """Asks of many accounts, each by itself, where in one tree the answers about whole branches turn.

    `places` are those where the answer about a node alone may turn.
    """

    def __init__(self, sides: Sides, at: datetime, actions: Sequence[str], places: Places) -> None:
        self.sides, self.at, self.actions, self.places = sides, at, tuple(actions), places
        self.tree = sides[1].survey.tree
        self.sheets = self._sheets(places)

    def turns(self, who: Sequence[str | None]) -> dict[str | None, Turns]:
        """What turns for each of some accounts that anything turns for."""
        found: dict[str | None, Turns] = {}
        step = max(1, MOST_CELLS // max(1, len(self.places.positions)))
        for first in range(0, len(who), step):
            some = who[first : first + step]
            was, now = (self._alone(side, sheet, some) for side, sheet in enumerate(self.sheets))
            found |= self._without_any_beneath(some, was, now)
            for id, turns in self._with_some_beneath(some, was ^ now).items():
                before = found.get(id, {})
                found[id] = {name: before.get(name, NOTHING) + turns.get(name, NOTHING) for name in {**before, **turns}}
        return found

    def _alone(self, side: int, sheet: Sheet, who: Sequence[str | None]) -> Bits:
        """`[accounts, rows]` what each may do with each node alone: nothing where there is no such account."""
        held = [self.sides[side].holding(id, self.at) for id in who]
        there = [holding for holding in held if holding is not None]
        alone = np.zeros((len(who), sheet.length), dtype=sheet.plan.dtype)
        alone[[holding is not None for holding in held]] = Crowd(sheet, there).may()
        return alone

    def _without_any_beneath(self, who: Sequence[str | None], was: Bits, now: Bits) -> dict[str | None, Turns]:
        positions = self.places.positions
        bare = self.tree.ends[positions] == positions + 1
        gained, lost = (now & ~was)[:, bare], (was & ~now)[:, bare]
        counts = {
            action: [np.count_nonzero(has(bits, i), axis=1).tolist() for bits in (gained, lost)]
            for i, action in enumerate(self.actions)
        }
        turned = (np.any(gained, axis=1) | np.any(lost, axis=1)).nonzero()[0].tolist()
        return {who[k]: turns_of((name, *(each[k] for each in both)) for name, both in counts.items()) for k in turned}

    def _with_some_beneath(self, who: Sequence[str | None], turned: Bits) -> dict[str | None, Turns]:
        number, position = self._above(turned)
        hoping = self._hoping(who, number, position)
        places = Places.among(self.tree, position[hoping])
        asker = ActionsAsker(self.sides, self.at, self.actions, (places, places), apart=True, steady=False)
        return asker.turns([who[i] for i in np.unique(number[hoping]).tolist()])

    def _above(self, turned: Bits) -> tuple[Ints, Ints]:
        """Accounts, and branches with more than one node that hold one whose own answer turned for them."""
        branches, first, last = self._branches
        until = np.zeros((len(turned), turned.shape[1] + 1), dtype=np.int32)
        np.cumsum(turned != 0, axis=1, out=until[:, 1:])
        number, branch = (until[:, last] > until[:, first]).nonzero()
        return number, branches[branch]

    @cached_property
    def _branches(self) -> tuple[Ints, Ints, Ints]:
        """Positions of nodes whose branch holds more than themselves, with the run of the places in it, if any."""
        ends = self.tree.ends
        branches = (ends > np.arange(len(ends)) + 1).nonzero()[0]
        first, last = (np.searchsorted(self.places.positions, edge) for edge in (branches, ends[branches]))
        holding = first < last
        return branches[holding], first[holding], last[holding]

    def _hoping(self, who: Sequence[str | None], number: Ints, position: Ints) -> Ints:
        """Those of some pairs of an account and a branch whose top passes on either side."""
        positions, row = np.unique(position, return_inverse=True)
        sheets = self._sheets(Places.among(self.tree, positions))
        was, now = (self._alone(side, sheet, who)[number, row] for side, sheet in enumerate(sheets))
        return (was | now).nonzero()[0]

    def _sheets(self, places: Places) -> list[Sheet]:
        return sheets_of(self.sides, self.actions, (places, places), alone=True)
