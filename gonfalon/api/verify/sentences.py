"""What sentences ask, expect or would change, line by line, or where they stop making sense."""

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.changes.change_set import has_duties
from gonfalon.api.guard import GuardedView, May, decide
from gonfalon.api.verify.expectation_data import AgainstShape, PartShape, against_data, may_count, parts_data
from gonfalon.core.checks.expectations import prove
from gonfalon.core.document.requests import faults_in, read_question
from gonfalon.core.model.policy import Expectation
from gonfalon.core.sentences.changes import read_change
from gonfalon.core.sentences.questions import read_asked, read_expectation
from gonfalon.core.sentences.scanner import Unclear
from gonfalon.core.sentences.writing import parts_of, write_asked
from gonfalon.inputs import Input
from gonfalon.verify.expectation_file import MOST_ANSWERS, answers, too_much
from gonfalon.verify.lexicon import lexicon_of
from gonfalon.verify.said import is_so, operation_of
from gonfalon.viewpoint.viewpoint import Viewpoint

LONGEST_TEXT, MOST_LINES = 20_000, 60
LATER = "This is asked once it is kept: the lines before it ask so much."


class SentencesInput(Input):
    text = serializers.CharField(max_length=LONGEST_TEXT, trim_whitespace=False, allow_blank=True)

    def validate_text(self, text: str) -> str:
        if text.count("\n") >= MOST_LINES:
            raise serializers.ValidationError(f"At most {MOST_LINES} lines are read at once.")
        return text


class OfferShape(serializers.Serializer):
    """What could stand from `at` to `end` of a line."""

    text = serializers.CharField()
    what = serializers.CharField()
    at = serializers.IntegerField()
    end = serializers.IntegerField()


class SaidLineShape(serializers.Serializer):
    """What a line says; `so`: whether what is expected holds, the answer to a question, or that a change is made."""

    kind = serializers.ChoiceField(choices=["nothing", "heading", "expectation", "question", "change", "unclear"])
    parts = PartShape(many=True)
    question = serializers.DictField(allow_null=True)
    so = serializers.BooleanField(allow_null=True)
    asked = serializers.IntegerField(allow_null=True)
    against = AgainstShape(allow_null=True)
    reason = serializers.CharField(allow_null=True)
    operations = serializers.ListField(child=serializers.DictField())
    at = serializers.IntegerField(allow_null=True)
    length = serializers.IntegerField(allow_null=True)
    message = serializers.CharField(allow_null=True)
    offers = OfferShape(many=True)


NOTHING: dict[str, Any] = {
    "parts": [], "question": None, "so": None, "asked": None, "against": None, "reason": None, "operations": [],
    "at": None, "length": None, "message": None, "offers": [],
}  # fmt: skip


class SentencesView(GuardedView):
    doors = {"post": May("expectations.keep", while_looking=True)}
    reads = frozenset({"post"})

    @extend_schema(request=SentencesInput, responses=SaidLineShape(many=True), operation_id="sentences")
    def post(self, request: Request) -> Response:
        """What each line says, by the names that one may know. Nothing is staged or written; five queries."""
        given = SentencesInput(data=request.data)
        given.is_valid(raise_exception=True)
        reader = LineReader(self.viewpoint)
        return Response([NOTHING | reader.said(line) for line in given.validated_data["text"].split("\n")])


class LineReader:
    """Reads the lines of one request: all together they ask no more than one expectation may."""

    def __init__(self, viewpoint: Viewpoint) -> None:
        self.viewpoint, self.lexicon = viewpoint, lexicon_of(viewpoint)
        self._left = MOST_ANSWERS

    def said(self, line: str) -> dict[str, Any]:
        """What a line says, as `SaidLineShape` has it, but for what is `NOTHING`."""
        text = line.strip()
        if not text or text.startswith("#"):
            return {"kind": "nothing"}
        if text.endswith(":"):
            return {"kind": "heading"}
        try:
            return self._question(line) if text.endswith("?") else self._expectation(line)
        except Unclear as unclear:
            return self._change(line, unclear)

    def _question(self, line: str) -> dict[str, Any]:
        question = read_asked(line, self.lexicon)
        self._require_askable(question)
        here = self.viewpoint
        answer = decide(here, read_question(question, here.snapshot.policy, here.nodes.tree), trail=False)
        return {
            "kind": "question",
            "parts": [{"text": write_asked(question, self.lexicon), "sort": ""}],
            "question": question,
            "so": answer.allow,
            "reason": str(answer.reason),
        }

    def _expectation(self, line: str) -> dict[str, Any]:
        expected, _ = read_expectation(line, self.lexicon)
        question, expect, reason = expected
        self._require_askable(question)
        parts = parts_data(parts_of(expected, self.lexicon))
        said = {"kind": "expectation", "parts": parts, "question": {**question, "expect": expect}}
        self._left -= answers(question, self.viewpoint)
        if self._left < 0:
            return {**said, "message": LATER}
        here = self.viewpoint
        [result] = prove(here.engine, [Expectation("", question, expect, reason)], here.at)  # type: ignore[arg-type]
        return {
            **said,
            "so": result.holds,
            "asked": result.asked if may_count(question, here) else None,
            "against": against_data(result, here.sight, self.lexicon),
        }

    def _change(self, line: str, unclear: Unclear) -> dict[str, Any]:
        """A change, or else what makes no sense: of the two readings the one that came further."""
        try:
            change = read_change(line, self.lexicon)
        except Unclear as otherwise:
            further = otherwise if otherwise.at > unclear.at else unclear
            return {
                "kind": "unclear",
                "at": further.at,
                "length": further.length,
                "message": further.message,
                "offers": [offer._asdict() for offer in further.offers],
            }
        policy = self.viewpoint.snapshot.policy
        operation = operation_of(change, policy)
        if not has_duties(self.viewpoint, [operation]):
            return {"kind": "change", "message": "Whether it is so is told to whoever may say it."}
        so = is_so(change, policy)
        return {"kind": "change", "so": so, "operations": [] if so else [operation]}

    def _require_askable(self, question: dict[str, Any]) -> None:
        here = self.viewpoint
        faults = faults_in(question, here.snapshot.policy, here.nodes.tree)
        message = faults[0].message if faults else too_much(question, here)
        if message:
            raise Unclear(0, 0, f"This cannot be asked: {message}.")
