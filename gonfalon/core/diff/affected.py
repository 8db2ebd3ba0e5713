"""Where two policies over one tree can differ: whose answers, about which actions, at which nodes.

    AffectedRegions(before, after).by_account()["ada"]      # (AffectedRegion(actions={"edit"}, where=..., ...),)

Nothing is decided here. What is left out cannot have changed; what is named may have.
"""

from collections import defaultdict
from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any, TypeVar

import numpy as np

from gonfalon.core.engine import Engine
from gonfalon.core.model.bits import Bools, Ints
from gonfalon.core.model.policy import Assignment, DirectGrant, Limit, Policy, Scope, Subject
from gonfalon.core.model.vocabulary import (
    ACTIONS,
    CHANGING,
    FIELDS_PRIVATE,
    LOCKS_OPEN,
    PROFILE,
    Effect,
    Extent,
)

T = TypeVar("T")
_FIELD_VERBS = frozenset({"see", "see-draft", "edit", "edit-live"})
_ASKED_WHEN = {"see": (True,), "see-draft": (False,), "edit-live": (True,)}
_FIELDED = frozenset({"see", "edit"})
NodeKind = tuple[str, bool]
"""A type of node, and whether it is published."""
ON_PROFILES = frozenset(ACTIONS) - {"create"}
"""The actions that can be asked of a profile (§5)."""
_SEEN = {"see-draft": "see", "edit-live": "edit"}


@dataclass(frozen=True, slots=True, eq=False)
class AffectedRegion:
    """A set of questions whose answers may differ: actions, where (None: anywhere), and plain capabilities.

    `kinds` names, for an action, the kinds of node whose answers may differ (an action left out: any kind),
    each a type and whether it is published. `fields` and `filled` are the types where seeing, changing and
    filling fields may differ; `components` says that components and facets may, as they may wherever `edit` does;
    `profiles` names actions on the profiles of accounts. Where it
    `implies_action_change`, a field's answer changes only at nodes where an action's does: nothing else that decides
    about fields is affected (§5).
    """

    actions: frozenset[str] = frozenset()
    where: Bools | None = None
    kinds: Mapping[str, frozenset[NodeKind]] = field(default_factory=dict)
    plain: frozenset[str] = frozenset()
    fields: frozenset[str] = frozenset()
    filled: frozenset[str] = frozenset()
    components: bool = False
    profiles: frozenset[str] = frozenset()
    implies_action_change: bool = False


Regions = tuple[AffectedRegion, ...]


class AffectedRegions:
    """Works out which accounts are affected where, between an engine before and one after a change."""

    def __init__(self, before: Engine, after: Engine) -> None:
        self.before, self.after = before, after
        self.was, self.now, self.tree = before.policy, after.policy, after.tree
        self.types = sorted({t.key for p in (self.was, self.now) for t in p.types.values() if t.tree})
        self.placed = sorted({*self.was.placed, *self.now.placed})
        self.plain = frozenset({*self.was.plain, *self.now.plain})
        self.actions = (*(a for a in ACTIONS if a != "create"), *(f"create:{t}" for t in self.types), *self.placed)
        every = frozenset(self.types)
        self.anything = AffectedRegion(frozenset(self.actions), None, {}, self.plain, every, every, True, ON_PROFILES)
        self._named: dict[Subject, dict[AffectedRegion, None]] = defaultdict(dict)
        self._everyone: dict[AffectedRegion, None] = {}
        self._signed_in: dict[AffectedRegion, None] = {}
        self.baseline: frozenset[AffectedRegion] = frozenset()
        """After `by_account`: the regions that come from baseline roles."""
        self.ruling: frozenset[AffectedRegion] = frozenset()
        """After `by_account`: the regions that come from field rules."""

    def by_account(self) -> dict[str | None, tuple[AffectedRegion, ...]]:
        """The regions of every account that is affected (None: a visitor)."""
        if self._vocabulary(self.was) != self._vocabulary(self.now):
            return dict.fromkeys((None, *self.was.accounts, *self.now.accounts), (self.anything,))
        self._roles()
        self._given()
        self._limits()
        self._locks()
        self._parts()
        if self.was.accounts.keys() != self.now.accounts.keys():
            self._everyone[AffectedRegion(profiles=ON_PROFILES)] = None
        changed = set(_changed(self.was.accounts, self.now.accounts))
        changed |= self._teams_of(changed) | self._regrouped()
        found: dict[str | None, tuple[AffectedRegion, ...]] = {}
        if self._everyone:
            found[None] = tuple(self._everyone)
        common, named = {**self._everyone, **self._signed_in}, self._named_accounts()
        everyone = {**self.was.accounts, **self.now.accounts}
        for id in everyone if common else {**named, **dict.fromkeys(changed)}:
            regions = {**common, **named.get(id, {})}
            found[id] = (self.anything,) if id in changed else tuple(regions)
        return found

    @staticmethod
    def _vocabulary(policy: Policy) -> tuple[object, ...]:
        return policy.capabilities, policy.types, policy.everyone, policy.signed_in

    def _named_accounts(self) -> dict[str, dict[AffectedRegion, None]]:
        """The regions of accounts that are named themselves, or through a group."""
        found: dict[str, dict[AffectedRegion, None]] = {}
        for subject, regions in self._named.items():
            if subject.kind == "account":
                found[subject.id] = dict(regions)
        for policy in (self.was, self.now):
            by_group = {}
            for group in policy.groups:
                above = [self._named.get(Subject.group(key), {}) for key in policy.group_chain(group)]
                if regions := {region: None for each in above for region in each}:
                    by_group[group] = regions
            for id, account in policy.accounts.items() if by_group else ():
                for group in account.groups:
                    if group in by_group:
                        found.setdefault(id, {}).update(by_group[group])
        return found

    def _teams_of(self, changed: set[str]) -> set[str]:
        """Direct fellow members, before or after, of accounts that left or joined a group: what those wrote counts."""
        teams: set[str] = set()
        for id in changed:
            was, now = (p.accounts[id].groups if id in p.accounts else frozenset() for p in (self.was, self.now))
            teams |= was ^ now
        if not teams:
            return set()
        return {id for p in (self.was, self.now) for id, a in p.accounts.items() if not a.groups.isdisjoint(teams)}

    def reauthored(self, positions: Ints, at: datetime) -> dict[str | None, Regions]:
        """The regions of those to whom it can matter that some nodes have other authors: there, and above them."""
        tree, nodes = self.tree, [side.tree.nodes for side in (self.before, self.after)]
        where = np.zeros(len(tree), dtype=bool)
        for i in positions.tolist():
            where[[tree.index[id] for id in tree.path(tree.nodes[i].id)]] = True
        there = replace(self.anything, where=where, plain=frozenset(), profiles=frozenset())
        authors = {side[i].author for side in nodes for i in positions.tolist()}
        return dict.fromkeys(self._working_with(authors, at), (there,))

    def _working_with(self, authors: Collection[str | None], at: datetime) -> set[str]:
        """Some authors, and their direct fellow members who hold something as far as their team (§2)."""
        there = [p.accounts[a] for p in (self.was, self.now) for a in authors if a is not None and a in p.accounts]
        teams = frozenset[str]().union(*(account.groups for account in there))
        found = {account.id for account in there}
        for side in (self.before, self.after):
            for id, account in side.policy.accounts.items():
                if not account.groups.isdisjoint(teams) and _holds_for_team(side, id, at):
                    found.add(id)
        return found

    def _regrouped(self) -> set[str]:
        """Members of groups that came to lie elsewhere."""
        moved = set(_changed(self.was.groups, self.now.groups))
        if not moved:
            return set()
        members = (
            id for policy in (self.was, self.now) for id, a in policy.accounts.items() if moved & policy.all_groups(a)
        )
        return set(members)

    # -- what is given -------------------------------------------------------------------------

    def _roles(self) -> None:
        """Roles that say something else, whoever they are given to."""
        touch_of: dict[str, Any] = {}
        for role in {**self.was.roles, **self.now.roles}:
            capabilities = self._said_otherwise(role)
            if capabilities is None or capabilities:
                touch_of[role] = capabilities
        if not touch_of:
            return
        for baseline, named in ((self.was.everyone, self._everyone), (self.was.signed_in, self._signed_in)):
            if baseline in touch_of:
                named[self._asking(touch_of[baseline], None)] = None
        self.baseline = frozenset((*self._everyone, *self._signed_in))
        anywhere = {role: self._asking(said, None) for role, said in touch_of.items()}
        for policy in (self.was, self.now):
            for a in policy.assignments.values():
                if a.role in touch_of:
                    self._named[a.to][anywhere[a.role]] = None

    def _said_otherwise(self, role: str) -> frozenset[str] | None:
        """Capabilities a role answers otherwise; None when what it builds on, or its parts, changed."""
        if role not in self.was.roles or role not in self.now.roles:
            return None
        chains = [p.role_chain(role) for p in (self.was, self.now)]
        if chains[0] != chains[1]:
            return None
        changed = [key for key in chains[0] if self.was.roles[key] is not self.now.roles[key]]
        if not changed:
            return frozenset()
        for key in changed:
            old, new = self.was.roles[key], self.now.roles[key]
            if (old.components, old.facets) != (new.components, new.facets):
                return None
        old_said, new_said = self.before.grants.resolved(role).statements, self.after.grants.resolved(role).statements
        return frozenset(c for c in {**old_said, **new_said} if _says(old_said.get(c)) != _says(new_said.get(c)))

    def _given(self) -> None:
        """Assignments and direct grants that came, went or changed.

        Whoever is given the same in the same scope is affected alike: they share one region, and are asked together.
        """
        regions: dict[tuple[int, str, Scope], list[AffectedRegion]] = {}
        for id in _changed(self.was.assignments, self.now.assignments):
            for side, (policy, engine) in enumerate(((self.was, self.before), (self.now, self.after))):
                a = policy.assignments.get(id)
                if a is not None:
                    key = side, a.role, a.scope
                    if key not in regions:
                        said = frozenset(engine.grants.resolved(a.role).statements)
                        regions[key] = [self._asking(said, a.scope, a), *self._bars_with(a.role)]
                    self._named[a.to] |= dict.fromkeys(regions[key])
        granted: dict[tuple[str, Scope], AffectedRegion] = {}
        for id in _changed(self.was.direct_grants, self.now.direct_grants):
            for policy in (self.was, self.now):
                d = policy.direct_grants.get(id)
                if d is not None:
                    about = d.capability, d.scope
                    if about not in granted:
                        granted[about] = self._asking(frozenset({d.capability}), d.scope, d)
                    self._named[d.to][granted[about]] = None

    def _asking(
        self, capabilities: frozenset[str] | None, scope: Scope | None, given: Assignment | DirectGrant | None = None
    ) -> AffectedRegion:
        """The actions that ask some capabilities (None: any), within a scope."""
        where = None
        if scope is not None and scope.branches is not None:
            where = self._beneath(scope.branches)
        if capabilities is None:
            return replace(self.anything, where=where)
        actions: set[str] = set()
        kinds: dict[str, set[NodeKind]] = defaultdict(set)
        profiles: set[str] = set()
        for capability in capabilities - self.plain:
            thing, _, verb = capability.partition(".")
            if thing == PROFILE:
                profiles |= ON_PROFILES & {verb}
            elif verb == "create" and capability not in self.placed:
                actions.add(f"create:{thing}")
            elif capability in self.placed:
                actions.add(capability)
            else:
                kinds[_SEEN.get(verb, verb)].update((thing, state) for state in _ASKED_WHEN.get(verb, (True, False)))
        actions |= kinds.keys()
        fields = {c.partition(".")[0] for c in capabilities if c.partition(".")[2] in _FIELD_VERBS} - {PROFILE}
        filled = {c.partition(".")[0] for c in capabilities if c.endswith(".create")}
        if LOCKS_OPEN in capabilities:
            actions |= CHANGING
            kinds.clear()
        if FIELDS_PRIVATE in capabilities or LOCKS_OPEN in capabilities:
            fields.update(self.types)
        if FIELDS_PRIVATE in capabilities:
            profiles |= _FIELDED
        implies_action_change = capabilities.isdisjoint((LOCKS_OPEN, FIELDS_PRIVATE)) and not isinstance(
            given, Assignment
        )
        if isinstance(given, Assignment):
            with_rows = self._types_with_rows(given.role)
            profiles |= _FIELDED if PROFILE in with_rows else frozenset()
            fields, filled = fields | with_rows, filled | with_rows
        asked = frozenset(actions & set(self.actions))
        plain = frozenset(capabilities & self.plain)
        parts = frozenset(fields), frozenset(filled)
        of_kinds = {action: frozenset(some) for action, some in kinds.items()}
        return AffectedRegion(
            asked,
            where,
            of_kinds,
            plain,
            *parts,
            profiles=frozenset(profiles),
            implies_action_change=implies_action_change,
        )

    def _types_with_rows(self, role: str) -> set[str]:
        """The types with a field whose table has a row of the role, or one it builds on."""
        chains = {key for p in (self.was, self.now) if role in p.roles for key in p.role_chain(role)}
        rules = [*self.was.fields.items(), *self.now.fields.items()]
        return {type for (type, _), rule in rules if not chains.isdisjoint(rule.table)}

    def _bars_with(self, role: str) -> Iterator[AffectedRegion]:
        """What bars on a role, or one it builds on, take from whoever comes to hold it."""
        for policy in (self.was, self.now):
            chain = policy.role_chain(role) if role in policy.roles else ()
            named = {Subject.role(key) for key in chain}
            for limit in policy.limits.values():
                if limit.effect is Effect.BAR and limit.to in named:
                    yield self._limiting(limit)

    # -- what narrows --------------------------------------------------------------------------

    def _limits(self) -> None:
        changed: dict[Subject, list[Limit]] = defaultdict(list)
        for id in _changed(self.was.limits, self.now.limits):
            for policy in (self.was, self.now):
                if (limit := policy.limits.get(id)) is not None:
                    changed[limit.to].append(limit)
        for subject, limits in changed.items():
            for limit in limits:
                self._name(subject, self._limiting(limit))

    def _limiting(self, limit: Limit) -> AffectedRegion:
        actions = {a for a in self.actions if limit.matches(a.partition(":")[0])}
        if limit.matches(LOCKS_OPEN):
            actions |= CHANGING
        every = frozenset(self.types)
        fields = every if actions & {"see", "edit"} or limit.matches(FIELDS_PRIVATE) else frozenset()
        filled = every if limit.matches("create") else frozenset()
        return AffectedRegion(frozenset(actions), self._beneath(frozenset({limit.node})), fields=fields, filled=filled)

    def _name(self, subject: Subject, region: AffectedRegion) -> None:
        """Add a region for a subject; for a role, for all who hold it or a role that builds on it."""
        if subject.kind != "role":
            self._named[subject][region] = None
            return
        for policy in (self.was, self.now):
            holding = {key for key in policy.roles if subject.id in policy.role_chain(key)}
            if policy.everyone in holding:
                self._everyone[region] = None
            if policy.signed_in in holding:
                self._signed_in[region] = None
            for a in policy.assignments.values():
                if a.role in holding:
                    self._named[a.to][region] = None

    def _locks(self) -> None:
        for id in _changed(self.was.locks, self.now.locks):
            for policy in (self.was, self.now):
                lock = policy.locks.get(id)
                if lock is not None and lock.node in self.tree:
                    whole = lock.field is None and lock.component is None
                    where = self._beneath(frozenset({lock.node}))
                    fields = frozenset({self.tree.nodes[self.tree.index[lock.node]].type} & set(self.types))
                    self._everyone[AffectedRegion(CHANGING if whole else frozenset(), where, fields=fields)] = None

    def _parts(self) -> None:
        """Field rules that changed, and components there are."""
        types = frozenset(type for type, _ in _changed(self.was.fields, self.now.fields))
        if types:
            profiles = _FIELDED if PROFILE in types else frozenset()
            ruling = AffectedRegion(fields=types, filled=types, profiles=profiles)
            self._everyone[ruling] = None
            self.ruling = frozenset({ruling})
        if self.was.components != self.now.components:
            self._everyone[AffectedRegion(components=True)] = None

    def _beneath(self, branches: Iterable[str]) -> Bools:
        where = np.zeros(len(self.tree), dtype=bool)
        for branch in branches:
            if branch in self.tree:
                where[self.tree.branch(branch)] = True
        return where


def _changed(before: Mapping[T, object], after: Mapping[T, object]) -> Iterator[T]:
    """Keys of what came, went or changed."""
    if before is after:
        return
    for key, was in before.items():
        now = after.get(key)
        if now is not was and now != was:
            yield key
    yield from (key for key in after if key not in before)


def _says(answer: Any) -> str | None:
    return None if answer is None else answer.says


def _holds_for_team(side: Engine, id: str, at: datetime) -> bool:
    return any(Extent.TEAM in source.resolved.extents.values() for source in side.grants.of(id, at).sources)
