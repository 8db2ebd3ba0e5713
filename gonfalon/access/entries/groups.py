"""Groups, and where each sits (§1)."""

from collections.abc import Iterable, Mapping
from typing import Any

from gonfalon.access.describe import Names
from gonfalon.access.entries.base import AT_ONCE, Data, Named
from gonfalon.accounts import models as rows
from gonfalon.core.model.policy import Group
from gonfalon.ledger.models import By


class Groups(Named[Group]):
    kind, above = "group", "parent"
    mapping, model, key, columns, gone = "groups", rows.Group, ("key",), ("parent_id",), "ended"

    def value(self, key: str, parent: str | None) -> Group:
        return Group(key, parent)

    def said(self, entry: Group) -> Mapping[str, Any]:
        return {"key": entry.key, "parent_id": entry.parent}

    def put(self, entries: Iterable[Group], by: By, *, keeps_maker: bool = False) -> None:
        """Write where groups sit; one that is not there is made, with its key for a name. A query for each parent."""
        beneath: dict[str | None, list[str]] = {}
        for group in entries:
            beneath.setdefault(group.parent, []).append(group.key)
        every = [rows.Group(key=key, name=key) for keys in beneath.values() for key in keys]
        rows.Group.objects.bulk_create(every, ignore_conflicts=True, batch_size=AT_ONCE)
        for parent, keys in beneath.items():
            rows.Group.objects.filter(pk__in=keys).update(parent=parent)

    def what(self, said: Data, names: Names) -> str:
        return f"The group {said.get('name') or names.group(said.get('group') or said['key'])}"

    def words(self, said: Data, names: Names) -> str:
        return "at the top" if said["parent"] is None else f"in {names.group(said['parent'])}"
