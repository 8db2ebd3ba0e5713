"""The start of the desk: what waits for one, what came back, one's drafts, where one left off, what ends soon."""

from collections.abc import Iterable
from datetime import timedelta
from typing import Any

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.roles import start_parts
from gonfalon.access.sight import HIDDEN_PERSON
from gonfalon.accounts.names import names_of
from gonfalon.api.assign.requests import RequestShape, told_requests
from gonfalon.api.desk.waiting import waiting
from gonfalon.api.guard import GuardedView, May, may
from gonfalon.api.shapes import RoleTagShape, role_tags
from gonfalon.content.models import Node
from gonfalon.core.model.policy import Assignment, Subject
from gonfalon.verify.models import AccessRequest
from gonfalon.verify.presence import Presence

SHOWN = 12
LOOKED_AT = 50
SOON = timedelta(days=30)


class StartPageShape(serializers.Serializer):
    id = serializers.CharField()
    title = serializers.CharField()
    type = serializers.CharField()
    state = serializers.CharField()
    note = serializers.CharField(allow_blank=True)
    saved_at = serializers.DateTimeField()
    saved_by = serializers.CharField(allow_null=True)


class EndsSoonShape(serializers.Serializer):
    role = RoleTagShape()
    ends = serializers.DateTimeField()


class StartShape(serializers.Serializer):
    parts = serializers.ListField(child=serializers.CharField(), help_text="What is shown, in this order.")
    waits = StartPageShape(many=True, help_text="Pages handed in that one may publish.")
    came_back = StartPageShape(many=True)
    drafts = StartPageShape(many=True)
    left_off = StartPageShape(many=True)
    ends_soon = EndsSoonShape(many=True)
    asked_of_me = RequestShape(many=True, help_text="Requests that wait, for whoever gives roles.")
    asked = RequestShape(many=True, help_text="What one asked for oneself, with what came of it.")


class StartView(GuardedView):
    doors = {"get": May("desk.open")}

    @extend_schema(responses=StartShape, operation_id="start")
    def get(self, request: Request) -> Response:
        presence = self.presence
        held = presence.snapshot.engine.grants.of(presence.who, presence.at).sources
        mine = _seen(presence, Node.objects.filter(author=presence.who, state=Node.State.DRAFT).order_by("-saved_at"))
        saved = Node.objects.filter(saved_by=presence.who).exclude(state=Node.State.DRAFT, author=presence.who)
        lists = {
            "waits": _seen(presence, Node.objects.filter(pk__in=waiting(presence)[:SHOWN]).order_by("saved_at", "pk")),
            "came_back": [row for row in mine if row.note],
            "drafts": [row for row in mine if not row.note],
            "left_off": _seen(presence, saved.order_by("-saved_at")),
        }
        names = _names(presence, lists.values())
        requests = AccessRequest.objects.all()
        to_answer = requests.filter(state=AccessRequest.State.OPEN)[:SHOWN] if may(presence, "roles.assign") else ()
        return Response(
            {
                "parts": start_parts(source.role for source in held if source.role),
                **{part: [_data(row, names) for row in rows] for part, rows in lists.items()},
                "ends_soon": _ending(presence),
                "asked_of_me": told_requests(list(to_answer), presence),
                "asked": told_requests(
                    list(requests.filter(account=presence.who, asked_at__gte=presence.at - SOON)[:SHOWN]), presence
                ),
            }
        )


def _seen(presence: Presence, rows: QuerySet[Node]) -> list[Node]:
    """The first few of them that are in sight."""
    tree, seen = presence.nodes.tree, presence.in_sight.whole
    return [row for row in rows[:LOOKED_AT] if row.id in tree and seen[tree.index[row.id]]][:SHOWN]


def _names(presence: Presence, lists: Iterable[list[Node]]) -> dict[str, str]:
    """Who saved the pages: on a page that one sees, its last editor is told."""
    return names_of({row.saved_by_id for rows in lists for row in rows if row.saved_by_id is not None})


def _ending(presence: Presence) -> list[dict[str, Any]]:
    """What is given to whoever asks, and ends soon."""
    if presence.subject is None or presence.who is None:
        return []
    policy = presence.snapshot.policy
    groups = policy.all_groups(policy.accounts[presence.who])
    mine = {Subject.account(presence.who), *(Subject.group(group) for group in groups)}
    ending: list[Assignment] = [
        given
        for given in policy.assignments.values()
        if given.to in mine
        and given.period.ends is not None
        and given.period.active(presence.at)
        and given.period.ends - presence.at <= SOON
    ]
    tags = role_tags(given.role for given in ending)
    rows = [{"role": tags[given.role], "ends": given.period.ends} for given in ending]
    return sorted(rows, key=lambda row: row["ends"])


def _data(row: Node, names: dict[str, str]) -> dict[str, Any]:
    return {
        "id": row.id,
        "title": row.title,
        "type": row.type,
        "state": row.state,
        "note": row.note,
        "saved_at": row.saved_at,
        "saved_by": names.get(row.saved_by_id or "", HIDDEN_PERSON) if row.saved_by_id else None,
    }
