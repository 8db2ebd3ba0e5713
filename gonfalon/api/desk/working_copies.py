"""The working copy of a public page: edited beside it, handed in, returned, discarded, published (§4)."""

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.desk.copy_data import OnCopy, copy_data, copy_etag
from gonfalon.api.desk.edits import SaveInput, read_edits
from gonfalon.api.desk.history import told_changes
from gonfalon.api.desk.page_data import PageAccess, PageShape, page_data
from gonfalon.api.desk.states import NoteInput, WordInput, ask_for_required
from gonfalon.api.desk.telling import COPY, tell_about, tell_reviewers
from gonfalon.api.desk.waiting import SincePublicShape
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, ask
from gonfalon.api.problems import ChangedMeanwhile, Invalid, Problem
from gonfalon.content import history, working_copies
from gonfalon.content.models import Node, WorkingCopy
from gonfalon.content.pages import version_data
from gonfalon.inputs import Input
from gonfalon.work import NODES, POLICY, RowLock

DRAFT, REVIEW = WorkingCopy.State.DRAFT, WorkingCopy.State.REVIEW
_HELD = (POLICY.shared, NODES.shared, RowLock("content.Node", "node"))


class PublishCopyInput(Input):
    over = serializers.IntegerField(
        required=False,
        help_text="The version of the page that it is published over, where that changed since the copy was begun.",
    )


class PublicChanged(Problem):
    """The page itself was changed since its working copy was begun: both are told, and nothing is published yet."""

    def __init__(self, row: Node, changes: list[dict[str, Any]]) -> None:
        detail = (
            f"{row.title} itself was changed since its working copy was begun. What the copy says would take the "
            "place of that."
        )
        super().__init__(
            409, "public-changed", "The public page is another by now", detail, over=row.version, since=changes
        )


class _CopyView(GuardedView):
    """Whatever is done with the working copy of the page that the address names."""

    def _copy(self) -> WorkingCopy:
        """The one there is, or the one that saving would begin. Raises Invalid for what is not public."""
        row = self.place.row
        if row.state != Node.State.PUBLISHED:
            raise Invalid({"/state": f"This page is {row.state}; only what is public has a working copy."})
        return working_copies.copy_of(row)

    def _expected(self, request: Request) -> WorkingCopy:
        """The same, when it is as it was seen. Raises ChangedMeanwhile."""
        expected, copy = expected_version(request), self._copy()
        if expected != copy_etag(copy):
            theirs = copy_data(self.viewpoint, self.place, copy)
            who = theirs["saved_by"] or "Someone"
            raise ChangedMeanwhile(
                f"{who} changed the working copy of {self.place.row.title} while you were editing it.", theirs
            )
        return copy

    def _begun(self, request: Request, *states: str) -> WorkingCopy:
        """The same, when it is written and in one of some states. Raises Invalid."""
        copy = self._expected(request)
        if not working_copies.begun(copy):
            raise Invalid({"/state": "There is no working copy of this page."})
        if states and copy.state not in states:
            raise Invalid({"/state": f"The working copy is {copy.state}; it would have to be {' or '.join(states)}."})
        return copy

    def _note(self, form: type[WordInput] | type[NoteInput], request: Request) -> str:
        """What is said with it. Raises Invalid."""
        given = form(data=request.data)
        given.is_valid(raise_exception=True)
        return str(given.validated_data["note"]).strip()

    def _moved(self, copy: WorkingCopy, state: str, did: str, note: str = "") -> Response:
        working_copies.set_state(self.place.row, copy, state, self.session.by, did, note)
        return self._told(copy)

    def _told(self, copy: WorkingCopy, **more: Any) -> Response:
        data = copy_data(self.viewpoint, self.place, copy) | more
        return Response(data, headers={"ETag": copy_etag(copy)})

    def _page(self, copy: WorkingCopy) -> Node:
        return working_copies.as_page(self.place.row, copy)


class CopyView(_CopyView):
    doors = {"get": OnCopy("see"), "patch": OnCopy("edit"), "delete": OnCopy("edit")}
    locks = {"patch": _HELD, "delete": _HELD}

    @extend_schema(responses=PageShape, operation_id="working_copy", parameters=[ETAG])
    def get(self, request: Request, node: str) -> Response:
        """The page as its working copy has it; where there is none, as it is public: saving that begins one."""
        return self._told(self._copy())

    @extend_schema(request=SaveInput, responses=PageShape, operation_id="save_working_copy", parameters=TAGGED)
    def patch(self, request: Request, node: str) -> Response:
        """Save on the working copy, as on a draft; it is begun with that. What is public stays as it is."""
        copy = self._expected(request)
        edits = read_edits(self.viewpoint, self._page(copy), self.place.target.working_copy(), request.data)
        working_copies.save(self.place.row, copy, edits.new, self.session.by, sitting=edits.sitting)
        return self._told(copy, taken_off=edits.taken_off)

    @extend_schema(responses={204: None}, operation_id="discard_working_copy", parameters=TAGGED)
    def delete(self, request: Request, node: str) -> Response:
        """Give the working copy up, with its history."""
        working_copies.discard(self.place.row, self._begun(request), self.session.by)
        return Response(status=204)


class CopyChangesView(_CopyView):
    doors = {"get": OnCopy("see")}

    @extend_schema(responses=SincePublicShape, operation_id="working_copy_changes")
    def get(self, request: Request, node: str) -> Response:
        """What publishing the working copy would change for visitors, as far as whoever asks sees it."""
        row, copy = self.place.row, self._copy()
        page = self._page(copy)
        access = PageAccess(self.viewpoint, self.place.target.working_copy())
        now = {**version_data(page), "state": row.state}
        changes = history.changes(row.type, version_data(row), now, self.viewpoint.catalogue)
        return Response({"last_public": row.saved_at, "changes": told_changes(changes, row, access)})


class CopyHandInView(_CopyView):
    doors = {"post": OnCopy("edit")}
    locks = {"post": _HELD}

    @extend_schema(request=WordInput, responses=PageShape, operation_id="hand_in_working_copy", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Hand the working copy in for review, with a word if one likes; those who may publish it are told by mail."""
        word, copy = self._note(WordInput, request), self._begun(request, DRAFT)
        ask_for_required(self._page(copy), self.place.above, self.viewpoint, self.place.target.working_copy())
        tell_reviewers(self.place.row, self.session, word, of=COPY)
        return self._moved(copy, REVIEW, "handed-in", word)


class CopyTakeBackView(_CopyView):
    doors = {"post": OnCopy("edit")}
    locks = {"post": _HELD}

    @extend_schema(request=None, responses=PageShape, operation_id="take_back_working_copy", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Take a working copy back that was handed in."""
        return self._moved(self._begun(request, REVIEW), DRAFT, "taken-back")


class CopyReturnView(_CopyView):
    doors = {"post": OnCopy("publish")}
    locks = {"post": _HELD}

    @extend_schema(request=NoteInput, responses=PageShape, operation_id="return_working_copy", parameters=TAGGED)
    def post(self, request: Request, node: str) -> Response:
        """Give a working copy back that was handed in, with a note; whoever wrote it is told by mail."""
        note, copy = self._note(NoteInput, request), self._begun(request, REVIEW)
        tell_about(copy.writer, self.place.row, "returned", self.session, note, of=COPY)
        return self._moved(copy, DRAFT, "returned", note)


class CopyPublishView(_CopyView):
    doors = {"post": OnCopy("publish")}
    locks = {"post": (POLICY.shared, NODES)}

    @extend_schema(
        request=PublishCopyInput, responses=PageShape, operation_id="publish_working_copy", parameters=TAGGED
    )
    def post(self, request: Request, node: str) -> Response:
        """Let the page be what its working copy is. Where the page changed meanwhile, both are told first."""
        given = PublishCopyInput(data=request.data)
        given.is_valid(raise_exception=True)
        row, target, copy = self.place.row, self.place.target, self._begun(request)
        page = self._page(copy)
        ask_for_required(page, self.place.above, self.viewpoint, target.working_copy())
        if page.topics != row.topics:
            ask(self.viewpoint, "publish", target.with_topics(frozenset(page.topics)))
        if row.version not in (copy.base, given.validated_data.get("over")):
            raise PublicChanged(row, self._since(copy))
        writer, waited = copy.writer, copy.state == REVIEW
        working_copies.publish(row, copy, self.session.by)
        if waited:
            tell_about(writer, row, "published", self.session, of=COPY)
        return Response(page_data(self.viewpoint, row, self.place.above), headers={"ETag": etag(row.version)})

    def _since(self, copy: WorkingCopy) -> list[dict[str, Any]]:
        """What was changed on the public page since the copy was begun."""
        row = self.place.row
        access = PageAccess(self.viewpoint, self.place.target)
        was = row.versions.filter(number__lte=copy.base).first()
        if was is None:
            return []
        changes = history.changes(row.type, was.data, version_data(row), self.viewpoint.catalogue)
        return told_changes(changes, row, access)
