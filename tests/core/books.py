"""Workbooks that no program writes: a few bytes that ask for much."""

from __future__ import annotations

import io
import re
import zipfile

import xlsxwriter

HEAD = "<row r='1'><c r='A1' {title}<c r='B1' {year}</row><row r='2'><c r='A2' {hives}<c r='B2' {when}</row>"


def _text(said: str) -> str:
    return f't="inlineStr"><is><t>{said}</t></is></c>'


def book(more: str = "", path: str = "xl/worksheets/sheet1.xml") -> io.BytesIO:
    """A workbook with one record, and more rows as they are said, its sheet at a path."""
    head = HEAD.format(title=_text("Title"), year=_text("Year"), hives=_text("Hives"), when=_text("2001"))
    plain, out = io.BytesIO(), io.BytesIO()
    made = xlsxwriter.Workbook(plain)
    made.add_worksheet()
    made.close()
    with zipfile.ZipFile(plain) as before, zipfile.ZipFile(out, "w") as after:
        for info in before.infolist():
            data = before.read(info)
            if info.filename == "xl/worksheets/sheet1.xml":
                data = re.sub(rb"<dimension[^>]*/>", b"", data.replace(b"<sheetData/>", f"<sheetData>{head}{more}</sheetData>".encode()))
                after.writestr(path, data)
            else:
                after.writestr(info.filename, data.replace(b"worksheets/sheet1.xml", path[3:].encode()))
    out.seek(0)
    return out


def far(cell: str) -> str:
    """A row with one cell, which begins as said."""
    return f'<row r="1048576">{cell} {_text("far")}</row>'


FAR = {
    "double quotes": book(far('<c r="XFD1048576"')),
    "single quotes": book(far("<c r='XFD1048576'")),
    "a line end": book(far('<c\nr="XFD1048576"')),
    "small letters": book(far('<c r="xfd1048576"')),
    "another path": book(far('<c r="XFD1048576"'), "xl/elsewhere/one.xml"),
}
