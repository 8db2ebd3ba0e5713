"""What the template of a public page is given: the page as its reader sees it, and what stands around it."""

from collections.abc import Callable, Iterable
from datetime import date, datetime
from itertools import islice
from typing import Any

from gonfalon.api.desk.page_data import PageAccess, page_data
from gonfalon.content.models import Node, Post, Site
from gonfalon.content.nodes import as_target
from gonfalon.viewpoint.viewpoint import Viewpoint


def page_on_site(reader: Viewpoint, row: Node, above: list[Node]) -> dict[str, Any]:
    """A page as its reader sees it, or as visitors do where only they see it (§4).

    Of a page that both see a visitor sees no field more: what everyone is given counts for the reader too (§5).
    """
    sees = PageAccess(reader, as_target(row, above)).may("see")
    return page_data(reader if sees else reader.seen_by(None), row, above)


def page_context(reader: Viewpoint, row: Node, above: list[Node], page: dict[str, Any]) -> dict[str, Any]:
    """Everything but the head. `page` is `page_on_site` of it, or `page_data` for that reader."""
    known = reader.snapshot.catalogue.components
    told = [f for f in page["fields"] if f["value"] not in (None, "")]
    alts = _descriptions(reader, page, told)
    seen = _seen(reader)
    return {
        "site": Site.objects.get(pk=row.site_id),
        "parts": [
            {
                "template": known[c["kind"]].template,
                "props": c["props"],
                "shapes": [
                    shape | {"alt": alts.get(shape.get("picture")), "listed": listed(reader, row, seen, shape)}
                    for shape in known[c["kind"]].shapes(c["props"])
                ],
            }
            for c in page["components"]
            if not c["off"]
        ],
        "page": page,
        "leads": [f["value"] for f in told if f["kind"] == "long"],
        "fields": [
            f | {"value": f["shown"] or _read_out(f), "names": f["value"], "alt": alts.get(str(f["value"]))}
            for f in told
            if f["kind"] != "long"
        ],
        "posts": row.posts.filter(state=Post.State.APPROVED).select_related("author"),
        "above": [n for n in above if n.address or n.depth == 1],
        **_around(reader, row, seen),
    }


MOST_LISTED = 60


def listed(reader: Viewpoint, row: Node, seen: Iterable[int], shape: dict[str, Any]) -> list[dict[str, Any]]:
    """The pages of its site that a list of pages names for its reader, in the order of the tree."""
    if shape["shape"] != "pages":
        return []
    tree = reader.nodes.tree
    here = tree.nodes[tree.index[row.id]]
    fits: Callable[[Any], bool] = {
        "beneath": lambda node: node.parent == row.id,
        "beside": lambda node: node.parent == here.parent,
        "topics": lambda node: bool(here.topics & node.topics),
    }[shape["of"]]
    of_site = (node for i in seen if (node := tree.nodes[i]).site == here.site and node.id != row.id)
    return [_told(reader, node) for node in islice(filter(fits, of_site), MOST_LISTED)]


def _seen(reader: Viewpoint) -> list[int]:
    """Where the pages stand in the tree that a reader may see, or that visitors may."""
    own, public = reader.survey.allowed([reader.subject, None], None, ["see"], reader.at)
    content = reader.nodes.tree.having("tree", frozenset({"content"}))
    return [int(i) for i in ((own | public)[:, 0] & content).nonzero()[0]]


def _told(reader: Viewpoint, node: Any) -> dict[str, Any]:
    nodes = reader.nodes
    return {
        "id": node.id,
        "title": nodes.titles[node.id],
        "site": node.site,
        "address": nodes.addresses[node.id],
        "under": node.parent,
    }


def _around(reader: Viewpoint, row: Node, seen: Iterable[int]) -> dict[str, Any]:
    """The sections of the site and the pages just beneath, those that may be seen, or that visitors may see."""
    tree = reader.nodes.tree
    root = tree.path(row.id)[0]
    near = (tree.nodes[i] for i in seen if tree.nodes[i].parent in (root, row.id))
    told = [_told(reader, node) for node in near]
    return {
        "sections": [n for n in told if n["under"] == root],
        "beneath": [n for n in told if n["under"] == row.id and row.id != root],
    }


def _descriptions(reader: Viewpoint, page: dict[str, Any], fields: list[dict[str, Any]]) -> dict[str | None, str]:
    """How the pictures of a page are described in words, by id: as far as visitors may read that. Two queries."""
    named = {value for c in page["components"] for value in c["props"].values() if isinstance(value, str)}
    named |= {f["value"] for f in fields if f["kind"] == "picture"}
    tree = reader.nodes.tree
    pictures = Node.objects.filter(pk__in=[id for id in named if id in tree], type="picture").only("values", "type")
    return {
        row.pk: row.values["alt"]
        for row in pictures
        if row.values.get("alt") and PageAccess(reader.seen_by(None), tree.target(row.pk)).may("see-field", field="alt")
    }


def _read_out(field: dict[str, Any]) -> Any:
    """A value as visitors read it."""
    value = field["value"]
    if field["kind"] == "date":
        return f"{date.fromisoformat(value):%-d %B %Y}"
    if field["kind"] == "moment":
        return f"{datetime.fromisoformat(value):%-d %B %Y, %H:%M}"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return ", ".join(value) if isinstance(value, list) else value
