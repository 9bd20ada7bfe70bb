"""What a record's lines say beside what was understood, for looking before taking in."""

from __future__ import annotations

import re
from typing import NamedTuple

from kettlesort.core.formats import bibtex, nbib, ris, table
from kettlesort.core.record import Record

FIELD_LABELS = {
    "kind": "Kind", "title": "Title", "authors": "Authors", "year": "Year", "date": "Date", "journal": "Journal",
    "journal_short": "Journal, short", "volume": "Volume", "issue": "Issue", "pages": "Pages", "doi": "DOI",
    "accession": "Accession", "issn": "ISSN", "abstract": "Abstract", "language": "Language", "keywords": "Descriptors",
    "url": "Address", "publisher": "Publisher", "references": "Cites", "note": "Note",
}  # fmt: skip


class Line(NamedTuple):
    """One line of the file: its number, its text, the field it went to (``""``: none), the value, what looks odd."""

    number: int
    text: str
    field: str
    value: str
    odd: str


_TAGGED = re.compile(r"([A-Z][A-Z0-9]{1,3}) {0,2}- ?(.*)")
_BIB_FIELD = re.compile(r"\s*,?\s*([A-Za-z][\w-]*)\s*=\s*(.*)")


def trace(format: str, raw: str, first_line: int, record: Record, header: list[str] | None = None) -> list[Line]:
    """The lines of ``raw``, a record's text in a file of ``format``, each beside what came of it."""
    if format in ("csv", "tsv", "xlsx"):
        return _cells(format, raw, first_line, record, header or [])
    field_of = {"ris": ris.FIELD_OF, "nbib": nbib.FIELD_OF, "bibtex": bibtex.FIELD_OF}[format]
    pattern = _BIB_FIELD if format == "bibtex" else _TAGGED
    lines: list[Line] = []
    shown: set[str] = set()
    counters: dict[str, int] = {}
    for number, text in enumerate(raw.split("\n"), first_line):
        found = pattern.match(text)
        if not found:
            if lines and lines[-1].field and text.strip() and not lines[-1].odd and format != "bibtex":
                lines[-1] = lines[-1]._replace(odd="lines joined")
            lines.append(Line(number, text, "", "", ""))
            continue
        tag = found[1].lower() if format == "bibtex" else found[1]
        field = field_of.get(tag, "")
        if tag == "ER":
            lines.append(Line(number, text, "", "", ""))
        elif not field:
            lines.append(Line(number, text, "—", "kept, not used", "nobody knows this tag"))
        else:
            lines.append(_understood(number, text, field, found[2].strip(), record, shown, counters, format == "bibtex"))
    return lines


def _understood(
    number: int, text: str, field: str, given: str, record: Record, shown: set[str], counters: dict[str, int], whole: bool
) -> Line:
    """``whole``: one line holds all values of a field that has many."""
    value = getattr(record, field)
    if isinstance(value, tuple) and whole:
        return Line(number, text, FIELD_LABELS[field], " · ".join(value), "")
    if isinstance(value, tuple):
        at = counters.get(field, 0)
        counters[field] = at + 1
        label = "" if at else FIELD_LABELS[field]
        if "," in given and field == "keywords" and at == 0 and len(value) > 1 and value[0] != given:
            return Line(number, text, label, " · ".join(value), "")
        said = value[at] if at < len(value) else ""
        return Line(number, text, label, said, "" if said or not given else "kept, not used: another tag said it first")
    said = "" if value is None else str(value)
    if field in shown:
        return Line(number, text, "", "", "")
    shown.add(field)
    return Line(number, text, FIELD_LABELS[field], said, _odd(field, given, said))


def _odd(field: str, given: str, said: str) -> str:
    if field == "year":
        if not said:
            return "not a year; kept as given"
        rest = given.replace(said, "", 1).strip(" /-,.;{}")
        return f"“{rest}” kept as given" if rest else ""
    if field == "doi" and given.strip("{},") != said:
        return "address taken off" if "/" in given.split("10.")[0] else "written in lower case" if said else "no DOI in it"
    if field == "title" and said and said.isupper():
        return "all in capitals"
    return ""


def _cells(format: str, raw: str, first_line: int, record: Record, header: list[str]) -> list[Line]:
    import csv
    import io

    delimiter = "\t" if format != "csv" else table.delimiter_of(raw) or _most(raw)
    row = next(csv.reader(io.StringIO(raw), delimiter=delimiter), []) if format != "xlsx" else raw.split("\t")
    lines = []
    for k, cell in enumerate(row):
        name = header[k] if k < len(header) else f"column {k + 1}"
        field = table.column_of(name) or ""
        field = {"first_page": "pages", "last_page": "pages"}.get(field, field)
        value = getattr(record, field) if field else ""
        said = " · ".join(value) if isinstance(value, tuple) else "" if value is None else str(value)
        if not field and cell.strip():
            lines.append(Line(first_line, f"{name}: {cell}", "—", "kept, not used", "nobody knows this column"))
        else:
            lines.append(Line(first_line, f"{name}: {cell}", FIELD_LABELS.get(field, ""), said, _odd(field, cell, said) if cell else ""))
    return lines


def _most(raw: str) -> str:
    return max((",", ";", "|"), key=raw.count)
