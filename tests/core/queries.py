"""Queries and records to try them on, of every kind."""

from __future__ import annotations

from hypothesis import strategies as st

from kettlesort.core.query import Descriptor, Group, In, Near, Node, Searched, Text, Value, Without, Years, normal

WORD = st.text("abcdefgh", min_size=2, max_size=4)
WORDS = st.lists(st.builds(lambda word, end: word + end, WORD, st.sampled_from(["", "", "*", "?"])), min_size=1, max_size=3).map(tuple)
TEXTS = st.builds(Text, WORDS)
LEAVES = st.one_of(
    TEXTS,
    st.builds(Descriptor, st.sampled_from(["Bees", "Wax moth", "and", "né"]), st.sampled_from(["", "growth"]), st.booleans()),
    st.builds(lambda a, b: Years(min(a, b), max(a, b)), st.integers(1900, 2030), st.integers(1900, 2030)),
    st.sampled_from([Years(1980, None), Years(None, 1990), Value("language", "eng"), Value("type", "trial registration")]),
    st.builds(Near, TEXTS, TEXTS, st.integers(0, 9)),
)
LABELS = st.sampled_from(["", "", "Bees", "Winter, or cold"])


def groups(below: st.SearchStrategy[Node]) -> st.SearchStrategy[Node]:
    parts = st.lists(below, min_size=1, max_size=4).map(tuple)
    return st.one_of(st.builds(Group, st.sampled_from(["any", "all"]), parts, LABELS), st.builds(Without, below, below))


QUERIES = st.recursive(
    st.one_of(LEAVES, st.builds(In, st.sampled_from([("title",), ("title", "keyword")]), TEXTS)), groups, max_leaves=12
).map(normal)

RECORDS = st.builds(
    Searched,
    title=st.lists(st.sampled_from(["ab", "abc", "ba", "bab", "cc"]), max_size=7).map(" ".join),
    abstract=st.lists(st.sampled_from(["ab", "abd", "ba", "cc"]), max_size=9).map(" ".join),
    keywords=st.lists(st.sampled_from(["Bees", "*Bees/growth", "Wax moth", "ab ba"]), max_size=2),
    authors=st.just(["Orsel, T"]),
    journal=st.sampled_from(["", "ab ba"]),
    year=st.one_of(st.none(), st.integers(1900, 2030)),
    language=st.sampled_from(["eng", "ENG", "fra"]),
    type=st.just("article"),
)
