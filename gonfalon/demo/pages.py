"""Pages, pictures and documents, from harbour.yaml, regatta.yaml, berths.yaml and media.yaml."""

from collections.abc import Iterable
from typing import Any

from gonfalon.access.markup import PROSE, clean
from gonfalon.content.media.files import attach
from gonfalon.content.media.incoming import read_incoming
from gonfalon.content.models import Node
from gonfalon.content.pages import slug_for
from gonfalon.demo.past import Past
from gonfalon.demo.pictures import draw

Data = dict[str, Any]


class Planter:
    """Adds nodes to the trees, keeping addresses as it goes."""

    def __init__(self, berths: dict[str, list[list[Any]]], past: Past) -> None:
        self.berths, self.past = berths, past
        self.slugs: dict[str, set[str]] = {}

    def pages(self, site: str, pages: Iterable[Data], parent: Node | None = None) -> None:
        for data in pages:
            row = self._add(parent, site, data)
            self.pages(site, data.get("more", ()), row)
            self.pages(site, (_berth(b) for b in self.berths.get(data.get("berths", ""), ())), row)
            self.pages(site, (_result(n, r) for n, r in enumerate(data.get("races", ()), 1)), row)

    def media(self, roots: Iterable[Data], parent: Node | None = None, site: str = "") -> None:
        for data in roots:
            here = data.get("site", site)
            row = self._add(parent, here, data | {"type": "folder"})
            self.media(data.get("folders", ()), row, here)
            for id, title, author, alt, light in data.get("pictures", ()):
                values = {"alt": alt, "credit": "Drawn for the harbour"}
                picture = {"id": id, "title": title, "type": "picture", "by": author, "with": values}
                attach(self._add(row, here, picture), read_incoming(f"{id}.jpg", draw(id, light)))
            for id, title, author, summary in data.get("documents", ()):
                document = {"id": id, "title": title, "type": "document", "by": author, "with": {"summary": summary}}
                text = f"{title}\n\n{summary}\n".encode()
                attach(self._add(row, here, document), read_incoming(f"{id}.txt", text))

    def _add(self, parent: Node | None, site: str, data: Data) -> Node:
        steps = self.past.of(data)
        last = steps[-1]
        row = Node(
            id=data["id"],
            type=data["type"],
            site_id=site,
            title=data["title"],
            author_id=data.get("by"),
            state=last.state,
            note=last.note,
            topics=sorted(data.get("topics", ())),
            version=len(steps),
            saved_at=last.at,
            saved_by_id=last.by,
            listing=data.get("listing", {}),
            **_said(data),
        )
        if parent is None:
            row = Node.objects.add_root(instance=row)
        else:
            taken = self.slugs.setdefault(parent.id, set())
            row.slug = slug_for(row.title, taken)
            taken.add(row.slug)
            row.address = f"{parent.address}/{row.slug}".lstrip("/")
            parent.refresh_from_db()
            row = Node.objects.add_child(parent, instance=row)
        self.past.keep(row, steps, (_said(data | step.was) for step in steps))
        return row


def _said(data: Data) -> Data:
    """The fields of a page and its parts."""
    values = {
        key: str(value) if key.startswith(("valid", "starts", "raced")) else value
        for key, value in data.get("with", {}).items()
    }
    return {"values": values, "components": _components(data)}


def _components(data: Data) -> list[Data]:
    """A page's parts: a banner and heading where it has them, its text, a picture, a table."""
    id = data["id"]
    parts: list[tuple[str, str, Data]] = []
    if banner := data.get("banner"):
        parts.append(("banner", "banner", {"text": banner, "tone": "plain"}))
    if heading := data.get("heading"):
        parts.append(("heading", "heading", {"text": heading, "level": 2}))
    if say := data.get("say"):
        parts.append(("text", "text", {"html": clean(f"<p>{say.strip()}</p>", PROSE)}))
    if picture := data.get("picture"):
        parts.append(("picture", "picture", {"picture": picture, "caption": data.get("caption", ""), "width": "wide"}))
    if table := data.get("table"):
        parts.append(
            ("table", "table", {"caption": data.get("table_caption", data["title"]), "rows": table, "head": True})
        )
    parts += [(kind, kind, data[kind]) for kind in ("results", "tides") if isinstance(data.get(kind), dict)]
    return [{"id": f"{id}-{name}", "kind": kind, "props": props} for name, kind, props in parts]


HEADINGS = {
    "p3-sail-loft": "Sails cut and mended since the old quay",
    "p3-sea-school": "Learn it in the lee, use it in the blow",
    "p5-chandlery": "Brass, rope and good advice",
    "p5-cafe": "Soup from six",
}
PICTURES = {
    "p3-sail-loft": "pic-sail-loft",
    "p3-sea-school": "pic-dinghies",
    "p5-chandlery": "pic-chandlery",
    "p5-cafe": "pic-soup",
    "p5-net-loft": "pic-nets",
}


def _berth(berth: list[Any]) -> Data:
    id, title, number, telephone, dues, author, say = berth
    pier = title.split(",")[0]
    name = title.split(", ")[1]
    return {
        "id": id,
        "title": title,
        "type": "berth",
        "by": author,
        "with": {"berth_number": number, "telephone": telephone, "dues": dues},
        "banner": f"Skerrow Harbour, {pier}",
        "heading": HEADINGS.get(id, f"{name} at berth {number}"),
        "say": say,
        "picture": PICTURES.get(id),
        "table": [["Berth", "Water", "Shore power"], [number, "at the post", "16 A, metered"]],
        "table_caption": "At this berth",
    }


def _result(n: int, result: list[Any]) -> Data:
    raced_on, race, winner, elapsed, author = result
    return {
        "id": f"result-{n}",
        "title": race,
        "type": "result",
        "by": author,
        "with": {"raced_on": raced_on, "winner": winner, "elapsed": elapsed},
        "say": f"{winner} won in {elapsed}, corrected.",
    }
