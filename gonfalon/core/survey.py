"""Whole trees and rosters at once, with the same answers as `decide` (§4).

    survey = Surveyor(engine)
    survey.allowed([None, "ada"], None, ["see"], at)  # [2, nodes, 1] booleans
    survey.reasons("ada", ["see", "edit"], at)     # [nodes, 2] positions in REASONS
    survey.marks("ada", ["edit"], at).extent       # [nodes, 1] how far the cloth hangs

`create` is asked as `create:T`, without topics: a new node of type T under each node. The cost is a few
operations on an array of one integer a node, for each source of each account; no question is asked per node.
"""

from collections.abc import Hashable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.holding import Holding, Source
from gonfalon.core.plan import MOST_ACTIONS, Bits, Bools, Plan
from gonfalon.core.question import Who
from gonfalon.core.sheet import Sheet, Written
from gonfalon.core.vocabulary import CHANGING, WHOLE_BRANCH, Effect, Extent, Reason

if TYPE_CHECKING:
    from gonfalon.core.engine import Engine

REASONS = tuple(Reason)
"""Reasons by position, as the arrays hold them."""
CODE = {reason: np.uint8(i) for i, reason in enumerate(REASONS)}
_ALLOWED = CODE[Reason.ALLOWED]
_RUNGS = (Reason.NOT_GRANTED, Reason.OUT_OF_SCOPE, Reason.OUT_OF_EXTENT, Reason.STOPPED, Reason.ALLOWED)

Codes = NDArray[np.uint8]
Near = Sequence[tuple[Extent, Bits | None]]
"""For each extent shorter than all, the nodes that it covers for somebody (None: all of them)."""
STRANGER: Near = ()
TEAMMATE: Near = ((Extent.TEAM, None),)
AUTHOR: Near = ((Extent.OWN, None),)


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
    """Answers for every node of an engine's tree."""

    def __init__(self, engine: "Engine") -> None:
        self.engine = engine
        self.policy = engine.policy
        self.tree = engine.tree
        self._plans: dict[tuple[tuple[str, ...], bool], Plan] = {}
        self._sheets: dict[tuple[str, ...], Sheet] = {}

    def allowed(
        self, accounts: Sequence[Who], nodes: Sequence[str] | None, actions: Sequence[str], at: datetime
    ) -> Bools:
        """`[accounts, nodes, actions]` yes or no; `nodes` None means the whole tree in its order."""
        count = len(self.tree) if nodes is None else len(nodes)
        answers = np.empty((len(accounts), count, len(actions)), dtype=bool)
        rows, order = None, None
        if nodes is not None:
            asked = np.array([self.tree.index[n] for n in nodes], dtype=np.intp)
            rows, order = np.sort(asked), np.argsort(np.argsort(asked, kind="stable"))
        for first in range(0, len(actions), MOST_ACTIONS):
            some = tuple(actions[first : first + MOST_ACTIONS])
            sheet = self.whole(some) if rows is None else self.sheet(self.plan(some), rows)
            for i, who in enumerate(accounts):
                holding = self.engine.holdings.of(who, at)
                bits = self.bits(sheet, holding)
                answers[i, :, first : first + len(some)] = sheet.plan.unpacked(bits if order is None else bits[order])
        return answers

    def bits(self, sheet: Sheet, who: Holding, near: Near | None = None) -> Bits:
        """What one account may do at each row of a sheet, as the asked columns of its plan.

        `near` puts a supposed author in the place of the real ones: STRANGER, TEAMMATE or AUTHOR of all.
        """
        plan = sheet.plan
        if not who.active or who.keyholder:
            return np.full(sheet.length, plan.asked if who.active else 0, dtype=plan.dtype)
        passed = self.granted(sheet, who, near)
        if plan.live is not None:
            may_edit_live = has(passed, plan.live)
            passed &= ~((sheet.published & ~may_edit_live) * plan.edits)
        if plan.opens is not None and sheet.locked is not None:
            may_open = has(passed, plan.opens)
            passed &= ~((sheet.locked & ~may_open) * plan.changing)
        if plan.whole_branch:
            self._branches(sheet, who, passed)
        answer: Bits = passed & plan.asked
        return answer

    def granted(self, sheet: Sheet, who: Holding, near: Near | None = None) -> Bits:
        """Where steps 3 to 5 pass, column by column, whatever else an action asks."""
        top = sheet.nothing.copy()
        near = near_to(sheet, who) if near is None else near
        for source in filter(sheet.counts, who.sources):
            given = reaching(sheet, source, near)
            if given is not None:
                top |= without(given, sheet.in_force(source.subjects, Effect.STOP))
        return without(top, self._narrowed(sheet, who))

    def footing(self, sheet: Sheet, who: Holding) -> Hashable:
        """What `bits` rests on for a stranger: holders with an equal footing may do the same on the sheet."""
        if not who.active or who.keyholder:
            return who.active
        stands = frozenset(stand for source in who.sources if (stand := sheet.stand(source)) is not None)
        if who.account is None:
            return stands, who.own
        stopped = sheet.narrowing(who.subjects[:1], Effect.STOP)
        barred = sheet.narrowing(who.subjects, Effect.BAR)
        reach = frozenset(who.account.reach.items()) if who.account.reach else None
        return stands, stopped, barred, reach

    def minds_author(self, sheet: Sheet, who: Holding) -> bool:
        """Whether it can count for somebody's answers on a sheet who wrote a node."""
        if not who.active or who.keyholder:
            return False
        return any((stand := sheet.stand(source)) is not None and stand.minds_author for source in who.sources)

    def reasons(self, who: Who, actions: Sequence[str], at: datetime) -> Codes:
        """`[nodes, actions]` the reason of each answer, as positions in REASONS."""
        holding = self.engine.holdings.of(who, at)
        answers = np.empty((len(self.tree), len(actions)), dtype=np.uint8)
        if not holding.active or holding.keyholder:
            answers[:] = CODE[Reason.ALLOWED if holding.active else Reason.INACTIVE]
            return answers
        for first in range(0, len(actions), MOST_ACTIONS):
            some = tuple(actions[first : first + MOST_ACTIONS])
            answers[:, first : first + len(some)] = self._reasons(self.whole(some), holding)
        return answers

    def marks(self, who: Who, actions: Sequence[str], at: datetime) -> Marks:
        """How far `who` reaches with each action at each node."""
        holding = self.engine.holdings.of(who, at)
        shape = (len(self.tree), len(actions))
        marks = Marks(np.zeros(shape, dtype=np.int8), *(np.zeros(shape, dtype=bool) for _ in range(4)))
        if holding.keyholder and holding.active:
            marks.extent[:] = Extent.ALL
        elif holding.active:
            for first in range(0, len(actions), MOST_ACTIONS):
                self._mark(self.whole(tuple(actions[first : first + MOST_ACTIONS])), holding, marks, first)
        return marks

    # -- the steps of §4, as bits --------------------------------------------------------------

    def _narrowed(self, sheet: Sheet, who: Holding) -> Bits | None:
        """What bars, a stop on the account itself, or its reach take, of whatever is granted."""
        taken = self._barred(sheet, who)
        if who.account is not None:
            taken = _also(taken, sheet.in_force(who.subjects[:1], Effect.STOP))
            outside = sheet.outside(who.account)
            taken = taken if outside is None else _also(taken, outside * sheet.plan.every)
        return taken

    def _barred(self, sheet: Sheet, who: Holding) -> Bits | None:
        barred = sheet.in_force(who.subjects, Effect.BAR)
        for source in filter(sheet.counts, who.sources):
            bars = sheet.barred(source.said) if source.said.barred else None
            bars = _also(bars, sheet.in_force(source.role_subjects, Effect.BAR))
            if bars is not None:
                barred = _also(barred, covered(sheet, source, bars))
        return barred

    def _branches(self, sheet: Sheet, who: Holding, passed: Bits) -> None:
        """Keep `remove` and `move` only where the same may be done to all beneath (§4)."""
        plan = sheet.plan
        rows, starts, ends = sheet.branches
        if not (passed[rows] & plan.whole_branch).any():
            return
        below, each = plan, passed
        if sheet.deep is not sheet:
            below, each = sheet.deep.plan, self.bits(sheet.deep, who)
        for i, action in enumerate(plan.actions):
            if action in WHOLE_BRANCH:
                fails = each & below.bit(below.actions.index(action)) == 0
                failing = np.concatenate(([0], np.cumsum(fails, dtype=np.int32)))
                passed[rows[failing[ends] > failing[starts]]] &= ~plan.bit(i)

    # -- reasons -------------------------------------------------------------------------------

    def _reasons(self, sheet: Sheet, who: Holding) -> Codes:
        plan = sheet.plan
        rungs = [sheet.nothing.copy() for _ in range(4)]
        near = near_to(sheet, who)
        for source in who.sources:
            says = sheet.given(source.said, Extent.OWN)
            if says is None:
                continue
            rungs[0] |= says
            rungs[1] |= covered(sheet, source, says)
            within = reaching(sheet, source, near)
            if within is not None:
                rungs[2] |= within
                rungs[3] |= without(within, sheet.in_force(source.subjects, Effect.STOP))
        stopped = sheet.in_force(who.subjects[:1], Effect.STOP) if who.account else None
        outside = sheet.outside(who.account) if who.account else None
        barred = self._barred(sheet, who)

        def column(i: int, *, live: bool = False) -> Codes:
            code = np.full(sheet.length, CODE[Reason.NOT_GRANTED])
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

        codes = np.empty((sheet.length, len(plan.actions)), dtype=np.uint8)
        for i, action in enumerate(plan.actions):
            codes[:, i] = column(i)
            if action == "edit" and plan.live is not None:
                second = sheet.published & (codes[:, i] == _ALLOWED)
                codes[second, i] = column(plan.live, live=True)[second]
            if action in CHANGING and plan.opens is not None and sheet.locked is not None:
                closed = sheet.locked & (column(plan.opens) != _ALLOWED)
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

    def _mark(self, sheet: Sheet, who: Holding, marks: Marks, first: int) -> None:
        plan, extents = sheet.plan, (Extent.OWN, Extent.TEAM, Extent.ALL)
        reached, given, brought = ({e: sheet.nothing.copy() for e in extents} for _ in range(3))
        for source in who.sources:
            stops = sheet.in_force(source.subjects, Effect.STOP)
            for extent in extents:
                says = sheet.given(source.said, extent)
                if says is None:
                    continue
                says = covered(sheet, source, says)
                standing = without(says, stops)
                given[extent] |= says
                reached[extent] |= standing
                if source.kind != "baseline":
                    brought[extent] |= standing
        own_stop = sheet.in_force(who.subjects[:1], Effect.STOP) if who.account else None
        outside = sheet.outside(who.account) if who.account else None
        outside = np.zeros(sheet.length, dtype=bool) if outside is None else outside
        barred = self._barred(sheet, who)
        taken = _also(_also(own_stop, barred), outside * plan.every)

        def extent_of(planes: dict[Extent, Bits], i: int) -> NDArray[np.int8]:
            extent: NDArray[np.int8] = np.sum([has(plane, i) for plane in planes.values()], axis=0, dtype=np.int8)
            return extent

        def mark(i: int, j: int, where: Bools) -> NDArray[np.int8]:
            stopped = np.zeros(sheet.length, dtype=bool) if own_stop is None else has(own_stop, i)
            bars = np.zeros(sheet.length, dtype=bool) if barred is None else has(barred, i)
            far = extent_of(reached, i)
            marks.stopped[:, j] |= where & (extent_of(given, i) > np.where(stopped, 0, far)) & ~bars
            marks.barred[:, j] |= where & bars
            marks.outside[:, j] |= where & outside & (far > 0)
            if taken is not None:
                far[has(taken, i)] = 0
            return far

        everywhere = np.ones(sheet.length, dtype=bool)
        for i, action in enumerate(plan.actions):
            j = first + i
            final = mark(i, j, everywhere)
            marks.baseline[:, j] = (final > 0) & (extent_of(brought, i) < final)
            if action == "edit" and plan.live is not None:
                final = np.where(sheet.published, np.minimum(final, mark(plan.live, j, sheet.published)), final)
            marks.extent[:, j] = final

    @cached_property
    def _written(self) -> Written:
        return Written(self.policy, self.tree)

    # -- plans and sheets ----------------------------------------------------------------------

    def plan(self, actions: tuple[str, ...], *, alone: bool = False) -> Plan:
        key = (actions, alone)
        if key not in self._plans:
            self._plans[key] = Plan(self.tree, actions, alone=alone)
        return self._plans[key]

    def whole(self, actions: tuple[str, ...]) -> Sheet:
        """The sheet of the whole tree, kept."""
        if actions not in self._sheets:
            self._sheets[actions] = self.sheet(self.plan(actions), None)
        return self._sheets[actions]

    def sheet(self, plan: Plan, positions: NDArray[np.intp] | None) -> Sheet:
        """A sheet of some nodes, by their ascending places in the tree."""
        return Sheet(plan, self.engine.limits, self.policy, self._written, positions)


def near_to(sheet: Sheet, who: Holding) -> Near:
    """For each extent shorter than all, the nodes that it covers for somebody (None: all of them)."""
    return list(_nearness(sheet, who))


def _nearness(sheet: Sheet, who: Holding) -> Iterator[tuple[Extent, Bits | None]]:
    if who.own:
        yield Extent.OWN, None
    elif who.account is not None:
        own, team = sheet.by(who.account, team=False), sheet.by(who.account, team=True)
        if own is not None:
            yield Extent.OWN, own
        if team is not None:
            yield Extent.TEAM, team


def reaching(sheet: Sheet, source: Source, near: Near) -> Bits | None:
    """What a source gives where its scope and its extent cover the node; None when nothing."""
    far = sheet.given(source.said, Extent.ALL)
    within = None if far is None else far
    for extent, where in near:
        given = sheet.given(source.said, extent)
        if given is not None and given is not far:
            within = _also(within, given if where is None else given & where)
    return None if within is None else covered(sheet, source, within)


def covered(sheet: Sheet, source: Source, bits: Bits) -> Bits:
    covers = sheet.covers(source.scope)
    return bits if covers is None else bits & covers


def without(bits: Bits, taken: Bits | None) -> Bits:
    return bits if taken is None else bits & ~taken


def _also(bits: Bits | None, more: Bits | None) -> Bits | None:
    if bits is None or more is None:
        return more if bits is None else bits
    return bits | more


def has(bits: Bits, column: int) -> Bools:
    has: Bools = np.equal((bits >> column) & 1, 1)
    return has
