"""What is installed, in words: kinds of content and their verbs, components, and duties (§2).

Each is registered by the app or the extension that brings it; duties are the placed, opening and sitewide
capabilities. What of this is in use here, `vocabulary` tells.
"""

from collections import ChainMap
from collections.abc import Mapping
from dataclasses import dataclass

from gonfalon.core.model.vocabulary import VERBS, Kind


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
class Verb:
    """A verb of graded capabilities: its column head and how it reads after "may"."""

    key: str
    name: str
    phrase: str


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
class Property:
    """A property of a component. `kind` is one of text, rich, rows, link, picture, plain (a number or a choice).

    With `needs` only those see and change it who pass that placed capability on the page.
    """

    name: str
    facet: str
    kind: str = "text"
    needs: str | None = None


@dataclass(frozen=True, slots=True)
class Component:
    """A building part of pages. `template` draws it; the parts that every site has are drawn by the site's own."""

    key: str
    name: str
    properties: Mapping[str, Property]
    template: str = ""

    @property
    def facets(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(p.facet for p in self.properties.values()))


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


FIELD_KINDS = (
    *("text", "long", "rich", "number", "yes", "date", "moment"),
    *("choice", "choices", "reference", "picture", "document", "link"),
)
"""What a field can hold; a moment is a date with a time."""
VERB_WORDS = {
    "see": ("See", "see"),
    "see-draft": ("See unpub.", "see unpublished"),
    "create": ("Create", "create"),
    "edit": ("Edit", "edit"),
    "edit-live": ("Edit live", "edit published"),
    "publish": ("Publish", "publish"),
    "retire": ("Retire", "retire"),
    "remove": ("Remove", "remove"),
    "move": ("Move", "move"),
    "history": ("History", "see the history of"),
    "restore": ("Restore", "restore earlier versions of"),
}
VERBS_OF_PROFILES = ("see", "edit")
"""What can be done with a profile (§5)."""
VERBS_IN_WORDS = tuple(Verb(key, *VERB_WORDS[key]) for key in VERBS)

_SITEWIDE, _OPENING, _PLACED = Kind.SITEWIDE, Kind.OPENING, Kind.PLACED

_DUTIES = (
    Duty("desk.open", _OPENING, "Open the desk", "open the desk", "Desk"),
    Duty("media.open", _OPENING, "Open media", "open the media section", "Desk"),
    Duty("locks.open", _PLACED, "Open locks", "work on locked pages", "Pages"),
    Duty(
        "fields.private",
        _PLACED,
        "Author-only fields",
        "see and change author-only fields",
        "Pages",
        "Shows fields that are hidden from everyone but their author.",
    ),
    Duty("listing.edit", _PLACED, "Edit search listings", "edit the search-listing texts", "Pages"),
    Duty("discussion.moderate", _PLACED, "Moderate discussion", "moderate discussion", "Pages"),
    Duty(
        "roles.define",
        _SITEWIDE,
        "Define roles",
        "define roles",
        "Running the site",
        "Whoever defines roles can widen a role they hold themselves.",
    ),
    Duty(
        "roles.assign",
        _SITEWIDE,
        "Give roles",
        "give roles to accounts and groups",
        "Running the site",
        "Whoever gives roles can give themselves any role there is.",
    ),
    Duty(
        "limits.set",
        _SITEWIDE,
        "Set limits",
        "set limits and field rules",
        "Running the site",
        "Whoever sets limits can lift those that are set on themselves.",
    ),
    Duty(
        "accounts.invite",
        _SITEWIDE,
        "Make accounts",
        "make and invite accounts",
        "Running the site",
    ),
    Duty(
        "accounts.disable",
        _SITEWIDE,
        "Disable accounts",
        "disable and enable accounts",
        "Running the site",
        "Whoever disables accounts can keep people from their work.",
    ),
    Duty("roster.see", _SITEWIDE, "See the roster", "see all accounts and what they hold", "Running the site"),
    Duty(
        "impersonate.start",
        _SITEWIDE,
        "Stand in for others",
        "stand in for others",
        "Running the site",
        "Standing in shows whatever the other person may see.",
    ),
    Duty(
        "expectations.keep",
        _SITEWIDE,
        "Keep expectations",
        "record and drop expectations",
        "Running the site",
    ),
    Duty("ledger.read", _SITEWIDE, "Read the ledger", "read the ledger", "Running the site"),
    Duty(
        "listing.settings",
        _SITEWIDE,
        "Change listing settings",
        "change the search-listing settings of a site",
        "Running the site",
    ),
    Duty("site.settings", _SITEWIDE, "Change site settings", "change site settings", "Running the site"),
    Duty(
        "kinds.define",
        _SITEWIDE,
        "Define kinds",
        "define kinds of content and their fields",
        "Running the site",
        "Whoever defines kinds can purge a field, with its values on all pages and in all their versions.",
    ),
    Duty("topics.add", _SITEWIDE, "Add topics", "add topics", "Topics"),
    Duty("topics.rename", _SITEWIDE, "Rename topics", "rename topics", "Topics"),
    Duty("topics.remove", _SITEWIDE, "Remove topics", "remove topics, or merge one into another", "Topics"),
    Duty(
        "bin.empty",
        _SITEWIDE,
        "Empty the bin",
        "empty the bin for good",
        "Running the site",
        "What is emptied out of the bin cannot be brought back by anybody.",
    ),
)

_INSTALLED: dict[str, ContentType] = {}
TYPES: ChainMap[str, ContentType] = ChainMap({}, _INSTALLED)
"""Kinds of content: those made here as they were last read, before those that are installed."""
COMPONENTS: dict[str, Component] = {}
DUTIES: dict[str, Duty] = {duty.key: duty for duty in _DUTIES}
EXTENSIONS: dict[str, Extension] = {}


def register(*things: ContentType | Component) -> None:
    """Add kinds of content and components to the catalogue, once, when an app starts."""
    for thing in things:
        if isinstance(thing, ContentType):
            _INSTALLED[thing.key] = thing
        else:
            COMPONENTS[thing.key] = thing


def register_extension(extension: Extension) -> None:
    """Add an extension with all it brings. ValueError when something of that key is there already."""
    known = {**EXTENSIONS, **TYPES, **COMPONENTS, **DUTIES}
    for key in (extension.key, *extension.brings):
        if key in known:
            raise ValueError(f"“{key}” is there already")
    EXTENSIONS[extension.key] = extension
    register(*extension.types, *extension.components)
    DUTIES.update({duty.key: duty for duty in extension.duties})


def use_made(types: Mapping[str, ContentType]) -> None:
    """From now on these are the kinds of content made here; in place of an installed one where the key is its."""
    TYPES.maps[0] = dict(types)


def in_board_order(types: Mapping[str, ContentType]) -> dict[str, ContentType]:
    """Kinds as boards list them: those of pages, of media, profiles, then those of extensions."""
    brought = {type.key for extension in EXTENSIONS.values() for type in extension.types}
    place = {"content": 0, "media": 1, None: 2}
    order = {key: n for n, key in enumerate(TYPES)}

    def rank(key: str) -> tuple[bool, bool, int, int]:
        type = types[key]
        return key not in TYPES, key in brought, place[type.tree], order.get(key, 0)

    return {key: types[key] for key in sorted(types, key=rank)}


def type_named(key: str) -> ContentType:
    """An installed type; one that no module brings has its key for a name, and no fields to edit."""
    return TYPES.get(key) or ContentType(key, key, key, None)


def takes(type: str, component: str) -> bool:
    """Whether pages of a type may be built of a component."""
    built_of = type_named(type).components
    return built_of is None or component in built_of


def component_name(key: str) -> str:
    """The name of a component; of one that no module brings, its key."""
    return COMPONENTS[key].name if key in COMPONENTS else key


def property_name(component: str, key: str) -> str:
    """The name of a property with its component's: “Table: rows”; that alone where both are called the same."""
    whole = component_name(component)
    known = COMPONENTS[component].properties.get(key) if component in COMPONENTS else None
    name = known.name if known else key
    return whole if name == whole else f"{whole}: {name.lower()}"


@dataclass(frozen=True, slots=True)
class Catalogue:
    """What boards and screens show: what is installed and switched on, and what is made here."""

    types: Mapping[str, ContentType]
    components: Mapping[str, Component]
    duties: Mapping[str, Duty]

    def capabilities(self) -> tuple[str, ...]:
        """In the order of boards: each type that sits in a tree by each verb, profiles by theirs, then the duties."""
        trees = (f"{type.key}.{verb}" for type in self.types.values() if type.tree for verb in VERBS)
        profiles = (f"{type.key}.{verb}" for type in self.types.values() if not type.tree for verb in VERBS_OF_PROFILES)
        return (*trees, *profiles, *self.duties)
