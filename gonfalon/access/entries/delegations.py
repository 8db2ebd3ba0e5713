"""Delegations: who lets which roles be given to whom (§9)."""

from collections.abc import Mapping
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.describe import Names, capital, when, where_words
from gonfalon.access.entries.base import Data, Entries, read_scope
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Delegation, Subject


class Delegations(Entries[Delegation]):
    mapping, model, made_by, gone = "delegations", rows.Delegation, "made_by", "ended"
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

    def what(self, said: Data, names: Names) -> str:
        return f"{capital(names.subject(said['to']))}: hand out"

    def words(self, said: Data, names: Names) -> str:
        roles = ", ".join(names.role(role) for role in said["roles"])
        receivers = f"members of {names.group(said['receivers'])}" if said.get("receivers") else "anyone"
        where = where_words(said.get("scope") or {}, names)
        return f"may give {roles} to {receivers}, {where}{when({'ends': said.get('ends')})}"
