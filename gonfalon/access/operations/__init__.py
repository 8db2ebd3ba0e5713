"""Operations of a change set: checked when staged, told in words, written to rows when applied.

    kind = KINDS["set-answer"]
    data = kind.read({"role": "tenant", "capability": "event.edit", "says": "team"}, policy, ids)
    kind.operation(data).apply(policy)     # in memory
    kind.write_all([data], by)             # in rows, inside the caller's unit
    kind.told(data, None, names)           # {"what": "Gallery tenant: change events", "was": "nothing said", …}

Both must come to the same policy; tests/api/changes/test_change_sets.py holds them beside each other.
"""

from collections.abc import Iterable
from typing import Any

from rest_framework import serializers

from gonfalon.access.describe import Names
from gonfalon.access.operations import accounts, assignments, delegations, groups, limits, locks, roles
from gonfalon.access.operations.base import Data, OperationKind, plain
from gonfalon.access.sight import Sight
from gonfalon.core import operations
from gonfalon.ledger.models import Change

__all__ = ["KINDS", "Data", "OperationKind", "kind_named", "operation", "plain"]

KINDS: dict[str, OperationKind] = {
    "set-answer": roles.SetAnswer(),
    "set-builds-on": roles.SetBuildsOn(),
    "set-components": roles.SetComponents(),
    "set-facets": roles.SetFacets(),
    "drop-role": roles.DropRole(),
    "put-role": roles.PutRole(),
    "give-role": assignments.GiveRole(),
    "change-role": assignments.ChangeRole(),
    "take-role": assignments.TakeRole(),
    "give-capability": assignments.GiveCapability(),
    "change-capability": assignments.ChangeCapability(),
    "take-capability": assignments.TakeCapability(),
    "put-delegation": delegations.PutDelegation(),
    "drop-delegation": delegations.DropDelegation(),
    "set-reach": accounts.SetReach(),
    "set-member": accounts.SetMember(),
    "set-state": accounts.SetState(),
    "move-group": groups.MoveGroup(),
    "drop-group": groups.DropGroup(),
    "put-group": groups.PutGroup(),
    "set-limit": limits.SetLimit(),
    "change-limit": limits.ChangeLimit(),
    "drop-limit": limits.DropLimit(),
    "set-field-rule": limits.SetFieldRule(),
    "set-lock": locks.SetLock(),
    "open-lock": locks.OpenLock(),
}


def kind_named(data: Data) -> OperationKind:
    """The kind an operation's data names. Raises ValidationError."""
    name = data.get("kind")
    kind = KINDS.get(name) if isinstance(name, str) else None
    if kind is None:
        raise serializers.ValidationError({"kind": f"Say one of: {', '.join(KINDS)}."})
    return kind


def operation(data: Data) -> operations.Operation:
    """A staged operation's data as the core's operation."""
    return KINDS[data["kind"]].operation(data)


def told(data: Data, was: Any, names: Names) -> Change:
    """A staged or applied operation in words: what it changes, what that was and what it becomes."""
    return KINDS[data["kind"]].told(data, was, names)


def recorded(data: Data, was: Any, names: Names) -> Change:
    """The same for the ledger, with the nodes that it names."""
    change = told(data, was, names)
    if nodes := nodes_in(data, was):
        change["nodes"] = sorted(nodes)
    return change


def nodes_in(data: Data, was: Any) -> set[str]:
    """The nodes that an operation names, or that how its part stood did."""
    nodes: set[str] = set()
    for said in (data, was):
        if isinstance(said, dict):
            nodes |= {said["node"]} if "node" in said else set()
            nodes |= {*((said.get("scope") or {}).get("branches") or ()), *(said.get("branches") or ())}
    return nodes | ({*was} if data["kind"] == "set-reach" and isinstance(was, list) else set())


def people_in(data: Data, was: Any) -> set[str]:
    """The accounts that an operation names, or that how its part stood did."""
    people = {data["account"]} if "account" in data else set()
    for said in (data, was):
        to = said.get("to") if isinstance(said, dict) else None
        people |= {to["id"]} if to and to["kind"] == "account" else set()
    return people


def are_known(every: Iterable[tuple[Data, Any]], sight: Sight) -> bool:
    """Whether all that some operations name may be named to somebody; each is given with how its part stood."""
    return all(
        all(id in sight.nodes for id in nodes_in(data, was)) and all(id in sight.people for id in people_in(data, was))
        for data, was in every
    )
