"""The kinds of content and the components pages are built from, as the catalogue lists them."""

from gonfalon.access.catalogue import Component, ContentType, Field, Property, register

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

register(
    Component(
        "heading", "Heading", {"text": Property("Text", "wording"), "level": Property("Level", "layout", "plain")}
    ),
    Component("text", "Text", {"html": Property("Text", "wording", "rich")}),
    Component(
        "picture",
        "Picture",
        {
            "picture": Property("Picture", "media", "picture"),
            "caption": Property("Caption", "wording"),
            "width": Property("Width", "layout", "plain"),
        },
    ),
    Component(
        "table",
        "Table",
        {
            "caption": Property("Caption", "wording"),
            "rows": Property("Rows", "wording", "rows"),
            "head": Property("First row is a head", "layout", "plain"),
        },
    ),
    Component(
        "button",
        "Button",
        {
            "label": Property("Label", "wording"),
            "link": Property("Link", "links", "link"),
            "tone": Property("Tone", "style"),
        },
    ),
    Component("banner", "Banner", {"text": Property("Text", "wording"), "tone": Property("Tone", "style")}),
)
