"""Operations of a change set: checked when staged, told in words, written to rows when applied.

    kind = KINDS["set-answer"]
    data = kind.read({"role": "tenant", "capability": "event.edit", "says": "team"}, policy, ids)
    kind.operation(data).apply(policy)     # in memory
    kind.write(data, by)                   # in rows, inside the caller's transaction

Both must come to the same policy; tests/api/changes/test_change_sets.py holds them beside each other.
"""

from rest_framework import serializers

from gonfalon.access.operations import assignments, limits, roles
from gonfalon.access.operations.base import Data, OperationKind
from gonfalon.core import operations

KINDS: dict[str, OperationKind] = {
    "set-answer": roles.SetAnswer(),
    "set-builds-on": roles.SetBuildsOn(),
    "set-components": roles.SetComponents(),
    "set-facets": roles.SetFacets(),
    "drop-role": roles.DropRole(),
    "put-role": roles.PutRole(),
    "give-role": assignments.GiveRole(),
    "take-role": assignments.TakeRole(),
    "set-limit": limits.SetLimit(),
    "drop-limit": limits.DropLimit(),
    "set-field-rule": limits.SetFieldRule(),
}


def kind_named(data: Data) -> OperationKind:
    """The kind an operation's data names. Raises ValidationError."""
    kind = KINDS.get(data.get("kind", ""))
    if kind is None:
        raise serializers.ValidationError({"kind": f"Say one of: {', '.join(KINDS)}."})
    return kind


def operation(data: Data) -> operations.Operation:
    """A staged operation's data as the core's operation."""
    return KINDS[data["kind"]].operation(data)
