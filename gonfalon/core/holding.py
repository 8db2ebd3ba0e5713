"""What somebody holds at a moment: their sources, compiled from a policy once and kept (§4 step 3).

A *source* is the everyone role, the signed-in role, an active assignment or an active direct grant.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Literal, NamedTuple

from gonfalon.core.policy import ANYWHERE, Account, Assignment, DirectGrant, Period, Policy, Scope, Subject
from gonfalon.core.question import MadeUp, Who
from gonfalon.core.vocabulary import BARRED, EXTENT_OF, PROFILE, WITHHELD, Extent


class Answer(NamedTuple):
    """What a source says about a capability, and which role of its chain said it."""

    says: str
    said_by: str | None

    @property
    def extent(self) -> Extent:
        return EXTENT_OF.get(self.says, Extent.NONE)


@dataclass(frozen=True, slots=True, eq=False)
class Said:
    """All that a role (those it builds on included) or a direct grant says, told apart by what it does.

    `roles` is the role and those it builds on, `subjects` the same as limits may name them.
    """

    answers: Mapping[str, Answer]
    extents: Mapping[str, int]
    barred: frozenset[str]
    roles: tuple[str, ...] = ()
    subjects: tuple[Subject, ...] = ()

    @classmethod
    def of(cls, answers: Mapping[str, Answer], roles: tuple[str, ...] = ()) -> "Said":
        extents = {c: int(a.extent) for c, a in answers.items() if a.extent is not Extent.NONE}
        barred = frozenset(c for c, a in answers.items() if a.says == BARRED)
        return cls(answers, extents, barred, roles, tuple(Subject.role(key) for key in roles))


@dataclass(frozen=True, slots=True, eq=False)
class Source:
    """Something that may give; `groups` is the group it came through and those above it."""

    id: str
    kind: Literal["baseline", "assignment", "direct", "made-up"]
    said: Said
    scope: Scope = ANYWHERE
    groups: tuple[Subject, ...] = ()

    @property
    def answers(self) -> Mapping[str, Answer]:
        return self.said.answers

    @property
    def roles(self) -> tuple[str, ...]:
        """The role and those it builds on."""
        return self.said.roles

    @property
    def role(self) -> str | None:
        return self.roles[0] if self.roles else None

    @property
    def subjects(self) -> tuple[Subject, ...]:
        """Whoever a stop could name to stop this source (§4 step 4)."""
        return self.said.subjects + self.groups


@dataclass(frozen=True, slots=True, eq=False)
class Holding:
    """A person (or visitor, or made-up holder) with every source active at a moment.

    `subjects` are the account and its groups, as limits may name them.
    """

    account: Account | None
    sources: tuple[Source, ...]
    subjects: tuple[Subject, ...] = ()
    own: bool = False
    starts: datetime | None = None
    ends: datetime | None = None

    @property
    def keyholder(self) -> bool:
        return self.account is not None and self.account.keyholder

    @property
    def active(self) -> bool:
        return self.account is None or self.account.state == "active"

    @property
    def id(self) -> str | None:
        return self.account.id if self.account else None

    def holds_at(self, at: datetime) -> bool:
        """Whether the same sources are active at `at`."""
        return (self.starts is None or self.starts <= at) and (self.ends is None or at < self.ends)


class Sayings:
    """What each role says, worked out once for each that is asked of."""

    def __init__(self, policy: Policy) -> None:
        self.policy = policy
        self._said: dict[str, Said] = {}

    def said(self, role: str) -> Said:
        """What a role says, what it takes from the roles it builds on included (§2); one object for all its sources."""
        if role not in self._said:
            answers: dict[str, Answer] = {}
            for key in reversed(self.policy.role_chain(role)):
                answers.update({c: Answer(says, key) for c, says in self.policy.roles[key].grants.items()})
            self._said[role] = Said.of(answers, self.policy.role_chain(role))
        return self._said[role]

    def answers(self, role: str) -> Mapping[str, Answer]:
        return self.said(role).answers


class Holdings(Sayings):
    """Compiles and keeps holdings for one policy."""

    def __init__(self, policy: Policy) -> None:
        super().__init__(policy)
        self._kept: dict[Who, Holding] = {}
        self._given: dict[Subject, list[Assignment | DirectGrant]] = {}
        for a in policy.assignments.values():
            self._given.setdefault(a.to, []).append(a)
        for d in policy.direct_grants.values():
            self._given.setdefault(d.to, []).append(d)
        self._sources: dict[Subject, list[tuple[Source, Period | None]]] = {}
        self._direct: dict[tuple[str, str], Said] = {}
        self._memberships: dict[frozenset[str], tuple[Subject, ...]] = {}
        self._visitor_sources = self._baseline(policy.everyone)
        self._baseline_sources = self._visitor_sources + self._baseline(policy.signed_in)
        self.visitor = Holding(None, self._visitor_sources)

    def _baseline(self, role: str | None) -> tuple[Source, ...]:
        return () if role is None else (Source(role, "baseline", self.said(role)),)

    def of(self, who: Who, at: datetime) -> Holding:
        """What `who` holds at `at`. KeyError for an unknown account or role."""
        if who is None:
            return self.visitor
        kept = self._kept.get(who)
        if kept is None or not kept.holds_at(at):
            kept = self._kept[who] = self._made_up(who) if isinstance(who, MadeUp) else self._of(who, at)
        return kept

    def _given_to(self, to: Subject) -> list[tuple[Source, Period | None]]:
        """What is given to an account or a group, as sources: one object each for all who hold it; None is always."""
        sources = self._sources.get(to)
        if sources is None:
            chain = self.policy.group_chain(to.id) if to.kind == "group" else ()
            groups = tuple([Subject.group(key) for key in chain])
            given = [(self._source(one, groups), one.period) for one in self._given[to]]
            sources = self._sources[to] = [(source, None if when.always else when) for source, when in given]
        return sources

    def _source(self, given: Assignment | DirectGrant, groups: tuple[Subject, ...]) -> Source:
        if isinstance(given, Assignment):
            return Source(given.id, "assignment", self.said(given.role), given.scope, groups)
        key = given.capability, given.says
        if key not in self._direct:
            self._direct[key] = Said.of({given.capability: Answer(given.says, None)})
        return Source(given.id, "direct", self._direct[key], given.scope, groups)

    def _made_up(self, who: MadeUp) -> Holding:
        sources = tuple(Source(key, "made-up", self.said(key)) for key in who.roles)
        return Holding(None, self._baseline_sources + sources, own=who.own)

    def _of(self, id: str, at: datetime) -> Holding:
        account = self.policy.accounts[id]
        subjects = (Subject.account(id), *self._groups_of(account))
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
        return Holding(account, tuple(sources), subjects, starts=starts, ends=ends)

    def _groups_of(self, account: Account) -> tuple[Subject, ...]:
        """The groups that somebody is in, through others too."""
        groups = self._memberships.get(account.groups)
        if groups is None:
            every = sorted(self.policy.all_groups(account))
            groups = self._memberships[account.groups] = tuple(Subject.group(key) for key in every)
        return groups


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
    return says != WITHHELD and EXTENT_OF.get(says, Extent.NONE) is not Extent.NONE


def capability_of(action: str, type: str, state: str | None) -> str:
    """The capability an action on a node asks first (§2). Placed capabilities ask their own key."""
    if "." in action:
        return action
    if action == "see" and type != PROFILE and state != "published":
        return f"{type}.see-draft"
    return f"{type}.{action}"
