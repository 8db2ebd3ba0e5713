"""What somebody holds at a moment: their sources, compiled from a policy once and kept (§4 step 3).

A *source* is the everyone role, the signed-in role, an active assignment or an active direct grant.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal, NamedTuple

from gonfalon.core.policy import ANYWHERE, Account, Assignment, DirectGrant, Policy, Scope, Subject
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
    """All that a role (those it builds on included) or a direct grant says, told apart by what it does."""

    answers: Mapping[str, Answer]
    extents: Mapping[str, int]
    barred: frozenset[str]

    @classmethod
    def of(cls, answers: Mapping[str, Answer]) -> "Said":
        extents = {c: int(a.extent) for c, a in answers.items() if a.extent is not Extent.NONE}
        return cls(answers, extents, frozenset(c for c, a in answers.items() if a.says == BARRED))


@dataclass(frozen=True, slots=True, eq=False)
class Source:
    """Something that may give: `roles` is the role and those it builds on, `groups` likewise."""

    id: str
    kind: Literal["baseline", "assignment", "direct", "made-up"]
    said: Said
    scope: Scope = ANYWHERE
    roles: tuple[str, ...] = ()
    groups: tuple[str, ...] = ()
    role_subjects: tuple[Subject, ...] = field(init=False)
    subjects: tuple[Subject, ...] = field(init=False)
    """Whoever a stop could name to stop this source (§4 step 4)."""

    def __post_init__(self) -> None:
        roles = tuple(Subject.role(key) for key in self.roles)
        object.__setattr__(self, "role_subjects", roles)
        object.__setattr__(self, "subjects", roles + tuple(Subject.group(key) for key in self.groups))

    @property
    def answers(self) -> Mapping[str, Answer]:
        return self.said.answers

    @property
    def role(self) -> str | None:
        return self.roles[0] if self.roles else None


@dataclass(frozen=True, slots=True, eq=False)
class Holding:
    """A person (or visitor, or made-up holder) with every source active at a moment."""

    account: Account | None
    sources: tuple[Source, ...]
    groups: frozenset[str]
    own: bool = False
    starts: datetime | None = None
    ends: datetime | None = None
    subjects: tuple[Subject, ...] = field(init=False)
    """The account and its groups, as limits may name them."""

    def __post_init__(self) -> None:
        own = (Subject.account(self.account.id),) if self.account else ()
        object.__setattr__(self, "subjects", own + tuple(Subject.group(key) for key in sorted(self.groups)))

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
            self._said[role] = Said.of(answers)
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
        self._assigned: dict[str, Source] = {}
        self._direct: dict[str, Source] = {}
        self._visitor_sources = self._baseline(policy.everyone)
        self._baseline_sources = self._visitor_sources + self._baseline(policy.signed_in)
        self.visitor = Holding(None, self._visitor_sources, frozenset())

    def _baseline(self, role: str | None) -> tuple[Source, ...]:
        if role is None:
            return ()
        return (Source(role, "baseline", self.said(role), roles=self.policy.role_chain(role)),)

    def every(self) -> Iterator[Said]:
        """What each role says, and each direct grant."""
        yield from (self.said(role) for role in self.policy.roles)
        yield from (self._source(direct).said for direct in self.policy.direct_grants.values())

    def of(self, who: Who, at: datetime) -> Holding:
        """What `who` holds at `at`. KeyError for an unknown account or role."""
        if who is None:
            return self.visitor
        kept = self._kept.get(who)
        if kept is None or not kept.holds_at(at):
            kept = self._kept[who] = self._made_up(who) if isinstance(who, MadeUp) else self._of(who, at)
        return kept

    def _source(self, given: Assignment | DirectGrant) -> Source:
        """What is given as a source: one object for all who hold it, made when it is first asked for."""
        kept = self._assigned if isinstance(given, Assignment) else self._direct
        if given.id not in kept:
            groups = self.policy.group_chain(given.to.id) if given.to.kind == "group" else ()
            if isinstance(given, Assignment):
                said, roles = self.said(given.role), self.policy.role_chain(given.role)
                kept[given.id] = Source(given.id, "assignment", said, given.scope, roles, groups)
            else:
                said = Said.of({given.capability: Answer(given.says, None)})
                kept[given.id] = Source(given.id, "direct", said, given.scope, (), groups)
        return kept[given.id]

    def _made_up(self, who: MadeUp) -> Holding:
        sources = tuple(Source(key, "made-up", self.said(key), roles=self.policy.role_chain(key)) for key in who.roles)
        return Holding(None, self._baseline_sources + sources, frozenset(), own=who.own)

    def _of(self, id: str, at: datetime) -> Holding:
        account = self.policy.accounts[id]
        groups = self.policy.all_groups(account)
        given = list(self._given.get(Subject.account(id), ()))
        for key in sorted(groups):
            given += self._given.get(Subject.group(key), ())
        changes = [t for g in given for t in (g.period.starts, g.period.ends) if t is not None]
        active = tuple(self._source(g) for g in given if g.period.active(at))
        return Holding(
            account,
            (self._baseline_sources if account.state == "active" else self._visitor_sources) + active,
            groups,
            starts=max((t for t in changes if t <= at), default=None),
            ends=min((t for t in changes if t > at), default=None),
        )


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
