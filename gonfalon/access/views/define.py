"""Define: the roles, one role's board, and one capability across all roles."""

from collections.abc import Iterable, Mapping
from typing import Any

from django.db import transaction
from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access import catalogue, models
from gonfalon.access.change_sets import staged_policy
from gonfalon.access.holders import Holders
from gonfalon.access.roles import COLOURS, PATTERNS, make_role, put_in_order, removal
from gonfalon.access.telling import Names, limit_words
from gonfalon.access.views.changes import ChangeSetShape, change_set_data, stage_all
from gonfalon.access.views.shapes import RoleShape
from gonfalon.core.holding import Answer, Holdings, gives
from gonfalon.core.policy import Policy
from gonfalon.core.vocabulary import EXTENT_OF, VERBS, Extent
from gonfalon.ledger.models import Change, record
from gonfalon.server.etag import etag, expected_version
from gonfalon.server.guard import GuardedView, May
from gonfalon.server.paging import PAGED, paged
from gonfalon.server.people import names_of
from gonfalon.server.problems import ChangedMeanwhile, Conflict, Invalid, NotFound

SHOWN_HOLDERS = 8


class RoleInput(serializers.Serializer):
    name = serializers.CharField(
        max_length=80,
        error_messages={"blank": "A role needs a name.", "required": "A role needs a name."},
    )

    copy_of = serializers.CharField(required=False, allow_null=True)
    builds_on = serializers.CharField(required=False, allow_null=True)

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        for key in ("copy_of", "builds_on"):
            if data.get(key) and not models.Role.objects.filter(pk=data[key]).exists():
                raise serializers.ValidationError({key: "There is no such role."})
        if data.get("copy_of") and data.get("builds_on"):
            raise serializers.ValidationError({"builds_on": "A copy builds on what the other builds on."})
        return data


class RoleOrderInput(serializers.Serializer):
    roles = serializers.ListField(child=serializers.CharField(), allow_empty=False, max_length=2000)


class RemovalInput(serializers.Serializer):
    hand_to = serializers.CharField(required=False, allow_null=True)


class RoleChangeInput(serializers.Serializer):
    name = serializers.CharField(max_length=80, required=False)
    description = serializers.CharField(max_length=300, required=False, allow_blank=True)
    colour = serializers.ChoiceField(choices=COLOURS, required=False)
    pattern = serializers.ChoiceField(choices=PATTERNS, required=False)


class RolesView(GuardedView):
    doors = {
        "get": May("roles.define", "roster.see", "limits.set", "impersonate.start"),
        "post": May("roles.define"),
    }

    @extend_schema(responses=RoleShape(many=True), operation_id="roles", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """All roles in their order. Two queries."""
        policy = self.presence.snapshot.policy
        holders = Holders(policy, self.presence.at)
        return paged(request, [role_data(role, policy, holders) for role in models.Role.objects.all()])

    @extend_schema(request=RoleInput, responses={201: RoleShape}, operation_id="make_role")
    def post(self, request: Request) -> Response:
        given = RoleInput(data=request.data)
        given.is_valid(raise_exception=True)
        name = " ".join(given.validated_data["name"].split())
        _name_is_free(name)
        beginning = {key: given.validated_data.get(key) for key in ("copy_of", "builds_on")}
        role = make_role(name, self.presence.by, **beginning)
        policy = self.presence.snapshot.policy
        return Response(role_data(role, policy, Holders(policy, self.presence.at)), status=201)


class RoleOrderView(GuardedView):
    doors = {"post": May("roles.define")}

    @extend_schema(request=RoleOrderInput, responses={204: OpenApiResponse()}, operation_id="order_roles")
    def post(self, request: Request) -> Response:
        """Put the roles in an order of one's own. It is only for the eye, so it is saved at once."""
        given = RoleOrderInput(data=request.data)
        given.is_valid(raise_exception=True)
        put_in_order(given.validated_data["roles"], self.presence.by)
        return Response(status=204)


class RoleRemovalView(GuardedView):
    doors = {"post": May("roles.define")}

    @extend_schema(request=RemovalInput, responses=ChangeSetShape, operation_id="stage_removal")
    def post(self, request: Request, role: str) -> Response:
        """Stage all that taking a role away needs, holders handed to another role if one is named."""
        policy = staged_policy(self.presence.who or "", self.presence.snapshot.policy)
        given = RemovalInput(data=request.data)
        given.is_valid(raise_exception=True)
        hand_to = given.validated_data.get("hand_to")
        if role not in policy.roles:
            raise NotFound("role")
        if hand_to is not None and (hand_to not in policy.roles or hand_to == role or hand_to in policy.baseline):
            raise Invalid({"/hand_to": "Choose another role that can be given."})
        stage_all(self.presence, removal(role, hand_to, policy))
        return Response(change_set_data(self.presence))


def _name_is_free(name: str, but: str = "") -> None:
    if models.Role.objects.filter(name__iexact=name).exclude(key=but).exists():
        raise Invalid({"/name": f"Another role is called {name} already."})


def role_data(role: models.Role, policy: Policy, holders: Holders) -> dict[str, Any]:
    held = holders.by_role[role.key]
    ends = [h.assignment.period.ends for h in held]
    if role.baseline == models.Role.Baseline.NONE:
        count = len(holders.accounts_of(role.key))
    else:
        count = sum(a.state == "active" for a in policy.accounts.values())
    return {
        "key": role.key,
        "name": role.name,
        "description": role.description,
        "builds_on": role.builds_on_id,
        "baseline": role.baseline,
        "cloth": {"colour": role.colour, "pattern": role.pattern},
        "holders": count,
        "groups": len({h.group for h in held if h.group}),
        "ends": min((e for e in ends if e), default=None) if ends and all(ends) else None,
        "version": role.version,
    }


class CellShape(serializers.Serializer):
    """One answer of a role: what it says itself, and what counts, with whence it comes."""

    capability = serializers.CharField()
    said = serializers.CharField(allow_null=True)
    staged = serializers.BooleanField()
    inherited = serializers.CharField(allow_null=True)
    inherited_from = serializers.CharField(allow_null=True)
    baseline = serializers.CharField(allow_null=True)
    baseline_from = serializers.CharField(allow_null=True)


class ListShape(serializers.Serializer):
    """A list a role says, or takes from one it builds on; null where neither says any: all is allowed then."""

    component = serializers.CharField(allow_null=True)
    said = serializers.ListField(child=serializers.CharField(), allow_null=True)
    inherited = serializers.ListField(child=serializers.CharField(), allow_null=True)
    inherited_from = serializers.CharField(allow_null=True)
    staged = serializers.BooleanField()


class BoardShape(serializers.Serializer):
    role = RoleShape()
    cells = CellShape(many=True)
    components = ListShape()
    facets = ListShape(many=True)
    shipped = serializers.DictField(child=serializers.CharField(), allow_null=True)


class RoleView(GuardedView):
    doors = {"get": May("roles.define"), "patch": May("roles.define")}

    @extend_schema(responses=BoardShape, operation_id="board")
    def get(self, request: Request, role: str) -> Response:
        """The board of a role, what one has staged oneself included."""
        row = models.Role.objects.filter(pk=role).first()
        if row is None:
            raise NotFound("role")
        policy = self.presence.snapshot.policy
        would_be = staged_policy(self.presence.who or "", policy)
        if role not in would_be.roles:
            raise Conflict(f"{row.name} is about to be removed: that is staged. Drop it from the tray to go on.")
        data = {
            "role": role_data(row, policy, Holders(policy, self.presence.at)),
            "cells": list(_cells(role, policy, would_be, board_capabilities())),
            "shipped": row.shipped,
            "components": _list(role, policy, would_be, None),
            "facets": [_list(role, policy, would_be, component) for component in catalogue.COMPONENTS],
        }
        return Response(data, headers={"ETag": etag(row.version)})

    @extend_schema(request=RoleChangeInput, responses=RoleShape, operation_id="change_role")
    @transaction.atomic
    def patch(self, request: Request, role: str) -> Response:
        """Name, description and cloth. They decide nothing, so they are saved at once."""
        expected = expected_version(request)
        row = models.Role.objects.select_for_update().filter(pk=role).first()
        if row is None:
            raise NotFound("role")
        policy = self.presence.snapshot.policy
        holders = Holders(policy, self.presence.at)
        if expected != etag(row.version):
            raise ChangedMeanwhile(
                f"{row.name} was changed while you were editing it.", role_data(row, policy, holders)
            )
        given = RoleChangeInput(data=request.data)
        given.is_valid(raise_exception=True)
        if "name" in given.validated_data:
            _name_is_free(given.validated_data["name"], but=role)
        changes = [
            Change(what=key, was=getattr(row, key), now=value)
            for key, value in given.validated_data.items()
            if getattr(row, key) != value
        ]
        if changes:
            for change in changes:
                setattr(row, change["what"], change["now"])
            row.version += 1
            row.save()
            record(
                self.presence.by,
                "role.changed",
                f"Changed the role {row.name}",
                about=("role", role),
                changes=changes,
            )
        return Response(role_data(row, policy, holders), headers={"ETag": etag(row.version)})


def board_capabilities() -> Iterable[str]:
    """Every capability a board shows: each type that sits in a tree by each verb, then the duties."""
    for type in catalogue.TYPES.values():
        if type.tree:
            yield from (f"{type.key}.{verb}" for verb in VERBS)
    yield from (duty.key for duty in catalogue.DUTIES)


def _cells(role: str, policy: Policy, would_be: Policy, capabilities: Iterable[str]) -> Iterable[dict[str, Any]]:
    """What one role says about some capabilities, and whence it comes where it says nothing."""
    said = would_be.roles[role].grants
    was = policy.roles[role].grants if role in policy.roles else {}
    holdings = Holdings(would_be)
    above = would_be.roles[role].builds_on
    inherited = holdings.answers(above) if above else {}
    baseline = [(key, holdings.answers(key)) for key in would_be.baseline if key != role]
    for capability in capabilities:
        yield _cell(capability, said, was, inherited.get(capability), _from_baseline(capability, baseline))


def _cell(
    capability: str,
    said: Mapping[str, str],
    was: Mapping[str, str],
    from_above: Answer | None,
    baseline: tuple[str | None, str | None],
) -> dict[str, Any]:
    return {
        "capability": capability,
        "said": said.get(capability),
        "staged": said.get(capability) != was.get(capability),
        "inherited": from_above.says if from_above else None,
        "inherited_from": from_above.said_by if from_above else None,
        "baseline": baseline[0],
        "baseline_from": baseline[1],
    }


def _from_baseline(
    capability: str, baseline: Iterable[tuple[str, Mapping[str, Answer]]]
) -> tuple[str | None, str | None]:
    """The strongest word of the baseline, and which role of it says so."""
    givers = [
        (answers[capability].says, key)
        for key, answers in baseline
        if capability in answers and (gives(answers[capability].says) or answers[capability].says == "barred")
    ]
    return max(givers, key=lambda g: (g[0] == "barred", EXTENT_OF.get(g[0], Extent.NONE)), default=(None, None))


def _list(role: str, policy: Policy, would_be: Policy, component: str | None) -> dict[str, Any]:
    """The components a role may insert, or with `component` the facets of it that it may change."""

    def said(of: Policy, key: str) -> frozenset[str] | None:
        if key not in of.roles:
            return None
        return of.roles[key].components if component is None else of.roles[key].facets.get(component)

    above = [(key, said(would_be, key)) for key in would_be.role_chain(role)[1:]]
    inherited_from, inherited = next(((key, listed) for key, listed in above if listed is not None), (None, None))
    own = said(would_be, role)
    return {
        "component": component,
        "said": None if own is None else sorted(own),
        "inherited": None if inherited is None else sorted(inherited),
        "inherited_from": inherited_from,
        "staged": own != said(policy, role),
    }


class RoleCellShape(CellShape):
    role = serializers.CharField()


class CapabilityView(GuardedView):
    doors = {"get": May("roles.define")}

    @extend_schema(
        responses=RoleCellShape(many=True),
        operation_id="capability",
        parameters=[OpenApiParameter("capability", str, required=True), *PAGED],
    )
    def get(self, request: Request) -> Response:
        """What every role says about one capability, with what one has staged. A fixed number of queries."""
        capability = request.query_params.get("capability", "")
        if catalogue.kind_of(capability) is None:
            raise NotFound("capability")
        policy = self.presence.snapshot.policy
        would_be = staged_policy(self.presence.who or "", policy)
        order = models.Role.objects.values_list("key", flat=True)
        return paged(
            request,
            [
                {"role": role, **cell}
                for role in order
                if role in would_be.roles
                for cell in _cells(role, policy, would_be, [capability])
            ],
        )


class AlsoShape(serializers.Serializer):
    role = serializers.CharField()
    says = serializers.CharField()


class HolderShape(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()
    group = serializers.CharField(allow_null=True)


class CellContextShape(serializers.Serializer):
    """What stands around one cell: other roles that give the same, limits, and the role's holders."""

    also = AlsoShape(many=True)
    narrowed = serializers.ListField(child=serializers.CharField())
    holders = HolderShape(many=True)


class CellContextView(GuardedView):
    doors = {"get": May("roles.define")}

    @extend_schema(
        responses=CellContextShape,
        operation_id="cell_context",
        parameters=[OpenApiParameter("capability", str, required=True)],
    )
    def get(self, request: Request, role: str) -> Response:
        policy = self.presence.snapshot.policy
        capability = request.query_params.get("capability", "")
        if role not in policy.roles or catalogue.kind_of(capability) is None:
            raise NotFound("cell")
        answers = self.presence.snapshot.engine.holdings.answers
        also = [
            {"role": key, "says": answers(key)[capability].says}
            for key in policy.roles
            if key != role and capability in answers(key) and gives(answers(key)[capability].says)
        ]
        held = Holders(policy, self.presence.at).by_role[role]
        shown = list({h.account: h for h in held}.values())[:SHOWN_HOLDERS]
        names = names_of(h.account for h in shown)
        return Response(
            {
                "also": also,
                "narrowed": _narrowed(policy, role, capability, self.presence.in_sight),
                "holders": [{"id": h.account, "name": names[h.account], "group": h.group} for h in shown],
            }
        )


def _narrowed(policy: Policy, role: str, capability: str, in_sight: set[str]) -> list[str]:
    verb = capability.split(".")[1] if capability.split(".")[0] in policy.types else capability
    action = {"see-draft": "see", "edit-live": "edit"}.get(verb, verb)
    chain = policy.role_chain(role)
    ids = [k.id for k in policy.limits.values() if k.to.kind == "role" and k.to.id in chain and k.matches(action)]
    rows = list(models.Limit.objects.filter(pk__in=ids))
    told: list[dict[str, Any]] = [
        {
            "node": r.node,
            "to": {"kind": r.subject_kind, "id": r.subject_id},
            "actions": r.actions,
            "effect": r.effect,
            "applies": r.applies,
        }
        for r in rows
    ]
    names = Names(told, in_sight)
    return [f"{names.node(limit['node'])}: {limit_words(limit, names)}" for limit in told]
