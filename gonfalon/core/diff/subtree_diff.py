"""Asking about whole branches under two policies: `remove` and `move` need the same of all beneath (§4).

    asker = SubtreeDiff(sides, at, ["remove"], places)
    asker.turns(["ada", "ben"])         # {"ada": {"remove": Delta(gained=1, lost=0)}}

First each node is asked about alone. Where nothing lies beneath, that is the answer. Higher up, only a branch that
holds a node whose own answer turned can turn, and it is asked about on the side where that node passes.
"""

from collections.abc import Sequence
from datetime import datetime
from functools import cached_property
from typing import NamedTuple

import numpy as np

from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.node_batch import MOST_CELLS, NodeBatch
from gonfalon.core.bulk.subtrees import unfailing
from gonfalon.core.diff.counts import Deltas, deltas_of
from gonfalon.core.diff.node_classes import Places, Sides, batches_of
from gonfalon.core.model.bits import Bits, Ints, has, members, packed


class Asked(NamedTuple):
    """Places of some accounts among all, and `[accounts, places]` what turns for them about each node alone."""

    whose: Ints
    deltas: Bits


class SubtreeDiff:
    """Asks of many accounts, each by itself, where in one tree the answers about whole branches turn.

    `places` are those where the answer about a node alone may turn.
    """

    def __init__(self, sides: Sides, at: datetime, actions: Sequence[str], places: Places) -> None:
        self.sides, self.at, self.actions, self.places = sides, at, tuple(actions), places
        self.tree = sides[1].engine.tree
        self.batches = self._batches(places)

    def turns(self, who: Sequence[str | None], *, anything: bool = False) -> dict[str | None, Deltas]:
        """What turns for each of some accounts that anything turns for.

        Where it is enough to know whether `anything` does, no branch is asked about for whom something turns
        where nothing lies beneath: those counts come without the branches.
        """
        counts = np.zeros((2, len(who), len(self.actions)), dtype=np.intp)
        bare = self.tree.ends[self.places.positions] == self.places.positions + 1
        asked: tuple[list[Asked], list[Asked]] = [], []
        step = max(1, MOST_CELLS // max(1, len(bare)))
        for first in range(0, len(who), step):
            some = np.arange(first, min(first + step, len(who)))
            was, now = (
                self._alone(side, batch, [who[i] for i in some.tolist()]) for side, batch in enumerate(self.batches)
            )
            for side, deltas in enumerate((was & ~now, now & ~was)):
                for i in range(len(self.actions)):
                    counts[side, some, i] = np.count_nonzero(has(deltas[:, bare], i), axis=1)
                if anything:
                    deltas[np.any(deltas[:, bare], axis=1)] = 0
                turning = np.any(deltas, axis=1).nonzero()[0]
                asked[side].append(Asked(some[turning], deltas[turning]))
        for side, each in enumerate(asked) if len(who) else ():
            whose, deltas = (np.concatenate(parts) for parts in zip(*each, strict=True))
            counts[side, whose] += self._branches_passing(side, [who[i] for i in whose.tolist()], deltas)
        lost, gained = counts
        return {
            who[i]: deltas_of(zip(self.actions, gained[i].tolist(), lost[i].tolist(), strict=True))
            for i in np.any(counts, axis=(0, 2)).nonzero()[0].tolist()
        }

    def _alone(self, side: int, batch: NodeBatch, who: Sequence[str | None]) -> Bits:
        """`[accounts, rows]` what each may do with each node alone: nothing where there is no such account."""
        held = self.sides[side].grants(who, self.at)
        there = [holding for holding in held if holding is not None]
        alone = np.zeros((len(who), batch.length), dtype=batch.columns.dtype)
        alone[[holding is not None for holding in held]] = BatchEvaluator.of(batch, there).alone()
        return alone

    def _branches_passing(self, side: int, who: Sequence[str | None], deltas: Bits) -> Ints:
        """`[accounts, actions]` how many branches with a node that is `turned`, passing on this side, do so as a whole.

        On the other side none of them does, since that node fails there.
        """
        counts = np.zeros((len(who), len(self.actions)), dtype=np.intp)
        branches, first, last = self._branches
        if not len(who) or not len(branches):
            return counts
        runs = np.stack((first, last), axis=1).ravel()
        asked = []
        for i in range(len(self.actions)):
            nodes = packed(has(deltas, i))
            asked.append(np.bitwise_or.reduceat(np.concatenate((nodes, nodes[:1])), runs, axis=0)[::2])
        held = self.sides[side].grants(who, self.at)
        evaluator = BatchEvaluator.of(self._wholes[side], [holding for holding in held if holding is not None])
        for i, passing in enumerate(unfailing(evaluator, None, asked)):
            counts[:, i] = np.bincount(members(passing)[1], minlength=len(who))
        return counts

    @cached_property
    def _branches(self) -> tuple[Ints, Ints, Ints]:
        """Positions of nodes whose branch holds more than themselves, with the run of the places in it, if any."""
        ends = self.tree.ends
        branches = (ends > np.arange(len(ends)) + 1).nonzero()[0]
        first, last = (np.searchsorted(self.places.positions, edge) for edge in (branches, ends[branches]))
        holding = first < last
        return branches[holding], first[holding], last[holding]

    @cached_property
    def _wholes(self) -> list[NodeBatch]:
        """A batch for each side of the tops of those branches, about all that is beneath them."""
        places = Places.among(self.tree, self._branches[0])
        return batches_of(self.sides, self.actions, (places, places))

    def _batches(self, places: Places) -> list[NodeBatch]:
        return batches_of(self.sides, self.actions, (places, places), alone=True)
