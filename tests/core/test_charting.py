"""Values as they are typed, codebooks as files, what changed in one, and units that are converted."""

from __future__ import annotations

from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.charting import double, studies
from kettlesort.core.charting.codebook import Codebook, NotACodebook, changes, read_toml, studies_under, tidied, why_unfit, write_toml
from kettlesort.core.charting.items import FACTORS, KINDS, Concept, Item, Level
from kettlesort.core.charting.studies import ReportSigns, belong_together, signs_of, study_labels
from kettlesort.core.charting.units import converted
from kettlesort.core.charting.values import NotAValue, number_of, parsed, shown, understood, worded

ITEMS = {
    "number": Item("n", "number"),
    "weight": Item("w", "quantity", "kg", low=0, high=200),
    "any": Item("q", "quantity"),
    "heat": Item("h", "quantity", "°C"),
    "counts": Item("e", "counts"),
    "mean": Item("m", "mean_sd"),
    "median": Item("r", "median_range"),
    "day": Item("d", "date"),
    "answer": Item("y", "yesno"),
    "choice": Item("c", "choice", choices=("Cohort", "Randomised", "NA")),
    "choices": Item("s", "choices", choices=("Foam", "Straw, loose", "Lid")),
    "text": Item("t", "text"),
}


@pytest.mark.parametrize(
    ("item", "typed", "kept"),
    [
        ("number", "1,234", "1234"), ("number", "−.5", "-0.5"), ("number", "1 234,5", "1234.5"), ("number", "12,345,678.9", "12345678.9"), ("number", "0,234", "0.234"), ("number", " ", ""),
        ("number", "nr", "not reported"), ("weight", "9,8", "9.8 kg"), ("weight", "9.8kg", "9.8 kg"), ("weight", "450 g", "450 g"), ("any", "3 mg/kg", "3 mg/kg"), ("any", "12", "12"),
        ("heat", "−4 °C", "-4 °C"), ("counts", "86 of 106", "86 / 106"), ("counts", "3/20 (15 %)", "3 / 20"), ("mean", "12.3 (4.5)", "12.3 ± 4.5"), ("mean", "12,3 ± 4,5, n = 20", "12.3 ± 4.5 (n 20)"),
        ("mean", "-1.2 +/- 0.4 (n 7)", "-1.2 ± 0.4 (n 7)"), ("mean", "12.3\t4.5", "12.3 ± 4.5"), ("mean", "12.3 SD 4.5 n 20", "12.3 ± 4.5 (n 20)"), ("median", "12 [8-20]", "12 (8 to 20)"),
        ("median", "12 (8 to 20, n 30)", "12 (8 to 20, n 30)"), ("median", "12 (range 8–20) n=30", "12 (8 to 20, n 30)"), ("median", "-3 (-5 to -1)", "-3 (-5 to -1)"), ("day", "2024-5-1", "2024-05-01"),
        ("answer", "Y", "yes"), ("choice", "cohort", "Cohort"), ("choice", "NA", "NA"), ("choices", "straw, loose; FOAM", "Foam; Straw, loose"), ("choices", "Lid, foam", "Foam; Lid"), ("text", "  a ", "a"),
        ("text", "n/a", "not applicable"),
    ],
)  # fmt: skip
def test_values_get_their_normal_form_and_keep_it(item: str, typed: str, kept: str) -> None:
    it = ITEMS[item]
    assert understood(it, typed) == kept
    assert understood(it, kept) == kept
    if kept and not kept.startswith("not "):
        assert worded(it, parsed(it, kept)) == kept


@pytest.mark.parametrize(
    ("item", "typed", "said"),
    [
        ("number", "many", "not a number"), ("weight", "3 weeks", "cannot be converted to kg"), ("weight", "250000 g", "from 0 to 200 kg"), ("weight", "-1", "outside the allowed range"),
        ("weight", "heavy", "number in kg"), ("counts", "12 / 4", "more than"), ("counts", "1/0", "total of 0"), ("mean", "12.3", "write 12.3 ± 4.5"), ("mean", "12.3 ± -4", "never negative"),
        ("median", "30 (8 to 20)", "does not lie between"), ("median", "12 (8 to 20, n 0)", "at least one"), ("day", "2024-02-30", "calendar"), ("choice", "C", "Cohort, Randomised"),
        ("choices", "Foam; Wool", "“Wool” is none"), ("answer", "perhaps", "neither"),
    ],
)  # fmt: skip
def test_what_does_not_fit_says_what_would(item: str, typed: str, said: str) -> None:
    with pytest.raises(NotAValue, match=said):
        understood(ITEMS[item], typed)


def test_a_quantity_in_another_unit_is_converted_and_both_are_shown() -> None:
    assert shown(ITEMS["weight"], "450 g") == "0.45 (450 g)"
    assert shown(ITEMS["weight"], "9.80 kg") == "9.80"
    assert number_of(ITEMS["weight"], "450 g") == 0.45
    assert shown(ITEMS["heat"], "50 °F") == "10 (50 °F)"
    assert [
        number_of(ITEMS[it], text) for it, text in (("counts", "1 / 4"), ("mean", "2.5 ± 1"), ("number", "not reported"), ("text", "7"))
    ] == [0.25, 2.5, None, None]


@pytest.mark.parametrize(
    ("value", "given", "wanted", "comes_to"),
    [
        (1.5, "g", "mg", 1500), (2, "mg/kg", "µg/kg", 2000), (2, "mg per kg", "ug/kg", 2000), (3, "weeks", "d", 21), (760, "mmHg", "kPa", 101.325), (5, "%", "per cent", None), (1, "mmol/L", "mg/dL", None),
        (1, "9" * 30, "g", None), (1, "g**99", "kg", None), (1, "__import__('os')", "g", None), (7, "colonies", "colony", 7),
    ],
)  # fmt: skip
def test_units_are_converted_where_they_measure_the_same(value: float, given: str, wanted: str, comes_to: float | None) -> None:
    assert converted(value, given, wanted) == (None if comes_to is None else pytest.approx(comes_to, rel=1e-4))


@given(st.sampled_from(sorted(ITEMS)), st.text(max_size=40))
def test_whatever_is_typed_gets_a_form_that_stays_or_a_message(item: str, typed: str) -> None:
    try:
        kept = understood(ITEMS[item], typed)
    except NotAValue:
        return
    assert understood(ITEMS[item], kept) == kept
    parsed(ITEMS[item], kept)


NAMES = st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Zl", "Zp")), min_size=1, max_size=12).filter(str.strip)


@st.composite
def codebooks(draw: st.DrawFn) -> Codebook:
    names = draw(st.lists(NAMES, min_size=1, max_size=6, unique_by=lambda it: " ".join(it.split()).casefold()))
    concepts = [Concept(name, draw(st.sampled_from(["", *names[:k]]))) for k, name in enumerate(names)]
    choices = tuple(
        draw(st.lists(NAMES.filter(lambda it: ";" not in it), min_size=2, max_size=4, unique_by=lambda it: it.strip().casefold()))
    )
    per = draw(st.sets(st.sampled_from(FACTORS)))
    items = [
        Item(name, draw(st.sampled_from(KINDS)), "mg", choices, low, low + 1, tuple(per), draw(st.sampled_from(["", *names])), draw(st.text(max_size=30)), "e.g. 3")
        for name in names for low in [draw(st.floats(-1e6, 1e6))]
    ]  # fmt: skip
    levels = [Level(factor, name, (name + "s",)) for factor in FACTORS for name in draw(st.sets(st.sampled_from(names)))]
    return Codebook(tuple(items), tuple(concepts), tuple(levels))


@given(codebooks())
def test_a_codebook_comes_back_from_its_file_as_it_was(book: Codebook) -> None:
    book = tidied(book)
    assert read_toml(write_toml(book)) == book


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("[[item]\nname=1", "line 1"), ("", "no data item"), ("[[item]]\nname = 'A'", "item 1: kind is missing"), ("[[item]]\nname = 'A'\nkind = 'guess'", "the kind is one of"),
        ("[[item]]\nname = 'A'\nkind = 'text'\ncolour = 'red'", "“colour” is unknown"), ("[[item]]\nname = 'A'\nkind = 'text'\nlow = 'red'", "low is a number"),
        ("[item]\nname = 'A'\nkind = 'text'", r"\[\[item\]\]"), ("[[item]]\nname = 'A'\nkind = 'text'\nper = ['leg']", "for each arm, outcome, time"),
        ("[[item]]\nname = 'A'\nkind = 'text'\nconcept = 'B'", "which is not there"), ("[[concept]]\nname = 'B'\nwithin = 'B'\n[[item]]\nname = 'A'\nkind = 'text'", "a kind of itself"),
        ("[[item]]\nname = 'A'\nkind = 'text'\n[[item]]\nname = 'a '\nkind = 'date'", "same name"), ("[[item]]\nname = 'A'\nkind = 'choice'\nchoices = ['x', 'X']", "at least two choices"),
        ("[[item]]\nname = 'A'\nkind = 'number'\nlow = 3\nhigh = 2", "lower end"), ("[[item]]\nname = 'A'\nkind = 'number'\nlow = nan", "lower end"),
    ],
)  # fmt: skip
def test_a_file_that_is_no_codebook_says_where(text: str, said: str) -> None:
    with pytest.raises(NotACodebook, match=said):
        read_toml(text)


def test_what_changed_is_said_item_by_item() -> None:
    before = {1: Item("Dose", "number"), 2: Item("Site", "text"), 3: Item("Kept", "text")}
    after = {1: Item("Dose given", "quantity", "mg", low=0, per=("arm",)), 3: Item("Kept", "text"), 4: Item("Lid", "yesno")}
    assert changes(before, after) == [
        "Lid was added", "Site was removed", "Dose: is called Dose given", "Dose: is quantity, was number", "Dose: in mg, was in no unit", "Dose: allows at least 0, was any number",
        "Dose: is asked for each arm, was once",
    ]  # fmt: skip


def test_a_study_is_under_every_concept_above_the_item_that_it_states() -> None:
    concepts = [Concept("Outcome"), Concept("Survival", "Outcome"), Concept("Setting")]
    items = {1: Item("Alive", "counts", concept="Survival"), 2: Item("Cost", "number", concept="Outcome"), 3: Item("Note", "text")}
    assert studies_under(concepts, items, [(7, 1), (8, 2), (9, 3), (9, 99)]) == {"Outcome": {7, 8}, "Survival": {7}, "Setting": set()}


def test_a_value_is_carried_over_to_a_changed_item_or_it_is_said_why_not() -> None:
    assert why_unfit(Item("Dose", "quantity", "mg"), "12", ()) == ("12 mg", "")
    assert why_unfit(Item("Dose", "yesno"), "12", ()) == ("12", "“12” is neither yes nor no")
    assert why_unfit(Item("Dose", "number", per=("arm",)), "12", ())[1] == "it is asked for each arm now, and this value names none"
    assert why_unfit(Item("Dose", "number"), "12", ("time",))[1] == "it is no longer asked for each time"


def test_studies_of_one_name_are_told_apart() -> None:
    assert study_labels(["Orsel 2019", "Ames 2003", "Orsel 2019"]) == ["Orsel 2019a", "Ames 2003", "Orsel 2019b"]


TRIAL = "The trial was registered as ABCD-1234567. In all 212 colonies at farms in Kellombe were followed."


@pytest.mark.parametrize(
    ("other", "authors", "text", "why"),
    [
        ("Honey of the same hives", ["Ames, M"], "Registration: ABCD 1234567.", ["both name ABCD1234567"]),
        ("Foam wraps in winter: a second year", ["Orsel, T", "Brask, R"], "We saw 212 colonies in Kellombe.", ["2 authors in common", "titles are alike", "both count 212", "both name Kellombe"]),
        ("Mites in summer", ["Orsel, T", "Ames, M"], "We saw 212 colonies in Kellombe.", []), ("Queens of the south", ["Lind, P"], "Nothing in common with it.", []),
    ],
)  # fmt: skip
def test_reports_that_may_be_of_one_study_are_found_with_what_speaks_for_it(
    other: str, authors: list[str], text: str, why: list[str]
) -> None:
    first = signs_of(1, 10, "Foam wraps in winter", ["Orsel, T", "Brask, R"], TRIAL)
    more = [signs_of(k, k, f"Report {k} on another thing", [f"Nobody{k}, X"], f"There were {k}77 colonies.") for k in range(3, 9)]
    found = belong_together([first, signs_of(2, 11, other, authors, text), *more])
    assert [(it.left, it.right, list(it.why)) for it in found] == ([(1, 2, why)] if why else [])
    assert belong_together([first, signs_of(2, 10, "Foam wraps in winter", ["Orsel, T"], TRIAL)]) == [], "they are one study already"


def _some(values: str, most: int = 3) -> st.SearchStrategy[frozenset[str]]:
    return st.frozensets(st.sampled_from(values.split()), max_size=most)


_signs = st.builds(
    ReportSigns, st.just(0), st.integers(1, 6), _some("RB1 RB2", 1), _some("orsel ames brask voss"), _some("40 120 300", 2), _some("Norvale Estmark", 2), _some("foam wrap winter hive")
)  # fmt: skip


@given(st.lists(_signs, max_size=9))
def test_no_pair_that_belongs_together_is_passed_over_unseen(some: list[ReportSigns]) -> None:
    reports = [one._replace(record=k) for k, one in enumerate(some)]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(studies, "_worth_a_look", lambda all_of_them: combinations(range(len(all_of_them)), 2))
        by_all = belong_together(reports)
    assert belong_together(reports) == by_all


DOSE, SPAN, MEAN = Item("Dose", "quantity", "mg"), Item("Span", "median_range"), Item("Used", "mean_sd")


@pytest.mark.parametrize(
    ("item", "one", "other", "why"),
    [
        (Item("N", "number"), "12", "12.4", []), (Item("N", "number"), "12.4", "12.5", ["12.4 and 12.5"]), (Item("N", "number"), "100", "104", ["100 and 104"]),
        (Item("N", "number"), "1.2e3", "1234", []), (Item("N", "number"), "-3", "3", ["-3 and 3"]), (Item("N", "number"), "12.0", "12", []),
        (DOSE, "0.5 g", "500 mg", []), (DOSE, "0.5 g", "540 mg", []), (DOSE, "0.5 g", "560 mg", ["0.5 g and 560 mg"]), (Item("L", "quantity"), "3 mm", "3 ml", ["3 mm and 3 ml"]),
        (Item("C", "counts"), "3 / 20", "3 / 21", ["total 20 and 21"]), (Item("C", "counts"), "3 / 20", "20 / 30", ["events 3 and 20", "total 20 and 30"]),
        (MEAN, "12.34 ± 4.5 (n 20)", "12.3 ± 5.4 (n 20)", ["SD 4.5 and 5.4"]), (MEAN, "1 ± 2", "1 ± 2 (n 3)", ["n not given and 3"]),
        (SPAN, "12 (8 to 20)", "12 (8 to 21)", ["high end 20 and 21"]), (SPAN, "12 (8 to 20, n 30)", "12.0 (8 to 20, n 30)", []),
        (Item("D", "date"), "2019", "2019-03", []), (Item("D", "date"), "2019-04", "2019-03", ["2019-04 and 2019-03"]),
        (Item("T", "text"), "Fen, upper", "FEN  upper", []), (Item("T", "text"), "Fen", "Fens", ["the words differ"]), (Item("Y", "yesno"), "yes", "no", ["yes and no"]),
        (Item("M", "choices", choices=("a", "b", "c")), "a; b", "b; c", ["only one has a", "only one has c"]), (DOSE, "not reported", "3 mg", ["not reported and 3 mg"]),
    ],
)  # fmt: skip
def test_what_two_read_is_the_same_but_for_rounding_and_how_it_is_written(item: Item, one: str, other: str, why: list[str]) -> None:
    assert double.differences(item, one, other) == why
    assert bool(double.differences(item, other, one)) == bool(why)


def test_without_rounding_and_letter_by_letter() -> None:
    strict = double.Rules(rounding=False, letters=True)
    assert double.differences(Item("N", "number"), "12", "12.4", strict) == ["12 and 12.4"]
    assert double.differences(Item("N", "number"), "12", "12.0", strict) == []
    assert double.differences(DOSE, "0.5 g", "540 mg", strict) == ["0.5 g and 540 mg"]
    assert double.differences(Item("T", "text"), "Fen", "FEN", strict) == ["the words differ"]


def test_the_fuller_of_two_values_stands() -> None:
    assert double.fuller(MEAN, "12.3 ± 4.5", "12.34 ± 4.5") == "12.34 ± 4.5"
    assert double.fuller(Item("D", "date"), "2019", "2019-03-01") == "2019-03-01"
    assert double.fuller(Item("T", "text"), "Fen", "FEN") == "Fen"


def test_agreement_on_an_item_with_its_interval_and_kappa() -> None:
    pairs = [("yes", "yes")] * 20 + [("yes", "no")] * 5 + [("no", "yes")] * 10 + [("no", "no")] * 15
    found = double.agreement(Item("Y", "yesno"), pairs)  # the table with a kappa of 0.4 that textbooks work out
    assert (found.read, found.same) == (50, 35)
    assert (found.share, found.low, found.high) == pytest.approx((0.7, 0.5624, 0.8090), abs=1e-4)
    assert found.kappa == pytest.approx(0.4)
    assert double.agreement(MEAN, []) == double.ItemAgreement(0, 0, None, None, None, None)
