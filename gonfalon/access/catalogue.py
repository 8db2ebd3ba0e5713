"""Every capability there is, in words: verbs of each kind of content, and duties (§2).

Types are registered by the apps that bring them; `duties` are the placed, opening and sitewide ones.
"""

from dataclasses import dataclass

from gonfalon.core.policy import NodeType
from gonfalon.core.vocabulary import FACETS, VERBS, Kind


@dataclass(frozen=True, slots=True)
class Field:
    """A field of a type. `kind` is one of text, long, rich, number, date, choice, reference, picture."""

    key: str
    name: str
    kind: str = "text"
    choices: tuple[str, ...] = ()


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

    def field(self, key: str) -> Field:
        """The field with this key. KeyError when the type has none."""
        for field in self.fields:
            if field.key == key:
                return field
        raise KeyError(key)


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
class Component:
    """A building part of pages: its properties, each in the facet it belongs to."""

    key: str
    name: str
    properties: dict[str, str]

    @property
    def facets(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(self.properties.values()))


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
VERBS_IN_WORDS = tuple(Verb(key, *VERB_WORDS[key]) for key in VERBS)

_SITEWIDE, _OPENING, _PLACED = Kind.SITEWIDE, Kind.OPENING, Kind.PLACED

DUTIES = (
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
    Duty("limits.set", _SITEWIDE, "Set limits", "set limits and field rules", "Running the site"),
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
    Duty("site.settings", _SITEWIDE, "Change site settings", "change site settings", "Running the site"),
)

TYPES: dict[str, ContentType] = {}
COMPONENTS: dict[str, Component] = {}


def register(*things: ContentType | Component) -> None:
    """Add kinds of content and components to the catalogue, once, when an app starts."""
    for thing in things:
        if isinstance(thing, ContentType):
            TYPES[thing.key] = thing
        else:
            COMPONENTS[thing.key] = thing


def type_named(key: str) -> ContentType:
    """A registered type; one that no module brings has its key for a name, and no fields to edit."""
    return TYPES.get(key) or ContentType(key, key, key, None)


def capabilities() -> dict[str, Kind]:
    """The capabilities that are not graded, with their kinds, as a policy lists them."""
    return {duty.key: duty.kind for duty in DUTIES}


def kind_of(capability: str) -> Kind | None:
    """The kind of a capability, None when the catalogue has no such key."""
    for duty in DUTIES:
        if duty.key == capability:
            return duty.kind
    type, _, verb = capability.partition(".")
    return Kind.GRADED if type in TYPES and verb in VERB_WORDS else None


def core_types() -> dict[str, NodeType]:
    """The registered types as the rules see them."""
    return {
        t.key: NodeType(t.key, t.tree, tuple(f.key for f in t.fields))  # type: ignore[arg-type]
        for t in TYPES.values()
    }


def core_components() -> dict[str, tuple[str, ...]]:
    """The registered components with their facets."""
    return {c.key: tuple(facet for facet in FACETS if facet in c.facets) for c in COMPONENTS.values()}
