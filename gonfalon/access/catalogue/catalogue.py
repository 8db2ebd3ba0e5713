"""The catalogue of one version: kinds, components and duties, in words. It comes with the snapshot and never changes.

catalogue.types["berth"].plural            # in use, in the order of boards
catalogue.type("berth").field_name("dues") # of one that is switched off or gone, too
catalogue.phrase("berth.edit")             # "edit berth pages"
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

from gonfalon.access.catalogue.things import Component, ContentType, Duty, Extension, Property
from gonfalon.access.catalogue.verbs import ACTION_WORDS, VERB_WORDS, VERBS_OF_PROFILES
from gonfalon.core.model.vocabulary import VERBS

MARKUP_PREFIX = "markup."
"""Begins the capabilities to use a markup set."""


@dataclass(frozen=True)
class Catalogue:
    """What is in use here, in words and in the order of boards; and what else there is to name."""

    types: Mapping[str, ContentType]
    components: Mapping[str, Component]
    duties: Mapping[str, Duty]
    every_type: Mapping[str, ContentType] = field(default_factory=dict)
    """Those of extensions that are switched off, too."""
    every_component: Mapping[str, Component] = field(default_factory=dict)
    every_duty: Mapping[str, Duty] = field(default_factory=dict)
    extensions: Mapping[str, Extension] = field(default_factory=dict)
    """Those installed, switched on or off."""

    def type(self, key: str) -> ContentType:
        """A kind of content; one that no installed module brings has its key for a name, and no fields to edit."""
        return self.every_type.get(key) or self.types.get(key) or ContentType(key, key, key, None)

    def takes(self, type: str, component: str) -> bool:
        """Whether pages of a type may be built of a component."""
        built_of = self.type(type).components
        return built_of is None or component in built_of

    def component_name(self, key: str) -> str:
        """The name of a component; of one that no installed module brings, its key."""
        return self.every_component[key].name if key in self.every_component else key

    def properties(self, component: str) -> Mapping[str, Property]:
        """The properties of a component, by key; none of one that no installed module brings."""
        return self.every_component[component].properties if component in self.every_component else {}

    def property_name(self, component: str, key: str) -> str:
        """The name of a property with its component's: “Table: rows”; that alone where both are called the same."""
        whole, known = self.component_name(component), self.properties(component).get(key)
        name = known.name if known else key
        return whole if name == whole else f"{whole}: {name.lower()}"

    def needs(self, component: str, key: str) -> str | None:
        """The capability without which a property of a component is neither seen nor changed."""
        known = self.properties(component).get(key)
        return known.needs if known else None

    def phrase(self, capability: str) -> str:
        """A capability after "may": "edit events", "open the desk"."""
        if capability in self.every_duty:
            return self.every_duty[capability].phrase
        if capability.startswith(MARKUP_PREFIX):
            return f"use the markup set “{capability.removeprefix(MARKUP_PREFIX)}”"
        type, _, verb = capability.partition(".")
        return f"{VERB_WORDS[verb][1]} {self.every_type[type].plural}" if type in self.every_type else capability

    def action(self, action: str) -> str:
        """An action after "may": "edit this", "open the desk"."""
        if action in ACTION_WORDS:
            return ACTION_WORDS[action]
        return self.every_duty[action].phrase if action in self.every_duty else action

    def capabilities(self) -> tuple[str, ...]:
        """In the order of boards: each type that sits in a tree by each verb, profiles by theirs, then the duties."""
        trees = (f"{type.key}.{verb}" for type in self.types.values() if type.tree for verb in VERBS)
        profiles = (f"{type.key}.{verb}" for type in self.types.values() if not type.tree for verb in VERBS_OF_PROFILES)
        return (*trees, *profiles, *self.duties)
