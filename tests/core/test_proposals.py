"""Values proposed from what a report says: numbers of any manner, arms by any name, and no quote that does not stand there."""

from __future__ import annotations

import io
import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from fpdf import FPDF
from hypothesis import given, settings
from hypothesis import strategies as st

from articles import invented
from articles_apart import apart
from kettlesort.core.charting.proposals import NotAnItem, Proposal, items_of, propose
from kettlesort.core.charting.proposals.amounts import amounts
from kettlesort.core.charting.proposals.arms import Arms
from kettlesort.core.charting.proposals.assigning import assigned
from kettlesort.core.charting.proposals.items import KINDS, Arm
from kettlesort.core.charting.proposals.numbers import has_decimal_commas, numbers
from kettlesort.core.charting.proposals.terms import short_forms, who_took_part
from kettlesort.core.fulltext.article import Article, normal, of_pdf, of_record

FOAM = [{"id": "f", "name": "Foam", "words": ["wrapped"]}, {"id": "p", "name": "Plain hives", "words": ["control"]}]


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("1,240 hives and 1 240 more", [1240, 1240]),
        ("a hundred and twenty-four of two thousand", [124, 2000]),
        ("sixteen, fifteen and sixteen hives, of which three (one, one and one) died", [16, 15, 16, 3, 1, 1, 1]),
        ("3·5 kg, −1.2 and .5", [3.5, -1.2, 0.5]),
        ("5–9 days", [5, 9]),
        ("T1 and B12 are names, H2O and menaquinone-7 too", []),
        ("none of the forty", [0, 40]),
        ("30% or 7 per cent", [30, 7]),
        ("9" * 300, []),
    ],
)
def test_numbers_in_figures_and_in_words(text: str, values: list[float]) -> None:
    assert [it.value for it in numbers(text, spaces=True)] == values


def test_a_comma_parts_decimals_where_the_report_writes_so() -> None:
    text = "The mean was 5,2 kg (SD 1,3), that of controls 4,9 kg (SD 1,1)."
    assert has_decimal_commas([text])
    assert [it.value for it in numbers(text, commas=True)] == [5.2, 1.3, 4.9, 1.1]
    assert not has_decimal_commas(["1,240 hives at 3.5 kg"])


@pytest.mark.parametrize(
    ("text", "sort", "values"),
    [
        ("12/40 died", "of", [12, 40]), ("twelve of the forty", "of", [12, 40]), ("30% (12/40)", "of", [12, 40]), ("12 (30%) of 40", "of", [12, 40]), ("Of 40 wrapped hives, 12 died", "of", [12, 40]),
        ("12 (30%)", "share", [12, 30]), ("12 of the wrapped hives (30%)", "share", [12, 30]), ("5.2 ± 1.3 kg", "spread", [5.2, 1.3]), ("5.2 kg (SD 1.3)", "spread", [5.2, 1.3]), ("5.2 +/- 1.3", "spread", [5.2, 1.3]),
        ("mean 5.2, standard deviation 1.3", "spread", [5.2, 1.3]), ("5.2 young on average (SD 1.3)", "spread", [5.2, 1.3]), ("median 5 days (range 2 to 9)", "range", [5, 2, 9]), ("5 [2–9]", "range", [5, 2, 9]), ("5 (IQR 2, 9)", "range", [5, 2, 9]), ("(n = 40)", "size", [40]),
    ],
)  # fmt: skip
def test_numbers_that_belong_together(text: str, sort: str, values: list[float]) -> None:
    assert values in [[n.value for n in it.numbers] for it in amounts(text) if it.sort == sort]


@pytest.mark.parametrize(
    "text",
    [
        "12 of 40 died in the foam group and 9 of 41 in the control group.", "In the foam group 12 of 40 died, against 9 of 41 in the control group.", "In the foam and control groups, 12 of 40 and 9 of 41 died, respectively.",
        "Foam: 12 of 40; control: 9 of 41.", "Of 40 wrapped hives, 12 died; of 41 control hives, 9 did.", "12 of 40 foam hives died versus 9 of 41 plain hives.",
    ],
)  # fmt: skip
def test_each_amount_is_that_of_its_arm(text: str) -> None:
    arms = Arms([Arm("f", "Foam", ("wrapped",)), Arm("p", "Plain hives", ("control",))], [text])
    found = assigned(text, [it for it in amounts(text) if it.sort == "of"], arms.mentions(text))
    assert [(arm, [n.value for n in it.numbers]) for it, arm, _ in found] == [(0, [12, 40]), (1, [9, 41])]


def test_a_report_calls_arms_by_names_of_its_own() -> None:
    texts = ["Hives were assigned to foam wraps (FW, n = 40) or to bare boxes (n = 41).", "The FW and bare groups were alike."]
    arms = Arms([Arm("f", "Foam wraps"), Arm("c", "Control")], texts)
    assert [it.arm for it in arms.mentions("12 of 40 in the FW group and 9 of 41 in the bare group")] == [0, 1]
    assert [it.arm for it in arms.mentions("no significant difference in the standard deviation")] == []


def of(text: str, **item: Any) -> list[Proposal]:
    (asked,) = items_of([{"id": "it", **item}])
    return propose(of_record("A trial", text), [asked])


@pytest.mark.parametrize(
    ("item", "text", "value"),
    [
        ({"name": "Outcome assessors blinded", "kind": "yesno"}, "Outcome assessors were not blinded.", False),
        ({"name": "Outcome assessors blinded", "kind": "yesno"}, "Assessors took no part in care and were blinded.", True),
        ({"name": "Allocation concealed", "kind": "yesno"}, "Allocation could not be foreseen, as it was concealed in envelopes.", True),
        ({"name": "Design", "kind": "choice", "options": ["Parallel", "Crossover"]}, "A cross-over design was used.", "Crossover"),
        ({"name": "Number randomised", "kind": "number"}, "A total of 81 hives were randomised, 40 to foam and 41 to plain.", 81),
        ({"name": "Foam thickness", "kind": "quantity", "unit": "mm"}, "The foam thickness was 30 mm at 4 sites.", {"value": 30, "unit": "mm"}),
        ({"name": "Recruitment ended", "kind": "date"}, "Hives were recruited between 3 May 2014 and June 2016.", "2016-06"),
        ({"name": "Funder", "kind": "text"}, "The study was funded by the Brask Trust.", "Brask Trust"),
        ({"name": "Trial registration", "kind": "text"}, "It was registered (TRN-1234-56) before it began.", "TRN-1234-56"),
        ({"name": "Deaths", "kind": "counts"}, "In all, 12 of 40 hives died.", {"events": 12, "total": 40}),
        ({"name": "Nectar flow", "kind": "quantity", "unit": "kg/ha"}, "Clover gave a nectar flow of 90 kg sugar ha-1.", {"value": 90, "unit": "kg/ha"}),
        ({"name": "Oldest keeper", "kind": "quantity", "unit": "years"}, "Keepers were aged 19 to 71 years.", {"value": 71, "unit": "years"}),
        ({"name": "Keepers who declined", "kind": "number"}, "We asked 90 keepers, 33 keepers declined and 57 keepers agreed.", 33),
        ({"name": "Study design", "kind": "choice", "options": ["cohort study", "case series"]}, "We followed 212 hives for three winters.", "cohort study"),
        ({"name": "Phase", "kind": "choice", "options": ["1", "2", "3"]}, "In this phase II trial 3 sites took part.", "2"),
        ({"name": "Inspectors masked", "kind": "yesno"}, "Inspectors could not be kept unaware of the wraps.", False),
        ({"name": "Consent", "kind": "yesno"}, "The need for consent was waived.", False),
        ({"name": "Inspectors blinded", "kind": "yesno"}, "Keepers were not blinded, but inspectors were.", True),
        ({"name": "Regions", "kind": "text"}, "Hives came from the regions of Ostrel, Vastmark and Pomerel.", "Ostrel, Vastmark and Pomerel"),
        ({"name": "Randomised", "kind": "yesno"}, "Hives were assigned by the keepers' preference.", False),
        ({"name": "Competing interests", "kind": "yesno"}, "The other authors declare no competing interests.", True),
        ({"name": "Apiaries", "kind": "number"}, "We weighed 81 hives in 16 rows of eight apiaries.", 8),
        ({"name": "Minimum age", "kind": "quantity", "unit": "years"}, "Keepers were eligible if they were older than 65, and kept hives.", {"value": 65, "unit": "years"}),
        ({"name": "Specificity", "kind": "number"}, "Sensitivity of the board was 0.71 and specificity 0.97.", 0.97),
        ({"name": "Adjusted odds ratio", "kind": "number"}, "The adjusted OR was 1.92 (95% CI 1.55 to 2.38) in 2,050 hives.", 1.92),
        ({"name": "Initial weight", "kind": "quantity", "unit": "kg"}, "Hives with an initial weight of 7.4 +/- 1.2 kg took part.", {"value": 7.4, "unit": "kg"}),
        ({"name": "Nitrogen", "kind": "quantity", "unit": "kg/ha"}, "All plots received nitrogen (120 kg N per hectare) in May.", {"value": 120, "unit": "kg/ha"}),
        ({"name": "Apiaries", "kind": "number"}, "We invited all 122 apiaries, and 36 apiaries took part.", 36),
        ({"name": "Conflict of interest", "kind": "yesno"}, "T.O. and R.A. are shareholders of the maker.", True),
        ({"name": "Industry support", "kind": "yesno"}, "Wraptex S.p.A. donated the foam.", True),
        ({"name": "Conflict of interest", "kind": "yesno"}, "One of us (H. L.) is employed by the maker of the foam.", True),
        ({"name": "Frequency of visits", "kind": "text"}, "A keeper visited each hive every other week.", "every other week"),
        ({"name": "Season", "kind": "text"}, "Wraps were put on in the winter of 2017-2018.", "winter of 2017-2018"),
        ({"name": "Setting", "kind": "text"}, "Setting: 36 teaching apiaries of farm schools in Ostrel.", "36 teaching apiaries of farm schools"),
        ({"name": "Mean age", "kind": "quantity", "unit": "years"}, "Keepers were 28 to 66 years old (mean 46.5).", {"value": 46.5, "unit": "years"}),
        ({"name": "Return rate", "kind": "quantity", "unit": "%", "instructions": "At 12 months"}, "At 12 months the return rate was 93% and at 24 months 89%.", {"value": 93, "unit": "%"}),
        ({"name": "Inspectors blinded", "kind": "yesno"}, "An inspector who had not been told which hive was wrapped looked at them.", True),
        ({"name": "Study blinded", "kind": "yesno"}, "This non-blinded study ran for two winters.", False),
        ({"name": "Parasite species", "kind": "text"}, "Mites (Varroa jacobsoni) were counted on boards.", "Varroa jacobsoni"),
        ({"name": "Primary outcome", "kind": "text"}, "Weight in spring was the primary outcome.", "Weight in spring"),
    ],
)  # fmt: skip
def test_what_a_sentence_says_is_proposed_with_it(item: dict[str, Any], text: str, value: Any) -> None:
    first = of(text, **item)[0]
    assert (first.value, first.quote, first.page) == (value, text, None)


@pytest.mark.parametrize(
    ("name", "text", "foam", "plain"),
    [
        ("Queen loss", "Apiaries drew lots for foam (9 sites, 120 hives) or control (9 sites, 118 hives). Queen loss occurred in 11 and 17 hives, respectively.", (11, 120), (17, 118)),
        ("Queen loss", "Of 81 hives, 40 received foam and 41 served as controls. Four lost their queen: queen loss struck one with foam and three controls.", (1, 40), (3, 41)),
        ("Robbing", "There were 40 hives in each group. Robbing was seen in 12 hives with foam and 15 without.", (12, 40), (15, 40)),
        ("Nosema", "Nosema was found in 6 and 9 of 50 hives with foam and control, respectively.", (6, 50), (9, 50)),
        ("Robbing", "Forty hives had foam and 41 were controls. Chalkbrood was the commonest (20 v. 7), then robbing (14 v. 3).", (14, 40), (3, 41)),
        ("Dead hives", "Forty and thirty hives took part with foam and control. Four hives died before spring (three and one, respectively).", (3, 40), (1, 30)),
        ("Late swarms", "Hives with foam (n = 40) and control hives (n = 41) were alike. More than two late swarms left 12 foam hives and 9 control hives.", (12, 40), (9, 41)),
        ("Robbing", "216 hives of 18 keepers had foam and 202 hives of 17 keepers were controls. Robbing struck 11 hives with foam and 3 controls.", (11, 216), (3, 202)),
        ("Cracks", "There were 40 hives with foam and 41 control hives. Wasps came to 9 hives with foam and 8 controls; 5 and 6, respectively, had cracks.", (5, 40), (6, 41)),
        ("Robbing", "31 hives had foam (three sheets for 14 weeks) and 34 hives were controls. Robbing was seen in 2 hives with foam and 6 controls.", (2, 31), (6, 34)),
        ("Deaths", "Survival was alike with foam and in controls: 3 and 4 of 180 hives died.", (3, 180), (4, 180)),
        ("Robbing", "Foam was given to 40 hives and nothing to 41 control hives. Another 72 hives per group would be needed. Robbing struck 5 with foam and 6 controls.", (5, 40), (6, 41)),
        ("Swarming", "Foam was given to 212 hives of 11 keepers and control to 208 hives. Swarming was seen in 30 foam (14.2%) and 52 control hives (25.0%).", (30, 212), (52, 208)),
    ],
)  # fmt: skip
def test_events_find_the_size_of_their_arm(name: str, text: str, foam: tuple[int, int], plain: tuple[int, int]) -> None:
    said = {it.arm: tuple(it.value.values()) for it in reversed(of(text, name=name, kind="counts", arms=FOAM))}
    assert said == {"f": foam, "p": plain}


def test_what_a_sentence_leaves_out_stands_in_the_one_before() -> None:
    text = "At 6 weeks hive weight was 44.1 (SD 9.8) kg with foam and 49.6 (SD 12.5) kg in controls. At 12 weeks these were 50.2 (SD 11.4) and 50.9 (SD 12.1) kg."
    said = {it.arm: it.value["mean"] for it in reversed(of(text, name="Hive weight at 12 weeks", kind="mean_sd", unit="kg", arms=FOAM))}
    assert said == {"f": 50.2, "p": 50.9}


def test_a_clause_has_a_time_and_sizes_of_its_own() -> None:
    text = "At the start weight was 7.8 (SD 0.9, n=30) kg with foam and 7.6 (SD 1.0, n=31) kg in controls; at 6 months it was 1.9 (SD 1.1, n=28) and 3.8 (SD 1.5, n=29) kg."
    said = {it.arm: it.value for it in reversed(of(text, name="Weight at 6 months", kind="mean_sd", unit="kg", arms=FOAM))}
    assert said == {"f": {"mean": 1.9, "sd": 1.1, "n": 28}, "p": {"mean": 3.8, "sd": 1.5, "n": 29}}


def test_those_without_the_one_are_the_other_and_may_have_a_size_of_their_own() -> None:
    text = "Each keeper was paid 250 dollars for each hive. Forty hives had foam and 41 were controls. Hive age was 7 (SD 2, 38 hives) with and 9 (SD 3) without any foam."
    said = {it.arm: it.value for it in reversed(of(text, name="Hive age", kind="mean_sd", arms=FOAM))}
    assert said == {"f": {"mean": 7, "sd": 2, "n": 38}, "p": {"mean": 9, "sd": 3, "n": 41}}


def test_a_month_beats_its_bare_year() -> None:
    (item,) = items_of([{"id": "start", "name": "First winter", "kind": "date", "instructions": "When the first winter began."}])
    read = of_record("Wraps and winter loss, 2017 to 2020", "The apiaries took part from October 2017 on.")
    assert next(it.value for it in propose(read, [item])) == "2017-10"


def test_a_report_says_who_takes_part_and_what_its_short_forms_mean() -> None:
    texts = ["Sixty hill keepers were randomised.", "The wing wear index (WWI) was taken.", "Of 66 keepers invited, 60 agreed."]
    assert "keepers" in who_took_part(texts)
    assert short_forms(texts)["WWI"] == "wing wear index"
    text = "Keepers and the assessor were blinded. Sixty keepers were randomised. The wing wear index (WWI) was taken. WWI was 4.2 mm."
    assert of(text, name="Participants blinded", kind="yesno")[0].value is True
    assert of(text, name="Wing wear index", kind="quantity", unit="mm")[0].value == {"value": 4.2, "unit": "mm"}


def test_when_a_report_itself_appeared_is_no_date_of_the_study() -> None:
    text = "Hive Letters 2020;50(2):41-48. doi:10.5555/hl.2020.0005. Received 3 March 2019. The apiaries took part from October 2017 on."
    (item,) = items_of([{"id": "start", "name": "First winter", "kind": "date", "instructions": "When the first winter began."}])
    assert [it.value for it in propose(of_record("Wraps", text), [item])] == ["2017-10"]


def table(rows: list[tuple[str, ...]], *after: str) -> Article:
    """A page with a table, and sentences below it."""
    pdf = FPDF()
    pdf.add_page()
    pdf.set_font("Times", "", 10)
    pdf.write(6, "Table 1. Outcomes in spring.\n")
    with pdf.table(align="LEFT") as cells:
        for row in rows:
            cells.row(row)
    pdf.write(6, " ".join(after))
    return of_pdf(io.BytesIO(bytes(pdf.output())))


def test_the_size_of_a_group_may_stand_in_the_column_before_its_events() -> None:
    read = table([("Arm", "Colonies", "Alive in spring"), ("Foam", "107", "86"), ("Control", "66", "36")])
    (item,) = items_of([{"id": "a", "name": "Survived", "kind": "counts", "instructions": "Colonies alive in spring.", "arms": FOAM}])
    said = {it.arm: it.value for it in reversed(propose(read, [item]))}
    assert said == {"f": {"events": 86, "total": 107}, "p": {"events": 36, "total": 66}}


@pytest.mark.parametrize(
    ("name", "kind", "rows", "after", "foam", "plain"),
    [
        ("Deaths", "counts", [("", "Foam (40)", "Plain hives (41)", "p"), ("Deaths", "12 (30.0)", "9 (22.0)", "0.4"), ("Robbed", "3 (7.5)", "4 (9.8)", "0.7")], (), (12, 40), (9, 41)),
        ("Deaths", "counts", [("", "Foam (40 hives)", "Plain hives (41 hives)"), ("Deaths", "12", "9"), ("Robbed hives", "3", "4")], (), (12, 40), (9, 41)),
        ("Robbed", "counts", [("Outcome", "Foam No.", "Foam %", "Plain hives No.", "Plain hives %"), ("Deaths", "12", "30.0", "9", "22.0"), ("Robbed", "3", "7.5", "4", "9.8")], ("Values are for the 40 and 41 hives in the analysis.", "Foam was better than plain hives."), (3, 40), (4, 41)),
        ("Weight", "mean_sd", [("Time", "Foam mean", "SD", "Plain hives mean", "SD"), ("Weight", "5.2", "1.1", "4.8", "0.9"), ("Bees", "7.1", "2.0", "6.5", "1.8")], (), (5.2, 1.1, None), (4.8, 0.9, None)),
        ("Weight", "mean_sd", [("Outcome, mean (SD), n", "Foam (n = 40)", "Plain hives (n = 41)"), ("Weight", "5.2 (1.1), 38", "4.8 (0.9), 37"), ("Bees", "7.1 (2.0), 36", "6.5 (1.8), 35")], (), (5.2, 1.1, 38), (4.8, 0.9, 37)),
        ("Weight", "mean_sd", [("Outcome", "Group", "N", "Value"), ("Weight", "Foam", "40", "5.2 (1.1)"), ("", "Plain hives", "41", "4.8 (0.9)"), ("Bees", "Foam", "39", "7.1 (2.0)"), ("", "Plain hives", "40", "6.5 (1.8)")], (), (5.2, 1.1, 40), (4.8, 0.9, 41)),
    ],
)  # fmt: skip
def test_tables_say_arms_and_sizes_in_many_ways(
    name: str, kind: str, rows: list[tuple[str, ...]], after: tuple[str, ...], foam: Any, plain: Any
) -> None:
    (item,) = items_of([{"id": "it", "name": name, "kind": kind, "arms": FOAM}])
    said = {it.arm: tuple(it.value.values()) for it in reversed(propose(table(rows, *after), [item]))}
    assert said == {"f": foam, "p": plain}


def test_what_the_text_does_not_say_is_not_proposed() -> None:
    text = "We wrapped 40 hives in foam. Twelve died. Others [3] lost 30 of 90 hives. A questionnaire was employed, and sugar was provided by keepers."
    for item in (
        {"name": "Conflict of interest", "kind": "yesno"},
        {"name": "Support by industry", "kind": "yesno"},
        {"name": "Funder", "kind": "text"},
        {"name": "Mean age", "kind": "number", "unit": "years"},
        {"name": "Allocation concealed", "kind": "yesno"},
        {"name": "Hives that survived", "kind": "counts"},
    ):
        assert of(text, **item) == []


def test_the_size_of_an_arm_is_quoted_with_its_events() -> None:
    text = "Foam was given to 40 hives (n = 40), nothing to controls (n = 41). Deaths were 12 (30%) with foam and 9 (22%) in controls."
    found = {it.arm: it for it in reversed(of(text, name="Deaths", kind="counts", arms=FOAM))}
    assert {arm: it.value for arm, it in found.items()} == {"f": {"events": 12, "total": 40}, "p": {"events": 9, "total": 41}}
    assert all(str(it.value["total"]) in it.quote for it in found.values())


@pytest.mark.parametrize("seed", range(16))
def test_every_quote_stands_on_its_page_and_holds_its_figures(seed: int) -> None:
    it = apart(seed) if seed % 2 else invented(seed)
    article = of_pdf(io.BytesIO(it.pdf)) if it.pdf else of_record(it.title, it.abstract)
    found = propose(article, items_of(it.items))
    assert found
    for proposal in found:
        page = article.pages[proposal.page] if proposal.page else f"{it.title} {it.abstract}"
        assert proposal.quote in normal(page)
        assert 0 <= proposal.confidence <= 1
        figures = proposal.value.values() if isinstance(proposal.value, dict) else [proposal.value]
        held = {n.value for spaces in (False, True) for n in numbers(proposal.quote, spaces=spaces)} | {
            n.value for n in numbers(proposal.quote, commas=True)
        }
        assert all(value in held for value in figures if isinstance(value, int | float) and not isinstance(value, bool))
    assert found == propose(article, items_of(it.items))


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.sampled_from(
            [
                "Deaths",
                "were",
                "foam",
                "plain",
                "12",
                "40",
                "of",
                "/",
                "(",
                ")",
                "n",
                "=",
                "%",
                "±",
                "SD",
                "mean",
                "median",
                "range",
                "5",
                "2",
                "9",
                "not",
                "blinded",
                "by",
                "the",
                ".",
                ",",
                ";",
                "-",
                "–",
                "2014",
                "May",
                "mg",
                "3.5",
                "respectively",
                "[",
                "]",
                "and",
            ]
        ),
        max_size=40,
    ).map(" ".join),
    st.sampled_from(KINDS),
)
def test_no_text_breaks_it(text: str, kind: str) -> None:
    for it in of(text, name="Deaths", kind=kind, options=["May", "not"], arms=FOAM):
        assert it.quote in normal(f"A trial {text}")


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({}, "a list of data items"), ([], "a list of data items"), ([1], "item 1: an object"), ([{"kind": "text"}], "item 1: it has no name"), ([{"name": "A", "kind": "colour"}], "item 1: the kind is one of"), ([{"name": "A", "kind": "choice"}], "item 1: a choice needs options"),
        ([{"id": "a", "name": "A", "kind": "text"}] * 2, "is there twice"), ([{"name": "A", "kind": "counts", "arms": [{}]}], "item 1, arm 1: it has no name"),
    ],
)  # fmt: skip
def test_items_that_are_none_are_told(given: Any, said: str) -> None:
    with pytest.raises(NotAnItem, match=said):
        items_of(given)


def test_the_command_reads_pdfs_and_records_and_tells_what_it_cannot(tmp_path: Path) -> None:
    it = apart(1)
    assert it.pdf
    (tmp_path / "a.pdf").write_bytes(it.pdf)
    (tmp_path / "cut.pdf").write_bytes(it.pdf[:900])
    (tmp_path / "b.ris").write_text("TY  - JOUR\nTI  - Foam\nAB  - In all, 12 of 40 hives died.\nER  - \n")
    (tmp_path / "items.json").write_text(json.dumps([*it.items, {"id": "died", "name": "Hives that died", "kind": "counts"}]))
    run = subprocess.run(
        [Path(sys.executable).parent / "kettlesort", "propose", "a.pdf", "cut.pdf", "b.ris", "--items", "items.json", "--json"],
        cwd=tmp_path,
        capture_output=True,
        text=True,
        check=False,
    )
    assert run.returncode == 1
    assert "cut.pdf:1: this is no PDF that can be read" in run.stderr
    a, cut, b = json.loads(run.stdout)["files"]
    assert (a["read"], a["pages"], a["position"], a["problems"]) == ("full text", 1, 1, [])
    assert {(p["item"], p["arm"]): p["value"] for p in reversed(a["proposals"])}["n", None] == it.truth["n", None]
    assert (cut["read"], cut["proposals"]) == (None, [])
    assert (b["read"], b["pages"]) == ("abstract", None)
    assert next((p["value"], p["quote"], p["page"]) for p in b["proposals"] if p["item"] == "died") == (
        {"events": 12, "total": 40},
        "In all, 12 of 40 hives died.",
        None,
    )


def test_a_locked_and_a_scanned_file_are_told_and_the_rest_is_read(tmp_path: Path) -> None:
    for name in ("locked", "scan", "plain"):
        pdf = FPDF()
        pdf.add_page()
        pdf.set_font("Helvetica", size=12)
        pdf.rect(10, 40, 50, 50)
        if name != "scan":
            pdf.cell(text="In all, 12 of 40 hives died.")
        if name == "locked":
            pdf.set_encryption(owner_password="a", user_password="b")
        pdf.output(str(tmp_path / f"{name}.pdf"))
    (tmp_path / "items.json").write_text(json.dumps([{"name": "Hives that died", "kind": "counts"}]))
    command = [Path(sys.executable).parent / "kettlesort", "propose", "locked.pdf", "scan.pdf", "plain.pdf", "--items", "items.json"]
    run = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, check=False)
    locked, scan, plain = json.loads(run.stdout)["files"]
    assert run.returncode == 1
    assert "locked with a password" in locked["problems"][0]["message"]
    assert "no text, only pictures" in scan["problems"][0]["message"]
    assert [it["value"] for it in plain["proposals"]] == [{"events": 12, "total": 40}]


@pytest.mark.parametrize(("items", "said"), [("{", "no JSON that can be read"), ("[]", "a list of data items"), ('[{"name": "A", "kind": "colour"}]', "item 1: the kind is one of")])  # fmt: skip
def test_items_that_cannot_be_read_end_the_command_with_a_sentence(tmp_path: Path, items: str, said: str) -> None:
    (tmp_path / "items.json").write_text(items)
    command = [Path(sys.executable).parent / "kettlesort", "propose", "a.pdf", "--items", "items.json"]
    run = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, check=False)
    assert (run.returncode, run.stdout) == (2, "")
    assert said in run.stderr
    assert "Traceback" not in run.stderr
