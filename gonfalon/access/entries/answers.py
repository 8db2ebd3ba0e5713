"""What roles say about capabilities (§2). No row: nothing said."""

from collections.abc import Mapping
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.describe import SAID, Names
from gonfalon.access.entries.base import Cell, Cells, Data


class Answers(Cells[str]):
    mapping, model, key, columns = "roles", rows.Answer, ("role_id", "capability"), ("says",)

    def value(self, role: str, capability: str, says: str) -> tuple[Cell, str]:
        return (role, capability), says

    def said(self, entry: tuple[Cell, str]) -> Mapping[str, Any]:
        (role, capability), says = entry
        return {"role_id": role, "capability": capability, "says": says}

    def what(self, said: Data, names: Names) -> str:
        return f"{names.role(said['role'])}: {names.catalogue.phrase(said['capability'])}"

    def heard(self, value: str | None, said: Data, names: Names) -> str:
        return SAID[value]
