"""Locks: closing a node, a field or a component of it, and opening it again (§4).

Who may do so is asked on the node, not of the whole site.
"""

from collections.abc import Sequence
from typing import Any

from rest_framework import serializers

from gonfalon.access import models as rows
from gonfalon.access.entries import LOCKS
from gonfalon.access.names import node_parts
from gonfalon.access.operations.base import Data, OnEntry, Reader, WithId, known, known_nodes
from gonfalon.core import operations
from gonfalon.core.model import policy as core
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import LOCKS_OPEN
from gonfalon.ledger.models import By


class _SetLock(Reader):
    node = serializers.CharField()
    field = serializers.CharField(required=False, allow_null=True)
    component = serializers.CharField(required=False, allow_null=True)
    why = serializers.CharField(required=False, allow_blank=True, max_length=200)

    def validate_node(self, node: str) -> str:
        return known_nodes([node], "node", self.sight)[0]

    def validate(self, data: Data) -> Data:
        node, field, component = data["node"], data.get("field"), data.get("component")
        if field is not None and component is not None:
            raise serializers.ValidationError({"component": "A lock closes a field or a component, not both."})
        type, components = node_parts(node)
        if field is not None and field not in self.policy.types[type].fields:
            raise serializers.ValidationError({"field": "There is no such field."})
        if component is not None and component not in components:
            raise serializers.ValidationError({"component": "There is no such part on this page."})
        part = (node, field, component)
        if any((lock.node, lock.field, lock.component) == part for lock in self.policy.locks.values()):
            raise serializers.ValidationError({"node": "This is locked already."})
        return {"node": node, "field": field, "component": component, "why": data.get("why", "")}


class _OpenLock(Reader):
    lock = serializers.CharField()

    def validate_lock(self, id: str) -> str:
        lock = self.policy.locks.get(id)
        out_of_sight = lock is not None and lock.node not in self.sight.nodes
        return known(id, () if out_of_sight else self.policy.locks, "lock")


class _OnLocks(OnEntry):
    entries, dropped_by = LOCKS, ("open-lock", "lock")
    duty = LOCKS_OPEN


class SetLock(WithId, _OnLocks):
    reader = _SetLock

    def asked_at(self, data: Data, policy: Policy) -> str:
        return str(data.get("node", ""))

    def operation(self, data: Data) -> operations.Operation:
        return operations.SetLock(core.Lock(data["id"], data["node"], data["field"], data["component"]))

    def reverse(self, data: Data, was: Any) -> Data:
        return {"kind": "open-lock", "lock": data["id"], "why": data["why"]}

    def write_all(self, every: Sequence[Data], by: By) -> None:
        super().write_all(every, by)
        for data in every:
            rows.Lock.objects.filter(pk=data["id"]).update(why=data["why"])


class OpenLock(_OnLocks):
    reader = _OpenLock

    def asked_at(self, data: Data, policy: Policy) -> str:
        lock = policy.locks.get(str(data.get("lock")))
        return lock.node if lock else ""

    def complete(self, data: Data) -> Data:
        """With the word that was said, which comes back with the lock when this is undone; a staged one has no row."""
        said = rows.Lock.objects.filter(pk=data["lock"]).values_list("why", flat=True).first()
        return {**data, "why": said or ""}

    def operation(self, data: Data) -> operations.Operation:
        return operations.OpenLock(data["lock"])

    def reverse(self, data: Data, was: Any) -> Data:
        kept = {key: was[key] for key in ("id", "node", "field", "component")}
        return {"kind": "set-lock", **kept, "why": data["why"]}
