"""Markup sets: making, changing and taking them away, with what is risky about each."""

from typing import Any

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import MARKUP_PREFIX
from gonfalon.access.keys import key_for, spend, spent
from gonfalon.access.markup import Markup, faults, risk_of
from gonfalon.access.models import Answer, MarkupSet, Role
from gonfalon.access.snapshot import raise_version
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, may
from gonfalon.api.names import NameField
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import ChangedMeanwhile, Conflict, Invalid, NotFound
from gonfalon.inputs import Input
from gonfalon.ledger.models import Change, record
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY


class MarkupSetShape(serializers.Serializer):
    """A set, why it is risky (empty: it is not), and the roles that say something of it, for whoever defines roles."""

    key = serializers.CharField()
    name = serializers.CharField()
    elements = serializers.DictField(child=serializers.ListField(child=serializers.CharField()))
    schemes = serializers.ListField(child=serializers.CharField())
    risk = serializers.CharField()
    roles = serializers.ListField(child=serializers.CharField(), allow_null=True)
    version = serializers.IntegerField()


class MarkupInput(Input):
    name = NameField(max_length=80, error_messages={"blank": "A markup set needs a name."})
    elements = serializers.DictField(
        child=serializers.ListField(child=serializers.CharField(max_length=40), max_length=100), allow_empty=False
    )
    schemes = serializers.ListField(child=serializers.CharField(max_length=40), max_length=100)

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        if len(data.get("elements", ())) > 200:
            raise serializers.ValidationError({"elements": "A markup set names at most 200 elements."})
        if wrong := dict(faults(data.get("elements", {}), data.get("schemes", ()))):
            raise serializers.ValidationError(wrong)
        return data


class MarkupSetsView(GuardedView):
    doors = {"get": May("roles.define", "site.settings"), "post": May("site.settings")}
    locks = {"post": (POLICY,)}

    @extend_schema(responses=MarkupSetShape(many=True), operation_id="markup_sets", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """All sets by name. Two queries."""
        rows = list(MarkupSet.objects.all())
        using = _using(self.viewpoint)
        return paged(request, [_data(row, using) for row in rows])

    @extend_schema(request=MarkupInput, responses={201: MarkupSetShape}, operation_id="make_markup_set")
    def post(self, request: Request) -> Response:
        """Make a set. Its capability is given to nobody."""
        data = _read(request)
        _name_is_free(data["name"])
        taken = spent("markup").union(MarkupSet.objects.values_list("key", flat=True))
        row = MarkupSet.objects.create(key=key_for(data["name"], taken), **data)
        raise_version()
        record(self.session.by, "markup.made", about=("markup", row.key), name=row.name)
        return Response(_data(row, _using(self.viewpoint)), status=201)


class MarkupSetView(GuardedView):
    doors = {"get": May("roles.define", "site.settings"), "put": May("site.settings"), "delete": May("site.settings")}
    locks = {"put": (POLICY,), "delete": (POLICY,)}

    @extend_schema(responses=MarkupSetShape, operation_id="markup_set", parameters=[ETAG])
    def get(self, request: Request, markup_set: str) -> Response:
        row = _row(markup_set)
        return Response(_data(row, _using(self.viewpoint)), headers={"ETag": etag(row.version)})

    @extend_schema(request=MarkupInput, responses=MarkupSetShape, operation_id="change_markup_set", parameters=TAGGED)
    def put(self, request: Request, markup_set: str) -> Response:
        """Change a set for everyone who may use it. Texts that are saved already stay as they are."""
        expected = expected_version(request)
        data = _read(request)
        row = _row(markup_set)
        if expected != etag(row.version):
            raise ChangedMeanwhile(f"{row.name} was changed while you were editing it.", _data(row, None))
        _name_is_free(data["name"], but=row.key)
        changes = [
            Change(what=key, was=_told(getattr(row, key)), now=_told(value))
            for key, value in data.items()
            if getattr(row, key) != value
        ]
        if changes:
            for key, value in data.items():
                setattr(row, key, value)
            row.version += 1
            row.save()
            raise_version()
            record(self.session.by, "markup.changed", about=("markup", row.key), changes=changes, name=row.name)
        return Response(_data(row, _using(self.viewpoint)), headers={"ETag": etag(row.version)})

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="drop_markup_set")
    def delete(self, request: Request, markup_set: str) -> Response:
        row = _row(markup_set)
        said = Answer.objects.filter(capability=MARKUP_PREFIX + row.key)
        if said.exists():
            using = Role.objects.filter(pk__in=said.values("role")).values_list("name", flat=True)
            names = ", ".join(using) if may(self.viewpoint, "roles.define") else "some roles"
            raise Conflict(f"{row.name} is still spoken of by {names}. Clear what they say of it first.")
        row.delete()
        spend("markup", {markup_set: row.name})
        raise_version()
        record(self.session.by, "markup.dropped", about=("markup", markup_set), name=row.name)
        return Response(status=204)


class MarkupRiskShape(serializers.Serializer):
    risk = serializers.CharField()


class MarkupRiskView(GuardedView):
    doors = {"post": May("site.settings")}
    reads = frozenset({"post"})

    @extend_schema(request=MarkupInput, responses=MarkupRiskShape, operation_id="markup_risk")
    def post(self, request: Request) -> Response:
        """How risky a set would be, before it is saved. Nothing is written."""
        data = _read(request)
        return Response({"risk": risk_of(Markup(data["elements"], data["schemes"]))})


def _read(request: Request) -> dict[str, Any]:
    given = MarkupInput(data=request.data)
    given.is_valid(raise_exception=True)
    data = given.validated_data
    return {
        "name": " ".join(data["name"].split()),
        "elements": {element: sorted(set(attributes)) for element, attributes in sorted(data["elements"].items())},
        "schemes": sorted(set(data["schemes"])),
    }


def _row(key: str) -> MarkupSet:
    row = MarkupSet.objects.filter(pk=key).first()
    if row is None:
        raise NotFound("markup set")
    return row


def _using(viewpoint: Viewpoint) -> dict[str, list[str]] | None:
    """For each set the roles that say something of it; None for whoever may not know what roles say."""
    if not may(viewpoint, "roles.define"):
        return None
    using: dict[str, list[str]] = {}
    said = Answer.objects.filter(capability__startswith=MARKUP_PREFIX).order_by("role__position", "role_id")
    for role, capability in said.values_list("role_id", "capability"):
        using.setdefault(capability.removeprefix(MARKUP_PREFIX), []).append(role)
    return using


def _data(row: MarkupSet, using: dict[str, list[str]] | None) -> dict[str, Any]:
    return {
        "key": row.key,
        "name": row.name,
        "elements": row.elements,
        "schemes": row.schemes,
        "risk": risk_of(Markup.of(row)),
        "roles": None if using is None else using.get(row.key, []),
        "version": row.version,
    }


def _name_is_free(name: str, but: str = "") -> None:
    if MarkupSet.objects.filter(name__iexact=name).exclude(key=but).exists():
        raise Invalid({"/name": f"Another markup set is called {name} already."})


def _told(value: Any) -> str:
    if isinstance(value, dict):
        return ", ".join(f"{element} ({', '.join(named)})" if named else element for element, named in value.items())
    return value if isinstance(value, str) else ", ".join(value)
