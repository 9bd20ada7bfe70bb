"""Words to underline: whole, in any case, in phrases over hyphens; the team's own come before what was learned."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.screening.underline import NotAWord, parts, underlined, words_of_lines

TEXT = "Überwinterung of honey-bee colonies: HONEY BEES in Winter, winters and wintering"


@pytest.mark.parametrize(
    ("word", "found"),
    [
        ("winter", ["Winter"]),
        ("winter*", ["Winter", "winters", "wintering"]),
        ("honey bee", ["honey-bee"]),
        ("honey bee*", ["honey-bee", "HONEY BEES"]),
        ("uberwinterung", ["Überwinterung"]),
        ("Überwinter*", ["Überwinterung"]),
        ("inter", []),
        ("(", []),
    ],
)
def test_words_are_found_as_people_mean_them(word: str, found: list[str]) -> None:
    assert [TEXT[it.begin : it.end] for it in underlined(TEXT, [(word, True)])] == found


def test_the_teams_own_and_the_longer_come_first() -> None:
    it = underlined("honey bees die", [("honey bees", False), ("bees", True)], [(6, 10, True), (11, 14, True)])
    assert [(m.begin, m.end, m.supports, m.own) for m in it] == [(0, 10, False, True), (11, 14, True, False)]


@given(st.text(max_size=80), st.lists(st.tuples(st.text(min_size=1, max_size=8), st.booleans()), max_size=5))
def test_marks_are_in_order_and_none_is_over_another(text: str, words: list[tuple[str, bool]]) -> None:
    marks = underlined(text, words)
    assert all(0 <= it.begin < it.end <= len(text) for it in marks)
    assert all(a.end <= b.begin for a, b in itertools.pairwise(marks))


@pytest.mark.parametrize(
    ("abstract", "labels"),
    [
        ("BACKGROUND: Hives die. METHODS: We wrapped them. RESULTS: Fewer died.", ["BACKGROUND", "METHODS", "RESULTS"]),
        ("Aims: To count. Materials and methods: We counted. Conclusion: Many.", ["Aims", "Materials and methods", "Conclusion"]),
        (
            "DESIGN AND SETTING - Forty hives in DNA and RNA. MAIN OUTCOME MEASURES - Losses.",
            ["DESIGN AND SETTING", "MAIN OUTCOME MEASURES"],
        ),
        ("We found two results: one, and the other. PCR was done.", []),
        ("RESULTS: only one label.", []),
        ("", []),
    ],
)
def test_the_parts_of_a_structured_abstract(abstract: str, labels: list[str]) -> None:
    assert [abstract[a:b] for a, b in parts(abstract)] == labels


@pytest.mark.parametrize(("text", "said"), [("x" * 101, "longer than 100"), ("?", "cannot be underlined"), ("win*ter", "cannot be underlined"), ("\n".join(f"word{k}" for k in range(501)), "more than 500")])  # fmt: skip
def test_what_cannot_be_underlined_is_told(text: str, said: str) -> None:
    with pytest.raises(NotAWord, match=said):
        words_of_lines(text)
