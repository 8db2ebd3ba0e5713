"""Saving a page as a new version, and moving it on from state to state."""

from collections.abc import Callable, Iterator
from typing import Any

from django.utils.text import slugify

from gonfalon.access.catalogue import Catalogue
from gonfalon.access.names import topics
from gonfalon.access.snapshot import current
from gonfalon.clock import now
from gonfalon.content.models import LONGEST_SLUG, Node, Version
from gonfalon.content.nodes import raise_version, raise_version_of
from gonfalon.content.sittings import going_on
from gonfalon.ledger.models import By, Change, record
from gonfalon.work import NODES, unit

Data = dict[str, Any]


@unit(NODES.shared)
def save(row: Node, new: Data, by: By, *, kind: str = "page.saved", sitting: bool = False) -> None:
    """Write the change as a new version. The row was read once it was held; another title or topics raise NODES.

    `kind` is that of the ledger's entry. Saves of one `sitting` make one version and one entry.
    """
    new = {"topics": row.topics} | new
    if not any(changes_of(row, new, current().catalogue)):
        return
    if row.topics != new["topics"]:
        raise_version()
    elif row.title != new["title"]:
        raise_version_of(row)  # of the rest nothing is kept by version
    title = row.title if sitting else new["title"]  # what a sitting begins with may be half a word
    row.title, row.topics = new["title"], new["topics"]
    row.values, row.components = new["values"], new["components"]
    was, last = row.version, going_on(row.versions.first(), by) if sitting else None
    if last is not None:
        _raise(row, by)
        last.at, last.data = row.saved_at, version_data(row)
        last.save(update_fields=["at", "data"])
        return
    _keep(row, by, sitting=sitting)
    about, versions = ("node", row.id), {"page": row.id, "versions": [was, row.version]}
    record(by, kind, about=about, data=versions, title=title)


@unit(NODES)
def set_state(row: Node, state: str, by: By, kind: str, *, note: str = "") -> None:
    """Move a page on, or back with a note."""
    changes = [Change(what="state", was=row.state, now=state)]
    if note:
        changes.append(Change(what="note", was=None, now=note))
    row.state, row.note = state, note
    raise_version_of(row)
    _keep(row, by)
    record(by, kind, about=("node", row.id), changes=changes, title=row.title)


def _keep(row: Node, by: By, *, sitting: bool = False) -> None:
    _raise(row, by)
    keep_version(row, by, sitting=sitting)


def _raise(row: Node, by: By) -> None:
    row.version += 1
    row.saved_at, row.saved_by_id = now(), by.standing_for or by.actor
    row.save()


def keep_version(row: Node, by: By, *, sitting: bool = False) -> None:
    data = version_data(row)
    Version.objects.create(node=row, number=row.version, at=now(), by=by.actor, data=data, sitting=sitting)


def version_data(row: Node) -> Data:
    """What a version keeps of a page."""
    return {key: getattr(row, key) for key in ("title", "state", "note", "topics", "values", "components")}


def changes_of(row: Node, new: Data, catalogue: Catalogue) -> Iterator[Change]:
    """What a save changes, one by one."""
    if new["title"] != row.title:
        yield Change(what="Title", was=row.title, now=new["title"])
    if new["topics"] != row.topics:
        yield Change(what="Topics", was=_topic_names(row.topics), now=_topic_names(new["topics"]))
    for field in catalogue.type(row.type).fields:
        was, value = row.values.get(field.key), new["values"].get(field.key)
        if was != value:
            yield Change(what=field.name, was=was, now=value, field=field.key)
    before = {c["id"]: c for c in row.components}
    for component in new["components"]:
        was = before.pop(component["id"], None)
        if was is None:
            yield from _whole(component, catalogue, lambda props: (None, props))
        else:
            old, props = was["props"], component["props"]
            for key in dict.fromkeys((*props, *old)):
                if old.get(key) != props.get(key):
                    yield _property_change(catalogue, component["kind"], key, old.get(key), props.get(key))
    for gone in before.values():
        yield from _whole(gone, catalogue, lambda props: (props, None))
    was, now = _orders(row.components, new["components"], catalogue)
    if was != now:
        yield Change(what="Order of the components", was=was, now=now)


def _orders(before: list[Data], after: list[Data], catalogue: Catalogue) -> tuple[str, str]:
    """The parts that stayed, as they stood and as they stand; several of a kind with numbers, as they stood."""
    kept = {c["id"] for c in before} & {c["id"] for c in after}
    stood = [c for c in before if c["id"] in kept]
    of_kind: dict[str, list[str]] = {}
    for component in stood:
        of_kind.setdefault(component["kind"], []).append(component["id"])

    def name(component: Data) -> str:
        ids = of_kind[component["kind"]]
        called = catalogue.component_name(component["kind"])
        return f"{called} {ids.index(component['id']) + 1}" if len(ids) > 1 else called

    names = {c["id"]: name(c) for c in stood}
    return ", ".join(names.values()), ", ".join(names[c["id"]] for c in after if c["id"] in kept)


def _topic_names(keys: list[str]) -> str:
    named = topics()
    return ", ".join(named.get(key, key) for key in keys)


def _whole(component: Data, catalogue: Catalogue, told: Callable[[Data], tuple[Any, Any]]) -> Iterator[Change]:
    """A component that came or went: what anyone may know of it as one change, each of the rest by itself."""
    kind = component["kind"]
    closed = {key: value for key, value in component["props"].items() if catalogue.needs(kind, key)}
    was, now = told({key: value for key, value in component["props"].items() if key not in closed})
    yield Change(what=catalogue.component_name(kind), was=was, now=now)
    for key, value in closed.items():
        yield _property_change(catalogue, kind, key, *told(value))


def _property_change(catalogue: Catalogue, kind: str, key: str, was: Any, now: Any) -> Change:
    change = Change(what=catalogue.property_name(kind, key), was=was, now=now)
    if capability := catalogue.needs(kind, key):
        change["needs"] = capability
    return change


def slug_for(title: str, taken: set[str]) -> str:
    """An address part from a title, not yet taken among its siblings."""
    base = slugify(title)[: LONGEST_SLUG - 10] or "page"
    slug, n = base, 1
    while slug in taken:
        n += 1
        slug = f"{base}-{n}"
    return slug
