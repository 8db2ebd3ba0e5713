"""A page as one may edit it, and saving it."""

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.desk.edits import SaveInput, read_edits
from gonfalon.api.desk.page_data import PageShape, page_data
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, On
from gonfalon.api.problems import ChangedMeanwhile, NotFound
from gonfalon.content import pages
from gonfalon.content.models import Node
from gonfalon.work import NODES, POLICY, Locks, RowLock


class PageView(GuardedView):
    doors = {"get": On("see", desk=True), "patch": On("edit", desk=True)}
    locks = {"patch": (POLICY.shared, NODES.shared, RowLock("content.Node", "node"))}

    def locks_for(self, method: str, sent: Any) -> Locks:
        """Whoever saves no title and no topics changes nothing of where pages stand, and waits for nobody."""
        stays = not isinstance(sent, dict) or sent.keys().isdisjoint(("title", "topics"))
        return self.locks[method] if stays else (POLICY.shared, NODES)

    @extend_schema(responses=PageShape, operation_id="page", parameters=[ETAG])
    def get(self, request: Request, node: str) -> Response:
        row, above = self.place.row, self.place.above
        return Response(page_data(self.viewpoint, row, above), headers={"ETag": etag(row.version)})

    @extend_schema(request=SaveInput, responses=PageShape, operation_id="save_page", parameters=TAGGED)
    def patch(self, request: Request, node: str) -> Response:
        """Save title, fields and components; every part that changes is asked of the rules first."""
        row, above = self.place.row, self.place.above
        if expected_version(request) != etag(row.version):
            theirs = page_data(self.viewpoint, row, above)
            who = theirs["saved_by"] or "Someone"
            raise ChangedMeanwhile(f"{who} saved {row.title} while you were editing it.", theirs)
        edits = read_edits(self.viewpoint, row, self.place.target, request.data)
        sitting = edits.sitting and row.state == Node.State.DRAFT
        pages.save(row, edits.new, self.session.by, sitting=sitting)
        data = page_data(self.viewpoint, row, above) | {"taken_off": edits.taken_off}
        return Response(data, headers={"ETag": etag(row.version)})


def row_of(node: str) -> Node:
    """A node by its id. Raises NotFound."""
    row = Node.objects.filter(pk=node).first()
    if row is None:
        raise NotFound
    return row
