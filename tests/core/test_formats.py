"""Reading what sources export, and writing it again."""

from __future__ import annotations

import io
import zipfile

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core import formats
from kettlesort.core.formats import NotReadable, open_reading
from kettlesort.core.formats.trace import trace
from kettlesort.core.record import Record, doi_of, pages_of, year_of


def read(data: str | bytes) -> tuple[list[Record], formats.Reading]:
    reading = open_reading(io.BytesIO(data.encode() if isinstance(data, str) else data))
    return [entry.record for entry in reading], reading


def test_ris_of_the_older_form_with_wrapped_lines_is_understood() -> None:
    records, reading = read(
        "TY  - JOUR\r\nT1  - Insulated lids and moisture in small\r\ncolonies\r\nA1  - Orsel, Tamsin\r\nA1  - Rudd Quillby\r\nY1  - 2016///Winter\r\n"
        "DO  - https://doi.org/10.5555/AMA.2016.1109\r\nSP  - 9\r\nEP  - e17\r\nN2  - Moisture &amp; cold.\r\nM9  - 0.441\r\nER  - \r\n"
    )
    assert records == [
        Record(
            kind="article", title="Insulated lids and moisture in small colonies", authors=("Orsel, Tamsin", "Quillby, Rudd"), year=2016,
            date="2016///Winter", pages="9–e17", doi="10.5555/ama.2016.1109", abstract="Moisture &amp; cold.", extra=(("M9", "0.441"),),
        )
    ]  # fmt: skip
    assert (reading.format, reading.encoding, reading.problems) == ("ris", "UTF-8", [])


def test_ris_says_with_lines_what_it_could_not_read() -> None:
    records, reading = read("exported today\nTY  - JOUR\nTI  - One\nPY  - spring\nER  - \nbetween\nTY  - JOUR\nTI  - Two\n\nTY - JOUR\n")
    assert [it.title for it in records] == ["One", "Two"]
    assert [problem.line for problem in reading.problems] == [1, 4 - 2, 6, 7]
    assert "cut off" in reading.problems[-1].message


def test_ris_with_one_space_before_the_dash_is_ris_too() -> None:
    records, reading = read("TY - JOUR\nTI - Narrow tags\nAU - Orsel, T\nER -\n\nTY - JOUR\nTI - Two\nER -\n")
    assert reading.format == "ris"
    assert [(it.title, it.authors) for it in records] == [("Narrow tags", ("Orsel, T",)), ("Two", ())]


def test_nbib_takes_full_names_and_the_doi_among_identifiers() -> None:
    records, reading = read(
        "PMID- 7300001\nDP  - 2019 Feb\nTI  - Overwintering losses in wrapped\n      and unwrapped hives.\nPG  - 101-18\nLID - 10.5555/ama.2019.1402 [doi]\n"
        "AID - S123 [pii]\nFAU - Orsel, Tamsin\nAU  - Orsel T\nLA  - eng\nPT  - Congress\nTA  - Ann Apic\nMH  - Bees/*physiology\nOT  - hive\nXYZ - kept\n\nPMID- 7300002\nTI  - Next\n"
    )
    it = records[0]
    assert it.title == "Overwintering losses in wrapped and unwrapped hives."
    assert (it.authors, it.year, it.doi, it.kind, it.journal) == (
        ("Orsel, Tamsin",),
        2019,
        "10.5555/ama.2019.1402",
        "conference",
        "Ann Apic",
    )
    assert it.keywords == ("Bees/*physiology", "hive")
    assert set(it.extra) == {("AID", "S123 [pii]"), ("XYZ", "kept")}
    assert (reading.format, len(records)) == ("nbib", 2)


def test_bibtex_with_accents_strings_and_a_broken_entry() -> None:
    records, reading = read(
        '@string{j = "Hive Letters"}\n@article{k1, title={The {B}ees}, author={Bj{\\o}rn, A and Ames, B}, year=2020, journal=j}\n@article{k2, title={cut off\n'
    )
    assert [(it.title, it.authors, it.journal, it.accession) for it in records] == [
        ("The Bees", ("Bjørn, A", "Ames, B"), "Hive Letters", "k1")
    ]
    assert [problem.line for problem in reading.problems] == [3]


def test_bibtex_that_names_a_field_twice_keeps_both() -> None:
    records, reading = read("@article{a1, title = {Lids}, note = {one}, Note = {two}, keywords = {bees}}\n")
    assert [(it.title, it.note, it.extra) for it in records] == [("Lids", "one", (("note", "two"),))]
    assert [(problem.line, "the first is used" in problem.message) for problem in reading.problems] in ([], [(1, True)])
    out = io.BytesIO()
    formats.write(records, "bibtex", out)
    again, reading = read(out.getvalue())
    assert reading.problems == []
    assert (again[0].note, again[0].extra) == ("one", (("note2", "two"),))


@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
def test_tables_are_read_by_the_names_of_their_columns(delimiter: str) -> None:
    head = ["Titel", "Autoren", "Jahr", "Relevance"]
    row = ['"Wraps, and\nwhat they do"', '"Orsel, T; Ames, B"', "2001", "0.9"]
    records, reading = read("exported\n" + delimiter.join(head) + "\n" + delimiter.join(row) + "\n")
    assert [(it.title, it.authors, it.year, it.extra) for it in records] == [
        ("Wraps, and what they do", ("Orsel, T", "Ames, B"), 2001, (("Relevance", "0.9"),))
    ]
    assert reading.format == ("tsv" if delimiter == "\t" else "csv")
    assert reading.problems[0].line == 1


def test_a_workbook_is_read_wherever_its_header_stands() -> None:
    out = io.BytesIO()
    formats.write([Record(title="=1+1", authors=("Orsel, T",), year=2001)], "xlsx", out)
    records, reading = read(out.getvalue())
    assert [(it.title, it.year) for it in records] == [("=1+1", 2001)]
    assert reading.format == "xlsx"


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "empty"),
        (b"  \n\n", "blanks"),
        (b"%PDF-1.7 x", "PDF"),
        (b"\x00\x01\x02" * 400, "binary"),
        (b"PK\x03\x04 cut", "damaged"),
        (b"<!doctype html><p>Sign in", "web page"),
        (b"Dear colleague,\nhere is my list.", "no known format"),
    ],
)
def test_what_is_no_export_is_told_with_what_to_do(data: bytes, said: str) -> None:
    with pytest.raises(NotReadable, match=said):
        open_reading(io.BytesIO(data))


def test_a_zip_bomb_is_refused_before_it_unpacks() -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/workbook.xml", "<workbook/>")
        archive.writestr("xl/worksheets/sheet1.xml", b"0" * 60_000_000)
    with pytest.raises(NotReadable, match="unpack to"):
        open_reading(io.BytesIO(out.getvalue()))


def test_one_bad_byte_in_a_good_file_is_told_and_kept() -> None:
    data = "TY  - JOUR\nTI  - Größe\nAU  - Ørsel, T\nER  - \n".encode()
    bad = data.replace("Ørsel".encode(), b"Orsel\xe9")
    records, reading = read(bad)
    assert records[0].title == "Größe"
    assert records[0].authors == ("Orselé, T",)
    assert [(problem.line, "E9" in problem.message) for problem in reading.problems] == [(3, True)]


@pytest.mark.parametrize("codec", ["utf-8-sig", "utf-16", "cp1252"])
def test_encodings_are_known_from_the_content(codec: str) -> None:
    records, _ = read("TY  - JOUR\nTI  - Größe – “wraps”\nER  - \n".encode(codec))
    assert records[0].title == "Größe – “wraps”"


def test_markup_in_a_title_is_taken_out() -> None:
    records, _ = read("TY  - JOUR\nTI  - <i>Apis</i> &lt;script&gt;alert(1)&lt;/script&gt; wraps\nER  - \n")
    assert records[0].title == "Apis alert(1) wraps"


def test_spreadsheet_cells_cannot_be_formulas() -> None:
    out = io.BytesIO()
    formats.write([Record(title='=HYPERLINK("x")', abstract="+1 and @x", volume="-3")], "csv", out)
    row = out.getvalue().decode("utf-8-sig").splitlines()[1]
    assert '"\'=HYPERLINK(""x"")"' in row
    assert ",'+1 and @x," in row
    assert ",-3," in row


def test_each_line_of_a_record_stands_beside_what_was_understood() -> None:
    raw = "TY  - JOUR\nT1  - Insulated lids\nin small hives\nY1  - 2016///Winter\nDO  - https://doi.org/10.5555/A.1\nM9  - 1\nER  - "
    records, _ = read(raw)
    lines = trace("ris", raw, 41, records[0])
    assert [(line.number, line.field, line.odd) for line in lines] == [
        (41, "Kind", ""), (42, "Title", "lines joined"), (43, "", ""), (44, "Year", "“Winter” kept as given"),
        (45, "DOI", "address taken off"), (46, "—", "nobody knows this tag"), (47, "", ""),
    ]  # fmt: skip


WORDS = st.text(st.characters(codec="utf-8", categories=("L", "N")), min_size=1, max_size=12).map(lambda word: "w" + word)
TEXT = st.lists(WORDS, min_size=1, max_size=8).map(" ".join)
RECORDS = st.builds(
    Record, kind=st.sampled_from(["article", "conference", "book", "report"]), title=TEXT, authors=st.lists(st.tuples(WORDS, WORDS).map(", ".join), max_size=4).map(tuple),
    year=st.integers(1950, 2030), date=st.just(""), journal=TEXT, volume=st.integers(1, 99).map(str), issue=st.integers(1, 12).map(str), pages=st.tuples(st.integers(1, 99), st.integers(100, 999)).map(lambda p: f"{p[0]}–{p[1]}"),
    doi=st.integers(1, 999).map(lambda n: f"10.5555/a.{n}"), accession=st.integers(1, 9999).map(str), abstract=TEXT, keywords=st.lists(WORDS, max_size=3).map(tuple),
    **dict.fromkeys(("journal_short", "issn", "language", "url", "publisher", "note"), st.just("")), references=st.just(()), extra=st.just(()),
)  # fmt: skip


@pytest.mark.parametrize("format", ["ris", "nbib", "bibtex", "csv", "xlsx"])
@given(records=st.lists(RECORDS, min_size=1, max_size=4, unique_by=lambda it: it.accession))
def test_what_is_written_is_read_again(format: str, records: list[Record]) -> None:
    out = io.BytesIO()
    formats.write(records, format, out)
    back, reading = read(out.getvalue())
    assert reading.problems == []
    for one, two in zip(records, back, strict=True):
        for field in ("title", "authors", "year", "journal", "volume", "issue", "pages", "doi", "accession", "abstract", "keywords"):
            assert getattr(one, field) == getattr(two, field), field


@given(st.binary(max_size=400))
def test_no_bytes_bring_the_reader_down(data: bytes) -> None:
    for begin in (b"", b"TY  - JOUR\nTI  - x\n", b"PMID- 1\nTI  - ", b"@article{a, title={", b"Title,Year\n"):
        try:
            for _ in open_reading(io.BytesIO(begin + data)):
                pass
        except NotReadable:
            pass


def test_normal_forms() -> None:
    assert doi_of("doi:10.5555/AB(c)d).") == "10.5555/ab(c)d"
    assert doi_of("none") == ""
    assert year_of("c1987, reprinted 2001") == 1987
    assert year_of("19870") is None
    assert pages_of("101 - 118") == "101–118"
    assert pages_of("e5", "e5") == "e5"
