"""From a no to a yes: the smallest changes that turn an answer (§4 to §6).

    ways(engine, Question("ada", "edit", tree.target("fees"), at))
    # [(GiveCapability(DirectGrant("advised", ada, "berth.edit", "own", Scope(branches={"fees"}))),), ...]

What is in the way is ended one step of the decision after another: each change is tried by deciding again under it,
goes on where another step fails then, and is kept where the answer has turned. Of changes that differ only in how far
they go the shortest that helps is kept, and nothing in a way can be left out. Bars are never worked around.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import datetime

from gonfalon.core.checks.ranking import Way, reach_of
from gonfalon.core.decide.grants import GrantSource
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import (
    ANYWHERE,
    OPEN_FIELD,
    Account,
    Applies,
    Assignment,
    DirectGrant,
    Limit,
    Policy,
    Scope,
    Subject,
)
from gonfalon.core.model.question import Decision, Finding, HypotheticalSubject, Question, TrailStep
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import (
    ACTIONS,
    FIELDS_PRIVATE,
    LOCKS_OPEN,
    OVER_ALL_NODES,
    PART_ACTIONS,
    SAYS,
    WHOLE_BRANCH,
    Effect,
    Extent,
    Kind,
    Reason,
)
from gonfalon.core.operations import (
    DropLimit,
    GiveCapability,
    GiveRole,
    OpenLock,
    Operation,
    SetAnswer,
    SetComponents,
    SetFacets,
    SetFieldRule,
    SetLimit,
    SetReach,
    apply,
)

NEW = "advised"
"""How the id of an entry begins that a way would make."""

_WHOLE = {"see-field": "see", "fill-field": "create"}
_STEPS = ("active", "bars", "grants", "own-limits", "locks", "field", "component", "facet")
_OBSTACLES = 5
"""So many obstacles are ended together, one after another."""
_ROLES = 8
"""So many roles that are not held are offered: those that say least."""


def ways(engine: Engine, question: Question) -> list[Way]:
    """The smallest changes that turn a no at the time it names, those that reach least for others first.

    None for a yes, for what is barred, and for an account that is not active. The cost is some tens of decisions.
    """
    decision = engine.decide(question, trail=True)
    if decision.allow or decision.reason in (Reason.INACTIVE, Reason.BARRED):
        return []
    near = _of_one(engine, question)
    search, found = _Search(near, question), list[Way]()
    for turning in search.ways(near, decision, (), "", _OBSTACLES):
        way = search.smallest(_folded(turning, engine.policy))
        if way not in found:
            found.append(way)
    return sorted(found, key=lambda way: reach_of(way, engine))


def _of_one(engine: Engine, question: Question) -> Engine:
    """An engine with nothing given but what counts for whoever is asked about: many policies of it are cheap to try."""
    if question.action in OVER_ALL_NODES:
        return engine
    assert question.at is not None
    policy, who = engine.policy, question.who
    account = policy.accounts.get(who) if isinstance(who, str) else None
    mine = {*map(Subject.group, policy.all_groups(account)), Subject.account(account.id)} if account else set()
    if isinstance(who, HypotheticalSubject):
        mine = {Subject.group(above) for group in who.groups for above in policy.group_chain(group)}
    assignments = {id: a for id, a in policy.assignments.items() if a.to in mine}
    direct = {id: d for id, d in policy.direct_grants.items() if d.to in mine}
    return engine.changed(replace(policy, assignments=assignments, direct_grants=direct))


def limited_action(question: Question) -> str:
    """The action that a limit must name to narrow what is asked (§4)."""
    action = question.action
    return _WHOLE.get(action, "edit") if action in PART_ACTIONS else action


@dataclass(frozen=True, slots=True)
class _Family:
    """Changes that differ only in how far they go, from short to long."""

    name: str
    ways: Iterable[Way]


class _Search:
    def __init__(self, engine: Engine, question: Question) -> None:
        self.engine, self.question = engine, question
        who = question.who
        self.account: Account | None = engine.policy.accounts.get(who) if isinstance(who, str) else None
        assert question.at is not None
        self.at: datetime = question.at

    def ways(self, engine: Engine, decision: Decision, done: Way, by: str, left: int) -> Iterator[Way]:
        """All that turns the answer from here on; `by` is the family that ended the last failing of grants."""
        if decision.allow:
            yield done
            return
        if not decision.trail or left == 0:
            return
        failing = decision.trail[-1]
        for family in self._families(engine, failing, by):
            for operations in family.ways:
                after = engine.changed(apply(engine.policy, operations))
                then = after.decide(self.question, trail=True)
                if _further(decision, then):
                    named = family.name if failing.step == "grants" else by
                    yield from self.ways(after, then, done + operations, named, left - 1)
                    break

    def smallest(self, way: Way) -> Way:
        """The same without what it does not need, and no longer than it must be.

        What keeps closed what was closed before stays.
        """
        for at, one in enumerate(way):
            before, after = way[:at], way[at + 1 :]
            less = [] if _closes(one) or len(way) == 1 else [(*before, *after)]
            less += [(*before, shorter, *after) for shorter in self._shorter(one)]
            for other in less:
                if self.engine.changed(apply(self.engine.policy, other)).decide(self.question).allow:
                    return self.smallest(other)
        return way

    def _shorter(self, operation: Operation) -> Iterator[Operation]:
        """What gives the same to a shorter extent, from the shortest."""
        policy = self.engine.policy
        if isinstance(operation, SetAnswer):
            for word in _giving(policy, operation.capability):
                if _extent(word) < _extent(operation.says or ""):
                    yield replace(operation, says=word)
        elif isinstance(operation, GiveCapability) and operation.grant.id not in policy.direct_grants:
            for word in _giving(policy, operation.grant.capability):
                if _extent(word) < _extent(operation.grant.says):
                    yield GiveCapability(replace(operation.grant, says=word))

    def _families(self, engine: Engine, failing: TrailStep, by: str) -> Iterator[_Family]:
        """What could end one failing step. Grants that fail a second time are ended as they were the first time."""
        if failing.step == "grants":
            yield from (f for f in self._grants(engine, failing) if not by or f.name == by)
        elif failing.step == "own-limits":
            yield from self._own_limits(engine, failing)
        elif failing.step == "locks":
            yield _Family("", [tuple(OpenLock(f.id) for f in failing.findings)])
            yield self._direct(engine, LOCKS_OPEN)
        elif failing.step == "field":
            yield from self._field(engine)
        elif failing.step in ("component", "facet"):
            yield from self._component(engine, failing)

    # -- step 4 ------------------------------------------------------------------------------------

    def _grants(self, engine: Engine, failing: TrailStep) -> Iterator[_Family]:
        capability = failing.capability or ""
        yield self._direct(engine, capability)
        held = engine.grants.of(self.question.who, self.at).sources
        for source in held:
            if source.kind != "baseline" or self.account is None:
                yield _Family(f"source {source.id}", self._raised(engine, source, capability))
        yield from self._roles(engine, capability, {source.role for source in held})

    def _direct(self, engine: Engine, capability: str) -> _Family:
        """What is missing, given to this person here."""
        if self.account is None:
            return _Family("direct", ())
        to, id = Subject.account(self.account.id), fresh(engine.policy)
        return _Family(
            "direct",
            (
                (GiveCapability(DirectGrant(id, to, capability, word, scope)),)
                for word in _giving(engine.policy, capability)
                for scope in self._here(capability, engine.policy)
            ),
        )

    def _here(self, capability: str, policy: Policy) -> list[Scope]:
        """The smallest scopes that could cover what is asked."""
        if policy.kind(capability) is Kind.SITEWIDE and self.question.site is not None:
            return [Scope(sites=frozenset({self.question.site}))]
        places = [target.path[-1] for target in self._targets if target.path]
        return [Scope(branches=frozenset({place})) for place in places] or [ANYWHERE]

    @property
    def _targets(self) -> list[Target]:
        return [target for target in (self.question.target, self.question.to) if target is not None]

    def _raised(self, engine: Engine, source: GrantSource, capability: str) -> Iterator[Way]:
        """What brings a source that is held to the top: a longer answer, a wider scope, limits lifted for it."""
        said = source.statements.get(capability)
        answers: list[Way] = [()]
        if source.role is not None:
            longer = [w for w in _giving(engine.policy, capability) if said is None or _extent(w) > said.extent]
            answers += [(SetAnswer(source.role, capability, word),) for word in longer]
        for answer in answers:
            way = self._cleared(engine, source, capability, answer)
            if way:
                yield way

    def _cleared(self, engine: Engine, source: GrantSource, capability: str, way: Way) -> Way | None:
        """A way gone on until nothing holds the source back any more; None where it stays too short."""
        for _ in range(_OBSTACLES):
            after = engine.changed(apply(engine.policy, way))
            steps = after.decide(self.question, trail=True).trail
            held = [
                f
                for step in steps
                if step.step == "grants" and step.capability == capability
                for f in step.findings
                if f.id == source.id
            ]
            if not held:
                return None
            finding = held[-1]
            if finding.reason is Reason.ALLOWED:
                return way
            if finding.reason is Reason.OUT_OF_SCOPE:
                wider = self._wider(after.policy, source.id)
            elif finding.reason is Reason.STOPPED:
                wider = next(iter(self._unlimited(after, finding.limits)), ())
            else:
                return None
            if not wider:
                return None
            way += wider
        return None

    def _wider(self, policy: Policy, id: str) -> Way:
        given = policy.assignments.get(id) or policy.direct_grants.get(id)
        if given is None:
            return ()
        scope = given.scope
        for target in self._targets:
            if target.path and not _covers(scope, target):
                scope = _reaching(scope, target)
                break
        else:
            scope = ANYWHERE
        changed = replace(given, scope=scope)
        return (GiveRole(changed) if isinstance(changed, Assignment) else GiveCapability(changed),)

    def _roles(self, engine: Engine, capability: str, held: set[str | None]) -> Iterator[_Family]:
        """Roles that are not held, here or else everywhere."""
        if self.account is None:
            return
        policy, to = engine.policy, Subject.account(self.account.id)
        giving = [
            (len(engine.grants.statements(role)), role)
            for role in policy.roles
            if role not in held
            and role not in policy.baseline
            and (said := engine.grants.statements(role).get(capability)) is not None
            and said.extent is not Extent.NONE
        ]
        id = fresh(policy)
        for _, role in sorted(giving)[:_ROLES]:
            scopes = dict.fromkeys([*self._here(capability, policy), ANYWHERE])
            yield _Family(f"role {role}", [(GiveRole(Assignment(id, role, to, scope)),) for scope in scopes])

    # -- the other steps -----------------------------------------------------------------------------

    def _own_limits(self, engine: Engine, failing: TrailStep) -> Iterator[_Family]:
        [finding] = failing.findings
        if finding.what != "reach":
            yield _Family("", self._unlimited(engine, finding.limits))
            return
        for target in self._targets:
            reach = engine.policy.accounts[finding.id].reach.get(target.tree or "")
            if reach is not None:
                wider = reach | {target.path[-1]}
                yield _Family("", [(SetReach(finding.id, target.tree or "", wider),)])

    def _unlimited(self, engine: Engine, limits: Iterable[str]) -> Iterator[Way]:
        """Limits in force ended for what is asked: here if that is enough, else beneath too, else wholly."""
        every = [engine.policy.limits[id] for id in dict.fromkeys(limits)]
        whole = self.question.action in WHOLE_BRANCH
        for beneath in (False, True) if whole else (False,):
            yield self._let_go(every, engine.policy, beneath)
        yield tuple(DropLimit(limit.id) for limit in every)

    def _let_go(self, limits: list[Limit], policy: Policy, beneath: bool) -> Way:
        """Limits from further up lifted here, those of this place without what is asked; `beneath` as well, or not."""
        action, target = limited_action(self.question), self.question.target
        lifted: set[Subject] = set()
        way: Way = ()
        for limit in limits:
            if target is None or limit.node not in target.path[:-1]:
                way += _without(limit, action, policy, len(way), beneath)
            elif limit.to not in lifted:
                lifted.add(limit.to)
                applies: Applies = "beneath" if target.id is None else "branch" if beneath else "node"
                id, actions = fresh(policy, len(way)), frozenset({action})
                way += (SetLimit(Limit(id, target.path[-1], limit.to, Effect.LIFT, applies, actions)),)
        return way

    def _field(self, engine: Engine) -> Iterator[_Family]:
        q, policy = self.question, engine.policy
        if q.target is None or q.field is None:
            return
        rule = policy.fields.get((q.target.type, q.field), OPEN_FIELD)
        if rule.mode == "author":
            yield self._direct(engine, FIELDS_PRIVATE)
            return
        verb = q.action.removesuffix("-field")
        marks = ["fill"] if verb == "fill" else [f"{verb}-own", f"{verb}-all"]
        sources = engine.grants.of(q.who, self.at).sources
        held = [s.role for s in sources if s.role is not None and (s.kind != "baseline" or self.account is None)]
        for role in dict.fromkeys(held):
            rows = [{**rule.table, role: rule.table.get(role, frozenset()) | {mark}} for mark in marks]
            yield _Family("", [(SetFieldRule(q.target.type, q.field, replace(rule, table=table)),) for table in rows])

    def _component(self, engine: Engine, failing: TrailStep) -> Iterator[_Family]:
        """One facet of one component, or one component more, for a role that gives the edit; or the edit itself."""
        q, policy = self.question, engine.policy
        component, facet = q.component or "", q.facet
        for role in dict.fromkeys(f.role for f in failing.findings if f.role is not None):
            chain = policy.role_chain(role)
            if failing.step == "facet" and facet is not None:
                said = next(
                    (s for key in chain if (s := policy.roles[key].facets.get(component)) is not None), frozenset()
                )
                yield _Family("", [(SetFacets(role, component, said | {facet}),)])
            else:
                listed = next((s for key in chain if (s := policy.roles[key].components) is not None), frozenset())
                yield _Family("", [(SetComponents(role, listed | {component}),)])
        yield self._direct(engine, failing.capability or "")


def _folded(way: Way, policy: Policy) -> Way:
    """The same, saying one thing of each part: what is made and dropped again is not made."""
    last = {operation.part: operation for operation in way}
    made_to_drop = [part for part, one in last.items() if isinstance(one, DropLimit) and one.id not in policy.limits]
    return tuple(operation for part, operation in last.items() if part not in made_to_drop)


def _closes(operation: Operation) -> bool:
    return isinstance(operation, SetLimit) and operation.limit.effect is not Effect.LIFT


def _further(was: Decision, now: Decision) -> bool:
    """Whether an answer fails later than before, or fails by less."""
    if now.allow or not now.trail:
        return now.allow
    if now.reason is Reason.BARRED:
        return False
    before, after = was.trail[-1], now.trail[-1]
    then, at = (len(was.trail), _place(before)), (len(now.trail), _place(after))
    return at > then or (at == then and _named(after.findings) < _named(before.findings))


def _place(step: TrailStep) -> int:
    return _STEPS.index(step.step) if step.step in _STEPS else len(_STEPS)


def _named(findings: Iterable[Finding]) -> set[str]:
    """The limits and locks in the way."""
    findings = list(findings)
    return {id for f in findings for id in f.limits} | {f.id for f in findings if f.what == "lock"}


def _giving(policy: Policy, capability: str) -> list[str]:
    """The words by which a capability is given, from short to long."""
    return [word for word in SAYS[policy.kind(capability)] if word in ("own", "team", "all", "yes")]


def _extent(word: str) -> Extent:
    return Extent.ALL if word == "yes" else Extent[word.upper()]


def fresh(policy: Policy, used: int = 0) -> str:
    """An id that no entry has, and none of so many that are about to be made."""
    taken = {*policy.assignments, *policy.direct_grants, *policy.limits}
    count = 0
    for id in (NEW if n == 0 else f"{NEW}-{n}" for n in range(len(taken) + used + 1)):
        if id not in taken:
            if count == used:
                return id
            count += 1
    raise AssertionError("there are more ids than entries")


def _covers(scope: Scope, target: Target) -> bool:
    return scope.covers(site=target.site, path=target.path, type=target.type, topics=target.topics)


def _reaching(scope: Scope, target: Target) -> Scope:
    """A scope widened, list by list, just so far that it covers a target."""
    topics = scope.topics
    if topics is not None and topics.isdisjoint(target.topics):
        topics = topics | target.topics if target.topics else None
    branches = scope.branches
    if branches is not None and branches.isdisjoint(target.path):
        branches = branches | {target.path[-1]}
    return Scope(
        None if scope.sites is None or target.site is None else scope.sites | {target.site},
        branches,
        None if scope.types is None else scope.types | {target.type},
        topics,
    )


def _without(limit: Limit, action: str, policy: Policy, used: int, beneath: bool) -> Way:
    """A limit that says nothing of an action on its own node any more, and goes on saying it beneath or not."""
    every = limit.actions if limit.actions is not None else frozenset((*ACTIONS, *policy.placed))
    rest, stays = every - {action}, limit.applies == "branch" and action != "create" and not beneath
    if not rest:
        return (SetLimit(replace(limit, applies="beneath")) if stays else DropLimit(limit.id),)
    less = SetLimit(replace(limit, actions=rest))
    kept = replace(limit, id=fresh(policy, used), applies="beneath", actions=frozenset({action}))
    return (less, SetLimit(kept)) if stays else (less,)
