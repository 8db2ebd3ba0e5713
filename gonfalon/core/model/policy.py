"""What a policy is made of, as frozen values (§1).

    scope = Scope(branches=frozenset({"pier-3"}))
    grant = Assignment("a1", "tenant", Subject.group("tenants"), scope)
    Limit("l1", "fees", Subject.role("tenant"), Effect.STOP, actions=frozenset({"edit"}))

Nothing here decides; `engine` does. Ids are strings, times are aware datetimes.
"""

from bisect import bisect_right
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, fields
from datetime import datetime
from functools import cached_property
from itertools import chain
from typing import Any, Literal, NamedTuple

from gonfalon.core.model.tree import EMPTY_TREE, Tree
from gonfalon.core.model.vocabulary import FIELDS_PRIVATE, LOCKS_OPEN, PROFILE, STAND_IN, VERBS, Effect, Kind, Reason

SubjectKind = Literal["account", "group", "role"]
Applies = Literal["node", "beneath", "branch"]
UNLISTED = {LOCKS_OPEN: Kind.PLACED, FIELDS_PRIVATE: Kind.PLACED, STAND_IN: Kind.SITEWIDE}
"""Capabilities that exist without being listed (§8)."""


class Subject(NamedTuple):
    """Whom a grant or limit names: one account, one group, or (limits only) one role.

    >>> Subject.group("crew")
    Subject(kind='group', id='crew')
    """

    kind: SubjectKind
    id: str

    @classmethod
    def account(cls, id: str) -> "Subject":
        """An account, by its id."""
        return cls("account", id)

    @classmethod
    def group(cls, id: str) -> "Subject":
        """A group, by its key."""
        return cls("group", id)

    @classmethod
    def role(cls, id: str) -> "Subject":
        """A role, by its key."""
        return cls("role", id)


class Scope(NamedTuple):
    """Where a grant holds (§3). An absent list does not restrict, an empty one covers nothing.

    >>> here = Scope(branches=frozenset({"pier-3"}))
    >>> here.covers(site="quay", path=("root", "pier-3", "loft"), type="berth", topics=frozenset())
    True
    >>> here.unrestricted, Scope().unrestricted
    (False, True)
    """

    sites: frozenset[str] | None = None
    branches: frozenset[str] | None = None
    types: frozenset[str] | None = None
    topics: frozenset[str] | None = None

    @property
    def unrestricted(self) -> bool:
        """Whether it covers everything."""
        return self.sites is None and not self.restricts_nodes

    @property
    def restricts_nodes(self) -> bool:
        """Whether it names branches, types or topics: it then covers nothing sitewide."""
        return not (self.branches is None and self.types is None and self.topics is None)

    def covers(self, *, site: str | None, path: tuple[str, ...], type: str, topics: frozenset[str]) -> bool:
        """Whether a node (or one about to be made) with these facts lies within this scope."""
        return (
            (self.sites is None or site in self.sites)
            and (self.branches is None or not self.branches.isdisjoint(path))
            and (self.types is None or type in self.types)
            and (self.topics is None or not self.topics.isdisjoint(topics))
        )

    def covers_sitewide(self, site: str | None, *, barring: bool) -> bool:
        """Whether a sitewide request, naming `site` or none, lies within this scope.

        A request that names no site counts as naming every site when the source bars.
        """
        if self.restricts_nodes:
            return False
        if self.sites is None:
            return True
        return bool(self.sites) if barring and site is None else site in self.sites

    def within(self, other: "Scope", path: Callable[[str], tuple[str, ...]]) -> bool:
        """Whether this lies within another: each list of the other is met by a list of this (§9).

        `path` gives the way from the root to a branch, the branch included.
        """
        for mine, theirs in ((self.sites, other.sites), (self.types, other.types), (self.topics, other.topics)):
            if theirs is not None and (mine is None or not mine <= theirs):
                return False
        if other.branches is None:
            return True
        return self.branches is not None and all(not other.branches.isdisjoint(path(b)) for b in self.branches)


ANYWHERE = Scope()


@dataclass(frozen=True, slots=True)
class Role:
    """A named bundle of answers. `components` None and a component missing from `facets` mean nothing said."""

    key: str
    grants: Mapping[str, str] = field(default_factory=dict)
    builds_on: str | None = None
    components: frozenset[str] | None = None
    facets: Mapping[str, frozenset[str]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Group:
    """A team of accounts, which may sit inside another."""

    key: str
    parent: str | None = None


@dataclass(frozen=True, slots=True)
class Account:
    """A person. `groups` are those they are a direct member of; `reach` confines them per tree."""

    id: str
    state: Literal["active", "invited", "disabled"] = "active"
    keyholder: bool = False
    groups: frozenset[str] = frozenset()
    reach: Mapping[str, frozenset[str]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Period:
    """From `starts` (included) until `ends` (excluded); an absent end is open (§3)."""

    starts: datetime | None = None
    ends: datetime | None = None

    @property
    def always(self) -> bool:
        """Whether both ends are open."""
        return self.starts is None and self.ends is None

    def active(self, at: datetime) -> bool:
        """Whether a moment lies within it."""
        return (self.starts is None or self.starts <= at) and (self.ends is None or at < self.ends)


ALWAYS = Period()


@dataclass(frozen=True, slots=True)
class Assignment:
    """One role for one account or group, within a scope, for a period."""

    id: str
    role: str
    to: Subject
    scope: Scope = ANYWHERE
    period: Period = ALWAYS


@dataclass(frozen=True, slots=True)
class DirectGrant:
    """One capability for one account or group: an extent, `yes`, or `barred`."""

    id: str
    to: Subject
    capability: str
    says: str
    scope: Scope = ANYWHERE
    period: Period = ALWAYS


@dataclass(frozen=True, slots=True)
class Delegation:
    """Lets a subject give some roles to others, within a scope, until a date (§9).

    `receivers` is the group whose members, and those of groups beneath it, they may be given to; None: anyone.
    """

    id: str
    to: Subject
    roles: frozenset[str]
    scope: Scope = ANYWHERE
    receivers: str | None = None
    ends: datetime | None = None


@dataclass(frozen=True, slots=True)
class Limit:
    """Narrows actions on a node, beneath it, or both. `actions` None matches every action (`"*"`)."""

    id: str
    node: str
    to: Subject
    effect: Effect
    applies: Applies = "branch"
    actions: frozenset[str] | None = None

    def matches(self, action: str) -> bool:
        """Whether it is about an action."""
        return self.actions is None or action in self.actions


@dataclass(frozen=True, slots=True)
class FieldRule:
    """Who may see, fill and change one field. `table` maps a role to its marks."""

    mode: Literal["open", "author", "table"] = "open"
    table: Mapping[str, frozenset[str]] = field(default_factory=dict)


OPEN_FIELD = FieldRule()


@dataclass(frozen=True, slots=True)
class Lock:
    """Closes a node, or one field or one component of it."""

    id: str
    node: str
    field: str | None = None
    component: str | None = None


@dataclass(frozen=True, slots=True)
class NodeType:
    """A kind of node. The profile type `account` sits in no tree."""

    key: str
    tree: Literal["content", "media"] | None
    fields: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Expectation:
    """A question as §8 writes it, ranges included, and the answer each of its questions should have."""

    id: str
    question: Mapping[str, Any]
    expect: Literal["allow", "deny"]
    reason: Reason | None = None
    note: str = ""


@dataclass(frozen=True)
class Policy:
    """Everything said about access, at one moment. Immutable; a change makes another one."""

    capabilities: Mapping[str, Kind] = field(default_factory=dict)
    types: Mapping[str, NodeType] = field(default_factory=dict)
    components: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    roles: Mapping[str, Role] = field(default_factory=dict)
    everyone: str | None = "everyone"
    signed_in: str | None = "signed-in"
    groups: Mapping[str, Group] = field(default_factory=dict)
    accounts: Mapping[str, Account] = field(default_factory=dict)
    assignments: Mapping[str, Assignment] = field(default_factory=dict)
    direct_grants: Mapping[str, DirectGrant] = field(default_factory=dict)
    delegations: Mapping[str, Delegation] = field(default_factory=dict)
    limits: Mapping[str, Limit] = field(default_factory=dict)
    fields: Mapping[tuple[str, str], FieldRule] = field(default_factory=dict)
    locks: Mapping[str, Lock] = field(default_factory=dict)
    expectations: Mapping[str, Expectation] = field(default_factory=dict)
    sites: frozenset[str] = frozenset()
    topics: frozenset[str] = frozenset()
    tree: Tree = field(default_factory=lambda: EMPTY_TREE)

    def like(self, other: "Policy") -> "Policy":
        """The same policy, made of what another has wherever that is equal: an engine can keep what it knows of it."""
        parts = {part.name: (getattr(self, part.name), getattr(other, part.name)) for part in fields(self)}
        return Policy(**{name: _like(now, was) for name, (now, was) in parts.items()})

    def kind(self, capability: str) -> Kind:
        """The kind of a capability: graded for `T.verb` of any type, else as the catalogue lists it."""
        return self.capabilities.get(capability) or UNLISTED.get(capability, Kind.GRADED)

    def knows(self, capability: str) -> bool:
        """Whether there is such a capability: listed, one that needs no listing, or a verb of a type."""
        thing, _, verb = capability.partition(".")
        return (
            capability in self.capabilities
            or capability in UNLISTED
            or (verb in VERBS and (thing in self.types or thing == PROFILE))
        )

    @cached_property
    def node_types(self) -> frozenset[str]:
        """Types that nodes may be of: all but the profile."""
        return frozenset(key for key in self.types if key != PROFILE)

    @cached_property
    def placed(self) -> tuple[str, ...]:
        """The placed capabilities, each an action of its own (§2), in order."""
        listed = {key for key, kind in {**UNLISTED, **self.capabilities}.items() if kind is Kind.PLACED}
        return tuple(sorted(listed))

    @cached_property
    def plain(self) -> tuple[str, ...]:
        """The opening and sitewide capabilities: those asked without a target, in order."""
        every = {**UNLISTED, **self.capabilities}
        return tuple(sorted(key for key, kind in every.items() if kind in (Kind.OPENING, Kind.SITEWIDE)))

    def role_chain(self, key: str) -> tuple[str, ...]:
        """The role, then the roles it builds on, nearest first."""
        chain: list[str] = []
        step: str | None = key
        while step is not None:
            chain.append(step)
            step = self.roles[step].builds_on
        return tuple(chain)

    def group_chain(self, key: str) -> tuple[str, ...]:
        """The group, then every group above it."""
        return self._group_chains[key]

    @cached_property
    def _group_chains(self) -> Mapping[str, tuple[str, ...]]:
        chains: dict[str, tuple[str, ...]] = {}
        for key in self.groups:
            steps: list[str] = []
            step: str | None = key
            while step is not None:
                steps.append(step)
                step = self.groups[step].parent
            chains[key] = tuple(steps)
        return chains

    def all_groups(self, account: Account) -> frozenset[str]:
        """Every group the account is a member of, those above its own included."""
        return frozenset(chain.from_iterable([self._group_chains[own] for own in account.groups]))

    def gives_the_same(self, at: datetime, later: datetime) -> bool:
        """Whether nothing given begins or ends between two moments, so that one is answered like the other (§3)."""
        return bisect_right(self._turning_times, at) == bisect_right(self._turning_times, later)

    @cached_property
    def _turning_times(self) -> list[datetime]:
        """When anything given begins or ends, ascending."""
        given: list[Assignment | DirectGrant] = [*self.assignments.values(), *self.direct_grants.values()]
        return sorted(time for one in given for time in (one.period.starts, one.period.ends) if time is not None)

    @property
    def baseline(self) -> tuple[str, ...]:
        """The roles that nobody assigns, as far as there are any."""
        return tuple(key for key in (self.everyone, self.signed_in) if key is not None)


def _like(now: Any, was: Any) -> Any:
    """A part of a policy, or another's where they are equal; entry by entry where that can be told."""
    if not isinstance(now, dict):
        return was if now == was else now
    kept = {key: was[key] if key in was and was[key] == value else value for key, value in now.items()}
    same = list(kept) == list(was) and all(value is was[key] for key, value in kept.items())
    return was if same else kept
