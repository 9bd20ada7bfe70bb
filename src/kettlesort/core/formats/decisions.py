"""A list that goes out as a spreadsheet, with columns for decision, reason and note, and comes back in with them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import BinaryIO, NamedTuple

from kettlesort.core.formats.source import TextSource
from kettlesort.core.formats.table import Book, harmless, shown_in_cell
from kettlesort.core.tables import NotATable, Row, folded, table_of

COLUMNS = ("Record", "Title", "Authors", "Year", "Journal", "DOI", "Abstract", "Decision", "Reason", "Note")
WIDTHS = (9, 50, 30, 7, 24, 24, 70, 12, 30, 40)
DECISIONS = ("include", "exclude", "unsure")
_SAID = {
    "include": "include", "included": "include", "in": "include", "yes": "include", "y": "include", "1": "include", "+": "include",
    "exclude": "exclude", "excluded": "exclude", "out": "exclude", "no": "exclude", "n": "exclude", "0": "exclude", "-": "exclude", "\u2212": "exclude",
    "unsure": "unsure", "maybe": "unsure", "unclear": "unsure", "?": "unsure",
}  # fmt: skip
MOST = 100_000


class Line(NamedTuple):
    """A record on the sheet: its number, what was said of it, and its note. ``decision`` is "" where nothing was said."""

    line: int
    record: int
    decision: str
    reason: int | None
    note: str


class Wrong(NamedTuple):
    """A row that says nothing that is known, and why."""

    line: int
    message: str


class Returned(NamedTuple):
    """What a sheet says, and what could not be understood; nothing else is lost by it. ``with_notes``: it has a column of notes."""

    lines: list[Line]
    wrong: list[Wrong]
    with_notes: bool


def write(rows: Iterable[Sequence[object]], reasons: Sequence[str], out: BinaryIO) -> None:
    """A workbook of `COLUMNS`: the decision and its reason are chosen from lists, the header stays in sight, text is never a formula."""
    import xlsxwriter

    book = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    page, lists = book.add_worksheet("Records"), book.add_worksheet("Lists")
    head, wrapped = book.add_format({"bold": True}), book.add_format({"text_wrap": True, "valign": "top"})
    for column, (name, width) in enumerate(zip(COLUMNS, WIDTHS, strict=True)):
        page.set_column(column, column, width, wrapped)
        page.write_string(0, column, name, head)
    page.freeze_panes(1, 2)
    for k, name in enumerate(reasons):
        lists.write_string(k, 0, name)
    last = 0
    for last, row in enumerate(rows, 1):
        for column, cell in enumerate(row):
            if isinstance(cell, int):
                page.write_number(last, column, cell)
            elif cell:
                page.write_string(last, column, str(cell)[:32767])
    if last:
        decision, reason = COLUMNS.index("Decision"), COLUMNS.index("Reason")
        page.data_validation(1, decision, last, decision, {"validate": "list", "source": list(DECISIONS)})
        if reasons:
            source = f"=Lists!$A$1:$A${len(reasons)}"
            page.data_validation(1, reason, last, reason, {"validate": "list", "source": source, "error_type": "warning"})
    lists.hide()
    book.close()


def read(file: BinaryIO, reasons: Sequence[tuple[int, str]]) -> Returned:
    """What a sheet says, a workbook or a text with separators.

    Parameters
    ----------
    file : as it came back; columns in any order, others are passed over
    reasons : number and name of each criterion in force, in their sequence; a cell may name one, in capitals or not, or give its place in it

    Raises
    ------
    NotATable : no row of names with Record and Decision, or more rows than can be
    """
    by_name = {folded(name): number for number, name in reasons}
    by_name |= {str(k): number for k, (number, _) in enumerate(reasons, 1) if str(k) not in by_name}
    lines: list[Line] = []
    wrong: list[Wrong] = []
    seen: dict[int, int] = {}
    columns, rows = _table(file)
    for row in rows:
        line = _line(row, by_name)
        if isinstance(line, Wrong):
            wrong.append(line)
        elif line.record in seen:
            wrong.append(Wrong(line.line, f"record {line.record} stands in row {seen[line.record]} already"))
        else:
            seen[line.record] = line.line
            lines.append(line)
    return Returned(lines, wrong, "note" in columns)


def _table(file: BinaryIO) -> tuple[set[str], list[Row]]:
    head = file.read(4)
    file.seek(0)
    if head.startswith((b"PK", b"\xd0\xcf\x11\xe0")):
        return _of_book(file)
    table = table_of("".join(TextSource(file)))
    missing = table.lacks(["Record", "Decision"])
    if missing:
        raise NotATable(f"there is no column “{missing[0]}”; send the sheet back with the columns that it went out with")
    if len(table.rows) > MOST:
        raise NotATable(f"there are more than {MOST:,} rows")
    return {folded(column) for column in table.columns}, table.rows


def _of_book(file: BinaryIO) -> tuple[set[str], list[Row]]:
    import python_calamine

    try:
        book = Book(file)
    except python_calamine.CalamineError as error:
        raise NotATable(f"it is no workbook, or a broken one ({str(error)[:80]})") from None
    for name in book.sheet_names:
        cells = _cells(book.sheet(name).iter_rows())
        header = next(
            ((line, [folded(word) for word in row]) for line, row in cells if {"record", "decision"} <= set(map(folded, row))), None
        )
        if header is None:
            continue
        rows = []
        for line, row in cells:
            if any(row):
                rows.append(Row(line, dict(zip(header[1], row, strict=False)), 0))
            if len(rows) > MOST:
                raise NotATable(f"there are more than {MOST:,} rows")
        return set(header[1]), rows
    raise NotATable("no sheet has a row of names with “Record” and “Decision”; send the sheet back with the columns that it went out with")


def _cells(rows: Iterable[Sequence[object]]) -> Iterator[tuple[int, list[str]]]:
    return ((line, [shown_in_cell(cell).strip() for cell in row]) for line, row in enumerate(rows, 1))


def _line(row: Row, by_name: dict[str, int]) -> Line | Wrong:
    number, said, why = row.cells.get("record", ""), row.cells.get("decision", ""), row.cells.get("reason", "")
    if not number.isdecimal() or len(number) > 18:
        return Wrong(row.line, f"“{number[:40]}” is no record’s number" if number else "the record’s number is missing")
    decision = _SAID.get(folded(said), "") if said else ""
    if said and not decision:
        return Wrong(row.line, f"“{said[:40]}” is no decision: include, exclude or unsure")
    reason = by_name.get(folded(_plain(why))) if why else None
    if decision == "exclude" and reason is None:
        return Wrong(
            row.line, f"“{why[:60]}” is no criterion of this pass" if why else "an exclusion needs its reason: the criterion that failed"
        )
    return Line(row.line, int(number), decision, reason if decision == "exclude" else None, _plain(row.cells.get("note", "")))


def _plain(text: str) -> str:
    """As it was before a spreadsheet's writer made it harmless."""
    return text[1:] if text[:1] == "'" and harmless(text[1:]) == text else text
