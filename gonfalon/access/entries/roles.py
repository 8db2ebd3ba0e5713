"""Roles, and what each builds on and allows of components (§2, §5). What it says about capabilities are answers."""

from collections.abc import Container, Iterable, Mapping
from typing import Any

from gonfalon.access import models as rows
from gonfalon.access.describe import Names
from gonfalon.access.entries.base import AT_ONCE, Cell, Cells, Data, Named
from gonfalon.access.vocabulary import vocabulary
from gonfalon.core.model.policy import Role
from gonfalon.ledger.models import By


class Roles(Named[Role]):
    """Roles with all that they say but their answers; their names and cloths are not of the policy."""

    mapping, model, key, gone = "roles", rows.Role, ("key",), "removed"
    kind, above = "role", "builds_on"
    columns = ("builds_on_id", "components", "facets")

    def value(self, key: str, builds_on: str | None, components: Any, facets: Any) -> Role:
        listed = None if components is None else frozenset(components)
        return Role(key, {}, builds_on, listed, {name: frozenset(some) for name, some in facets.items()})

    def with_baseline(self) -> tuple[dict[str, Role], dict[str, str]]:
        """All of them by key, and the keys of those that nobody assigns, by whom they reach. One query."""
        found = list(rows.Role.objects.values_list("key", *self.columns, "baseline"))
        return {row[0]: self.value(*row[:-1]) for row in found}, {row[-1]: row[0] for row in found if row[-1]}

    def put(self, entries: Iterable[Role], by: By, *, keeps_maker: bool = False) -> None:
        """Write what roles that are there build on and allow. What they say of components that are switched off stays.

        Three queries.
        """
        said = {role.key: role for role in entries}
        there = vocabulary().in_use.components
        kept = list(rows.Role.objects.filter(pk__in=said))
        for row in kept:
            role = said[row.key]
            row.builds_on_id = role.builds_on
            row.components = _listed(role.components, row, there)
            facets = {name: sorted(some) for name, some in role.facets.items()}
            row.facets = {**{name: some for name, some in row.facets.items() if name not in there}, **facets}
        rows.Role.objects.bulk_update(kept, self.columns, batch_size=AT_ONCE)

    def what(self, said: Data, names: Names) -> str:
        return f"Role {said['row']['name'] if 'row' in said else names.role(said.get('role') or said['key'])}"

    def words(self, said: Data, names: Names) -> str:
        return "put back" if "row" in said else "there"


class BuildsOn(Cells[str]):
    mapping, model, key, columns = "roles", rows.Role, ("key",), ("builds_on_id",)

    def put(self, entries: Iterable[tuple[Cell, str]], by: By, *, keeps_maker: bool = False) -> None:
        for (role,), above in entries:
            rows.Role.objects.filter(pk=role).update(builds_on=above)

    def drop(self, keys: Iterable[Cell]) -> None:
        rows.Role.objects.filter(pk__in=[role for (role,) in keys]).update(builds_on=None)

    def what(self, said: Data, names: Names) -> str:
        return f"{names.role(said['role'])}: builds on"

    def heard(self, value: str | None, said: Data, names: Names) -> str:
        return "nothing" if value is None else names.role(value)


class Insertable(Cells[frozenset[str]]):
    """The components that a role may insert."""

    mapping, model, key, columns = "roles", rows.Role, ("key",), ("components",)

    def put(self, entries: Iterable[tuple[Cell, frozenset[str]]], by: By, *, keeps_maker: bool = False) -> None:
        said = {role: listed for (role,), listed in entries}
        there = vocabulary().in_use.components
        kept = list(rows.Role.objects.filter(pk__in=said))
        for row in kept:
            row.components = _listed(said[row.key], row, there)
        rows.Role.objects.bulk_update(kept, self.columns)

    def drop(self, keys: Iterable[Cell]) -> None:
        rows.Role.objects.filter(pk__in=[role for (role,) in keys]).update(components=None)

    def what(self, said: Data, names: Names) -> str:
        return f"{names.role(said['role'])}: insert components"

    def heard(self, value: Iterable[str] | None, said: Data, names: Names) -> str:
        return _named(value, "any", names)


class Changeable(Cells[frozenset[str]]):
    """The facets of one component that a role may change."""

    mapping, model, key, columns = "roles", rows.Role, ("key", "component"), ("facets",)

    def put(self, entries: Iterable[tuple[Cell, frozenset[str]]], by: By, *, keeps_maker: bool = False) -> None:
        self._change({(role, component): sorted(facets) for (role, component), facets in entries})

    def drop(self, keys: Iterable[Cell]) -> None:
        self._change(dict.fromkeys(keys))

    def _change(self, said: Mapping[Cell, list[str] | None]) -> None:
        kept = {row.key: row for row in rows.Role.objects.filter(pk__in={role for role, _ in said})}
        for (role, component), facets in said.items():
            others = {name: some for name, some in kept[role].facets.items() if name != component}
            kept[role].facets = others if facets is None else {**others, component: facets}
        rows.Role.objects.bulk_update(kept.values(), self.columns)

    def what(self, said: Data, names: Names) -> str:
        return f"{names.role(said['role'])}: change {names.catalogue.component_name(said['component']).lower()}"

    def heard(self, value: Iterable[str] | None, said: Data, names: Names) -> str:
        return _named(value, "everything", names)


def _listed(components: Iterable[str] | None, row: rows.Role, there: Container[str]) -> list[str] | None:
    if components is None:
        return None
    return sorted({*components, *(key for key in row.components or () if key not in there)})


def _named(listed: Iterable[str] | None, unsaid: str, names: Names) -> str:
    if listed is None:
        return f"nothing said, so {unsaid}"
    return ", ".join(names.catalogue.component_name(key).lower() for key in listed) or "nothing"
