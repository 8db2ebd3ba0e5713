"""What the template of a public page is given: the page as its reader sees it, and what stands around it."""

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
    return {
        "site": Site.objects.get(pk=row.site_id),
        "parts": [
            {"template": known[c["kind"]].template, "props": c["props"], "shapes": known[c["kind"]].shapes(c["props"])}
            for c in page["components"]
            if not c["off"]
        ],
        "page": page,
        "fields": [
            f | {"value": f["shown"] or _read_out(f["value"]), "names": f["value"]}
            for f in page["fields"]
            if f["value"] not in (None, "")
        ],
        "posts": row.posts.filter(state=Post.State.APPROVED).select_related("author"),
        "above": [n for n in above if n.address or n.depth == 1],
        **_around(reader, row),
    }


def _around(reader: Viewpoint, row: Node) -> dict[str, Any]:
    """The sections of the site and the pages just beneath, those that may be seen, or that visitors may see."""
    nodes = reader.nodes
    own, public = reader.survey.allowed([reader.subject, None], None, ["see"], reader.at)
    see = (own | public)[:, 0]
    root = nodes.tree.path(row.id)[0]
    seen = [
        {
            "id": node.id,
            "title": nodes.titles[node.id],
            "address": nodes.addresses[node.id],
            "under": node.parent,
        }
        for i, node in enumerate(nodes.tree.nodes)
        if see[i] and node.parent in (root, row.id) and node.tree == "content"
    ]
    return {
        "sections": [n for n in seen if n["under"] == root],
        "beneath": [n for n in seen if n["under"] == row.id and row.id != root],
    }


def _read_out(value: Any) -> Any:
    """A value as visitors read it."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return ", ".join(value) if isinstance(value, list) else value
