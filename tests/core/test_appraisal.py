"""Appraisal: rules over answers that may be missing, forms that make sense, files and pictures of them."""

from __future__ import annotations

import re
from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core import picture
from kettlesort.core.charting.appraisal import Domain, Form, NotAForm, Question, filled, of_domain, of_whole, read_toml, tidied, write_toml
from kettlesort.core.charting.appraisal_picture import Judged, bars, table
from kettlesort.core.charting.rules import NotARule, Rule, condition, proposed

NAMES, VALUES = ["lots", "hidden"], ["yes", "partly", "no", "not stated"]


@pytest.mark.parametrize(
    ("text", "given", "holds"),
    [
        ("all yes", {"lots": "yes", "hidden": "yes"}, True), ("all yes", {"lots": "no"}, False), ("all yes", {"lots": "yes"}, None), ("any no", {"hidden": "no"}, True),
        ("any no, partly", {"lots": "yes", "hidden": "partly"}, True), ("none no", {"lots": "yes", "hidden": "yes"}, True), ("none no", {"lots": "yes"}, None),
        ("lots is not stated", {"lots": "not stated"}, True), ("lots is not not stated", {"lots": "not stated"}, False), ("lots is not yes, partly", {"lots": "no"}, True),
        ("LOTS is Yes and hidden is no", {"lots": "yes", "hidden": "no"}, True), ("lots is yes or hidden is yes", {"lots": "yes"}, True), ("lots is yes or hidden is yes", {"lots": "no"}, None),
        ("not (lots is yes and any no)", {"lots": "no"}, True), ('lots is "not stated"', {"lots": "not stated"}, True), ("lots is yes and hidden is yes or any no", {"hidden": "no"}, True),
    ],
)  # fmt: skip
def test_a_condition_holds_does_not_or_waits(text: str, given: dict[str, str], holds: bool | None) -> None:
    assert condition(text, NAMES, VALUES)(given) is holds


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "is missing"), ("all", "at the end"), ("lots", "comes “is”"), ("lots is maybe", "before “maybe”"), ("luck is yes", "neither all, any, none nor"),
        ("(all yes", "bracket"), ("all yes yes", "not expected"), ("all yes and", "neither all"), ("yes is lots", "neither all"), ("all yes)", "not expected"),
    ],
)  # fmt: skip
def test_a_condition_that_cannot_be_read_says_what_was_expected(text: str, said: str) -> None:
    with pytest.raises(NotARule, match=re.escape(said)):
        condition(text, NAMES, VALUES)


PARTS = st.recursive(
    st.sampled_from(["all yes", "any no", "none partly", "lots is yes", "hidden is not no, partly", "lots is not stated"]),
    lambda inner: (
        st.tuples(inner, st.sampled_from(["and", "or"]), inner).map(lambda it: f"({it[0]} {it[1]} {it[2]})") | inner.map("not {}".format)
    ),
    max_leaves=6,
)


@given(PARTS, st.sampled_from([*VALUES, ""]), st.sampled_from([*VALUES, ""]))
def test_what_a_condition_says_of_some_answers_stays_true_of_all(text: str, lots: str, hidden: str) -> None:
    """What holds, or does not, before all is answered cannot turn whatever the others are."""
    holds = condition(text, NAMES, VALUES)
    now = holds({"lots": lots, "hidden": hidden})
    later = {holds({"lots": one, "hidden": other}) for one, other in product([lots] if lots else VALUES, [hidden] if hidden else VALUES)}
    assert None not in later
    assert now is None or later == {now}


def test_the_first_rule_that_holds_counts_and_nothing_is_proposed_too_early() -> None:
    rules = [Rule("lots is no", "serious doubt"), Rule("all yes", "sound")]
    assert proposed(rules, "some doubt", NAMES, VALUES, {"lots": "no"})[:2] == ("serious doubt", "lots is no")
    assert proposed(rules, "some doubt", NAMES, VALUES, {"hidden": "no"}) == ("", "", ("lots",))
    assert proposed(rules, "some doubt", NAMES, VALUES, {"lots": "yes", "hidden": "no"})[:2] == ("some doubt", "")
    assert proposed([], "", NAMES, VALUES, {"lots": "yes", "hidden": "no"})[:2] == ("", "")


def form(**more: object) -> Form:
    domains = (
        Domain("", "How hives came to be wrapped", (Question("lots", "Was it left to chance?"), Question("", "Were they alike in autumn?")), (Rule("any no", "bad"),), "fair"),
        Domain("", "Losses"),
    )  # fmt: skip
    return Form(**{"judgements": ("good", "fair", "bad"), "answers": ("yes", "no"), "domains": domains, "apart": ("open",), **more})  # type: ignore[arg-type]


def test_a_form_gets_its_keys_and_comes_back_from_its_file() -> None:
    it = tidied(form())
    assert [one.key for one in it.domains] == ["hives-came-wrapped", "losses"]
    assert [one.key for one in it.domains[0].questions] == ["lots", "they-alike-autumn"]
    assert read_toml(write_toml(it)) == it == tidied(it)
    assert [filled(it, word) for word in it.words] == [1, 0.5, 0, None]


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"judgements": ("good",)}, "at least two judgements"), ({"judgements": ("good", "Good")}, "Two judgements"), ({"answers": ("yes",)}, "at least two answers"),
        ({"appraisers": 3}, "One or two"), ({"domains": (Domain("", " "),)}, "needs a name"), ({"domains": (Domain("", "A"), Domain("", "a"))}, "Two domains"),
        ({"domains": (Domain("", "A", (), (Rule("x is y", "good"),)),)}, "A, rule 1"), ({"domains": (Domain("", "A", (), (), "great"),)}, "none of the judgements"),
        ({"domains": (Domain("all", "A"),)}, "cannot be the key"), ({"domains": (Domain("a", "A"), Domain("a", "B"))}, "another one has it"),
        ({"overall": (Rule("losses is bad", "great"),)}, "none of the judgements"), ({"domains": (Domain("", "A", (Question("", " "),)),)}, "needs its text"),
        ({"domains": (Domain("", "A", (Question("q", "Q"),), (Rule("(" * 3000, "good"),)),)}, "A, rule 1"),
    ],
)  # fmt: skip
def test_a_form_that_makes_no_sense_is_refused_with_where(more: dict[str, object], said: str) -> None:
    with pytest.raises(NotAForm, match=re.escape(said)):
        tidied(form(**more))


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("judgements = 3", "a list of texts"), ("colour = 'red'", "“colour” is unknown"), ("[domain]\nname = 'A'", r"[[domain]]"), ("x = ?\n", "line 1"), ("name = 'A'", "no domain"),
        ("whole = 1\n[[domain]]\nname = 'A'", "true or false"), ("[[domain]]\nname = 'A'\n[[domain.rule]]\nwhen = 2", "domain 1, rule 1: when is a text"),
    ],
)  # fmt: skip
def test_a_file_that_is_no_form_says_where(text: str, said: str) -> None:
    with pytest.raises(NotAForm, match=re.escape(said)):
        read_toml(text)


def test_the_whole_is_the_worst_of_its_domains_or_what_the_rules_say() -> None:
    it = tidied(form())
    assert of_whole(it, {"hives-came-wrapped": "good", "losses": "fair"}).judgement == "fair"
    assert of_whole(it, {"hives-came-wrapped": "good", "losses": "open"}).judgement == "open"
    assert of_whole(it, {"hives-came-wrapped": "good"}) == ("", "", ("losses",))
    ruled = tidied(form(overall=(Rule("any bad", "bad"), Rule("losses is open", "open")), otherwise="good"))
    assert of_whole(ruled, {"hives-came-wrapped": "bad"}).judgement == "bad"
    assert of_whole(ruled, {"hives-came-wrapped": "fair", "losses": "fair"}).judgement == "good"
    assert of_whole(it._replace(whole=False), {"hives-came-wrapped": "good", "losses": "fair"}).judgement == ""
    assert of_domain(it, it.domains[0], {"lots": "no"}).judgement == "bad"


def test_pictures_hold_every_study_and_a_malicious_name_is_text() -> None:
    it = tidied(form())
    evil = "<script>alert(1)</script>\x07"
    studies = [Judged(evil, {"losses": "good"}, "bad", "1"), Judged("Brask 1998", {"losses": "open", "hives-came-wrapped": "gone"})]
    for drawn in (table(it, studies, link=lambda study, domain: f"?s={study}&d={domain}"), bars(it, studies)):
        assert "<script>" not in drawn
        assert picture.png(drawn).startswith(b"\x89PNG")
        assert picture.pdf(drawn).startswith(b"%PDF")
    assert "Brask 1998, Losses: open" in table(it, studies)
    assert "Losses: good, 1 of 2" in bars(it, studies)
    assert "How hives came to be wrapped: not judged, 2 of 2" in bars(it, studies)
