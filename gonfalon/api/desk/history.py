"""The history of a page: who saved it when, what each save changed, and bringing an earlier version back."""

from dataclasses import asdict
from html import unescape
from typing import Any, TypeAlias

import nh3
from django.db.models import QuerySet
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import Catalogue
from gonfalon.access.sight import HIDDEN_NODE
from gonfalon.accounts.models import Account
from gonfalon.api.desk.copy_data import OnCopy
from gonfalon.api.desk.page_data import PageAccess, PageShape, page_data
from gonfalon.api.etag import TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, On
from gonfalon.api.paging import PAGED, paged, whole
from gonfalon.api.problems import ChangedMeanwhile, NotFound
from gonfalon.content import history, pages
from gonfalon.content.models import CopyVersion, Node, Version
from gonfalon.content.page_parts import Part
from gonfalon.content.working_copies import as_page, copy_of
from gonfalon.core.model.tree import Target
from gonfalon.ledger.models import Change
from gonfalon.work import NODES, POLICY


class VersionShape(serializers.Serializer):
    number = serializers.IntegerField()
    at = serializers.DateTimeField()
    by = serializers.CharField(allow_null=True)
    title = serializers.CharField()
    did = serializers.CharField(
        help_text="made, saved, handed-in, returned, taken-back, published, retired or to-draft."
    )
    note = serializers.CharField(allow_blank=True, help_text="What was said with it.")
    now = serializers.BooleanField(help_text="Whether it is how the page is.")


class VersionChangeShape(serializers.Serializer):
    """One thing that differs, as text without its markup."""

    what = serializers.CharField()
    was = serializers.CharField(allow_null=True)
    now = serializers.CharField(allow_null=True)


class VersionPageShape(serializers.Serializer):
    number = serializers.IntegerField()
    before = VersionChangeShape(many=True, help_text="What that save changed.")
    between = VersionChangeShape(many=True, help_text="What differs from the version `with`, the earlier one first.")
    kept = serializers.ListField(
        child=serializers.CharField(), help_text="What would stay as it is if this version came back: it is closed."
    )


Versions: TypeAlias = QuerySet[Version] | QuerySet[CopyVersion]


class VersionsView(GuardedView):
    doors = {"get": On("history", desk=True)}

    @extend_schema(responses=VersionShape(many=True), operation_id="versions", parameters=PAGED)
    def get(self, request: Request, node: str) -> Response:
        """Every save of a page, the last first. Three queries."""
        rows = list(self._versions().values("number", "at", "by", "data__title", "data__state", "data__note"))
        names = dict(Account.objects.filter(pk__in={v["by"] for v in rows}).values_list("id", "name"))
        stood = [(v["data__state"], v["data__note"] or "") for v in rows]
        before_each = [*stood[1:], None][: len(rows)]
        return paged(
            request,
            [
                {
                    "number": v["number"],
                    "at": v["at"],
                    "by": names.get(v["by"] or ""),
                    "title": v["data__title"],
                    "did": (did := history.became(before, here)),
                    "note": "" if did == "saved" else here[1],
                    "now": v is rows[0],
                }
                for v, here, before in zip(rows, stood, before_each, strict=True)
            ],
        )

    def _versions(self) -> Versions:
        return self.place.row.versions.all()


class VersionView(GuardedView):
    doors = {"get": On("history", desk=True)}

    @extend_schema(responses=VersionPageShape, operation_id="version", parameters=[OpenApiParameter("with", int)])
    def get(self, request: Request, node: str, number: int) -> Response:
        """One version beside the one before it, and beside any other: what the reader may see of it."""
        row = self.place.row
        return self._beside(row, row.versions.all(), self.place.target, number, whole(request, "with", number))

    def _beside(self, row: Node, versions: Versions, target: Target, number: int, beside: int) -> Response:
        version, other = _version(versions, number), _version(versions, beside)
        earlier, later = sorted((version, other), key=lambda one: one.number)
        before = versions.filter(number__lt=number).first()
        access = PageAccess(self.viewpoint, target)
        here = pages.version_data(row)
        new = history.restored(row, version.data, lambda part: _may(access, part), self.viewpoint.catalogue)
        wanted = {**version.data, "state": row.state}
        left = history.changes(row.type, {**here, **new}, wanted, self.viewpoint.catalogue)
        saved = history.changes(row.type, before.data, version.data, self.viewpoint.catalogue) if before else ()
        between = history.changes(row.type, earlier.data, later.data, self.viewpoint.catalogue)
        return Response(
            {
                "number": number,
                "before": told_changes(saved, row, access),
                "between": told_changes(between, row, access),
                "kept": list(dict.fromkeys(change["what"] for change in _seen(left, access))),
            }
        )


class CopyVersionsView(VersionsView):
    doors = {"get": OnCopy("see")}

    @extend_schema(responses=VersionShape(many=True), operation_id="copy_versions", parameters=PAGED)
    def get(self, request: Request, node: str) -> Response:
        """Every save of the working copy of a page, the last first; of none, nothing. Four queries."""
        return super().get(request, node)

    def _versions(self) -> Versions:
        return CopyVersion.objects.filter(copy=self.place.row.pk)


class CopyVersionView(VersionView):
    doors = {"get": OnCopy("see")}

    @extend_schema(responses=VersionPageShape, operation_id="copy_version", parameters=[OpenApiParameter("with", int)])
    def get(self, request: Request, node: str, number: int) -> Response:
        """The same of a working copy."""
        row, versions = self.place.row, CopyVersion.objects.filter(copy=node)
        page, target = as_page(row, copy_of(row)), self.place.target.working_copy()
        return self._beside(page, versions, target, number, whole(request, "with", number))


class RestoreView(GuardedView):
    doors = {"post": On("restore", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}

    @extend_schema(request=None, responses=PageShape, operation_id="restore_version", parameters=TAGGED)
    def post(self, request: Request, node: str, number: int) -> Response:
        """Bring an earlier version back, as a new one; what is closed to whoever asks keeps what it has."""
        row, above = self.place.row, self.place.above
        expected, version = expected_version(request), _version(row.versions.all(), number)
        if expected != etag(row.version):
            raise ChangedMeanwhile(f"{row.title} was changed meanwhile.", page_data(self.viewpoint, row, above))
        access = PageAccess(self.viewpoint, self.place.target)
        new = history.restored(row, version.data, lambda part: _may(access, part), self.viewpoint.catalogue)
        pages.save(row, new, self.session.by)
        return Response(page_data(self.viewpoint, row, above), headers={"ETag": etag(row.version)})


def _version(versions: Versions, number: int) -> Version | CopyVersion:
    found = versions.filter(number=number).first()
    if found is None:
        raise NotFound("version")
    return found


def _may(access: PageAccess, part: Part) -> bool:
    asked = asdict(part)
    return access.may(asked.pop("action"), **asked)


def _seen(changes: Any, access: PageAccess) -> list[Change]:
    """The changes that a reader may know of: fields they see, properties that need nothing they lack."""
    return [
        change
        for change in changes
        if ("field" not in change or access.may("see-field", field=change["field"]))
        and ("needs" not in change or access.may(change["needs"]))
    ]


CELLS = " · "


def told_changes(changes: Any, row: Node, access: PageAccess) -> list[dict[str, Any]]:
    """Changes of a page as text, those that a reader may know of."""
    kinds = {field.key: field.kind for field in access.viewpoint.catalogue.type(row.type).fields}
    return [
        {
            "what": change["what"],
            **{side: _text(change[side], kinds.get(change.get("field", ""), ""), access) for side in ("was", "now")},
        }
        for change in _seen(changes, access)
    ]


def _text(value: Any, kind: str, access: PageAccess, *, beneath: bool = True) -> str | None:
    """A value as plain text; a page or a picture by name, if it may be seen. Of a list, each is a line of its own
    (`beneath`), and what is in it stands beside each other: so a table reads by its rows."""
    if value is None or value == "":
        return None
    between = "\n" if beneath else CELLS
    if isinstance(value, dict):
        pictures = _pictures(access.viewpoint.catalogue)
        told = [_text(v, "picture" if key in pictures else "", access, beneath=beneath) for key, v in value.items()]
        return between.join(filter(None, told))
    if isinstance(value, list):
        return between.join(filter(None, (_text(v, "", access, beneath=False) for v in value)))
    if kind in ("reference", "picture"):
        return access.viewpoint.nodes.titles.get(value, value) if access.finds(kind, value) else HIDDEN_NODE
    text = str(value)
    return unescape(nh3.clean(text, tags=set())) if "<" in text else text


def _pictures(catalogue: Catalogue) -> set[str]:
    """The properties of components that name a picture."""
    every = catalogue.every_component.values()
    return {key for c in every for key, known in c.properties.items() if known.kind == "picture"}
