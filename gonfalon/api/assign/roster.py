"""Assign: the roster, with what matters of every account at a glance."""

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from datetime import UTC, datetime
from typing import Any, NamedTuple

from django.db.models import Q
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.names import group_names
from gonfalon.access.roster import ODD, Roster
from gonfalon.accounts.models import Account, Group
from gonfalon.api.assign.taking_on import TakenOnShape, TakeOnInput, taken_on
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.paging import whole
from gonfalon.api.problems import Invalid
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY

PAGE = 200
NEVER = datetime.min.replace(tzinfo=UTC)
NOTES = ["invited", "holding", "visitor", "never", "unseen", "nothing", "ends"]


class RoleHeldShape(serializers.Serializer):
    """A role somebody holds: only somewhere, in every way they hold it? Until when at the latest?"""

    key = serializers.CharField()
    somewhere = serializers.BooleanField()
    ends = serializers.DateTimeField(allow_null=True)


class RosterRowShape(serializers.Serializer):
    id = serializers.CharField()
    name = serializers.CharField()
    email = serializers.CharField()
    state = serializers.CharField()
    keyholder = serializers.BooleanField()
    desk = serializers.BooleanField(help_text="Whether it enters the desk, or would once it is active.")
    roles = RoleHeldShape(many=True)
    groups = serializers.ListField(child=serializers.CharField())
    last_seen = serializers.DateTimeField(allow_null=True)
    made_at = serializers.DateTimeField()
    ends = serializers.DateTimeField(allow_null=True)
    notes = serializers.ListField(child=serializers.ChoiceField(choices=NOTES))


class RosterCountsShape(serializers.Serializer):
    """How many of those found by the other filters there are of each sort."""

    desk = serializers.IntegerField()
    visitors = serializers.IntegerField()
    ends = serializers.IntegerField()
    look = serializers.IntegerField()
    invited = serializers.IntegerField()
    disabled = serializers.IntegerField()


class RosterShape(serializers.Serializer):
    count = serializers.IntegerField()
    counts = RosterCountsShape()
    results = RosterRowShape(many=True)


class Row(NamedTuple):
    """An account as the roster sorts and filters it."""

    id: str
    name: str
    email: str
    state: str
    keyholder: bool
    last_seen: datetime | None
    made_at: datetime
    notes: frozenset[str]


SHOWS: Mapping[str, Callable[[Row], bool]] = {
    "desk": lambda row: "visitor" not in row.notes,
    "visitors": lambda row: "visitor" in row.notes,
    "ends": lambda row: "ends" in row.notes,
    "look": lambda row: not ODD.isdisjoint(row.notes),
    "invited": lambda row: row.state == "invited",
    "disabled": lambda row: row.state == "disabled",
}
FILTERS = ("search", "role", "group", "state", "show")
PARAMETERS = [
    *(OpenApiParameter(name, str) for name in ("search", "role", "group", "state")),
    OpenApiParameter("show", str, enum=list(SHOWS)),
    OpenApiParameter("sort", str, enum=["name", "seen", "ends", "state", "made"]),
    OpenApiParameter("down", bool, description="The other way round."),
    *(OpenApiParameter(name, int) for name in ("limit", "offset")),
]


LONGEST_SEARCH = 400
"""Characters. Nobody is called anything as long: more than that finds nobody."""


def found_by(asked: Mapping[str, str], viewpoint: Viewpoint, roster: Roster) -> list[Row]:
    """All accounts that filters find, by name, those of every sort: `show` is not asked here. One query."""
    found, search = Account.objects.all(), asked.get("search", "")
    if len(search) > LONGEST_SEARCH:
        return []
    for word in dict.fromkeys(search.split()):
        found = found.filter(
            Q(name__icontains=word) | Q(email__icontains=word) | Q(pk__in=_holding(word, viewpoint, roster))
        )
    if role := asked.get("role"):
        found = found.filter(pk__in=roster.holders.accounts_of(role))
    if group := asked.get("group"):
        found = found.filter(pk__in=roster.holders.members.get(group, []))
    if state := asked.get("state"):
        found = found.filter(state=state)
    columns = ("id", "name", "email", "state", "keyholder", "last_seen", "created_at")
    known = roster.policy.accounts
    return [
        Row(id, name, email, state, key, seen, made, frozenset(roster.notes(id, state, seen)))
        for id, name, email, state, key, seen, made in found.values_list(*columns)
        if id in known
    ]


def _holding(word: str, viewpoint: Viewpoint, roster: Roster) -> list[str]:
    """Accounts found by the name of a group they are in."""
    groups = Group.objects.filter(name__icontains=word).values_list("key", flat=True)
    return [account for key in groups for account in roster.holders.members.get(key, [])]


def in_order(rows: list[Row], roster: Roster, sort: str, *, down: bool) -> list[Row]:
    """Rows sorted by a column; names decide between equals."""
    keys: dict[str, Callable[[Row], Any]] = {
        "name": lambda row: row.name.casefold(),
        "seen": lambda row: row.last_seen or NEVER,
        "ends": lambda row: roster.ends(row.id) or datetime.max.replace(tzinfo=UTC),
        "state": lambda row: row.state,
        "made": lambda row: row.made_at,
    }
    rows = sorted(rows, key=keys["name"], reverse=down and sort == "name")
    return rows if sort == "name" else sorted(rows, key=keys[sort], reverse=down)


def rows_data(rows: Iterable[Row], roster: Roster, groups: Mapping[str, str]) -> list[dict[str, Any]]:
    """Rows as they are told; `groups` are the names of groups by key. No query."""
    accounts = roster.policy.accounts
    return [
        {
            "id": row.id,
            "name": row.name,
            "email": row.email,
            "state": row.state,
            "keyholder": row.keyholder,
            "desk": row.id in roster.desk,
            "roles": [{"key": h.role, "somewhere": h.somewhere, "ends": h.ends} for h in roster.roles(row.id)],
            "groups": sorted(groups[key] for key in accounts[row.id].groups),
            "last_seen": row.last_seen,
            "made_at": row.made_at,
            "ends": roster.ends(row.id),
            "notes": [note for note in NOTES if note in row.notes],
        }
        for row in rows
    ]


class RosterView(GuardedView):
    doors = {"get": May("roster.see"), "post": May("accounts.invite")}
    locks = {"post": (POLICY,)}

    @extend_schema(responses=RosterShape, operation_id="roster", parameters=PARAMETERS)
    def get(self, request: Request) -> Response:
        """A page of accounts, and how many there are of each sort. Five queries, a sixth where words are looked for."""
        asked = request.query_params
        roster = Roster(self.viewpoint.snapshot, self.viewpoint.at)
        show, sort = asked.get("show", ""), asked.get("sort") or "name"
        if show and show not in SHOWS:
            raise Invalid({"/show": f"Say one of: {', '.join(SHOWS)}."})
        if sort not in ("name", "seen", "ends", "state", "made"):
            raise Invalid({"/sort": "Say one of: name, seen, ends, state, made."})
        rows = found_by(asked.dict(), self.viewpoint, roster)
        counts = Counter(name for row in rows for name, fits in SHOWS.items() if fits(row))
        if show:
            rows = [row for row in rows if SHOWS[show](row)]
        rows = in_order(rows, roster, sort, down=asked.get("down") == "true")
        offset, limit = whole(request, "offset", 0), min(whole(request, "limit", PAGE), PAGE)
        return Response(
            {
                "count": len(rows),
                "counts": {name: counts[name] for name in SHOWS},
                "results": rows_data(rows[offset : offset + limit], roster, group_names()),
            }
        )

    @extend_schema(request=TakeOnInput, responses={201: TakenOnShape}, operation_id="take_on")
    def post(self, request: Request) -> Response:
        """Take people on, each invited by mail or with a password that is shown once: all of it or nothing."""
        return Response(taken_on(request, self), status=201)
