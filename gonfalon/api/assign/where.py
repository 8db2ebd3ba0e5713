"""Where: the branches in which an account can do something, and the branches there are to choose from."""

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.guard import GuardedView, May
from gonfalon.api.limit.limits import staged_surveyor
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound


class BranchSumShape(serializers.Serializer):
    """One branch: how many nodes, how many of them the account can edit and publish."""

    id = serializers.CharField()
    title = serializers.CharField()
    above = serializers.CharField()
    nodes = serializers.IntegerField()
    edits = serializers.IntegerField()
    publishes = serializers.IntegerField()


class WhereView(GuardedView):
    doors = {"get": May("roster.see")}

    @extend_schema(responses=BranchSumShape(many=True), operation_id="where", parameters=PAGED)
    def get(self, request: Request, account: str) -> Response:
        """The branches just under the roots, those where the account can edit or publish anything."""
        survey, proposed = staged_surveyor(self.presence)
        if account not in proposed.accounts:
            raise NotFound("account")
        nodes = self.presence.nodes
        may = survey.allowed([account], None, ["edit", "publish"], self.presence.at)[0]
        visible_ids = self.presence.visible_ids
        roots = {n.id for n in nodes.tree.nodes if n.parent is None}
        branches = []
        for node in nodes.tree.nodes:
            if node.id not in visible_ids or node.parent not in roots:
                continue
            part = may[nodes.tree.branch(node.id)]
            if part.any():
                edits, publishes = (int(n) for n in part.sum(axis=0))
                branches.append(
                    {
                        "id": node.id,
                        "title": nodes.titles[node.id],
                        "above": nodes.titles[node.parent],
                        "nodes": len(part),
                        "edits": edits,
                        "publishes": publishes,
                    }
                )
        return paged(request, branches)


class NamedBranchShape(serializers.Serializer):
    id = serializers.CharField()
    title = serializers.CharField()
    above = serializers.CharField()


class BranchesView(GuardedView):
    doors = {"get": May("roles.assign", "limits.set")}

    @extend_schema(
        responses=NamedBranchShape(many=True),
        operation_id="branches",
        parameters=[OpenApiParameter("tree", str, enum=["content", "media"]), *PAGED],
    )
    def get(self, request: Request) -> Response:
        """Every node by name and the name of what is above it, for choosing where something holds."""
        wanted = request.query_params.get("tree", "content")
        nodes = self.presence.nodes
        visible_ids = self.presence.visible_ids
        return paged(
            request,
            [
                {"id": n.id, "title": nodes.titles[n.id], "above": nodes.titles[n.parent] if n.parent else ""}
                for n in nodes.tree.nodes
                if n.tree == wanted and n.id in visible_ids
            ],
        )
