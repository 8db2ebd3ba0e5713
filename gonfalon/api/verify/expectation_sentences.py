"""All expectations as one text, read and written as a whole."""

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request

from gonfalon.api.etag import TAGGED, expected_version
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.parsing import PlainText
from gonfalon.api.problems import ChangedMeanwhile, Problem
from gonfalon.core.sentences.files import Fault
from gonfalon.verify.expectation_file import ReadFile, version_of_file, written
from gonfalon.work import NODES, POLICY

MOST_TOLD = 100
_TEXT = {(200, "text/plain"): OpenApiTypes.STR}


class Unreadable(Problem):
    """Lines that make no sense, each with the word at which it stops making any."""

    def __init__(self, faults: list[Fault]) -> None:
        told = [
            {
                "pointer": f"/{fault.number}",
                "message": fault.unclear.message,
                "line": fault.number,
                "at": fault.unclear.at,
                "length": fault.unclear.length,
            }
            for fault in faults[:MOST_TOLD]
        ]
        detail = "; ".join(f"Line {fault.number}: {fault.unclear.message}" for fault in faults[:3])
        super().__init__(422, "invalid", "Some of this cannot be saved", detail, errors=told)


class ExpectationSentencesView(GuardedView):
    doors = {"get": May("expectations.keep"), "put": May("expectations.keep")}
    locks = {"put": (POLICY, NODES.shared)}
    parser_classes = [PlainText]

    @extend_schema(
        responses=_TEXT,
        operation_id="expectations_as_sentences",
        parameters=[
            OpenApiParameter("keys", bool, description="Every name with its key, for who knows keys alone."),
        ],
    )
    def get(self, request: Request) -> HttpResponse:
        """All that one may know of, a sentence a line; headings are groups. Nine queries, however many there are."""
        return self._text(keys=bool(request.query_params.get("keys")))

    @extend_schema(
        request={"text/plain": OpenApiTypes.STR},
        responses=_TEXT,
        operation_id="write_expectations",
        parameters=TAGGED,
    )
    def put(self, request: Request) -> HttpResponse:
        """Expect what the text says. Lines that stay keep their ids, and what is out of one's sight stays."""
        version = f'"{version_of_file()}"'
        if expected_version(request) != version:
            raise ChangedMeanwhile("Somebody else changed what is expected meanwhile.", written(self.viewpoint))
        text = request.data if isinstance(request.data, str) else ""  # an empty body is parsed by nothing
        read = ReadFile(text, self.viewpoint)
        if faults := read.faults:
            raise Unreadable(faults)
        read.keep(self.session.by)
        return self._text()

    def _text(self, *, keys: bool = False) -> HttpResponse:
        text = written(self.viewpoint, keys=keys)
        return HttpResponse(text, content_type="text/plain; charset=utf-8", headers={"ETag": f'"{version_of_file()}"'})
