"""The start of the desk: what waits for one, what came back, one's drafts, what ends soon, what happened of late."""

from collections.abc import Iterable, Sequence
from datetime import timedelta
from typing import Any

from django.db.models import Q, QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.roles import start_parts
from gonfalon.access.sight import HIDDEN_PERSON
from gonfalon.accounts.names import names_of
from gonfalon.api.assign.requests import RequestShape, told_requests
from gonfalon.api.desk.waiting import Waits, sees_copy, waiting
from gonfalon.api.guard import GuardedView, May, may
from gonfalon.api.shapes import RoleTagShape, role_tags
from gonfalon.content.history import BECAME
from gonfalon.content.models import Node, WorkingCopy
from gonfalon.content.working_copies import PUBLISHED
from gonfalon.core.model.policy import Assignment
from gonfalon.ledger.models import Entry
from gonfalon.verify.models import AccessRequest
from gonfalon.viewpoint.viewpoint import Viewpoint

SHOWN = 12
LEFT_OFF = 6
LATE = 6
LOOKED_AT = 50
AROUND = 200
"""How many of one's pages, and of the last entries of the ledger, are looked at for what happened around them."""
SOON = LATELY = timedelta(days=30)
DONE = (*BECAME, "moved", "brought-back", PUBLISHED.removeprefix("page."))
KINDS = [f"page.{did}" for did in DONE]


class StartPageShape(serializers.Serializer):
    id = serializers.CharField()
    title = serializers.CharField()
    type = serializers.CharField()
    state = serializers.CharField()
    working = serializers.BooleanField(help_text="Whether it is the working copy of the page.")
    note = serializers.CharField(allow_blank=True)
    saved_at = serializers.DateTimeField()
    saved_by = serializers.CharField(allow_null=True)


class EndsSoonShape(serializers.Serializer):
    role = RoleTagShape()
    ends = serializers.DateTimeField()


class OfLateShape(serializers.Serializer):
    """What was done last with a page."""

    id = serializers.CharField()
    title = serializers.CharField()
    type = serializers.CharField()
    who = serializers.CharField(allow_null=True)
    did = serializers.ChoiceField(choices=DONE)
    at = serializers.DateTimeField()


class StartShape(serializers.Serializer):
    parts = serializers.ListField(child=serializers.CharField(), help_text="What is shown, in this order.")
    waits = StartPageShape(many=True, help_text="Pages handed in that one may publish.")
    came_back = StartPageShape(many=True)
    drafts = StartPageShape(many=True)
    left_off = StartPageShape(many=True)
    ends_soon = EndsSoonShape(many=True)
    of_late = OfLateShape(many=True, help_text="Done by others with pages of one's own, or beside one of these.")
    asked_of_me = RequestShape(many=True, help_text="Requests that wait, for whoever gives roles.")
    asked = RequestShape(many=True, help_text="What one asked for oneself, with what came of it.")


class StartView(GuardedView):
    doors = {"get": May("desk.open")}

    @extend_schema(responses=StartShape, operation_id="start")
    def get(self, request: Request) -> Response:
        viewpoint = self.viewpoint
        held = viewpoint.snapshot.engine.grants.of(viewpoint.subject, viewpoint.at).sources
        me = viewpoint.account
        drafts = _latest(
            _seen(viewpoint, _rows().filter(author=me, state=Node.State.DRAFT).order_by("-saved_at")),
            _own_copies(viewpoint),
        )
        mine = _mine(viewpoint)
        waits = waiting(viewpoint)[:SHOWN]
        lists: dict[str, Sequence[Node | WorkingCopy]] = {
            "waits": _waiting(waits),
            "came_back": [row for row in drafts if row.note],
            "drafts": [row for row in drafts if not row.note],
            "left_off": [row for row in mine if row.saved_by_id == me and not _own_draft(row)][:LEFT_OFF],
        }
        late = _of_late(viewpoint, mine)
        names = names_of(
            {row.saved_by_id for rows in lists.values() for row in rows if row.saved_by_id}
            | {who for _, entry in late if (who := _whose(entry))}
        )
        requests = AccessRequest.objects.all()
        to_answer = requests.filter(state=AccessRequest.State.OPEN)[:SHOWN] if may(viewpoint, "roles.assign") else ()
        return Response(
            {
                "parts": start_parts(source.role for source in held if source.role),
                **{part: [_data(row, names) for row in rows] for part, rows in lists.items()},
                "ends_soon": _ending(viewpoint),
                "of_late": [_late_data(viewpoint, id, entry, names) for id, entry in late],
                "asked_of_me": told_requests(list(to_answer), viewpoint),
                "asked": told_requests(
                    list(requests.filter(account=me, asked_at__gte=viewpoint.at - LATELY)[:SHOWN]), viewpoint
                ),
            }
        )


def _rows() -> QuerySet[Node]:
    """Pages without what they say."""
    return Node.objects.defer("values", "components", "listing", "topics")


def _seen(viewpoint: Viewpoint, rows: QuerySet[Node]) -> list[Node]:
    """The first few of them that are in sight."""
    return [row for row in rows[:LOOKED_AT] if _in_sight(viewpoint, row.id)][:SHOWN]


def _mine(viewpoint: Viewpoint) -> list[Node]:
    """What one wrote or saved last and sees, the latest first."""
    rows = _rows().filter(Q(author=viewpoint.account) | Q(saved_by=viewpoint.account)).order_by("-saved_at")
    return [row for row in rows[:AROUND] if _in_sight(viewpoint, row.id)]


def _own_copies(viewpoint: Viewpoint) -> list[WorkingCopy]:
    """The working copies that one changed last and nobody looks through, of what is in sight. One query."""
    copies = _copies().filter(writer=viewpoint.account, state=WorkingCopy.State.DRAFT).order_by("-saved_at")
    seen = (copy for copy in copies[:LOOKED_AT] if _in_sight(viewpoint, copy.node_id))
    return [copy for copy in seen if sees_copy(viewpoint, copy.node_id)][:SHOWN]


def _copies() -> QuerySet[WorkingCopy]:
    """Working copies of what is public, without what they say."""
    kept = WorkingCopy.objects.filter(node__state=Node.State.PUBLISHED).defer("values", "components", "topics")
    return kept.select_related("node").defer("node__values", "node__components", "node__listing", "node__topics")


def _waiting(waits: list[Waits]) -> list[Node | WorkingCopy]:
    pages = _rows().in_bulk([one.id for one in waits if not one.working])
    copies = _copies().in_bulk([one.id for one in waits if one.working])
    found = [copies.get(one.id) if one.working else pages.get(one.id) for one in waits]
    return [row for row in found if row is not None]


def _latest(pages: Iterable[Node], copies: Iterable[WorkingCopy]) -> list[Node | WorkingCopy]:
    """Both together, what was saved last before the others."""
    both: list[Node | WorkingCopy] = [*pages, *copies]
    return sorted(both, key=lambda row: row.saved_at, reverse=True)[:SHOWN]


def _in_sight(viewpoint: Viewpoint, id: str) -> bool:
    tree = viewpoint.nodes.tree
    return id in tree and bool(viewpoint.on_desk.whole[tree.index[id]])


def _own_draft(row: Node) -> bool:
    return row.state == Node.State.DRAFT and row.author_id == row.saved_by_id


def _ending(viewpoint: Viewpoint) -> list[dict[str, Any]]:
    """What is given to whoever asks, and ends soon."""
    if viewpoint.account is None:
        return []
    policy = viewpoint.snapshot.policy
    mine = viewpoint.snapshot.engine.grants.of(viewpoint.subject, viewpoint.at).subjects
    ending: list[Assignment] = [
        given
        for given in policy.assignments.values()
        if given.to in mine
        and given.period.ends is not None
        and given.period.active(viewpoint.at)
        and given.period.ends - viewpoint.at <= SOON
    ]
    tags = role_tags(given.role for given in ending)
    rows = [{"role": tags[given.role], "ends": given.period.ends} for given in ending]
    return sorted(rows, key=lambda row: row["ends"])


def _of_late(viewpoint: Viewpoint, mine: Iterable[Node]) -> list[tuple[str, Entry]]:
    """The last that others did with each page that is one's own or stands beside such a one. One query."""
    tree = viewpoint.nodes.tree
    around = {tree.nodes[tree.index[row.id]].parent for row in mine}
    done: dict[str, Entry] = {}
    for entry in Entry.objects.filter(at__gte=viewpoint.at - LATELY, kind__in=KINDS)[:AROUND]:
        id = entry.about_id
        if _in_sight(viewpoint, id) and tree.nodes[tree.index[id]].parent in around:
            done.setdefault(id, entry)
    return [(id, entry) for id, entry in done.items() if _whose(entry) != viewpoint.account][:LATE]


def _whose(entry: Entry) -> str | None:
    """Whose work it is; as with who saved a page, that somebody stood in for them is not told."""
    return entry.standing_for or entry.actor


def _late_data(viewpoint: Viewpoint, id: str, entry: Entry, names: dict[str, str]) -> dict[str, Any]:
    tree = viewpoint.nodes.tree
    return {
        "id": id,
        "title": viewpoint.nodes.titles[id],
        "type": tree.nodes[tree.index[id]].type,
        "who": names.get(_whose(entry) or ""),
        "did": entry.kind.removeprefix("page."),
        "at": entry.at,
    }


def _data(row: Node | WorkingCopy, names: dict[str, str]) -> dict[str, Any]:
    page = row.node if isinstance(row, WorkingCopy) else row
    return {
        "id": page.id,
        "title": row.title,
        "type": page.type,
        "state": row.state,
        "working": isinstance(row, WorkingCopy),
        "note": row.note,
        "saved_at": row.saved_at,
        "saved_by": names.get(row.saved_by_id or "", HIDDEN_PERSON) if row.saved_by_id else None,
    }
