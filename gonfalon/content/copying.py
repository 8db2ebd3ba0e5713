"""Copies of pages (§4): a draft of one's own beside the original, with what its maker may see and fill in.

copy(row, access, by, beneath=True)
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from gonfalon.access.catalogue import NAMING_KINDS, Catalogue
from gonfalon.clock import new_id
from gonfalon.content.branches import make
from gonfalon.content.models import Node, on_branch
from gonfalon.content.nodes import ancestors, as_target
from gonfalon.core.model.tree import Target
from gonfalon.ledger.models import By
from gonfalon.work import NODES, unit


class May(Protocol):
    def __call__(self, target: Target, action: str, **part: Any) -> bool:
        """Whether an action, or one on a part, is allowed on a target."""


@dataclass(frozen=True)
class Access:
    """What is asked of the rules: `ask_create` raises where a copy may not be made at a place."""

    ask_create: Callable[[Target], None]
    may: May
    sees: Callable[[str], bool]
    """Whether a node that a page names, by its id, is seen."""
    catalogue: Catalogue


@unit(NODES)
def copy(row: Node, access: Access, by: By, *, beneath: bool = False) -> Node | None:
    """Copy a page to just behind it, and with `beneath` all under it that its maker may see. None: it is gone."""
    above = ancestors(row)
    following = Node.objects.filter(on_branch(above[-1].path), depth=row.depth, path__gt=row.path)
    return _copy(row, above, above[-1], access, by, following.order_by("path").first(), beneath=beneath)


def _copy(
    row: Node, above: list[Node], to: Node, access: Access, by: By, before: Node | None = None, *, beneath: bool
) -> Node | None:
    """Copy a page that stands under `above` to under `to`."""
    source = as_target(row, above)
    place = as_target(to, ancestors(to)).child(row.type, frozenset(row.topics))
    access.ask_create(place)
    values = {
        field.key: row.values[field.key]
        for field in access.catalogue.type(row.type).fields
        if row.values.get(field.key) is not None
        and (field.kind not in NAMING_KINDS or access.sees(row.values[field.key]))
        and access.may(source, "see-field", field=field.key)
        and access.may(place, "fill-field", field=field.key)
    }
    components = [
        {**c, "id": new_id(), "props": {k: v for k, v in c["props"].items() if _shown(access, source, c["kind"], k, v)}}
        for c in row.components
    ]
    title = f"Copy of {row.title}"[:200] if above[-1].pk == to.pk else row.title
    made = make(to, row.type, title, by, topics=row.topics, values=values, components=components, before=before)
    if made is not None and beneath:
        for child in Node.objects.get_children(row):
            if access.may(as_target(child, [*above, row]), "see"):
                _copy(child, [*above, row], made, access, by, beneath=True)
    return made


def _shown(access: Access, source: Target, kind: str, key: str, value: Any) -> bool:
    """Whether whoever copies a page sees a property of one of its components."""
    capability = access.catalogue.needs(kind, key)
    if capability is not None and not access.may(source, capability):
        return False
    property = access.catalogue.properties(kind).get(key)
    return property is None or property.kind != "picture" or not value or access.sees(value)
