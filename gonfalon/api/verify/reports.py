"""Reports: asked for, read while the worker makes one, taken away as a spreadsheet or a table."""

from typing import Any

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.accounts.names import names_of
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.problems import Invalid, NotFound
from gonfalon.api.tables import csv_answer
from gonfalon.core.sentences.writing import time_words
from gonfalon.inputs import Input
from gonfalon.verify.models import Report
from gonfalon.verify.reports.files import spreadsheet, table
from gonfalon.verify.reports.making import DUTY, NEEDS, ask_for, is_known, may_be_told

DOOR = May(DUTY)
KINDS = ["branch", "role", "account", "group", "everything"]
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class FactShape(serializers.Serializer):
    count = serializers.IntegerField()
    words = serializers.CharField()


class ReportRowShape(serializers.Serializer):
    """The cells of a row, a sentence for each answer in it, and the roles it is about."""

    cells = serializers.ListField(child=serializers.CharField())
    sentences = serializers.ListField(child=serializers.CharField())
    cloths = serializers.ListField(child=serializers.CharField())


class ReportSectionShape(serializers.Serializer):
    """A table, or, without columns, a few words."""

    title = serializers.CharField()
    words = serializers.CharField()
    columns = serializers.ListField(child=serializers.CharField())
    rows = ReportRowShape(many=True)


class ReportToldShape(serializers.Serializer):
    title = serializers.CharField()
    facts = FactShape(many=True)
    left_out = serializers.ListField(child=serializers.CharField(), help_text="What its maker may not know.")
    sections = ReportSectionShape(many=True)


class ReportShape(serializers.Serializer):
    """A report of one's own: how far it has come, and, once it is made, what it tells."""

    id = serializers.CharField()
    about_kind = serializers.ChoiceField(choices=KINDS)
    about_id = serializers.CharField()
    reader = serializers.CharField()
    state = serializers.ChoiceField(choices=Report.State.choices)
    done = serializers.IntegerField()
    total = serializers.IntegerField()
    head = serializers.CharField(help_text="Of when it is, who made it and for whom.")
    until = serializers.DateTimeField()
    told = ReportToldShape(allow_null=True)


class ReportInput(Input):
    about = serializers.ChoiceField(choices=KINDS)
    id = serializers.CharField(required=False, allow_blank=True, default="", max_length=120)
    at = serializers.DateTimeField(required=False, allow_null=True, default=None)
    reader = serializers.CharField(required=False, allow_blank=True, default="", max_length=150)


class ReportsView(GuardedView):
    doors = {"post": DOOR}
    locks = {"post": ()}

    @extend_schema(request=ReportInput, responses={201: ReportShape}, operation_id="ask_for_report")
    def post(self, request: Request) -> Response:
        """Have one made, of what one may know; it is kept for a week."""
        given = ReportInput(data=request.data)
        given.is_valid(raise_exception=True)
        asked, here = given.validated_data, self.viewpoint
        if not may_be_told(asked["about"], here):
            duty = here.catalogue.phrase(NEEDS[asked["about"]])
            raise Invalid({"/about": f"This is told to whoever may {duty}, besides."})
        if not is_known(asked["about"], asked["id"], here):
            raise Invalid({"/id": "There is no such thing."})
        if asked["at"] is not None and not 2000 <= asked["at"].year <= 2200:
            raise Invalid({"/at": "Say a day between 2000 and 2200."})
        report = ask_for(here.account or "", (asked["about"], asked["id"]), asked["at"], asked["reader"])
        return Response(_data(report), status=201)


class ReportView(GuardedView):
    doors = {"get": DOOR, "delete": DOOR}
    locks = {"delete": ()}

    @extend_schema(responses=ReportShape, operation_id="report")
    def get(self, request: Request, report: str) -> Response:
        """One's own. Two queries."""
        return Response(_data(_own(report, self.viewpoint.account)))

    @extend_schema(responses={204: OpenApiResponse()}, operation_id="drop_report")
    def delete(self, request: Request, report: str) -> Response:
        """Take it away before its week is over."""
        _own(report, self.viewpoint.account).delete()
        return Response(status=204)


class SpreadsheetView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(responses={(200, XLSX): OpenApiTypes.BINARY}, operation_id="report_spreadsheet")
    def get(self, request: Request, report: str) -> HttpResponse:
        """A workbook with a sheet for each section."""
        row = _made(report, self.viewpoint.account)
        book = spreadsheet(row.told, _head(row))
        return HttpResponse(
            book, content_type=XLSX, headers={"Content-Disposition": 'attachment; filename="report.xlsx"'}
        )


class TableView(GuardedView):
    doors = {"get": DOOR}

    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR}, operation_id="report_table")
    def get(self, request: Request, report: str) -> HttpResponse:
        """All rows in one table."""
        return csv_answer("report", *table(_made(report, self.viewpoint.account).told))


def _own(id: str, account: str | None) -> Report:
    row = Report.objects.filter(pk=id, owner=account or "").first()
    if row is None:
        raise NotFound("report")
    return row


def _made(id: str, account: str | None) -> Any:
    row = _own(id, account)
    if row.told is None:
        raise NotFound("report")
    return row


def _head(row: Report) -> str:
    at = row.at or row.made_at or row.asked_at
    name = names_of([row.owner]).get(row.owner, row.owner)
    return f"As of {time_words(at.replace(second=0, microsecond=0))}, made by {name}" + (
        f" for {row.reader}" if row.reader else ""
    )


def _data(row: Report) -> dict[str, Any]:
    return {
        "id": row.id,
        "about_kind": row.about_kind,
        "about_id": row.about_id,
        "reader": row.reader,
        "state": row.state,
        "done": row.done,
        "total": row.total,
        "head": _head(row),
        "until": row.until,
        "told": row.told,
    }
