"""Other forms of a term: offered when they stand in the records, each with its count."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.query import Index, Searched, variants


def index(*titles: str) -> Index:
    return Index(Searched(title, "", [], [], "", None, "", "") for title in titles)


@pytest.mark.parametrize(
    ("word", "others"),
    [
        ("colony", ["colonies"]), ("colonies", ["colony"]), ("hive", ["hives"]), ("losses", ["loss"]), ("box", ["boxes"]), ("larva", ["larvae"]), ("mice", ["mouse"]), ("analysis", ["analyses"]),
        ("colour", ["color"]), ("color", ["colour"]), ("organisation", ["organization"]), ("randomized", ["randomised"]), ("fibre", ["fiber"]), ("anaemia", ["anemia"]), ("oedema", ["edema"]),
        ("anemia", ["anaemia"]), ("sulphate", ["sulfate"]), ("behaviour", ["behavior"]), ("ageing", ["aging"]), ("centre", ["center"]), ("grey", ["gray"]), ("programme", ["program"]), ("defence", ["defense"]),
        ("honeybee", ["honey bee"]), ("honey bee", ["honeybee"]),
    ],
)  # fmt: skip
def test_a_form_that_stands_in_the_records_is_offered(word: str, others: list[str]) -> None:
    found = variants(tuple(word.split()), index(word, *others, "something else"))
    assert set(others) <= {" ".join(it.words) for it in found}


def test_each_comes_with_its_reason_and_count_and_the_stem_joins_them() -> None:
    found = variants(("insulation",), index("insulation", "insulated hives", "insulated lids", "insulations", "wax"))
    assert [(it.words, it.why, it.records) for it in found] == [
        (("insul*",), "all forms of the stem", 4),
        (("insulations",), "singular or plural", 1),
    ]
    assert variants(("wax",), index("wax")) == []
    assert variants(("wax*",), index("wax", "waxes")) == []


@given(st.text("abeionrsuyz ", max_size=14))
def test_whatever_the_word_only_what_is_there_is_offered(word: str) -> None:
    at = index("colony", "bees on ruins", word)
    assert all(it.records > 0 for it in variants(tuple(word.split()), at))
