"""Handing out: the delegations there are, and what whoever has one may give to whom."""

from typing import Any

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.change_sets import staged_policy
from gonfalon.access.describe import Names, where_words
from gonfalon.access.entries import read_scope
from gonfalon.access.operations.assignments import Scope as ScopeInput
from gonfalon.access.sight import Sight
from gonfalon.accounts.models import Account
from gonfalon.api.assign.given import BranchShape, CoveredShape, Telling
from gonfalon.api.changes.impact import BreakingShape, foreseen
from gonfalon.api.guard import GuardedView, May, SignedIn
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import Invalid, NotFound, Refused
from gonfalon.api.shapes import RoleTagShape, ScopeShape, role_tags
from gonfalon.clock import new_id
from gonfalon.core.document.writer import write_scope
from gonfalon.core.model.policy import Assignment, Delegation, Period, Subject
from gonfalon.inputs import Input
from gonfalon.verify.handing_out import (
    MayNotHandOut,
    change_handed_out,
    delegations_of,
    giving,
    hand_out,
    receivers_of,
    require_handing_out,
    take_back,
)
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY

MOST_PEOPLE = 500


class DelegationShape(serializers.Serializer):
    """Who may give which roles where, to whom, and until when."""

    id = serializers.CharField()
    subject_kind = serializers.CharField()
    subject = serializers.CharField(allow_null=True)
    subject_name = serializers.CharField()
    roles = serializers.ListField(child=serializers.CharField())
    scope = ScopeShape()
    branches = BranchShape(many=True)
    where = serializers.CharField(help_text="The scope in words.")
    covers = CoveredShape()
    receivers = serializers.CharField(allow_null=True, help_text="The group; null is anyone.")
    receivers_name = serializers.CharField(allow_null=True)
    ends = serializers.DateTimeField(allow_null=True)
    staged = serializers.ChoiceField(choices=["", "new", "changed", "ending"])


class DelegationsView(GuardedView):
    doors = {"get": May("roles.assign", "roster.see")}

    @extend_schema(responses=DelegationShape(many=True), operation_id="delegations", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """All delegations, what one has staged oneself included. Five queries."""
        was = self.viewpoint.snapshot.policy.delegations
        now = staged_policy(self.viewpoint.account or "", self.viewpoint.snapshot.policy).delegations
        every = [
            (d, "" if was.get(id) == now.get(id) else "new" if id not in was else "changed" if id in now else "ending")
            for id, d in {**was, **now}.items()
        ]
        return paged(request, _told(every, self.viewpoint))


class HandedOutShape(serializers.Serializer):
    id = serializers.CharField()
    role = serializers.CharField()
    where = serializers.CharField()
    ends = serializers.DateTimeField(allow_null=True)


class ReceiverShape(serializers.Serializer):
    """Somebody that one may give something to, with what they were given of it directly."""

    id = serializers.CharField()
    name = serializers.CharField()
    email = serializers.CharField()
    given = HandedOutShape(many=True)


class HandingOutShape(serializers.Serializer):
    delegations = DelegationShape(many=True)
    roles = RoleTagShape(many=True)
    people = ReceiverShape(many=True)


class HandOutInput(Input):
    role = serializers.CharField()
    account = serializers.CharField()
    scope = ScopeInput(required=False)
    ends = serializers.DateTimeField(required=False, allow_null=True)


class HandOutChangeInput(Input):
    scope = ScopeInput(required=False)
    ends = serializers.DateTimeField(required=False, allow_null=True)


class HandingOutView(GuardedView):
    doors = {"get": SignedIn(), "post": SignedIn()}
    locks = {"post": (POLICY, NODES.shared)}

    @extend_schema(responses=HandingOutShape, operation_id="handing_out")
    def get(self, request: Request) -> Response:
        """What one may hand out, and to whom: their names are told to whoever has the delegation."""
        return Response(_handing_out(self.viewpoint))

    @extend_schema(request=HandOutInput, responses=HandingOutShape, operation_id="hand_out")
    def post(self, request: Request) -> Response:
        """Give a role under a delegation, at once. A refusal says what is missing."""
        _do(hand_out, self.viewpoint, _given(request, self.viewpoint), self.session.by)
        return Response(_handing_out(self.viewpoint.renewed()))


class HandOutForeseenView(GuardedView):
    doors = {"post": SignedIn()}
    reads = frozenset({"post"})

    @extend_schema(request=HandOutInput, responses=BreakingShape, operation_id="handing_out_foreseen")
    def post(self, request: Request) -> Response:
        """Who would gain by it, and what would break, as far as whoever gives may know. Nothing is given."""
        given = _given(request, self.viewpoint)
        _do(require_handing_out, self.viewpoint, given)
        sight = Sight(self.viewpoint.sight.nodes, {given.to.id})
        return Response(foreseen(self.viewpoint, [giving(given)], sight))


def _given(request: Request, viewpoint: Viewpoint) -> Assignment:
    """What would be given. Raises Invalid."""
    given = HandOutInput(data=request.data, context=_context(viewpoint))
    given.is_valid(raise_exception=True)
    data, policy = given.validated_data, viewpoint.snapshot.policy
    if data["role"] not in policy.roles or data["role"] in policy.baseline:
        raise Invalid({"/role": "Choose a role that can be given."})
    if data["account"] not in _people(viewpoint):
        raise Invalid({"/account": "There is nobody like that whom you may give something to."})
    to, scope = Subject.account(data["account"]), read_scope(data.get("scope") or {})
    return Assignment(new_id(), data["role"], to, scope, Period(None, data.get("ends")))


class HandedOutView(GuardedView):
    doors = {"patch": SignedIn(), "delete": SignedIn()}
    locks = {"patch": (POLICY, NODES.shared), "delete": (POLICY, NODES.shared)}

    @extend_schema(request=HandOutChangeInput, responses=HandingOutShape, operation_id="change_handed_out")
    def patch(self, request: Request, assignment: str) -> Response:
        """Give it elsewhere, or for another time."""
        was = _handed_out(assignment, self.viewpoint)
        given = HandOutChangeInput(data=request.data, context=_context(self.viewpoint))
        given.is_valid(raise_exception=True)
        data = given.validated_data
        scope = read_scope(data["scope"]) if "scope" in data else was.scope
        period = Period(was.period.starts, data["ends"]) if "ends" in data else was.period
        given_now = Assignment(was.id, was.role, was.to, scope, period)
        _do(change_handed_out, self.viewpoint, was, given_now, self.session.by)
        return Response(_handing_out(self.viewpoint.renewed()))

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="take_back")
    def delete(self, request: Request, assignment: str) -> Response:
        """End it."""
        _do(take_back, self.viewpoint, _handed_out(assignment, self.viewpoint), self.session.by)
        return Response(status=204)


def _do(what: Any, viewpoint: Viewpoint, *given: Any) -> None:
    try:
        what(viewpoint, *given)
    except MayNotHandOut as no:
        raise Refused(str(no.reason), no.why) from None


def _people(viewpoint: Viewpoint) -> set[str]:
    return receivers_of(delegations_of(viewpoint), viewpoint)


def _context(viewpoint: Viewpoint) -> dict[str, Any]:
    return {"policy": viewpoint.snapshot.policy, "sight": Sight(viewpoint.sight.nodes, _people(viewpoint))}


def _handed_out(id: str, viewpoint: Viewpoint) -> Assignment:
    """An assignment to one of those that whoever asks may give something to. Raises NotFound."""
    found = viewpoint.snapshot.policy.assignments.get(id)
    if found is None or found.to.kind != "account" or found.to.id not in _people(viewpoint):
        raise NotFound("assignment")
    return found


def _handing_out(viewpoint: Viewpoint) -> dict[str, Any]:
    delegations = delegations_of(viewpoint)
    roles = {role for d in delegations for role in d.roles}
    people = receivers_of(delegations, viewpoint)
    theirs: dict[str, list[Assignment]] = {}
    for a in viewpoint.snapshot.policy.assignments.values():
        if a.to.kind == "account" and a.to.id in people and a.role in roles:
            theirs.setdefault(a.to.id, []).append(a)
    branches = [branch for given in theirs.values() for a in given for branch in a.scope.branches or ()]
    names = Names([{"branches": branches}], viewpoint.sight, viewpoint.catalogue)
    rows = Account.objects.filter(pk__in=people).values_list("id", "name", "email")[:MOST_PEOPLE]
    return {
        "delegations": _told([(d, "") for d in delegations], viewpoint),
        "roles": list(role_tags(roles).values()),
        "people": [
            {"id": id, "name": name, "email": email, "given": [_handed(a, names) for a in theirs.get(id, ())]}
            for id, name, email in rows
        ],
    }


def _handed(a: Assignment, names: Names) -> dict[str, Any]:
    return {"id": a.id, "role": a.role, "where": where_words(write_scope(a.scope), names), "ends": a.period.ends}


def _told(every: list[tuple[Delegation, str]], viewpoint: Viewpoint) -> list[dict[str, Any]]:
    named = ({"to": d.to.id, "branches": list(d.scope.branches or ())} for d, _ in every)
    names = Names(named, viewpoint.sight, viewpoint.catalogue)
    telling = Telling(viewpoint, (), (branch for d, _ in every for branch in d.scope.branches or ()))
    return [
        {
            "id": d.id,
            "subject_kind": d.to.kind,
            "subject": d.to.id if d.to.kind != "account" or d.to.id in viewpoint.sight.people else None,
            "subject_name": names.subject(d.to._asdict()),
            "roles": sorted(d.roles),
            "scope": telling.scope(d.scope),
            "branches": telling.branches(d.scope.branches or ()),
            "where": where_words(write_scope(d.scope), names),
            "covers": telling.covers(d.scope),
            "receivers": d.receivers,
            "receivers_name": names.group(d.receivers) if d.receivers else None,
            "ends": d.ends,
            "staged": staged,
        }
        for d, staged in every
    ]
