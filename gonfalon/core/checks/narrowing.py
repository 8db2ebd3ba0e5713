"""What a limit changes today: for how many accounts, at how many nodes; and why one changes nothing for anyone (§4).

    narrowing(engine, engine.policy.limits["l1"], at)     # Narrowing(accounts=4, nodes=61)
    idle(engine, engine.policy.limits["l2"], at)          # "nothing-to-lift"

Cost: one survey, with the limit and without it, of those it could be about at the nodes it reaches; at most MOST_ASKED
answers.
"""

from datetime import datetime
from typing import Literal, NamedTuple

import numpy as np

from gonfalon.core.checks.audience import Audience
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import Limit, Policy
from gonfalon.core.model.question import Who
from gonfalon.core.model.vocabulary import ACTIONS, Effect
from gonfalon.core.operations import DropLimit, apply

MOST_ASKED = 4_000_000
Idle = Literal["keyholder", "inactive", "nobody-holds", "nobody-in", "nothing-to-lift", "not-given"]


class Narrowing(NamedTuple):
    """Accounts (visitors count as one) and nodes at which any answer is another without the limit."""

    accounts: int
    nodes: int


def narrowing(engine: Engine, limit: Limit, at: datetime) -> Narrowing | None:
    """What the limit changes; None where that comes to more than MOST_ASKED answers."""
    tree = engine.tree
    if limit.node not in tree:
        return Narrowing(0, 0)
    who = concerned(engine, limit, at)
    branch = tree.nodes[tree.branch(limit.node)]
    nodes = {"node": branch[:1], "beneath": branch[1:], "branch": branch}[limit.applies]
    parents = branch if limit.applies != "node" else []
    actions = [a for a in _every(engine.policy, limit) if a != "create"]
    makes = [f"create:{type}" for type in sorted(engine.policy.node_types)] if limit.matches("create") else []
    if len(who) * (len(nodes) * len(actions) + len(parents) * len(makes)) > MOST_ASKED:
        return None
    without = engine.changed(apply(engine.policy, [DropLimit(limit.id)]))
    people, places = set[int](), set[str]()
    for asked, some in ((actions, nodes), (makes, parents)):
        if not asked or not some or not who:
            continue
        ids = [node.id for node in some]
        differs = engine.survey(who, ids, asked, at) != without.survey(who, ids, asked, at)
        people.update(np.flatnonzero(differs.any(axis=(1, 2))).tolist())
        places.update(ids[i] for i in np.flatnonzero(differs.any(axis=(0, 2))).tolist())
    return Narrowing(len(people), len(places))


def concerned(engine: Engine, limit: Limit, at: datetime) -> list[Who]:
    """Everybody whose answers a limit could change: its account, the members of its group, the holders of its role and
    of roles that build on it."""
    policy, to = engine.policy, limit.to
    active = {a.id for a in policy.accounts.values() if a.state == "active" and not a.keyholder}
    if to.kind == "account":
        return [to.id] if to.id in active else []
    people = engine.derived(Audience)
    if to.kind == "group":
        return [*sorted(people.members(to.id) & active)]
    roles = [role for role in policy.roles if to.id in policy.role_chain(role)]
    if policy.everyone in roles:
        return [*sorted(active), None]
    if policy.signed_in in roles:
        return [*sorted(active)]
    return [*sorted(set[str]().union(*(people.holders(role, at) for role in roles)) & active)]


def idle(engine: Engine, limit: Limit, at: datetime) -> Idle:
    """Why a limit that changes nothing changes nothing."""
    policy, to = engine.policy, limit.to
    account = policy.accounts.get(to.id) if to.kind == "account" else None
    if account is not None and account.state != "active":
        return "inactive"
    if account is not None and account.keyholder:
        return "keyholder"
    if to.kind == "role" and not concerned(engine, limit, at):
        return "nobody-holds"
    if to.kind == "group" and not concerned(engine, limit, at):
        return "nobody-in"
    if limit.effect is Effect.LIFT and not _something_to_lift(engine, limit):
        return "nothing-to-lift"
    return "not-given"


def _something_to_lift(engine: Engine, limit: Limit) -> bool:
    """Whether anything further up narrows, for whom the lift is, what it names."""
    above = set(engine.tree.path(limit.node)[:-1]) if limit.node in engine.tree else set[str]()
    return any(
        other.node in above
        and other.applies != "node"
        and other.to == limit.to
        and other.effect is not Effect.LIFT
        and any(other.matches(action) for action in _every(engine.policy, limit))
        for other in engine.policy.limits.values()
    )


def _every(policy: Policy, limit: Limit) -> list[str]:
    return [action for action in (*ACTIONS, *policy.placed) if limit.matches(action)]
