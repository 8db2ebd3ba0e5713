"""What the template of a public page is given: the page as its reader sees it, and what stands around it."""

from datetime import date, datetime
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
    return {
        "site": Site.objects.get(pk=row.site_id),
        "parts": [
            {
                "template": known[c["kind"]].template,
                "props": c["props"],
                "shapes": [
                    shape | {"alt": alts.get(shape.get("picture"))} for shape in known[c["kind"]].shapes(c["props"])
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
