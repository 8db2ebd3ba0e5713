"""A policy as a document (§8), ready for `json.dump`. Reading it gives an equal policy.

Everything comes in a settled order, so that two exports of one policy are the same text.
"""

from datetime import datetime
from typing import Any

from gonfalon.core.document.reader import VERSION
from gonfalon.core.model.policy import (
    Account,
    Assignment,
    Delegation,
    DirectGrant,
    Expectation,
    FieldRule,
    Limit,
    Lock,
    NodeType,
    Policy,
    Role,
    Scope,
)
from gonfalon.core.model.question import HypotheticalSubject, Who
from gonfalon.core.model.tree import Node

Json = dict[str, Any]


def write_policy(policy: Policy) -> Json:
    """The document that says this policy. What would say nothing is left out."""
    types = {key: write_type(type) for key, type in sorted(policy.types.items())}
    return {
        "gonfalon": VERSION,
        "capabilities": {key: str(kind) for key, kind in sorted(policy.capabilities.items())},
        "types": types,
        "components": {key: list(facets) for key, facets in sorted(policy.components.items())},
        "sites": sorted(policy.sites),
        "topics": sorted(policy.topics),
        "nodes": [_node(node) for node in policy.tree.nodes],
        "groups": {key: {"parent": group.parent} for key, group in sorted(policy.groups.items())},
        "accounts": {key: write_account(account) for key, account in sorted(policy.accounts.items())},
        "roles": {key: write_role(role) for key, role in sorted(policy.roles.items())},
        "baseline": _said({"everyone": policy.everyone, "signed_in": policy.signed_in}),
        "assignments": [write_assignment(a) for _, a in sorted(policy.assignments.items())],
        "direct_grants": [write_direct_grant(d) for _, d in sorted(policy.direct_grants.items())],
        "delegations": [write_delegation(h) for _, h in sorted(policy.delegations.items())],
        "limits": [write_limit(k) for _, k in sorted(policy.limits.items())],
        "fields": {f"{type}.{field}": write_field_rule(rule) for (type, field), rule in sorted(policy.fields.items())},
        "expectations": [_expectation(e) for _, e in sorted(policy.expectations.items())],
        "locks": [write_lock(k) for _, k in sorted(policy.locks.items())],
    }


def write_time(time: datetime | None) -> str | None:
    """A time in UTC as RFC 3339."""
    return time.isoformat().replace("+00:00", "Z") if time else None


def write_scope(scope: Scope) -> dict[str, list[str]]:
    """A scope as JSON: lists that do not restrict are left out."""
    lists = {"sites": scope.sites, "branches": scope.branches, "types": scope.types, "topics": scope.topics}
    return {name: sorted(ids) for name, ids in lists.items() if ids is not None}


def write_who(who: Who) -> dict[str, Any]:
    """Whom a question is asked of, as a request names them (§8)."""
    if not isinstance(who, HypotheticalSubject):
        return {"account": who}
    scoped = [{"role": role, "scope": write_scope(scope)} for role, scope in who.scoped]
    return {"roles": [*who.roles, *scoped], "groups": list(who.groups), "own": who.as_author}


def _said(entry: Json) -> Json:
    """An entry without what is absent."""
    return {key: value for key, value in entry.items() if value is not None}


def write_type(type: NodeType) -> Json:
    """As a document has it (§8)."""
    return _said({"tree": type.tree, "fields": list(type.fields)})


def _node(node: Node) -> Json:
    return {**node._asdict(), "topics": sorted(node.topics)}


def write_account(account: Account) -> Json:
    """As a document has it (§8)."""
    reach = {tree: sorted(branches) for tree, branches in sorted(account.reach.items())}
    return {
        "state": account.state,
        "keyholder": account.keyholder,
        "groups": sorted(account.groups),
        **({"reach": reach} if reach else {}),
    }


def write_role(role: Role) -> Json:
    """As a document has it (§8)."""
    components = None if role.components is None else sorted(role.components)
    facets = {component: sorted(facets) for component, facets in sorted(role.facets.items())}
    return _said(
        {
            "builds_on": role.builds_on,
            "grants": dict(sorted(role.grants.items())),
            "components": components,
            "facets": facets or None,
        }
    )


def _given(given: Assignment | DirectGrant) -> Json:
    scope = write_scope(given.scope)
    return _said(
        {
            "to": {given.to.kind: given.to.id},
            "scope": scope or None,
            "from": write_time(given.period.starts),
            "until": write_time(given.period.ends),
        }
    )


def write_assignment(a: Assignment) -> Json:
    """As a document has it (§8)."""
    return {"id": a.id, "role": a.role, **_given(a)}


def write_direct_grant(d: DirectGrant) -> Json:
    """As a document has it (§8)."""
    return {"id": d.id, "capability": d.capability, "says": d.says, **_given(d)}


def write_delegation(h: Delegation) -> Json:
    """As a document has it (§8)."""
    return _said(
        {
            "id": h.id,
            "to": {h.to.kind: h.to.id},
            "roles": sorted(h.roles),
            "scope": write_scope(h.scope) or None,
            "receivers": None if h.receivers is None else {"group": h.receivers},
            "until": write_time(h.ends),
        }
    )


def write_limit(limit: Limit) -> Json:
    """As a document has it (§8)."""
    return {
        "id": limit.id,
        "node": limit.node,
        "applies": limit.applies,
        "to": {limit.to.kind: limit.to.id},
        "actions": "*" if limit.actions is None else sorted(limit.actions),
        "effect": str(limit.effect),
    }


def write_field_rule(rule: FieldRule) -> Json:
    """As a document has it (§8)."""
    table = {role: sorted(marks) for role, marks in sorted(rule.table.items())}
    return {"mode": rule.mode, **({"table": table} if table else {})}


def _expectation(e: Expectation) -> Json:
    reason = str(e.reason) if e.reason else None
    return _said(
        {"id": e.id, "question": dict(e.question), "expect": e.expect, "reason": reason, "note": e.note or None}
    )


def write_lock(lock: Lock) -> Json:
    """As a document has it (§8)."""
    part = {"field": lock.field} if lock.field is not None else {"component": lock.component}
    whole = lock.field is None and lock.component is None
    return {"id": lock.id, "node": lock.node, **({} if whole else {"part": part})}
