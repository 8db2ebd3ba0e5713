"""Who stood in for oneself, and when: told to everybody of themselves."""

from collections.abc import Sequence
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.sight import HIDDEN_PERSON
from gonfalon.accounts.names import names_of
from gonfalon.api.guard import Arrived, GuardedView
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.session.own import own
from gonfalon.ledger.models import Entry

MOST = 200


class StoodInShape(serializers.Serializer):
    """Once that somebody stood in for one, to look only or to rehearse, of which nothing is kept."""

    by = serializers.CharField()
    at = serializers.DateTimeField()
    rehearsed = serializers.BooleanField(help_text="Whether they began by rehearsing.")
    staged = serializers.BooleanField(help_text="Whether with what they had staged.")


class StoodInView(GuardedView):
    doors = {"get": Arrived()}

    @extend_schema(responses=StoodInShape(many=True), operation_id="stood_in", parameters=PAGED)
    def get(self, request: Request) -> Response:
        """The last MOST times, the last one first. Two queries."""
        begun = Entry.objects.filter(kind="stand-in.begun", about_kind="account", about_id=own(self.session).id)
        return paged(request, list(begun[:MOST]), _rows)


def _rows(entries: Sequence[Entry]) -> list[dict[str, Any]]:
    names = names_of(entry.actor for entry in entries if entry.actor)
    return [
        {
            "by": names.get(entry.actor or "", HIDDEN_PERSON),
            "at": entry.at,
            "rehearsed": "rehearse" in (entry.data or {}).get("way", ""),
            "staged": "staged" in (entry.data or {}).get("way", ""),
        }
        for entry in entries
    ]
