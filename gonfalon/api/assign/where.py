"""Where: the branches in which an account can do something, and the branches there are to choose from."""

import numpy as np
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.guard import GuardedView, May, tree_asked
from gonfalon.api.limit.limits import staged_surveyor
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.core.model.vocabulary import ACTIONS

ON_PAGES = tuple(action for action in ACTIONS if action != "create")


class BranchSumShape(serializers.Serializer):
    """One branch: how many nodes, and on how many of them the account can do each action; all of what is in sight."""

    id = serializers.CharField()
    title = serializers.CharField()
    above = serializers.CharField()
    nodes = serializers.IntegerField()
    edits = serializers.IntegerField()
    publishes = serializers.IntegerField()
    counts = serializers.DictField(child=serializers.IntegerField(), help_text="How many, by action.")


class WhereView(GuardedView):
    doors = {"get": May("roster.see")}

    @extend_schema(responses=BranchSumShape(many=True), operation_id="where", parameters=PAGED)
    def get(self, request: Request, account: str) -> Response:
        """The branches just under the roots, those where the account can do more than see."""
        survey, proposed = staged_surveyor(self.presence)
        if account not in proposed.accounts:
            raise NotFound("account")
        nodes = self.presence.nodes
        sight = self.presence.in_sight
        may = survey.allowed([account], None, ON_PAGES, self.presence.at)[0] & sight.whole[:, None]
        roots = {n.id for n in nodes.tree.nodes if n.parent is None}
        branches = []
        for node in nodes.tree.nodes:
            if node.id not in sight.named or node.parent not in roots:
                continue
            branch = nodes.tree.branch(node.id)
            part = may[branch]
            counts = dict(zip(ON_PAGES, (int(n) for n in part.sum(axis=0)), strict=True))
            if any(n for action, n in counts.items() if action != "see"):
                branches.append(
                    {
                        "id": node.id,
                        "title": nodes.titles[node.id],
                        "above": nodes.titles[node.parent],
                        "nodes": int(sight.whole[branch].sum()),
                        "edits": counts["edit"],
                        "publishes": counts["publish"],
                        "counts": counts,
                    }
                )
        return paged(request, branches)


class NamedBranchShape(serializers.Serializer):
    """A node by name, with what is above it, and how many nodes in sight are on its branch."""

    id = serializers.CharField()
    parent = serializers.CharField(allow_null=True)
    title = serializers.CharField()
    above = serializers.CharField()
    nodes = serializers.IntegerField()


class BranchesView(GuardedView):
    doors = {"get": May("roles.assign", "limits.set")}

    @extend_schema(
        responses=NamedBranchShape(many=True),
        operation_id="branches",
        parameters=[OpenApiParameter("tree", str, enum=["content", "media"]), *PAGED],
    )
    def get(self, request: Request) -> Response:
        """Every node by name and the name of what is above it, for choosing where something holds."""
        wanted = tree_asked(self.presence, request)
        nodes, sight = self.presence.nodes, self.presence.in_sight
        seen = np.concatenate([[0], np.cumsum(sight.whole)])
        return paged(
            request,
            [
                {
                    "id": n.id,
                    "parent": n.parent,
                    "title": nodes.titles[n.id],
                    "above": nodes.titles[n.parent] if n.parent else "",
                    "nodes": int(seen[nodes.tree.ends[i]] - seen[i]),
                }
                for i, n in enumerate(nodes.tree.nodes)
                if n.tree == wanted and n.id in sight.named
            ],
        )
