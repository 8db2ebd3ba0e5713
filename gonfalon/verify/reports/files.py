"""A report as a spreadsheet, and as one table for other programs."""

from io import BytesIO
from typing import Any

import xlsxwriter

LONGEST_TITLE = 31
"""Of a sheet."""
_NOT_IN_TITLES = str.maketrans(dict.fromkeys("[]:*?/\\", " "))


def spreadsheet(report: dict[str, Any], head: str) -> bytes:
    """A workbook with a sheet for each section, and one in front that says what it is."""
    kept = BytesIO()
    book = xlsxwriter.Workbook(kept, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    bold, wrapped = book.add_format({"bold": True}), book.add_format({"text_wrap": True, "valign": "top"})
    front = book.add_worksheet("Report")
    front.set_column(0, 0, 70)
    lines = [report["title"], head, *(f"{fact['count']} {fact['words']}" for fact in report["facts"])]
    lines += [f"Left out: {line}" for line in report["left_out"]]
    lines += [f"{section['title']}: {section['words']}" for section in report["sections"] if section["words"]]
    for i, line in enumerate(lines):
        front.write_string(i, 0, line, bold if i == 0 else None)
    titles = {"report"}
    for section in report["sections"]:
        if not section["columns"]:
            continue
        sheet = book.add_worksheet(_title(section["title"], titles))
        columns = [*section["columns"], "Sentences"]
        sheet.set_column(0, len(columns) - 1, 34, wrapped)
        sheet.freeze_panes(1, 0)
        for i, column in enumerate(columns):
            sheet.write_string(0, i, column, bold)
        for i, row in enumerate(section["rows"], 1):
            for j, cell in enumerate([*row["cells"], "\n".join(row["sentences"])]):
                sheet.write_string(i, j, cell, wrapped)
    book.close()
    return kept.getvalue()


def table(report: dict[str, Any]) -> tuple[list[str], list[list[str]]]:
    """A head and rows: the section, a cell after the other, and the sentences."""
    width = max((len(section["columns"]) for section in report["sections"]), default=0)
    head = ["section", *(f"cell {i + 1}" for i in range(width)), "sentences"]
    rows = [
        [section["title"], *row["cells"], *[""] * (width - len(row["cells"])), " ".join(row["sentences"])]
        for section in report["sections"]
        for row in section["rows"]
    ]
    return head, rows


def _title(title: str, taken: set[str]) -> str:
    plain = title.translate(_NOT_IN_TITLES).strip("' ")[:LONGEST_TITLE] or "Section"
    name, n = plain, 1
    while name.casefold() in taken:
        n += 1
        name = f"{plain[: LONGEST_TITLE - 4]} {n}"
    taken.add(name.casefold())
    return name
