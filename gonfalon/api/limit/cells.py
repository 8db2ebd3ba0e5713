"""Setting cells of the tree: what stops, bars, lifts or lets go of some actions at some nodes, as operations."""

from collections.abc import Iterator
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.change_sets import staged_policy
from gonfalon.access.operations.base import Subject
from gonfalon.api.changes.operation_shapes import MOST, OperationsField
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.problems import Invalid
from gonfalon.core.model.policy import Limit, Policy
from gonfalon.core.model.vocabulary import ACTIONS, Effect
from gonfalon.inputs import Input


class CellsInput(Input):
    """For whom, where, about which actions; `effect` null lets go of what is set there."""

    to = Subject()
    nodes = serializers.ListField(child=serializers.CharField(), allow_empty=False, max_length=500)
    actions = serializers.ListField(child=serializers.CharField(), allow_empty=False, max_length=200)
    effect = serializers.ChoiceField(choices=[e.value for e in Effect], allow_null=True)
    applies = serializers.ChoiceField(choices=["node", "beneath", "branch"], default="branch")


class CellsShape(serializers.Serializer):
    """Operations to be staged as one; none where all of it is so already."""

    operations = OperationsField()


class LimitCellsView(GuardedView):
    doors = {"post": May("limits.set")}
    reads = frozenset({"post"})

    @extend_schema(request=CellsInput, responses=CellsShape, operation_id="limit_cells")
    def post(self, request: Request) -> Response:
        """What would set some cells, on top of what one has staged. Nothing is staged or written."""
        given = CellsInput(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        if unseen := [node for node in asked["nodes"] if node not in self.viewpoint.sight.nodes]:
            raise Invalid({"/nodes": f"There is no node “{unseen[0]}”."})
        proposed = staged_policy(self.viewpoint.account or "", self.viewpoint.snapshot.policy)
        operations = list(_setting(asked, proposed))
        if len(operations) > MOST:
            raise Invalid({"/nodes": f"That comes to more than {MOST:,} changes. Choose less."})
        return Response({"operations": operations})


def _setting(asked: dict[str, Any], policy: Policy) -> Iterator[dict[str, Any]]:
    """At each node: what is set there of these actions for the subject lets go of them, then it is said anew."""
    to, actions = asked["to"], frozenset(asked["actions"])
    nodes = dict.fromkeys(asked["nodes"])
    there: dict[str, list[Limit]] = {node: [] for node in nodes}
    for limit in policy.limits.values():
        if limit.node in there and limit.to == (to["kind"], to["id"]):
            there[limit.node].append(limit)
    for node in nodes:
        effect, applies = asked["effect"], asked["applies"]
        said = {"node": node, "to": dict(to), "effect": effect, "applies": applies, "actions": sorted(actions)}
        same = next((k for k in there[node] if (k.effect, k.applies) == (effect, applies)), None)
        for limit in there[node]:
            if limit is not same:
                yield from _let_go(limit, actions, policy)
        if effect is None:
            continue
        if same is None:
            yield {"kind": "set-limit", **said}
        elif same.actions is not None and not actions <= same.actions:
            yield {"kind": "change-limit", "limit": same.id, "actions": sorted(actions | same.actions)}


def _let_go(limit: Limit, actions: frozenset[str], policy: Policy) -> Iterator[dict[str, Any]]:
    every = frozenset((*ACTIONS, *policy.placed)) if limit.actions is None else limit.actions
    if not every & actions:
        return
    if rest := every - actions:
        yield {"kind": "change-limit", "limit": limit.id, "actions": sorted(rest)}
    else:
        yield {"kind": "drop-limit", "limit": limit.id}
