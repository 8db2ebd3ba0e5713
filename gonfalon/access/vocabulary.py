"""The capabilities, types and components in use here.

They are what is installed and switched on, with a capability for each markup set; or what an imported document
brought. What is said about an extension that is switched off stays in its rows, and is left out of what is read.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from gonfalon.access.catalogue import (
    COMPONENTS,
    DUTIES,
    EXTENSIONS,
    TYPES,
    VERB_WORDS,
    Catalogue,
    Component,
    ContentType,
    Duty,
    Field,
    Property,
    in_board_order,
    use_made,
)
from gonfalon.access.markup import duty_of
from gonfalon.access.models import MarkupSet, Vocabulary
from gonfalon.core.model.policy import NodeType, Policy
from gonfalon.core.model.vocabulary import FACETS, PROFILE, Kind

ONLY_ROW = 1


@dataclass(frozen=True)
class Words:
    """What can be said something about, and (`off`) the extensions installed here that are switched off."""

    capabilities: dict[str, Kind]
    types: dict[str, NodeType]
    components: dict[str, tuple[str, ...]]
    sets: tuple[MarkupSet, ...] = ()
    off: frozenset[str] = frozenset()
    retired: frozenset[tuple[str, str]] = frozenset()
    """Fields that are kept and not in use, each with its type."""

    @cached_property
    def in_use(self) -> "Words":
        """With every duty that the application itself asks, and without what extensions bring that are switched off."""
        off = [extension for key, extension in EXTENSIONS.items() if key in self.off]
        gone = {key for extension in off for key in extension.brings}
        return replace(
            self,
            capabilities={
                key: kind for key, kind in {**_installed().capabilities, **self.capabilities}.items() if key not in gone
            },
            types={key: type for key, type in self.types.items() if key not in gone},
            components={key: facets for key, facets in self.components.items() if key not in gone},
            off=frozenset(),
        )

    def knows(self, capability: str) -> bool:
        """Whether something may be said about a capability."""
        thing, _, verb = capability.partition(".")
        return capability in self.capabilities or (verb in VERB_WORDS and thing in self.types)

    @cached_property
    def catalogue(self) -> Catalogue:
        """The same in words, in the order they were installed; what only a document names has its key for a name."""
        types = {key: TYPES.get(key) or ContentType(key, key, key, type.tree) for key, type in self.types.items()}
        components = {
            key: COMPONENTS.get(key) or Component(key, key, {facet: Property(facet, facet) for facet in facets})
            for key, facets in self.components.items()
        }
        sets = {duty.key: duty for duty in map(duty_of, self.sets)}
        duties = {
            key: DUTIES.get(key) or sets.get(key) or Duty(key, kind, key, f"do “{key}”", "Other")
            for key, kind in self.capabilities.items()
        }
        return Catalogue(in_board_order(types), _in_order(components, COMPONENTS), _in_order(duties, DUTIES))


def vocabulary() -> Words:
    """What there is to say something about, switched on or off. Two queries."""
    columns = Vocabulary.objects.filter(pk=ONLY_ROW).values_list("data", "extensions", "kinds")
    data, on, kinds = columns.first() or (None, [], [])
    use_made({kind["key"]: _made(kind) for kind in kinds})
    words = _installed() if data is None else _read(data, kinds)
    sets = tuple(MarkupSet.objects.all())
    made = {duty_of(markup).key: Kind.PLACED for markup in sets}
    return replace(
        words,
        capabilities={**words.capabilities, **made},
        sets=sets,
        off=frozenset(EXTENSIONS.keys() - set(on)),
        retired=frozenset((kind["key"], f["key"]) for kind in kinds for f in kind["fields"] if f["retired"]),
    )


def keep_vocabulary(policy: Policy) -> None:
    """From now on what a policy names is what there is; nothing is kept where that is what is installed.

    Markup sets whose capability it does not name, and kinds made here that it does not, are taken away.
    """
    sets = MarkupSet.objects.all()
    MarkupSet.objects.filter(pk__in=[m.pk for m in sets if duty_of(m).key not in policy.capabilities]).delete()
    made = {duty_of(markup).key for markup in sets}
    listed = {key: kind for key, kind in policy.capabilities.items() if key not in made}
    words = Words(listed, dict(policy.types), dict(policy.components))
    row, _ = Vocabulary.objects.get_or_create(pk=ONLY_ROW)
    row.kinds = [kind for kind in row.kinds if kind["key"] in policy.types]
    use_made({kind["key"]: _made(kind) for kind in row.kinds})
    row.data = None if words == _installed() else _data(words)
    row.save(update_fields=["kinds", "data"])


def keep_kind(kind: dict[str, Any]) -> None:
    """Keep a kind of content as it is from now on. Belongs under a lock on the version."""
    row, _ = Vocabulary.objects.get_or_create(pk=ONLY_ROW)
    keys = [one["key"] for one in row.kinds]
    if kind["key"] in keys:
        row.kinds[keys.index(kind["key"])] = kind
    else:
        row.kinds.append(kind)
    if row.data is not None:  # a document said what there is: from now on with this
        row.data["types"][kind["key"]] = _type_data(_node_type(_made(kind)))
    row.save(update_fields=["kinds", "data"])


def switch(extension: str, *, on: bool) -> bool:
    """Switch an extension on or off; whether it was otherwise before. Belongs under a lock on the version."""
    row, _ = Vocabulary.objects.get_or_create(pk=ONLY_ROW)
    if (extension in row.extensions) == on:
        return False
    row.extensions = sorted({*row.extensions, extension} if on else {*row.extensions} - {extension})
    row.save()
    return True


def kind_of(capability: str, policy: Policy) -> Kind | None:
    """The kind of a capability, None when there is no such one."""
    return policy.kind(capability) if policy.knows(capability) else None


def _installed() -> Words:
    return Words(
        {duty.key: duty.kind for duty in DUTIES.values()},
        {type.key: _node_type(type) for type in TYPES.values()},
        {c.key: tuple(facet for facet in FACETS if facet in c.facets) for c in COMPONENTS.values()},
    )


def _in_order(things: dict[str, Any], installed: dict[str, Any]) -> dict[str, Any]:
    return {**{key: things[key] for key in installed if key in things}, **things}


def _data(words: Words) -> dict[str, Any]:
    return {
        "capabilities": {key: str(kind) for key, kind in words.capabilities.items()},
        "types": {key: _type_data(type) for key, type in words.types.items()},
        "components": {key: list(facets) for key, facets in words.components.items()},
    }


def _type_data(type: NodeType) -> dict[str, Any]:
    return {"tree": type.tree, "fields": list(type.fields)}


def _made(kind: dict[str, Any]) -> ContentType:
    """A kind as it is kept; its retired fields are not part of it."""
    fields = tuple(
        Field(f["key"], f["name"], f["kind"], tuple(f["choices"]), f["help"], f["required"])
        for f in kind["fields"]
        if not f["retired"]
    )
    built_of = None if kind["components"] is None else tuple(kind["components"])
    return ContentType(
        key=kind["key"],
        name=kind["name"],
        plural=kind["plural"],
        tree=kind["tree"],
        fields=fields,
        under=tuple(kind["under"]),
        components=built_of,
        retired=kind.get("retired", False),
    )


def _node_type(type: ContentType) -> NodeType:
    return NodeType(type.key, type.tree, tuple(field.key for field in type.fields))  # type: ignore[arg-type]


def _read(data: dict[str, Any], kinds: Iterable[dict[str, Any]] = ()) -> Words:
    types = {key: NodeType(key, type["tree"], tuple(type["fields"])) for key, type in data["types"].items()}
    types = {**{kind["key"]: _node_type(TYPES[kind["key"]]) for kind in kinds}, **types}
    types.setdefault(PROFILE, NodeType(PROFILE, None))
    return Words(
        {key: Kind(kind) for key, kind in data["capabilities"].items()},
        types,
        {key: tuple(facets) for key, facets in data["components"].items()},
    )
