"""The files of a folder, and what is known of one: how large it is, and which pages use it."""

from collections.abc import Sequence
from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.desk.page_data import PageAccess
from gonfalon.api.guard import GuardedView, On
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import Invalid
from gonfalon.content import linking
from gonfalon.content.media.kinds import extension_of
from gonfalon.content.models import Node
from gonfalon.viewpoint.viewpoint import Viewpoint

ONLY = ("wordless", "mine")
LONGEST_WORDS = 200
WORDS = "alt"
"""The field that has a picture in words."""


class FileRowShape(serializers.Serializer):
    id = serializers.CharField()
    title = serializers.CharField()
    type = serializers.CharField()
    state = serializers.CharField()
    version = serializers.IntegerField()
    extension = serializers.CharField(help_text="Empty where it has no file yet.")
    width = serializers.IntegerField(help_text="Pixels; 0 for what is no picture.")
    height = serializers.IntegerField()
    wordless = serializers.BooleanField(help_text="A picture that is not told in words yet, for whom may see those.")


class UseShape(serializers.Serializer):
    id = serializers.CharField()
    title = serializers.CharField()


class FileShape(serializers.Serializer):
    extension = serializers.CharField()
    bytes = serializers.IntegerField(help_text="0 where it was never counted.")
    width = serializers.IntegerField()
    height = serializers.IntegerField()
    used_on = UseShape(many=True)
    used_out_of_sight = serializers.BooleanField(help_text="Whether pages use it that one may not see.")


class FilesView(GuardedView):
    doors = {"get": On("see", desk=True)}

    @extend_schema(
        responses=FileRowShape(many=True),
        operation_id="files",
        parameters=[OpenApiParameter("words", str), OpenApiParameter("only", str, enum=ONLY), *PAGED],
    )
    def get(self, request: Request, node: str) -> Response:
        """The pictures and documents that stand in a folder, in their order. Two queries, however many they are."""
        words, only = request.query_params.get("words", "").strip(), request.query_params.get("only", "")
        if only not in ("", *ONLY):
            raise Invalid({"/only": f"Say one of: {', '.join(ONLY)}."})
        if len(words) > LONGEST_WORDS:
            raise Invalid({"/words": f"This has at most {LONGEST_WORDS} characters."})
        viewpoint = self.viewpoint
        ids = _standing(viewpoint, node, words, mine=only == "mine")
        if only == "wordless":
            rows = Node.objects.in_bulk(ids)
            ids = [id for id in ids if id in rows and _wordless(viewpoint, rows[id])]
        return paged(request, ids, lambda page: _rows(viewpoint, page))


class FileView(GuardedView):
    doors = {"get": On("see", desk=True)}

    @extend_schema(responses=FileShape, operation_id="file")
    def get(self, request: Request, node: str) -> Response:
        """The file of a picture or document, and what uses it."""
        row, viewpoint = self.place.row, self.viewpoint
        nodes, seen = viewpoint.nodes, viewpoint.in_sight.whole
        uses = [id for id in linking.leading_to(row) if id in nodes.tree]
        shown = [id for id in uses if seen[nodes.tree.index[id]]]
        return Response(
            {
                "extension": _extension(row),
                "bytes": row.file_bytes,
                "width": row.file_width,
                "height": row.file_height,
                "used_on": [{"id": id, "title": nodes.titles[id]} for id in shown],
                "used_out_of_sight": len(uses) > len(shown),
            }
        )


def _standing(viewpoint: Viewpoint, folder: str, words: str, *, mine: bool) -> list[str]:
    """The ids of what stands in a folder and is none itself, of what is in sight."""
    nodes, seen = viewpoint.nodes, viewpoint.in_sight.whole
    tree = nodes.tree
    if folder not in tree:
        return []
    here = [tree.nodes[i] for i in tree.children(tree.index[folder]) if seen[i]]
    return [
        node.id
        for node in here
        if node.type != "folder"
        and (not words or words.casefold() in nodes.titles[node.id].casefold())
        and (not mine or node.author == viewpoint.subject)
    ]


def _rows(viewpoint: Viewpoint, ids: Sequence[str]) -> list[dict[str, Any]]:
    rows = Node.objects.in_bulk(ids)
    return [
        {
            "id": row.id,
            "title": row.title,
            "type": row.type,
            "state": row.state,
            "version": row.version,
            "extension": _extension(row),
            "width": row.file_width,
            "height": row.file_height,
            "wordless": _wordless(viewpoint, row),
        }
        for row in (rows[id] for id in ids if id in rows)
    ]


def _extension(row: Node) -> str:
    return extension_of(str(row.file.name)) if row.file else ""


def _wordless(viewpoint: Viewpoint, row: Node) -> bool:
    """Whether a picture has no words yet, as far as whoever asks may know."""
    if row.type != "picture" or row.values.get(WORDS) or row.id not in viewpoint.nodes.tree:
        return False
    target = viewpoint.nodes.tree.target(row.id)
    return PageAccess(viewpoint, target).may("see-field", field=WORDS)
