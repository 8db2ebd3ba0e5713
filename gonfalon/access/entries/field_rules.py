"""Field rules: who sees, fills and changes one field of one kind (§5). No row: open."""

from collections.abc import Iterable, Mapping
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.entries.base import Entries
from gonfalon.core.model.policy import FieldRule

Cell = tuple[str, str]


class FieldRules(Entries[tuple[Cell, FieldRule]]):
    """Each is put with its kind and field."""

    mapping, model, key = "fields", rows.FieldRule, ("type", "field")
    columns = ("mode", "table")

    def value(self, type: str, field: str, mode: Any, table: Any) -> tuple[Cell, FieldRule]:
        return (type, field), FieldRule(mode, {role: frozenset(marks) for role, marks in table.items()})

    def said(self, entry: tuple[Cell, FieldRule]) -> Mapping[str, Any]:
        (type, field), rule = entry
        table = {role: sorted(marks) for role, marks in rule.table.items()}
        return {"type": type, "field": field, "mode": rule.mode, "table": table}

    def rules(self) -> dict[Cell, FieldRule]:
        """All of them by kind and field. One query."""
        return dict(self.read().values())

    def drop(self, keys: Iterable[Cell]) -> None:
        for type, field in keys:
            rows.FieldRule.objects.filter(type=type, field=field).delete()
