"""Tables as people keep them: headers in several languages, lines before the header, cells of every type."""

from __future__ import annotations

import io
from datetime import date

import pytest
import xlsxwriter

from kettlesort.core import formats
from kettlesort.core.formats import Entry, Reading
from kettlesort.core.formats.table import column_of, harmless
from kettlesort.core.record import Record


def read(data: bytes | str) -> tuple[list[Entry], Reading]:
    reading = formats.open_reading(io.BytesIO(data.encode() if isinstance(data, str) else data))
    return list(reading), reading


def only(data: bytes | str) -> Record:
    (entry,), _ = read(data)
    return entry.record


def workbook(*sheets: list[list[object]]) -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"default_date_format": "yyyy-mm-dd"})
    for rows in sheets:
        page = book.add_worksheet()
        for k, row in enumerate(rows):
            page.write_row(k, 0, row)
    book.close()
    return out.getvalue()


@pytest.mark.parametrize(
    ("header", "field"),
    [
        ("Titel", "title"), ("Autoren", "authors"), ("Année", "year"), ("Résumé", "abstract"), ("Mots-clés", "keywords"), ("Source title", "journal"),
        ("DOI Link", "doi"), ("  page  START ", "first_page"), ("PubYear", "year"), ("Hive weight", None), ("", None),
    ],
)  # fmt: skip
def test_columns_are_known_by_name_in_several_languages(header: str, field: str | None) -> None:
    assert column_of(header) == field


def test_lines_before_the_header_are_told_and_lines_within_cells_are_counted() -> None:
    entries, reading = read('Exported by a library\n\nTitle,Year,Abstract\n"One, with comma",2001,"First line\nsecond line"\nTwo,2002,\n')
    assert [(it.line, it.end_line, it.record.title) for it in entries] == [(4, 5, "One, with comma"), (6, 6, "Two")]
    assert entries[0].record.abstract == "First line second line"
    assert entries[0].raw == '"One, with comma",2001,"First line\nsecond line"'
    assert [(it.line, it.message) for it in reading.problems] == [(1, "a heading before the first record: “Exported by a library”")]


@pytest.mark.parametrize(
    ("cell", "people"),
    [
        ("Orsel, Tamsin; Ames, Rudd", ("Orsel, Tamsin", "Ames, Rudd")),
        ("Orsel T, Ames RB", ("Orsel, T", "Ames, RB")),
        ("Tamsin Orsel and Rudd Ames", ("Orsel, Tamsin", "Ames, Rudd")),
        ("Orsel, Tamsin", ("Orsel, Tamsin",)),
        ("Hive Group", ("Hive Group",)),
        ("", ()),
    ],
)
def test_people_in_one_cell_are_told_apart(cell: str, people: tuple[str, ...]) -> None:
    assert only(f'Title,Authors\nOne,"{cell}"\n').authors == people


def test_columns_that_fill_no_field_or_the_same_again_are_kept() -> None:
    entries, reading = read("Title,Year,Hive weight,Keywords,Tags,Note,Comments\nOne,2001,12 kg,wrap; foam,winter,first,second,surplus\n")
    it = entries[0].record
    assert it.keywords == ("wrap", "foam", "winter")
    assert it.note == "first"
    assert it.extra == (("Hive weight", "12 kg"), ("Comments", "second"), ("column 8", "surplus"))
    assert "8 cells where the header has 7" in reading.problems[0].message


def test_what_is_missing_or_makes_no_sense_is_told_with_its_line() -> None:
    entries, reading = read("Title;Year;DOI\n;2001;\nTwo;spring;https://doi.org/10.5555/AB.\n")
    assert [(it.line, it.message) for it in reading.problems] == [
        (2, "this row has no title"),
        (3, "“spring” is not a year; kept as given"),
    ]
    assert (entries[1].record.year, entries[1].record.date, entries[1].record.doi) == (None, "spring", "10.5555/ab")


@pytest.mark.parametrize(
    ("said", "kind"),
    [("Conference Paper", "conference"), ("Dissertation", "thesis"), ("Trial registration", "registration"), ("book", "book"), ("Poem", "other"), ("", "article")],
)  # fmt: skip
def test_kinds_are_understood_from_what_sources_call_them(said: str, kind: str) -> None:
    assert only(f"Title,Year,Type\nOne,2001,{said}\n").kind == kind


def test_a_sheet_is_found_by_its_header_and_numbers_and_dates_are_taken_as_typed() -> None:
    notes: list[list[object]] = [["About this file"], ["Made by hand"]]
    records: list[list[object]] = [[], ["Hives 2026"], ["Title", "Year", "Volume", "Start page", "End page", "Date"]]
    records += [["One", 2001, 5.0, 10, 18, date(2001, 3, 9)], [None, None], ["Two", "2002", 5.5, "e10", None, None]]
    entries, reading = read(workbook(notes, records))
    one, two = (it.record for it in entries)
    assert (one.year, one.volume, one.pages, one.date) == (2001, "5", "10–18", "2001-03-09")
    assert (two.year, two.volume, two.pages) == (2002, "5.5", "e10")
    assert [it.line for it in entries] == [4, 6]
    assert reading.format == "xlsx"
    assert [it.line for it in reading.problems] == [2]


def test_a_workbook_without_a_header_says_what_it_looked_for() -> None:
    entries, reading = read(workbook([["One", 2001], ["Two", 2002]]))
    assert entries == []
    assert "no sheet has a row of column names" in reading.problems[0].message


@pytest.mark.parametrize(
    ("cell", "shown"), [("=1+1", "'=1+1"), ("@x", "'@x"), ("-3", "-3"), ("+1,5", "+1,5"), ("-x", "'-x"), ("\tx", "'\tx"), ("x=1", "x=1")]
)
def test_a_cell_that_a_spreadsheet_would_compute_is_made_harmless(cell: str, shown: str) -> None:
    assert harmless(cell) == shown
