"""Locks: a node, a field or a component that is closed (§4, §5)."""

from collections.abc import Mapping
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.entries.base import Entries
from gonfalon.core.model.policy import Lock


class Locks(Entries[Lock]):
    mapping, model, made_by = "locks", rows.Lock, "locked_by"
    columns = ("node", "field", "component")

    def value(self, *said: Any) -> Lock:
        return Lock(*said)

    def said(self, entry: Lock) -> Mapping[str, Any]:
        return {"id": entry.id, "node": entry.node, "field": entry.field, "component": entry.component}
