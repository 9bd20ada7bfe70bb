"""Every kind of file that a source exports: what it is known by, what is understood, what is kept."""

from __future__ import annotations

import io
import json
import zipfile

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core import formats
from kettlesort.core.formats import How, NotReadable, losses, open_reading
from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.suspicion import Watch
from kettlesort.core.formats.trace import trace
from kettlesort.core.record import KINDS, Record


def read(data: str | bytes, how: How = How()) -> tuple[list[Record], formats.Reading]:
    reading = open_reading(io.BytesIO(data.encode() if isinstance(data, str) else data), how)
    return [entry.record for entry in reading], reading


MEDLINE = """<?xml version="1.0"?>
<PubmedArticleSet>
<PubmedArticle><MedlineCitation><PMID Version="1">7300001</PMID>
<Article><Journal><ISSN IssnType="Print">1234-5679</ISSN><JournalIssue><Volume>12</Volume><Issue>3</Issue><PubDate><Year>2019</Year><Month>Feb</Month></PubDate></JournalIssue>
<Title>Annals of Made-up Apiculture</Title><ISOAbbreviation>Ann. Made-up Apicult.</ISOAbbreviation></Journal>
<ArticleTitle>Wraps for <i>Apis</i> hives</ArticleTitle><Pagination><MedlinePgn>101-18</MedlinePgn></Pagination>
<ELocationID EIdType="doi">10.5555/AMA.2019.1402</ELocationID>
<Abstract><AbstractText Label="AIMS">To see.</AbstractText><AbstractText Label="RESULTS">Seen &amp; counted.</AbstractText></Abstract>
<AuthorList><Author><LastName>van der Orsel</LastName><ForeName>Tamsin</ForeName><Suffix>Jr</Suffix></Author><Author><CollectiveName>Winter Hive Group</CollectiveName></Author></AuthorList>
<Language>eng</Language><GrantList><Grant><GrantID>H-1</GrantID><Agency>Hive Fund</Agency></Grant></GrantList>
<PublicationTypeList><PublicationType>Journal Article</PublicationType><PublicationType>Retracted Publication</PublicationType></PublicationTypeList></Article>
<MedlineJournalInfo><Country>Estmark</Country></MedlineJournalInfo>
<CommentsCorrectionsList><CommentsCorrections RefType="RetractionIn"><RefSource>Ann. Made-up Apicult. 2021;14:2</RefSource><PMID>7300900</PMID></CommentsCorrections></CommentsCorrectionsList>
<MeshHeadingList><MeshHeading><DescriptorName MajorTopicYN="N">Bees</DescriptorName><QualifierName MajorTopicYN="Y">physiology</QualifierName></MeshHeading></MeshHeadingList></MedlineCitation>
<PubmedData><ArticleIdList><ArticleId IdType="pmc">PMC77</ArticleId></ArticleIdList><ReferenceList><Reference><Citation>Ames B. 2001.</Citation></Reference></ReferenceList></PubmedData></PubmedArticle>
<PubmedArticle><MedlineCitation><PMID>7300002</PMID><Article><ArticleTitle>Cut off"""


def test_medline_xml_is_understood_into_the_same_tags_as_nbib() -> None:
    (one, two), reading = read(MEDLINE)
    assert (reading.format, reading.certainty) == ("medline", "sure")
    assert (one.title, one.year, one.date, one.pages, one.doi) == (
        "Wraps for Apis hives",
        2019,
        "2019 Feb",
        "101–18",
        "10.5555/ama.2019.1402",
    )
    assert one.authors == ("van der Orsel, Tamsin, Jr", "Winter Hive Group")
    assert one.abstract == "AIMS: To see. RESULTS: Seen & counted."
    assert one.keywords == ("Bees/*physiology",)
    assert one.references == ("Ames B. 2001.",)
    assert set(one.extra) >= {("PT", "Retracted Publication"), ("RIN", "Ann. Made-up Apicult. 2021;14:2 PMID: 7300900"), ("GR", "H-1/Hive Fund"), ("PL", "Estmark"), ("PMC", "PMC77")}  # fmt: skip
    assert two.accession == "7300002"
    assert "well-formed" in reading.problems[-1].message
    assert losses([one], "nbib") == []


def test_a_file_that_takes_its_text_from_elsewhere_is_refused() -> None:
    outside = MEDLINE.replace(
        "<PubmedArticleSet>", '<!DOCTYPE PubmedArticleSet [<!ENTITY secret SYSTEM "file:///etc/passwd">]>\n<PubmedArticleSet>', 1
    )
    with pytest.raises(NotReadable, match="takes parts of its text from other files"):
        read(outside.replace("hives</ArticleTitle>", "hives&secret;</ArticleTitle>"))


def test_an_entity_bomb_is_not_unfolded() -> None:
    bomb = (
        '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a0 "ha">'
        + "".join(f'<!ENTITY a{k} "{f"&a{k - 1};" * 10}">' for k in range(1, 10))
        + "]>"
    )
    records, reading = read(f"{bomb}<PubmedArticleSet><PubmedArticle><MedlineCitation><PMID>1</PMID><Article><ArticleTitle>x&a9;</ArticleTitle></Article></MedlineCitation></PubmedArticle></PubmedArticleSet>")  # fmt: skip
    assert all(len(it.title) < 50 for it in records)
    assert records or reading.problems


def test_csl_json_in_any_wrapping_keeps_what_it_does_not_know() -> None:
    item = {"id": "x1", "type": "chapter", "title": "Lids", "author": [{"family": "Orsel", "given": "T", "non-dropping-particle": "van"}, {"literal": "Hive Group"}],
            "issued": {"date-parts": [[2019, 2]]}, "keyword": "Bees; Lids, wooden", "PMID": 33}  # fmt: skip
    expected = Record(kind="chapter", title="Lids", authors=("van Orsel, T", "Hive Group"), year=2019, date="2019-02", accession="x1", keywords=("Bees", "Lids, wooden"), extra=(("PMID", "33"),))  # fmt: skip
    for data in (json.dumps([item]), json.dumps(item), json.dumps({"items": [item]}), json.dumps([item], indent=2)):
        records, reading = read(data)
        assert records == [expected]
        assert (reading.format, reading.problems) == ("csljson", [])
    records, reading = read(json.dumps(item) + "\n" + json.dumps(item) + '\n{"title": "cut')
    assert records == [expected, expected]
    assert [problem.line for problem in reading.problems] == [3]
    assert read('[{"title": "a\\ud800b"}]')[0][0].title == "a?b"


def test_refer_and_a_list_of_identifiers_are_known_by_their_looks() -> None:
    (one, two), reading = read(
        "%0 Thesis\n%T Lids and\nwraps\n%A Orsel, Tamsin\n%A Ames, B\n%D 2016\n%K bees; lids\n\n%0 Journal Article\n%T Two\n%P 3-9\n"
    )
    assert reading.format == "refer"
    assert one == Record(
        kind="thesis", title="Lids and wraps", authors=("Orsel, Tamsin", "Ames, B"), year=2016, date="2016", keywords=("bees", "lids")
    )
    assert (two.kind, two.pages) == ("article", "3–9")
    records, reading = read("doi:10.5555/A.1\n7300001; 7300002\n\nhttps://doi.org/10.5555/a.1\nnot one\n" * 1, How(format="identifiers"))
    assert [(it.doi, it.accession) for it in records] == [("10.5555/a.1", ""), ("", "7300001"), ("", "7300002")]
    assert [problem.line for problem in reading.problems] == [4, 5, 5]
    assert read("10.5555/a.1\n10.5555/a.2\n")[1].format == "identifiers"


def test_bibtex_takes_fields_by_crossref_and_groups_in_braces() -> None:
    records, reading = read(
        "@string{h = {Hives}}\n@inproceedings{c, title = {On } # h, author = {{Winter and Hive Group} and Tamsin van Orsel}, crossref = {P}, pages = {1--9}}\n"
        "@proceedings{p, title = {Proceedings of wraps}, year = 2001}\n@misc{d, title={Lost}, crossref={nowhere}}\n"
    )
    assert [(it.title, it.authors, it.year, it.journal, it.pages) for it in records[:1]] == [
        ("On Hives", ("Winter and Hive Group", "van Orsel, Tamsin"), 2001, "Proceedings of wraps", "1–9")
    ]
    assert [problem.line for problem in reading.problems] == [4]


def test_many_bibtex_entries_are_read_in_parts_with_right_lines_and_strings() -> None:
    text = '@string{h = "Hive Letters"}\n' + "".join(
        f"@article{{k{n},\n  title = {{Title number {n} of a long row of titles}},\n  journal = h\n}}\n\n" for n in range(3000)
    )
    entries = list(open_reading(io.BytesIO(text.encode())))
    assert len(entries) == 3000
    assert {it.record.journal for it in entries} == {"Hive Letters"}
    assert all(text.split("\n")[it.line - 1].startswith(f"@article{{k{it.position - 1},") for it in entries)


@pytest.mark.parametrize(
    ("text", "shape", "begin", "start"),
    [
        ("Title: Insulated lids in small colonies\nAuthors: Orsel, T; Ames, B\nYear: 2016\nAbstract: Wet.\nResults: none.\n\nTitle: Wraps in winter and what they do\nAuthors: Ames, B\nYear: 2017\n", "colon", "tag", "Title"),
        ("PT J\nAU Orsel, T\n   Ames, B\nTI Insulated lids in\n   small colonies\nPY 2016\nER\n\nPT J\nAU Brask, R\n   Hale, W\nTI Wraps in winter and what they do\nPY 2017\nER\n", "space", "tag", "PT"),
        ("<1>\nTitle\n  Insulated lids in small colonies\nAuthor\n  Orsel, T\nYear\n  2016\n\n<2>\nTitle\n  Wraps in winter and what they do\nAuthor\n  Ames, B\nYear\n  2017\n", "heading", "number", "<{number}>"),
        ("[Title] Insulated lids in small colonies\n[Author] Orsel, T; Ames, B\n[Year] 2016\n-----\n[Title] Wraps in winter and what they do\n[Author] Ames, B\n[Year] 2017\n-----\n", "brackets", "tag", "Title"),
        ("AN  - 9001\nTI  - Insulated lids in small colonies\nAU  - Orsel, T\nPY  - 2016\n\nAN  - 9002\nTI  - Wraps in winter and what they do\nPY  - 2017\n", "dash", "tag", "AN"),
    ],
)  # fmt: skip
def test_text_with_labels_of_any_kind_is_read_by_a_recipe_worked_out_from_it(text: str, shape: str, begin: str, start: str) -> None:
    records, reading = read(text)
    assert (reading.format, reading.certainty) == ("recipe", "guess")
    assert reading.recipe is not None
    assert (reading.recipe.shape, reading.recipe.begin, reading.recipe.start) == (shape, begin, start)
    assert [(it.title, it.year) for it in records] == [
        ("Insulated lids in small colonies", 2016),
        ("Wraps in winter and what they do", 2017),
    ]
    assert records[0].authors[0] == "Orsel, T"


def test_a_table_without_names_or_with_names_of_another_language_is_read_by_what_its_columns_hold() -> None:
    rows = [("x1", "Insulated lids and moisture in small colonies", "Orsel T, Ames B", "2016", "10.5555/a.1"), ("x2", "Wraps in winter and what they do to bees", "Ames B", "2017", "10.5555/a.2")]  # fmt: skip
    for head in ("", "Nimi|Otsikko teos|Henkilöt|Ilmestynyt|Tunniste\n"):
        records, reading = read(head + "".join("|".join(row) + "\n" for row in rows))
        assert [(it.title, it.year, it.doi) for it in records] == [(row[1], int(row[3]), row[4]) for row in rows]
        assert records[0].authors == ("Orsel, T", "Ames, B")
        assert reading.certainty == "guess"


def test_a_person_can_say_what_a_tag_a_column_a_header_and_an_encoding_are() -> None:
    ris = "TY  - JOUR\nTI  - Hive Letters\nT2  - Lids in winter\nM9  - Orsel, T\nER  - \n"
    (one,), reading = read(ris, How(fields={"TI": "journal", "T2": "title", "M9": "authors"}))
    assert (one.title, one.journal, one.authors) == ("Lids in winter", "Hive Letters", ("Orsel, T",))
    assert reading.fields["T2"] == "title"
    assert [line.field for line in trace("ris", ris.strip(), 1, one, None, reading.fields)][1:4] == ["Journal", "Title", "Authors"]
    (two,), _ = read("Title,Year,Weight\nLids,2001,Heavy title\n", How(fields={"Title": "", "Weight": "title"}))
    assert (two.title, two.extra) == ("Heavy title", (("Title", "Lids"),))
    records, _ = read("Title,Year\nLids,2001\n", How(header=0, fields={"column 1": "title"}))
    assert [it.title for it in records] == ["Title", "Lids"]
    (three,), reading = read("TY  - JOUR\nTI  - Grün\nER  - \n".encode("mac-roman"), How(encoding="mac-roman"))
    assert (three.title, reading.encoding) == ("Grün", "Mac Roman")


def zipped(**files: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name.replace("_", "."), data)
    return out.getvalue()


def test_an_archive_is_read_file_by_file_and_says_which_it_cannot_read() -> None:
    one, two = b"TY  - JOUR\nTI  - One\nER  - \n", b"TY  - JOUR\nTI  - Two\nPY  - spring\nER  - \n"
    records, reading = read(zipped(a_ris=one, b_ris=two))
    assert ([it.title for it in records], reading.format) == (["One", "Two"], "ris")
    assert [it.message.partition(":")[0] for it in reading.problems] == ["b.ris"]
    records, reading = read(zipped(a_ris=one, b_csv=b"Title,Year\nThree,2001\n", c_pdf=b"%PDF-1.7"))
    assert ([it.title for it in records], reading.format) == (["One", "Three"], "zip")
    assert "c.pdf: this is a PDF" in reading.problems[0].message
    with pytest.raises(NotReadable, match=r"nothing readable: a\.zip: it is an archive within"):
        read(zipped(a_zip=zipped(a_ris=one)))


def test_a_workbook_that_spreads_over_everything_or_is_locked_is_refused() -> None:
    sheet = b'<worksheet><sheetData><row r="1"><c r="A1"><v>1</v></c></row><row r="1048576"><c r="XFD1048576"><v>1</v></c></row></sheetData></worksheet>'
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("xl/workbook.xml", "<workbook/>")
        archive.writestr("xl/worksheets/sheet1.xml", sheet)
    with pytest.raises(NotReadable, match="17,179,869,184 cells"):
        read(out.getvalue())
    with pytest.raises(NotReadable, match="password"):
        read(b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + bytes(600) + "EncryptedPackage".encode("utf-16-le") + bytes(600))


WORD = st.text(st.characters(codec="utf-8", categories=("L", "N")), min_size=1, max_size=10).map(lambda word: f"w{word}")
TEXT = st.lists(WORD, max_size=6).map(" ".join)
NAME = st.one_of(st.tuples(WORD, WORD).map(", ".join), st.tuples(WORD, WORD, st.sampled_from(["Jr", "III"])).map(", ".join), st.tuples(WORD, WORD).map(lambda it: f"{it[0]} {it[1]} Group"))  # fmt: skip
HELD = {
    "kind": st.sampled_from(KINDS), "title": TEXT, "authors": st.lists(NAME, max_size=4).map(tuple), "date": st.sampled_from(["", "2019 Feb", "2019-02-03"]), "journal": TEXT,
    "journal_short": TEXT, "volume": TEXT, "issue": TEXT, "pages": st.sampled_from(["", "1–9", "e17", "101–18"]), "doi": st.sampled_from(["", "10.5555/a.1", "10.5555/b(c)2"]),
    "accession": WORD, "issn": TEXT, "abstract": TEXT, "language": TEXT, "publisher": TEXT, "references": st.lists(TEXT.filter(bool), max_size=3).map(tuple), "note": TEXT,
    "keywords": st.lists(st.one_of(WORD, st.tuples(WORD, WORD).map("/*".join), st.tuples(WORD, WORD).map(", ".join)), max_size=4, unique=True).map(tuple), "url": st.just(""),
    "extra": st.lists(st.tuples(st.sampled_from(["M9", "C1", "XX"]), WORD), max_size=3, unique_by=lambda it: it[1]).map(tuple),
}  # fmt: skip
FULL = st.fixed_dictionaries(HELD).map(lambda it: Record(**it, year=int(it["date"][:4]) if it["date"] else None))


@pytest.mark.parametrize("format", ["ris", "nbib", "csljson"])
@given(records=st.lists(FULL, min_size=1, max_size=3))
def test_nothing_is_lost_on_the_way_through_a_format_that_can_hold_it(format: str, records: list[Record]) -> None:
    records = [it._replace(journal=it.journal or it.journal_short) for it in records]
    assert losses(records, format) == []


@given(records=st.lists(FULL.map(lambda it: it._replace(journal=it.journal or it.journal_short)), min_size=1, max_size=2))
def test_nothing_is_lost_from_one_format_to_the_next_and_back(records: list[Record]) -> None:
    passed = records
    for format in ("ris", "nbib", "csljson", "ris"):
        out = io.BytesIO()
        formats.write(passed, format, out)
        passed, _ = read(out.getvalue(), How(format=format))
    assert [it._replace(date="", extra=tuple(sorted(it.extra))) for it in passed] == [
        it._replace(date="", extra=tuple(sorted(it.extra))) for it in records
    ]


def test_what_a_format_cannot_hold_is_said_with_an_example() -> None:
    record = Record(kind="article", title="Lids", url="https://hives.example/1", extra=(("FUND", "H-1"),), authors=("Orsel, T",))
    assert [(it.field, it.records, it.before) for it in losses([record, record], "nbib")] == [("url", 2, "https://hives.example/1")]
    assert [it.field for it in losses([record], "ris")] == ["extra"]
    assert [it.field for it in losses([record], "csv")] == ["extra"]


def odd(text: str) -> dict[str, tuple[int, list[int]]]:
    watch = Watch()
    assert len(list(watch.over(open_reading(io.BytesIO(text.encode()))))) > 0
    return {it.kind: (it.records, [place.line for place in it.places]) for it in watch.suspicions()}


def ris(**values: str) -> str:
    return "TY  - JOUR\n" + "".join(f"{tag}  - {value}\n" for tag, value in values.items()) + "ER  - \n"


@pytest.mark.parametrize(
    ("kind", "record"),
    [
        ("year", {"TI": "Lids", "PY": "Annals of Hives"}),
        ("capitals", {"TI": "INSULATED LIDS AND MOISTURE IN COLONIES"}),
        ("dots", {"TI": "Insulated lids and moisture in ..."}),
        ("abstract_in_title", {"TI": "We asked whether. Methods: hives. Results: none. " + "Long words follow here. " * 10}),
        ("garbled", {"TI": "GrÃ¶ÃŸe of hives – wraps"}),
        ("journal", {"TI": "Lids", "JF": "2016"}),
    ],
)
def test_what_is_in_the_wrong_field_or_damaged_is_pointed_out_with_its_line(kind: str, record: dict[str, str]) -> None:
    fine = ris(TI="Wraps in the winter", AU="Orsel, T", PY="2001", JF="Hive Letters")
    assert kind not in odd(fine)
    assert odd(fine + ris(**record))[kind] == (1, [7])


def test_a_heap_that_could_not_be_taken_apart_is_pointed_out() -> None:
    watch = Watch()
    watch.see(Entry(3, 21, 25, "", Record(title="Lids", authors=("hive keepers, of the north, the east, the west and south",))))
    assert [(it.kind, it.places[0]) for it in watch.suspicions()] == [("heap", (3, 21))]


def test_a_record_that_comes_twice_titles_cut_and_a_round_count_are_pointed_out() -> None:
    assert odd(ris(ID="A1", TI="Lids") + ris(ID="A1", TI="Lids") + ris(ID="A2", TI="Lids"))["again"] == (1, [5])
    assert odd(ris(TI="Lids", DO="10.5555/a") + ris(TI="Wraps", DO="10.5555/a"))["doi"] == (1, [5])
    cut = "".join(ris(TI=(f"{k} " + "hive " * 40)[:120]) for k in range(8)) + "".join(
        ris(TI="Short title of a hive " + "w" * k) for k in range(30)
    )
    assert odd(cut)["cut"][0] == 8
    assert "round" in odd("".join(ris(TI=f"Title {k}") for k in range(200)))
    assert "round" not in odd("".join(ris(TI=f"Title {k}") for k in range(199)))


@pytest.mark.parametrize("begin", [b"", b"TY  - JOUR\nTI  - x\n", b"PMID- 1\nTI  - ", b"@article{a, title={", b"Title,Year\n", b'[{"title": "', b"<PubmedArticle><PMID>", b"%0 x\n%T ", b"PK\x03\x04", b"Title: a\nYear: 2001\n"])  # fmt: skip
@given(data=st.binary(max_size=300))
def test_no_bytes_bring_a_reader_down(begin: bytes, data: bytes) -> None:
    try:
        list(open_reading(io.BytesIO(begin + data)))
    except NotReadable:
        pass


@pytest.mark.parametrize(
    "begin", [b"TY  - JOUR\nTI  - Lids\nAB  - ", b"PMID- 1\nTI  - Lids\nAB  - ", b"Title,Abstract,Year\nLids,", b"%0 x\n%T Lids\n%D 2001\n%X "]
)  # fmt: skip
def test_a_line_without_end_is_cut_and_told_and_what_follows_is_read(begin: bytes) -> None:
    again = begin.partition(b"\n")[2] if begin.startswith(b"Title") else begin
    data = begin + b"wax " * 2_000_000 + (b",2001\n" if begin.startswith(b"Title") else b"\n") + b"\n" + again + b"short\n"
    records, reading = read(data)
    assert [it.title for it in records] == ["Lids", "Lids"]
    assert 3_900_000 < len(records[0].abstract) < 4_200_000
    assert records[1].abstract == "short"
    assert "longer than 4 MB" in " ".join(problem.message for problem in reading.problems)


def test_ten_thousand_authors_and_deep_nesting_are_read_or_refused_in_a_sentence() -> None:
    (one,), _ = read("TY  - JOUR\nTI  - Lids\n" + "".join(f"AU  - Orsel{k}, T\n" for k in range(10_000)) + "ER  - \n")
    assert len(one.authors) == 10_000
    _, reading = read('[{"title": ' + "[" * 100_000)
    assert "nested too deeply" in reading.problems[0].message or "not JSON" in reading.problems[0].message
    deep = "<PubmedArticleSet><PubmedArticle><PMID>1</PMID>" + "<a>" * 10_000
    _, reading = read(deep)
    assert reading.problems
    records, _ = read("@article{a, title = {" + "{" * 5000 + "Lids" + "}" * 5000 + "}}\n")
    assert [it.title for it in records] == ["Lids"]
