"""The kinds of content that ship, and the components pages are built from; further kinds are made in the catalogue."""

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
