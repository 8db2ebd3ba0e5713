"""Limits: what is narrowed where, for whom (§4)."""

from collections.abc import Mapping
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.describe import Names
from gonfalon.access.entries.base import Data, Entries
from gonfalon.core.model.policy import Limit, Subject
from gonfalon.core.model.vocabulary import Effect

APPLIES = {"node": "here only", "beneath": "beneath only", "branch": "here and beneath"}


class Limits(Entries[Limit]):
    mapping, model, made_by, gone = "limits", rows.Limit, "set_by", "dropped"
    columns = ("node", "subject_kind", "subject_id", "effect", "applies", "actions")

    def value(self, id: str, node: str, kind: Any, subject: str, effect: str, applies: Any, actions: Any) -> Limit:
        listed = None if actions is None else frozenset(actions)
        return Limit(id, node, Subject(kind, subject), Effect(effect), applies, listed)

    def said(self, entry: Limit) -> Mapping[str, Any]:
        return {
            "id": entry.id,
            "node": entry.node,
            "subject_kind": entry.to.kind,
            "subject_id": entry.to.id,
            "effect": str(entry.effect),
            "applies": entry.applies,
            "actions": None if entry.actions is None else sorted(entry.actions),
        }

    def what(self, said: Data, names: Names) -> str:
        return f"Limit on {names.node(said['node'])}"

    def words(self, said: Data, names: Names) -> str:
        actions = "everything" if said["actions"] is None else ", ".join(said["actions"])
        return f"{said['effect']} {actions} for {names.subject(said['to'])}, {APPLIES[said['applies']]}"
