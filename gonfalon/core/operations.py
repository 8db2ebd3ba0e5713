"""Operations on a policy: what a change set is made of.

    changed = apply(policy, [SetAnswer("tenant", "event.edit", "team")])

Each names the one part of the policy it touches, says how that part stands, and returns a new policy
with it changed. None of them looks at a database; the server applies the same operations to rows.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import reduce
from typing import Any, Protocol, TypeVar

from gonfalon.core.model.policy import OPEN_FIELD, Assignment, FieldRule, Limit, Lock, Policy, Role

K = TypeVar("K")
V = TypeVar("V")


class Operation(Protocol):
    """One change to one part of a policy."""

    @property
    def part(self) -> tuple[str, ...]:
        """What it touches. Two operations with the same part say the same thing twice: the later counts."""

    def standing(self, policy: Policy) -> Any:
        """How the part stands in a policy; None when nothing is there."""

    def apply(self, policy: Policy) -> Policy:
        """The policy with this change. KeyError when what it names is not there."""

    def undone(self, policy: Policy) -> "Operation":
        """The operation that, after this one, makes the part stand again as it does in a policy."""


@dataclass(frozen=True, slots=True)
class SetAnswer:
    """A role says something about a capability; `says` None means it says nothing."""

    role: str
    capability: str
    says: str | None

    @property
    def part(self) -> tuple[str, ...]:
        return ("answer", self.role, self.capability)

    def standing(self, policy: Policy) -> str | None:
        return policy.roles[self.role].grants.get(self.capability)

    def apply(self, policy: Policy) -> Policy:
        role = policy.roles[self.role]
        grants = _with(role.grants, self.capability, self.says)
        return _with_role(policy, replace(role, grants=grants))

    def undone(self, policy: Policy) -> Operation:
        return replace(self, says=self.standing(policy))


@dataclass(frozen=True, slots=True)
class SetBuildsOn:
    """A role builds on another from now on; None means on none."""

    role: str
    builds_on: str | None

    @property
    def part(self) -> tuple[str, ...]:
        return ("builds-on", self.role)

    def standing(self, policy: Policy) -> str | None:
        return policy.roles[self.role].builds_on

    def apply(self, policy: Policy) -> Policy:
        return _with_role(policy, replace(policy.roles[self.role], builds_on=self.builds_on))

    def undone(self, policy: Policy) -> Operation:
        return replace(self, builds_on=self.standing(policy))


@dataclass(frozen=True, slots=True)
class SetComponents:
    """The components a role may insert; None means it says nothing of them (§5)."""

    role: str
    components: frozenset[str] | None

    @property
    def part(self) -> tuple[str, ...]:
        return ("components", self.role)

    def standing(self, policy: Policy) -> frozenset[str] | None:
        return policy.roles[self.role].components

    def apply(self, policy: Policy) -> Policy:
        return _with_role(policy, replace(policy.roles[self.role], components=self.components))

    def undone(self, policy: Policy) -> Operation:
        return replace(self, components=self.standing(policy))


@dataclass(frozen=True, slots=True)
class SetFacets:
    """The facets of a component that a role may change; None means it says nothing of them (§5)."""

    role: str
    component: str
    facets: frozenset[str] | None

    @property
    def part(self) -> tuple[str, ...]:
        return ("facets", self.role, self.component)

    def standing(self, policy: Policy) -> frozenset[str] | None:
        return policy.roles[self.role].facets.get(self.component)

    def apply(self, policy: Policy) -> Policy:
        role = policy.roles[self.role]
        return _with_role(policy, replace(role, facets=_with(role.facets, self.component, self.facets)))

    def undone(self, policy: Policy) -> Operation:
        return replace(self, facets=self.standing(policy))


@dataclass(frozen=True, slots=True)
class PutRole:
    """A role with all it says."""

    role: Role

    @property
    def part(self) -> tuple[str, ...]:
        return ("role", self.role.key)

    def standing(self, policy: Policy) -> Role | None:
        return policy.roles.get(self.role.key)

    def apply(self, policy: Policy) -> Policy:
        return _with_role(policy, self.role)

    def undone(self, policy: Policy) -> Operation:
        was = self.standing(policy)
        return DropRole(self.role.key) if was is None else PutRole(was)


@dataclass(frozen=True, slots=True)
class DropRole:
    """A role is taken away; nothing may hold, build on or name it any more."""

    role: str

    @property
    def part(self) -> tuple[str, ...]:
        return ("role", self.role)

    def standing(self, policy: Policy) -> Role | None:
        return policy.roles.get(self.role)

    def apply(self, policy: Policy) -> Policy:
        return replace(policy, roles=_with(policy.roles, self.role, None))

    def undone(self, policy: Policy) -> Operation:
        was = self.standing(policy)
        return self if was is None else PutRole(was)


@dataclass(frozen=True, slots=True)
class GiveRole:
    """A new assignment."""

    assignment: Assignment

    @property
    def part(self) -> tuple[str, ...]:
        return ("assignment", self.assignment.id)

    def standing(self, policy: Policy) -> Assignment | None:
        return policy.assignments.get(self.assignment.id)

    def apply(self, policy: Policy) -> Policy:
        given = _with(policy.assignments, self.assignment.id, self.assignment)
        return replace(policy, assignments=given)

    def undone(self, policy: Policy) -> Operation:
        was = self.standing(policy)
        return TakeRole(self.assignment.id) if was is None else GiveRole(was)


@dataclass(frozen=True, slots=True)
class TakeRole:
    """An assignment comes to its end."""

    id: str

    @property
    def part(self) -> tuple[str, ...]:
        return ("assignment", self.id)

    def standing(self, policy: Policy) -> Assignment | None:
        return policy.assignments.get(self.id)

    def apply(self, policy: Policy) -> Policy:
        return replace(policy, assignments=_with(policy.assignments, self.id, None))

    def undone(self, policy: Policy) -> Operation:
        was = self.standing(policy)
        return self if was is None else GiveRole(was)


@dataclass(frozen=True, slots=True)
class SetLimit:
    """A new limit."""

    limit: Limit

    @property
    def part(self) -> tuple[str, ...]:
        return ("limit", self.limit.id)

    def standing(self, policy: Policy) -> Limit | None:
        return policy.limits.get(self.limit.id)

    def apply(self, policy: Policy) -> Policy:
        return replace(policy, limits=_with(policy.limits, self.limit.id, self.limit))

    def undone(self, policy: Policy) -> Operation:
        was = self.standing(policy)
        return DropLimit(self.limit.id) if was is None else SetLimit(was)


@dataclass(frozen=True, slots=True)
class DropLimit:
    """A limit is taken away."""

    id: str

    @property
    def part(self) -> tuple[str, ...]:
        return ("limit", self.id)

    def standing(self, policy: Policy) -> Limit | None:
        return policy.limits.get(self.id)

    def apply(self, policy: Policy) -> Policy:
        return replace(policy, limits=_with(policy.limits, self.id, None))

    def undone(self, policy: Policy) -> Operation:
        was = self.standing(policy)
        return self if was is None else SetLimit(was)


@dataclass(frozen=True, slots=True)
class SetFieldRule:
    """Who may see, fill and change one field of one type."""

    type: str
    field: str
    rule: FieldRule

    @property
    def part(self) -> tuple[str, ...]:
        return ("field", self.type, self.field)

    def standing(self, policy: Policy) -> FieldRule:
        return policy.fields.get((self.type, self.field), OPEN_FIELD)

    def apply(self, policy: Policy) -> Policy:
        return replace(
            policy, fields=_with(policy.fields, (self.type, self.field), None if self.rule == OPEN_FIELD else self.rule)
        )

    def undone(self, policy: Policy) -> Operation:
        return replace(self, rule=self.standing(policy))


@dataclass(frozen=True, slots=True)
class SetReach:
    """The branches of one tree that an account is confined to; None means it is not."""

    account: str
    tree: str
    branches: frozenset[str] | None

    @property
    def part(self) -> tuple[str, ...]:
        return ("reach", self.account, self.tree)

    def standing(self, policy: Policy) -> frozenset[str] | None:
        return policy.accounts[self.account].reach.get(self.tree)

    def apply(self, policy: Policy) -> Policy:
        account = policy.accounts[self.account]
        changed = replace(account, reach=_with(account.reach, self.tree, self.branches))
        return replace(policy, accounts=_with(policy.accounts, self.account, changed))

    def undone(self, policy: Policy) -> Operation:
        return replace(self, branches=self.standing(policy))


@dataclass(frozen=True, slots=True)
class SetLock:
    """A new lock."""

    lock: Lock

    @property
    def part(self) -> tuple[str, ...]:
        return ("lock", self.lock.id)

    def standing(self, policy: Policy) -> Lock | None:
        return policy.locks.get(self.lock.id)

    def apply(self, policy: Policy) -> Policy:
        return replace(policy, locks=_with(policy.locks, self.lock.id, self.lock))

    def undone(self, policy: Policy) -> Operation:
        was = self.standing(policy)
        return OpenLock(self.lock.id) if was is None else SetLock(was)


@dataclass(frozen=True, slots=True)
class OpenLock:
    """A lock is taken away."""

    id: str

    @property
    def part(self) -> tuple[str, ...]:
        return ("lock", self.id)

    def standing(self, policy: Policy) -> Lock | None:
        return policy.locks.get(self.id)

    def apply(self, policy: Policy) -> Policy:
        return replace(policy, locks=_with(policy.locks, self.id, None))

    def undone(self, policy: Policy) -> Operation:
        was = self.standing(policy)
        return self if was is None else SetLock(was)


def apply(policy: Policy, operations: Iterable[Operation]) -> Policy:
    """The policy with all operations applied, in their order."""
    return reduce(lambda changed, operation: operation.apply(changed), operations, policy)


def undo(policy: Policy, operations: Iterable[Operation]) -> list[Operation]:
    """The operations that take back others, applied to a policy in their order."""
    back: list[Operation] = []
    for operation in operations:
        back.append(operation.undone(policy))
        policy = operation.apply(policy)
    return back[::-1]


def _with_role(policy: Policy, role: Role) -> Policy:
    return replace(policy, roles=_with(policy.roles, role.key, role))


def _with(things: Mapping[K, V], key: K, value: V | None) -> dict[K, V]:
    changed = dict(things)
    if value is None:
        changed.pop(key, None)
    else:
        changed[key] = value
    return changed
