"""The fixed words of the access rules: kinds, verbs, actions, extents, reasons (§1, §2, §4)."""

from collections.abc import Mapping
from enum import IntEnum, StrEnum


class Kind(StrEnum):
    """What a capability is about (§2)."""

    GRADED = "graded"
    PLACED = "placed"
    OPENING = "opening"
    SITEWIDE = "sitewide"


class Extent(IntEnum):
    """How far a grant reaches, from short to long (§2). `yes` is written ALL: both cover every target."""

    NONE = 0
    OWN = 1
    TEAM = 2
    ALL = 3


class Effect(StrEnum):
    """What a limit does (§4)."""

    STOP = "stop"
    BAR = "bar"
    LIFT = "lift"


class Reason(StrEnum):
    """Why an answer is what it is (§4, §5, §7, §9)."""

    ALLOWED = "allowed"
    INACTIVE = "inactive"
    BARRED = "barred"
    NOT_GRANTED = "not-granted"
    OUT_OF_SCOPE = "out-of-scope"
    OUT_OF_EXTENT = "out-of-extent"
    STOPPED = "stopped"
    OUT_OF_REACH = "out-of-reach"
    LOCKED = "locked"
    LIVE = "live"
    FIELD = "field"
    COMPONENT = "component"
    FACET = "facet"
    BEYOND = "beyond"
    NOT_DELEGATED = "not-delegated"


WITHHELD = "withheld"
BARRED = "barred"

EXTENT_OF = {"own": Extent.OWN, "team": Extent.TEAM, "all": Extent.ALL, "yes": Extent.ALL}
"""The extent a word in a role's answer gives; `withheld` and `barred` give none."""

SAYS = {
    Kind.GRADED: ("own", "team", "all", WITHHELD, BARRED),
    Kind.PLACED: ("yes", WITHHELD, BARRED),
    Kind.OPENING: ("yes", WITHHELD, BARRED),
    Kind.SITEWIDE: ("yes", WITHHELD, BARRED),
}
"""The words a role may say about a capability of each kind."""

VERBS = (
    "see",
    "see-draft",
    "create",
    "edit",
    "edit-live",
    "publish",
    "retire",
    "remove",
    "move",
    "history",
    "restore",
)
"""The verbs of graded capabilities, `T.verb` for every type T."""

ACTIONS = ("see", "create", "edit", "publish", "retire", "remove", "move", "history", "restore")
"""What can be asked of a node, placed capabilities aside."""

CHANGING = frozenset({"edit", "publish", "retire", "remove", "move", "restore"})
"""The actions a lock closes (§4 step 6)."""

WHOLE_BRANCH = frozenset({"remove", "move"})
"""Actions on a node that need the same action on each node beneath it (§4)."""

PART_ACTIONS = frozenset(
    {"see-field", "change-field", "fill-field", "insert-component", "arrange-component", "change-facet"}
)
COMPONENT_ACTIONS = frozenset({"insert-component", "arrange-component", "change-facet"})
"""Those of them that are about a component, and so about editing (§5)."""
STAND_IN_ACTION = "stand-in"
"""Asking whether one may stand in for another (§7)."""
HAND_OUT_ACTION = "hand-out"
"""Asking whether one may give a role to somebody (§9)."""
OVER_ALL_NODES = frozenset({STAND_IN_ACTION, HAND_OUT_ACTION})
"""Actions whose answers rest on every node there is."""
ACCOUNT_STATES = ("active", "invited", "disabled")
STATES = ("draft", "review", "published", "retired")
TREES = ("content", "media")
FIELD_MARKS = ("see-own", "see-all", "change-own", "change-all", "fill")
"""What a role's row in a field's table may say (§5)."""
FACETS = ("wording", "media", "links", "style", "layout", "code")

DESK_OPEN = "desk.open"
SECTION_OF_TREE: Mapping[str | None, str] = {"content": "content.open", "media": "media.open", None: "accounts.open"}
"""The section of the desk where one works on what lies in a tree; profiles lie in none."""
SECTION_OF_DUTY: Mapping[str, str] = {
    "listing.edit": "content.open",
    "discussion.moderate": "discussion.open",
    **dict.fromkeys(("topics.add", "topics.rename", "topics.remove"), "topics.open"),
    **dict.fromkeys(("site.settings", "listing.settings"), "settings.open"),
}
"""The section of the desk where one does what a duty is about."""
SECTIONS = ("content.open", "media.open", "discussion.open", "topics.open", "accounts.open", "settings.open")
"""The sections of the desk, in their order; each lies within the desk, `desk.open`."""

LOCKS_OPEN = "locks.open"
FIELDS_PRIVATE = "fields.private"
STAND_IN = "impersonate.start"
REHEARSE = "rehearsal.start"
"""Whoever passes it may rehearse as themselves."""
ASSIGN = "roles.assign"
"""Whoever passes it may give any role to anyone, where a policy lists it (§9)."""
PROFILE = "account"
"""The type of an account's profile, a target that sits in no tree (§5)."""
