"""Limits: what is narrowed where, for whom (§4)."""

from collections.abc import Mapping
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.entries.base import Entries
from gonfalon.core.model.policy import Limit, Subject
from gonfalon.core.model.vocabulary import Effect


class Limits(Entries[Limit]):
    mapping, model, made_by = "limits", rows.Limit, "set_by"
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
