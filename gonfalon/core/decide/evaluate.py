"""One decision, from its first step to its last, each step told where somebody asks for it (§4, §5, §6).

    evaluator = Evaluator(policy, tree, grants, limits)
    evaluator.reason(Question("ada", "edit", tree.target("n2")))     # Reason.LOCKED
    evaluator.on_node(subject, "edit", location)                     # the same once both are known

Everything that decides about one node at a time asks here; `bulk` answers the same for many at once.
"""

from collections.abc import Callable, Iterable
from datetime import UTC, datetime
from typing import NamedTuple

from gonfalon.core.decide.grants import (
    GrantSource,
    SubjectGrantsCache,
    allows_component,
    allows_facet,
    capability_of,
    gives,
)
from gonfalon.core.decide.limits import LimitIndex
from gonfalon.core.decide.location import Location, PathLocation, TreeLocation
from gonfalon.core.decide.subject import CompiledSource, CompiledSubject, Compiler
from gonfalon.core.model.policy import OPEN_FIELD, Lock, Policy, Subject
from gonfalon.core.model.question import Finding, NotInTree, Question, TrailStep, Who
from gonfalon.core.model.tree import Tree
from gonfalon.core.model.vocabulary import (
    BARRED,
    CHANGING,
    COMPONENT_ACTIONS,
    FIELDS_PRIVATE,
    LOCKS_OPEN,
    PART_ACTIONS,
    PROFILE,
    WHOLE_BRANCH,
    Effect,
    Extent,
    Kind,
    Reason,
)

_RUNGS = (Reason.NOT_GRANTED, Reason.OUT_OF_SCOPE, Reason.OUT_OF_EXTENT, Reason.STOPPED, Reason.ALLOWED)
"""The rungs of step 4, by how far up a source came."""
_OUT_OF_SCOPE, _OUT_OF_EXTENT, _STOPPED, _TOP = 1, 2, 3, 4
_ALL, _OWN = int(Extent.ALL), int(Extent.OWN)

Trail = list[TrailStep] | None
"""Where steps are told, or None when nobody asked for them."""


class Asks(NamedTuple):
    """What an action asks of a node: a capability, another one of what is published, and whether locks close it."""

    capability: str
    live: str | None
    changing: bool


class Evaluator:
    """Decides under one policy. Keeps what it compiles of subjects and nodes; safe to share between threads."""

    def __init__(self, policy: Policy, tree: Tree, grants: SubjectGrantsCache, limits: LimitIndex) -> None:
        """`tree` is asked where the rules ask about what lies beneath; nodes may come with a path of their own."""
        self.policy, self.tree, self.grants = policy, tree, grants
        self._compiler = Compiler(limits, tree)
        self._subjects: dict[Who, CompiledSubject] = {}
        self._locations: dict[str, TreeLocation] = {}
        self._asks: dict[tuple[str, str, bool], Asks] = {}
        self._locks: dict[str, list[Lock]] = {}
        for lock in policy.locks.values():
            self._locks.setdefault(lock.node, []).append(lock)

    def subject(self, who: Who, at: datetime | None = None) -> CompiledSubject:
        """Somebody as they stand at a time (None: now). KeyError if there is no such account or role."""
        subject = self._subjects.get(who)
        if subject is None or subject.changes:
            at = at or datetime.now(UTC)
            if subject is None or not subject.grants.holds_at(at):
                subject = self._subjects[who] = CompiledSubject(self.grants.of(who, at), self._compiler)
        return subject

    def location(self, id: str) -> TreeLocation:
        """A node of the tree. KeyError if there is none with this id."""
        location = self._locations.get(id)
        if location is None:
            location = self._locations[id] = TreeLocation(self.tree.index[id], self.tree)
        return location

    # -- which question is it ------------------------------------------------------------------

    def reason(self, q: Question, trail: Trail = None) -> Reason:
        """The answer to a question; each step taken is told in `trail`, if there is one.

        KeyError for an unknown account or role; NotInTree where the rules ask about what is beneath a node that the
        tree does not hold; ValueError for an action on a node that names none. Standing in is `bulk.impersonation`'s.
        """
        who = self.subject(q.who, q.at)
        if q.action in PART_ACTIONS:
            return self._part(who, q, trail)
        if "." in q.action and self.policy.kind(q.action) in (Kind.OPENING, Kind.SITEWIDE):
            return self._plain(who, q.action, q.site, trail)
        at = _located(q)
        leaf = q.target is not None and q.target.leaf
        reason = (self.on_node if leaf else self.with_all_beneath)(who, q.action, at, trail)
        if reason is not Reason.ALLOWED or q.target is None:
            return reason
        if q.topics is not None and q.action == "edit":
            return self.on_node(who, q.action, PathLocation(q.target.with_topics(q.topics)), trail)
        if q.to is not None:
            return self.on_node(who, "create", PathLocation(q.to.child(at.type, at.topics)), trail)
        return Reason.ALLOWED

    def with_all_beneath(self, who: CompiledSubject, action: str, at: Location, trail: Trail = None) -> Reason:
        """An action on a node and, where it is one on a whole branch, the same on every node beneath it (§4)."""
        reason = self.on_node(who, action, at, trail)
        if action not in WHOLE_BRANCH or reason is not Reason.ALLOWED or at.profile or who.decided is not None:
            return reason
        if at.id not in self.tree.index:
            raise NotInTree(action, at.id)
        for node in self.tree.beneath(at.id):
            reason = self.on_node(who, action, self.location(node.id), trail)
            if reason is not Reason.ALLOWED:
                break
        return reason

    def on_node(self, who: CompiledSubject, action: str, at: Location, trail: Trail = None) -> Reason:
        """Steps 1 to 7 for an action on one node or profile, whatever lies beneath it."""
        if who.decided is not None:
            return _first_steps(who, trail)
        asks = self._asks.get((action, at.type, at.published))
        if asks is None:
            asks = self._asks[action, at.type, at.published] = _asks(action, at)
        reason = self._granted(who, asks.capability, action, at, trail)
        if reason is Reason.ALLOWED and asks.live is not None:
            reason = self._granted(who, asks.live, action, at, trail, live=True)
        if reason is Reason.ALLOWED and asks.changing and at.id in self._locks:
            return self._locks_pass(who, at, _whole, trail)
        return reason

    def _plain(self, who: CompiledSubject, capability: str, site: str | None, trail: Trail) -> Reason:
        """Steps 1 to 4 for `sitewide` and `opening` capabilities: no extents, no limits."""
        if who.decided is not None:
            return _first_steps(who, trail)
        opening = self.policy.kind(capability) is Kind.OPENING
        bars, climbs, best = [], [], 0
        for source in who.grants.sources:
            if capability not in source.statements:
                continue
            says = source.statements[capability].says
            barring = says == BARRED
            covered = opening or source.scope.covers_sitewide(site, barring=barring)
            if barring and covered:
                bars.append(_finding(source, capability, Reason.BARRED))
            rung = 0 if not gives(says) else _TOP if covered else _OUT_OF_SCOPE
            best = max(best, rung)
            climbs.append(_finding(source, capability, _RUNGS[rung]))
        _tell(trail, "bars", capability, not bars, bars)
        if bars:
            return Reason.BARRED
        _tell(trail, "grants", capability, best == _TOP, climbs)
        return _RUNGS[best]

    # -- the steps of §4 -----------------------------------------------------------------------

    def _granted(
        self, who: CompiledSubject, capability: str, action: str, at: Location, trail: Trail, *, live: bool = False
    ) -> Reason:
        """Steps 3 to 5 for one capability. A failure of step 4 for `edit-live` answers `live`."""
        if (who.barring or who.limit_bars) and self._barred(who, capability, action, at, trail):
            return Reason.BARRED
        if trail is not None:
            trail.append(TrailStep("bars", capability, True))
        best = 0
        findings: list[Finding] = []
        for compiled in who.sources:
            if capability in compiled.extents:
                rung = self._rung(who, compiled, compiled.extents[capability], action, at)
                if rung > best:
                    best = rung
                if rung == _TOP and trail is None:
                    break
            elif trail is None or capability not in compiled.source.statements:
                continue
            else:
                rung = 0
            if trail is not None:
                findings.append(_climbed(compiled, rung, capability, action, at))
        if trail is not None:
            trail.append(TrailStep("grants", capability, best == _TOP, tuple(findings)))
        if best != _TOP:
            return Reason.LIVE if live else _RUNGS[best]
        if who.own is not None or who.reach:
            return self._own_limits(who, capability, action, at, trail)
        return Reason.ALLOWED

    def _barred(self, who: CompiledSubject, capability: str, action: str, at: Location, trail: Trail) -> bool:
        """Step 3: whether a source that covers the place bars it, or a limit in force does."""
        findings: dict[Finding, None] = {}
        for compiled in who.barring:
            if capability in compiled.barred and (compiled.scope is None or compiled.scope.covers(at)):
                if trail is None:
                    return True
                findings[_finding(compiled.source, capability, Reason.BARRED)] = None
        if who.limit_bars and not at.profile and at.on_barred_branch(who.barred_branches):
            for limited, scope in who.limit_bars:
                if (scope is None or scope.covers(at)) and at.narrowed(limited, Effect.BAR, action):
                    if trail is None:
                        return True
                    forces = limited.forces(Effect.BAR, action, at)
                    findings |= dict.fromkeys(_limit_finding(subject, force.limits) for subject, force in forces)
        if findings:
            _tell(trail, "bars", capability, False, findings)
        return bool(findings)

    def _rung(self, who: CompiledSubject, compiled: CompiledSource, extent: int, action: str, at: Location) -> int:
        """How far up the rungs of step 4 a source comes that gives something to an extent."""
        if compiled.scope is not None and not compiled.scope.covers(at):
            return _OUT_OF_SCOPE
        if extent != _ALL and action != "create" and not self._extent_covers(who, extent, at):
            return _OUT_OF_EXTENT
        if compiled.limited is not None and not at.profile and at.narrowed(compiled.limited, Effect.STOP, action):
            return _STOPPED
        return _TOP

    def _extent_covers(self, who: CompiledSubject, extent: int, at: Location) -> bool:
        if self._is_author(who, at):
            return True
        account = who.grants.account
        if extent == _OWN or at.author is None or account is None:
            return False
        author = self.policy.accounts.get(at.author)
        return author is not None and not author.groups.isdisjoint(account.groups)

    def _is_author(self, who: CompiledSubject, at: Location) -> bool:
        if who.grants.as_author:
            return at.id is not None
        return at.author is not None and at.author == who.grants.id

    def _own_limits(self, who: CompiledSubject, capability: str, action: str, at: Location, trail: Trail) -> Reason:
        """Step 5: a stop on the account itself, then its reach."""
        account = who.grants.account
        if account is None or at.profile:
            return Reason.ALLOWED
        if who.own is not None and at.narrowed(who.own, Effect.STOP, action):
            if trail is not None:
                [(_, force)] = who.own.forces(Effect.STOP, action, at)
                _tell(trail, "own-limits", capability, False, [Finding("own-limit", account.id, limits=force.limits)])
            return Reason.STOPPED
        branches = who.reach.get(at.tree or "")
        if branches is None or at.within(branches):
            return Reason.ALLOWED
        _tell(trail, "own-limits", capability, False, [Finding("reach", account.id)])
        return Reason.OUT_OF_REACH

    def _locks_pass(self, who: CompiledSubject, at: Location, closes: Callable[[Lock], bool], trail: Trail) -> Reason:
        """Step 6, and the part locks of §5: a lock that applies and that `who` may not open."""
        locks = [lock for lock in self._locks.get(at.id or "", ()) if closes(lock)]
        if not locks or self._granted(who, LOCKS_OPEN, LOCKS_OPEN, at, None) is Reason.ALLOWED:
            return Reason.ALLOWED
        _tell(trail, "locks", LOCKS_OPEN, False, [Finding("lock", lock.id) for lock in locks])
        return Reason.LOCKED

    # -- parts of a node, §5 -------------------------------------------------------------------

    def _part(self, who: CompiledSubject, q: Question, trail: Trail) -> Reason:
        at = _located(q)
        reason = self.on_node(who, _WHOLE_ACTION.get(q.action, "edit"), at, trail)
        if reason is not Reason.ALLOWED or who.grants.keyholder:
            return reason
        if q.action in COMPONENT_ACTIONS:
            return self._component(who, q, at, trail)
        if q.action == "change-field" and not at.profile:
            reason = self._locks_pass(who, at, lambda lock: lock.field == q.field, trail)
            if reason is not Reason.ALLOWED:
                return reason
        if self._field_passes(who, at, q.field or "", q.action.removesuffix("-field")):
            return Reason.ALLOWED
        _tell(trail, "field", None, False, [Finding("field", f"{at.type}.{q.field}")])
        return Reason.FIELD

    def _field_passes(self, who: CompiledSubject, at: Location, field: str, verb: str) -> bool:
        rule = self.policy.fields.get((at.type, field), OPEN_FIELD)
        if rule.mode == "open":
            return True
        author = self._is_author(who, at)
        if rule.mode == "author":
            private = FIELDS_PRIVATE
            return verb == "fill" or author or self._granted(who, private, private, at, None) is Reason.ALLOWED
        wanted = {"fill"} if verb == "fill" else {f"{verb}-all", f"{verb}-own"} if author else {f"{verb}-all"}
        return any(
            not wanted.isdisjoint(rule.table.get(key, ()))
            for compiled in who.sources
            if compiled.scope is None or compiled.scope.covers(at)
            for key in compiled.source.roles
        )

    def _component(self, who: CompiledSubject, q: Question, at: Location, trail: Trail) -> Reason:
        component, capability = q.component or "", f"{at.type}.edit"
        if q.action != "insert-component" and q.component_id is not None and not at.profile:
            reason = self._locks_pass(who, at, lambda lock: lock.component == q.component_id, trail)
            if reason is not Reason.ALLOWED:
                return reason
        giving = [
            compiled.source
            for compiled in who.sources
            if (extent := compiled.extents.get(capability)) is not None
            and self._rung(who, compiled, extent, "edit", at) == _TOP
        ]
        if q.action != "change-facet":
            if any(allows_component(self.policy, source.roles, component) for source in giving):
                return Reason.ALLOWED
            found = [Finding("component", component, role=source.role) for source in giving]
            _tell(trail, "component", capability, False, found)
            return Reason.COMPONENT
        if any(allows_facet(self.policy, source.roles, component, q.facet or "") for source in giving):
            return Reason.ALLOWED
        found = [Finding("facet", f"{component}.{q.facet}", role=source.role) for source in giving]
        _tell(trail, "facet", capability, False, found)
        return Reason.FACET


_WHOLE_ACTION = {"see-field": "see", "fill-field": "create"}
"""The action on the node that one on a part of it asks first, where that is not `edit`."""


def _located(q: Question) -> PathLocation:
    if q.target is None:
        raise ValueError(f"{q.action} needs a target")
    return PathLocation(q.target)


def _asks(action: str, at: Location) -> Asks:
    capability = capability_of(action, at.type, "published" if at.published else "draft")
    live = f"{at.type}.edit-live" if action == "edit" and at.published and at.type != PROFILE else None
    return Asks(capability, live, action in CHANGING and at.type != PROFILE)


def _whole(lock: Lock) -> bool:
    return lock.field is None and lock.component is None


def _first_steps(who: CompiledSubject, trail: Trail) -> Reason:
    """Steps 1 and 2, where they decide."""
    if who.decided is Reason.INACTIVE:
        _tell(trail, "active", None, False)
        return Reason.INACTIVE
    _tell(trail, "keyholder", None, True)
    return Reason.ALLOWED


def _tell(trail: Trail, step: str, capability: str | None, passed: bool, findings: Iterable[Finding] = ()) -> None:
    if trail is not None:
        trail.append(TrailStep(step, capability, passed, tuple(findings)))


def _climbed(compiled: CompiledSource, rung: int, capability: str, action: str, at: Location) -> Finding:
    """How far up a source came, with the limits that stopped it."""
    stops = compiled.limited.forces(Effect.STOP, action, at) if compiled.limited and rung == _STOPPED else ()
    limits = tuple(id for _, force in stops for id in force.limits)
    return _finding(compiled.source, capability, _RUNGS[rung], limits)


def _limit_finding(subject: Subject, limits: tuple[str, ...]) -> Finding:
    role = subject.id if subject.kind == "role" else None
    group = subject.id if subject.kind == "group" else None
    return Finding("bar", subject.id, role=role, group=group, limits=limits)


def _finding(source: GrantSource, capability: str, reason: Reason, limits: tuple[str, ...] = ()) -> Finding:
    statement = source.statements.get(capability)
    return Finding(
        "source",
        source.id,
        role=source.role,
        group=source.groups[0].id if source.groups else None,
        says=statement.says if statement else None,
        said_by=statement.said_by if statement else None,
        reason=reason,
        limits=limits,
    )
