"""The capabilities, types and components in use here.

They are what is installed and switched on, with a capability for each markup set; or what an imported document
brought. What is said about an extension that is switched off stays in its rows, and is left out of what is read.
"""

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
    Property,
)
from gonfalon.access.markup import duty_of
from gonfalon.access.models import MarkupSet, Vocabulary
from gonfalon.core.model.policy import NodeType, Policy
from gonfalon.core.model.vocabulary import FACETS, PROFILE, Kind

_ROW = 1


@dataclass(frozen=True)
class Words:
    """What can be said something about, and (`off`) the extensions installed here that are switched off."""

    capabilities: dict[str, Kind]
    types: dict[str, NodeType]
    components: dict[str, tuple[str, ...]]
    sets: tuple[MarkupSet, ...] = ()
    off: frozenset[str] = frozenset()

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
        return Catalogue(_in_order(types, TYPES), _in_order(components, COMPONENTS), _in_order(duties, DUTIES))


def vocabulary() -> Words:
    """What there is to say something about, switched on or off. Two queries."""
    data, on = Vocabulary.objects.filter(pk=_ROW).values_list("data", "extensions").first() or (None, [])
    words = _installed() if data is None else _read(data)
    sets = tuple(MarkupSet.objects.all())
    made = {duty_of(markup).key: Kind.PLACED for markup in sets}
    return replace(
        words, capabilities={**words.capabilities, **made}, sets=sets, off=frozenset(EXTENSIONS.keys() - set(on))
    )


def keep_vocabulary(policy: Policy) -> None:
    """From now on what a policy names is what there is; nothing is kept where that is what is installed.

    Markup sets whose capability it does not name are taken away.
    """
    sets = MarkupSet.objects.all()
    MarkupSet.objects.filter(pk__in=[m.pk for m in sets if duty_of(m).key not in policy.capabilities]).delete()
    made = {duty_of(markup).key for markup in sets}
    listed = {key: kind for key, kind in policy.capabilities.items() if key not in made}
    words = Words(listed, dict(policy.types), dict(policy.components))
    data = None if words == _installed() else _data(words)
    Vocabulary.objects.update_or_create(pk=_ROW, defaults={"data": data})


def switch(extension: str, *, on: bool) -> bool:
    """Switch an extension on or off; whether it was otherwise before. Belongs under a lock on the version."""
    row, _ = Vocabulary.objects.get_or_create(pk=_ROW)
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
        {t.key: NodeType(t.key, t.tree, tuple(f.key for f in t.fields)) for t in TYPES.values()},  # type: ignore[arg-type]
        {c.key: tuple(facet for facet in FACETS if facet in c.facets) for c in COMPONENTS.values()},
    )


def _in_order(things: dict[str, Any], installed: dict[str, Any]) -> dict[str, Any]:
    return {**{key: things[key] for key in installed if key in things}, **things}


def _data(words: Words) -> dict[str, Any]:
    return {
        "capabilities": {key: str(kind) for key, kind in words.capabilities.items()},
        "types": {key: {"tree": type.tree, "fields": list(type.fields)} for key, type in words.types.items()},
        "components": {key: list(facets) for key, facets in words.components.items()},
    }


def _read(data: dict[str, Any]) -> Words:
    types = {key: NodeType(key, type["tree"], tuple(type["fields"])) for key, type in data["types"].items()}
    types.setdefault(PROFILE, NodeType(PROFILE, None))
    return Words(
        {key: Kind(kind) for key, kind in data["capabilities"].items()},
        types,
        {key: tuple(facets) for key, facets in data["components"].items()},
    )
