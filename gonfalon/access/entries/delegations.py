"""Delegations: who lets which roles be given to whom (§9)."""

from collections.abc import Mapping
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.entries.base import Entries, read_scope
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Delegation, Subject


class Delegations(Entries[Delegation]):
    mapping, model, made_by = "delegations", rows.Delegation, "made_by"
    columns = ("subject_kind", "subject_id", "roles", "scope", "receivers_id", "ends")

    def value(self, id: str, kind: Any, subject: str, roles: Any, scope: Any, receivers: Any, ends: Any) -> Delegation:
        return Delegation(id, Subject(kind, subject), frozenset(roles), read_scope(scope), receivers, ends)

    def said(self, entry: Delegation) -> Mapping[str, Any]:
        return {
            "id": entry.id,
            "subject_kind": entry.to.kind,
            "subject_id": entry.to.id,
            "roles": sorted(entry.roles),
            "scope": write_scope(entry.scope),
            "receivers_id": entry.receivers,
            "ends": entry.ends,
        }
