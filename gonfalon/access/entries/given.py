"""Assignments and direct grants: to whom, where, from when, until when (§3)."""

from collections.abc import Mapping
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.describe import SAID, Names, when, where_words
from gonfalon.access.entries.base import Data, Entries, read_scope
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Assignment, DirectGrant, Period, Subject

_SHARED = ("account_id", "group_id", "scope", "starts", "ends")


def _receiver(account: str | None, group: str | None) -> Subject:
    return Subject.group(str(group)) if account is None else Subject.account(account)


def _shared(given: Assignment | DirectGrant) -> dict[str, Any]:
    return {
        "id": given.id,
        "account_id": given.to.id if given.to.kind == "account" else None,
        "group_id": given.to.id if given.to.kind == "group" else None,
        "scope": write_scope(given.scope),
        "starts": given.period.starts,
        "ends": given.period.ends,
    }


def _words(said: Data, names: Names) -> str:
    return f"given {where_words(said.get('scope') or {}, names)}{when(said.get('period') or said)}"


class Assignments(Entries[Assignment]):
    mapping, model, made_by = "assignments", rows.Assignment, "given_by"
    columns = ("role_id", *_SHARED)

    def value(self, id: str, role: str, account: Any, group: Any, scope: Any, starts: Any, ends: Any) -> Assignment:
        return Assignment(id, role, _receiver(account, group), read_scope(scope), Period(starts, ends))

    def said(self, entry: Assignment) -> Mapping[str, Any]:
        return {"role_id": entry.role, **_shared(entry)}

    def what(self, said: Data, names: Names) -> str:
        return f"{names.subject(said['to'])}: {names.role(said['role'])}"

    def words(self, said: Data, names: Names) -> str:
        return _words(said, names)


class DirectGrants(Entries[DirectGrant]):
    mapping, model, made_by = "direct_grants", rows.DirectGrant, "given_by"
    columns = ("capability", "says", *_SHARED)

    def value(
        self, id: str, capability: str, says: str, account: Any, group: Any, scope: Any, *when: Any
    ) -> DirectGrant:
        return DirectGrant(id, _receiver(account, group), capability, says, read_scope(scope), Period(*when))

    def said(self, entry: DirectGrant) -> Mapping[str, Any]:
        return {"capability": entry.capability, "says": entry.says, **_shared(entry)}

    def what(self, said: Data, names: Names) -> str:
        barred = "barred: " if said["says"] == "barred" else ""
        extent = f" ({SAID[said['says']]})" if said["says"] in ("own", "team") else ""
        return f"{names.subject(said['to'])}: {barred}{names.catalogue.phrase(said['capability'])}{extent}"

    def words(self, said: Data, names: Names) -> str:
        return _words(said, names)
