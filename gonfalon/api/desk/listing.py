"""Search-listing texts on the desk: of a page, apart from the rest of it, and of a whole site."""

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.desk.sites import site_named
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, On, Within
from gonfalon.api.problems import ChangedMeanwhile
from gonfalon.content.listing import listing_of, save_listing
from gonfalon.content.models import Node, Site
from gonfalon.inputs import Input
from gonfalon.work import NODES, POLICY, RowLock


class ListingShape(Input):
    """How a page is listed by search engines. An empty text: the page's own title, or what the site says."""

    title = serializers.CharField(max_length=120, allow_blank=True)
    description = serializers.CharField(max_length=320, allow_blank=True)
    hidden = serializers.BooleanField()


class _ListingView(GuardedView):
    def _told(self, thing: Node | Site) -> Response:
        return Response(listing_of(thing), headers={"ETag": etag(thing.listing_version)})

    def _save(self, request: Request, thing: Node | Site, name: str) -> Response:
        expected = expected_version(request)
        given = ListingShape(data=request.data)
        given.is_valid(raise_exception=True)
        version, new = thing.listing_version, given.validated_data
        if expected != etag(version) or not save_listing(thing, new, self.session.by, version):
            thing.refresh_from_db()
            told = f"Somebody changed how {name} is listed while you were editing it."
            raise ChangedMeanwhile(told, listing_of(thing))
        return self._told(thing)


class PageListingView(_ListingView):
    doors = {"get": On("see", desk=True), "put": On("listing.edit", desk=True)}
    locks = {"put": (POLICY.shared, NODES.shared, RowLock("content.Node", "node"))}

    @extend_schema(responses=ListingShape, operation_id="page_listing", parameters=[ETAG])
    def get(self, request: Request, node: str) -> Response:
        return self._told(Node.objects.get(pk=node))

    @extend_schema(request=ListingShape, responses=ListingShape, operation_id="save_page_listing", parameters=TAGGED)
    def put(self, request: Request, node: str) -> Response:
        """Save the listing texts of a page, whether or not the rest of it may be edited."""
        row = Node.objects.get(pk=node)
        return self._save(request, row, row.title)


class SiteListingView(_ListingView):
    doors = dict.fromkeys(("get", "put"), Within("settings.open", May("listing.settings")))
    locks = {"put": (POLICY.shared, RowLock("content.Site", "site"))}

    @extend_schema(responses=ListingShape, operation_id="site_listing", parameters=[ETAG])
    def get(self, request: Request, site: str) -> Response:
        return self._told(site_named(site))

    @extend_schema(request=ListingShape, responses=ListingShape, operation_id="save_site_listing", parameters=TAGGED)
    def put(self, request: Request, site: str) -> Response:
        """Save what a whole site says of itself: what its pages say where they say nothing themselves."""
        row = site_named(site)
        return self._save(request, row, row.name)
