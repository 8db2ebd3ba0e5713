"""Bringing in files, and putting another file in the place of one: its address and what uses it stay."""

from typing import Any, ClassVar

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.desk.page_data import PageAccess, PageShape
from gonfalon.api.desk.places import TOO_DEEP, answer, changed_meanwhile, fitting, seen_node
from gonfalon.api.etag import ETAG, TAGGED, etag, expected_version
from gonfalon.api.guard import GuardedView, On, Within, ask
from gonfalon.api.problems import Invalid, NotFound
from gonfalon.content import branches
from gonfalon.content.media.files import attach
from gonfalon.content.media.incoming import LARGEST_FILE, Incoming, NotKept, read_incoming
from gonfalon.content.nodes import ancestors, as_target
from gonfalon.inputs import Input
from gonfalon.ledger.models import record
from gonfalon.work import NODES, POLICY

ROOM = 10_000
"""Bytes that are sent around a file."""


class FileInput(Input):
    file = serializers.FileField()


class BringInInput(FileInput):
    folder = serializers.CharField()
    alt = serializers.CharField(
        required=False, allow_blank=True, max_length=500, help_text="A picture in words, for who does not see it."
    )


class _TakesFile(GuardedView):
    """Reads the file before anything is held."""

    parser_classes: ClassVar[list[Any]] = [MultiPartParser]
    largest_body = LARGEST_FILE + ROOM
    prepares = True
    incoming: Incoming | None = None

    def prepare(self, sent: Any) -> None:
        file = sent.get("file")
        if not hasattr(file, "chunks"):
            return  # the input says so
        try:
            self.incoming = read_incoming(file.name or "", file.read())
        except NotKept as told:
            raise Invalid({"/file": str(told)}) from None
        finally:
            file.seek(0)

    def _came_in(self) -> Incoming:
        if self.incoming is None:
            raise Invalid({"/file": "Send a file."})
        return self.incoming


class MediaView(_TakesFile):
    doors = {"post": Within("media.open")}
    locks = {"post": (POLICY.shared, NODES)}

    @extend_schema(
        request={"multipart/form-data": BringInInput},
        responses={201: PageShape},
        operation_id="bring_in",
        parameters=[ETAG],
    )
    def post(self, request: Request) -> Response:
        """A new picture or document in a folder, as a draft, called as its file is."""
        given = BringInInput(data=request.data)
        given.is_valid(raise_exception=True)
        said, incoming = given.validated_data, self._came_in()
        folder = seen_node(self.viewpoint, said["folder"], "/folder")
        above = as_target(folder, ancestors(folder))
        kind = next((one for one in fitting(self.viewpoint, above) if one.key == incoming.kind), None)
        if kind is None or kind.retired:
            raise Invalid({"/folder": f"A {incoming.kind} cannot stand there."})
        target = above.child(kind.key)
        ask(self.viewpoint, "create", target)
        words = said.get("alt", "").strip()
        values = {"alt": words} if words and kind.key == "picture" else {}
        access = PageAccess(self.viewpoint, target)
        for key in values:
            ask(access.viewpoint, "fill-field", target, field=key)
        try:
            row = branches.make(folder, kind.key, incoming.title, self.session.by, values=values)
        except branches.TooDeep:
            raise Invalid({"/folder": TOO_DEEP}) from None
        if row is None:
            raise NotFound
        attach(row, incoming)
        return answer(self.viewpoint, row, status=201)


class ReplaceView(_TakesFile):
    doors = {"post": On("edit", desk=True)}
    locks = {"post": (POLICY.shared, NODES)}

    @extend_schema(
        request={"multipart/form-data": FileInput}, responses=PageShape, operation_id="replace_file", parameters=TAGGED
    )
    def post(self, request: Request, node: str) -> Response:
        """Another file in the place of the one that a picture or document has."""
        given = FileInput(data=request.data)
        given.is_valid(raise_exception=True)
        row, incoming = self.place.row, self._came_in()
        if expected_version(request) != etag(row.version):
            raise changed_meanwhile(self.viewpoint, self.place)
        if row.type != incoming.kind:
            kind = self.viewpoint.catalogue.type(row.type)
            raise Invalid({"/file": f"This is a {incoming.kind}, and {row.title} is of the kind {kind.name}."})
        row.version += 1
        row.save(update_fields=["version"])
        attach(row, incoming)
        record(self.session.by, "page.file", about=("node", row.id), title=row.title)
        return answer(self.viewpoint, row)
