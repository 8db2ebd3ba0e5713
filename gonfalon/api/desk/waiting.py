"""What was handed in and waits for whoever may publish it, and what changed on a page since visitors last read it."""

from collections.abc import Sequence
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.sight import HIDDEN_PERSON
from gonfalon.accounts.names import names_of
from gonfalon.api.desk.history import VersionChangeShape, told_changes
from gonfalon.api.desk.page_data import PageAccess
from gonfalon.api.guard import GuardedView, May, On
from gonfalon.api.paging import PAGED, paged
from gonfalon.content import history
from gonfalon.content.models import Node, Version
from gonfalon.content.pages import version_data
from gonfalon.viewpoint.viewpoint import Viewpoint


class WaitingShape(serializers.Serializer):
    id = serializers.CharField()
    title = serializers.CharField()
    type = serializers.CharField()
    above = serializers.ListField(child=serializers.CharField())
    note = serializers.CharField(allow_blank=True, help_text="What was said when it was handed in.")
    version = serializers.IntegerField()
    handed_in_at = serializers.DateTimeField()
    handed_in_by = serializers.CharField(allow_null=True)
    was_public = serializers.BooleanField()


class SincePublicShape(serializers.Serializer):
    last_public = serializers.DateTimeField(allow_null=True, help_text="Null where it never was.")
    changes = VersionChangeShape(many=True)


class WaitingView(GuardedView):
    doors = {"get": May("desk.open")}

    @extend_schema(responses=WaitingShape(many=True), operation_id="waiting", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """The pages handed in that one may publish, who waits longest first. Four queries."""
        return paged(request, waiting(self.viewpoint), self._rows)

    def _rows(self, ids: Sequence[str]) -> list[dict[str, Any]]:
        found = Node.objects.in_bulk(ids)
        rows = [found[id] for id in ids if id in found]
        names = names_of({row.saved_by_id for row in rows if row.saved_by_id is not None})
        public = set(
            Version.objects.filter(node__in=ids, data__state=Node.State.PUBLISHED).values_list("node", flat=True)
        )
        return [_row(self.viewpoint, row, names, row.id in public) for row in rows]


class SincePublicView(GuardedView):
    doors = {"get": On("publish", desk=True)}

    @extend_schema(responses=SincePublicShape, operation_id="since_public")
    def get(self, request: Request, node: str) -> Response:
        """What differs from the page as it was last public, as far as whoever may publish it sees it."""
        row = self.place.row
        access = PageAccess(self.viewpoint, self.place.target)
        public = row.versions.filter(data__state=Node.State.PUBLISHED).first()
        was = public.data if public else {"state": row.state, "title": "", "values": {}, "components": []}
        now = {**version_data(row), "state": was["state"]}
        return Response(
            {
                "last_public": public.at if public else None,
                "changes": told_changes(history.changes(row.type, was, now, self.viewpoint.catalogue), row, access),
            }
        )


def waiting(viewpoint: Viewpoint) -> list[str]:
    """The pages in review that whoever asks sees and may publish, those handed in first before the others."""
    tree, seen = viewpoint.nodes.tree, viewpoint.on_desk.whole
    in_review = Node.objects.filter(state=Node.State.REVIEW).order_by("saved_at", "pk").values_list("pk", flat=True)
    handed_in = [id for id in in_review if id in tree and seen[tree.index[id]]]
    if not handed_in:
        return []
    allowed = viewpoint.survey.allowed([viewpoint.subject], handed_in, ["publish"], viewpoint.at)[0, :, 0]
    return [id for id, yes in zip(handed_in, allowed, strict=True) if yes]


def _row(viewpoint: Viewpoint, row: Node, names: dict[str, str], was_public: bool) -> dict[str, Any]:
    nodes = viewpoint.nodes
    return {
        "id": row.id,
        "title": row.title,
        "type": row.type,
        "above": [nodes.titles[id] for id in nodes.tree.path(row.id)[:-1]],
        "note": row.note,
        "version": row.version,
        "handed_in_at": row.saved_at,
        "handed_in_by": names.get(row.saved_by_id or "", HIDDEN_PERSON) if row.saved_by_id else None,
        "was_public": was_public,
    }
