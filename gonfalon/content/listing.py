"""Search-listing texts: of single pages, and of a whole site.

head = head_of(node, site)       # what the head of a public page says to search engines
"""

from typing import Any, TypedDict

from gonfalon.content.models import Node, Site
from gonfalon.ledger.models import By, Change, record
from gonfalon.work import locked, unit

TEXTS = ("title", "description", "hidden")


class Listing(TypedDict):
    """What a page or a site says of itself. Empty texts say nothing."""

    title: str
    description: str
    hidden: bool


def listing_of(thing: Node | Site) -> Listing:
    return {"title": "", "description": "", "hidden": False, **thing.listing}


def head_of(node: Node, site: Site) -> Listing:
    """Title and description as a public page tells them, and whether it asks not to be listed."""
    own, whole = listing_of(node), listing_of(site)
    after = whole["title"] or site.name
    return {
        "title": own["title"] or f"{node.title} · {after}",
        "description": own["description"] or whole["description"],
        "hidden": own["hidden"] or whole["hidden"],
    }


@unit()
def save_listing(thing: Node | Site, new: Listing, by: By, expected: int) -> bool:
    """Write the listing texts of a page or a site, and nothing else of it. False when they were changed meanwhile."""
    row: Any = locked(type(thing).objects).get(pk=thing.pk)
    if row.listing_version != expected:
        return False
    was = listing_of(row)
    changes = [Change(what=f"listing/{k}", was=was[k], now=new[k]) for k in TEXTS if was[k] != new[k]]  # type: ignore[literal-required]
    if changes:
        thing.listing, thing.listing_version = dict(new), expected + 1
        type(thing).objects.filter(pk=thing.pk).update(listing=thing.listing, listing_version=thing.listing_version)
        about = ("node" if isinstance(thing, Node) else "site", thing.pk)
        name = thing.title if isinstance(thing, Node) else thing.name
        record(by, "listing.saved", about=about, changes=changes, name=name)
    return True
