"""Earlier versions of a page: what one save changed, and what the page would be if one came back (§4).

changes(type, older, newer, catalogue)      # told one by one
restored(row, version.data, may, catalogue) # what is refused keeps what it has
"""

from collections.abc import Callable, Iterator
from typing import Any

from gonfalon.access.catalogue import Catalogue
from gonfalon.content.models import Node
from gonfalon.content.page_parts import Part
from gonfalon.content.pages import changes_of
from gonfalon.ledger.models import Change

Data = dict[str, Any]
May = Callable[[Part], bool]

BECAME = ("made", "saved", "handed-in", "taken-back", "returned", "published", "retired", "to-draft")
"""What one save can do, as the ledger's kinds of entries have it after `page.`."""


def changes(type: str, was: Data, now: Data, catalogue: Catalogue) -> Iterator[Change]:
    """What differs between two versions of a page of a type, its state too."""
    said: Data = {"topics": []} | was
    older = Node(type=type, **{key: said[key] for key in ("title", "topics", "values", "components")})
    yield from changes_of(older, {"topics": []} | now, catalogue)
    if was["state"] != now["state"]:
        yield Change(what="State", was=was["state"], now=now["state"])


def became(was: tuple[str, str] | None, now: tuple[str, str]) -> str:
    """What a save made of a page that had a state and a note (None where it made it): one of BECAME."""
    if was is None:
        return "made"
    if was[0] == now[0]:
        return "saved"
    if was[0] == Node.State.REVIEW and now[0] == Node.State.DRAFT:
        return "returned" if now[1] else "taken-back"
    return {"draft": "to-draft", "review": "handed-in", "published": "published", "retired": "retired"}[now[0]]


def restored(row: Node, old: Data, may: May, catalogue: Catalogue) -> Data:
    """Title, values and components as they would be with an earlier version back; `may` asks about each part.

    A field, a facet or a component whose change is refused keeps what it has. The state is no part of it.
    """
    values = dict(row.values)
    for field in catalogue.type(row.type).fields:
        value = old["values"].get(field.key)
        if value != row.values.get(field.key) and may(Part("change-field", field=field.key)):
            values[field.key] = value
    return {"title": old["title"], "values": values, "components": _components(row, old["components"], may, catalogue)}


def _components(row: Node, old: list[Data], may: May, catalogue: Catalogue) -> list[Data]:
    """The earlier ones that may be there, and those of now that may not be taken out.

    Where any of these may not be put elsewhere, all that stay keep the order they have.
    """
    here = {component["id"]: component for component in row.components}
    back = {c["id"]: part for c in old if (part := _part(c, here.get(c["id"]), may, catalogue)) is not None}
    fixed = {id for id, component in here.items() if not _arranged(component, may)}
    if not fixed:
        return list(back.values())
    staying = [back.get(id, component) for id, component in here.items() if id in back or id in fixed]
    return [*staying, *(component for id, component in back.items() if id not in here)]


def _part(component: Data, here: Data | None, may: May, catalogue: Catalogue) -> Data | None:
    """A component as it comes back; None where it may not be put in."""
    kind = component["kind"]
    if kind not in catalogue.every_component:
        return here  # its extension is gone: nobody can say what of it may change
    if here is None and not may(Part("insert-component", component=kind)):
        return None
    props, known = dict(here["props"]) if here else {}, catalogue.properties(kind)
    for key, value in component["props"].items():
        if value != props.get(key) and key in known and _may_change(kind, key, here, may, catalogue):
            props[key] = value
    for key in props.keys() - component["props"].keys():
        if _may_change(kind, key, here, may, catalogue):
            del props[key]
    return {**component, "props": props}


def _may_change(kind: str, key: str, here: Data | None, may: May, catalogue: Catalogue) -> bool:
    needed, known = catalogue.needs(kind, key), catalogue.properties(kind).get(key)
    if needed is not None and not may(Part(needed)):
        return False
    return known is not None and may(
        Part("change-facet", component=kind, facet=known.facet, component_id=here["id"] if here else None)
    )


def _arranged(component: Data, may: May) -> bool:
    """Whether a component that is there may be taken out or put elsewhere."""
    return may(Part("arrange-component", component=component["kind"], component_id=component["id"]))
