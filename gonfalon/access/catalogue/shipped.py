"""What ships: kinds of content, components of pages, duties. Further kinds are made in the catalogue."""

from gonfalon.access.catalogue.drawn import Drawn
from gonfalon.access.catalogue.things import Choice, Component, ContentType, Duty, Field, Property
from gonfalon.core.model.vocabulary import Kind

TYPES = (
    ContentType("home", "Home page", "home pages", "content", (Field("intro", "Introduction", "long"),)),
    ContentType(
        "section",
        "Section",
        "sections",
        "content",
        (Field("intro", "Introduction", "long"),),
        ("home", "section"),
    ),
    ContentType("page", "Page", "pages", "content", (Field("lead", "Lead", "long"),), ("home", "section", "page")),
    ContentType("folder", "Folder", "folders", "media", (), ("folder",)),
    ContentType(
        "picture",
        "Picture",
        "pictures",
        "media",
        (Field("alt", "Described in words"), Field("credit", "Credit")),
        ("folder",),
    ),
    ContentType("document", "Document", "documents", "media", (Field("summary", "Summary", "long"),), ("folder",)),
    ContentType(
        "account",
        "Profile",
        "profiles",
        None,
        (Field("telephone", "Telephone"), Field("work", "Work"), Field("about", "About", "long")),
    ),
)

LEVELS = (Choice(2, "Level 2"), Choice(3, "Level 3"))
WIDTHS = (Choice("wide", "Wide"), Choice("narrow", "Narrow"))
TONES = (Choice("plain", "Plain"), Choice("strong", "Strong"))
LISTED = (
    Choice("beneath", "The pages beneath this one"),
    Choice("beside", "The pages beside this one"),
    Choice("topics", "Pages about the same topics"),
)
COMPONENTS = (
    Component(
        "heading",
        "Heading",
        {"text": Property("Text", "wording"), "level": Property("Level", "layout", "choice", choices=LEVELS)},
        (Drawn("heading", {"text": "text", "level": "level"}),),
    ),
    Component("text", "Text", {"html": Property("Text", "wording", "rich")}, (Drawn("prose", {"html": "html"}),)),
    Component(
        "picture",
        "Picture",
        {
            "picture": Property("Picture", "media", "picture"),
            "caption": Property("Caption", "wording"),
            "width": Property("Width", "layout", "choice", choices=WIDTHS),
        },
        (Drawn("figure", {"picture": "picture", "caption": "caption", "width": "width"}),),
    ),
    Component(
        "table",
        "Table",
        {
            "caption": Property("Caption", "wording"),
            "rows": Property("Rows", "wording", "rows"),
            "head": Property("First row is a head", "layout", "yes"),
        },
        (Drawn("table", {"rows": "rows", "caption": "caption", "head": "head"}),),
    ),
    Component(
        "button",
        "Button",
        {
            "label": Property("Label", "wording"),
            "link": Property("Link", "links", "link"),
            "tone": Property("Tone", "style", "choice", choices=TONES),
        },
        (Drawn("button", {"label": "label", "link": "link", "tone": "tone"}),),
    ),
    Component(
        "banner",
        "Banner",
        {"text": Property("Text", "wording"), "tone": Property("Tone", "style", "choice", choices=TONES)},
        (Drawn("notice", {"text": "text", "tone": "tone"}),),
    ),
    Component(
        "quote",
        "Quote",
        {"text": Property("Text", "wording"), "by": Property("Said by", "wording")},
        (Drawn("quote", {"text": "text", "by": "by"}),),
    ),
    Component(
        "pages",
        "List of pages",
        {
            "heading": Property("Heading", "wording"),
            "of": Property("Which pages", "links", "choice", choices=LISTED),
        },
        (Drawn("pages", {"heading": "heading", "of": "of"}),),
    ),
)

_SITEWIDE, _OPENING, _PLACED = Kind.SITEWIDE, Kind.OPENING, Kind.PLACED

DUTIES = (
    Duty("desk.open", _OPENING, "Open the desk", "open the desk", "Desk"),
    Duty("content.open", _OPENING, "Open content", "open the content section", "Desk"),
    Duty("media.open", _OPENING, "Open media", "open the media section", "Desk"),
    Duty("discussion.open", _OPENING, "Open discussion", "open the discussion section", "Desk"),
    Duty("topics.open", _OPENING, "Open topics", "open the topics section", "Desk"),
    Duty("accounts.open", _OPENING, "Open people", "open the people section", "Desk"),
    Duty("settings.open", _OPENING, "Open settings", "open the settings section", "Desk"),
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
        "rehearsal.start",
        _SITEWIDE,
        "Rehearse",
        "rehearse as oneself",
        "Running the site",
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
