"""A page as visitors would read it once it is published, before it is: with what is being changed on it."""

from copy import copy
from typing import Any

from django.template.loader import render_to_string
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.desk.copy_data import OnCopy
from gonfalon.api.desk.edits import PageInput, read_edits
from gonfalon.api.desk.page_data import PageAccess, page_data
from gonfalon.api.guard import GuardedView, On, ask
from gonfalon.api.site.drawing import page_context
from gonfalon.content.models import Node
from gonfalon.content.nodes import as_target
from gonfalon.content.working_copies import as_page, copy_of
from gonfalon.core.model.tree import Target


class PreviewShape(serializers.Serializer):
    html = serializers.CharField(help_text="The whole page, to be shown without scripts.")
    seen = serializers.BooleanField(help_text="Whether visitors would see it at all, once it is published.")


class PreviewView(GuardedView):
    doors = {"post": On("see", desk=True, while_looking=True)}
    reads = frozenset({"post"})

    @extend_schema(request=PageInput, responses=PreviewShape, operation_id="preview_page")
    def post(self, request: Request, node: str) -> Response:
        """Draw a page as if what is sent were saved, and it published. Nothing is written."""
        return self._drawn(self.place.row, self.place.target, request.data)

    def _drawn(self, row: Node, target: Target, sent: Any) -> Response:
        above = self.place.above
        if sent:
            ask(self.viewpoint, "edit", target)
            new = read_edits(self.viewpoint, row, target, sent).new
            for key, value in new.items():
                setattr(row, key, value)
        public, visitor = copy(row), self.viewpoint.seen_by(None)
        public.state = Node.State.PUBLISHED
        page = _seen_by_both(page_data(visitor, public, above), page_data(self.viewpoint, row, above, target))
        drawn = page_context(visitor, public, above, page)
        for key in ("sections", "beneath"):
            drawn[key] = self._in_sight(drawn[key])
        for shape in (shape for part in drawn["parts"] for shape in part["shapes"]):
            shape["listed"] = self._in_sight(shape["listed"])
        html = render_to_string("site/page.html", drawn | {"head": {"title": row.title}, "preview": True})
        return Response({"html": html, "seen": PageAccess(visitor, as_target(public, above)).may("see")})

    def _in_sight(self, pages: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """Those of some pages that whoever looks at it sees themselves."""
        return [page for page in pages if page["id"] in self.viewpoint.in_sight.named]


class CopyPreviewView(PreviewView):
    doors = {"post": OnCopy("see", while_looking=True)}

    @extend_schema(request=PageInput, responses=PreviewShape, operation_id="preview_working_copy")
    def post(self, request: Request, node: str) -> Response:
        """The same of the working copy of a page."""
        page = as_page(self.place.row, copy_of(self.place.row))
        return self._drawn(page, self.place.target.working_copy(), request.data)


def _seen_by_both(visitor: dict[str, Any], own: dict[str, Any]) -> dict[str, Any]:
    """The page of a visitor, without what whoever looks at it may not see themselves."""
    fields = {field["key"] for field in own["fields"]}
    parts = {part["id"]: part["props"] for part in own["components"]}
    return visitor | {
        "fields": [field for field in visitor["fields"] if field["key"] in fields],
        "components": [
            part | {"props": {key: value for key, value in part["props"].items() if key in parts[part["id"]]}}
            for part in visitor["components"]
        ],
    }
