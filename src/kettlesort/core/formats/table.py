"""Tables: CSV, TSV and other delimited text, and XLSX sheets, by the names of their columns."""

from __future__ import annotations

import csv
import io
import itertools
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import datetime, time
from typing import IO, TYPE_CHECKING, BinaryIO, NamedTuple

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.guess import (
    field_named,
    fields_by_likeness,
    likeness,
    points_elsewhere,
    some_authors,
    speaks_of_a_title,
    with_full_names,
)
from kettlesort.core.formats.making import record_from
from kettlesort.core.formats.people import comes_back
from kettlesort.core.formats.recipe import MANY
from kettlesort.core.formats.source import CHUNK, Problem, TextSource, heading
from kettlesort.core.names import name_of
from kettlesort.core.record import Record
from kettlesort.core.text.clean import kept

if TYPE_CHECKING:
    import python_calamine

_DELIMITERS = (",", "\t", ";", "|", "^", "~", "¦", "§")
_NAMED_ROWS = 30
"""A row of column names stands among the first so many."""
MOST_CELLS = 12_000_000
csv.field_size_limit(16_000_000)


def column_of(header: str) -> str | None:
    """The field that a column of this name holds, or ``None``."""
    return field_named(header)


_AGAIN = re.compile(r" \(\d+\)$")
"""What `header_from` puts behind a name that occurs again."""


class Shape(NamedTuple):
    """How a table stands in a file: the delimiter, the row of column names (its place among the rows, -1 for none), and the columns."""

    delimiter: str
    at: int
    header: list[str]
    fields: dict[str, str]
    sure: bool


def shape_of(sample: str) -> Shape | None:
    """How the table in a text stands, or ``None`` if it is no table.

    The row of column names is the one with the most names that are known; failing that, what the columns hold says
    which is which, with the first row of full width as names if it looks like names.
    """
    best: Shape | None = None
    most = 0
    for delimiter in _DELIMITERS:
        found = _named_row(_first_rows(sample, delimiter))
        if found and found[0] > most:
            most, best = found[0], Shape(delimiter, found[1], found[2], {}, True)
    if best:
        rows = _first_rows(sample, best.delimiter, 200)
        return best._replace(fields=known_fields(best.header, rows[best.at + 1 :]))
    shapes = [
        (looks, Shape(delimiter, *shaped))
        for delimiter in _DELIMITERS
        if (looked := _by_looks(_first_rows(sample, delimiter, 60)))
        for looks, shaped in (looked,)
    ]
    return max(shapes, key=lambda shape: shape[0])[1] if shapes else None


def named_fields(header: Sequence[str]) -> dict[str, str]:
    """Which field each column fills by its name, "" for none. Where all authors have a column, others hold some of them once more."""
    fields = {name: column_of(_AGAIN.sub("", name)) or "" for name in header}
    for name, field in fields.items():
        if _AGAIN.search(name) and field not in MANY:
            fields[name] = ""
    some = {name for name, field in fields.items() if field == "authors" and some_authors(name) and not _AGAIN.search(name)}
    if any(field == "authors" and name not in some for name, field in fields.items()):
        fields |= dict.fromkeys(some, "")
    if "title" not in fields.values() and (
        title := next((name for name, field in fields.items() if not field and speaks_of_a_title(name)), "")
    ):
        fields[title] = "title"
    if "family_name" not in fields.values() or "authors" in fields.values():
        return {name: "" if field in ("family_name", "given_name") else field for name, field in fields.items()}
    return fields


_BY_LOOKS = ("doi", "issn", "year", "pages", "abstract", "place", "authors", "title")
"""Fields that a column without a name that is known can be taken for by what it holds."""


def known_fields(header: Sequence[str], rows: Sequence[Sequence[str]]) -> dict[str, str]:
    """Which field each column fills by its name or, failing that, plainly by what it holds; "" for none."""
    fields = named_fields(header)
    fields = with_full_names(fields, {name: [row[k] if k < len(row) else "" for row in rows] for k, name in enumerate(header)})
    taken = set(fields.values())
    columns = {name: [row[k] for row in rows if k < len(row)] for k, name in enumerate(header) if not fields[name]}
    looks = {name: likeness(values) for name, values in columns.items() if not points_elsewhere(name)}
    for field in _BY_LOOKS:
        score, name = max(((found.get(field, 0.0), name) for name, found in looks.items() if not fields[name]), default=(0.0, ""))
        if field not in taken and score >= 0.75 and not (field == "pages" and taken & {"first_page", "article_number"}):
            fields[name] = field
            taken.add(field)
    if not taken & {"pages", "first_page"}:
        for one, two in itertools.pairwise(header):
            if not fields[one] and not fields[two] and _are_pages(columns[one], columns[two]):
                return {**fields, one: "first_page", two: "last_page"}
    return fields


def _are_pages(first: Sequence[str], last: Sequence[str]) -> bool:
    """Whether two columns of numbers hold first and last pages: the second is never smaller, and little larger."""
    numbers = [
        (int(a), int(b)) for a, b in zip(first, last, strict=False) if a.strip().isdigit() and b.strip().isdigit() and len(a) + len(b) < 14
    ]
    filled = sum(bool(a.strip()) for a in first)
    spans = sorted(b - a for a, b in numbers)
    return (
        len(numbers) >= max(3, 0.8 * filled)
        and spans[0] >= 0
        and spans[len(spans) // 2] in range(1, 60)
        and len({a for a, _ in numbers}) > len(numbers) // 2
    )


def _named_row(rows: Sequence[Sequence[str]]) -> tuple[int, int, list[str]] | None:
    """How many fields are named, where, and the names: of the row that names the most."""
    found = [(len({column_of(cell) for cell in row} - {None}), -k) for k, row in enumerate(rows[:_NAMED_ROWS])]
    known, place = max(found, default=(0, 0))
    return (known, -place, header_from(rows[-place])) if known >= 2 else None


def header_from(row: Sequence[str]) -> list[str]:
    """Names of columns, each once and none empty."""
    names: list[str] = []
    for k, cell in enumerate(row, 1):
        name = " ".join(cell.split()).lstrip("\ufeff") or f"column {k}"
        names.append(name if name not in names else f"{name} ({k})")
    return names


def _by_looks(rows: Sequence[Sequence[str]]) -> tuple[float, tuple[int, list[str], dict[str, str], bool]] | None:
    """A table without names that are known: the fields of its columns by what they hold."""
    filled = [(k, row) for k, row in enumerate(rows) if any(cell.strip() for cell in row)]
    if not filled:
        return None
    widths = [len(row) for _, row in filled]
    width = max(set(widths), key=widths.count)
    regular = [(k, row) for k, row in filled if len(row) == width]
    if width < 3 or len(regular) < 0.8 * len(filled):
        return None
    begun, first = regular[0]
    names = len(regular) > 1 and all(cell.strip() and len(cell) < 50 for cell in first) and not likeness(first[:1]) and not any(
        likeness([cell]).keys() & {"doi", "year", "url", "issn", "abstract", "title"} for cell in first
    )  # fmt: skip
    header = header_from(first) if names else [f"column {k}" for k in range(1, width + 1)]
    body = [row for _, row in regular[1 if names else 0 :]]
    fields = fields_by_likeness({name: [row[k] for row in body] for k, name in enumerate(header)}, named=names)
    held = set(fields.values())
    if "title" not in held or not held & {"year", "doi", "authors"}:
        return None
    return len(held) / width, (begun if names else -1, header, fields, False)


def _first_rows(sample: str, delimiter: str, most: int = _NAMED_ROWS) -> list[list[str]]:
    rows: list[list[str]] = []
    lines = [line + "\n" for line in sample.split("\n")]
    if len(sample) >= CHUNK:
        lines.pop()  # it may be cut
    try:
        for row in csv.reader(lines, delimiter=delimiter):
            rows.append(row)
            if len(rows) == most:
                break
    except csv.Error:
        pass
    return rows


class _Lines:
    """Lines of a text source for the csv module, remembered until `taken` hands them out as raw text; they can be given back before."""

    def __init__(self, source: TextSource) -> None:
        self._lines = self._all(source)
        self.held: list[str] = []
        self._back: list[str] = []
        self.line = 0

    @staticmethod
    def _all(source: TextSource) -> Iterator[str]:
        tail = ""
        for piece in source:
            lines = (tail + piece).split("\n")
            tail = lines.pop()
            for line in lines:
                yield line + "\n"
        if tail:
            yield tail

    def __iter__(self) -> Iterator[str]:
        """The lines from where one is: whoever gives some back begins anew."""
        hold = self.held.append
        while self._back:
            hold(line := self._back.pop())
            yield line
        for line in self._lines:
            hold(line)
            yield line

    def broken(self, delimiter: str) -> bool:
        """Whether several lines were taken that are not a row by the rules: a quote is not closed, or not at the end of its cell."""
        try:
            return len(self.held) > 1 and not list(csv.reader(self.held, delimiter=delimiter, strict=True))
        except csv.Error:
            return True

    def give_back(self) -> None:
        """Give back all lines but the first."""
        self._back += self.held[:0:-1]
        del self.held[1:]

    def taken(self) -> str:
        raw = "".join(self.held).rstrip("\n")
        self.line += len(self.held)
        self.held.clear()
        return raw


def read_delimited(source: TextSource, problems: list[Problem], how: Shape | None = None) -> Iterator[Entry]:
    """The entries of delimited text; lines before the row of column names are told."""
    shape = how or shape_of(source.sample) or Shape(",", 0, [], {}, False)
    lines = _Lines(source)

    def rows() -> Iterator[tuple[int, str, list[str]]]:
        reader = csv.reader(lines, delimiter=shape.delimiter)
        first, width = 1, len(shape.header)
        while True:
            wrong = ""
            try:
                row = next(reader)
            except StopIteration:
                return
            except csv.Error as error:
                row, wrong = [], str(error)
            if (
                width > 1
                and (len(row) != width or lines.broken(shape.delimiter))
                and (told := _with_a_stray_quote(lines, shape.delimiter, width))
            ):
                problems.append(Problem(first, "a quote begins a cell and nothing closes it in this line; read as a sign", True))
                row, wrong, reader = told, "", csv.reader(lines, delimiter=shape.delimiter)
            if wrong:
                problems.append(Problem(first, f"this row could not be read: {wrong}"))
            yield first, lines.taken(), row
            first = lines.line + 1

    yield from _entries(rows(), shape, problems)


_STRAY = "\x1f"  # no text that is read holds it


def _with_a_stray_quote(lines: _Lines, delimiter: str, width: int) -> list[str] | None:
    """The cells of the line that a row begins with, if it is a whole row but for one quote that opens a cell and is closed nowhere in it, and the next is another row.

    What was taken after that line is given back.
    """
    first, *more = lines.held
    if first.count(QUOTE) % 2 == 0 or (more and len(next(csv.reader(more[:1], delimiter=delimiter), [])) != width):
        return None
    for at in (k for k, sign in enumerate(first) if sign == QUOTE and (k == 0 or first[k - 1] == delimiter)):
        row = next(csv.reader([first[:at] + _STRAY + first[at + 1 :]], delimiter=delimiter), [])
        if len(row) == width:
            lines.give_back()
            return [cell.replace(_STRAY, QUOTE) for cell in row]
    return None


class Sheet(NamedTuple):
    """A sheet of a workbook, and how its table stands."""

    name: str
    shape: Shape


class Book:
    """A workbook, its cells still to be read: a sheet that is looked at and then read is parsed once."""

    def __init__(self, file: BinaryIO) -> None:
        import python_calamine

        self._book = python_calamine.CalamineWorkbook.from_filelike(file)
        self._last: tuple[str, python_calamine.CalamineSheet] | None = None

    @property
    def sheet_names(self) -> list[str]:
        """The names of the sheets in their order."""
        return list(self._book.sheet_names)

    def sheet(self, name: str) -> python_calamine.CalamineSheet:
        """A sheet with its cells; the last one is kept."""
        if self._last is None or self._last[0] != name:
            self._last = name, self._book.get_sheet_by_name(name)
        return self._last[1]


def sheet_of(book: Book, wanted: str = "") -> Sheet | None:
    """The sheet to read: the wanted one, or the first with a table of records."""
    best: Sheet | None = None
    for name in [wanted] if wanted in book.sheet_names else book.sheet_names:
        head = head_of(book, name)
        named = _named_row(head)
        if named:
            return Sheet(name, Shape("", named[1], named[2], known_fields(named[2], head[named[1] + 1 :]), True))
        looked = _by_looks(head)
        if looked and best is None:
            best = Sheet(name, Shape("", *looked[1]))
    return best


def read_sheet(book: Book, problems: list[Problem], sheet: Sheet | None) -> Iterator[Entry]:
    """The entries of a sheet of a workbook."""
    if sheet is None:
        problems.append(Problem(0, "no sheet has a row of column names such as Title, Authors, Year"))
        return
    page = book.sheet(sheet.name)
    skipped = (page.start or (0, 0))[0]
    rows = (
        (k, "\t".join(shown), shown)
        for k, row in enumerate(page.iter_rows(), 1)
        for shown in ([shown_in_cell(cell).replace("\t", " ") for cell in row],)
    )
    if skipped and sheet.shape.at < 0:
        problems.append(Problem(0, f"the sheet “{sheet.name}” has {skipped} empty rows before its table"))
    yield from _entries(rows, sheet.shape, problems)


def shown_in_cell(cell: object) -> str:
    """What a cell of a workbook says, as text."""
    if isinstance(cell, float) and cell.is_integer():
        return str(int(cell))
    if isinstance(cell, datetime):
        return cell.date().isoformat() if cell.time() == time() else cell.isoformat(" ")
    return kept(str(cell)) if cell is not None and cell != "" else ""


def _entries(rows: Iterator[tuple[int, str, list[str]]], shape: Shape, problems: list[Problem]) -> Iterator[Entry]:
    header = shape.header
    fields = [shape.fields.get(name, "") for name in header]
    position = 0
    for k, (line, raw, row) in enumerate(rows):
        if not any(cell.strip() for cell in row) or k == shape.at:
            continue
        if k < shape.at:
            if not raw.lower().startswith("sep="):  # what tells a spreadsheet program the separator
                problems.append(heading(line, " ".join(row)))
            continue
        if len(row) > len(header):
            problems.append(Problem(line, f"{len(row)} cells where the header has {len(header)}; the surplus is kept unnamed"))
        position += 1
        yield Entry(position, line, line + raw.count("\n"), raw, _record(header, fields, row, line, problems))


def _record(header: list[str], fields: list[str], row: list[str], line: int, problems: list[Problem]) -> Record:
    found: dict[str, list[str]] = {}
    extra: list[tuple[str, str]] = []
    for k, value in enumerate(row):
        value = value.strip()
        if value[:1] == "'" and value[1:2] in _GUARDED:
            value = value[1:]  # as `harmless` wrote it
        if not value:
            continue
        name = header[k] if k < len(header) else f"column {k + 1}"
        field = fields[k] if k < len(fields) else ""
        if not field or (field in found and field not in MANY):
            extra.append((name, value))
        else:
            found.setdefault(field, []).append(value)
    if "title" not in found:
        problems.append(Problem(line, "this row has no title"))
    return record_from(found, extra, line, problems)


COLUMNS = (
    "accession", "kind", "title", "authors", "year", "date", "journal", "journal_short", "volume", "issue", "pages", "doi",
    "issn", "abstract", "language", "keywords", "url", "publisher", "references", "note",
)  # fmt: skip
_HEADERS = {"journal_short": "journal abbreviation"}
QUOTE = '"'
_GUARDED = ("=", "+", "-", "@", "\t", "\r")


def harmless(text: str) -> str:
    """``text`` so that no spreadsheet takes it for a formula: an apostrophe before = + - @ and control characters."""
    return "'" + text if text[:1] in _GUARDED and not _is_number(text) else text


def _is_number(text: str) -> bool:
    return bool(re.fullmatch(r"[+-]?\d+([.,]\d+)?", text))


def _cell(record: Record, column: str) -> str:
    if column == "other":
        return " | ".join(f"{name}: {value}" for name, value in record.extra)
    value = getattr(record, column)
    if column == "authors":
        return _people(value)
    return "; ".join(value) if isinstance(value, tuple) else "" if value is None else str(value)


def _people(names: Sequence[str]) -> str:
    """The authors in one cell; a name that would be taken apart stands in quotes, and one that could be two people ends with the separator."""
    shown = "; ".join([name if comes_back(name) else f'"{name.replace(QUOTE, QUOTE * 2)}"' for name in names])
    return f"{shown};" if len(names) == 1 and name_of(names[0]).quality < 0.9 and shown == names[0] else shown


def write_csv(rows: Iterable[Sequence[object]]) -> Iterator[str]:
    """CSV text with cells made harmless, a row at a time."""
    for row in rows:
        out = io.StringIO()
        csv.writer(out, lineterminator="\r\n").writerow([harmless("" if cell is None else str(cell)) for cell in row])
        yield out.getvalue()


def write_xlsx(rows: Iterable[Sequence[object]], out: IO[bytes], sheet: str = "Records") -> None:
    """A workbook of one sheet; text stays text, whatever it looks like."""
    import xlsxwriter

    book = xlsxwriter.Workbook(out, {"constant_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    page = book.add_worksheet(sheet)
    page.freeze_panes(1, 0)
    for k, row in enumerate(rows):
        for column, cell in enumerate(row):
            if isinstance(cell, (int, float)):
                page.write_number(k, column, cell)
            elif cell is not None and cell != "":
                page.write_string(k, column, str(cell)[:32767])
    book.close()


def rows_of(
    records: Iterable[Record], columns: Sequence[str] = COLUMNS, more: Mapping[str, Iterable[str]] | None = None
) -> Iterator[list[str]]:
    """A row of column names, then one row a record: ``columns`` are fields or "other", ``more`` columns have a value for each record, asked for after it."""
    more = more or {}
    beside = [iter(values) for values in more.values()]
    yield [*(_HEADERS.get(column, column) for column in columns), *more]
    for record in records:
        yield [*(_cell(record, column) for column in columns), *(next(values) for values in beside)]


def forced_shape(sample: str, delimiter: str) -> Shape:
    """How a text stands as a table although nothing speaks for one: the commonest delimiter, the first row as names."""
    delimiter = delimiter or max(_DELIMITERS, key=sample[:20_000].count)
    rows = _first_rows(sample, delimiter)
    header = header_from(rows[0]) if rows else []
    return Shape(delimiter, 0, header, named_fields(header), False)


def head_of(book: Book, sheet: str) -> list[list[str]]:
    """The first rows of a sheet."""
    return [list(map(shown_in_cell, row)) for row, _ in zip(book.sheet(sheet).iter_rows(), range(60), strict=False)]


def with_header(shape: Shape, row: int, head: str | Sequence[Sequence[str]]) -> Shape:
    """The same table, but that its names stand in this row, counted from 1; 0 for no names at all."""
    rows = _first_rows(head, shape.delimiter, 60) if isinstance(head, str) else head
    if 0 < row <= len(rows):
        header = header_from(rows[row - 1])
        return shape._replace(at=row - 1, header=header, fields=known_fields(header, rows[row:]))
    width = max((len(word) for word in rows), default=0)
    header = [f"column {k}" for k in range(1, width + 1)]
    columns = {name: [word[k] for word in rows if k < len(word)] for k, name in enumerate(header)}
    return shape._replace(at=-1, header=header, fields=fields_by_likeness(columns, named=False))
