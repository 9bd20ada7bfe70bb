"""Full texts: lines in the order of reading, sections, tables from where their words stand, and quotes that stand so on their page."""

from __future__ import annotations

import io

import pytest
from fpdf import FPDF

from articles import _one_column, _plain_pages, _two_columns
from kettlesort.core.fulltext.article import Article, normal, of_pdf, of_record, quote
from kettlesort.core.fulltext.pages import NotAPdf
from kettlesort.core.fulltext.tables import Table

BODY = [
    ("Abstract", ["Wrapped hives were kept warm."]),
    (
        "1. Methods",
        [
            f"Sentence number {k} tells how the {chr(97 + k % 26)}{chr(97 + k // 26)} hives were wrapped in foam and weighed every second week."
            for k in range(120)
        ],
    ),
    ("Results", ["Fewer wrapped hives died."]),
    ("References", ["1. Orsel A. A trial. J Made Up. 2011;4:1-9."]),
]
LAYOUTS = [_one_column, _two_columns, _plain_pages]


def read(layout, rows: list[list[str]] | None = None, caption: str = "Table 1. Outcomes") -> Article:  # type: ignore[no-untyped-def]
    import random

    return of_pdf(io.BytesIO(layout("Foam for hives", BODY, [(caption, rows)] if rows else [], random.Random(3))))


def cells(it: Table) -> list[list[str]]:
    return [[cell.text for cell in line.cells] for line in it.lines]


@pytest.mark.parametrize("layout", LAYOUTS)
def test_sentences_come_in_the_order_of_reading_with_their_sections(layout) -> None:  # type: ignore[no-untyped-def]
    article = read(layout)
    told = [it for it in article.sentences if it.text.startswith("Sentence number")]
    assert [int(it.text.split()[2]) for it in told] == list(range(120))
    assert {it.section for it in told} == {"methods"}
    assert [it.section for it in article.sentences if "died" in it.text] == ["results"]
    assert [it.section for it in article.sentences if "Orsel A. A trial" in it.text or "A trial" in it.text] == ["references"]


@pytest.mark.parametrize("layout", LAYOUTS)
def test_every_sentence_can_be_quoted_from_its_page(layout) -> None:  # type: ignore[no-untyped-def]
    article = read(layout)
    for it in article.sentences:
        if len(set(it.pages)) == 1:
            said = quote(article, it.pages[0], it.words)
            assert said == it.text
            assert said in normal(article.pages[it.pages[0]])


TABLES = {
    "arms above columns": (
        [["Outcome", "Foam (n = 40)", "Plain (n = 41)"], ["Deaths", "12 (30.0)", "9 (22.0)"], ["Weight (kg)", "5.2 ± 1.1", "4.8 ± 0.9"]],
        ["Outcome", "Foam (n = 40)", "Plain (n = 41)"],
        [["Deaths", "12 (30.0)", "9 (22.0)"], ["Weight (kg)", "5.2 ± 1.1", "4.8 ± 0.9"]],
    ),
    "a head of two rows": (
        [["", "Foam", "Plain"], ["", "N = 40", "N = 41"], ["Deaths", "12/40", "9/41"], ["Queens lost", "3/40", "4/41"]],
        ["", "Foam N = 40", "Plain N = 41"],
        [["Deaths", "12/40", "9/41"], ["Queens lost", "3/40", "4/41"]],
    ),
    "events and totals": (
        [["", "Foam", "Foam", "Plain", "Plain"], ["Outcome", "Events", "Total", "Events", "Total"], ["Deaths", "12", "40", "9", "41"], ["Theft", "0", "40", "1", "41"]],
        ["Outcome", "Foam Events", "Foam Total", "Plain Events", "Plain Total"],
        [["Deaths", "12", "40", "9", "41"], ["Theft", "0", "40", "1", "41"]],
    ),
    "groups of rows": (
        [["Measure and time", "Foam", "Plain"], ["Weight", "", ""], ["Before winter", "7.2 (1.9)", "7.1 (1.7)"], ["One year", "4.1 (2.1)", "-"], ["Bees", "", ""], ["Before winter", "6.7 (4.1)", "6.2 (3.6)"]],
        ["Measure and time", "Foam", "Plain"],
        [["Before winter", "7.2 (1.9)", "7.1 (1.7)"], ["One year", "4.1 (2.1)", "-"], ["Before winter", "6.7 (4.1)", "6.2 (3.6)"]],
    ),
    "limits above columns": (
        [["", "> 2 hours n=40", "<= 2 hours n=41"], ["", "n (%)", "n (%)"], ["Deaths", "12 (30.0)", "9 (22.0)"], ["Theft", "3 (7.5)", "4 (9.8)"]],
        ["", "> 2 hours n=40 n (%)", "<= 2 hours n=41 n (%)"],
        [["Deaths", "12 (30.0)", "9 (22.0)"], ["Theft", "3 (7.5)", "4 (9.8)"]],
    ),
    "labels and words": (
        [["Country", "New Tarland"], ["Setting", "Forest, 18 sites"], ["Hives", "81"], ["Funder", "Brask Trust"]],
        ["", ""],
        [["Country", "New Tarland"], ["Setting", "Forest, 18 sites"], ["Hives", "81"], ["Funder", "Brask Trust"]],
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", TABLES)
@pytest.mark.parametrize("layout", LAYOUTS)
def test_tables_are_rebuilt_from_where_their_words_stand(layout, name: str) -> None:  # type: ignore[no-untyped-def]
    rows, head, lines = TABLES[name]
    first, *rest = read(layout, rows).tables  # it may go over a page
    assert [[cell.text for cell in table.head] for table in (first, *rest)] == [head] * (1 + len(rest))
    assert [line for table in (first, *rest) for line in cells(table)] == lines
    assert first.caption.startswith("Table 1")
    assert [(table.page, table.inherited) for table in rest] == [(first.page + 1, True)] * len(rest)


def test_labels_that_go_on_below_and_groups_of_rows() -> None:
    pdf = FPDF(format="A4")
    pdf.add_page()
    pdf.set_font("Helvetica", "", 10)
    for label, *rest in (
        ("Outcome", "Foam", "Plain"), ("Deaths", "", ""), ("within 30 days", "3/40", "4/41"), ("within a year", "12/40", "9/41"), ("Days to the first", "", ""), ("flight of spring", "31 (4-60)", "28 (9-71)"),
    ):  # fmt: skip
        pdf.cell(60, 5, label)
        for it in rest:
            pdf.cell(40, 5, it)
        pdf.ln(5)
    (table,) = of_pdf(io.BytesIO(bytes(pdf.output()))).tables
    assert [(line.group.text, line.cells[0].text) for line in table.lines][1:] == [
        ("Deaths", "within a year"),
        ("Deaths", "Days to the first flight of spring"),
    ] or [line.cells[0].text for line in table.lines] == ["Deaths within 30 days", "within a year", "Days to the first flight of spring"]
    assert [line.cells[1].text for line in table.lines] == ["3/40", "12/40", "31 (4-60)"]


def test_a_table_that_goes_on_beside_the_title_is_one_table() -> None:
    pdf = FPDF(format="A4")
    pdf.add_page()

    def say(x: float, y: float, text: str, size: float = 9) -> None:
        pdf.set_font("Helvetica", "", size)
        pdf.text(x, y, text)

    say(15, 25, "Foam wraps for hives in winter", 14)
    say(15, 31, "and what they cost", 14)
    for k in range(40):
        say(15, 40 + 4 * k, f"Line {k} of the text goes on until it fills the column to its edge.")
    say(15, 210, "Table 1. Losses. Values are numbers (percentages) unless")
    say(15, 213.5, "stated otherwise")
    say(75, 218, "Plain hives of")
    for x, text in ((45, "Foam (n=40)"), (75, "keepers (n=41)")):
        say(x, 221.5, text)
    for k, row in enumerate((("Deaths", "12 (30)", "9 (22)"), ("Robbed", "3 (8)", "4 (10)"))):
        for x, text in zip((15, 45, 75), row, strict=True):
            say(x, 228 + 6 * k, text)
    say(110, 25, "Queens that")
    for x, text in ((110, "were lost"), (140, "5 (12)"), (170, "6 (15)")):
        say(x, 28.5, text)
    for x, text in ((110, "Swarms"), (140, "7 (18)"), (170, "8 (20)")):
        say(x, 34, text)
    say(110, 45, "None of the keepers was paid.")
    say(110, 49, "We thank them.")
    (table,) = of_pdf(io.BytesIO(bytes(pdf.output()))).tables
    assert (table.caption, [cell.text for cell in table.head]) == (
        "Table 1. Losses. Values are numbers (percentages) unless stated otherwise",
        ["", "Foam (n=40)", "Plain hives of keepers (n=41)"],
    )
    assert [[cell.text for cell in line.cells] for line in table.lines] == [
        ["Deaths", "12 (30)", "9 (22)"], ["Robbed", "3 (8)", "4 (10)"], ["Queens that were lost", "5 (12)", "6 (15)"], ["Swarms", "7 (18)", "8 (20)"],
    ]  # fmt: skip


def test_running_heads_are_no_text() -> None:
    article = read(_two_columns)
    assert not [it for it in article.sentences if "Annals of Invented Results" in it.text]


def test_text_far_beside_the_page_is_read_as_soon() -> None:
    pdf = FPDF(format="A4")
    pdf.add_page()
    pdf.set_font("Helvetica", "", 4)
    for _ in range(400):
        pdf.cell(text="12 of 40 died in the foam group, 9 of 41 in the other; ")
    article = of_pdf(io.BytesIO(bytes(pdf.output())))
    assert article.sentences[0].text.startswith("12 of 40 died")


@pytest.mark.parametrize("data", [b"", b"%PDF-1.7\nnonsense", b"GIF89a"])
def test_what_is_no_pdf_is_refused(data: bytes) -> None:
    with pytest.raises(NotAPdf, match="no PDF"):
        of_pdf(io.BytesIO(data))


def test_pages_that_cannot_be_opened_are_no_pictures_of_text() -> None:
    """A tree of pages that leads back to itself and claims a million."""
    tree = b"%PDF-1.7\n1 0 obj <</Type/Catalog/Pages 2 0 R>> endobj\n2 0 obj <</Type/Pages/Kids[2 0 R]/Count 1000000>> endobj\ntrailer <</Root 1 0 R>>\n%%EOF"
    with pytest.raises(NotAPdf, match="none of the pages"):
        of_pdf(io.BytesIO(tree))


def test_a_record_is_read_as_its_title_and_abstract() -> None:
    article = of_record("Foam for hives", "METHODS: We wrapped 40 hives. RESULTS: Twelve died.")
    assert [(it.section, it.text) for it in article.sentences] == [
        ("title", "Foam for hives"),
        ("methods", "METHODS: We wrapped 40 hives."),
        ("results", "RESULTS: Twelve died."),
    ]
    assert not article.whole
