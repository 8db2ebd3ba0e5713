"""Accounts as tables: kept as CSV, and brought in after a look at what each row would do."""

from collections import Counter
from typing import Any

from django.http import HttpResponse
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.models import Role
from gonfalon.access.names import group_names
from gonfalon.access.people_table import Plan, bring_in, given_to_known, read_table
from gonfalon.access.roster import Roster
from gonfalon.access.sight import UNBOUND
from gonfalon.api.assign.roster import PARAMETERS, SHOWS, found_by, in_order, rows_data
from gonfalon.api.changes.impact import BreakingShape, foreseen
from gonfalon.api.guard import GuardedView, May, require
from gonfalon.api.problems import Invalid
from gonfalon.api.tables import csv_answer
from gonfalon.inputs import Input
from gonfalon.work import POLICY

MOST_TOLD = 500
MOST_FORESEEN = 1_000
"""So many changes of a table are foreseen for those who are here already."""


class ExportView(GuardedView):
    doors = {"get": May("roster.see")}

    @extend_schema(responses={(200, "text/csv"): str}, operation_id="export_accounts", parameters=PARAMETERS[:5])
    def get(self, request: Request) -> HttpResponse:
        """Those whom the filters find, with their groups and roles. Seven queries."""
        asked = request.query_params.dict()
        roster = Roster(self.viewpoint.snapshot, self.viewpoint.at)
        rows = in_order(found_by(asked, self.viewpoint, roster), roster, "name", down=False)
        if (show := asked.get("show")) in SHOWS:
            rows = [row for row in rows if SHOWS[show](row)]
        names = dict(Role.objects.values_list("key", "name"))
        table = (
            (
                told["name"],
                told["email"],
                told["state"],
                "|".join(told["groups"]),
                "|".join(names.get(held["key"], held["key"]) for held in told["roles"]),
                told["last_seen"] and told["last_seen"].isoformat(),
            )
            for told in rows_data(rows, roster, group_names())
        )
        return csv_answer("accounts", ("name", "email", "state", "groups", "roles", "last seen"), table)


class ImportInput(Input):
    text = serializers.CharField(max_length=4_000_000, trim_whitespace=False)
    role_map = serializers.DictField(
        child=serializers.CharField(allow_blank=True),
        default=dict,
        help_text="A role for words in the column of roles that are none here; an empty one for none.",
    )
    invite = serializers.BooleanField(default=False)
    apply = serializers.BooleanField(default=False, help_text="Else it is only looked at.")


class ImportRowShape(serializers.Serializer):
    line = serializers.IntegerField()
    name = serializers.CharField()
    email = serializers.CharField()
    outcome = serializers.ChoiceField(choices=["new", "changed", "same"])
    groups = serializers.ListField(child=serializers.CharField())
    roles = serializers.ListField(child=serializers.CharField())


class ImportFaultShape(serializers.Serializer):
    line = serializers.IntegerField()
    column = serializers.CharField()
    message = serializers.CharField()


class ImportShape(serializers.Serializer):
    """What a table does, or would do; the first rows and faults of many."""

    done = serializers.BooleanField()
    new = serializers.IntegerField()
    changed = serializers.IntegerField()
    same = serializers.IntegerField()
    faults = ImportFaultShape(many=True)
    faulty = serializers.IntegerField()
    unmapped = serializers.DictField(child=serializers.IntegerField())
    rows = ImportRowShape(many=True)
    foreseen = BreakingShape(allow_null=True, help_text="For those who are here already, unless that is too much.")


class ImportView(GuardedView):
    doors = {"post": May("accounts.invite")}
    locks = {"post": (POLICY,)}

    @extend_schema(request=ImportInput, responses=ImportShape, operation_id="import_accounts")
    def post(self, request: Request) -> Response:
        """Look at what each row of a table would do, or do it: all of it or nothing."""
        given = ImportInput(data=request.data)
        given.is_valid(raise_exception=True)
        data = given.validated_data
        require(self.viewpoint, "roster.see")  # it tells who is here already
        plan = read_table(data["text"], data["role_map"])
        if data["apply"]:
            if plan.faults:
                first = plan.faults[0]
                raise Invalid({"/text": f"Line {first.line}, {first.column or 'table'}: {first.message}"})
            if plan.unmapped:
                raise Invalid({"/role_map": f"Say which role “{next(iter(plan.unmapped))}” is, or that it is none."})
            if any(row.groups or row.roles for row in plan.rows):
                require(self.viewpoint, "roles.assign")
            if any(row.outcome != "same" for row in plan.rows):
                bring_in(plan, self.session.by, self.viewpoint.account or "", invited=data["invite"])
        given_now = [] if data["apply"] else given_to_known(plan)
        looked = not data["apply"] and len(given_now) <= MOST_FORESEEN
        known = foreseen(self.viewpoint, given_now, UNBOUND) if looked else None
        return Response(_told(plan, done=data["apply"]) | {"foreseen": known})


def _told(plan: Plan, *, done: bool) -> dict[str, Any]:
    counts = Counter(row.outcome for row in plan.rows)
    return {
        "done": done,
        "new": counts["new"],
        "changed": counts["changed"],
        "same": counts["same"],
        "faults": [{"line": f.line, "column": f.column, "message": f.message} for f in plan.faults[:MOST_TOLD]],
        "faulty": len(plan.faults),
        "unmapped": plan.unmapped,
        "rows": [
            {
                "line": row.line,
                "name": row.name,
                "email": row.email,
                "outcome": row.outcome,
                "groups": list(row.groups),
                "roles": list(row.roles),
            }
            for row in plan.rows[:MOST_TOLD]
        ],
    }
