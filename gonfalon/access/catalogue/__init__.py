"""The catalogue: what there is to say something about. One immutable value for each version of the policy."""

from gonfalon.access.catalogue.catalogue import MARKUP_PREFIX, Catalogue
from gonfalon.access.catalogue.drawn import SHAPES, Drawn
from gonfalon.access.catalogue.installed import Installed, install, installed
from gonfalon.access.catalogue.things import (
    FIELD_KINDS,
    NAMING_KINDS,
    PROPERTY_KINDS,
    Choice,
    Component,
    ContentType,
    Duty,
    Extension,
    Field,
    Property,
)
from gonfalon.access.catalogue.verbs import ACTION_WORDS, VERB_WORDS, VERBS_IN_WORDS, VERBS_OF_PROFILES, Verb

__all__ = (
    "ACTION_WORDS",
    "FIELD_KINDS",
    "MARKUP_PREFIX",
    "NAMING_KINDS",
    "PROPERTY_KINDS",
    "SHAPES",
    "VERBS_IN_WORDS",
    "VERBS_OF_PROFILES",
    "VERB_WORDS",
    "Catalogue",
    "Choice",
    "Component",
    "ContentType",
    "Drawn",
    "Duty",
    "Extension",
    "Field",
    "Installed",
    "Property",
    "Verb",
    "install",
    "installed",
)
