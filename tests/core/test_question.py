"""A question in plain words: what speaks to it comes first, with the sentence that does so most."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.ranking.question import ask
from kettlesort.core.ranking.texts import RankedText
from kettlesort.core.text.sentences import sentences

PAPERS = [
    RankedText(
        "Foam lids and damp", "We compared lids. Colonies under insulated lids survived the winter more often. Costs were not counted."
    ),
    RankedText("Pollen diversity of gardens", "Gardens were visited in May. Forty kinds of pollen were told apart under the microscope."),
    RankedText(
        "Overwintering of honeybees in wrapped hives",
        "Wrapping was done in October (e.g. with felt). Of 40 wrapped hives 36 lived to see the spring.",
    ),
    RankedText("A note", ""),
]


def test_what_speaks_to_a_question_comes_first_with_its_sentence() -> None:
    said = ask("Do insulated or wrapped hives survive the winter better?", PAPERS)
    order = sorted(range(4), key=lambda k: -said[k].score)
    assert set(order[:2]) == {0, 2}
    assert PAPERS[0].abstract[said[0].begin : said[0].end] == "Colonies under insulated lids survived the winter more often."
    assert said[3].begin == said[3].end == 0
    assert ask("which pollen grains are in gardens", PAPERS)[1].score == max(
        it.score for it in ask("which pollen grains are in gardens", PAPERS)
    )


@pytest.mark.parametrize(
    ("text", "parts"),
    [
        ("One. Two? Three!", ["One.", "Two?", "Three!"]), ("By A. B. Orsel et al. In 1990 losses rose.", ["By A. B. Orsel et al. In 1990 losses rose."]), ("", []), ("  \n ", []),
        ("Losses were 3.5 vs. 4.5 per cent. (Both small.) Next", ["Losses were 3.5 vs. 4.5 per cent.", "(Both small.)", "Next"]), ("AIM\nTo see\n\nMETHODS\nWe saw", ["AIM", "To see", "METHODS", "We saw"]),
        ("蜂群越冬。損失は小さい。", ["蜂群越冬。", "損失は小さい。"]),
    ],
)  # fmt: skip
def test_sentences_end_where_they_end(text: str, parts: list[str]) -> None:
    assert [text[a:b].strip() for a, b in sentences(text)] == parts


@given(st.text(max_size=40), st.lists(st.tuples(st.text(max_size=20), st.text(max_size=60)), max_size=5))
def test_any_question_is_answered(question: str, papers: list[tuple[str, str]]) -> None:
    said = ask(question, [RankedText(*it) for it in papers])
    assert len(said) == len(papers)
    for it, (_, abstract) in zip(said, papers, strict=True):
        assert 0 <= it.begin <= it.end <= len(abstract)
        assert 0 <= it.score <= 1.000001
