"""Define: the roles in their order, making, changing and removing them, and a role with its board."""

from typing import Any

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access import models
from gonfalon.access.change_sets import staged_policy
from gonfalon.access.risks import risks_of
from gonfalon.access.roles import (
    COLOURS,
    PATTERNS,
    START_PARTS,
    NameTaken,
    make_role,
    name_taken,
    put_in_order,
    removal,
)
from gonfalon.access.sight import UNBOUND
from gonfalon.access.starters import STARTERS, make_starter, put_back
from gonfalon.access.words import subject_of
from gonfalon.api.changes.change_set import ChangeSetShape, change_set_data, stage_all
from gonfalon.api.changes.operation_shapes import OperationField
from gonfalon.api.define.board import Board, CellShape, ListShape, OutcomeShape, part_list
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, May, require
from gonfalon.api.names import NameField
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import ChangedMeanwhile, Conflict, Invalid, NotFound
from gonfalon.api.shapes import RiskShape, RoleShape
from gonfalon.core.checks.sections import sections_amiss
from gonfalon.core.decide.grants import RoleResolver
from gonfalon.inputs import Input
from gonfalon.ledger.models import Change, record
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY, RowLock, locked

_NAMELESS = {"blank": "A role needs a name.", "required": "A role needs a name."}


class RoleInput(Input):
    name = NameField(max_length=80, error_messages=_NAMELESS)
    copy_of = serializers.CharField(required=False, allow_null=True)
    builds_on = serializers.CharField(required=False, allow_null=True)
    starter = serializers.ChoiceField(
        choices=[starter.name for starter in STARTERS], required=False, allow_null=True, help_text="One to begin with."
    )
    with_limits = serializers.BooleanField(default=False, help_text="Whether a copy has the limits of the other.")

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        for key in ("copy_of", "builds_on"):
            if data.get(key) and not models.Role.objects.filter(pk=data[key]).exists():
                raise serializers.ValidationError({key: "There is no such role."})
        if data.get("copy_of") and data.get("builds_on"):
            raise serializers.ValidationError({"builds_on": "A copy builds on what the other builds on."})
        if data.get("starter") and (data.get("copy_of") or data.get("builds_on")):
            raise serializers.ValidationError({"starter": "A starter role begins by itself."})
        return data


class RoleOrderInput(Input):
    roles = serializers.ListField(child=serializers.CharField(), allow_empty=False, max_length=2000)


class RemovalInput(Input):
    hand_to = serializers.CharField(required=False, allow_null=True)


class RoleChangeInput(Input):
    name = NameField(max_length=80, required=False, error_messages=_NAMELESS)
    description = serializers.CharField(max_length=300, required=False, allow_blank=True)

    colour = serializers.ChoiceField(choices=COLOURS, required=False)
    pattern = serializers.ChoiceField(choices=PATTERNS, required=False)
    start = serializers.ListField(
        child=serializers.ChoiceField(choices=START_PARTS),
        required=False,
        allow_null=True,
        max_length=len(START_PARTS),
        help_text="The parts of the start page, in order; null says nothing.",
    )

    def validate_start(self, start: list[str] | None) -> list[str] | None:
        return None if start is None else list(dict.fromkeys(start))


class RolesView(GuardedView):
    doors = {
        "get": May("roles.define", "roles.assign", "roster.see", "limits.set", "impersonate.start"),
        "post": May("roles.define"),
    }
    locks = {"post": (POLICY,)}

    @extend_schema(responses=RoleShape(many=True), operation_id="roles", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """All roles in their order. Two queries."""
        return paged(request, [role_data(role, self.viewpoint) for role in models.Role.objects.all()])

    @extend_schema(request=RoleInput, responses={201: RoleShape}, operation_id="make_role")
    def post(self, request: Request) -> Response:
        given = RoleInput(data=request.data)
        given.is_valid(raise_exception=True)
        name = given.validated_data["name"]
        beginning = {key: given.validated_data.get(key) for key in ("copy_of", "builds_on")}
        if given.validated_data["with_limits"]:
            require(self.viewpoint, "limits.set")
            beginning["with_limits"] = True
        starter = next((one for one in STARTERS if one.name == given.validated_data.get("starter")), None)
        try:
            by = self.session.by
            role = make_starter(starter, name, by) if starter else make_role(name, by, **beginning)
        except NameTaken:
            raise _taken(name) from None
        return Response(role_data(role, self.viewpoint), status=201)


class StarterShape(serializers.Serializer):
    name = serializers.CharField()
    description = serializers.CharField()


class StartersView(GuardedView):
    doors = {"get": May("roles.define")}

    @extend_schema(responses=StarterShape(many=True), operation_id="starters")
    def get(self, request: Request) -> Response:
        """The roles that one can begin with."""
        return Response([{"name": starter.name, "description": starter.description} for starter in STARTERS])


class RoleOrderView(GuardedView):
    doors = {"post": May("roles.define")}
    locks = {"post": (POLICY.shared,)}

    @extend_schema(request=RoleOrderInput, responses={204: OpenApiResponse()}, operation_id="order_roles")
    def post(self, request: Request) -> Response:
        """Put the roles in an order of one's own. It is only for the eye, so it is saved at once."""
        given = RoleOrderInput(data=request.data)
        given.is_valid(raise_exception=True)
        put_in_order(given.validated_data["roles"], self.session.by)
        return Response(status=204)


class RoleRemovalView(GuardedView):
    doors = {"post": May("roles.define")}
    locks = {"post": (POLICY.shared, NODES.shared)}

    @extend_schema(request=RemovalInput, responses=ChangeSetShape, operation_id="stage_removal")
    def post(self, request: Request, role: str) -> Response:
        """Stage all that taking a role away needs, holders handed to another role if one is named."""
        policy = staged_policy(self.viewpoint.account or "", self.viewpoint.snapshot.policy)
        given = RemovalInput(data=request.data)
        given.is_valid(raise_exception=True)
        hand_to = given.validated_data.get("hand_to")
        if role not in policy.roles:
            raise NotFound("role")
        if hand_to is not None and (hand_to not in policy.roles or hand_to == role or hand_to in policy.baseline):
            raise Invalid({"/hand_to": "Choose another role that can be given."})
        if any(a.role == role and a.to.kind == "account" for a in policy.assignments.values()):
            require(self.viewpoint, "roster.see")  # what is staged names its holders
        stage_all(self.viewpoint, removal(role, hand_to, policy), UNBOUND)
        return Response(change_set_data(self.viewpoint))


def _taken(name: str) -> Invalid:
    return Invalid({"/name": f"Another role is called {name} already."})


def role_data(role: models.Role, viewpoint: Viewpoint) -> dict[str, Any]:
    """A role; who holds it is counted for whoever sees the roster."""
    return {
        "key": role.key,
        "name": role.name,
        "description": role.description,
        "builds_on": role.builds_on_id,
        "baseline": role.baseline,
        "cloth": {"colour": role.colour, "pattern": role.pattern},
        "subject": subject_of(role.name, role.baseline),
        "start": role.start,
        "version": role.version,
        **(_held(role, viewpoint) if viewpoint.sight.roster else {"holders": None, "groups": None, "ends": None}),
    }


def _held(role: models.Role, viewpoint: Viewpoint) -> dict[str, Any]:
    holders = viewpoint.holders
    held = holders.by_role[role.key]
    ends = [h.assignment.period.ends for h in held]
    if role.baseline == models.Role.Baseline.NONE:
        count = len(holders.accounts_of(role.key))
    else:
        count = sum(a.state == "active" for a in viewpoint.snapshot.policy.accounts.values())
    return {
        "holders": count,
        "groups": len({h.group for h in held if h.group}),
        "ends": min((e for e in ends if e), default=None) if ends and all(ends) else None,
    }


class SectionAmissShape(serializers.Serializer):
    """A section of the desk that a role opens with nothing to do in it, or gives something for and leaves closed."""

    section = serializers.CharField()
    shut = serializers.ListField(child=serializers.CharField(), help_text="What is given for it; empty if it is open.")


class BoardShape(serializers.Serializer):
    role = RoleShape()
    cells = CellShape(many=True)
    outcomes = serializers.ListField(
        child=serializers.DictField(child=OutcomeShape()),
        help_text="What a cell comes to by the word it says; nothing said is the empty word.",
    )
    components = ListShape()
    facets = ListShape(many=True)
    shipped = serializers.DictField(child=serializers.CharField(), allow_null=True)
    put_back = serializers.ListField(
        child=OperationField(), help_text="What puts back what it builds on and its lists, as it came."
    )
    risks = RiskShape(many=True)
    sections = SectionAmissShape(many=True)


class RoleView(GuardedView):
    doors = {"get": May("roles.define"), "patch": May("roles.define")}
    locks = {"patch": (POLICY, RowLock("access.Role", "role"))}

    @extend_schema(responses=BoardShape, operation_id="board", parameters=[ETAG])
    def get(self, request: Request, role: str) -> Response:
        """The board of a role, what one has staged oneself included."""
        row = models.Role.objects.filter(pk=role).first()
        if row is None:
            raise NotFound("role")
        policy, catalogue = self.viewpoint.snapshot.policy, self.viewpoint.snapshot.catalogue
        proposed = staged_policy(self.viewpoint.account or "", policy)
        if role not in proposed.roles:
            raise Conflict(f"{row.name} is about to be removed: that is staged. Drop it from the tray to go on.")
        says = RoleResolver(proposed)
        board = Board(role, policy, says)
        data = {
            "role": role_data(row, self.viewpoint),
            "cells": [board.cell(capability) for capability in catalogue.capabilities()],
            "outcomes": board.outcomes,
            "risks": [risk._asdict() for risk in risks_of(role, says, catalogue)],
            "sections": [amiss._asdict() for amiss in sections_amiss(role, says)],
            "shipped": row.shipped,
            "put_back": list(put_back(row, proposed)),
            "components": part_list(role, policy, proposed, None),
            "facets": [part_list(role, policy, proposed, component) for component in catalogue.components],
        }
        return Response(data, headers={"ETag": etag(row.version)})

    @extend_schema(request=RoleChangeInput, responses=RoleShape, operation_id="change_role", parameters=TAGGED)
    def patch(self, request: Request, role: str) -> Response:
        """Name, description, cloth and start page. They decide nothing, so they are saved at once."""
        expected = expected_version(request)
        row = locked(models.Role.objects).filter(pk=role).first()
        if row is None:
            raise NotFound("role")
        if expected != etag(row.version):
            raise ChangedMeanwhile(f"{row.name} was changed while you were editing it.", role_data(row, self.viewpoint))
        given = RoleChangeInput(data=request.data)
        given.is_valid(raise_exception=True)
        if "name" in given.validated_data:
            name = given.validated_data["name"]
            if name_taken(name, but=role):
                raise _taken(name)
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
            record(self.session.by, "role.changed", about=("role", role), changes=changes, name=row.name)
        return Response(role_data(row, self.viewpoint), headers={"ETag": etag(row.version)})
