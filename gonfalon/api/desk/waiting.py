"""What was handed in and waits for whoever may publish it, and what changed on a page since visitors last read it."""

from collections.abc import Sequence
from typing import Any, NamedTuple

from django.db.models import Value
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.sight import HIDDEN_PERSON
from gonfalon.accounts.names import names_of
from gonfalon.api.desk.copy_data import tag_of
from gonfalon.api.desk.history import VersionChangeShape, told_changes
from gonfalon.api.desk.page_data import PageAccess
from gonfalon.api.guard import GuardedView, May, On
from gonfalon.api.paging import PAGED, paged
from gonfalon.content import history
from gonfalon.content.models import Node, Version, WorkingCopy
from gonfalon.content.pages import version_data
from gonfalon.viewpoint.viewpoint import Viewpoint


class WaitingShape(serializers.Serializer):
    id = serializers.CharField()
    title = serializers.CharField()
    type = serializers.CharField()
    above = serializers.ListField(child=serializers.CharField())
    note = serializers.CharField(allow_blank=True, help_text="What was said when it was handed in.")
    tag = serializers.CharField(help_text="What to send as If-Match, in quotation marks.")
    working = serializers.BooleanField(help_text="Whether it is the working copy of the page that waits.")
    handed_in_at = serializers.DateTimeField()
    handed_in_by = serializers.CharField(allow_null=True)
    was_public = serializers.BooleanField()


class SincePublicShape(serializers.Serializer):
    last_public = serializers.DateTimeField(allow_null=True, help_text="Null where it never was.")
    changes = VersionChangeShape(many=True)


class Waits(NamedTuple):
    """Something handed in: a page, or its working copy."""

    id: str
    working: bool


class WaitingView(GuardedView):
    doors = {"get": May("desk.open")}

    @extend_schema(responses=WaitingShape(many=True), operation_id="waiting", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """The pages and working copies handed in that one may publish, who waits longest first. Five queries."""
        return paged(request, waiting(self.viewpoint), self._rows)

    def _rows(self, waits: Sequence[Waits]) -> list[dict[str, Any]]:
        pages = Node.objects.in_bulk([one.id for one in waits])
        copies = WorkingCopy.objects.in_bulk([one.id for one in waits if one.working])
        both = [(row, copies.get(one.id) if one.working else row) for one in waits if (row := pages.get(one.id))]
        rows = [(row, what) for row, what in both if what is not None]
        names = names_of({what.saved_by_id for _, what in rows if what.saved_by_id is not None})
        public = set(
            Version.objects.filter(node__in=pages, data__state=Node.State.PUBLISHED).values_list("node", flat=True)
        )
        return [_row(self.viewpoint, row, what, names, row.id in public) for row, what in rows]


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


def waiting(viewpoint: Viewpoint) -> list[Waits]:
    """What is in review that whoever asks sees and may publish, what was handed in first before the others.

    One query.
    """
    tree, seen = viewpoint.nodes.tree, viewpoint.on_desk.whole
    pages = Node.objects.filter(state=Node.State.REVIEW)
    copies = WorkingCopy.objects.filter(state=WorkingCopy.State.REVIEW, node__state=Node.State.PUBLISHED)
    every = pages.values_list("saved_at", "pk", Value(0)).union(copies.values_list("saved_at", "node", Value(1)))
    known = [Waits(id, bool(working)) for _, id, working in sorted(every) if id in tree]
    handed_in = [one for one in known if seen[tree.index[one.id]]]
    if not handed_in:
        return []
    ids = [one.id for one in handed_in]
    allowed = viewpoint.survey.allowed([viewpoint.subject], ids, ["publish"], viewpoint.at)[0, :, 0]
    return [
        one
        for one, yes in zip(handed_in, allowed, strict=True)
        if yes and (not one.working or sees_copy(viewpoint, one.id))
    ]


def sees_copy(viewpoint: Viewpoint, id: str) -> bool:
    """Whether whoever asks may see the working copy of a node in sight."""
    return PageAccess(viewpoint, viewpoint.nodes.tree.target(id).working_copy()).may("see")


def _row(
    viewpoint: Viewpoint, row: Node, what: Node | WorkingCopy, names: dict[str, str], was_public: bool
) -> dict[str, Any]:
    nodes = viewpoint.nodes
    working = isinstance(what, WorkingCopy)
    return {
        "id": row.id,
        "title": what.title,
        "type": row.type,
        "above": [nodes.titles[id] for id in nodes.tree.path(row.id)[:-1]],
        "note": what.note,
        "tag": tag_of(what) if isinstance(what, WorkingCopy) else str(row.version),
        "working": working,
        "handed_in_at": what.saved_at,
        "handed_in_by": names.get(what.saved_by_id or "", HIDDEN_PERSON) if what.saved_by_id else None,
        "was_public": was_public or working,
    }
