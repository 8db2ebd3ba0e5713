"""What somebody holds at a moment: their sources, compiled from a policy once and kept (§4 step 3).

A *source* is the everyone role, the signed-in role, an active assignment or an active direct grant.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from operator import is_not
from typing import Literal, NamedTuple

from gonfalon.core.model.policy import ANYWHERE, Account, Assignment, DirectGrant, Period, Policy, Scope, Subject
from gonfalon.core.model.question import HypotheticalSubject, Who
from gonfalon.core.model.vocabulary import BARRED, EXTENT_OF, PROFILE, WITHHELD, Extent


class Statement(NamedTuple):
    """What a source says about a capability, and which role of its chain said it."""

    says: str
    said_by: str | None

    @property
    def extent(self) -> Extent:
        """How far it reaches; NONE for `withheld` and `barred`."""
        return EXTENT_OF.get(self.says, Extent.NONE)


@dataclass(frozen=True, slots=True, eq=False)
class ResolvedGrants:
    """All that a role (those it builds on included) or a direct grant says, told apart by what it does.

    `roles` is the role and those it builds on, `subjects` the same as limits may name them.
    """

    statements: Mapping[str, Statement]
    extents: Mapping[str, int]
    barred: frozenset[str]
    roles: tuple[str, ...] = ()
    subjects: tuple[Subject, ...] = ()

    @classmethod
    def of(cls, statements: Mapping[str, Statement], roles: tuple[str, ...] = ()) -> "ResolvedGrants":
        """Sorted out from statements by capability."""
        extents = {c: int(a.extent) for c, a in statements.items() if a.extent is not Extent.NONE}
        barred = frozenset(c for c, a in statements.items() if a.says == BARRED)
        return cls(statements, extents, barred, roles, tuple(Subject.role(key) for key in roles))


@dataclass(frozen=True, slots=True, eq=False)
class GrantSource:
    """Something that may give; `groups` is the group it came through and those above it."""

    id: str
    kind: Literal["baseline", "assignment", "direct", "made-up"]
    resolved: ResolvedGrants
    scope: Scope = ANYWHERE
    groups: tuple[Subject, ...] = ()

    @property
    def statements(self) -> Mapping[str, Statement]:
        """What it says, by capability."""
        return self.resolved.statements

    @property
    def roles(self) -> tuple[str, ...]:
        """The role and those it builds on."""
        return self.resolved.roles

    @property
    def role(self) -> str | None:
        """The role itself; None for a direct grant."""
        return self.roles[0] if self.roles else None

    @property
    def subjects(self) -> tuple[Subject, ...]:
        """Whoever a stop could name to stop this source (§4 step 4)."""
        return self.resolved.subjects + self.groups


@dataclass(frozen=True, slots=True, eq=False)
class SubjectGrants:
    """A person (or visitor, or made-up holder) with every source active at a moment.

    `subjects` are the account and its groups, as limits may name them.
    """

    account: Account | None
    sources: tuple[GrantSource, ...]
    subjects: tuple[Subject, ...] = ()
    as_author: bool = False
    starts: datetime | None = None
    ends: datetime | None = None

    @property
    def keyholder(self) -> bool:
        """Whether the account may do everything."""
        return self.account is not None and self.account.keyholder

    @property
    def active(self) -> bool:
        """Whether the account is active; a visitor is."""
        return self.account is None or self.account.state == "active"

    @property
    def id(self) -> str | None:
        """The account's id; None for a visitor and a hypothetical subject in no group."""
        return self.account.id if self.account else None

    def holds_at(self, at: datetime) -> bool:
        """Whether the same sources are active at `at`."""
        return (self.starts is None or self.starts <= at) and (self.ends is None or at < self.ends)


class RoleResolver:
    """What each role says, worked out once for each that is asked of.

    Made `like` others, of a policy that this one came from, they ask those about roles that both have the same.
    """

    def __init__(self, policy: Policy, previous: "RoleResolver | None" = None) -> None:
        self.policy = policy
        self._resolved: dict[str, ResolvedGrants] = {}
        self._previous = previous

    def resolved(self, role: str) -> ResolvedGrants:
        """What a role says, what it takes from the roles it builds on included (§2); one object for all its sources."""
        if role not in self._resolved:
            chain, previous = self.policy.role_chain(role), self._previous
            if previous is not None and self._same(chain, previous.policy):
                self._resolved[role] = previous.resolved(role)
            else:
                statements: dict[str, Statement] = {}
                for key in reversed(chain):
                    statements.update({c: Statement(says, key) for c, says in self.policy.roles[key].grants.items()})
                self._resolved[role] = ResolvedGrants.of(statements, chain)
        return self._resolved[role]

    def _same(self, chain: tuple[str, ...], was: Policy) -> bool:
        return all(self.policy.roles[key] is was.roles.get(key) for key in chain)

    def statements(self, role: str) -> Mapping[str, Statement]:
        """What a role says, with what it takes from those it builds on, by capability."""
        return self.resolved(role).statements


class SubjectGrantsCache(RoleResolver):
    """Compiles and keeps holdings for one policy."""

    def __init__(self, policy: Policy, previous: "SubjectGrantsCache | None" = None) -> None:
        super().__init__(policy, previous)
        self._kept: dict[Who, SubjectGrants] = {}
        same = previous is not None and _given_the_same(previous.policy, policy)
        self._given: dict[Subject, list[Assignment | DirectGrant]] = (
            previous._given if previous and same else _given_by(policy)
        )
        self._sources: dict[Subject, list[tuple[GrantSource, Period | None]]] = {}
        self._direct: dict[tuple[str, str], ResolvedGrants] = {}
        self._memberships: dict[frozenset[str], tuple[Subject, ...]] = {}
        known = {} if previous is None else {source.resolved: source for source in previous._baseline_sources}
        self._visitor_sources = self._baseline(policy.everyone, known)
        self._baseline_sources: tuple[GrantSource, ...] = self._visitor_sources + self._baseline(
            policy.signed_in, known
        )
        self.visitor = SubjectGrants(None, self._visitor_sources)
        self._before = previous if previous is not None and previous.policy.groups is policy.groups else None
        self._differing = frozenset(self._given_otherwise(self._before) if self._before else ())
        """Accounts and groups to which something else is given than before."""

    def detach(self) -> None:
        """Ask the holdings these came from no more; others may be asking these meanwhile."""
        self._previous = self._before = None

    def _baseline(self, role: str | None, known: Mapping[ResolvedGrants, GrantSource]) -> tuple[GrantSource, ...]:
        said = None if role is None else self.resolved(role)
        return () if role is None or said is None else (known.get(said) or GrantSource(role, "baseline", said),)

    def _given_otherwise(self, before: "SubjectGrantsCache") -> Iterator[Subject]:
        changed = {role for role in self.policy.roles if not self._same(self.policy.role_chain(role), before.policy)}
        if not changed and self._given is before._given:
            return
        for to in {**before._given, **self._given}:
            was, now = before._given.get(to, ()), self._given.get(to, ())
            same = len(was) == len(now) and not any(map(is_not, was, now))
            if not same or any(isinstance(one, Assignment) and one.role in changed for one in now):
                yield to

    def of(self, who: Who, at: datetime) -> SubjectGrants:
        """What `who` holds at `at`. KeyError for an unknown account or role."""
        if who is None:
            return self.visitor
        kept = self._kept.get(who)
        if kept is None or not kept.holds_at(at):
            made_up = isinstance(who, HypotheticalSubject)
            kept = self._kept[who] = self._made_up(who, at) if made_up else self._of(who, at)  # type: ignore[arg-type]
        return kept

    def _given_to(self, to: Subject) -> list[tuple[GrantSource, Period | None]]:
        """What is given to an account or a group, as sources: one object each for all who hold it; None is always."""
        sources, before = self._sources.get(to), self._before
        if sources is None and before is not None and to not in self._differing:
            sources = self._sources[to] = before._given_to(to)
        if sources is None:
            chain = self.policy.group_chain(to.id) if to.kind == "group" else ()
            groups = tuple([Subject.group(key) for key in chain])
            given = [(self._source(one, groups), one.period) for one in self._given[to]]
            sources = self._sources[to] = [(source, None if when.always else when) for source, when in given]
        return sources

    def _source(self, given: Assignment | DirectGrant, groups: tuple[Subject, ...]) -> GrantSource:
        if isinstance(given, Assignment):
            return GrantSource(given.id, "assignment", self.resolved(given.role), given.scope, groups)
        key = given.capability, given.says
        if key not in self._direct:
            self._direct[key] = ResolvedGrants.of({given.capability: Statement(given.says, None)})
        return GrantSource(given.id, "direct", self._direct[key], given.scope, groups)

    def _made_up(self, who: HypotheticalSubject, at: datetime) -> SubjectGrants:
        """With groups it has an account of its own, which nobody else has and nothing names."""
        sources = [GrantSource(key, "made-up", self.resolved(key)) for key in who.roles]
        sources += [GrantSource(key, "made-up", self.resolved(key), scope) for key, scope in who.scoped]
        if not who.groups:
            return SubjectGrants(None, (*self._baseline_sources, *sources), as_author=who.as_author)
        account = Account("\0".join(("", *who.groups)), groups=frozenset(who.groups))
        held = self._compiled(account, at)
        return replace(held, sources=(*held.sources, *sources), as_author=who.as_author)

    def _of(self, id: str, at: datetime) -> SubjectGrants:
        account = self.policy.accounts[id]
        return self._as_before(account, at) or self._compiled(account, at)

    def _as_before(self, account: Account, at: datetime) -> SubjectGrants | None:
        """What was held before by an account to which nothing else is given, on the baseline as it is now."""
        before = self._before
        if before is None or before.policy.accounts.get(account.id) is not account:
            return None
        held = before.of(account.id, at)
        if not self._differing.isdisjoint(held.subjects):
            return None
        was, now = (
            each._baseline_sources if account.state == "active" else each._visitor_sources for each in (before, self)
        )
        if was == now:
            return held
        return SubjectGrants(account, now + held.sources[len(was) :], held.subjects, starts=held.starts, ends=held.ends)

    def _compiled(self, account: Account, at: datetime) -> SubjectGrants:
        subjects = (Subject.account(account.id), *self._groups_of(account))
        sources = [*(self._baseline_sources if account.state == "active" else self._visitor_sources)]
        starts = ends = None
        for subject in subjects:
            for source, period in self._given_to(subject) if subject in self._given else ():
                if period is None or period.active(at):
                    sources.append(source)
                for change in () if period is None else (period.starts, period.ends):
                    if change is not None and change <= at:
                        starts = change if starts is None else max(starts, change)
                    elif change is not None:
                        ends = change if ends is None else min(ends, change)
        return SubjectGrants(account, tuple(sources), subjects, starts=starts, ends=ends)

    def _groups_of(self, account: Account) -> tuple[Subject, ...]:
        """The groups that somebody is in, through others too."""
        groups = self._memberships.get(account.groups)
        if groups is None:
            every = sorted(self.policy.all_groups(account))
            groups = self._memberships[account.groups] = tuple(Subject.group(key) for key in every)
        return groups


def _given_by(policy: Policy) -> dict[Subject, list[Assignment | DirectGrant]]:
    """What is given to each account and group itself."""
    given: dict[Subject, list[Assignment | DirectGrant]] = {}
    for a in policy.assignments.values():
        given.setdefault(a.to, []).append(a)
    for d in policy.direct_grants.values():
        given.setdefault(d.to, []).append(d)
    return given


def _given_the_same(was: Policy, now: Policy) -> bool:
    return was.assignments is now.assignments and was.direct_grants is now.direct_grants


def allows_component(policy: Policy, roles: tuple[str, ...], component: str) -> bool:
    """Whether a role (nearest of its chain that lists components) may insert one (§5). No role allows all."""
    for key in roles:
        listed = policy.roles[key].components
        if listed is not None:
            return component in listed
    return True


def allows_facet(policy: Policy, roles: tuple[str, ...], component: str, facet: str) -> bool:
    """Whether a role may change a facet of a component; said component by component (§5)."""
    for key in roles:
        listed = policy.roles[key].facets.get(component)
        if listed is not None:
            return facet in listed
    return True


def gives(says: str) -> bool:
    """Whether a word gives anything: an extent or `yes`."""
    return says != WITHHELD and EXTENT_OF.get(says, Extent.NONE) is not Extent.NONE


def capability_of(action: str, type: str, state: str | None) -> str:
    """The capability an action on a node asks first (§2). Placed capabilities ask their own key."""
    if "." in action:
        return action
    if action == "see" and type != PROFILE and state != "published":
        return f"{type}.see-draft"
    return f"{type}.{action}"
