"""Sites: the list, a new one, their order and settings; and how an installation begins."""

import re
from ipaddress import ip_address
from typing import Any

from django.conf import settings
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, Within
from gonfalon.api.names import NameField
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.people import LANGUAGES
from gonfalon.api.problems import ChangedMeanwhile, Conflict, Invalid, NotFound
from gonfalon.content import sites
from gonfalon.content.models import Node, Site
from gonfalon.inputs import Input
from gonfalon.verify.beginning import HasBegun, begin, has_begun
from gonfalon.work import NODES, POLICY

TAKEN = "Another site has this name."
_HOST = re.compile(r"(?=.{1,253}$)[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?(\.[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?)*")
_BLANK = {"blank": "A site needs a name."}


class HostField(serializers.CharField):
    """A host name, without a port."""

    def to_internal_value(self, data: Any) -> str:
        host = super().to_internal_value(data).strip().lower()
        if not _HOST.fullmatch(host):
            raise serializers.ValidationError("A host name is like www.quay.example, without a port.")
        if host == settings.HOST or _is_this_machine(host):
            raise serializers.ValidationError("The desk answers to this name. A site needs one of its own.")
        return host


def _is_this_machine(host: str) -> bool:
    try:
        return ip_address(host).is_loopback or ip_address(host).is_unspecified
    except ValueError:
        return host.split(".")[-1] == "localhost"


class SiteShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()


class SiteSettingsShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    tagline = serializers.CharField()
    footer = serializers.CharField()
    language = serializers.CharField()
    hosts = serializers.ListField(child=serializers.CharField())
    bin_days = serializers.IntegerField()
    home = serializers.CharField(allow_null=True, help_text="The id of its home page.")


class SiteInput(Input):
    name = NameField(max_length=120, error_messages=_BLANK)
    tagline = serializers.CharField(max_length=200, required=False, allow_blank=True)


class SiteChangeInput(Input):
    name = NameField(max_length=120, required=False, error_messages=_BLANK)
    tagline = serializers.CharField(max_length=200, required=False, allow_blank=True)
    footer = serializers.CharField(max_length=200, required=False, allow_blank=True)
    language = serializers.ChoiceField(choices=LANGUAGES, required=False)
    hosts = serializers.ListField(child=HostField(), required=False, max_length=20)
    bin_days = serializers.IntegerField(min_value=0, max_value=3650, required=False)


class OrderInput(Input):
    keys = serializers.ListField(child=serializers.CharField(), max_length=1_000)


class BegunShape(serializers.Serializer):
    begun = serializers.BooleanField(help_text="Whether there is a site.")


class BeginInput(Input):
    name = NameField(max_length=120, error_messages=_BLANK)
    visitors = serializers.BooleanField(default=True, help_text="Whether published pages are seen by everyone.")
    starters = serializers.BooleanField(default=True, help_text="Whether to begin with the starter roles.")


class SitesView(GuardedView):
    doors = {
        "get": May("desk.open", "roster.see", "limits.set", "site.settings"),
        "post": Within("settings.open", May("site.settings")),
    }
    locks = {"post": (POLICY, NODES)}

    @extend_schema(responses=SiteShape(many=True), operation_id="sites", parameters=PAGED)
    def get(self, request: Request) -> Response:
        return paged(request, [{"key": s.key, "name": s.name} for s in Site.objects.all()])

    @extend_schema(request=SiteInput, responses={201: SiteSettingsShape}, operation_id="make_site", parameters=[ETAG])
    def post(self, request: Request) -> Response:
        """A new site, with a home page and a first folder for its media."""
        given = SiteInput(data=request.data)
        given.is_valid(raise_exception=True)
        try:
            site = sites.make_site(by=self.session.by, **given.validated_data)
        except sites.NameTaken:
            raise Invalid({"/name": TAKEN}) from None
        return _answer(site, status=201)


class SiteView(GuardedView):
    doors = dict.fromkeys(("get", "patch"), Within("settings.open", May("site.settings")))
    locks = {"patch": (POLICY.shared, NODES)}

    @extend_schema(responses=SiteSettingsShape, operation_id="site", parameters=[ETAG])
    def get(self, request: Request, site: str) -> Response:
        return _answer(site_named(site))

    @extend_schema(request=SiteChangeInput, responses=SiteSettingsShape, operation_id="change_site", parameters=TAGGED)
    def patch(self, request: Request, site: str) -> Response:
        """Change settings of a site."""
        row, expected = site_named(site), expected_version(request)
        given = SiteChangeInput(data=request.data)
        given.is_valid(raise_exception=True)
        new = dict(given.validated_data)
        if "hosts" in new:
            new["hosts"] = sorted(set(new["hosts"]))
        if expected != etag(row.version):
            raise ChangedMeanwhile(f"Somebody changed {row.name} while you were editing it.", _data(row))
        try:
            saved = sites.change_site(row, new, self.session.by)
        except sites.NameTaken:
            raise Invalid({"/name": TAKEN}) from None
        except sites.HostTaken as taken:
            raise Invalid({"/hosts": f"Another site answers to {taken}."}) from None
        return _answer(saved)


class SiteOrderView(GuardedView):
    doors = {"put": Within("settings.open", May("site.settings"))}
    locks = {"put": (POLICY.shared, NODES.shared)}

    @extend_schema(request=OrderInput, responses={204: None}, operation_id="order_sites")
    def put(self, request: Request) -> Response:
        """Put the sites in an order; it is only for the eye."""
        given = OrderInput(data=request.data)
        given.is_valid(raise_exception=True)
        try:
            sites.put_in_order(given.validated_data["keys"], self.session.by)
        except ValueError:
            raise Invalid({"/keys": "Name each site once."}) from None
        return Response(status=204)


class BeginView(GuardedView):
    doors = {"get": May("site.settings"), "post": May("site.settings")}
    locks = {"post": (POLICY, NODES)}

    @extend_schema(responses=BegunShape, operation_id="begun")
    def get(self, request: Request) -> Response:
        """Whether there is a site yet."""
        return Response({"begun": has_begun()})

    @extend_schema(request=BeginInput, responses={201: SiteSettingsShape}, operation_id="begin", parameters=[ETAG])
    def post(self, request: Request) -> Response:
        """Make the first site. Starter roles and what visitors see are said of roles, so only a keyholder begins."""
        if not self.viewpoint.keyholder:
            raise Conflict("A keyholder makes the first site.")
        given = BeginInput(data=request.data)
        given.is_valid(raise_exception=True)
        try:
            site = begin(by=self.session.by, **given.validated_data)
        except HasBegun:
            raise Conflict("There is a site already.") from None
        return _answer(site, status=201)


def site_named(key: str) -> Site:
    """A site by its key. Raises NotFound."""
    site = Site.objects.filter(pk=key).first()
    if site is None:
        raise NotFound("site")
    return site


def _data(site: Site) -> dict[str, Any]:
    told = {key: getattr(site, key) for key in ("key", *sites.SETTINGS)}
    home = Node.objects.filter(site=site, type=sites.HOME, depth=1).values_list("pk", flat=True).first()
    return told | {"home": home}


def _answer(site: Site, status: int = 200) -> Response:
    return Response(_data(site), status=status, headers={"ETag": etag(site.version)})
