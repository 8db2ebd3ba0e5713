"""The public site: plain pages, as visitors and signed-in accounts see them."""

from typing import Any

from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from gonfalon.access.catalogue import TYPES
from gonfalon.api.desk.page_data import page_data
from gonfalon.api.guard import Anyone, GuardedPage, On, ask
from gonfalon.api.problems import NotFound, Problem
from gonfalon.content.listing import head_of
from gonfalon.content.models import Node, Post, Site
from gonfalon.content.nodes import ancestors, as_target


class _OnSite(GuardedPage):
    """A page that tells a refusal as the site looks."""

    def problem(self, request: HttpRequest, problem: Problem) -> HttpResponse:
        return render(request, "site/problem.html", {"problem": problem.body}, status=problem.status)


class FirstSite(_OnSite):
    """The way to the home page of the first site, for links that know of none."""

    doors = {"get": Anyone("It only leads on; the page itself is asked for there.")}

    def get(self, request: HttpRequest) -> HttpResponse:
        site = Site.objects.first()
        if site is None:
            raise NotFound
        return redirect(f"/site/{site.key}/")


class SitePage(_OnSite):
    """The page at an address of a site. Fields nobody showed this reader are not in it."""

    doors = {"get": Anyone("The page itself is asked for once its address is known.")}

    def get(self, request: HttpRequest, site: str, address: str = "") -> HttpResponse:
        row = Node.objects.filter(site=site, address=address.strip("/"), type__in=_page_types()).first()
        if row is None or not address.isprintable():  # the database would pass over what cannot be printed
            raise NotFound
        above = ancestors(row)
        ask(self.presence, "see", as_target(row, above))
        page, whole = page_data(self.presence, row, above), Site.objects.get(pk=site)
        known = self.presence.snapshot.catalogue.components
        return render(
            request,
            "site/page.html",
            {
                "site": whole,
                "head": head_of(row, whole),
                "parts": [c | {"template": known[c["kind"]].template} for c in page["components"] if not c["off"]],
                "page": page,
                "fields": [
                    f | {"value": f["shown"] or _read_out(f["value"]), "names": f["value"]}
                    for f in page["fields"]
                    if f["value"] not in (None, "")
                ],
                "posts": row.posts.filter(state=Post.State.APPROVED).select_related("author"),
                "above": [n for n in above if n.address or n.depth == 1],
                **self._around(row),
            },
        )

    def _around(self, row: Node) -> dict[str, Any]:
        """The sections of the site and the pages just beneath, those that may be seen."""
        nodes = self.presence.nodes
        see = self.presence.survey.allowed([self.presence.who], None, ["see"], self.presence.at)
        root = nodes.tree.path(row.id)[0]
        seen = [
            {
                "id": node.id,
                "title": nodes.titles[node.id],
                "address": nodes.addresses[node.id],
                "under": node.parent,
            }
            for i, node in enumerate(nodes.tree.nodes)
            if see[0, i, 0] and node.parent in (root, row.id) and node.tree == "content"
        ]
        return {
            "sections": [n for n in seen if n["under"] == root],
            "beneath": [n for n in seen if n["under"] == row.id and row.id != root],
        }


class FileView(GuardedPage):
    """A picture or document itself, for whoever may see its node."""

    doors = {"get": On("see")}

    def get(self, request: HttpRequest, node: str) -> FileResponse:
        row = Node.objects.filter(pk=node).first()
        if row is None or not row.file:
            raise NotFound("file")
        return FileResponse(row.file.open("rb"), headers={"Cache-Control": "private, max-age=60"})


def _read_out(value: Any) -> Any:
    """A value as visitors read it."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return ", ".join(value) if isinstance(value, list) else value


def _page_types() -> list[str]:
    return [t.key for t in TYPES.values() if t.tree == "content"]
