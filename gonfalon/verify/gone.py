"""A policy without what it says of pages that are in the bin: a document names nothing that is not there.

What is said stays in its rows, and counts again when the pages are brought back.
"""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from gonfalon.core.model.policy import Policy, Scope


def without_gone(policy: Policy) -> Policy:
    """The policy as far as it is about nodes of its tree. A list of branches that are all gone covers nothing."""
    tree = policy.tree
    return replace(
        policy,
        assignments={id: replace(a, scope=_scope(a.scope, policy)) for id, a in policy.assignments.items()},
        direct_grants={id: replace(d, scope=_scope(d.scope, policy)) for id, d in policy.direct_grants.items()},
        delegations={id: replace(d, scope=_scope(d.scope, policy)) for id, d in policy.delegations.items()},
        accounts={
            id: replace(a, reach={t: frozenset(b for b in branches if b in tree) for t, branches in a.reach.items()})
            for id, a in policy.accounts.items()
        },
        limits={id: limit for id, limit in policy.limits.items() if limit.node in tree},
        locks={id: lock for id, lock in policy.locks.items() if lock.node in tree},
        expectations={id: e for id, e in policy.expectations.items() if _asks_of_there(e.question, policy)},
    )


def _scope(scope: Scope, policy: Policy) -> Scope:
    if scope.branches is None or all(branch in policy.tree for branch in scope.branches):
        return scope
    return scope._replace(branches=frozenset(b for b in scope.branches if b in policy.tree))


def _asks_of_there(question: Mapping[str, Any], policy: Policy) -> bool:
    named = [question.get(key) for key in ("node", "branch", "to")]
    held = [role for role in question.get("roles") or () if isinstance(role, Mapping)]
    for scope in (question.get("scope"), *(role.get("scope") for role in held)):
        named += (scope or {}).get("branches") or ()
    return all(id in policy.tree for id in named if isinstance(id, str))
