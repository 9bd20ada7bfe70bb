"""Queries put together from parts say what the parts say, however these are written."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.query import Descriptor, Group, Without, Years, as_descriptor, as_term, concepts_of, limited_to, parse, write
from kettlesort.core.query.limits import Limits, both, limited, term, without, years

QUERIES = st.sampled_from(
    ["wax", "wax OR comb", "wax AND comb", "(wax OR comb) NOT lid*", '"hard winter"', "title:(wax OR comb)", "wax NEAR/3 moth", "year:1980-", "[Care] (wax OR foam)"]
)  # fmt: skip
VALUES = st.text(st.sampled_from("abcäß że-'\".,()[]:*?/&0123"), min_size=1, max_size=20).filter(
    lambda said: any(c.isalnum() for c in said)
)
YEARS = st.integers(1, 9999)


@given(QUERIES, QUERIES)
def test_both_is_what_each_asks_for_and_without_what_only_the_first_does(one: str, other: str) -> None:
    left, right = parse(one).node, parse(other).node
    joined = parse(both(one, other)).node
    assert isinstance(joined, Group)
    assert joined.joint == "all"
    assert write(joined) == write(parse(f"({write(left)}) AND ({write(right)})").node)
    only = parse(without(one, other)).node
    assert isinstance(only, Without)
    assert write(only.left_out) == write(right)
    assert both(one, "", " ") == one


@given(QUERIES)
def test_a_limit_is_one_more_concept_beside_those_that_there_are(query: str) -> None:
    node, term_ = parse(query).node, parse("year:1998").node
    concepts = concepts_of(node)
    if any(it.left_out for it in concepts):
        return
    limited_now = concepts_of(limited_to(node, term_))
    assert limited_now[: len(concepts)] == concepts
    assert [it.terms for it in limited_now[len(concepts) :]] == [(term_,)]


@given(st.sampled_from(["type", "language", "country", "journal", "descriptor"]), VALUES)
def test_any_value_that_hits_divide_into_can_be_limited_to(field: str, value: str) -> None:
    said = term(field, value)
    parse(said)
    parse(both("wax OR comb", said))
    parse(without("wax OR comb", said))


@given(YEARS, YEARS)
def test_years_are_read_as_they_were_meant(one: int, other: int) -> None:
    first, last = sorted((one, other))
    assert parse(years(first, last)).node == Years(first, last)
    assert parse(years(first, None)).node == Years(first, None)
    assert parse(years(None, last)).node == Years(None, last)


@pytest.mark.parametrize(
    ("query", "limits", "said"),
    [
        ("", Limits(before=1990), "year:-1989"),
        ("", Limits(before=1990, after=2020, language="ger"), "(year:-1989 OR year:2021-) AND language:ger"),
        ("wax OR comb", Limits(kind="book"), "type:book AND (wax OR comb)"),
        (" wax OR comb ", Limits(), "wax OR comb"),
        ("", Limits(language='old "Norse"'), "language:\"old 'Norse'\""),
        ('"hard winter"', Limits(before=2), 'year:-0001 AND "hard winter"'),
        ("", Limits(), ""),
    ],
)
def test_limits_become_part_of_the_query(query: str, limits: Limits, said: str) -> None:
    assert (limited(query, limits) if query.strip() or any(limits) else "") == said
    if said:
        parse(said)


@given(
    st.lists(
        st.sampled_from(["wax", "comb*", "wom?n", "and", "NOT", "near", "bees", "(foam", '"lid"', "title:wax", "#1"]),
        min_size=1,
        max_size=4,
    )
)
def test_a_term_that_was_read_is_read_as_itself(words: list[str]) -> None:
    once = as_term("  ".join(words))
    assert as_term(once) == once


@given(VALUES.filter(lambda said: "/" not in said), st.booleans())
def test_a_heading_is_a_term_whatever_is_in_its_name_but_the_sign_of_a_qualifier(heading: str, narrower: bool) -> None:
    said = as_descriptor(heading, narrower)
    assert parse(said).node == Descriptor(" ".join(heading.replace('"', "'").split()), "", narrower)
