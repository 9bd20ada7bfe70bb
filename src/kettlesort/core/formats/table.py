"""Tables: CSV, TSV and other delimited text, and XLSX sheets, by the names of their columns."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator, Sequence
from typing import BinaryIO

import python_calamine
import xlsxwriter

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.source import Problem, TextSource
from kettlesort.core.record import KINDS, Record, author_name, doi_of, pages_of, plain, year_of

_NAMES = {
    "title": "title, article title, document title, primary title, item title, titel, titre, titulo",
    "authors": "authors, author, author names, author s, author full names, creators, autoren, auteurs, autores",
    "year": "year, publication year, pub year, publishedyear, date published, pubyear, jahr, annee, ano, year of publication",
    "date": "date, publication date, published",
    "journal": "journal, source title, source, publication title, publication, journal book, journal name, zeitschrift, revue, revista",
    "journal_short": "journal abbreviation, abbreviated source title, journal short",
    "volume": "volume, vol, band",
    "issue": "issue, number, no, heft, issue number",
    "pages": "pages, page, page range, seiten, pages range",
    "first_page": "start page, page start, first page, begin page",
    "last_page": "end page, page end, last page",
    "doi": "doi, digital object identifier, doi link",
    "accession": "accession, id, accession number, record id, unique id, identifier, an, pmid, key",
    "issn": "issn, issn isbn, isbn",
    "abstract": "abstract, abstract note, summary, zusammenfassung, resume, resumen, description",
    "language": "language, language of original document, sprache, langue, idioma",
    "keywords": "keywords, author keywords, index keywords, descriptors, subject headings, tags, subjects, schlagworter, mots cles",
    "url": "url, link, links, address",
    "publisher": "publisher, verlag",
    "kind": "type, document type, publication type, kind, item type, record type",
    "references": "references, cited references, reference",
    "note": "note, notes, comments",
}
FIELD_OF = {name.strip(): field for field, names in _NAMES.items() for name in names.split(",")}
_DELIMITERS = (",", "\t", ";", "|")
_WORDS = re.compile(r"[^a-z0-9]+")
csv.field_size_limit(16_000_000)


def column_of(header: str) -> str | None:
    """The field that a column of this name holds, or ``None``."""
    import unicodedata

    ascii_ = "".join(c for c in unicodedata.normalize("NFKD", header) if not unicodedata.combining(c))
    return FIELD_OF.get(_WORDS.sub(" ", ascii_.lower()).strip())


def delimiter_of(sample: str) -> str | None:
    """The delimiter whose first few rows hold a line of known column names, or ``None``."""
    best: tuple[int, str] | None = None
    for delimiter in _DELIMITERS:
        for row in _first_rows(sample, delimiter):
            known = len({column_of(cell) for cell in row} - {None})
            if known >= 2 and (best is None or known > best[0]):
                best = (known, delimiter)
    return best[1] if best else None


def _first_rows(sample: str, delimiter: str) -> list[list[str]]:
    rows: list[list[str]] = []
    try:
        for row in csv.reader(io.StringIO(sample), delimiter=delimiter):
            rows.append(row)
            if len(rows) == 20:
                break
    except csv.Error:
        pass
    return rows


class _Lines:
    """Lines of a text source for the csv module, remembered until `taken` hands them out as raw text."""

    def __init__(self, source: TextSource) -> None:
        self._pieces = iter(source)
        self._held: list[str] = []
        self.line = 0

    def __iter__(self) -> Iterator[str]:
        tail = ""
        for piece in self._pieces:
            lines = (tail + piece).split("\n")
            tail = lines.pop()
            for line in lines:
                yield self._seen(line + "\n")
        if tail:
            yield self._seen(tail)

    def _seen(self, line: str) -> str:
        self.line += 1
        line = line.replace("\x00", "")
        self._held.append(line)
        return line

    def taken(self) -> str:
        raw = "".join(self._held).rstrip("\n")
        self._held.clear()
        return raw


def read_delimited(source: TextSource, problems: list[Problem]) -> Iterator[Entry]:
    """The entries of delimited text with a line of column names; lines before it are told."""
    delimiter = delimiter_of(source.sample) or ","
    lines = _Lines(source)

    def rows() -> Iterator[tuple[int, str, list[str]]]:
        reader = csv.reader(lines, delimiter=delimiter)
        first = 1
        while True:
            try:
                row = next(reader)
            except StopIteration:
                return
            except csv.Error as error:
                problems.append(Problem(first, f"this row could not be read: {error}"))
                row = []
            yield first, lines.taken(), row
            first = lines.line + 1

    yield from _entries(rows(), problems)


def read_sheet(file: BinaryIO, problems: list[Problem]) -> Iterator[Entry]:
    """The entries of the first sheet of a workbook that has a row of column names."""
    book = python_calamine.CalamineWorkbook.from_filelike(file)
    for name in book.sheet_names:
        sheet = book.get_sheet_by_name(name)
        cells = sheet.to_python(skip_empty_area=False)
        head = [[_shown(cell) for cell in row] for row in cells[:20]]
        if any(_knows(row) for row in head):
            rows = ((k, "\t".join(map(_shown, row)), list(map(_shown, row))) for k, row in enumerate(cells, 1))
            yield from _entries(rows, problems)
            return
    problems.append(Problem(0, "no sheet has a row of column names such as Title, Authors, Year"))


def sheet_header(file: BinaryIO) -> list[str]:
    """The column names of the sheet that `read_sheet` reads."""
    book = python_calamine.CalamineWorkbook.from_filelike(file)
    for name in book.sheet_names:
        for row in book.get_sheet_by_name(name).to_python(skip_empty_area=False)[:20]:
            shown = [_shown(cell) for cell in row]
            if _knows(shown):
                return shown
    return []


def delimited_header(sample: str) -> list[str]:
    """The column names that `read_delimited` finds."""
    rows = _first_rows(sample, delimiter_of(sample) or ",")
    return next(([cell.strip().lstrip("\ufeff") for cell in row] for row in rows if _knows(row)), [])


def _shown(cell: object) -> str:
    if isinstance(cell, float) and cell.is_integer():
        return str(int(cell))
    return "" if cell is None else str(cell)


def _knows(row: Sequence[str]) -> bool:
    return len({column_of(cell) for cell in row} - {None}) >= 2


def _entries(rows: Iterator[tuple[int, str, list[str]]], problems: list[Problem]) -> Iterator[Entry]:
    header: list[str] | None = None
    position = 0
    for line, raw, row in rows:
        if not any(cell.strip() for cell in row):
            continue
        if header is None:
            if _knows(row):
                header = [cell.strip().lstrip("\ufeff") for cell in row]
                fields = [column_of(name) for name in header]
            else:
                problems.append(Problem(line, f"before the row of column names, not read: “{' '.join(row)[:60]}”"))
            continue
        if len(row) > len(header):
            problems.append(Problem(line, f"{len(row)} cells where the header has {len(header)}; the surplus is kept unnamed"))
        position += 1
        yield Entry(position, line, line + raw.count("\n"), raw, _record(header, fields, row, line, problems))


_PEOPLE = re.compile(r"\s*;\s*|\s+and\s+")
_SOME = re.compile(r"\s*[;|]\s*")


def _people(text: str) -> tuple[str, ...]:
    """A cell of names: split at semicolons, or at commas where those must separate people ("Orsel T, Ames B")."""
    parts = [part for part in _PEOPLE.split(text) if part]
    if (len(parts) == 1 and parts[0].count(",") > 1) or (len(parts) == 1 and re.search(r"^\S+ [A-Z]{1,3},", text)):
        parts = [part for part in re.split(r"\s*,\s*", text) if part]
    return tuple(author_name(part) for part in parts)


def _kind(text: str) -> str:
    lowered = text.lower()
    if lowered in KINDS:
        return lowered
    hints = (
        ("conference", "conference"), ("proceeding", "conference"), ("thesis", "thesis"), ("dissertation", "thesis"),
        ("chapter", "chapter"), ("book", "book"), ("preprint", "preprint"), ("registr", "registration"), ("trial", "registration"),
        ("report", "report"), ("web", "website"), ("article", "article"), ("journal", "article"), ("review", "article"),
    )  # fmt: skip
    return next((kind for hint, kind in hints if hint in lowered), "other" if text else "article")


def _record(header: list[str], fields: list[str | None], row: list[str], line: int, problems: list[Problem]) -> Record:
    cell: dict[str, str] = {}
    extra: list[tuple[str, str]] = []
    for k, value in enumerate(row):
        value = value.strip()
        if not value:
            continue
        field = fields[k] if k < len(fields) else None
        if field is None:
            extra.append((header[k] if k < len(header) else f"column {k + 1}", value))
        elif field in cell and field != "keywords":
            extra.append((header[k], value))
        elif field == "keywords" and field in cell:
            cell[field] += "; " + value
        else:
            cell[field] = value
    dated = cell.get("year") or cell.get("date", "")
    year = year_of(dated) if dated else None
    if dated and year is None:
        problems.append(Problem(line, f"“{dated[:40]}” is not a year; kept as given"))
    if not cell.get("title"):
        problems.append(Problem(line, "this row has no title"))
    url = cell.get("url", "")
    pages = cell.get("pages", "")
    return Record(
        kind=_kind(cell.get("kind", "")),
        title=plain(cell.get("title", "")),
        authors=_people(cell.get("authors", "")),
        year=year,
        date=cell.get("date", dated),
        journal=cell.get("journal", ""),
        journal_short=cell.get("journal_short", ""),
        volume=cell.get("volume", ""),
        issue=cell.get("issue", ""),
        pages=pages_of(pages) if pages else pages_of(cell.get("first_page", ""), cell.get("last_page", "")),
        doi=doi_of(cell.get("doi") or (url if "doi" in url else "")),
        accession=cell.get("accession", ""),
        issn=cell.get("issn", ""),
        abstract=plain(cell.get("abstract", "")),
        language=cell.get("language", ""),
        keywords=tuple(word for word in _SOME.split(cell.get("keywords", "")) if word),
        url=url,
        publisher=cell.get("publisher", ""),
        references=tuple(word for word in _SOME.split(cell.get("references", "")) if word),
        note=cell.get("note", ""),
        extra=tuple(extra),
    )


COLUMNS = (
    "accession", "kind", "title", "authors", "year", "date", "journal", "journal_short", "volume", "issue", "pages", "doi",
    "issn", "abstract", "language", "keywords", "url", "publisher", "references", "note",
)  # fmt: skip
_HEADERS = {"journal_short": "journal abbreviation"}


def harmless(text: str) -> str:
    """``text`` so that no spreadsheet takes it for a formula: an apostrophe before = + - @ and control characters."""
    return "'" + text if text[:1] in ("=", "+", "-", "@", "\t", "\r") and not _is_number(text) else text


def _is_number(text: str) -> bool:
    return bool(re.fullmatch(r"[+-]?\d+([.,]\d+)?", text))


def _row(it: Record) -> list[str]:
    values: dict[str, object] = it._asdict()
    return [
        "; ".join(value) if isinstance(value, tuple) else "" if value is None else str(value)
        for value in (values[column] for column in COLUMNS)
    ]


def write_csv(rows: Iterable[Sequence[object]]) -> Iterator[str]:
    """CSV text with cells made harmless, a row at a time."""
    for row in rows:
        out = io.StringIO()
        csv.writer(out, lineterminator="\r\n").writerow([harmless("" if cell is None else str(cell)) for cell in row])
        yield out.getvalue()


def write_xlsx(rows: Iterable[Sequence[object]], out: BinaryIO, sheet: str = "Records") -> None:
    """A workbook of one sheet; text stays text, whatever it looks like."""
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


def rows_of(records: Iterable[Record]) -> Iterator[list[str]]:
    """A row of column names, then one row a record."""
    yield [_HEADERS.get(column, column) for column in COLUMNS]
    for record in records:
        yield _row(record)
