"""Reviews: begun by those who give roles, decided by their reviewers, with a report."""

from datetime import date
from typing import Any

from django.db.models import Count, Q
from django.http import HttpResponse
from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.describe import Names, where_words
from gonfalon.access.models import Review, ReviewItem
from gonfalon.access.reviews import Closed, assignments_about, begin, close, decide
from gonfalon.access.sight import UNBOUND, Sight
from gonfalon.access.uses import last_used
from gonfalon.api.changes.impact import BreakingShape, foreseen
from gonfalon.api.guard import GuardedView, May, SignedIn, may
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import Conflict, Invalid, NotFound, Refused
from gonfalon.api.shapes import RoleTagShape, role_tags
from gonfalon.api.tables import csv_answer
from gonfalon.core.bulk.scopes import covered
from gonfalon.core.model.policy import Scope
from gonfalon.inputs import Input
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY

MOST_FORESEEN = 1_000
"""So many assignments that would end are foreseen together."""


class ReviewShape(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()
    about = serializers.CharField(help_text="What is gone through, in words.")
    reviewers = serializers.ListField(child=serializers.CharField(), help_text="By name.")
    due_at = serializers.DateTimeField()
    silent = serializers.ChoiceField(choices=Review.Silent.choices)
    closed_at = serializers.DateTimeField(allow_null=True)
    items = serializers.IntegerField()
    decided = serializers.IntegerField()


class ReviewItemShape(serializers.Serializer):
    id = serializers.CharField()
    account = serializers.CharField(allow_null=True)
    who = serializers.CharField()
    role = serializers.CharField()
    where = serializers.CharField()
    ends = serializers.DateTimeField(allow_null=True)
    last_used = serializers.DateField(
        allow_null=True, help_text="When the role last gave them something; for a group, any of its members."
    )
    there = serializers.BooleanField(help_text="Whether it is still given.")
    decision = serializers.CharField(allow_blank=True)
    reason = serializers.CharField(allow_blank=True)
    decided_by = serializers.CharField(allow_null=True)


class ReviewPageShape(serializers.Serializer):
    review = ReviewShape()
    roles = RoleTagShape(many=True)
    items = ReviewItemShape(many=True)


class ReviewInput(Input):
    name = serializers.CharField(max_length=120, error_messages={"blank": "A review needs a name."})
    group = serializers.CharField(required=False, allow_null=True)
    role = serializers.CharField(required=False, allow_null=True)
    branch = serializers.CharField(required=False, allow_null=True)
    reviewers = serializers.ListField(child=serializers.CharField(), allow_empty=False, max_length=50)
    due_at = serializers.DateTimeField()
    silent = serializers.ChoiceField(choices=Review.Silent.choices, default="keep")


class DecisionInput(Input):
    decision = serializers.ChoiceField(choices=Review.Silent.choices)
    reason = serializers.CharField(max_length=300, allow_blank=True, default="")

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        if data["decision"] == Review.Silent.END and not data["reason"].strip():
            raise serializers.ValidationError({"reason": "Say why it ends."})
        return data


class ReviewsView(GuardedView):
    doors = {"get": SignedIn(), "post": May("roles.assign")}
    locks = {"post": (POLICY.shared, NODES.shared)}

    @extend_schema(responses=ReviewShape(many=True), operation_id="reviews", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """The reviews that one may decide in, the newest first. Six queries."""
        rows = [row for row in _counted() if _reviews(row, self.viewpoint)]
        return paged(request, _told(rows, self.viewpoint))

    @extend_schema(request=ReviewInput, responses={201: ReviewShape}, operation_id="begin_review")
    def post(self, request: Request) -> Response:
        """Begin a review of what a group, a role or a branch has been given, or of everything."""
        given = ReviewInput(data=request.data)
        given.is_valid(raise_exception=True)
        data, viewpoint = given.validated_data, self.viewpoint
        policy = viewpoint.snapshot.policy
        known: dict[str, Any] = {"group": policy.groups, "role": policy.roles, "branch": viewpoint.sight.nodes}
        about = {key: data[key] for key in known if data.get(key)}
        for key, value in about.items():
            if value not in known[key]:
                raise Invalid({f"/{key}": f"There is no such {key}."})
        for i, reviewer in enumerate(data["reviewers"]):
            if reviewer not in policy.accounts or reviewer not in viewpoint.sight.people:
                raise Invalid({f"/reviewers/{i}": "There is no such account."})
        if data["due_at"] <= viewpoint.at:
            raise Invalid({"/due_at": "Choose a day to come."})
        found = list(assignments_about(about, policy, lambda scope, branch: _covers(scope, branch, viewpoint)))
        if not found:
            raise Invalid({"": "Nothing is given there that could be reviewed."})
        args = (data["name"], about, data["reviewers"], data["due_at"], data["silent"])
        row = begin(*args, self.session.by, found)
        [counted] = [r for r in _counted() if r.pk == row.pk]
        return Response(_told([counted], viewpoint)[0], status=201)


class ReviewView(GuardedView):
    doors = {"get": SignedIn()}

    @extend_schema(responses=ReviewPageShape, operation_id="review")
    def get(self, request: Request, review: str) -> Response:
        """A review with all that is gone through. Nine queries."""
        row = _known(review, self.viewpoint)
        return Response(_page(row, self.viewpoint))


class ReviewReportView(GuardedView):
    doors = {"get": SignedIn()}

    @extend_schema(responses={(200, "text/csv"): str}, operation_id="review_report")
    def get(self, request: Request, review: str) -> HttpResponse:
        """The same as a table to keep."""
        row = _known(review, self.viewpoint)
        head = ("Who", "Role", "Where", "Until", "Last used", "Decision", "Reason", "Decided by")
        columns = ("who", "role", "where", "ends", "last_used", "decision", "reason", "decided_by")
        every = list(row.items.all())
        items = _items(every, _names(row, every, self.viewpoint), self.viewpoint)
        return csv_answer(row.id, head, ([_cell(item[c]) for c in columns] for item in items))


class ReviewItemView(GuardedView):
    doors = {"post": SignedIn()}
    locks = {"post": (POLICY, NODES.shared)}

    @extend_schema(request=DecisionInput, responses=ReviewPageShape, operation_id="decide_in_review")
    def post(self, request: Request, review: str, item: str) -> Response:
        """Keep or end one assignment. What is ended ends at once; nobody decides about their own."""
        row = _known(review, self.viewpoint)
        given = DecisionInput(data=request.data)
        given.is_valid(raise_exception=True)
        found = ReviewItem.objects.filter(pk=item, review=row).first()
        if found is None:
            raise NotFound("assignment")
        who = self.viewpoint.account or ""
        if found.to_id in self._own() and not may(self.viewpoint, "roles.assign"):
            raise Refused("own", "Somebody else decides about what is given to you.")
        try:
            decide(found, **given.validated_data, by=self.session.by, owner=who)
        except Closed:
            raise Conflict("The review is over, or this has ended already.") from None
        viewpoint = self.viewpoint.renewed()
        row = _known(review, viewpoint)
        return Response(_page(row, viewpoint))

    def _own(self) -> frozenset[str]:
        """Whoever decides, and their groups."""
        viewpoint = self.viewpoint
        return frozenset(s.id for s in viewpoint.snapshot.engine.grants.of(viewpoint.subject, viewpoint.at).subjects)


class ReviewForeseenView(GuardedView):
    doors = {"get": SignedIn()}

    @extend_schema(responses=BreakingShape, operation_id="review_foreseen", parameters=[OpenApiParameter("item", str)])
    def get(self, request: Request, review: str) -> Response:
        """Who would lose by ending one assignment, or by closing the review, and what would break: as far as whoever
        reviews may know."""
        row = _known(review, self.viewpoint)
        item = request.query_params.get("item")
        ended = row.items.filter(pk=item) if item else row.items.filter(decision="") if row.silent == "end" else ()
        there = self.viewpoint.snapshot.policy.assignments
        operations = [{"kind": "take-role", "assignment": one.assignment} for one in ended if one.assignment in there]
        if len(operations) > MOST_FORESEEN:
            raise Conflict(f"More than {MOST_FORESEEN:,} would end, and that is not foreseen at once.")
        return Response(foreseen(self.viewpoint, operations, UNBOUND))


class ReviewCloseView(GuardedView):
    doors = {"post": May("roles.assign")}
    locks = {"post": (POLICY, NODES.shared)}

    @extend_schema(request=None, responses={204: OpenApiResponse()}, operation_id="close_review")
    def post(self, request: Request, review: str) -> Response:
        """Close a review before its date: what nobody decided is kept or ended, as it says."""
        try:
            close(_known(review, self.viewpoint), self.session.by, self.viewpoint.account or "")
        except Closed:
            raise Conflict("The review is over already.") from None
        return Response(status=204)


def _counted() -> list[Review]:
    return list(Review.objects.annotate(total=Count("items"), done=Count("items", filter=~Q(items__decision=""))))


def _reviews(row: Review, viewpoint: Viewpoint) -> bool:
    return viewpoint.account in row.reviewers or may(viewpoint, "roles.assign")


def _known(id: str, viewpoint: Viewpoint) -> Review:
    """A review that whoever asks may decide in. Raises NotFound."""
    row = next((row for row in _counted() if row.pk == id and _reviews(row, viewpoint)), None)
    if row is None:
        raise NotFound("review")
    return row


def _covers(scope: Scope, branch: str, viewpoint: Viewpoint) -> bool:
    tree = viewpoint.nodes.tree
    return bool(covered(tree, scope)[tree.branch(branch)].any())


def _sight(rows: list[Review], items: list[ReviewItem], viewpoint: Viewpoint) -> Sight:
    """What whoever reviews may be told: those whom it is about, and those who review it, too."""
    mine = {row.pk: row for row in rows if viewpoint.account in row.reviewers}
    if viewpoint.sight.roster or not mine:
        return viewpoint.sight
    about = {item.to_id for item in items if item.to_kind == "account" and item.review_id in mine}
    reviewers = {id for row in mine.values() for id in row.reviewers}
    return Sight(viewpoint.sight.nodes, about | reviewers)


def _told(rows: list[Any], viewpoint: Viewpoint) -> list[dict[str, Any]]:
    named = [{"ids": row.reviewers, "about": list(row.about.values())} for row in rows]
    names = Names(named, _sight(rows, [], viewpoint), viewpoint.catalogue)
    return [_review(row, names) for row in rows]


def _review(row: Any, names: Names) -> dict[str, Any]:
    return {
        "id": row.id,
        "name": row.name,
        "about": _about(row.about, names),
        "reviewers": [names.account(id) for id in row.reviewers],
        "due_at": row.due_at,
        "silent": row.silent,
        "closed_at": row.closed_at,
        "items": row.total,
        "decided": row.done,
    }


def _about(about: dict[str, str], names: Names) -> str:
    parts = []
    if "group" in about:
        parts.append(f"what {names.group(about['group'])} has")
    if "role" in about:
        parts.append(f"holders of {names.roles.get(about['role'], about['role'])}")
    if "branch" in about:
        parts.append(f"access to {names.node(about['branch'])}")
    return ", ".join(parts) or "everything that is given"


def _page(row: Review, viewpoint: Viewpoint) -> dict[str, Any]:
    items = list(row.items.all())
    names = _names(row, items, viewpoint)
    told = _items(items, names, viewpoint)
    tags = role_tags(item["role"] for item in told)
    return {"review": _review(row, names), "roles": list(tags.values()), "items": told}


def _names(row: Review, items: list[ReviewItem], viewpoint: Viewpoint) -> Names:
    told = [{"to": i.to_id, "by": i.decided_by, "branches": i.scope.get("branches") or []} for i in items]
    sight = _sight([row], items, viewpoint)
    return Names([*told, {"ids": row.reviewers, "about": list(row.about.values())}], sight, viewpoint.catalogue)


def _items(items: list[ReviewItem], names: Names, viewpoint: Viewpoint) -> list[dict[str, Any]]:
    there = viewpoint.snapshot.policy.assignments
    receiving = {i.id: _receiving(i, names.sight, viewpoint) for i in items}
    used = last_used((account, i.role) for i in items for account in receiving[i.id])
    return [
        {
            "id": i.id,
            "account": i.to_id if i.to_kind == "account" and i.to_id in names.sight.people else None,
            "who": names.subject({"kind": i.to_kind, "id": i.to_id}),
            "role": i.role,
            "where": where_words(i.scope, names),
            "ends": i.ends,
            "last_used": max((used[a, i.role] for a in receiving[i.id] if (a, i.role) in used), default=None),
            "there": i.assignment in there,
            "decision": i.decision,
            "reason": i.reason if not i.reason or i.to_kind != "account" or i.to_id in names.sight.people else "",
            "decided_by": names.account(i.decided_by) if i.decided_by else None,
        }
        for i in items
    ]


def _receiving(item: ReviewItem, sight: Sight, viewpoint: Viewpoint) -> list[str]:
    """The accounts that an assignment reaches, of those whom whoever asks may know."""
    if item.to_kind == "account":
        return [item.to_id] if item.to_id in sight.people else []
    return viewpoint.holders.members.get(item.to_id, [])


def _cell(value: Any) -> Any:
    return value.isoformat() if isinstance(value, date) else value
