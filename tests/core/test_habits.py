"""Habits of sources that no format knows of: numbers, signs and values where none belong."""

from __future__ import annotations

import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core import formats
from kettlesort.core.formats import Entry, Reading, open_reading
from kettlesort.core.formats.places import place_in, volume_in
from kettlesort.core.formats.settle import decoded
from kettlesort.core.record import KINDS, Record

RIS = "TY  - JOUR\nTI  - Wrapped hives\nAU  - Orsel, W\nPY  - 2016\nER  - \n"
NBIB = "PMID- 7300001\nTI  - Wrapped hives\nFAU - Orsel, W\nDP  - 2016\n"


def read(data: str | bytes) -> tuple[list[Entry], Reading]:
    reading = open_reading(io.BytesIO(data.encode() if isinstance(data, str) else data))
    return list(reading), reading


def only(data: str | bytes) -> Record:
    (entry,), reading = read(data)
    assert [it for it in reading.problems if not it.remark] == []
    return entry.record


@pytest.mark.parametrize(
    "text",
    [
        "1.\n" + RIS + "\n2.\n" + RIS,
        "1. " + RIS + "\n2. " + RIS,
        "[1]\n\n" + RIS + "\n[2]\n\n" + RIS,
        "Record 1 of 2\n" + RIS + "Record 2 of 2\n" + RIS,
        RIS.replace("TY", "ty").replace("TI", "ti").replace("AU", "au").replace("PY", "py").replace("ER", "er") * 2,
        "".join(f"  {line}\n" for line in RIS.splitlines()) * 2,
        RIS.replace("  - ", "  – ") * 2,
        RIS.replace("  - ", "  -") * 2,
        RIS.replace("  - ", "\t- ") * 2,
        RIS.replace("  - ", " \u00a0- ") * 2,
        "Library of Lids, version 3\nExported on 4 February\n\n" + RIS * 2,
        "1: " + NBIB + "\n2: " + NBIB.replace("7300001", "7300002"),
        NBIB.lower() + "\n" + NBIB.lower().replace("7300001", "7300002"),
    ],
)
def test_tags_that_are_not_quite_those_of_the_format(text: str) -> None:
    entries, reading = read(text)
    assert [(it.record.title.lower(), it.record.year, it.record.authors[0].lower()) for it in entries] == [
        ("wrapped hives", 2016, "orsel, w")
    ] * 2
    assert [it for it in reading.problems if not it.remark] == []


@pytest.mark.parametrize(
    ("data", "line"),
    [
        (RIS.replace("Wrapped", "Wrap\x00ped"), 2),
        (RIS.replace("Wrapped", "Wrap\x1f\x07ped").encode() * 2, 2),
        ("Title,Year,Authors\nWrap\x00ped hives,2016,Orsel W\n", 2),
        ("@article{a,\n title={Wrap\x02ped hives},\n year=2016}", 2),
    ],
)
def test_control_characters_are_taken_out_and_told_by_line(data: str | bytes, line: int) -> None:
    entries, reading = read(data)
    assert {it.record.title for it in entries} == {"Wrapped hives"}
    assert reading.problems[0].line == line
    assert "control characters" in reading.problems[0].message


def test_a_bibtex_year_in_a_date_and_entries_in_round_brackets() -> None:
    assert only("@article{a, title={Lids}, date={2016-05-01}}").year == 2016
    entries, _ = read('@article(a, title={Lids (small)}, note="a ) b", year=2016)\n@book(b,\n title = {Wraps},\n year = {2017})\n')
    assert [(it.record.title, it.record.year, it.record.note) for it in entries] == [("Lids (small)", 2016, "a ) b"), ("Wraps", 2017, "")]


@pytest.mark.parametrize(
    "line", ["M3  - 10.5555/ABC.1", "L3  - https://doi.org/10.5555/abc.1", "N1  - doi: 10.5555/abc.1", "C8  - DOI 10.5555/abc.1."]
)
def test_a_doi_is_known_under_any_label(line: str) -> None:
    record = only(RIS.replace("ER", f"{line}\nER"))
    assert record.doi == "10.5555/abc.1"
    assert not record.extra


def test_a_doi_within_a_sentence_is_not_the_records_own() -> None:
    assert only(RIS.replace("ER", "N1  - Comment on doi: 10.5555/abc.1 and others\nER")).doi == ""


@pytest.mark.parametrize("label", ["Erratum DOI", "Correction", "Related DOI", "Cited by", "Comment on", "Preprint DOI"])
def test_a_doi_of_another_record_is_not_taken(label: str) -> None:
    record = only(f"Title,Year,{label},Authors\nLids and straw,2016,10.5555/abc.1,Orsel W\n")
    assert (record.doi, record.extra) == ("", ((label, "10.5555/abc.1"),))


@pytest.mark.parametrize("tag", ["EIN", "CON", "RPI", "UOF"])
def test_a_notice_points_to_another_record(tag: str) -> None:
    record = only(f"{NBIB}{tag.ljust(4)}- 10.5555/abc.1\n")
    assert (record.doi, record.extra) == ("", ((tag, "10.5555/abc.1"),))


@pytest.mark.parametrize("column", ["Identifier", "Identifiers"])
def test_several_identifiers_in_one_column(column: str) -> None:
    said = "PMID: 123; DOI: 10.5555/abc.1; ISSN: 1234-5678"
    record = only(f"Title,Year,{column},Authors\nLids,2016,{said},Orsel W\n")
    assert (record.doi, record.accession) == ("10.5555/abc.1", "123")
    assert ("identifiers", said) in record.extra


def test_the_year_stands_where_it_and_the_date_disagree_and_it_is_said() -> None:
    ((entry,), reading) = read(RIS.replace("ER", "DA  - 2015/12/30\nER"))
    assert (entry.record.year, entry.record.date) == (2016, "2015/12/30")
    assert [(it.kind, it.records) for it in reading.settled.said({"dates": "they disagree"})] == [("dates", 1)]
    for format in formats.WRITABLE:
        out = io.BytesIO()
        formats.write([entry.record], format, out)
        assert only(out.getvalue()).year == 2016, format


@pytest.mark.parametrize(
    ("text", "meant"),
    [
        ("MÃ¼llbach", "Müllbach"), ("Ã¸rsel â€“ a review", "ørsel – a review"), ("MÃƒÂ¼llbach", "Müllbach"), ("Ð¼ÐµÐ´", "мед"), ("â€œwrapsâ€\x9d", "“wraps”"),
        ("naïve", "naïve"), ("São Paulo", "São Paulo"), ("Größe MÃ¼", "Größe MÃ¼"), ("Ã la carte", "Ã la carte"),
    ],
)  # fmt: skip
def test_what_was_encoded_twice_is_mended_only_where_it_is_certain(text: str, meant: str) -> None:
    assert decoded(text) == meant


def test_mending_is_said_and_the_raw_text_stays() -> None:
    ((entry,), reading) = read(RIS.replace("Wrapped", "Müller’s".encode().decode("cp1252")))
    assert entry.record.title == "Müller’s hives"
    assert "MÃ¼ller" in entry.raw
    assert [(it.kind, it.places[0].line) for it in reading.settled.said({"decoded": "mended"})] == [("decoded", 1)]


@pytest.mark.parametrize(
    "text",
    [
        "Hive Letters 2016;12(3):1-9", "Hive Letters. 2016 May;12(3):1-9. doi: 10.5555/x", "Hive Letters, 12(3), 1-9 (2016)",
        "Hive Letters, Vol. 12, No. 3 (2016), pp. 1-9", "Hive Letters, vol. 12, no. 3, pp. 1-9, 2016", "Hive Letters, Vol. 12, No. 3 (May 2016), pp. 1-9",
        "Hive Letters, vol. 12, no. 3, May 2016, pp. 1-9", "Hive Letters. 12 (3) (pp 1-9), 2016. Date of Publication: May 2016.",
        "Hive Letters, Volume 12, Issue 3, 1 May 2016, Pages 1-9", "Hive Letters. May2016, Vol. 12 Issue 3, p1-9. 9p.", "Hive Letters v12 n3 p1-9 May 2016",
    ],
)  # fmt: skip
def test_a_place_in_one_text(text: str) -> None:
    assert place_in(text) == ("Hive Letters", 2016, "12", "3", "1–9")


def test_places_that_say_less_and_texts_that_are_none() -> None:
    assert place_in("Hive Letters 12 (2016) e17") == ("Hive Letters", 2016, "12", "", "e17")
    assert place_in("2016;12(3):1-9") == ("", 2016, "12", "3", "1–9")
    for text in (
        "Annals of the 2nd Congress", "Hives 2000", "Studies in Wax 3", "Hive Letters (London)", "Conference of Bees, May 2016, Oskarvik", "Hives, vol. 3",
        "Proceedings vol. 2, no. 3 of the Society",
    ):  # fmt: skip
        assert place_in(text) is None


@pytest.mark.parametrize(
    ("text", "parts"),
    [
        ("12(3)", ("12", "3", "")),
        ("Vol 12, No. 3", ("12", "3", "")),
        ("12/3", ("12", "3", "")),
        ("12/13", None),
        ("12(Suppl 1):S1-S9", ("12", "Suppl 1", "S1–S9")),
        ("XII", None),
    ],
)
def test_a_volume_that_holds_more(text: str, parts: tuple[str, str, str] | None) -> None:
    found = volume_in(text)
    assert (found and (found.volume, found.issue, found.pages)) == parts


def test_columns_are_known_by_what_they_hold() -> None:
    head = "Title,Persons involved,Published,Where,Link to it,From,To,Art. No.\n"
    rows = [
        f'Lids and straw in hives of kind {k},"Orsel W, Brask {chr(65 + k)}",{k + 1} May 2016,Hive Letters 2016;12({k}),https://doi.org/10.5555/a.{k},{100 + 9 * k},{104 + 9 * k},\n'
        for k in range(9)
    ]
    entries, _ = read(head + "".join(rows) + "Wraps of wax and straw,Quill R,2016,Hive Letters 2016;12(4),,,,e17\n")
    record = entries[2].record
    assert (record.authors, record.year, record.journal, record.volume, record.issue) == (
        ("Orsel, W", "Brask, C"),
        2016,
        "Hive Letters",
        "12",
        "2",
    )
    assert (record.doi, record.pages) == ("10.5555/a.2", "118–122")
    assert entries[-1].record.pages == "e17"


@pytest.mark.parametrize("sign", ["; ", ";", " | ", ", "])
def test_descriptors_in_one_value_are_taken_apart_where_all_of_a_file_stand_so(sign: str) -> None:
    heap = sign.join(["Bees", "Cold winters", "Hives"])
    one = RIS.replace("ER  -", f"KW  - {heap}\nER  -")
    entries, _ = read(one * 3)
    assert {entry.record.keywords for entry in entries} == {("Bees", "Cold winters", "Hives")}
    several = one.replace("ER  -", "KW  - Wraps\nER  -")
    entries, _ = read(one * 2 + several)
    assert entries[0].record.keywords == (heap.strip(),)  # a value each is this file's manner
    entries, _ = read(RIS.replace("ER  -", "KW  - Bees, wild\nER  -") * 3)
    assert entries[0].record.keywords == ("Bees, wild",)


@pytest.mark.parametrize("sign", [",", "\t", ";"])
def test_a_quote_that_nothing_closes_takes_no_other_row_with_it(sign: str) -> None:
    rows = [
        ["Title", "Authors", "Year", "Abstract"], ["Wraps", "Orsel W", "2016", '"Two lines\nof it"'], ['"Lids of hives', "Orsel W", "2017", '"All, at once"'],
        ["Walls", "Marsh O", "2018", "Wood"], ["Straw", '"Brask T', "2019", "Dry"], ["Wool", "Ames R", "2020", '"Warm'], ["Foam", "Ames R", "2021", '12" thick'],
    ]  # fmt: skip
    entries, reading = read("\n".join(sign.join(row) for row in rows) + "\n")
    assert [entry.record.title for entry in entries] == ["Wraps", '"Lids of hives', "Walls", "Straw", "Wool", "Foam"]
    assert [entry.record.year for entry in entries] == [2016, 2017, 2018, 2019, 2020, 2021]
    assert [entry.record.abstract for entry in entries] == ["Two lines of it", "All, at once", "Wood", "Dry", '"Warm', '12" thick']
    assert [(problem.line, problem.remark) for problem in reading.problems] == [(4, True), (6, True), (7, True)]
    assert [entry.line for entry in entries] == [2, 4, 5, 6, 7, 8]


def test_the_proceedings_of_a_meeting_stand_where_a_journal_does() -> None:
    meeting = only("TY  - CONF\nTI  - Walls\nC3  - Proceedings of the Hive Congress\nER  - \n")
    assert (meeting.journal, meeting.extra) == ("Proceedings of the Hive Congress", ())
    assert only(RIS.replace("ER  -", "C3  - 12 cm\nER  -")).extra == (("C3", "12 cm"),)


def test_authors_in_columns_of_their_own() -> None:
    three = "Author 1,Author 2,Author 3,Title,Year\n" + '"Orsel, W","Brask, T",,Wraps,2016\n"Marsh, O",,,Lids,2017\n' * 3
    assert [entry.record.authors for entry in read(three)[0]][:2] == [("Orsel, W", "Brask, T"), ("Marsh, O",)]
    again = three.replace("Author 1,Author 2,Author 3", "Author,Author,Author")
    assert read(again)[0][0].record.authors == ("Orsel, W", "Brask, T")
    both = 'Authors,First author,Title,Year\n"Orsel, W; Brask, T","Orsel, W",Wraps,2016\n' * 1
    assert only(both).authors == ("Orsel, W", "Brask, T")
    parts = only("First name,Last name,Title,Year\nWilma,de Orsel,Wraps,2016\n")
    assert parts.authors == ("de Orsel, Wilma",)
    assert only("First name,Title,Year\nWilma,Wraps,2016\n").extra == (("First name", "Wilma"),)


def test_people_who_stand_twice_are_read_once_by_their_fuller_names() -> None:
    head = "Authors,Author Full Names,Article Title,Publication Year,Start Page,Number of Pages\n"
    rows = '"Orsel, W; Brask, T","Orsel, Wilma; Brask, Tom",Wraps,2016,101,18\n"Marsh, O",,Lids,2017,7,2\n'
    assert [entry.record.authors for entry in read(head + rows)[0]] == [("Orsel, Wilma", "Brask, Tom"), ("Marsh, O",)]
    text = "FN A list\nVR 1.0\n" + "".join(
        f"PT J\nAU Orsel, W\n   Brask, T\nAF Orsel, Wilma\n   Brask, Tom\nTI Wraps of kind {k} in\n   winter\nSO HIVE LETTERS\nPY {2000 + k}\nBP {7 * k}\nEP {7 * k + 5}\nPG 6\n"
        f"CR Ames R, 2001, HIVE LETT, V1, P2\n   Marsh O, 2003, DOI 10.5555/cited.{k}\nDI 10.5555/own.{k}\nER\n\n"
        for k in range(1, 7)
    )  # fmt: skip
    first = read(text + "EF\n")[0][0].record
    assert (first.title, first.authors, first.year) == ("Wraps of kind 1 in winter", ("Orsel, Wilma", "Brask, Tom"), 2001)
    assert (first.doi, first.pages, first.references[1]) == ("10.5555/own.1", "7–12", "Marsh O, 2003, DOI 10.5555/cited.1")


@pytest.mark.parametrize(
    ("said", "meant"),
    [
        (r"CO$_2$ in $\alpha$-wraps", "CO2 in α-wraps"), ("H$_{2}$O and $p<0.05$", "H2O and p<0.05"), ("It costs $5 and $10", "It costs $5 and $10"),
        (r"{\"u}ber $5 and $10", "über $5 and $10"), (r"a\$\_b\$", "a$_b$"), ("$n$ hives", "n hives"),
    ],
)  # fmt: skip
def test_mathematics_in_bibtex_is_text(said: str, meant: str) -> None:
    assert only(f"@article{{a, title = {{{said}}}, year = 2016}}\n").title == meant


def test_a_column_that_speaks_of_a_title_holds_it() -> None:
    entries, _ = read("Nr;Title of the series;Titel des Artikels;Autor(en);Jahr\n1;Bees;Wickel;Orsel W;2016\n2;Bees;Deckel;Orsel W;2017\n")
    assert [entry.record.title for entry in entries] == ["Wickel", "Deckel"]


@pytest.mark.parametrize(
    "form",
    [
        "[{k}] AUTHORS:  Orsel, W; Brask, T\n    TITLE:    Wraps of kind {k} in winter\n    YEAR:     {year}\n    DOI:      10.5555/a.{k}\n\n",
        "{k}. AUTHORS: Orsel, W; Brask, T\nTITLE: Wraps of kind {k} in winter\nYEAR: {year}\nDOI: 10.5555/a.{k}\n",
        "==== {k} ====\nTI: Wraps of kind {k} in winter\nAU: Orsel W; Brask T\nPY: {year}\nDO: 10.5555/a.{k}\n",
        "Titre : Wraps of kind {k} in winter\nAuteur(s) : ORSEL, W ; BRASK, T\nAnnée : {year}\nIdentifiant : 10.5555/a.{k}\n\n",
    ],
)
@pytest.mark.parametrize("records", [2, 5])
def test_records_with_their_numbers_beside_or_above_their_labels(form: str, records: int) -> None:
    entries, _ = read("".join(form.format(k=k, year=2000 + k) for k in range(1, records + 1)) + "")
    assert [entry.record.title for entry in entries] == [f"Wraps of kind {k} in winter" for k in range(1, records + 1)]
    assert {tuple(name.title() for name in entry.record.authors) for entry in entries} == {("Orsel, W", "Brask, T")}
    assert [(entry.record.year, entry.record.doi) for entry in entries] == [(2000 + k, f"10.5555/a.{k}") for k in range(1, records + 1)]


def test_only_the_numbers_of_records_are_taken_from_before_labels() -> None:
    form = "{k}. AUTHORS: Orsel, W\nTITLE: Wraps of kind {k} in winter\nABSTRACT: Hives were weighed every week. {more}\nYEAR: 2016\n"
    late = form.format(k=4000, more="\n1. Methods: none.")
    entries, _ = read("".join(form.format(k=k, more="") for k in range(1, 4000)) + late)
    assert "1. Methods: none." in entries[-1].record.abstract


def test_json_of_another_program_is_read_by_the_names_it_uses() -> None:
    record = only(
        '[{"title": "Wraps", "authors": ["Orsel, W", "Brask, T"], "year": 2016, "journal": "Hive Letters", "doi": "10.5555/a", "pages": "1-9", "colour": "red"}]'
    )
    assert record[1:6] == ("Wraps", ("Orsel, W", "Brask, T"), 2016, "2016", "Hive Letters")
    assert (record.doi, record.pages, record.extra) == ("10.5555/a", "1–9", (("colour", "red"),))
    assert only('{"title": "Lids", "authors": "Orsel, W; Brask, T", "published": "2016"}').authors == ("Orsel, W", "Brask, T")


def test_a_last_page_alone_is_kept_and_a_word_to_spreadsheet_programs_is_no_heading() -> None:
    entries, reading = read("sep=;\nTitle;Authors;Year;Start Page;End Page\nWraps;Orsel W;2016;1;9\nLids;Orsel W;2017;;e12\n")
    assert [entry.record.pages for entry in entries] == ["1–9", "e12"]
    assert reading.problems == []


SIGNS = "abc ;,|&{}\\~^%$#\"'()[]<>=+-–:.@*/_`!?0é中"
ANY = (
    st.text(st.sampled_from(SIGNS), min_size=1, max_size=24)
    .map(lambda text: " ".join(("w" + text + "w").split()))
    .filter(lambda it: "<" not in it and "&" not in it)
)
NAMES = st.one_of(
    ANY.filter(lambda it: "," not in it),
    st.tuples(ANY, ANY).map(lambda it: f"{it[0].replace(',', '')}, {it[1].replace(',', '')}"),
)
ODD_RECORDS = st.builds(
    Record, kind=st.sampled_from([kind for kind in KINDS if kind not in ("preprint", "registration", "website", "other")]), title=ANY, authors=st.lists(NAMES, max_size=3, unique=True).map(tuple), year=st.integers(1900, 2030),
    journal=ANY, abstract=st.one_of(st.just(""), ANY), keywords=st.lists(ANY.filter(lambda it: not set(it) & set(";,|")), max_size=2, unique=True).map(tuple), publisher=ANY,
)  # fmt: skip


@pytest.mark.parametrize("format", ["ris", "nbib", "bibtex", "csv", "xlsx", "csljson"])
@given(records=st.lists(ODD_RECORDS, min_size=1, max_size=3))
def test_whatever_signs_a_field_holds_it_comes_back(format: str, records: list[Record]) -> None:
    fields = ("title", "authors", "year", "journal", "abstract", "keywords", "publisher")
    records = [
        Record(it.kind, accession=f"k{number}", date=str(it.year), **{name: getattr(it, name) for name in fields})
        for number, it in enumerate(records)
    ]
    out = io.BytesIO()
    formats.write(records, format, out)
    back, reading = read(out.getvalue())
    assert reading.problems == []
    for one, entry in zip(records, back, strict=True):
        for field in ("kind", "accession", *fields):
            assert getattr(entry.record, field) == getattr(one, field), field
