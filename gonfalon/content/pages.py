"""Editing a page: what a change touches, part by part, and saving it as a new version.

Every part is asked of the engine before anything is written: a field by `change-field`, a facet of a
component by `change-facet`, a new component by `insert-component`. Taking a component away or putting
it elsewhere asks its `layout` facet; a component that has none, the first facet it has.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any
from urllib.parse import urlsplit

from django.db import transaction
from django.utils.text import slugify

from gonfalon.access.catalogue import COMPONENTS, Component, Field, Property, component_name, type_named
from gonfalon.access.markup import SAFE_SCHEMES, Markup, best, lost
from gonfalon.clock import new_id, now
from gonfalon.content.models import Node, Version
from gonfalon.content.nodes import raise_version_of
from gonfalon.ledger.models import By, Change, record

Data = dict[str, Any]


class BadInput(Exception):
    """What is wrong, by JSON Pointer."""

    def __init__(self, errors: dict[str, str]) -> None:
        super().__init__(errors)
        self.errors = errors


@dataclass(frozen=True, slots=True)
class Part:
    """A question about a part of a page: the action and what it names."""

    action: str
    field: str | None = None
    component: str | None = None
    facet: str | None = None
    component_id: str | None = None


class Writer:
    """What whoever writes has at hand: the components in use, and the markup they may use on the page.

    `taken_off` gathers the elements and attributes that cleaning took off their texts, by name.
    """

    def __init__(self, components: Mapping[str, Component], usable: Sequence[Markup]) -> None:
        self.components, self.usable = components, usable
        self.taken_off: set[str] = set()

    def clean(self, html: str) -> str:
        cleaned = best(html, self.usable)
        self.taken_off.update(lost(html, cleaned))
        return cleaned


def read_changes(node: Node, data: Data, writer: Writer) -> Data:
    """The new title, values and components, checked; texts that changed are cleaned. Raises BadInput."""
    errors: dict[str, str] = {}
    title = str(data.get("title", node.title)).strip()
    if not title:
        errors["/title"] = "A page needs a title."
    elif len(title) > 200:
        errors["/title"] = "A title has at most 200 characters."
    values = dict(node.values)
    known = {field.key: field for field in type_named(node.type).fields}
    for key, value in (data.get("values") or {}).items():
        if key not in known:
            errors[f"/values/{key}"] = f"{type_named(node.type).name} has no field “{key}”."
            continue
        try:
            if value != node.values.get(key):
                values[key] = _value(known[key], value, writer)
        except ValueError as wrong:
            errors[f"/values/{key}"] = str(wrong)
    components = node.components
    if "components" in data:
        components = list(_components(node, data["components"], writer, errors))
    if errors:
        raise BadInput(errors)
    return {"title": title, "values": values, "components": components}


def _value(field: Field, value: Any, writer: Writer) -> Any:
    if value is None or value == "":
        return None
    if field.kind == "number":
        try:
            number = float(value)
        except (TypeError, ValueError):
            number = float("nan")
        if not abs(number) < 1e15:
            raise ValueError(f"{field.name} is a number, such as 1250.")
        return int(number) if number.is_integer() else number
    if not isinstance(value, str):
        raise ValueError(f"{field.name} is text.")
    if field.kind == "date":
        try:
            return date.fromisoformat(value).isoformat()
        except ValueError:
            raise ValueError(f"{field.name} is a date, such as 2026-05-31.") from None
    if field.kind == "choice" and value not in field.choices:
        raise ValueError(f"{field.name} is one of: {', '.join(field.choices)}.")
    if field.kind in ("picture", "reference") and not Node.objects.filter(pk=value).exists():
        raise ValueError(f"{field.name} names something that is not there.")
    if len(value) > (200 if field.kind == "text" else 20_000):
        raise ValueError(f"{field.name} is too long.")
    return writer.clean(value) if field.kind == "rich" else value


def _components(node: Node, given: Any, writer: Writer, errors: dict[str, str]) -> Iterator[Data]:
    known = {c["id"]: c for c in node.components}
    if not isinstance(given, list) or len(given) > 200:
        errors["/components"] = "Components are a list of at most 200."
        return
    seen: set[str] = set()
    for i, component in enumerate(given):
        at = f"/components/{i}"
        existing = known.get(component.get("id", "")) if isinstance(component, dict) else None
        if existing and existing["kind"] not in writer.components and existing["id"] not in seen:
            seen.add(existing["id"])
            yield existing
            continue
        if not isinstance(component, dict) or component.get("kind") not in writer.components:
            errors[f"{at}/kind"] = "There is no such component."
            continue
        if existing and (existing["kind"] != component["kind"] or existing["id"] in seen):
            errors[f"{at}/id"] = "Another component has this id."
            continue
        seen.add(component.get("id", ""))
        props = component.get("props") or {}
        properties, was = writer.components[component["kind"]].properties, existing["props"] if existing else {}
        merged = dict(was)
        for key, value in props.items():
            if key not in properties:
                errors[f"{at}/props/{key}"] = "This component has no such property."
            elif key not in was or value != was[key]:
                merged[key] = _property(properties[key], value, f"{at}/props/{key}", writer, errors)
        yield {"id": existing["id"] if existing else new_id(), "kind": component["kind"], "props": merged}


def _property(known: Property, value: Any, at: str, writer: Writer, errors: dict[str, str]) -> Any:
    if known.kind == "rows":
        if not isinstance(value, list) or not all(
            isinstance(row, list) and all(isinstance(cell, str) for cell in row) for row in value
        ):
            errors[at] = "A table is rows of text."
        return value
    if known.kind == "plain":
        if not isinstance(value, str | int | bool):
            errors[at] = "This cannot be read."
        return value
    if not isinstance(value, str) or len(value) > 20_000:
        errors[at] = "This is text, of at most 20,000 characters."
        return ""
    if known.kind == "rich":
        return writer.clean(value)
    if known.kind == "link" and urlsplit(value).scheme not in (*SAFE_SCHEMES, ""):
        errors[at] = "A link begins with https:, mailto: or tel:, or leads to a page of this site."
    return value


def parts_named(data: Data, hidden: Iterable[str]) -> Iterator[Part]:
    """What must be asked of whatever is sent, even where it says what stands there: else one could guess at it.

    `hidden` are the fields sent that whoever sends them may not see.
    """
    yield from (Part("change-field", field=key) for key in hidden)
    for component in data.get("components", ()):
        needed = [_needs(component.get("kind", ""), key) for key in component.get("props") or ()]
        yield from (Part(capability) for capability in needed if capability is not None)


def parts_touched(node: Node, new: Data) -> Iterator[Part]:
    """Every part that `new` would change, as a question for the engine, beyond `edit` itself."""
    for key in type_named(node.type).fields:
        if new["values"].get(key.key) != node.values.get(key.key):
            yield Part("change-field", field=key.key)
    before = {c["id"]: c for c in node.components}
    after = {c["id"]: c for c in new["components"]}
    for id, component in after.items():
        kind = component["kind"]
        if id not in before:
            yield Part("insert-component", component=kind)
            changed = [key for key, value in component["props"].items() if value]
        else:
            was = before[id]["props"]
            changed = [key for key, value in component["props"].items() if was.get(key) != value]
        for facet in sorted({COMPONENTS[kind].properties[key].facet for key in changed}):
            yield Part("change-facet", component=kind, facet=facet, component_id=id if id in before else None)
    kept = [id for id in before if id in after]
    moved = [id for id in after if id in before] != kept
    for id, component in before.items():
        if id not in after or moved:
            yield _layout_of(component)


def _layout_of(component: Data) -> Part:
    kind = component["kind"]
    if "layout" in COMPONENTS[kind].facets:
        return Part("change-facet", component=kind, facet="layout", component_id=component["id"])
    return Part("change-facet", component=kind, facet=COMPONENTS[kind].facets[0], component_id=component["id"])


@transaction.atomic
def save(node: Node, new: Data, by: By, *, still: Callable[[Node], bool]) -> Node | None:
    """Write the change as a new version. None when `still` says the row is no longer what it was."""
    row = Node.objects.select_for_update().get(pk=node.pk)
    if not still(row):
        return None
    changes = list(_changes(row, new))
    if not changes:
        return row
    if row.title != new["title"]:
        raise_version_of(row)  # of the rest nothing is kept by version
    row.title, row.values, row.components = new["title"], new["values"], new["components"]
    _keep(row, by)
    record(by, "page.saved", f"Saved {row.title}", about=("node", row.id), changes=changes)
    return row


@transaction.atomic
def set_state(node: Node, state: str, by: By, kind: str, summary: str, *, still: Callable[[Node], bool]) -> Node | None:
    """Move a page on: handed in, published or retired."""
    row = Node.objects.select_for_update().get(pk=node.pk)
    if not still(row):
        return None
    change = Change(what="State", was=row.state, now=state)
    row.state = state
    raise_version_of(row)
    _keep(row, by)
    record(by, kind, f"{summary} {row.title}", about=("node", row.id), changes=[change])
    return row


def _keep(row: Node, by: By) -> None:
    row.version += 1
    row.saved_at, row.saved_by_id = now(), by.standing_for or by.actor
    row.save()
    keep_version(row, by)


def keep_version(row: Node, by: By) -> None:
    data = {"title": row.title, "state": row.state, "values": row.values, "components": row.components}
    Version.objects.create(node=row, number=row.version, at=now(), by=by.actor, data=data)


def _changes(row: Node, new: Data) -> Iterator[Change]:
    if new["title"] != row.title:
        yield Change(what="Title", was=row.title, now=new["title"])
    for field in type_named(row.type).fields:
        was, value = row.values.get(field.key), new["values"].get(field.key)
        if was != value:
            yield Change(what=field.name, was=was, now=value, field=field.key)
    before = {c["id"]: c for c in row.components}
    for component in new["components"]:
        was = before.pop(component["id"], None)
        if was is None:
            yield from _whole(component, lambda props: (None, props))
        else:
            for key, value in component["props"].items():
                if was["props"].get(key) != value:
                    yield _property_change(component["kind"], key, was["props"].get(key), value)
    for gone in before.values():
        yield from _whole(gone, lambda props: (props, None))
    order = [c["id"] for c in row.components]
    if [c["id"] for c in new["components"] if c["id"] in order] != [id for id in order if id not in before]:
        yield Change(what="Order of the components", was=None, now=None)


def _whole(component: Data, told: Callable[[Data], tuple[Any, Any]]) -> Iterator[Change]:
    """A component that came or went: what anyone may know of it as one change, each of the rest by itself."""
    kind = component["kind"]
    closed = {key: value for key, value in component["props"].items() if _needs(kind, key)}
    was, now = told({key: value for key, value in component["props"].items() if key not in closed})
    yield Change(what=component_name(kind), was=was, now=now)
    for key, value in closed.items():
        yield _property_change(kind, key, *told(value))


def _property_change(kind: str, key: str, was: Any, now: Any) -> Change:
    change = Change(what=f"{component_name(kind)}: {key}", was=was, now=now)
    if needs := _needs(kind, key):
        change["needs"] = needs
    return change


def _needs(kind: str, key: str) -> str | None:
    properties = COMPONENTS[kind].properties if kind in COMPONENTS else {}
    return properties[key].needs if key in properties else None


def slug_for(title: str, taken: set[str]) -> str:
    """An address part from a title, not yet taken among its siblings."""
    base = slugify(title)[:70] or "page"
    slug, n = base, 1
    while slug in taken:
        n += 1
        slug = f"{base}-{n}"
    return slug
