"""What a change of a page touches, part by part: a question for the engine each, before anything is written (§5).

A field asks `change-field`, a facet of a component `change-facet`, a new component `insert-component`; taking one out,
or putting it elsewhere, asks `arrange-component`.
"""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from gonfalon.access.catalogue import Catalogue
from gonfalon.content.models import Node

Data = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Part:
    """A question about a part of a page: the action and what it names."""

    action: str
    field: str | None = None
    component: str | None = None
    facet: str | None = None
    component_id: str | None = None

    def words(self, type: str, catalogue: Catalogue) -> str:
        """What is asked, as it reads after "may not"."""
        if self.field is not None:
            return f"change “{catalogue.type(type).field_name(self.field)}”"
        if self.component is None:
            return f"{catalogue.phrase(self.action)} here"
        name = catalogue.component_name(self.component).lower()
        if self.facet is not None:
            return f"change the {self.facet} of the {name}"
        return f"put in a {name}" if self.action == "insert-component" else f"take out or move the {name}"


def named(data: Data, hidden: Iterable[str], catalogue: Catalogue) -> Iterator[Part]:
    """What must be asked of whatever is sent, even where it says what stands there: else one could guess at it.

    `hidden` are the fields sent that whoever sends them may not see.
    """
    yield from (Part("change-field", field=key) for key in hidden)
    for component in data.get("components", ()):
        needed = [catalogue.needs(component["kind"], key) for key in component.get("props") or ()]
        yield from (Part(capability) for capability in needed if capability is not None)


def touched(node: Node, new: Data, may_arrange: Callable[[Data], bool], catalogue: Catalogue) -> Iterator[Part]:
    """Every part that `new` would change, as a question for the engine, beyond `edit` itself.

    `may_arrange` tells of a component whether it may be put elsewhere: those that may have moved around the others.
    """
    for field in catalogue.type(node.type).fields:
        if new["values"].get(field.key) != node.values.get(field.key):
            yield Part("change-field", field=field.key)
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
        for facet in sorted({catalogue.properties(kind)[key].facet for key in changed}):
            yield Part("change-facet", component=kind, facet=facet, component_id=id if id in before else None)
    yield from (_arranging(component) for id, component in before.items() if id not in after)
    fixed = [id for id, component in before.items() if id in after and not may_arrange(component)]
    kept = [id for id in after if id in set(fixed)]
    yield from (_arranging(before[id]) for id, instead in zip(fixed, kept, strict=True) if id != instead)


def _arranging(component: Data) -> Part:
    return Part("arrange-component", component=component["kind"], component_id=component["id"])
