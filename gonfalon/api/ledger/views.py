"""Reading the ledger."""

from collections.abc import Iterable, Iterator, Sequence
from datetime import datetime
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
from gonfalon.content.removed import standing_of
from gonfalon.content.working_copies import OF_A_COPY
from gonfalon.core import Question
from gonfalon.core.model.tree import Target, profile
from gonfalon.core.model.vocabulary import PROFILE
from gonfalon.ledger.models import Change, Entry
from gonfalon.ledger.sentences import WHAT
from gonfalon.verify.ledger_words import changes_of_entries, sentences
from gonfalon.viewpoint.viewpoint import Viewpoint

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
    actor_id = serializers.CharField(allow_null=True, help_text="The account, where one knows of it.")
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
        """A fixed number of queries a page, however much its entries changed; more where a search finds much that is
        out of sight."""
        entries = Entry.objects.all()
        if before := whole(request, "before", 0):
            entries = entries.filter(number__lt=before)
        if search := request.query_params.get("search"):
            entries = entries.filter(summary__icontains=search)
        if kind := request.query_params.get("kind"):
            entries = entries.filter(kind__startswith=kind)
        page = list(islice(_found(entries, search, self.viewpoint), PAGE + 1))
        names = names_of({id for e, _ in page for id in (e.actor, e.standing_for) if id})
        return Response(
            {
                "entries": [_entry(e, seen, names, self.viewpoint) for e, seen in page[:PAGE]],
                "before": page[PAGE - 1][0].number if len(page) > PAGE else None,
            }
        )


def told_at(at: datetime, viewpoint: Viewpoint) -> list[dict[str, Any]]:
    """What happened at a moment, as `EntryShape` has it, as far as it is seen."""
    found = list(islice(_found(Entry.objects.filter(at=at), None, viewpoint), PAGE))
    names = names_of({id for e, _ in found for id in (e.actor, e.standing_for) if id})
    return [_entry(e, seen, names, viewpoint) for e, seen in found]


def _found(entries: QuerySet[Entry], search: str | None, viewpoint: Viewpoint) -> Iterator[tuple[Entry, "_Seen"]]:
    """Entries in their order, as far as they are seen.

    What is out of sight is not found by its words: a hit, or a further page, would tell.
    """
    more = True
    while more:
        batch = list(entries[: PAGE + 1])
        targets, changes = _targets(batch, viewpoint), changes_of_entries(batch, viewpoint.catalogue)
        told = sentences(batch, viewpoint)
        for entry in batch:
            whole = _Seen(told[entry.number], entry.about_id, changes[entry.number])
            seen = _as_far_as_seen(entry, whole, targets.get(entry.about_id), viewpoint)
            if not search or seen.summary == entry.summary or search.casefold() in seen.summary.casefold():
                yield entry, seen
        if more := len(batch) > PAGE:
            entries = entries.filter(number__lt=batch[-1].number)


def _entry(entry: Entry, seen: "_Seen", names: dict[str, str], viewpoint: Viewpoint) -> dict[str, Any]:
    return {
        "number": entry.number,
        "at": entry.at,
        "actor": names.get(entry.actor or "", entry.actor),
        "actor_id": entry.actor if entry.actor in viewpoint.sight.people and entry.actor in names else None,
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


def _targets(entries: Iterable[Entry], viewpoint: Viewpoint) -> dict[str, Target]:
    """The nodes that entries are about, where they stand or, from the bin, as if they stood where they stood.

    Those that are emptied for good are not among them. No query unless some do not stand in a tree.
    """
    about = {entry.about_id for entry in entries if entry.about_kind == "node"}
    if not about:
        return {}
    tree = viewpoint.nodes.tree
    gone = [id for id in about if id not in tree]
    return {id: tree.target(id) for id in about if id in tree} | (standing_of(gone) if gone else {})


def _as_far_as_seen(entry: Entry, whole: "_Seen", target: Target | None, viewpoint: Viewpoint) -> _Seen:
    """Nothing of a node out of sight, no value of a field closed to the reader or gone, no node that it names."""
    told = [c for c in whole.changes if all(id in viewpoint.sight.nodes for id in c.get("nodes", ()))]
    if entry.about_kind == "account":
        told = [c for c in told if _sees_of_profile(entry, c, viewpoint)]
        return _Seen(whole.summary, entry.about_id, told)
    if entry.about_kind != "node":
        everything = len(told) == len(whole.changes)
        return _Seen(whole.summary if everything else OUT_OF_SIGHT, entry.about_id, told)
    if target is None:  # what is emptied for good stands nowhere: nobody but a keyholder could be asked about it
        return _Seen(whole.summary, "", whole.changes) if viewpoint.keyholder else _Seen(OUT_OF_SIGHT, "", [])

    def may(action: str, field: str | None = None) -> bool:
        return decide(
            viewpoint, Question(viewpoint.subject, action, target, viewpoint.at, field=field), trail=False
        ).allow

    if not may("see"):
        return _Seen(OUT_OF_SIGHT, "", [])
    if entry.kind in OF_A_COPY:
        target = target.working_copy()
        if not may("see"):
            return _Seen(OUT_OF_SIGHT, "", [])
    kind = viewpoint.snapshot.policy.types.get(target.type)
    fields = kind.fields if kind else ()  # what was said of who sees a retired field does not count any more
    told = [c for c in told if "field" not in c or (c["field"] in fields and may("see-field", c["field"]))]
    return _Seen(whole.summary, entry.about_id, [c for c in told if "needs" not in c or may(c["needs"])])


def _sees_of_profile(entry: Entry, change: Change, viewpoint: Viewpoint) -> bool:
    """Whether a reader may know of a change of an account: of a field of its profile as the rules have it (§5).

    Entries from before fields were kept by their keys tell no more than what every account has.
    """
    if "field" not in change:
        return viewpoint.keyholder or change["what"] in _OF_EVERY_ACCOUNT
    own = profile(entry.about_id)
    question = Question(viewpoint.subject, "see-field", own, viewpoint.at, field=change["field"])
    there = change["field"] in {field.key for field in viewpoint.catalogue.type(PROFILE).fields}
    return there and decide(viewpoint, question, trail=False).allow


_OF_EVERY_ACCOUNT = frozenset(WHAT[key] for key in ("name", "email", "address", "language"))
