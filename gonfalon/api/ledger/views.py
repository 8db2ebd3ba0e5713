"""Reading the ledger."""

from collections.abc import Iterator, Sequence
from itertools import islice
from typing import Any, NamedTuple

from django.db.models import QuerySet
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.accounts.names import names_of
from gonfalon.api.guard import GuardedView, May, decide
from gonfalon.api.paging import whole
from gonfalon.core import Question
from gonfalon.ledger.models import Change, Entry
from gonfalon.verify.presence import Presence

PAGE = 50
OUT_OF_SIGHT = "Something out of your sight was changed"


class ChangeShape(serializers.Serializer):
    what = serializers.CharField()
    was = serializers.JSONField(allow_null=True)
    now = serializers.JSONField(allow_null=True)


class EntryShape(serializers.Serializer):
    number = serializers.IntegerField()
    at = serializers.DateTimeField()
    actor = serializers.CharField(allow_null=True)
    standing_for = serializers.CharField(allow_null=True)
    kind = serializers.CharField()
    summary = serializers.CharField()
    about_kind = serializers.CharField()
    about_id = serializers.CharField()
    changes = ChangeShape(many=True)


class LedgerShape(serializers.Serializer):
    """A page of entries, newest first; `before` asks for the next one."""

    entries = EntryShape(many=True)
    before = serializers.IntegerField(allow_null=True)


class LedgerView(GuardedView):
    doors = {"get": May("ledger.read")}

    @extend_schema(
        operation_id="ledger",
        responses=LedgerShape,
        parameters=[
            OpenApiParameter("before", int),
            OpenApiParameter("search", str),
            OpenApiParameter("kind", str),
        ],
    )
    def get(self, request: Request) -> Response:
        """Two queries a page: the entries, and the names of the people in them; more where a search finds much
        that is out of sight."""
        entries = Entry.objects.all()
        if before := whole(request, "before", 0):
            entries = entries.filter(number__lt=before)
        if search := request.query_params.get("search"):
            entries = entries.filter(summary__icontains=search)
        if kind := request.query_params.get("kind"):
            entries = entries.filter(kind__startswith=kind)
        page = list(islice(_found(entries, search, self.presence), PAGE + 1))
        names = names_of({id for e in page for id in (e.actor, e.standing_for) if id})
        return Response(
            {
                "entries": [_entry(e, names, self.presence) for e in page[:PAGE]],
                "before": page[PAGE - 1].number if len(page) > PAGE else None,
            }
        )


def _found(entries: QuerySet[Entry], search: str | None, presence: Presence) -> Iterator[Entry]:
    """Entries in their order. What is out of sight is not found by its words: a hit, or a further page, would tell."""
    more = True
    while more:
        batch = list(entries[: PAGE + 1])
        yield from (e for e in batch if not search or _as_far_as_seen(e, presence).summary == e.summary)
        if more := len(batch) > PAGE:
            entries = entries.filter(number__lt=batch[-1].number)


def _entry(entry: Entry, names: dict[str, str], presence: Presence) -> dict[str, Any]:
    seen = _as_far_as_seen(entry, presence)
    return {
        "number": entry.number,
        "at": entry.at,
        "actor": names.get(entry.actor or "", entry.actor),
        "standing_for": names.get(entry.standing_for or "", entry.standing_for),
        "kind": entry.kind,
        "summary": seen.summary,
        "about_kind": entry.about_kind,
        "about_id": seen.about_id,
        "changes": [{key: change[key] for key in ("what", "was", "now")} for change in seen.changes],
    }


class _Seen(NamedTuple):
    """What a reader may know of an entry."""

    summary: str
    about_id: str
    changes: Sequence[Change]


def _as_far_as_seen(entry: Entry, presence: Presence) -> _Seen:
    """Nothing of a node out of sight, no value of a field closed to the reader."""
    if entry.about_kind != "node" or entry.about_id not in presence.nodes.tree:
        told = [c for c in entry.changes if all(id in presence.sight.nodes for id in c.get("nodes", ()))]
        whole = len(told) == len(entry.changes)
        return _Seen(entry.summary if whole else OUT_OF_SIGHT, entry.about_id, told)

    def may(action: str, field: str | None = None) -> bool:
        target = presence.nodes.tree.target(entry.about_id)
        return decide(presence, Question(presence.who, action, target, presence.at, field=field), trail=False).allow

    if not may("see"):
        return _Seen(OUT_OF_SIGHT, "", [])
    told = [c for c in entry.changes if "field" not in c or may("see-field", c["field"])]
    return _Seen(entry.summary, entry.about_id, [c for c in told if "needs" not in c or may(c["needs"])])
