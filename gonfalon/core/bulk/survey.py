"""Whole trees and rosters at once, with the same answers as `decide` (§4).

    survey = Surveyor(policy, tree, holdings, limits)
    survey.allowed([None, "ada"], None, ["see"], at)  # [2, nodes, 1] booleans
    survey.reasons("ada", ["see", "edit"], at)     # [nodes, 2] positions in REASONS
    survey.marks("ada", ["edit"], at).extent       # [nodes, 1] how far the cloth hangs

`create` is asked as `create:T`, without topics: a new node of type T under each node. The cost is a few
operations on an array of one integer a node, for each source of each account; no question is asked per node.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache, reduce

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.bulk.columns import MOST_ACTIONS, ActionColumns
from gonfalon.core.bulk.evaluate_batch import BatchEvaluator
from gonfalon.core.bulk.grant_tables import GIVES, AuthorRelation
from gonfalon.core.bulk.node_batch import NodeBatch, chunks
from gonfalon.core.bulk.policy_index import PolicyIndex
from gonfalon.core.bulk.subtrees import allowed
from gonfalon.core.decide.grants import SubjectGrants, SubjectGrantsCache
from gonfalon.core.decide.limits import LimitIndex
from gonfalon.core.model.bits import Bits, Bools, Ints, has
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.question import Who
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import CHANGING, WHOLE_BRANCH, Effect, Extent, Reason

REASONS = tuple(Reason)
"""Reasons by position, as the arrays hold them."""
CODE = {reason: np.uint8(i) for i, reason in enumerate(REASONS)}
_ALLOWED = CODE[Reason.ALLOWED]
_RUNGS = (Reason.NOT_GRANTED, Reason.OUT_OF_SCOPE, Reason.OUT_OF_EXTENT, Reason.STOPPED, Reason.ALLOWED)
_RECENT = 8
"""Sheets of some nodes that are kept: whoever opens a list asks about the same nodes as others."""

Codes = NDArray[np.uint8]


@dataclass(frozen=True, slots=True)
class Marks:
    """What the Limit tree draws, each `[nodes, actions]`.

    `extent` holds Extent values whoever the author is; `stopped` says that a stop took some of it
    away, `barred` that a bar took all, `outside` that the account's reach leaves the node out;
    `baseline` that what is left comes from the baseline alone.
    """

    extent: NDArray[np.int8]
    stopped: Bools
    barred: Bools
    outside: Bools
    baseline: Bools


class Surveyor:
    """Answers for every node of a tree, under one policy."""

    def __init__(
        self,
        policy: Policy,
        tree: Tree,
        holdings: SubjectGrantsCache,
        limits: LimitIndex,
        previous: "Surveyor | None" = None,
    ) -> None:
        """Made `like` another, of a policy that this one came from, it shares what both have the same."""
        self.policy, self.tree, self.grants = policy, tree, holdings
        self.policy_index: PolicyIndex = PolicyIndex(
            policy, limits, tree, None if previous is None else previous.policy_index
        )
        same_types = previous is not None and previous.tree.type_names == tree.type_names
        self._columns: dict[tuple[tuple[str, ...], bool], ActionColumns] = (
            previous._columns.copy() if previous and same_types else {}
        )
        self._batches: dict[tuple[str, ...], NodeBatch] = {}
        self._recent = lru_cache(_RECENT)(self._among)

    def over(self, tree: Tree) -> "Surveyor":
        """Answers under the same policy for a tree with the same places."""
        index = self.policy_index
        return Surveyor(self.policy, tree, self.grants, index.limits, self)

    def allowed(
        self, accounts: Sequence[Who], nodes: Sequence[str] | None, actions: Sequence[str], at: datetime
    ) -> Bools:
        """`[accounts, nodes, actions]` yes or no; `nodes` None means the whole tree in its order."""
        count = len(self.tree) if nodes is None else len(nodes)
        answers = np.empty((len(accounts), count, len(actions)), dtype=bool)
        rows, order = None, None
        if nodes is not None:
            asked = np.array([self.tree.index[n] for n in nodes], dtype=np.intp)
            rows, order = np.unique(asked, return_inverse=True)
        holders = [self.grants.of(who, at) for who in accounts]
        for first in range(0, len(actions), MOST_ACTIONS):
            some = tuple(actions[first : first + MOST_ACTIONS])
            batch = self.whole(some) if rows is None else self.among(some, rows)
            for part in chunks(batch, len(holders)):
                bits = allowed(BatchEvaluator.of(batch, holders[part]))
                batch.columns.unpack(bits, answers[part, :, first : first + len(some)], order)
        return answers

    def reasons(self, who: Who, actions: Sequence[str], at: datetime) -> Codes:
        """`[nodes, actions]` the reason of each answer, as positions in REASONS."""
        holding = self.grants.of(who, at)
        answers = np.empty((len(self.tree), len(actions)), dtype=np.uint8)
        if not holding.active or holding.keyholder:
            answers[:] = CODE[Reason.ALLOWED if holding.active else Reason.INACTIVE]
            return answers
        for first in range(0, len(actions), MOST_ACTIONS):
            some = tuple(actions[first : first + MOST_ACTIONS])
            answers[:, first : first + len(some)] = self._reasons(self.whole(some), holding)
        return answers

    def marks(self, who: Who, actions: Sequence[str], at: datetime, positions: Ints | None = None) -> Marks:
        """How far `who` reaches with each action at each node, or at those at some ascending `positions`."""
        holding = self.grants.of(who, at)
        shape = (len(self.tree) if positions is None else len(positions), len(actions))
        marks = Marks(np.zeros(shape, dtype=np.int8), *(np.zeros(shape, dtype=bool) for _ in range(4)))
        if holding.keyholder and holding.active:
            marks.extent[:] = Extent.ALL
        elif holding.active:
            for first in range(0, len(actions), MOST_ACTIONS):
                some = tuple(actions[first : first + MOST_ACTIONS])
                batch = self.whole(some) if positions is None else self.among(some, positions)
                self._mark(batch, holding, marks, first)
        return marks

    # -- reasons -------------------------------------------------------------------------------

    def _barred(self, batch: NodeBatch, who: SubjectGrants, says: Sequence[Bits]) -> Bits | None:
        """What is barred for a holder, given what each of their sources says."""
        barred = batch.in_force(who.subjects, Effect.BAR)
        for source, said in zip(who.sources, says, strict=True):
            force = batch.in_force(source.resolved.subjects, Effect.BAR)
            bars = batch.within(
                source.scope, said[AuthorRelation.BARS] if force is None else said[AuthorRelation.BARS] | force
            )
            if bars.any():
                barred = bars if barred is None else barred | bars
        return barred

    def _reasons(self, batch: NodeBatch, who: SubjectGrants) -> Codes:
        columns = batch.columns
        rungs = [batch.nothing.copy() for _ in range(4)]
        says = [batch.says(source.resolved) for source in who.sources]
        for source, said in zip(who.sources, says, strict=True):
            rungs[0] |= said[AuthorRelation.OWN]
            rungs[1] |= batch.within(source.scope, said[AuthorRelation.OWN])
            within = batch.within(source.scope, _near(batch, who, said))
            rungs[2] |= within
            rungs[3] |= without(within, batch.in_force(source.subjects, Effect.STOP))
        stopped = batch.in_force(who.subjects[:1], Effect.STOP) if who.account else None
        outside = batch.outside(who.account) if who.account else None
        barred = self._barred(batch, who, says)

        def column(i: int, *, live: bool = False) -> Codes:
            code = np.full(batch.length, CODE[Reason.NOT_GRANTED])
            for rung, reason in zip(rungs, _RUNGS[1:], strict=True):
                code[has(rung, i)] = CODE[reason]
            passed = has(rungs[3], i)
            if live:
                code[~passed] = CODE[Reason.LIVE]
            if outside is not None:
                code[passed & outside] = CODE[Reason.OUT_OF_REACH]
            if stopped is not None:
                code[passed & has(stopped, i)] = CODE[Reason.STOPPED]
            if barred is not None:
                code[has(barred, i)] = CODE[Reason.BARRED]
            return code

        codes = np.empty((batch.length, len(columns.actions)), dtype=np.uint8)
        for i, action in enumerate(columns.actions):
            codes[:, i] = column(i)
            if action == "edit" and columns.live is not None:
                second = batch.published & (codes[:, i] == _ALLOWED)
                codes[second, i] = column(columns.live, live=True)[second]
            if action in CHANGING and columns.opens is not None and batch.locked is not None:
                closed = batch.locked & (column(columns.opens) != _ALLOWED)
                codes[closed & (codes[:, i] == _ALLOWED), i] = CODE[Reason.LOCKED]
            if action in WHOLE_BRANCH:
                codes[:, i] = self._first_failing(codes[:, i])
        return codes

    def _first_failing(self, codes: Codes) -> Codes:
        """Each node's own reason if it fails, else that of the first in its branch that does."""
        count = len(codes)
        failing = np.where(codes == _ALLOWED, count, np.arange(count))
        following = np.minimum.accumulate(failing[::-1])[::-1]
        within = following < self.tree.ends
        answer = codes.copy()
        answer[within] = codes[following[within]]
        return answer

    # -- marks ---------------------------------------------------------------------------------

    def _mark(self, batch: NodeBatch, who: SubjectGrants, marks: Marks, first: int) -> None:
        columns, extents = batch.columns, (Extent.OWN, Extent.TEAM, Extent.ALL)
        reached, given, brought = ({e: batch.nothing.copy() for e in extents} for _ in range(3))
        says = [batch.says(source.resolved) for source in who.sources]
        for source, said in zip(who.sources, says, strict=True):
            stops = batch.in_force(source.subjects, Effect.STOP)
            for extent, level in zip(extents, GIVES, strict=True):
                within = batch.within(source.scope, said[level])
                standing = without(within, stops)
                given[extent] |= within
                reached[extent] |= standing
                if source.kind != "baseline":
                    brought[extent] |= standing
        own_stop = batch.in_force(who.subjects[:1], Effect.STOP) if who.account else None
        outside = batch.outside(who.account) if who.account else None
        outside = np.zeros(batch.length, dtype=bool) if outside is None else outside
        barred = self._barred(batch, who, says)
        taken = reduce(np.bitwise_or, [b for b in (own_stop, barred) if b is not None], outside * columns.every)

        def extent_of(planes: dict[Extent, Bits], i: int) -> NDArray[np.int8]:
            extent: NDArray[np.int8] = np.sum([has(plane, i) for plane in planes.values()], axis=0, dtype=np.int8)
            return extent

        def mark(i: int, j: int, where: Bools) -> NDArray[np.int8]:
            stopped = np.zeros(batch.length, dtype=bool) if own_stop is None else has(own_stop, i)
            bars = np.zeros(batch.length, dtype=bool) if barred is None else has(barred, i)
            far = extent_of(reached, i)
            marks.stopped[:, j] |= where & (extent_of(given, i) > np.where(stopped, 0, far)) & ~bars
            marks.barred[:, j] |= where & bars
            marks.outside[:, j] |= where & outside & (far > 0)
            far[has(taken, i)] = 0
            return far

        everywhere = np.ones(batch.length, dtype=bool)
        for i, action in enumerate(columns.actions):
            j = first + i
            final = mark(i, j, everywhere)
            marks.baseline[:, j] = (final > 0) & (extent_of(brought, i) < final)
            if action == "edit" and columns.live is not None:
                final = np.where(batch.published, np.minimum(final, mark(columns.live, j, batch.published)), final)
            marks.extent[:, j] = final

    # -- sets of columns and batches ----------------------------------------------------------------------

    def columns(self, actions: tuple[str, ...], *, alone: bool = False) -> ActionColumns:
        """The columns of some actions, kept; `alone` as in `ActionColumns`."""
        key = (actions, alone)
        if key not in self._columns:
            self._columns[key] = ActionColumns(self.tree.type_names, actions, alone=alone)
        return self._columns[key]

    def whole(self, actions: tuple[str, ...]) -> NodeBatch:
        """The batch of the whole tree, kept."""
        if actions not in self._batches:
            self._batches[actions] = self.batch(self.columns(actions), None)
        return self._batches[actions]

    def among(self, actions: tuple[str, ...], positions: Ints) -> NodeBatch:
        """The batch of some nodes, by their ascending places in the tree: the last few are kept."""
        return self._recent(actions, positions.astype(np.intp).tobytes())

    def _among(self, actions: tuple[str, ...], positions: bytes) -> NodeBatch:
        return self.batch(self.columns(actions), np.frombuffer(positions, dtype=np.intp))

    def batch(self, columns: ActionColumns, positions: Ints | None) -> NodeBatch:
        """A batch of some nodes, by their ascending places in the tree."""
        return NodeBatch(columns, self.policy_index, positions)


def _near(batch: NodeBatch, who: SubjectGrants, said: Bits) -> Bits:
    """What a source says, by level, of nodes that its extent covers, wherever its scope lies."""
    found: Bits = said[AuthorRelation.OWN if who.as_author else AuthorRelation.ALL].copy()
    if who.account is not None:
        for level, rows in (
            (AuthorRelation.OWN, batch.rows_by(who.account)),
            (AuthorRelation.TEAM, batch.rows_near(who.account)),
        ):
            found[rows] |= said[level, rows]
    return found


def without(bits: Bits, taken: Bits | None) -> Bits:
    """Some bits without those of others; None takes nothing."""
    return bits if taken is None else bits & ~taken
