"""What a scope covers, told while one edits it."""

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.entries import read_scope
from gonfalon.access.operations.assignments import Scope as ScopeInput
from gonfalon.api.assign.given import covers
from gonfalon.api.guard import GuardedView, May
from gonfalon.core.bulk.scopes import covered
from gonfalon.inputs import Input

MOST_NAMED = 5


class ScopeQuestion(Input):
    scope = ScopeInput()


class ScopeCoversShape(serializers.Serializer):
    """How many pages and media a scope covers, of those in sight, with the names of some."""

    pages = serializers.IntegerField()
    media = serializers.IntegerField()
    named = serializers.ListField(child=serializers.CharField())
    branches = serializers.DictField(child=serializers.IntegerField(), help_text="How many on each branch named.")


class ScopeView(GuardedView):
    doors = {"post": May("roles.assign", "limits.set")}
    reads = frozenset({"post"})

    @extend_schema(request=ScopeQuestion, responses=ScopeCoversShape, operation_id="scope_covers")
    def post(self, request: Request) -> Response:
        """How much a scope covers. Three queries."""
        viewpoint = self.viewpoint
        context = {"policy": viewpoint.snapshot.policy, "sight": viewpoint.sight}
        asked = ScopeQuestion(data=request.data, context=context)
        asked.is_valid(raise_exception=True)
        data: dict[str, Any] = asked.validated_data["scope"]
        scope = read_scope(data)
        nodes = viewpoint.nodes
        here = covered(nodes.tree, scope) & viewpoint.in_sight.whole
        first = here.nonzero()[0][:MOST_NAMED].tolist()
        return Response(
            {
                **covers(viewpoint, scope),
                "named": [nodes.titles[nodes.tree.nodes[i].id] for i in first],
                "branches": {
                    id: int(here[nodes.tree.branch(id)].sum()) for id in data.get("branches", []) if id in nodes.tree
                },
            }
        )
