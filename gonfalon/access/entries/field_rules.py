"""Field rules: who sees, fills and changes one field of one kind (§5). No row: open."""

from collections.abc import Mapping
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.describe import Names
from gonfalon.access.entries.base import Cell, Cells, Data
from gonfalon.core.model.policy import FieldRule


class FieldRules(Cells[FieldRule]):
    mapping, model, key = "fields", rows.FieldRule, ("type", "field")
    columns = ("mode", "table")

    def value(self, type: str, field: str, mode: Any, table: Any) -> tuple[Cell, FieldRule]:
        return (type, field), FieldRule(mode, {role: frozenset(marks) for role, marks in table.items()})

    def said(self, entry: tuple[Cell, FieldRule]) -> Mapping[str, Any]:
        (type, field), rule = entry
        table = {role: sorted(marks) for role, marks in rule.table.items()}
        return {"type": type, "field": field, "mode": rule.mode, "table": table}

    def what(self, said: Data, names: Names) -> str:
        type = names.catalogue.type(said["type"])
        return f"{type.name}: {type.field_name(said['field'])}"

    def heard(self, value: Data | None, said: Data, names: Names) -> str:
        if value is None or value["mode"] != "table":
            return "author only" if value and value["mode"] == "author" else "open"
        table = sorted((names.role(role), marks) for role, marks in (value.get("table") or {}).items())
        return "; ".join(f"{role}: {', '.join(sorted(marks))}" for role, marks in table) or "nobody"
