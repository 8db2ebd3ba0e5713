"""The smallest changes that turn a no into a yes, each with what else it would do.

    advice = advise(engine, Question("ada", "edit", tree.target("fees")), at)
    advice.changes[0].operations        # (GiveRole(...),)
    advice.changes[0].impact.gain       # everyone who would gain something by it
    advice.bars                         # what bars it: that is named, and never worked around

Every change is tried by deciding again under it; what does not turn the answer is left out.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import datetime

from gonfalon.core.decide.grants import capability_of
from gonfalon.core.diff.impact import Impact, impact
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import ANYWHERE, OPEN_FIELD, Assignment, Limit, Scope, Subject
from gonfalon.core.model.question import Finding, Question
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import PART_ACTIONS, SAYS, STAND_IN, STAND_IN_ACTION, Effect, Extent, Reason
from gonfalon.core.operations import (
    DropLimit,
    GiveRole,
    OpenLock,
    Operation,
    SetAnswer,
    SetFieldRule,
    SetLimit,
    SetReach,
    apply,
)

_WHOLE = {"see-field": "see", "fill-field": "create"}
NEW = "advised"
"""The id of an assignment or limit that a change would make."""


@dataclass(frozen=True, slots=True)
class Advised:
    """One way to a yes: what to change, and what all of that turns."""

    operations: tuple[Operation, ...]
    impact: Impact


@dataclass(frozen=True, slots=True)
class Advice:
    """The ways to a yes, those that turn least for others first; and the bars in the way, if any."""

    changes: tuple[Advised, ...]
    bars: tuple[Finding, ...] = ()


def advise(engine: Engine, question: Question, at: datetime) -> Advice:
    """What would turn the answer about an account. Nothing for a yes, a visitor or an inactive account.

    The cost is one decision for each change tried, and one impact for each that helps.
    """
    asked = replace(question, at=at)
    decision = engine.decide(asked, trail=True)
    account = engine.policy.accounts.get(question.who) if isinstance(question.who, str) else None
    if decision.allow or account is None or decision.reason is Reason.INACTIVE:
        return Advice(())
    if decision.reason is Reason.BARRED:
        bars = (f for step in decision.trail if step.step == "bars" for f in step.findings)
        return Advice((), tuple(bars))
    findings = [finding for step in decision.trail for finding in step.findings]
    found = []
    for family in _Candidates(engine, asked, account.id, findings).families():
        # Of changes that differ only in how far they go, the shortest that helps is enough.
        for operations in family:
            after = engine.changed(apply(engine.policy, operations))
            if after.decide(asked).allow:
                found.append(Advised(operations, impact(engine, after, at)))
                break
    return Advice(tuple(sorted(found, key=_reach_of)))


def _reach_of(change: Advised) -> tuple[int, int, int]:
    deltas = change.impact
    return len(deltas.gain | deltas.lose), deltas.gained + deltas.lost, len(change.operations)


Way = tuple[Operation, ...]


class _Candidates:
    """Changes worth trying, in families that go from short to long."""

    def __init__(self, engine: Engine, question: Question, account: str, findings: list[Finding]) -> None:
        self.engine, self.policy, self.question, self.account = engine, engine.policy, question, account
        self.findings = findings
        at = question.at
        assert at is not None
        self.sources = [s for s in engine.grants.of(account, at).sources if s.kind != "baseline"]

    def families(self) -> Iterator[Iterable[Way]]:
        yield from self._roles_to_give()
        yield from self._answers_to_widen()
        yield from self._scopes_to_widen()
        yield from self._limits()
        yield from self._reach()
        yield from ([(OpenLock(f.id),)] for f in self.findings if f.what == "lock")
        yield from self._field_rules()

    @property
    def _capabilities(self) -> list[str]:
        """Every capability the action asks."""
        q = self.question
        if q.action == STAND_IN_ACTION:
            return [STAND_IN]
        if q.target is None or "." in q.action:
            return [q.action]
        action = q.action
        if action in PART_ACTIONS:
            action = _WHOLE.get(action, "edit")
        asked = [capability_of(action, q.target.type, q.target.state)]
        if action == "edit" and q.target.state == "published":
            asked.append(f"{q.target.type}.edit-live")
        return asked

    def _roles_to_give(self) -> Iterator[Iterable[Way]]:
        held = {source.role for source in self.sources}
        target = self.question.target
        here = None if target is None or not target.path else Scope(branches=frozenset({target.path[-1]}))
        for role in self.policy.roles:
            if role not in held and role not in self.policy.baseline:
                scopes = [ANYWHERE] if here is None else [here, ANYWHERE]
                to = Subject.account(self.account)
                yield [(GiveRole(Assignment(NEW, role, to, scope)),) for scope in scopes]

    def _answers_to_widen(self) -> Iterator[Iterable[Way]]:
        """What a role that is held would have to say."""
        words = SAYS[self.policy.kind(self._capabilities[0])]
        for role in dict.fromkeys(source.role for source in self.sources if source.role):
            yield [self._saying(role, word) for word in words if word in ("own", "team", "all", "yes")]

    def _saying(self, role: str, word: str) -> Way:
        extent = Extent[word.upper()] if word != "yes" else Extent.ALL
        said = self.engine.grants.statements(role)
        short = [c for c in self._capabilities if c not in said or said[c].extent < extent]
        return tuple(SetAnswer(role, capability, word) for capability in short)

    def _scopes_to_widen(self) -> Iterator[Iterable[Way]]:
        target = self.question.target
        for source in self.sources:
            given = self.policy.assignments.get(source.id)
            if given is not None and not given.scope.unrestricted:
                wider = [_reaching(given.scope, target)] if target is not None and target.path else []
                yield [(GiveRole(replace(given, scope=scope)),) for scope in (*wider, ANYWHERE)]

    def _limits(self) -> Iterator[Iterable[Way]]:
        target = self.question.target
        for id in dict.fromkeys(id for f in self.findings for id in f.limits):
            limit = self.policy.limits[id]
            if target is not None and target.path and target.path[-1] != limit.node:
                yield [(SetLimit(_lift(limit, self.question, target)),)]
            yield [(DropLimit(id),)]

    def _reach(self) -> Iterator[Iterable[Way]]:
        target = self.question.target
        if target is None or target.tree is None or not any(f.what == "reach" for f in self.findings):
            return
        reach = self.policy.accounts[self.account].reach[target.tree]
        yield [(SetReach(self.account, target.tree, reach | {target.path[-1]}),)]

    def _field_rules(self) -> Iterator[Iterable[Way]]:
        q = self.question
        if q.target is None or q.field is None:
            return
        rule = self.policy.fields.get((q.target.type, q.field), OPEN_FIELD)
        if rule.mode != "table":
            return
        verb = q.action.removesuffix("-field")
        marks = ["fill"] if verb == "fill" else [f"{verb}-own", f"{verb}-all"]
        for role in dict.fromkeys(source.role for source in self.sources if source.role):
            rows = [{**rule.table, role: rule.table.get(role, frozenset()) | {mark}} for mark in marks]
            yield [(SetFieldRule(q.target.type, q.field, replace(rule, table=table)),) for table in rows]


def _reaching(scope: Scope, target: Target) -> Scope:
    """A scope widened, list by list, just so far that it covers a target."""
    topics = scope.topics
    if topics is not None and topics.isdisjoint(target.topics):
        topics = topics | target.topics or None
    return Scope(
        None if scope.sites is None or target.site is None else scope.sites | {target.site},
        None if scope.branches is None else scope.branches | {target.path[-1]},
        None if scope.types is None else scope.types | {target.type},
        topics,
    )


def _lift(limit: Limit, question: Question, target: Target) -> Limit:
    """A lift at the target, for the subject of a limit further up."""
    action = question.action
    if action in PART_ACTIONS:
        action = _WHOLE.get(action, "edit")
    applies = "beneath" if target.id is None else "node"
    return Limit(NEW, target.path[-1], limit.to, Effect.LIFT, applies, frozenset({action}))  # type: ignore[arg-type]
