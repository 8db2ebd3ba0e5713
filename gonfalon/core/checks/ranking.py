"""How far a change reaches for others: what orders the ways to turn an answer, before anything else is worked out."""

from gonfalon.core.checks.audience import Audience
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import Policy, Subject
from gonfalon.core.model.vocabulary import EXTENT_OF, Extent
from gonfalon.core.operations import (
    DropLimit,
    GiveCapability,
    GiveRole,
    Operation,
    SetAnswer,
    SetComponents,
    SetFacets,
    SetLimit,
    SetMember,
    SetReach,
    TakeCapability,
    TakeRole,
)

Way = tuple[Operation, ...]
"""Operations that turn an answer together."""


def reach_of(way: Way, engine: Engine) -> tuple[int, int, int]:
    """How many others it is about, how much it says, and by how many entries."""
    others = max(_others(one, engine) for one in way)
    return others, sum(_amount(one, engine.policy) for one in way), len(way)


def _others(operation: Operation, engine: Engine) -> int:
    """How many accounts besides the one asked about it could be about."""
    policy = engine.policy
    to: Subject | None = None
    if isinstance(operation, GiveRole):
        to = operation.assignment.to
    elif isinstance(operation, GiveCapability):
        to = operation.grant.to
    elif isinstance(operation, SetLimit):
        to = operation.limit.to
    elif isinstance(operation, DropLimit):
        to = policy.limits[operation.id].to
    elif isinstance(operation, SetAnswer | SetComponents | SetFacets):
        to = Subject.role(operation.role)
    elif isinstance(operation, SetReach | SetMember):
        return 0
    elif isinstance(operation, TakeRole):
        to = policy.assignments[operation.id].to
    elif isinstance(operation, TakeCapability):
        to = policy.direct_grants[operation.id].to
    if to is None or (to.kind == "role" and to.id in policy.baseline):
        return len(policy.accounts)
    people = engine.derived(Audience)
    if to.kind == "account":
        return 0
    return len(people.members(to.id)) if to.kind == "group" else people.given(to.id)


def _amount(operation: Operation, policy: Policy) -> int:
    """How much is said by it, roughly: what a role gives, what a limit holds back."""
    if isinstance(operation, GiveRole):
        everywhere = 1000 if operation.assignment.scope.unrestricted else 0
        return everywhere + sum(len(policy.roles[key].grants) for key in policy.role_chain(operation.assignment.role))
    if isinstance(operation, DropLimit):
        return 1000
    if isinstance(operation, GiveCapability):
        return int(EXTENT_OF[operation.grant.says])
    if isinstance(operation, SetAnswer):
        return int(EXTENT_OF.get(operation.says or "", Extent.OWN))
    return 1
