"""Tables as a workbook: numbers and days as such, words as words, notes as comments."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date
from typing import BinaryIO, NamedTuple

_LONGEST = 32_767
_FORBIDDEN = re.compile(r"[\[\]:*?/\\]")


class Cell(NamedTuple):
    """What stands in a cell, and a note about it."""

    value: str | float | date | None = None
    note: str = ""


class Sheet(NamedTuple):
    """A sheet with its head."""

    name: str
    head: Sequence[str]
    rows: Sequence[Sequence[Cell]]


def write(out: BinaryIO, sheets: Sequence[Sheet]) -> None:
    """A workbook of some sheets. No text becomes a formula or a link, whatever it looks like."""
    import xlsxwriter

    book = xlsxwriter.Workbook(
        out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    )
    bold, day = book.add_format({"bold": True}), book.add_format({"num_format": "yyyy-mm-dd"})
    taken: set[str] = set()
    for sheet in sheets:
        page = book.add_worksheet(_name(sheet.name, taken))
        page.freeze_panes(1, 1)
        for column, title in enumerate(sheet.head):
            page.write_string(0, column, title[:_LONGEST], bold)
        for k, row in enumerate(sheet.rows, 1):
            for column, (value, note) in enumerate(row):
                if isinstance(value, date):
                    page.write_datetime(k, column, value, day)
                elif isinstance(value, int | float):
                    page.write_number(k, column, value)
                elif value:
                    page.write_string(k, column, value[:_LONGEST])
                if note:
                    page.write_comment(k, column, note[:_LONGEST], {"x_scale": 2.5})
    book.close()


def _name(wanted: str, taken: set[str]) -> str:
    """A name that a sheet may have: at most 31 letters, and no other sheet's."""
    base = _FORBIDDEN.sub(" ", wanted).strip("' ")[:31] or "Sheet"
    name, n = base, 2
    while name.casefold() in taken:
        name, n = f"{base[:27]} {n}", n + 1
    taken.add(name.casefold())
    return name
