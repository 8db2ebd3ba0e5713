"""The outbox: what was sent to whom, what waits and why. What is in a letter is nobody else's business."""

from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.guard import GuardedView, May
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import Conflict, Invalid, NotFound
from gonfalon.ledger.models import record
from gonfalon.mail.models import Letter
from gonfalon.mail.outbox import send_again
from gonfalon.work import POLICY, RowLock, locked

COLUMNS = ("id", "to", "subject", "state", "tries", "trouble", "written_at", "next_at", "sent_at")
MOST = 2_000


class LetterRowShape(serializers.Serializer):
    id = serializers.CharField()
    to = serializers.CharField()
    subject = serializers.CharField()
    state = serializers.ChoiceField(choices=Letter.State.choices)
    tries = serializers.IntegerField()
    trouble = serializers.CharField(help_text="Why the last try failed.")
    written_at = serializers.DateTimeField()
    next_at = serializers.DateTimeField(help_text="When one that waits is tried next.")
    sent_at = serializers.DateTimeField(allow_null=True)


class LettersView(GuardedView):
    doors = {"get": May("roster.see")}

    @extend_schema(
        responses=LetterRowShape(many=True),
        operation_id="letters",
        parameters=[OpenApiParameter("state", str, enum=Letter.State.values), *PAGED],
    )
    def get(self, request: Request) -> Response:
        """The newest letters first, two thousand at most. One query."""
        rows = Letter.objects.all()
        if state := request.query_params.get("state"):
            if state not in Letter.State.values:
                raise Invalid({"/state": f"Say one of: {', '.join(Letter.State.values)}."})
            rows = rows.filter(state=state)
        return paged(request, list(rows.values(*COLUMNS)[:MOST]))


class LetterAgainView(GuardedView):
    doors = {"post": May("accounts.invite")}
    locks = {"post": (POLICY.shared, RowLock("mail.Letter", "letter"))}

    @extend_schema(request=None, responses={204: OpenApiResponse()}, operation_id="send_again")
    def post(self, request: Request, letter: str) -> Response:
        """Try a letter again that was given up, or one that waits for its next try, at once."""
        row = locked(Letter.objects).filter(pk=letter).first()
        if row is None:
            raise NotFound("letter")
        if row.state not in (Letter.State.FAILED, Letter.State.WAITING):
            raise Conflict("Only a letter that was not sent can be tried again.")
        send_again(row)
        record(self.session.by, "letter.tried", about=("letter", row.id), subject=row.subject)
        return Response(status=204)
