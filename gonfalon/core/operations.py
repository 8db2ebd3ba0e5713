"""Operations on a policy: what a change set is made of.

    changed = apply(policy, [SetAnswer("tenant", "event.edit", "team")])

Each names the one part of the policy it touches, says what that part is, and returns a new policy
with it changed. None of them looks at a database; the server applies the same operations to rows.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal, Protocol, TypeVar

from gonfalon.core.model.policy import (
    OPEN_FIELD,
    Account,
    Assignment,
    Delegation,
    DirectGrant,
    FieldRule,
    Group,
    Limit,
    Lock,
    Policy,
    Role,
)

K = TypeVar("K")
V = TypeVar("V")


class Operation(Protocol):
    """One change to one part of a policy."""

    @property
    def part(self) -> tuple[str, ...]:
        """What it touches. Two operations with the same part say the same thing twice: the later counts."""

    def value_in(self, policy: Policy) -> Any:
        """What the part is in a policy; None when nothing is there."""

    def apply(self, policy: Policy) -> Policy:
        """The policy with this change. KeyError when what it names is not there."""


class _Entry:
    """An operation on one entry of a mapping of the policy: put there, or, where the value is None, taken away."""

    __slots__ = ()
    mapping: ClassVar[str]
    """The field of `Policy`."""
    named: ClassVar[str]
    """What an entry of it is called in `part`."""

    @property
    def entry(self) -> tuple[str, Any]:
        """The key and the new value."""
        raise NotImplementedError

    @property
    def part(self) -> tuple[str, ...]:
        return (self.named, self.entry[0])

    def value_in(self, policy: Policy) -> Any:
        return getattr(policy, self.mapping).get(self.entry[0])

    def apply(self, policy: Policy) -> Policy:
        changed: dict[str, Any] = {self.mapping: _with(getattr(policy, self.mapping), *self.entry)}
        return replace(policy, **changed)


@dataclass(frozen=True, slots=True)
class SetAnswer:
    """A role says something about a capability; `says` None means it says nothing."""

    role: str
    capability: str
    says: str | None

    @property
    def part(self) -> tuple[str, ...]:
        return ("answer", self.role, self.capability)

    def value_in(self, policy: Policy) -> str | None:
        return policy.roles[self.role].grants.get(self.capability)

    def apply(self, policy: Policy) -> Policy:
        role = policy.roles[self.role]
        grants = _with(role.grants, self.capability, self.says)
        return _with_role(policy, replace(role, grants=grants))


@dataclass(frozen=True, slots=True)
class SetBuildsOn:
    """A role builds on another from now on; None means on none."""

    role: str
    builds_on: str | None

    @property
    def part(self) -> tuple[str, ...]:
        return ("builds-on", self.role)

    def value_in(self, policy: Policy) -> str | None:
        return policy.roles[self.role].builds_on

    def apply(self, policy: Policy) -> Policy:
        return _with_role(policy, replace(policy.roles[self.role], builds_on=self.builds_on))


@dataclass(frozen=True, slots=True)
class SetComponents:
    """The components a role may insert; None means it says nothing of them (§5)."""

    role: str
    components: frozenset[str] | None

    @property
    def part(self) -> tuple[str, ...]:
        return ("components", self.role)

    def value_in(self, policy: Policy) -> frozenset[str] | None:
        return policy.roles[self.role].components

    def apply(self, policy: Policy) -> Policy:
        return _with_role(policy, replace(policy.roles[self.role], components=self.components))


@dataclass(frozen=True, slots=True)
class SetFacets:
    """The facets of a component that a role may change; None means it says nothing of them (§5)."""

    role: str
    component: str
    facets: frozenset[str] | None

    @property
    def part(self) -> tuple[str, ...]:
        return ("facets", self.role, self.component)

    def value_in(self, policy: Policy) -> frozenset[str] | None:
        return policy.roles[self.role].facets.get(self.component)

    def apply(self, policy: Policy) -> Policy:
        role = policy.roles[self.role]
        return _with_role(policy, replace(role, facets=_with(role.facets, self.component, self.facets)))


@dataclass(frozen=True, slots=True)
class PutRole(_Entry):
    """A role with all it says."""

    role: Role
    mapping, named = "roles", "role"

    @property
    def entry(self) -> tuple[str, Role]:
        return self.role.key, self.role


@dataclass(frozen=True, slots=True)
class DropRole(_Entry):
    """A role is taken away; nothing may hold, build on or name it any more."""

    role: str
    mapping, named = "roles", "role"

    @property
    def entry(self) -> tuple[str, None]:
        return self.role, None


@dataclass(frozen=True, slots=True)
class GiveRole(_Entry):
    """A new assignment, or one that is there with another role, receiver, scope or period."""

    assignment: Assignment
    mapping, named = "assignments", "assignment"

    @property
    def entry(self) -> tuple[str, Assignment]:
        return self.assignment.id, self.assignment


@dataclass(frozen=True, slots=True)
class TakeRole(_Entry):
    """An assignment comes to its end."""

    id: str
    mapping, named = "assignments", "assignment"

    @property
    def entry(self) -> tuple[str, None]:
        return self.id, None


@dataclass(frozen=True, slots=True)
class GiveCapability(_Entry):
    """A new direct grant, or one that is there and says something else."""

    grant: DirectGrant
    mapping, named = "direct_grants", "direct-grant"

    @property
    def entry(self) -> tuple[str, DirectGrant]:
        return self.grant.id, self.grant


@dataclass(frozen=True, slots=True)
class TakeCapability(_Entry):
    """A direct grant comes to its end."""

    id: str
    mapping, named = "direct_grants", "direct-grant"

    @property
    def entry(self) -> tuple[str, None]:
        return self.id, None


@dataclass(frozen=True, slots=True)
class PutDelegation(_Entry):
    """A new delegation, or one that is there and says something else."""

    delegation: Delegation
    mapping, named = "delegations", "delegation"

    @property
    def entry(self) -> tuple[str, Delegation]:
        return self.delegation.id, self.delegation


@dataclass(frozen=True, slots=True)
class DropDelegation(_Entry):
    """A delegation comes to its end."""

    id: str
    mapping, named = "delegations", "delegation"

    @property
    def entry(self) -> tuple[str, None]:
        return self.id, None


@dataclass(frozen=True, slots=True)
class PutGroup(_Entry):
    """A group, at the top or beneath another."""

    group: Group
    mapping, named = "groups", "group"

    @property
    def entry(self) -> tuple[str, Group]:
        return self.group.key, self.group


@dataclass(frozen=True, slots=True)
class DropGroup(_Entry):
    """A group is taken away; nobody may be in it, nothing beneath it, and nothing name it any more."""

    group: str
    mapping, named = "groups", "group"

    @property
    def entry(self) -> tuple[str, None]:
        return self.group, None


@dataclass(frozen=True, slots=True)
class SetMember:
    """An account is a direct member of a group from now on, or no longer."""

    account: str
    group: str
    member: bool

    @property
    def part(self) -> tuple[str, ...]:
        return ("member", self.account, self.group)

    def value_in(self, policy: Policy) -> str | None:
        return "member" if self.group in policy.accounts[self.account].groups else None

    def apply(self, policy: Policy) -> Policy:
        account = policy.accounts[self.account]
        groups = account.groups | {self.group} if self.member else account.groups - {self.group}
        return _with_account(policy, replace(account, groups=groups))


@dataclass(frozen=True, slots=True)
class SetState:
    """An account is active, invited or disabled from now on."""

    account: str
    state: Literal["active", "invited", "disabled"]

    @property
    def part(self) -> tuple[str, ...]:
        return ("state", self.account)

    def value_in(self, policy: Policy) -> str:
        return policy.accounts[self.account].state

    def apply(self, policy: Policy) -> Policy:
        return _with_account(policy, replace(policy.accounts[self.account], state=self.state))


@dataclass(frozen=True, slots=True)
class HandOver:
    """Somebody is the author of nodes that another one wrote, as far as those are still theirs."""

    account: str
    to: str
    nodes: frozenset[str]

    @property
    def part(self) -> tuple[str, ...]:
        return ("authors", self.account)

    def value_in(self, policy: Policy) -> frozenset[str]:
        """Those of the nodes that they are the author of."""
        tree = policy.tree
        return frozenset(id for id in self.nodes if id in tree and tree.nodes[tree.index[id]].author == self.account)

    def apply(self, policy: Policy) -> Policy:
        handed = self.value_in(policy)
        return replace(policy, tree=policy.tree.with_authors(dict.fromkeys(handed, self.to))) if handed else policy


@dataclass(frozen=True, slots=True)
class SetLimit(_Entry):
    """A new limit."""

    limit: Limit
    mapping, named = "limits", "limit"

    @property
    def entry(self) -> tuple[str, Limit]:
        return self.limit.id, self.limit


@dataclass(frozen=True, slots=True)
class DropLimit(_Entry):
    """A limit is taken away."""

    id: str
    mapping, named = "limits", "limit"

    @property
    def entry(self) -> tuple[str, None]:
        return self.id, None


@dataclass(frozen=True, slots=True)
class SetFieldRule:
    """Who may see, fill and change one field of one type."""

    type: str
    field: str
    rule: FieldRule

    @property
    def part(self) -> tuple[str, ...]:
        return ("field", self.type, self.field)

    def value_in(self, policy: Policy) -> FieldRule:
        return policy.fields.get((self.type, self.field), OPEN_FIELD)

    def apply(self, policy: Policy) -> Policy:
        return replace(
            policy, fields=_with(policy.fields, (self.type, self.field), None if self.rule == OPEN_FIELD else self.rule)
        )


@dataclass(frozen=True, slots=True)
class SetReach:
    """The branches of one tree that an account is confined to; None means it is not."""

    account: str
    tree: str
    branches: frozenset[str] | None

    @property
    def part(self) -> tuple[str, ...]:
        return ("reach", self.account, self.tree)

    def value_in(self, policy: Policy) -> frozenset[str] | None:
        return policy.accounts[self.account].reach.get(self.tree)

    def apply(self, policy: Policy) -> Policy:
        account = policy.accounts[self.account]
        return _with_account(policy, replace(account, reach=_with(account.reach, self.tree, self.branches)))


@dataclass(frozen=True, slots=True)
class SetLock(_Entry):
    """A new lock."""

    lock: Lock
    mapping, named = "locks", "lock"

    @property
    def entry(self) -> tuple[str, Lock]:
        return self.lock.id, self.lock


@dataclass(frozen=True, slots=True)
class OpenLock(_Entry):
    """A lock is taken away."""

    id: str
    mapping, named = "locks", "lock"

    @property
    def entry(self) -> tuple[str, None]:
        return self.id, None


def apply(policy: Policy, operations: Iterable[Operation]) -> Policy:
    """The policy with all operations applied, in their order."""
    run = Run(policy)
    for operation in operations:
        run.apply(operation)
    return run.end()


class _Working(dict[Any, Any]):
    """A mapping of a policy that a run of operations changes in place, as long as it is open."""

    open = True


class Run:
    """Operations applied one after another, each on top of those before: ten thousand cost little more than one.

    `policy` is as it stands now. Until the run has ended nothing of it is to be kept, for its mappings change.
    """

    def __init__(self, policy: Policy) -> None:
        self.policy = policy
        self._working: dict[str, _Working] = {}

    def apply(self, operation: Operation) -> None:
        """Go on by one operation. KeyError, and nothing changes, when what it names is not there."""
        before, self.policy = self.policy, operation.apply(self.policy)
        taken: dict[str, Any] = {}
        for name in _MAPPINGS:
            now = getattr(self.policy, name)
            if now is not getattr(before, name):
                self._working[name] = taken[name] = _Working(now)
        if taken:
            self.policy = replace(self.policy, **taken)

    def end(self) -> Policy:
        """The policy as it came out; from now on it stays as it is."""
        for mapping in self._working.values():
            mapping.open = False
        return self.policy


_MAPPINGS = ("roles", "groups", "accounts", "assignments", "direct_grants", "delegations", "limits", "fields", "locks")
"""The fields of a policy that operations change entries of."""


def _with_role(policy: Policy, role: Role) -> Policy:
    return replace(policy, roles=_with(policy.roles, role.key, role))


def _with_account(policy: Policy, account: Account) -> Policy:
    return replace(policy, accounts=_with(policy.accounts, account.id, account))


def _with(things: Mapping[K, V], key: K, value: V | None) -> dict[K, V]:
    changed = things if isinstance(things, _Working) and things.open else dict(things)
    if value is None:
        changed.pop(key, None)
    else:
        changed[key] = value
    return changed
