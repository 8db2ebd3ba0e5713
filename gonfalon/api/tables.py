"""Tables as CSV (RFC 4180), in UTF-8, that no spreadsheet takes for formulas."""

import csv
from collections.abc import Iterable, Sequence
from io import StringIO

from django.http import HttpResponse

_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def cell(value: object) -> str:
    """A value as a cell. One that a spreadsheet would work out begins with an apostrophe.

    >>> cell("=1+1"), cell("-5 degrees"), cell(None), cell("Ada")
    ("'=1+1", "'-5 degrees", '', 'Ada')
    """
    text = "" if value is None else str(value)
    return f"'{text}" if text.startswith(_FORMULA) else text


def csv_answer(name: str, head: Sequence[str], rows: Iterable[Sequence[object]]) -> HttpResponse:
    """A table to keep as a file. It begins with a byte order mark, by which spreadsheets know UTF-8."""
    text = StringIO()
    writer = csv.writer(text)
    writer.writerow(head)
    writer.writerows([cell(value) for value in row] for row in rows)
    response = HttpResponse("\ufeff" + text.getvalue(), content_type="text/csv; charset=utf-8")
    response.headers["Content-Disposition"] = f'attachment; filename="{name}.csv"'
    return response
