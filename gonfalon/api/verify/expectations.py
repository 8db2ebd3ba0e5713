"""Verify: what should hold, how it stands, what broke it; recorded and dropped one by one."""

from collections.abc import Mapping
from time import perf_counter

from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.guard import IN_EARNEST, GuardedView, May, may
from gonfalon.api.ledger.views import EntryShape, told_at
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.api.verify.expectation_data import ExpectationShape, Row, expectations_data
from gonfalon.api.verify.expectation_input import ExpectationInput
from gonfalon.core.checks.expectations import prove
from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.writing import Words
from gonfalon.ledger.models import record
from gonfalon.verify.broke import what_broke
from gonfalon.verify.expectation_cache import how_they_stand
from gonfalon.verify.expectation_file import change_of, group_named, key_of, sweep_groups
from gonfalon.verify.expectations import as_asked, as_said
from gonfalon.verify.lexicon import told
from gonfalon.verify.models import Expectation
from gonfalon.work import NODES, POLICY

READING = May("expectations.keep")


class BrokeShape(serializers.Serializer):
    """The change that broke an expectation: when, and what the ledger tells of it to whoever may read that."""

    at = serializers.DateTimeField(allow_null=True, help_text="Null where it was no change of access that is known.")
    entries = EntryShape(many=True)


KEPT_THOUGH_REHEARSED = OpenApiParameter(
    IN_EARNEST, str, OpenApiParameter.HEADER, description="With it, what is done while one rehearses is kept."
)


class ExpectationsView(GuardedView):
    doors = {
        "get": READING,
        "post": May("expectations.keep", as_actor=True, while_looking=True),
    }
    locks = {"post": (POLICY, NODES.shared)}
    kept_if_asked = frozenset({"post"})

    @extend_schema(
        responses=ExpectationShape(many=True),
        operation_id="expectations",
        parameters=[
            *PAGED,
            OpenApiParameter("breaks", bool, description="Those alone that break."),
            OpenApiParameter("group", str, description="Those alone of a group."),
            OpenApiParameter("words", str, description="Those alone whose sentence or note holds these words."),
            OpenApiParameter("anew", bool, description="Ask all of them anew, whatever was asked before."),
        ],
    )
    def get(self, request: Request) -> Response:
        """How they stand, those that break first; `Server-Timing` says what asking took. A fixed number of queries."""
        asked = request.query_params
        began = perf_counter()
        proved = how_they_stand(self.viewpoint, anew=_is_on(asked.get("anew")))
        took = (perf_counter() - began) * 1000
        lexicon = told(self.viewpoint)
        rows = sorted(zip(proved.rows, proved.results, strict=True), key=lambda row: row[1].holds)
        answer = paged(request, [row for row in rows if _wanted(row, asked, lexicon)])
        answer.data = expectations_data(answer.data, self.viewpoint, lexicon)
        answer.headers["Server-Timing"] = f"ask;dur={took:.1f}"
        return answer

    @extend_schema(
        request=ExpectationInput,
        responses={200: ExpectationShape, 201: ExpectationShape},
        operation_id="record_expectation",
        parameters=[KEPT_THOUGH_REHEARSED],
    )
    def post(self, request: Request) -> Response:
        """Record an expectation, of whoever signed in; from within a rehearsal it is kept where that is asked for.

        What is expected already is answered as it stands, with 200, and nothing is recorded.
        """
        reader = self.session.actors_viewpoint
        given = ExpectationInput(data=request.data, context={"viewpoint": reader})
        given.is_valid(raise_exception=True)
        data = given.validated_data
        actor, every = self.session.actor, list(Expectation.objects.all())
        row = Expectation(
            question=data["question"],
            expect=data["expect"],
            reason=data["reason"],
            note=data["note"],
            group=group_named(data["group"]),
            place=len(every) + 1,
            recorded_by=actor.id if actor else None,
        )
        same = next((one for one in every if key_of(as_said(one)) == key_of(as_said(row))), None)
        [result] = prove(self.viewpoint.engine, [as_asked(same or row)], self.viewpoint.at)
        [said] = expectations_data([(same or row, result)], reader, told(reader))
        if same is not None:
            sweep_groups()
            return Response(said)
        row.save()
        record(
            self.session.by,
            "expectation.recorded",
            words=f"Expect: {said['sentence'].removesuffix('.')}",
            about=("expectation", row.id),
            changes=[change_of(row, said["sentence"], None, "expected")],
        )
        return Response(said, status=201)


class ExpectationView(GuardedView):
    doors = {"delete": May("expectations.keep")}
    locks = {"delete": (POLICY, NODES.shared)}

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="drop_expectation")
    def delete(self, request: Request, expectation: str) -> Response:
        row = _row(expectation)
        words = _words(row, told(self.viewpoint))
        record(
            self.session.by,
            "expectation.dropped",
            words=f"No longer expected: {words.removesuffix('.')}",
            about=("expectation", row.id),
            changes=[change_of(row, words, "expected", "no longer")],
        )
        row.delete()
        sweep_groups()
        return Response(status=204)


class BrokeView(GuardedView):
    doors = {"get": READING}

    @extend_schema(responses=BrokeShape, operation_id="what_broke")
    def get(self, request: Request, expectation: str) -> Response:
        """The last change before which it held: the policy is taken back for two changes in every power of two."""
        row, viewpoint = _row(expectation), self.viewpoint
        at = what_broke(row, viewpoint)
        entries = told_at(at, viewpoint) if at is not None and may(viewpoint, "ledger.read") else []
        return Response({"at": at, "entries": entries})


def _row(id: str) -> Expectation:
    row = Expectation.objects.filter(pk=id).first()
    if row is None:
        raise NotFound("expectation")
    return row


def _is_on(said: str | None) -> bool:
    """Whether a flag of a query is set."""
    return said is not None and said.casefold() not in ("", "0", "no", "false")


def _words(row: Expectation, lexicon: Lexicon) -> str:
    return Words(lexicon).expectation(as_said(row))


def _wanted(row: Row, asked: Mapping[str, str], lexicon: Lexicon) -> bool:
    expectation, result = row
    if _is_on(asked.get("breaks")) and result.holds:
        return False
    if (group := asked.get("group")) and expectation.group_id != group:
        return False
    words = asked.get("words", "").casefold()
    return not words or words in f"{_words(expectation, lexicon)} {expectation.note}".casefold()
