"""What a record's lines say beside what was understood, for looking before taking in."""

from __future__ import annotations

import csv
import html
import io
import re
from collections.abc import Callable, Mapping
from typing import NamedTuple

from kettlesort.core.formats import bibtex, csljson, medline, table
from kettlesort.core.formats.recipe import Recipe, labelled, shipped
from kettlesort.core.record import Record

FIELD_LABELS = {
    "kind": "Kind", "title": "Title", "authors": "Authors", "year": "Year", "date": "Date", "journal": "Journal",
    "journal_short": "Journal, short", "volume": "Volume", "issue": "Issue", "pages": "Pages", "doi": "DOI",
    "accession": "Accession", "issn": "ISSN", "abstract": "Abstract", "language": "Language", "keywords": "Descriptors",
    "url": "Address", "publisher": "Publisher", "references": "Cites", "note": "Note",
}  # fmt: skip


class Line(NamedTuple):
    """One line of the file: its number, its text, the field it went to (``""``: none), the value, what looks odd.

    ``label`` is the tag or column to which another field can be given, "" where there is none.
    """

    number: int
    text: str
    field: str
    value: str
    odd: str
    label: str = ""


_BIB_FIELD = re.compile(r"\s*,?\s*([A-Za-z][\w-]*)\s*=\s*(.*)")
_XML_FIELD = re.compile(r"\s*<(\w+)[^>]*>([^<]*)")
_JSON_FIELD = re.compile(r'\s*[{,]?\s*"([^"]+)"\s*:\s*(.*)')
_NARROW = re.compile(r"([A-Z][A-Z0-9]{1,3}) {0,2}- ?(.*)")
_PARTS = {
    "first_page": "pages",
    "last_page": "pages",
    "short_authors": "authors",
    "group_authors": "authors",
    "identifiers": "doi",
    "place": "journal",
    "article_number": "pages",
    "kinds": "kind",
    "family_name": "authors",
    "given_name": "authors",
}


def trace(
    format: str, raw: str, first_line: int, record: Record, header: list[str] | None = None, fields: Mapping[str, str] | None = None,
    recipe: Recipe | None = None, delimiter: str = "",
) -> list[Line]:  # fmt: skip
    """The lines of ``raw``, a record's text in a file of ``format``, each beside what came of it.

    ``fields`` says which field each tag or column filled, where that is not as the format has it.
    """
    if format in ("csv", "tsv", "xlsx", "xls", "ods"):
        return _cells(format, raw, first_line, record, header or [], fields, delimiter)
    if format == "identifiers":
        return [Line(first_line, raw, "DOI" if record.doi else "Accession", record.doi or record.accession, "")]
    if format == "catalogue":
        return _by_value(raw, first_line, record)
    if format == "csljson":
        raw = raw.replace(', "', ',\n "') if "\n" not in raw else raw
    field_of, read = _ways(format, fields, recipe)
    lines: list[Line] = []
    shown: set[str] = set()
    counters: dict[str, int] = {}
    whole = format in ("bibtex", "csljson")
    for number, text in enumerate(raw.split("\n"), first_line):
        number = first_line if format == "csljson" and "\n" in raw else number
        tag, given = read(text)
        if not tag:
            if lines and lines[-1].field and text.strip() and not lines[-1].odd and format not in ("bibtex", "csljson", "medline"):
                lines[-1] = lines[-1]._replace(odd="lines joined")
            lines.append(Line(number, text, "", "", ""))
            continue
        field = _PARTS.get(field_of.get(tag, ""), field_of.get(tag, ""))
        if (tag == "ER" and format == "ris") or (recipe and tag == recipe.end) or (format == "medline" and not given.strip()):
            lines.append(Line(number, text, "", "", ""))
        elif not field:
            lines.append(Line(number, text, "—", "kept, not used", "" if format == "medline" else "nobody knows this tag"))
        else:
            lines.append(_understood(number, text, field, given.strip(), record, shown, counters, whole))
        if format in ("ris", "nbib") and not recipe:
            lines[-1] = lines[-1]._replace(label=tag)
    return lines


def _by_value(raw: str, first_line: int, record: Record) -> list[Line]:
    """Lines beside the field whose value they hold, for text of which no label is known."""
    values = [(field, value) for field in FIELD_LABELS for value in _each(getattr(record, field)) if len(value) > 1]
    lines = []
    for number, text in enumerate(raw.split("\n"), first_line):
        said = " ".join(html.unescape(re.sub(r"<[^>]*>", " ", text)).split()).rstrip(" ./:;,")
        folded = said.casefold()
        found = next(
            ((f, v) for f, v in values if said and (v.casefold() == folded or (len(said) > 3 and folded in v.casefold()))), ("", "")
        )
        lines.append(Line(number, text, FIELD_LABELS[found[0]] if found[0] else "", found[1], ""))
    return lines


def _each(value: object) -> tuple[str, ...]:
    return value if isinstance(value, tuple) else () if value is None else (str(value),)


def _ways(
    format: str, fields: Mapping[str, str] | None, recipe: Recipe | None
) -> tuple[Mapping[str, str], Callable[[str], tuple[str, str]]]:
    """Which field each label fills, and how a line is taken apart into label and value."""
    if recipe:

        def by_recipe(text: str) -> tuple[str, str]:
            _, tag, value = next(iter(labelled(recipe, [(0, text)])))
            return tag, value

        return recipe.fields, by_recipe
    pattern = {"bibtex": _BIB_FIELD, "medline": _XML_FIELD, "csljson": _JSON_FIELD}.get(format, _NARROW)
    known = (
        {"bibtex": bibtex.FIELD_OF, "medline": medline.PLACES, "csljson": csljson.PLACES}.get(format)
        or fields
        or shipped().get(format, shipped()["ris"]).fields
    )

    def by_pattern(text: str) -> tuple[str, str]:
        found = pattern.match(text)
        return (found[1].lower() if format == "bibtex" else found[1], found[2]) if found else ("", "")

    return known, by_pattern


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
        if at == 0 and len(value) > 1 and value[0] != given and all(one.partition(",")[0] in given for one in value[:3]):
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


def _cells(
    format: str, raw: str, first_line: int, record: Record, header: list[str], fields: Mapping[str, str] | None, delimiter: str
) -> list[Line]:  # fmt: skip
    delimiter = delimiter or ("\t" if format != "csv" else max((",", ";", "|"), key=raw.count))
    row = next(csv.reader(io.StringIO(raw), delimiter=delimiter), []) if format in ("csv", "tsv") else raw.split("\t")
    lines = []
    for k, cell in enumerate(row):
        name = header[k] if k < len(header) else f"column {k + 1}"
        field = (fields.get(name, "") if fields else table.column_of(name)) or ""
        field = _PARTS.get(field, field)
        value = getattr(record, field) if field else ""
        said = " · ".join(value) if isinstance(value, tuple) else "" if value is None else str(value)
        if not field and cell.strip():
            lines.append(Line(first_line, f"{name}: {cell}", "—", "kept, not used", "nobody knows this column", name))
        else:
            lines.append(
                Line(first_line, f"{name}: {cell}", FIELD_LABELS.get(field, ""), said, _odd(field, cell, said) if cell else "", name)
            )
    return lines
