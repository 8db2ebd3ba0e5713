"""What somebody sends to change a page: read, checked and cleaned before any rule is asked.

new = read_changes(node, {"title": "Winter rates"}, writer)      # title, values and components as they would be
"""

import json
from collections.abc import Callable, Iterator, Sequence
from typing import Any

from gonfalon.access.catalogue import Catalogue, Property
from gonfalon.access.markup import Markup, best, is_link, lost, tangle
from gonfalon.clock import new_id
from gonfalon.content.field_kinds import LONGEST_TEXT, read_value
from gonfalon.content.models import Node

Data = dict[str, Any]

LARGEST_PAGE = 400_000
"""Characters that fields and components of a page come to as JSON, after cleaning."""
MOST_TO_CLEAN = 200_000
"""Characters of rich text that one save may send."""
MOST_TANGLED = 400_000
"""So many elements may come of what texts leave open (`tangle`): about a second to clean."""


class BadInput(Exception):
    """What is wrong, by JSON Pointer."""

    def __init__(self, errors: dict[str, str]) -> None:
        super().__init__(errors)
        self.errors = errors


class Writer:
    """What whoever writes has at hand: what is in use, the markup they may use, and the nodes they see.

    `taken_off` gathers the elements and attributes that cleaning took off their texts, by name.
    """

    def __init__(self, catalogue: Catalogue, usable: Sequence[Markup], finds: Callable[[str, str], bool]) -> None:
        """`finds(kind, id)` tells whether they see a node that a field of a kind may name: a picture, or a page."""
        self.catalogue, self.usable, self.finds = catalogue, usable, finds
        self.taken_off: set[str] = set()
        self._left, self._tangle = MOST_TO_CLEAN, 0

    def clean(self, html: str) -> str:
        """A text with the markup that may be used. Raises ValueError when it, or all texts together, are too long."""
        self._left -= len(html)
        if len(html) > LONGEST_TEXT:
            raise ValueError(f"A text has at most {LONGEST_TEXT:,} characters.")
        if self._left < 0:
            raise ValueError(f"Texts of more than {MOST_TO_CLEAN:,} characters cannot be saved at once.")
        self._tangle += tangle(html)
        if self._tangle > MOST_TANGLED:
            raise ValueError("There are too many links and too much emphasis in these texts to be saved at once.")
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
    known = {field.key: field for field in writer.catalogue.type(node.type).fields}
    for key, value in (data.get("values") or {}).items():
        if key not in known:
            errors[f"/values/{key}"] = f"{writer.catalogue.type(node.type).name} has no field “{key}”."
            continue
        try:
            if value != node.values.get(key):
                values[key] = read_value(known[key], value, writer)
        except ValueError as wrong:
            errors[f"/values/{key}"] = str(wrong)
    components = node.components
    if "components" in data:
        components = list(_components(node, data["components"], writer, errors))
    if not errors and len(json.dumps([values, components])) > LARGEST_PAGE:
        errors[""] = f"A page has at most {LARGEST_PAGE:,} characters in all its fields and parts."
    if errors:
        raise BadInput(errors)
    return {"title": title, "values": values, "components": components}


def _components(node: Node, given: Any, writer: Writer, errors: dict[str, str]) -> Iterator[Data]:
    known = {c["id"]: c for c in node.components}
    if not isinstance(given, list) or len(given) > 200:
        errors["/components"] = "Components are a list of at most 200."
        return
    seen: set[str] = set()
    for i, component in enumerate(given):
        at = f"/components/{i}"
        if (place := _misshapen(component)) is not None:
            errors[at + place] = "This is no component: it has a kind, properties, and an id if it is there already."
            continue
        existing = known.get(component.get("id", ""))
        if existing and existing["kind"] not in writer.catalogue.components and existing["id"] not in seen:
            seen.add(existing["id"])
            yield existing
            continue
        if existing is None and not writer.catalogue.takes(node.type, component["kind"]):
            errors[f"{at}/kind"] = f"{writer.catalogue.type(node.type).plural.capitalize()} are not built of this."
            continue
        if component["kind"] not in writer.catalogue.components:
            errors[f"{at}/kind"] = "There is no such component."
            continue
        if existing and (existing["kind"] != component["kind"] or existing["id"] in seen):
            errors[f"{at}/id"] = "Another component has this id."
            continue
        seen.add(component.get("id", ""))
        properties = writer.catalogue.components[component["kind"]].properties
        was = existing["props"] if existing else {}
        merged = dict(was)
        for key, value in (component.get("props") or {}).items():
            if key not in properties:
                errors[f"{at}/props/{key}"] = "This component has no such property."
            elif key not in was or value != was[key]:
                try:
                    merged[key] = _property(properties[key], value, writer)
                except ValueError as wrong:
                    errors[f"{at}/props/{key}"] = str(wrong)
        yield {"id": existing["id"] if existing else new_id(), "kind": component["kind"], "props": merged}


def _misshapen(component: Any) -> str | None:
    """Where something sent is not shaped as a component is: "" for all of it, None if it is."""
    if not isinstance(component, dict):
        return ""
    if not isinstance(component.get("kind"), str):
        return "/kind"
    if not isinstance(component.get("id", ""), str):
        return "/id"
    return None if isinstance(component.get("props") or {}, dict) else "/props"


def _property(known: Property, value: Any, writer: Writer) -> Any:
    if known.kind == "rows":
        return _rows(value)
    if known.kind == "choice":
        if isinstance(value, bool) or value not in [choice.value for choice in known.choices]:
            raise ValueError(f"Choose one of: {', '.join(choice.name for choice in known.choices)}.")
        return value
    if known.kind in ("yes", "number"):
        kinds = bool if known.kind == "yes" else int | float
        if not isinstance(value, kinds) or isinstance(value, bool) != (known.kind == "yes"):
            raise ValueError("This is yes or no." if known.kind == "yes" else "This is a number.")
        return value
    if not isinstance(value, str) or len(value) > LONGEST_TEXT:
        raise ValueError(f"This is text, of at most {LONGEST_TEXT:,} characters.")
    if known.kind == "rich":
        return writer.clean(value)
    if known.kind == "picture" and value and not writer.finds("picture", value):
        raise ValueError("There is no such picture.")
    if known.kind == "link" and value and not is_link(value):
        raise ValueError("A link begins with https:, mailto: or tel:, or leads to a page of this site.")
    return value


def _rows(value: Any) -> list[list[str]]:
    if not isinstance(value, list) or not all(
        isinstance(row, list) and all(isinstance(cell, str) for cell in row) for row in value
    ):
        raise ValueError("A table is rows of text.")
    return value
