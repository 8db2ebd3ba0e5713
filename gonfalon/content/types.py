"""The kinds of content and the components pages are built from, as the catalogue lists them."""

from gonfalon.access.catalogue import Component, ContentType, Field, register

_PAGES = ("home", "section", "article", "event", "berth", "notice", "tenant", "result")

register(
    ContentType("home", "Home page", "home pages", "content", (Field("intro", "Introduction", "long"),)),
    ContentType(
        "section",
        "Section",
        "sections",
        "content",
        (Field("intro", "Introduction", "long"),),
        ("home", "section"),
    ),
    ContentType(
        "notice",
        "Notice to mariners",
        "notices to mariners",
        "content",
        (
            Field("hazard", "Hazard level", "choice", ("low", "moderate", "high")),
            Field("valid_from", "Valid from", "date"),
            Field("valid_until", "Valid until", "date"),
            Field("advice", "Advice", "rich"),
            Field("contact", "Internal contact"),
        ),
        ("section",),
    ),
    ContentType(
        "berth",
        "Berth page",
        "berth pages",
        "content",
        (
            Field("berth_number", "Berth number"),
            Field("telephone", "Telephone"),
            Field("dues", "Annual dues", "number"),
            Field("plan", "Mooring plan", "picture"),
        ),
        ("section",),
    ),
    ContentType(
        "event",
        "Event",
        "events",
        "content",
        (
            Field("starts", "Starts", "date"),
            Field("place", "Place"),
            Field("capacity", "Capacity", "number"),
            Field("budget", "Budget", "number"),
        ),
        ("section",),
    ),
    ContentType("article", "Article", "articles", "content", (Field("lead", "Lead", "long"),), ("section", "home")),
    ContentType(
        "tenant",
        "Tenant profile",
        "tenant profiles",
        "content",
        (
            Field("trade", "Trade"),
            Field("opening", "Opening hours"),
            Field("berth", "Berth", "reference"),
        ),
        ("section",),
    ),
    ContentType(
        "result",
        "Race result",
        "race results",
        "content",
        (
            Field("raced_on", "Raced on", "date"),
            Field("winner", "Winning boat"),
            Field("elapsed", "Elapsed time"),
        ),
        ("section",),
    ),
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
    ContentType("account", "Profile", "profiles", None, (Field("telephone", "Telephone"),)),
)

register(
    Component("heading", "Heading", {"text": "wording", "level": "layout"}),
    Component("text", "Text", {"html": "wording"}),
    Component("picture", "Picture", {"picture": "media", "caption": "wording", "width": "layout"}),
    Component("table", "Table", {"caption": "wording", "rows": "wording", "head": "layout"}),
    Component("button", "Button", {"label": "wording", "link": "links", "tone": "style"}),
    Component("banner", "Banner", {"text": "wording", "tone": "style"}),
)
