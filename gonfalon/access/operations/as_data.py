"""The core's operations as data, for those that are worked out and offered: what would turn a no into a yes."""

from typing import Any

from gonfalon.core import operations as core
from gonfalon.core.checks.turning import NEW
from gonfalon.core.document.writer import write_scope

Data = dict[str, Any]


def as_data(operation: core.Operation) -> Data:
    """An operation that was worked out, as it would be staged. Raises TypeError for one that never is."""
    if isinstance(operation, core.GiveRole):
        a = operation.assignment
        if a.id.startswith(NEW):
            return {"kind": "give-role", "role": a.role, "to": a.to._asdict(), "scope": write_scope(a.scope)}
        return {"kind": "change-role", "assignment": a.id, "scope": write_scope(a.scope)}
    if isinstance(operation, core.GiveCapability):
        d = operation.grant
        if not d.id.startswith(NEW):
            return {"kind": "change-capability", "grant": d.id, "scope": write_scope(d.scope)}
        said = {"capability": d.capability, "says": d.says, "scope": write_scope(d.scope)}
        return {"kind": "give-capability", "to": d.to._asdict(), **said}
    if isinstance(operation, core.TakeRole):
        return {"kind": "take-role", "assignment": operation.id}
    if isinstance(operation, core.TakeCapability):
        return {"kind": "take-capability", "grant": operation.id}
    if isinstance(operation, core.SetMember):
        who = {"account": operation.account, "group": operation.group}
        return {"kind": "set-member", **who, "member": operation.member}
    if isinstance(operation, core.SetComponents):
        return {"kind": "set-components", "role": operation.role, "components": sorted(operation.components or ())}
    if isinstance(operation, core.SetFacets):
        said = {"role": operation.role, "component": operation.component, "facets": sorted(operation.facets or ())}
        return {"kind": "set-facets", **said}
    if isinstance(operation, core.OpenLock):
        return {"kind": "open-lock", "lock": operation.id}
    if isinstance(operation, core.SetAnswer):
        return {
            "kind": "set-answer",
            "role": operation.role,
            "capability": operation.capability,
            "says": operation.says,
        }
    if isinstance(operation, core.SetLimit):
        k = operation.limit
        actions = None if k.actions is None else sorted(k.actions)
        if not k.id.startswith(NEW):
            return {"kind": "change-limit", "limit": k.id, "applies": k.applies, "actions": actions}
        said = {"node": k.node, "to": k.to._asdict(), "effect": str(k.effect), "applies": k.applies}
        return {"kind": "set-limit", **said, "actions": actions}
    if isinstance(operation, core.DropLimit):
        return {"kind": "drop-limit", "limit": operation.id}
    if isinstance(operation, core.SetReach):
        branches = None if operation.branches is None else sorted(operation.branches)
        return {"kind": "set-reach", "account": operation.account, "tree": operation.tree, "branches": branches}
    if isinstance(operation, core.SetFieldRule):
        table = {role: sorted(marks) for role, marks in operation.rule.table.items()}
        said = {"type": operation.type, "field": operation.field, "mode": operation.rule.mode}
        return {"kind": "set-field-rule", **said, "table": table}
    raise TypeError(f"{operation} is not worked out")
