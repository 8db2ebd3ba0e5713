"""Whole trees and rosters at once, with the same answers as `decide` (§4).

    survey = Surveyor(engine)
    survey.reasons("ada", ["see", "edit"], at)     # [nodes, 2] positions in REASONS
    survey.allowed([None, "ada"], None, ["see"], at)  # [2, nodes, 1] booleans
    survey.marks("ada", ["edit"], at).extent       # [nodes, 1] how far the cloth hangs

`create` is asked as `create:T`, without topics: a new node of type T under each node. All work is
done per source over whole arrays; the cost is (sources + limits met) x nodes, with no question per node.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from numpy.typing import NDArray

from gonfalon.core.engine import Engine
from gonfalon.core.holding import Holding, Source, capability_of, gives
from gonfalon.core.limits import BAR, STOP
from gonfalon.core.policy import Account, Scope, Subject
from gonfalon.core.question import Who
from gonfalon.core.vocabulary import BARRED, CHANGING, LOCKS_OPEN, Extent, Reason

REASONS = tuple(Reason)
"""Reasons by position, as the arrays hold them."""
CODE = {reason: np.uint8(i) for i, reason in enumerate(REASONS)}
_RUNG_CODES = np.array(
    [
        CODE[r]
        for r in (
            Reason.NOT_GRANTED,
            Reason.OUT_OF_SCOPE,
            Reason.OUT_OF_EXTENT,
            Reason.STOPPED,
            Reason.ALLOWED,
        )
    ],
    dtype=np.uint8,
)
_TOP = 4

Bools = NDArray[np.bool_]
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
    """Answers for every node of an engine's tree."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self.policy = engine.policy
        self.tree = engine.tree
        self._covered: dict[tuple[Scope, str | None], Bools] = {}
        self._force: dict[tuple[Subject, str], NDArray[np.int8] | None] = {}
        self._authored: dict[str, tuple[Bools, Bools]] = {}
        self._everywhere = np.ones(len(self.tree), dtype=bool)

    def allowed(
        self, accounts: Sequence[Who], nodes: Sequence[str] | None, actions: Sequence[str], at: datetime
    ) -> Bools:
        """`[accounts, nodes, actions]` yes or no; `nodes` None means the whole tree in its order."""
        rows = slice(None) if nodes is None else np.array([self.tree.index[n] for n in nodes], dtype=np.intp)
        answers = [self.reasons(who, actions, at)[rows] == CODE[Reason.ALLOWED] for who in accounts]
        count = len(self.tree) if nodes is None else len(nodes)
        return np.array(answers, dtype=bool).reshape(len(accounts), count, len(actions))

    def reasons(self, who: Who, actions: Sequence[str], at: datetime) -> Codes:
        """`[nodes, actions]` the reason of each answer, as positions in REASONS."""
        holding = self.engine.holdings.of(who, at)
        answers = np.empty((len(self.tree), len(actions)), dtype=np.uint8)
        if not holding.active or holding.keyholder:
            answers[:] = CODE[Reason.ALLOWED if holding.active else Reason.INACTIVE]
            return answers
        for j, action in enumerate(actions):
            answers[:, j] = self._reasons(holding, action)
        return answers

    def marks(self, who: Who, actions: Sequence[str], at: datetime) -> Marks:
        """How far `who` reaches with each action at each node."""
        holding = self.engine.holdings.of(who, at)
        shape = (len(self.tree), len(actions))
        marks = Marks(np.zeros(shape, dtype=np.int8), *(np.zeros(shape, dtype=bool) for _ in range(4)))
        if not holding.active:
            return marks
        if holding.keyholder:
            marks.extent[:] = Extent.ALL
            return marks
        for j, action in enumerate(actions):
            self._mark(holding, action, marks, j)
        return marks

    # -- one action over the whole tree --------------------------------------------------------

    def _reasons(self, who: Holding, action: str) -> Codes:
        code = self._steps(who, self._capabilities(action), action)
        if action == "edit":
            live = self._steps(who, [f"{t}.edit-live" for t in self.tree.type_names], action, live=True)
            second = self.tree.published & (code == CODE[Reason.ALLOWED])
            code = np.where(second, live, code)
        if action in CHANGING:
            locked = self._locked(who)
            code = np.where(locked & (code == CODE[Reason.ALLOWED]), CODE[Reason.LOCKED], code)
        return code

    def _steps(self, who: Holding, capabilities: Sequence[str], action: str, *, live: bool = False) -> Codes:
        """Steps 3 to 5 of §4; `capabilities` names what each type asks, then what each type asks unpublished."""
        rung = np.zeros(len(self.tree), dtype=np.int8)
        for source in who.sources:
            extent = self._extents(source, capabilities)
            if not extent.any():
                continue
            climbed = (extent > 0).astype(np.int8)
            covered = (climbed == 1) & self._covers(source.scope, action)
            within = covered & self._within(who, extent, action)
            climbed[covered] = 2
            climbed[within] = 3
            climbed[within & ~self._stopped(source, action)] = _TOP
            np.maximum(rung, climbed, out=rung)
        code = _RUNG_CODES[rung]
        if live:
            code = np.where(rung == _TOP, code, CODE[Reason.LIVE])
        passed = rung == _TOP
        code[passed & self._outside(who)] = CODE[Reason.OUT_OF_REACH]
        if who.account is not None:
            code[passed & self._in_force(Subject.account(who.account.id), action, STOP)] = CODE[Reason.STOPPED]
        code[self._barred(who, capabilities, action)] = CODE[Reason.BARRED]
        return code

    def _mark(self, who: Holding, action: str, marks: Marks, j: int) -> None:
        asked = [self._capabilities(action)]
        if action == "edit":
            asked.append([f"{t}.edit-live" for t in self.tree.type_names])
        for n, capabilities in enumerate(asked):
            reached, lost, beyond_baseline = (np.zeros(len(self.tree), dtype=np.int8) for _ in range(3))
            for source in who.sources:
                extent = self._extents(source, capabilities) * self._covers(source.scope, action)
                if action == "create":
                    extent = np.where(extent > 0, Extent.ALL, 0)
                standing = np.where(self._stopped(source, action), 0, extent)
                np.maximum(lost, extent, out=lost)
                np.maximum(reached, standing, out=reached)
                if source.kind != "baseline":
                    np.maximum(beyond_baseline, standing, out=beyond_baseline)
            own = self._in_force(Subject.account(who.account.id), action, STOP) if who.account else ~self._everywhere
            outside = self._outside(who)
            barred = self._barred(who, capabilities, action)
            final = np.where(own | outside | barred, 0, reached).astype(np.int8)
            where = self._everywhere if n == 0 else self.tree.published
            if n == 0:
                marks.extent[:, j] = final
                marks.baseline[:, j] = (final > 0) & (beyond_baseline < final)
            else:
                marks.extent[:, j] = np.where(where, np.minimum(marks.extent[:, j], final), marks.extent[:, j])
            marks.stopped[:, j] |= where & (lost > np.where(own, 0, reached)) & ~barred
            marks.barred[:, j] |= where & barred
            marks.outside[:, j] |= where & outside & (reached > 0)

    # -- the pieces, each over the whole tree --------------------------------------------------

    def _capabilities(self, action: str) -> list[str]:
        """The capability each type asks when published, then what each asks in another state."""
        if action.startswith("create:"):
            return [f"{action.removeprefix('create:')}.create"] * len(self.tree.type_names)
        published = [capability_of(action, t, "published") for t in self.tree.type_names]
        return published + [capability_of(action, t, "draft") for t in self.tree.type_names]

    def _by_node(self, per_type: list[int]) -> NDArray[np.int8]:
        table = np.array(per_type, dtype=np.int8)
        types = self.tree.types
        if len(per_type) > len(self.tree.type_names):
            types = types + np.where(self.tree.published, 0, len(self.tree.type_names))
        return table[types] if len(table) else np.zeros(0, dtype=np.int8)

    def _extents(self, source: Source, capabilities: Sequence[str]) -> NDArray[np.int8]:
        given = [source.answers.get(c) for c in capabilities]
        return self._by_node([int(a.extent) if a and gives(a.says) else 0 for a in given])

    def _covers(self, scope: Scope, action: str) -> Bools:
        """Nodes in a scope; for `create:T` the places under which a T would be in it."""
        new_type = action.removeprefix("create:") if action.startswith("create:") else None
        key = (scope, new_type)
        if key not in self._covered:
            covered = self._everywhere.copy()
            if scope.sites is not None:
                covered &= np.isin(self.tree.sites, list(scope.sites))
            if scope.branches is not None:
                covered &= self._beneath(scope.branches)
            if new_type is not None:
                covered &= (scope.types is None or new_type in scope.types) and scope.topics is None
            else:
                if scope.types is not None:
                    covered &= np.array([t in scope.types for t in self.tree.type_names])[self.tree.types]
                if scope.topics is not None:
                    covered &= self.tree.having_topic(scope.topics)
            self._covered[key] = covered
        return self._covered[key]

    def _beneath(self, branches: frozenset[str]) -> Bools:
        within = ~self._everywhere
        for branch in branches:
            if branch in self.tree:
                within[self.tree.branch(branch)] = True
        return within

    def _within(self, who: Holding, extent: NDArray[np.int8], action: str) -> Bools:
        """Where an extent covers the node, given who wrote it. `create` ignores the extent."""
        if action.startswith("create"):
            return self._everywhere
        if who.own:
            return self._everywhere
        within: Bools = np.equal(extent, Extent.ALL)
        if who.account is not None and not within.all():
            own, team = self._written(who.account)
            within |= np.equal(extent, Extent.OWN) & own
            within |= np.equal(extent, Extent.TEAM) & team
        return within

    def _written(self, account: Account) -> tuple[Bools, Bools]:
        """What an account wrote, and what it or a direct fellow member of a group wrote."""
        if account.id not in self._authored:
            mates = {a.id for a in self.policy.accounts.values() if not a.groups.isdisjoint(account.groups)}
            own = np.array([author == account.id for author in self.tree.authors], dtype=bool)
            team = own | np.array([author in mates for author in self.tree.authors], dtype=bool)
            self._authored[account.id] = (own, team)
        return self._authored[account.id]

    def _in_force(self, subject: Subject, action: str, effect: int) -> Bools:
        key = (subject, action)
        if key not in self._force:
            new = action.startswith("create")
            self._force[key] = self.engine.limits.over(subject, "create" if new else action, self.tree, children=new)
        force = self._force[key]
        return ~self._everywhere if force is None else np.equal(force, effect)

    def _stopped(self, source: Source, action: str) -> Bools:
        stopped = ~self._everywhere
        for subject in source.subjects:
            stopped |= self._in_force(subject, action, STOP)
        return stopped

    def _barred(self, who: Holding, capabilities: Sequence[str], action: str) -> Bools:
        barred = ~self._everywhere
        for subject in who.subjects:
            barred |= self._in_force(subject, action, BAR)
        for source in who.sources:
            said = [source.answers.get(c) for c in capabilities]
            bars = self._by_node([int(a is not None and a.says == BARRED) for a in said]) == 1
            for key in source.roles:
                bars |= self._in_force(Subject.role(key), action, BAR)
            if bars.any():
                barred |= bars & self._covers(source.scope, action)
        return barred

    def _outside(self, who: Holding) -> Bools:
        outside = ~self._everywhere
        if who.account is not None:
            for tree, branches in who.account.reach.items():
                outside |= (self.tree.trees == tree) & ~self._beneath(branches)
        return outside

    def _locked(self, who: Holding) -> Bools:
        locked = ~self._everywhere
        for lock in self.policy.locks.values():
            if lock.field is None and lock.component is None and lock.node in self.tree:
                locked[self.tree.index[lock.node]] = True
        if locked.any():
            locked &= self._steps(who, [LOCKS_OPEN] * len(self.tree.type_names), LOCKS_OPEN) != CODE[Reason.ALLOWED]
        return locked
