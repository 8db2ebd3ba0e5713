"""What is sent to try something that must be refused: no screen offers what somebody may not do.

    attempt(item, page, catalogue)      # {"method": "POST", "path": "/api/desk/pages/p3-sail-loft/publish", "body": {}}

It is what a screen would send if it were offered, and would do it if it were not refused: in a rehearsal, of which
nothing is kept. None where nothing fit to be sent is known.
"""

from collections.abc import Mapping
from typing import Any

from gonfalon.access.catalogue import Catalogue, Field, Property
from gonfalon.content.models import Node
from gonfalon.core.checks.walk import Item

TITLE = "Tried in a rehearsal"
_STEPS = {"publish": "publish", "retire": "retire", "remove": "remove", "move": "move", "restore": "versions/1/restore"}
_OTHER: Mapping[str, tuple[Any, ...]] = {
    **dict.fromkeys(("text", "long"), (TITLE, "Tried once more")),
    "rich": (f"<p>{TITLE}</p>", "<p>Tried once more</p>"),
    "number": (1, 2),
    "yes": (True, False),
    "date": ("2027-01-01", "2027-01-02"),
    "moment": ("2027-01-01T09:00:00Z", "2027-01-02T09:00:00Z"),
    "link": ("https://example.org/", "https://example.org/tried"),
}
"""Two values of each kind, one of which is another than there is."""


def attempt(item: Item, page: Node, catalogue: Catalogue) -> dict[str, Any] | None:
    """A request, in parts."""
    at = f"/api/desk/pages/{page.pk}"
    if item.action in ("see", "see-field"):
        return _sent("GET", at)
    if item.action == "history":
        return _sent("GET", f"{at}/versions")
    if item.action in _STEPS:
        return _sent("POST", f"{at}/{_STEPS[item.action]}", {} if item.action == "move" else None)
    if item.action == "edit":
        return _sent("PATCH", at, {"title": TITLE})
    if item.action in ("create", "fill-field"):
        return _made(item, page, catalogue)
    if item.action == "change-field":
        value = _another(_field(item, page.type, catalogue), page.values.get(item.field or ""))
        return None if value is None else _sent("PATCH", at, {"values": {item.field: value}})
    components = _with_another(item, page, catalogue)
    return None if components is None else _sent("PATCH", at, {"components": components})


def _sent(method: str, path: str, body: Any = None) -> dict[str, Any]:
    return {"method": method, "path": path, "body": body}


def _made(item: Item, parent: Node, catalogue: Catalogue) -> dict[str, Any] | None:
    fitting = [type for type in item.types if parent.type in catalogue.type(type).under]
    if not fitting:
        return None
    said: dict[str, Any] = {"parent": parent.pk, "type": fitting[0], "title": TITLE}
    if item.field is not None:
        value = _another(_field(item, fitting[0], catalogue), None)
        if value is None:
            return None
        said["values"] = {item.field: value}
    return _sent("POST", "/api/desk/pages", said)


def _field(item: Item, type: str, catalogue: Catalogue) -> Field | None:
    return next((field for field in catalogue.type(type).fields if field.key == item.field), None)


def _another(field: Field | Property | None, value: Any) -> Any:
    """A value of a kind that is not the one there is."""
    if field is None:
        return None
    choices = [c if isinstance(c, str) else c.value for c in field.choices]
    return next((other for other in choices or _OTHER.get(field.kind, ()) if other != value), None)


def _with_another(item: Item, page: Node, catalogue: Catalogue) -> list[dict[str, Any]] | None:
    """The components of a page with one more, or with one that is otherwise."""
    there = [{"id": component["id"], "kind": component["kind"]} for component in page.components]
    if item.facet is None:
        fitting = [kind for kind in item.components if catalogue.takes(page.type, kind)]
        return [*there, {"kind": fitting[0], "props": {}}] if fitting else None
    for at, component in enumerate(page.components):
        for key, property in catalogue.properties(component["kind"]).items():
            if component["kind"] not in item.components or property.facet != item.facet or property.needs:
                continue
            value = _another(property, component["props"].get(key))
            if value is not None:
                return [*there[:at], {**there[at], "props": {key: value}}, *there[at + 1 :]]
    return None
