"""What a catalogue is made of: kinds with their fields, components with their properties, duties, extensions."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from gonfalon.access.catalogue.drawn import Drawn
from gonfalon.core.model.vocabulary import Kind

FIELD_KINDS = (
    *("text", "long", "rich", "number", "yes", "date", "moment"),
    *("choice", "choices", "reference", "picture", "document", "link"),
)
"""What a field can hold; a moment is a date with a time."""
NAMING_KINDS = frozenset({"reference", "picture", "document"})
"""Those whose values are ids of nodes."""
_CHOOSING = frozenset({"choice", "choices"})
PROPERTY_KINDS = ("text", "rich", "rows", "link", "picture", "number", "yes", "choice")
"""What a property of a component can hold."""


@dataclass(frozen=True, slots=True)
class Field:
    """A field of a type. `kind` is one of FIELD_KINDS.

    A required one is asked for when a page is handed in or published.
    """

    key: str
    name: str
    kind: str = "text"
    choices: tuple[str, ...] = ()
    help: str = ""
    required: bool = False

    @property
    def fits_profile(self) -> bool:
        """Whether people can fill it in in their profile: it names no node, and a choice has something to choose."""
        return self.kind not in NAMING_KINDS and (self.kind not in _CHOOSING or bool(self.choices))


@dataclass(frozen=True, slots=True)
class ContentType:
    """A kind of node with its names. `tree` None is the profile."""

    key: str
    name: str
    plural: str
    tree: str | None
    fields: tuple[Field, ...] = ()
    under: tuple[str, ...] = ()
    """Types of parent it may be made under; none means under none."""
    components: tuple[str, ...] | None = None
    """The components its pages may be built of; None means any."""
    retired: bool = False
    """Nothing new is made of it; what there is stays."""

    def field_name(self, key: str) -> str:
        """The name of a field; of one that no installed module brings, its key."""
        return next((field.name for field in self.fields if field.key == key), key)


@dataclass(frozen=True, slots=True)
class Duty:
    """A capability that is no verb of a type. `phrase` reads after "may"; `risk` says what could go wrong."""

    key: str
    kind: Kind
    name: str
    phrase: str
    area: str
    risk: str = ""


@dataclass(frozen=True, slots=True)
class Choice:
    """What a property may be, and how that reads."""

    value: str | int
    name: str


@dataclass(frozen=True, slots=True)
class Property:
    """A property of a component. `kind` is one of PROPERTY_KINDS; a choice is one of `choices`, the first unless said.

    With `needs` only those see and change it who pass that placed capability on the page.
    """

    name: str
    facet: str
    kind: str = "text"
    needs: str | None = None
    choices: tuple[Choice, ...] = ()

    @property
    def unless_said(self) -> str | int | None:
        return self.choices[0].value if self.choices else None


@dataclass(frozen=True, slots=True)
class Component:
    """A building part of pages, drawn as `drawn` says.

    Raises ValueError where that names a property there is not. An extension may draw what no shape does on the public
    site by a `template` of its own; the desk then reads out the properties.
    """

    key: str
    name: str
    properties: Mapping[str, Property]
    drawn: tuple[Drawn, ...] = ()
    template: str = ""

    def __post_init__(self) -> None:
        for key in (key for drawn in self.drawn for key in drawn.filled.values()):
            if key not in self.properties:
                raise ValueError(f"{self.key} has no property “{key}” to be drawn")

    @property
    def facets(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(p.facet for p in self.properties.values()))

    def shapes(self, props: Mapping[str, Any]) -> list[dict[str, Any]]:
        """What is drawn of it: each shape with its name, what fills it, `label`, `heads` and `numbered`."""
        return [
            {
                "shape": drawn.shape,
                "label": drawn.label,
                "heads": drawn.heads,
                "numbered": drawn.numbered,
                **{slot: props.get(key, self.properties[key].unless_said) for slot, key in drawn.filled.items()},
            }
            for drawn in self.drawn
            if _has_something(props.get(drawn.main))
        ]


def _has_something(value: Any) -> bool:
    """Of a table, a cell."""
    return any(any(row) for row in value) if isinstance(value, list) else bool(value)


@dataclass(frozen=True, slots=True)
class Extension:
    """A package that brings kinds of content, components and duties; switched on and off by the administrator."""

    key: str
    name: str
    version: str
    description: str
    types: tuple[ContentType, ...] = ()
    components: tuple[Component, ...] = ()
    duties: tuple[Duty, ...] = ()

    @property
    def brings(self) -> tuple[str, ...]:
        """The keys of all it brings."""
        return (*(t.key for t in self.types), *(c.key for c in self.components), *(d.key for d in self.duties))
