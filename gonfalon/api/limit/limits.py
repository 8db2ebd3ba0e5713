"""Limit: what someone may do where, the limits at one place, and the rules of fields."""

from collections.abc import Iterable, Sequence
from time import perf_counter
from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access import models
from gonfalon.access.change_sets import staged_policy
from gonfalon.access.describe import Names
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.core import Policy
from gonfalon.core.bulk.survey import Surveyor
from gonfalon.core.checks.narrowing import Narrowing, idle, narrowing
from gonfalon.core.model.policy import OPEN_FIELD, Limit
from gonfalon.core.model.vocabulary import ACTIONS, FIELD_MARKS, TREES, Effect
from gonfalon.viewpoint.viewpoint import Viewpoint

COUNTING = 1.2
"""So many seconds what limits change is counted for one answer."""


def staged_surveyor(viewpoint: Viewpoint) -> tuple[Surveyor, Policy]:
    """Answers for whole trees with what one has staged oneself, and the policy that makes."""
    policy = viewpoint.snapshot.policy
    proposed = staged_policy(viewpoint.account or "", policy)
    if proposed is policy:
        return viewpoint.survey, policy
    return viewpoint.engine.changed(proposed).surveyor, proposed


class LimitShape(serializers.Serializer):
    id = serializers.CharField()
    node = serializers.CharField()
    title = serializers.CharField()
    subject_kind = serializers.CharField()
    subject = serializers.CharField(allow_null=True)
    subject_name = serializers.CharField()
    effect = serializers.CharField()
    applies = serializers.CharField()
    actions = serializers.ListField(child=serializers.CharField(), allow_null=True)
    set_by = serializers.CharField(allow_null=True)
    set_at = serializers.DateTimeField(allow_null=True)
    staged = serializers.ChoiceField(choices=["", "new", "ending"])


class NarrowsShape(serializers.Serializer):
    """What a limit changes today. People are counted for whoever sees the roster; to others `accounts` is null."""

    accounts = serializers.IntegerField(allow_null=True)
    pages = serializers.IntegerField()


class ListedLimitShape(LimitShape):
    """A limit with what it changes today, null where that is much to count: asked for by its id, it is.

    One that changes nothing says why in `idle`.
    """

    narrows = NarrowsShape(allow_null=True)
    idle = serializers.CharField(allow_blank=True)


class PlaceShape(serializers.Serializer):
    """The limits that count at one node. Nodes beneath are counted as far as they are in sight."""

    id = serializers.CharField()
    title = serializers.CharField()
    above = serializers.CharField()
    beneath = serializers.IntegerField()
    published = serializers.IntegerField()
    here = LimitShape(many=True)
    from_above = LimitShape(many=True)
    lifted_beneath = LimitShape(many=True)


def limits_data(limits: Iterable[Limit], viewpoint: Viewpoint, proposed: Policy) -> list[dict[str, Any]]:
    """Limits with names and who set them. A fixed number of queries."""
    limits = list(limits)
    rows = {r.id: r for r in models.Limit.objects.filter(pk__in=[k.id for k in limits])}
    told = [{"node": k.node, "to": {"kind": k.to.kind, "id": k.to.id}} for k in limits]
    names = Names([*told, {"set_by": [r.set_by for r in rows.values()]}], viewpoint.sight, viewpoint.catalogue)
    applied = viewpoint.snapshot.policy.limits
    return [
        {
            "id": k.id,
            "node": k.node,
            "title": names.node(k.node),
            "subject_kind": k.to.kind,
            "subject": k.to.id if k.to.kind != "account" or k.to.id in viewpoint.sight.people else None,
            "subject_name": names.subject({"kind": k.to.kind, "id": k.to.id}),
            "effect": k.effect,
            "applies": k.applies,
            "actions": None
            if k.actions is None
            else [a for a in ACTIONS if a in k.actions] + sorted(a for a in k.actions if a not in ACTIONS),
            "set_by": names.account(by) if k.id in rows and (by := rows[k.id].set_by) else None,
            "set_at": rows[k.id].set_at if k.id in rows else None,
            "staged": "new" if k.id not in applied else "ending" if k.id not in proposed.limits else "",
        }
        for k in limits
    ]


class PlaceView(GuardedView):
    doors = {"get": May("limits.set")}

    @extend_schema(responses=PlaceShape, operation_id="place")
    def get(self, request: Request, node: str) -> Response:
        nodes, sight = self.viewpoint.nodes, self.viewpoint.in_sight
        if node not in sight.named:
            raise NotFound
        proposed = staged_policy(self.viewpoint.account or "", self.viewpoint.snapshot.policy)
        every = {**self.viewpoint.snapshot.policy.limits, **proposed.limits}
        path = nodes.tree.path(node)
        beneath = [n for n in nodes.tree.beneath(node) if sight.whole[nodes.tree.index[n.id]]]
        beneath_ids = {n.id for n in nodes.tree.beneath(node)} & sight.named
        here = [k for k in every.values() if k.node == node]
        above = [k for k in every.values() if k.node in path[:-1] and k.applies != "node"]
        lifted = [k for k in every.values() if k.node in beneath_ids and k.effect is Effect.LIFT]
        told = limits_data([*here, *above, *lifted], self.viewpoint, proposed)
        return Response(
            {
                "id": node,
                "title": nodes.titles[node],
                "above": " / ".join(nodes.titles[id] for id in path[:-1]),
                "beneath": len(beneath),
                "published": sum(n.state == "published" for n in beneath),
                "here": told[: len(here)],
                "from_above": told[len(here) : len(here) + len(above)],
                "lifted_beneath": told[len(here) + len(above) :],
            }
        )


class LimitsView(GuardedView):
    doors = {"get": May("limits.set")}

    @extend_schema(
        responses=ListedLimitShape(many=True),
        operation_id="limits",
        parameters=[*(OpenApiParameter(name, str) for name in ("branch", "subject", "set_by", "id")), *PAGED],
    )
    def get(self, request: Request) -> Response:
        """All limits on nodes within one's sight, one's own staged changes among them.

        Of a `branch`, for a `subject` such as `role pilot`, by whom they were set, or one by its id. What each changes
        is counted for COUNTING seconds; of one asked for by its id always.
        """
        proposed = staged_policy(self.viewpoint.account or "", self.viewpoint.snapshot.policy)
        asked, sight = request.query_params, self.viewpoint.sight
        every = {**self.viewpoint.snapshot.policy.limits, **proposed.limits}
        mine = [limit for limit in every.values() if limit.node in sight.nodes]
        if branch := asked.get("branch"):
            mine = [k for k in mine if k.node in self.viewpoint.nodes.tree and branch in self._path(k.node)]
        if subject := asked.get("subject"):
            mine = [k for k in mine if f"{k.to.kind} {k.to.id}" == subject and self._may_name(k)]
        if by := asked.get("set_by"):
            rows = models.Limit.objects.filter(set_by=by).values_list("id", flat=True) if by in sight.people else ()
            set_by = set(rows)
            mine = [k for k in mine if k.id in set_by]
        if id := asked.get("id"):
            mine = [k for k in mine if k.id == id]
        return paged(request, mine, lambda page: self._told(page, proposed, until=None if id else COUNTING))

    def _path(self, node: str) -> tuple[str, ...]:
        return self.viewpoint.nodes.tree.path(node)

    def _may_name(self, limit: Limit) -> bool:
        return limit.to.kind != "account" or limit.to.id in self.viewpoint.sight.people

    def _told(self, limits: Sequence[Limit], proposed: Policy, until: float | None) -> list[dict[str, Any]]:
        """Limits as `ListedLimitShape` has them; without `until`, which is in seconds, all of them are counted."""
        here = self.viewpoint.engine
        engine = here if proposed is here.policy else here.changed(proposed)
        began, rows = perf_counter(), limits_data(limits, self.viewpoint, proposed)
        for row, limit in zip(rows, limits, strict=True):
            counted = None
            if limit.id in proposed.limits and (until is None or perf_counter() - began < until):
                counted = narrowing(engine, limit, self.viewpoint.at)
            row["narrows"] = counted and self._narrows(counted)
            row["idle"] = "" if counted is None or counted.nodes else idle(engine, limit, self.viewpoint.at)
        return rows

    def _narrows(self, counted: Narrowing) -> dict[str, Any] | None:
        """What is counted, as far as whoever asks may know: pages to whoever sees all of them."""
        if not self.viewpoint.sees_all_nodes:
            return None
        people = self.viewpoint.sight.roster
        return {"accounts": counted.accounts if people else None, "pages": counted.nodes}


class FieldRuleShape(serializers.Serializer):
    type = serializers.CharField()
    type_name = serializers.CharField()
    tree = serializers.ChoiceField(choices=TREES, allow_null=True)
    field = serializers.CharField()
    name = serializers.CharField()
    mode = serializers.ChoiceField(choices=["open", "author", "table"])
    table = serializers.DictField(child=serializers.ListField(child=serializers.ChoiceField(choices=FIELD_MARKS)))
    staged = serializers.BooleanField()


class FieldRulesView(GuardedView):
    doors = {"get": May("limits.set")}

    @extend_schema(responses=FieldRuleShape(many=True), operation_id="field_rules", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """Every field of every type with its rule, one's own staged changes included."""
        policy = self.viewpoint.snapshot.policy
        proposed = staged_policy(self.viewpoint.account or "", policy)
        rules = []
        for type in self.viewpoint.catalogue.types.values():
            for field in type.fields:
                key = (type.key, field.key)
                rule = proposed.fields.get(key, OPEN_FIELD)
                rules.append(
                    {
                        "type": type.key,
                        "type_name": type.name,
                        "tree": type.tree,
                        "field": field.key,
                        "name": field.name,
                        "mode": rule.mode,
                        "table": {role: sorted(marks) for role, marks in rule.table.items()},
                        "staged": rule != policy.fields.get(key, OPEN_FIELD),
                    }
                )
        return paged(request, rules)
