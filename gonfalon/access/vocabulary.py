"""The capabilities, types and components in use here.

They are what is installed and switched on, with a capability for each markup set; or what an imported document
brought. What is said about an extension that is switched off stays in its rows, and is left out of what is read.
"""

from collections.abc import Mapping, Set
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from gonfalon.access.catalogue import VERB_WORDS, Catalogue, Component, ContentType, Duty, Field, Property, installed
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
    made: dict[str, ContentType] = field(default_factory=dict)
    """Kinds of content made here, and those that ship as they were changed."""

    @cached_property
    def in_use(self) -> "Words":
        """With every duty that the application itself asks, and without what extensions bring that are switched off."""
        off = [extension for key, extension in installed().extensions.items() if key in self.off]
        gone = {key for extension in off for key in extension.brings}
        asked = {duty.key: duty.kind for duty in installed().duties.values()}
        return replace(
            self,
            capabilities={key: kind for key, kind in {**asked, **self.capabilities}.items() if key not in gone},
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
        """The same in words, in the order of boards; what only a document names has its key for a name."""
        there = installed()
        every_type = {**there.types, **self.made}
        sets = {duty.key: duty for duty in map(duty_of, self.sets)}
        types = {key: every_type.get(key) or ContentType(key, key, key, type.tree) for key, type in self.types.items()}
        components = {
            key: there.components.get(key) or Component(key, key, {facet: Property(facet, facet) for facet in facets})
            for key, facets in self.components.items()
        }
        duties = {
            key: there.duties.get(key) or sets.get(key) or Duty(key, kind, key, f"do “{key}”", "Other")
            for key, kind in self.capabilities.items()
        }
        return Catalogue(
            in_board_order(types, every_type, there.brought_types),
            _in_order(components, there.components),
            _in_order(duties, there.duties),
            every_type,
            there.components,
            there.duties,
            there.extensions,
        )


def vocabulary() -> Words:
    """What there is to say something about, switched on or off. Two queries."""
    columns = Vocabulary.objects.filter(pk=ONLY_ROW).values_list("data", "extensions", "kinds")
    data, on, kinds = columns.first() or (None, [], [])
    made = {kind["key"]: _made(kind) for kind in kinds}
    words = _installed(made) if data is None else _read(data, made)
    sets = tuple(MarkupSet.objects.all())
    usable = {duty_of(markup).key: Kind.PLACED for markup in sets}
    return replace(
        words,
        capabilities={**words.capabilities, **usable},
        sets=sets,
        off=frozenset(installed().extensions.keys() - set(on)),
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
    row, _ = Vocabulary.objects.get_or_create(pk=ONLY_ROW)
    row.kinds = [kind for kind in row.kinds if kind["key"] in policy.types]
    kept = {kind["key"]: _made(kind) for kind in row.kinds}
    words = Words(listed, dict(policy.types), dict(policy.components), made=kept)
    row.data = None if words == _installed(kept) else _data(words)
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


def in_board_order(
    types: Mapping[str, ContentType], every: Mapping[str, ContentType], brought: Set[str]
) -> dict[str, ContentType]:
    """Kinds as boards list them: those of pages, of media, profiles, then those of extensions, then what is unknown."""
    place = {"content": 0, "media": 1, None: 2}
    order = {key: n for n, key in enumerate(every)}

    def rank(key: str) -> tuple[bool, bool, int, int]:
        return key not in every, key in brought, place[types[key].tree], order.get(key, 0)

    return {key: types[key] for key in sorted(types, key=rank)}


def _installed(made: dict[str, ContentType]) -> Words:
    there = installed()
    return Words(
        {duty.key: duty.kind for duty in there.duties.values()},
        {type.key: _node_type(type) for type in {**there.types, **made}.values()},
        {c.key: tuple(facet for facet in FACETS if facet in c.facets) for c in there.components.values()},
        made=made,
    )


def _in_order(things: dict[str, Any], known: Mapping[str, Any]) -> dict[str, Any]:
    return {**{key: things[key] for key in known if key in things}, **things}


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


def _read(data: dict[str, Any], made: dict[str, ContentType]) -> Words:
    types = {key: NodeType(key, type["tree"], tuple(type["fields"])) for key, type in data["types"].items()}
    types = {**{key: _node_type(kind) for key, kind in made.items()}, **types}
    types.setdefault(PROFILE, NodeType(PROFILE, None))
    return Words(
        {key: Kind(kind) for key, kind in data["capabilities"].items()},
        types,
        {key: tuple(facets) for key, facets in data["components"].items()},
        made=made,
    )
