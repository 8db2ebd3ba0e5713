"""The desk's tree: what one may see of it."""

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.guard import GuardedView, May, tree_asked
from gonfalon.api.paging import PAGED, paged


class TreeRowShape(serializers.Serializer):
    """A node one may see, or (`context`) one above it, shown by name alone."""

    id = serializers.CharField()
    parent = serializers.CharField(allow_null=True)
    title = serializers.CharField()
    type = serializers.CharField(allow_null=True)
    site = serializers.CharField(allow_null=True)
    state = serializers.CharField(allow_null=True)
    context = serializers.BooleanField()
    may_edit = serializers.BooleanField()


class DeskTreeView(GuardedView):
    doors = {"get": May("desk.open")}

    @extend_schema(
        responses=TreeRowShape(many=True),
        operation_id="desk_tree",
        parameters=[OpenApiParameter("tree", str, enum=["content", "media"]), *PAGED],
    )
    def get(self, request: Request) -> Response:
        """Everything the account may see in one tree, with what is above it. Two queries, whole tree at once."""
        presence, wanted = self.presence, tree_asked(self.presence, request)
        nodes, sight = presence.nodes, presence.in_sight
        edit = presence.survey.allowed([presence.who], None, ["edit"], presence.at)[0, :, 0]
        shown = sight.whole
        return paged(
            request,
            [
                {
                    "id": node.id,
                    "parent": node.parent,
                    "title": nodes.titles[node.id],
                    "type": node.type if shown[i] else None,
                    "site": node.site if shown[i] else None,
                    "state": node.state if shown[i] else None,
                    "context": not shown[i],
                    "may_edit": bool(shown[i] and edit[i]),
                }
                for i, node in enumerate(nodes.tree.nodes)
                if node.id in sight.named and node.tree == wanted
            ],
        )
