"""Locks: a node, a field or a component that is closed (§4, §5)."""

from collections.abc import Mapping
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.describe import Names
from gonfalon.access.entries.base import Data, Entries
from gonfalon.core.model.policy import Lock


class Locks(Entries[Lock]):
    mapping, model, made_by, gone = "locks", rows.Lock, "locked_by", "opened"
    columns = ("node", "field", "component")

    def value(self, *said: Any) -> Lock:
        return Lock(*said)

    def said(self, entry: Lock) -> Mapping[str, Any]:
        return {"id": entry.id, "node": entry.node, "field": entry.field, "component": entry.component}

    def what(self, said: Data, names: Names) -> str:
        return f"Lock on {names.part(said.get('field'), said.get('component'))}{names.node(said['node'])}"

    def words(self, said: Data, names: Names) -> str:
        return f"locked: {said['why']}" if said.get("why") else "locked"
