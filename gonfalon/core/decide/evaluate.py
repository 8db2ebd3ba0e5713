"""The steps of one decision, each told where somebody asks for them (§4, §5, §6, §7).

steps = LimitIntervals(policy, tree, holdings, limits)
steps.reason(question, who, at, trail)
"""

from collections.abc import Callable, Iterable
from datetime import datetime

from gonfalon.core.decide.grants import (
    GrantSource,
    SubjectGrants,
    SubjectGrantsCache,
    allows_component,
    allows_facet,
    capability_of,
    gives,
)
from gonfalon.core.decide.impersonation import exceeds
from gonfalon.core.decide.limits import InForce, LimitIndex
from gonfalon.core.model.policy import OPEN_FIELD, Lock, Policy, Subject
from gonfalon.core.model.question import Finding, Question, Step
from gonfalon.core.model.tree import Target, Tree
from gonfalon.core.model.vocabulary import (
    BARRED,
    CHANGING,
    FIELDS_PRIVATE,
    LOCKS_OPEN,
    PART_ACTIONS,
    STAND_IN,
    STAND_IN_ACTION,
    WHOLE_BRANCH,
    Effect,
    Extent,
    Kind,
    Reason,
)

_RUNGS = (Reason.NOT_GRANTED, Reason.OUT_OF_SCOPE, Reason.OUT_OF_EXTENT, Reason.STOPPED, Reason.ALLOWED)
_TOP = len(_RUNGS) - 1

Trail = list[Step] | None
"""Where steps are told, or None when nobody asked for them."""


class LimitIntervals:
    """The steps under one policy, over one tree."""

    def __init__(self, policy: Policy, tree: Tree, holdings: SubjectGrantsCache, limits: LimitIndex) -> None:
        self.policy, self.tree, self.grants, self.limits = policy, tree, holdings, limits
        self._locks: dict[str, list[Lock]] = {}
        for lock in policy.locks.values():
            self._locks.setdefault(lock.node, []).append(lock)

    # -- which question is it ------------------------------------------------------------------

    def reason(self, q: Question, who: SubjectGrants, at: datetime, trail: Trail) -> Reason:
        """The answer to a question that `who` asks at a time; each step taken is told in `trail`, if there is one."""
        if q.action in PART_ACTIONS:
            return self._part(q, who, trail)
        if q.action == STAND_IN_ACTION:
            return self._stand_in(q, who, at, trail)
        kind = self.policy.kind(q.action) if "." in q.action else Kind.GRADED
        if kind in (Kind.OPENING, Kind.SITEWIDE):
            return self._plain(who, q.action, q.site, trail)
        if q.target is None:
            raise ValueError(f"{q.action} needs a target")
        reason = self._on_node(who, q.action, q.target, trail)
        if reason is not Reason.ALLOWED:
            return reason
        if q.action in WHOLE_BRANCH and not q.target.profile and q.target.id in self.tree:
            for node in self.tree.beneath(q.target.path[-1]):
                reason = self._on_node(who, q.action, self.tree.target(node.id), trail)
                if reason is not Reason.ALLOWED:
                    return reason
        if q.topics is not None and q.action == "edit":
            return self._on_node(who, q.action, q.target.with_topics(q.topics), trail)
        if q.to is not None:
            return self._on_node(who, "create", q.to.child(q.target.type, q.target.topics), trail)
        return Reason.ALLOWED

    def _stand_in(self, q: Question, actor: SubjectGrants, at: datetime, trail: Trail) -> Reason:
        """Whether one may stand in for another (§7)."""
        reason = self._plain(actor, STAND_IN, None, trail)
        if reason is not Reason.ALLOWED:
            return reason
        other = self.grants.of(q.subject, at)
        if not other.active:
            return Reason.INACTIVE
        themselves = isinstance(q.who, str) and q.who == q.subject
        if themselves or (not actor.keyholder and exceeds(self.policy, actor, other)):
            _tell(trail, "beyond", STAND_IN, False)
            return Reason.BEYOND
        return Reason.ALLOWED

    def _on_node(self, who: SubjectGrants, action: str, target: Target, trail: Trail) -> Reason:
        """Steps 1 to 7 for an action on a node or profile."""
        early = self._first_steps(who, trail)
        if early is not None:
            return early
        reason = self._granted(who, capability_of(action, target.type, target.state), action, target, trail)
        if reason is not Reason.ALLOWED:
            return reason
        if action == "edit" and target.state == "published" and not target.profile:
            reason = self._granted(who, f"{target.type}.edit-live", action, target, trail, live=True)
            if reason is not Reason.ALLOWED:
                return reason
        if action in CHANGING and not target.profile:
            return self._locks_pass(who, target, lambda k: k.field is None and k.component is None, trail)
        return Reason.ALLOWED

    def _plain(self, who: SubjectGrants, capability: str, site: str | None, trail: Trail) -> Reason:
        """Steps 1 to 4 for `sitewide` and `opening` capabilities: no extents, no limits (§4)."""
        early = self._first_steps(who, trail)
        if early is not None:
            return early
        opening = self.policy.kind(capability) is Kind.OPENING
        bars, climbs, best = [], [], 0
        for source in who.sources:
            answer = source.answers.get(capability)
            if answer is None:
                continue
            barring = answer.says == BARRED
            covered = opening or source.scope.covers_sitewide(site, barring=barring)
            if barring and covered:
                bars.append(_finding(source, capability, Reason.BARRED))
            rung = 0 if not gives(answer.says) else _TOP if covered else 1
            best = max(best, rung)
            climbs.append(_finding(source, capability, _RUNGS[rung]))
        _tell(trail, "bars", capability, not bars, bars)
        if bars:
            return Reason.BARRED
        _tell(trail, "grants", capability, best == _TOP, climbs)
        return _RUNGS[best]

    # -- the steps of §4 -----------------------------------------------------------------------

    def _first_steps(self, who: SubjectGrants, trail: Trail) -> Reason | None:
        if not who.active:
            _tell(trail, "active", None, False)
            return Reason.INACTIVE
        if who.keyholder:
            _tell(trail, "keyholder", None, True)
            return Reason.ALLOWED
        return None

    def _granted(
        self,
        who: SubjectGrants,
        capability: str,
        action: str,
        target: Target,
        trail: Trail,
        *,
        live: bool = False,
    ) -> Reason:
        """Steps 3 to 5 for one capability. A failure of step 4 for `edit-live` answers `live`."""
        climbed = [(source, _covers(source, target)) for source in who.sources]
        bars = self._bars(who, [s for s, covered in climbed if covered], capability, action, target)
        _tell(trail, "bars", capability, not bars, bars)
        if bars:
            return Reason.BARRED

        best, findings = 0, []
        for source, covered in climbed:
            rung, stops = self._climb(who, source, covered, capability, action, target)
            best = max(best, rung)
            if trail is None and best == _TOP:
                break
            if trail is not None and capability in source.answers:
                findings.append(_finding(source, capability, _RUNGS[rung], stops))
        _tell(trail, "grants", capability, best == _TOP, findings)
        if best != _TOP:
            return Reason.LIVE if live else _RUNGS[best]
        return self._own_limits(who, capability, action, target, trail)

    def _bars(
        self, who: SubjectGrants, kept: list[GrantSource], capability: str, action: str, target: Target
    ) -> list[Finding]:
        found = [
            _finding(source, capability, Reason.BARRED)
            for source in kept
            if capability in source.answers and source.answers[capability].says == BARRED
        ]
        if target.profile:
            return found
        subjects = dict.fromkeys(who.subjects)
        for source in kept:
            subjects.update(dict.fromkeys(source.resolved.subjects))
        for subject in subjects:
            force = self.limits.in_force(subject, action, target)
            if force.effect is Effect.BAR:
                found.append(
                    Finding(
                        "bar",
                        subject.id,
                        role=subject.id if subject.kind == "role" else None,
                        group=subject.id if subject.kind == "group" else None,
                        limits=force.limits,
                    )
                )
        return found

    def _climb(
        self, who: SubjectGrants, source: GrantSource, covered: bool, capability: str, action: str, target: Target
    ) -> tuple[int, tuple[str, ...]]:
        """How far up the rungs of step 4 a source comes, and the limits that stopped it."""
        answer = source.answers.get(capability)
        if answer is None or not gives(answer.says):
            return 0, ()
        if not covered:
            return 1, ()
        if action != "create" and not self._extent_covers(who, answer.extent, target):
            return 2, ()
        if not target.profile:
            stops = self._stops(source.subjects, action, target)
            if stops:
                return 3, tuple(id for force in stops for id in force.limits)
        return _TOP, ()

    def _stops(self, subjects: Iterable[Subject], action: str, target: Target) -> list[InForce]:
        forces = (self.limits.in_force(subject, action, target) for subject in subjects)
        return [force for force in forces if force.effect is Effect.STOP]

    def _extent_covers(self, who: SubjectGrants, extent: Extent, target: Target) -> bool:
        if extent is Extent.ALL:
            return True
        if self._is_author(who, target):
            return True
        if extent is Extent.OWN or target.author is None or who.account is None:
            return False
        author = self.policy.accounts.get(target.author)
        return author is not None and not author.groups.isdisjoint(who.account.groups)

    def _is_author(self, who: SubjectGrants, target: Target) -> bool:
        if who.as_author:
            return target.id is not None
        return target.author is not None and target.author == who.id

    def _own_limits(self, who: SubjectGrants, capability: str, action: str, target: Target, trail: Trail) -> Reason:
        """Step 5: a stop on the account itself, then its reach."""
        if who.account is None or target.profile:
            return Reason.ALLOWED
        found: list[Finding] = []
        stops = self._stops(who.subjects[:1], action, target)
        if stops:
            found.append(Finding("own-limit", who.account.id, limits=stops[0].limits))
            reason = Reason.STOPPED
        else:
            within = who.account.reach.get(target.tree or "")
            if within is None or not within.isdisjoint(target.path):
                return Reason.ALLOWED
            found.append(Finding("reach", who.account.id))
            reason = Reason.OUT_OF_REACH
        _tell(trail, "own-limits", capability, False, found)
        return reason

    def _locks_pass(self, who: SubjectGrants, target: Target, closes: Callable[[Lock], bool], trail: Trail) -> Reason:
        """Step 6, and the part locks of §5: a lock that applies and that `who` may not open."""
        locks = [lock for lock in self._locks.get(target.id or "", ()) if closes(lock)]
        if not locks or self._granted(who, LOCKS_OPEN, LOCKS_OPEN, target, None) is Reason.ALLOWED:
            return Reason.ALLOWED
        _tell(trail, "locks", LOCKS_OPEN, False, [Finding("lock", lock.id) for lock in locks])
        return Reason.LOCKED

    # -- parts of a node, §5 -------------------------------------------------------------------

    def _part(self, q: Question, who: SubjectGrants, trail: Trail) -> Reason:
        target = q.target
        if target is None:
            raise ValueError(f"{q.action} needs a target")
        whole = {"see-field": "see", "fill-field": "create"}.get(q.action, "edit")
        reason = self._on_node(who, whole, target, trail)
        if reason is not Reason.ALLOWED or who.keyholder:
            return reason
        if q.action in ("insert-component", "change-facet"):
            return self._component(q, who, target, trail)
        if q.action == "change-field" and not target.profile:
            reason = self._locks_pass(who, target, lambda k: k.field == q.field, trail)
            if reason is not Reason.ALLOWED:
                return reason
        if self._field_passes(who, target, q.field or "", q.action.removesuffix("-field")):
            return Reason.ALLOWED
        _tell(trail, "field", None, False, [Finding("field", f"{target.type}.{q.field}")])
        return Reason.FIELD

    def _field_passes(self, who: SubjectGrants, target: Target, field: str, verb: str) -> bool:
        rule = self.policy.fields.get((target.type, field), OPEN_FIELD)
        if rule.mode == "open":
            return True
        author = self._is_author(who, target)
        if rule.mode == "author":
            return (
                verb == "fill"
                or author
                or self._granted(who, FIELDS_PRIVATE, FIELDS_PRIVATE, target, None) is Reason.ALLOWED
            )
        wanted = {"fill"} if verb == "fill" else {f"{verb}-all", f"{verb}-own"} if author else {f"{verb}-all"}
        return any(
            not wanted.isdisjoint(rule.table.get(key, ()))
            for source in who.sources
            if _covers(source, target)
            for key in source.roles
        )

    def _component(self, q: Question, who: SubjectGrants, target: Target, trail: Trail) -> Reason:
        component = q.component or ""
        if q.action == "change-facet" and q.component_id is not None and not target.profile:
            reason = self._locks_pass(who, target, lambda k: k.component == q.component_id, trail)
            if reason is not Reason.ALLOWED:
                return reason
        giving = [
            source
            for source in who.sources
            if self._climb(who, source, _covers(source, target), f"{target.type}.edit", "edit", target)[0] == _TOP
        ]
        if q.action == "insert-component":
            if any(allows_component(self.policy, s.roles, component) for s in giving):
                return Reason.ALLOWED
            found = [Finding("component", component, role=s.role) for s in giving]
            _tell(trail, "component", f"{target.type}.edit", False, found)
            return Reason.COMPONENT
        if any(allows_facet(self.policy, s.roles, component, q.facet or "") for s in giving):
            return Reason.ALLOWED
        found = [Finding("facet", f"{component}.{q.facet}", role=s.role) for s in giving]
        _tell(trail, "facet", f"{target.type}.edit", False, found)
        return Reason.FACET


def _tell(trail: Trail, step: str, capability: str | None, passed: bool, findings: Iterable[Finding] = ()) -> None:
    if trail is not None:
        trail.append(Step(step, capability, passed, tuple(findings)))


def _covers(source: GrantSource, target: Target) -> bool:
    return source.scope.covers(site=target.site, path=target.path, type=target.type, topics=target.topics)


def _finding(source: GrantSource, capability: str, reason: Reason, limits: tuple[str, ...] = ()) -> Finding:
    answer = source.answers.get(capability)
    return Finding(
        "source",
        source.id,
        role=source.role,
        group=source.groups[0].id if source.groups else None,
        says=answer.says if answer else None,
        said_by=answer.said_by if answer else None,
        reason=reason,
        limits=limits,
    )
