"""The public site: plain pages, as visitors and signed-in accounts see them."""

from collections.abc import Mapping
from typing import Any, ClassVar

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from gonfalon.api.guard import Anyone, Arrived, GuardedPage, ask_on_site, may
from gonfalon.api.problems import NotFound, Problem
from gonfalon.api.site.drawing import page_context, page_on_site
from gonfalon.api.site.strip import strip
from gonfalon.api.standing import step_out
from gonfalon.content.listing import head_of
from gonfalon.content.models import Node, Site
from gonfalon.content.nodes import ancestors, as_target
from gonfalon.core.model.vocabulary import DESK_OPEN
from gonfalon.viewpoint.session import Session
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import Locks, run


class _OnSite(GuardedPage):
    """A page that tells a refusal as the site looks."""

    def problem(self, request: HttpRequest, problem: Problem) -> HttpResponse:
        standing = strip(self.session, request, None, [])
        drawn = {"problem": problem.body, "standing": standing}
        return render(request, "site/problem.html", drawn, status=problem.status)


class FirstSite(_OnSite):
    """The way to the home page of the first site, for links that know of none."""

    doors = {"get": Anyone("It only leads on; the page itself is asked for there.")}

    def get(self, request: HttpRequest) -> HttpResponse:
        site = Site.objects.first()
        if site is None:
            raise NotFound
        return redirect(f"/site/{site.key}/")


class SitePage(_OnSite):
    """The page at an address of a site. Fields closed to this reader, and to visitors, are not in it."""

    doors = {"get": Anyone("The page itself is asked for once its address is known.")}

    def get(self, request: HttpRequest, site: str, address: str = "") -> HttpResponse:
        row = Node.objects.filter(site=site, address=address.strip("/"), type__in=_page_types(self.viewpoint)).first()
        if row is None or not address.isprintable():  # the database would pass over what cannot be printed
            raise NotFound
        above = ancestors(row)
        ask_on_site(self.viewpoint, as_target(row, above))
        drawn = page_context(self.viewpoint, row, above, page_on_site(self.viewpoint, row, above))
        head, standing = head_of(row, drawn["site"]), strip(self.session, request, row, above)
        told = {"head": head, "standing": standing, "reader": _reader(self.session, request)}
        return render(request, "site/page.html", drawn | told)


def _reader(session: Session, request: HttpRequest) -> dict[str, Any] | None:
    """Who reads, and where signing in leads back to; None while one stands in, and under a host name of a site's own,
    where nobody is signed in."""
    host = request.get_host()
    if session.standing_in is not None or settings.HOST not in (host, host.rpartition(":")[0]):
        return None
    account = session.arriving
    desk = session.actor is not None and may(session.viewpoint, DESK_OPEN)
    return {"name": account.name if account else "", "desk": desk, "here": request.path}


class StepOutPage(GuardedPage):
    """Stepping out from the public site, back to where one was."""

    doors = {"post": Arrived(while_looking=True)}
    locks: ClassVar[Mapping[str, Locks]] = {"post": ()}
    whoever_asks = frozenset({"post"})
    never_rehearsed = frozenset({"post"})

    def post(self, request: HttpRequest) -> HttpResponse:
        under_way = self.session.standing_in
        run(lambda: step_out(self.session), self.locks["post"])
        return redirect(under_way.came_from if under_way else "/")


def _page_types(viewpoint: Viewpoint) -> list[str]:
    return [t.key for t in viewpoint.catalogue.every_type.values() if t.tree == "content"]
