"""What a sentence says should be, beside a policy: whether it is so, and what would make it so."""

from dataclasses import replace
from typing import Any

from gonfalon.core.document.writer import write_scope, write_time
from gonfalon.core.model.policy import OPEN_FIELD, Assignment, DirectGrant, Limit, Policy, Subject
from gonfalon.core.sentences.changes import Answer, FieldRow, SaidChange

Data = dict[str, Any]


def is_so(change: SaidChange, policy: Policy) -> bool:
    """Whether a policy says just that already."""
    if isinstance(change, Answer):
        return policy.roles[change.role].grants.get(change.capability) == change.says
    if isinstance(change, FieldRow):
        rule = policy.fields.get((change.type, change.field), OPEN_FIELD)
        return rule.mode == "table" and rule.table.get(change.role, frozenset()) == change.marks
    return any(replace(entry, id="") == change for entry in _entries(change, policy))


def operation_of(change: SaidChange, policy: Policy) -> Data:
    """The operation that says it, as it is staged."""
    if isinstance(change, Answer):
        return {"kind": "set-answer", **change._asdict()}
    if isinstance(change, FieldRow):
        rule = policy.fields.get((change.type, change.field), OPEN_FIELD)
        table = {role: sorted(marks) for role, marks in {**rule.table, change.role: change.marks}.items() if marks}
        return {"kind": "set-field-rule", "type": change.type, "field": change.field, "mode": "table", "table": table}
    if isinstance(change, Limit):
        return {
            "kind": "set-limit",
            "node": change.node,
            "to": _to(change.to),
            "effect": str(change.effect),
            "applies": change.applies,
            "actions": None if change.actions is None else sorted(change.actions),
        }
    said: Data = {"to": _to(change.to), "scope": write_scope(change.scope)}
    said |= {"starts": write_time(change.period.starts), "ends": write_time(change.period.ends)}
    if isinstance(change, Assignment):
        return {"kind": "give-role", "role": change.role, **said}
    return {"kind": "give-capability", "capability": change.capability, "says": change.says, **said}


def _to(to: Subject) -> Data:
    return {"kind": to.kind, "id": to.id}


def _entries(change: Assignment | DirectGrant | Limit, policy: Policy) -> list[Any]:
    if isinstance(change, Assignment):
        return list(policy.assignments.values())
    return list((policy.direct_grants if isinstance(change, DirectGrant) else policy.limits).values())
