"""Moving a page on from state to state: handed in, returned, published, retired."""

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.desk.page_data import PageAccess, PageShape, page_data
from gonfalon.api.desk.telling import tell_author, tell_reviewers
from gonfalon.api.desk.unseen import Unseen, unseen_once_public
from gonfalon.api.etag import TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, On
from gonfalon.api.problems import ChangedMeanwhile, Invalid
from gonfalon.content import pages
from gonfalon.content.models import Node
from gonfalon.content.nodes import as_target
from gonfalon.core.model.tree import Target
from gonfalon.inputs import Input
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import NODES, POLICY


class WordInput(Input):
    note = serializers.CharField(max_length=500, required=False, allow_blank=True, default="")


class NoteInput(Input):
    note = serializers.CharField(max_length=500, error_messages={"blank": "Say what is to be changed."})


class PublishInput(Input):
    although_unseen = serializers.BooleanField(
        default=False, help_text="Publish it although nobody would see it: else that is told first, as `unseen`."
    )


class _StateView(GuardedView):
    """Moves a page from some states to another, when it is still as it was seen."""

    action: str
    to: str
    since: tuple[str, ...]
    kind: str

    def _move_on(self, request: Request, note: str = "") -> Response:
        row, above = self.place.row, self.place.above
        expected = expected_version(request)
        if row.state not in self.since:
            raise Invalid({"/state": f"This page is {row.state}; it would have to be {' or '.join(self.since)}."})
        if expected != etag(row.version):
            raise ChangedMeanwhile(f"{row.title} was changed meanwhile.", page_data(self.viewpoint, row, above))
        pages.set_state(row, self.to, self.session.by, self.kind, note=note)
        return Response(page_data(self.viewpoint, row, above), headers={"ETag": etag(row.version)})


def ask_for_required(row: Node, above: list[Node], viewpoint: Viewpoint, target: Target | None = None) -> None:
    """Raise Invalid where a required field that whoever asks may change is not filled in."""
    access = PageAccess(viewpoint, target or as_target(row, above))
    empty = [
        field
        for field in viewpoint.catalogue.type(row.type).fields
        if field.required and row.values.get(field.key) in (None, "") and access.may("change-field", field=field.key)
    ]
    if empty:
        raise Invalid({f"/values/{field.key}": f"{field.name} is needed first." for field in empty})


class PublishView(_StateView):
    doors = {"post": On("publish", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}
    to, since = "published", ("draft", "review", "retired")
    kind = "page.published"

    @extend_schema(request=PublishInput, responses=PageShape, operation_id="publish", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Publish a page; whoever wrote it is told by mail if it was handed in. What nobody would see is told first."""
        given = PublishInput(data=request.data)
        given.is_valid(raise_exception=True)
        row = self.place.row
        ask_for_required(row, self.place.above, self.viewpoint)
        if not given.validated_data["although_unseen"] and unseen_once_public([row.id], self.viewpoint):
            raise Unseen(self.viewpoint.catalogue.type(row.type))
        waited = row.state == Node.State.REVIEW
        response = self._move_on(request)
        if waited:
            tell_author(self.place.row, "published", self.session)
        return response


class HandInView(_StateView):
    doors = {"post": On("edit", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}
    to, since = "review", ("draft",)
    kind = "page.handed-in"

    @extend_schema(request=WordInput, responses=PageShape, operation_id="hand_in", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Hand a page in for review, with a word if one likes; those who may publish it are told by mail."""
        given = WordInput(data=request.data)
        given.is_valid(raise_exception=True)
        word, row = given.validated_data["note"].strip(), self.place.row
        ask_for_required(row, self.place.above, self.viewpoint)
        response = self._move_on(request, word)
        tell_reviewers(self.place.row, self.session, word)
        return response


class RetireView(_StateView):
    doors = {"post": On("retire", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}
    to, since = "retired", ("draft", "review", "published")
    kind = "page.retired"

    @extend_schema(request=None, responses=PageShape, operation_id="retire", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Retire a page; whoever wrote it is told by mail if visitors could read it."""
        was_public = self.place.row.state == Node.State.PUBLISHED
        response = self._move_on(request)
        if was_public:
            tell_author(self.place.row, "retired", self.session)
        return response


class TakeBackView(_StateView):
    doors = {"post": On("edit", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}
    to, since = "draft", ("review",)
    kind = "page.taken-back"

    @extend_schema(request=None, responses=PageShape, operation_id="take_back", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Take a page back that was handed in."""
        return self._move_on(request)


class ReturnView(_StateView):
    doors = {"post": On("publish", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}
    to, since = "draft", ("review",)
    kind = "page.returned"

    @extend_schema(request=NoteInput, responses=PageShape, operation_id="return_page", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Give a page back that was handed in, with a note; whoever wrote it is told by mail."""
        given = NoteInput(data=request.data)
        given.is_valid(raise_exception=True)
        note = given.validated_data["note"]
        response = self._move_on(request, note)
        tell_author(self.place.row, "returned", self.session, note)
        return response


class ToDraftView(_StateView):
    doors = {"post": On("retire", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}
    to, since = "draft", ("retired",)
    kind = "page.to-draft"

    @extend_schema(request=None, responses=PageShape, operation_id="to_draft", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Make a draft again of a page that was retired."""
        return self._move_on(request)
