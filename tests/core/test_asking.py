"""Reports that are asked: the passages that speak to a question come first, each as it stands in its report."""

from __future__ import annotations

import io

import pytest
from fpdf import FPDF
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.charting.asking import Passage, ask, passages
from kettlesort.core.charting.items import Item
from kettlesort.core.charting.marked import value_in
from kettlesort.core.fulltext.article import normal, of_pdf, of_record

SAID = [
    Passage("Hives were assigned to a wrap or none by drawing lots.", 2, "Methods"),
    Passage("Assessors who counted the colonies were not aware of the wraps.", 2, "Methods"),
    Passage("In spring 86 of 106 wrapped colonies were still living, against 72 of 104.", 4, "Results"),
    Passage("Winter is a hard time for all colonies, and beekeepers fear for their survival.", 1, "Introduction"),
    Passage("The work was paid for by the beekeepers themselves.", 6, "Funding"),
    Passage("No honey was taken in the first year of the study.", 3, "Methods"),
]


@pytest.mark.parametrize(
    ("question", "first"),
    [
        ("How were hives allocated?", 0), ("Were those who assessed colonies blinded?", 1), ("How many colonies survived?", 2), ("Who funded the study?", 4), ("Was honey harvested?", 5),
    ],
)  # fmt: skip
def test_the_passage_that_answers_comes_first_though_it_uses_other_words(question: str, first: int) -> None:
    assert ask(question, SAID)[0].passage == first


@pytest.mark.parametrize("question", ["", "the of and", "?!", "What is the price of gold in Peru?"])
def test_a_question_that_nothing_speaks_to_finds_nothing(question: str) -> None:
    assert ask(question, SAID) == []
    assert ask(question, []) == []


@given(st.text(max_size=60), st.lists(st.text(max_size=80), max_size=12))
def test_whatever_is_asked_the_answers_are_passages_in_falling_order(question: str, texts: list[str]) -> None:
    found = ask(question, [Passage(text, None, "") for text in texts], most=5)
    assert len(found) <= 5
    assert len({it.passage for it in found}) == len(found)
    assert all(0 <= it.passage < len(texts) and 0 < it.score <= 1 for it in found)
    assert [it.score for it in found] == sorted((it.score for it in found), reverse=True)


def test_what_can_be_asked_are_sentences_and_rows_of_tables_as_the_file_holds_them() -> None:
    pdf = FPDF()
    pdf.add_page()
    pdf.set_font("Times", "B", 16)
    pdf.multi_cell(0, 8, "Wraps on trial in the northern valleys", new_x="LMARGIN", new_y="NEXT")
    pdf.set_font("Times", "B", 12)
    pdf.multi_cell(0, 8, "Results", new_x="LMARGIN", new_y="NEXT")
    pdf.set_font("Times", "", 11)
    pdf.multi_cell(0, 6, "Table 1 gives the colonies that were alive in spring.", new_x="LMARGIN", new_y="NEXT")
    pdf.multi_cell(0, 6, "Table 1. Survival by arm.", new_x="LMARGIN", new_y="NEXT")
    with pdf.table(col_widths=(40, 30, 40), width=110, align="LEFT") as table:
        for cells in (("Arm", "Colonies", "Alive in spring"), ("Foam", "107", "86"), ("Control", "66", "36")):
            table.row(cells)
    pdf.set_font("Times", "B", 12)
    pdf.multi_cell(0, 8, "References", new_x="LMARGIN", new_y="NEXT")
    pdf.set_font("Times", "", 11)
    pdf.multi_cell(0, 6, "1. Somebody A. Colonies that were alive elsewhere. Hive Letters 2001;1:1-9.", new_x="LMARGIN", new_y="NEXT")
    article = of_pdf(io.BytesIO(bytes(pdf.output())))
    found = passages(article)
    assert [it.text for it in found if it.heading.startswith("Table")] == ["Foam 107 86", "Control 66 36"]
    assert "Table 1 gives the colonies that were alive in spring." in [it.text for it in found]
    assert not any("elsewhere" in it.text or "northern valleys" in it.text for it in found), "neither what it cites nor its title answers"
    assert all(it.text in normal(article.pages[it.page or 0]) for it in found)


def test_of_a_record_the_abstract_can_be_asked() -> None:
    found = passages(of_record("Wraps in winter", "Background: Cold kills. Results: We saw 86 of 106 colonies alive in spring."))
    assert [(it.text, it.page) for it in found] == [("Results: We saw 86 of 106 colonies alive in spring.", None)]


@pytest.mark.parametrize(
    ("item", "words", "value"),
    [
        (Item("Survived", "counts"), "86 of 106 wrapped colonies", "86 / 106"), (Item("Survived", "counts"), "86 (81%) of 106", "86 / 106"), (Item("Weight", "mean_sd"), "fell by 9.8 ± 2.1 kg", "9.8 ± 2.1"),
        (Item("Age", "median_range"), "median 12 years (range 8-20)", "12 (8 to 20)"), (Item("Dose", "quantity", "mg"), "half a gram, 0.5 g, a day", "0.5 g"), (Item("Dose", "quantity", "mg"), "for 3 weeks", ""),
        (Item("Colonies", "number", high=100), "we began with 212 colonies", ""), (Item("Colonies", "number"), "one hundred and six", "106"), (Item("Start", "date"), "from October 2019 to", "2019-10"),
        (Item("Blind", "yesno"), "were not blinded", "no"), (Item("Design", "choice", choices=("Randomised", "Cohort")), "hives were randomised to", "Randomised"),
        (Item("Site", "text"), "a  coastal\nplain", "a coastal plain"), (Item("Site", "text"), "the low-\nlands", "the lowlands"),
    ],
)  # fmt: skip
def test_marked_words_give_the_value_that_they_state(item: Item, words: str, value: str) -> None:
    assert value_in(item, words) == value
