"""Search-listing texts on the desk: of a page, apart from the rest of it, and of a whole site."""

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.content.listing import listing_of, save_listing
from gonfalon.content.models import Node, Site
from gonfalon.content.views.shapes import ListingShape
from gonfalon.server.etag import etag, expected_version
from gonfalon.server.guard import GuardedView, May, On
from gonfalon.server.problems import ChangedMeanwhile, NotFound


class _ListingView(GuardedView):
    def _told(self, thing: Node | Site) -> Response:
        return Response(listing_of(thing), headers={"ETag": etag(thing.listing_version)})

    def _save(self, request: Request, thing: Node | Site, name: str) -> Response:
        expected = expected_version(request)
        given = ListingShape(data=request.data)
        given.is_valid(raise_exception=True)
        version, new = thing.listing_version, given.validated_data
        if expected != etag(version) or not save_listing(thing, new, self.presence.by, version):
            raise ChangedMeanwhile(
                f"Somebody changed how {name} is listed while you were editing it.", self._theirs(thing)
            )
        return self._told(thing)

    def _theirs(self, thing: Any) -> Any:
        thing.refresh_from_db()
        return listing_of(thing)


class PageListingView(_ListingView):
    doors = {"get": On("see", desk=True), "put": On("listing.edit", desk=True)}

    @extend_schema(responses=ListingShape, operation_id="page_listing")
    def get(self, request: Request, node: str) -> Response:
        return self._told(Node.objects.get(pk=node))

    @extend_schema(request=ListingShape, responses=ListingShape, operation_id="save_page_listing")
    def put(self, request: Request, node: str) -> Response:
        """Save the listing texts of a page, whether or not the rest of it may be edited."""
        row = Node.objects.get(pk=node)
        return self._save(request, row, row.title)


class SiteListingView(_ListingView):
    doors = {"get": May("listing.settings"), "put": May("listing.settings")}

    @extend_schema(responses=ListingShape, operation_id="site_listing")
    def get(self, request: Request, site: str) -> Response:
        return self._told(_site(site))

    @extend_schema(request=ListingShape, responses=ListingShape, operation_id="save_site_listing")
    def put(self, request: Request, site: str) -> Response:
        """Save what a whole site says of itself: what its pages say where they say nothing themselves."""
        row = _site(site)
        return self._save(request, row, row.name)


def _site(key: str) -> Site:
    site = Site.objects.filter(pk=key).first()
    if site is None:
        raise NotFound("site")
    return site
