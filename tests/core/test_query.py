"""Queries: what is typed is what is searched for; what is wrong is said where it is; every count is one that could be made by hand."""

from __future__ import annotations

import re
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.query import (
    BadLine,
    Concept,
    Descriptor,
    Group,
    In,
    Index,
    Mined,
    Near,
    Node,
    NotAQuery,
    Parts,
    Searched,
    SeedText,
    Settings,
    Text,
    Value,
    Without,
    Years,
    at_least,
    concepts_of,
    find,
    lines_of,
    log_likelihood_ratio,
    mine,
    normal,
    of_concepts,
    of_lines,
    parse,
    recall_interval,
    telling,
    try_on,
    walk,
    without_branch,
    write,
)
from kettlesort.core.query.counting import count_records
from kettlesort.core.query.index import headings_of
from kettlesort.core.query.words import words_of
from tests.core.queries import LABELS, QUERIES, RECORDS, TEXTS, groups

BEE, WAX, HIVE = Text(("bee",)), Text(("wax",)), Text(("hive",))


# reading


@pytest.mark.parametrize(
    ("typed", "node"),
    [
        ("bee", BEE),
        ("honey-bee", Text(("honey", "bee"))),
        ('"Apis  mellifera"', Text(("Apis", "mellifera"))),
        ("bee OR wax AND hive", Group("any", (BEE, Group("all", (WAX, HIVE))))),
        ("(bee OR wax) AND hive", Group("all", (Group("any", (BEE, WAX)), HIVE))),
        ("bee AND wax NOT hive", Without(Group("all", (BEE, WAX)), HIVE)),
        ("bee AND NOT hive", Without(BEE, HIVE)),
        ("bee NOT wax NEAR/3 hive", Without(BEE, Near(WAX, HIVE, 3))),
        ("title,abstract:(bee OR wax)", In(("title", "abstract"), Group("any", (BEE, WAX)))),
        ("[Bees] (bee)", Group("any", (BEE,), "Bees")),
        ("[ Bees ] ((bee OR wax))", Group("any", (BEE, WAX), "Bees")),
        ("descriptor:(Bees+ OR \"Wax moth/ecology\")", Group("any", (Descriptor("Bees", "", True), Descriptor("Wax moth", "ecology")))),
        ("year:1980-2026", Years(1980, 2026)),
        ("year:(1980- OR -1970 OR 1975)", Group("any", (Years(1980, None), Years(None, 1970), Years(1975, 1975)))),
        ("language:eng AND type:article", Group("all", (Value("language", "eng"), Value("type", "article")))),
        ("((((bee))))", BEE),
        ('"and" OR Near', Group("any", (Text(("and",)), Text(("Near",))))),
    ],
)  # fmt: skip
def test_a_query_is_read_as_it_is_meant(typed: str, node: Node) -> None:
    if typed.endswith("Near"):
        typed = typed.replace("Near", '"Near"')
    assert parse(typed).node == node


@pytest.mark.parametrize(
    ("typed", "at", "says", "expected"),
    [
        ("", "", "nothing to search for", "a word"),
        ("honey bee", "bee", "Nothing joins “honey” and “bee”", "AND"),
        ("(bee OR wax", "(", "never closed", ")"),
        ("bee OR wax)", ")", "closes nothing", "the end"),
        ("bee AND ()", "()", "empty", "a word"),
        ('bee AND "wax', '"wax', "never closed", '"'),
        ("NOT bee", "NOT", "takes away from what stands before", "a word"),
        ("AND bee", "AND", "on its left", "a word"),
        ("bee OR", "OR", "on its right", "a word"),
        ("(bee OR) AND wax", "OR", "on its right", "a word"),
        ("bee AND OR wax", "OR", "AND is followed by OR", "a word"),
        ("bee NEAR wax", "NEAR", "a number of words", "NEAR/n"),
        ("bee NEAR/999 wax", "NEAR/999", "from 0 to 50", "NEAR/n"),
        ("bee NEAR/" + "9" * 5000, "NEAR/" + "9" * 5000, "Nothing joins", "NEAR/n"),
        ("bee OR #" + "9" * 5000 + " wax", "wax", "Nothing joins", "AND"),
        ("(bee AND wax) NEAR/2 hive", "NEAR/2", "joins words", "a phrase"),
        ("titel:bee", "titel:", "no field “titel”", "title"),
        ("title:", "title:", "nothing to search for", "a word"),
        ("title:(bee OR abstract:wax)", "abstract:", "within another field", "a word"),
        ("title,year:1980", "title,year:", "stand together", "title"),
        ("year:20", "20", "not a range of years", "year:1980"),
        ("year:1990-1980", "1990-1980", "after the last", "earlier"),
        ('descriptor:"/x"', '"/x"', "before it", "heading"),
        ("b* OR bee", "b*", "nearly every word", "two letters"),
        ("bee OR *", "*", "every word", "two letters"),
        ("bee OR a*a*a*a*b", "a*a*a*a*b", "more than 3 stars", "fewer"),
        ("bee OR --", "--", "no letter or digit", "a word"),
        ("[Bees] bee", "[Bees]", "not followed by a group", "("),
        ("#3 OR bee", "#3", "no line 3", "earlier line"),
        ("bee ] wax", "]", "no meaning", "a word"),
        ("(" * 300 + "a" + " OR b)" * 300, "", "more than 100 deep", "fewer levels"),
        ("(" * 10_000, "(", "never closed", ")"),
        ("bee " * 100_000, "", "at most 200,000 characters", ""),
    ],
)  # fmt: skip
def test_what_is_wrong_is_said_where_it_is_and_how_to_mend_it(typed: str, at: str, says: str, expected: str) -> None:
    with pytest.raises(NotAQuery) as caught:
        parse(typed)
    error = caught.value
    assert says in error.message
    assert typed[error.begin : error.end] == at or not at
    assert expected in error.expected
    assert error.mend or not expected


def test_what_a_word_processor_did_is_repaired_and_said() -> None:
    it = parse("“honey bee” or year：1980–2026 and wom？n＊")
    assert it.node == parse('"honey bee" OR year:1980-2026 AND wom?n*').node
    said = " ".join(note.message for note in it.notes)
    for words in ("quotes of a word processor", "dashes", "wide signs", "“or” is read as OR", "before OR"):
        assert words in said


def test_unseen_signs_are_left_out_and_places_stay_those_of_what_was_typed() -> None:
    typed = "\u202bhive\u00ad\u200bs AND"
    with pytest.raises(NotAQuery) as caught:
        parse(typed)
    assert typed[caught.value.begin : caught.value.end] == "AND"
    assert parse(typed + " bee").node == parse("hives AND bee").node
    assert "cannot be seen" in parse(typed + " bee").notes[0].message


def test_ten_thousand_parentheses_are_no_matter() -> None:
    assert parse("(" * 10_000 + "bee" + ")" * 10_000).node == BEE


def test_a_line_stands_for_an_earlier_query() -> None:
    lines = [parse("bee OR wax").node, parse("hive").node]
    assert parse("#1 AND #2", lines).node == Group("all", (Group("any", (BEE, WAX)), HIVE))


# round trips

LABELLED = st.builds(Group, st.just("any"), st.lists(TEXTS, min_size=1, max_size=3).map(tuple), LABELS)
NAMED_INSIDE = st.one_of(
    st.builds(Near, LABELLED, st.one_of(TEXTS, LABELLED), st.integers(1, 9)),
    st.builds(In, st.just(("title", "abstract")), groups(st.one_of(TEXTS, LABELLED))),
)


@given(st.recursive(NAMED_INSIDE, groups, max_leaves=3).map(normal))
def test_names_within_fields_and_proximities_are_kept(node: Node) -> None:
    assert parse(write(node)).node == node
    assert of_concepts(concepts_of(node)) == node
    assert of_lines(lines_of(node)) == node


@given(QUERIES)
def test_what_is_written_is_read_as_the_same_query(node: Node) -> None:
    it = parse(write(node))
    assert it.node == node
    assert it.notes == []


@given(QUERIES)
def test_the_three_views_are_one_query(node: Node) -> None:
    assert of_concepts(concepts_of(node)) == node
    assert of_lines(lines_of(node)) == node


def test_lines_and_concepts_say_what_is_wrong_with_which() -> None:
    with pytest.raises(BadLine) as caught:
        of_lines(["bee OR wax", "#1 AND #2"])
    assert (caught.value.line, caught.value.message) == (2, "There is no line 2 before this one.")
    with pytest.raises(NotAQuery, match="No concept has a term"):
        of_concepts([Concept("Bees", "any", ()), Concept("", "any", (WAX,), left_out=True)])
    with pytest.raises(NotAQuery, match="In title only words"):
        of_concepts([Concept("", "any", (WAX, Years(1980, None)), fields=("title",))])
    lines = ["wax AND hive", "[Bees] (bee OR #1)", "#2 NOT title:review"]
    assert concepts_of(parse("[Bees] (title:(bee OR wax)) AND hive").node) == [
        Concept("Bees", "any", (BEE, WAX), fields=("title",)),
        Concept("", "any", (HIVE,)),
    ]
    assert lines_of(parse("[Bees] (bee OR (wax AND hive)) NOT title:review").node) == lines


@given(st.text('ab()"*?#:/[] ANDORTitle-–“\u200b1é', max_size=60))
def test_whatever_is_typed_is_a_query_or_says_why_not(typed: str) -> None:
    try:
        node = parse(typed).node
    except NotAQuery as error:
        caught = error
    else:
        assert parse(write(node)).node == node
        return
    assert caught.message
    assert 0 <= caught.begin <= caught.end <= len(typed)


# finding: the index against looking at every record by hand


def matches(pattern: str, word: str) -> bool:
    return re.fullmatch(pattern.replace("*", ".*").replace("?", "."), word) is not None


def spans(node: Node, words: list[str]) -> set[tuple[int, int]]:
    match node:
        case Text(patterns):
            n = len(patterns)
            return {(k, k + n - 1) for k in range(len(words) - n + 1) if all(map(matches, patterns, words[k : k + n]))}
        case Near(left, right, within):
            sides = product(spans(left, words), spans(right, words))
            return {(min(a, c), max(b, d)) for (a, b), (c, d) in sides if 0 < c - b <= within + 1 or 0 < a - d <= within + 1}
        case _:
            return set()


def by_hand(node: Node, it: Searched, fields: tuple[str, ...] = ("title", "abstract", "keyword")) -> bool:
    match node:
        case Text() | Near():
            texts = {"title": [it.title], "abstract": [it.abstract], "keyword": it.keywords, "journal": [it.journal]}
            return any(spans(node, words_of(text)) for field in fields for text in texts[field])
        case In(inside, part):
            return by_hand(part, it, inside)
        case Group(joint, parts):
            return (any if joint == "any" else all)(by_hand(part, it, fields) for part in parts)
        case Without(kept, left_out):
            return by_hand(kept, it, fields) and not by_hand(left_out, it, fields)
        case Years(first, last):
            return it.year is not None and (first or 0) <= it.year <= (last or 9999)
        case Descriptor(heading, qualifier, _):
            wanted = f"{heading}/{qualifier}".lower() if qualifier else heading.lower()
            return any(wanted in headings_of(word) for word in it.keywords)
        case Value(field, value):
            return bool(getattr(it, field).lower() == value)


PATTERNS = st.lists(st.sampled_from(["ab", "ab*", "ab?", "*ab", "ba", "cc", "zz", "?ab*"]), min_size=1, max_size=3).map(tuple)
FINDABLE = st.builds(Text, PATTERNS)
SOUGHT = st.recursive(
    st.one_of(
        FINDABLE,
        st.builds(Near, FINDABLE, FINDABLE, st.integers(0, 4)),
        st.builds(In, st.sampled_from([("title",), ("abstract", "journal")]), FINDABLE),
        st.sampled_from([Descriptor("Bees"), Descriptor("Bees", "growth"), Years(1950, None), Value("language", "eng")]),
    ),
    groups,
    max_leaves=8,
).map(normal)


@given(SOUGHT, st.lists(RECORDS, max_size=8))
def test_what_is_found_is_what_looking_at_each_record_finds(node: Node, records: list[Searched]) -> None:
    assert find(node, Index(records)).tolist() == [by_hand(node, it) for it in records]


@given(SOUGHT, st.lists(RECORDS, min_size=1, max_size=8))
def test_each_branch_is_counted_alone_and_the_whole_without_it(node: Node, records: list[Searched]) -> None:
    index = Index(records)
    seeds = list(range(0, len(records), 2))
    trial = try_on(node, index, seeds)
    assert trial.found.tolist() == find(node, index).tolist()
    assert [it.path for it in trial.branches] == [path for path, _ in walk(node)]
    for branch, (path, part) in zip(trial.branches, walk(node), strict=True):
        assert branch.node == part
        assert branch.hits == int(find(parse(branch.query).node, index).sum())
        rest = without_branch(node, path)
        if rest is None:
            assert branch.without_hits is None
        else:
            left = find(rest, index)
            assert branch.without_hits == int(left.sum())
            assert branch.adds == int((trial.found & ~left).sum())
            assert branch.lost_seeds == tuple(k for k, seed in enumerate(seeds) if trial.found[seed] and not left[seed])


@given(SOUGHT, st.lists(st.tuples(RECORDS, st.integers(0, 2), st.booleans()), max_size=9))
def test_an_index_in_packed_parts_finds_and_counts_the_same(node: Node, dealt: list[tuple[Searched, int, bool]]) -> None:
    """Records dealt to three parts, some of them no longer there."""
    alive = [it for it, _, there in dealt if there]
    place = np.array([sum(there for _, _, there in dealt[:k]) if there else -1 for k, (_, _, there) in enumerate(dealt)], np.int64)
    parts = [Index.unpack(Index([it for it, part, _ in dealt if part == k]).pack()) for k in range(3)]
    index = Parts(parts, [place[[n for n, (_, part, _) in enumerate(dealt) if part == k]] for k in range(3)])
    whole = Index(alive)
    found = find(node, index)
    assert found.tolist() == find(node, whole).tolist()
    for field in ("year", "type", "language", "journal", "descriptor"):
        assert index.breakdown(found, field) == whole.breakdown(found, field)
    terms = [[("ab",)], [("ab", "ba"), ("ba", "ab")], [("cc", "ab", "ab")]]
    but = np.arange(0, len(alive), 2)
    assert (
        count_records(index, terms, ["title", "abstract"], but).tolist() == count_records(whole, terms, ["title", "abstract"], but).tolist()
    )


def test_narrower_headings_are_searched_when_asked_for() -> None:
    records = [Searched("", "", [word], [], "", None, "", "") for word in ("Insects", "Bees/growth", "Honeybees", "Wasps")]
    below = {"Insects": ["Bees", "Honeybees"]}
    index = Index(records)
    assert find(Descriptor("insects"), index).tolist() == [True, False, False, False]
    assert find(Descriptor("Insects", "", True), index, lambda heading: below[heading]).tolist() == [True, True, True, False]
    assert find(Descriptor("Insects", "growth", True), index, lambda heading: below[heading]).tolist() == [False, True, False, False]


def test_terms_stand_out_that_bring_nothing_too_much_or_a_seed_alone() -> None:
    titles = ["honeybee in winter", "bees in winter", "honeybee hive in winter", "packing crates", "packing of fruit", "packing"]
    index = Index([Searched(title, "", [], [], "", None, "", "") for title in titles])
    trial = try_on(parse("honeybee OR bees OR hive* OR packing").node, index, [0, 1])
    assert {it.text: it.remark for it in trial.branches[1:]} == {
        "honeybee": "alone brings a seed", "bees": "alone brings a seed", "hive*": "adds nothing", "packing": "many hits, no seed",
    }  # fmt: skip
    assert [(it.hits, it.seeds, it.adds) for it in trial.branches[:2]] == [(6, (0, 1), None), (2, (0,), 1)]


def test_what_is_found_divides_by_year_type_language_journal_and_descriptor() -> None:
    records = [
        Searched("hive", "", ["Bees", "*Bees/growth"], [], "Annals", 2001, "eng", "article"),
        Searched("hive", "", [], [], "annals", None, "fra", "article"),
    ]
    index = Index([*records, Searched("wax", "", ["Bees"], [], "Annals", 2001, "eng", "book")])
    found = find(parse("hive").node, index)
    assert index.breakdown(found, "year") == [("", 1), ("2001", 1)]
    assert index.breakdown(found, "type") == [("article", 2)]
    assert index.breakdown(found, "language", 1) == [("eng", 1)]
    assert index.breakdown(found, "journal") == [("Annals", 1), ("annals", 1)]
    assert index.breakdown(found, "descriptor") == [("Bees", 1)]


def test_recall_has_its_exact_interval() -> None:
    low, high = recall_interval(6, 6)
    assert (round(low, 4), high) == (0.5407, 1.0)  # 0.025 ** (1 / 6)
    low, high = recall_interval(4, 10)
    assert (round(low, 4), round(high, 4)) == (0.1216, 0.7376)
    with pytest.raises(ValueError, match="positive"):
        recall_interval(0, 0)


# words of the seeds

SEEDS = [
    SeedText(0, "Hive wraps in winter", "Wraps of hives. Winter losses fell.", ["Bees"]),
    SeedText(1, "Foam wraps", "A wrap for hives in winter.", ["Bees", "Winter"]),
]
OTHERS = ["Winter wheat", "Winter barley", "A hive", "Wraps of foam"]


def mined(**settings: object) -> dict[str, Mined]:
    records = [Searched(it.title, it.abstract, it.keywords, [], "", None, "", "") for it in SEEDS]
    index = Index([*records, *(Searched(title, "", [], [], "", None, "", "") for title in OTHERS)])
    return {it.term: it for it in mine(SEEDS, index, Settings(**settings))}  # type: ignore[arg-type]


def test_words_of_the_seeds_are_counted_as_by_hand() -> None:
    found = mined(least=1)
    wraps, winter = found["wraps"], found["winter"]
    assert (wraps.seeds, wraps.title, wraps.abstract, wraps.keyword, wraps.records) == (2, 2, 1, 0, 1)
    assert wraps.weight == 3 * 2 + 1 * 1
    assert (winter.seeds, winter.title, winter.abstract, winter.keyword, winter.records) == (2, 1, 2, 1, 2)
    assert (found["bees"].keyword, found["bees"].records) == (2, 0)
    assert found["foam wraps"].seeds == 1
    assert found["hives in winter"].abstract == 1


@given(
    st.lists(RECORDS, min_size=1, max_size=8),
    st.lists(
        st.lists(st.lists(st.sampled_from(["ab", "ba", "cc", "zz"]), min_size=1, max_size=3).map(tuple), min_size=1, max_size=2), max_size=4
    ),
)
def test_counting_many_phrases_at_once_is_counting_each(records: list[Searched], terms: list[list[tuple[str, ...]]]) -> None:
    spellings = list(dict.fromkeys(it for term in terms for it in term))  # each belongs to one term, of its length
    terms = [it for it in ([s for s in spellings if len(s) == size] for size in (1, 2, 3)) if it]
    index = Index(records)
    fields = ("title", "abstract", "keyword")
    by_hand_ = [sum(any(by_hand(Text(spelling), it, fields) for spelling in term) for it in records[1:]) for term in terms]
    assert count_records(index, terms, fields, np.array([0])).tolist() == by_hand_


def test_phrases_stay_in_their_sentence_and_have_no_common_word_at_an_end() -> None:
    found = mined(least=1)
    assert not {"hives winter", "in winter", "wraps of", "of hives", "a wrap"} & set(found)
    assert "wraps of hives" in found
    assert "in winter" in mined(least=1, common=True)
    assert all(len(term.split()) == 1 for term in mined(least=1, longest=1))
    assert all(it.seeds == 2 for it in mined(least=2).values())


def test_forms_of_a_word_can_be_joined_by_their_stem() -> None:
    it = mined(stems=True)["wraps"]
    assert (set(it.forms), it.seeds, it.abstract, it.records) == ({"wraps", "wrap"}, 2, 2, 1)
    assert mined(stems=True)["hives"].records == 1  # "hive" of a title too


def test_what_is_special_to_the_seeds_comes_out_by_the_ratio_of_likelihoods() -> None:
    found = mined(least=1)
    assert found["bees"].special > found["wraps"].special > found["winter"].special > 0
    assert log_likelihood_ratio(1, 10, 10, 100) == pytest.approx(0)
    assert log_likelihood_ratio(0, 10, 50, 100) < 0
    assert log_likelihood_ratio(110, 110, 0, 0) == 0
    # a table worked by hand: 2 * (8 ln(8/4.5) + 2 ln(2/5.5) + 10 ln(10/13.5) + 20 ln(20/16.5))
    assert log_likelihood_ratio(8, 10, 10, 30) == pytest.approx(6.8522, abs=1e-4)
    with pytest.raises(ValueError, match="1 to 6 words"):
        mined(longest=9)


# what is like some records

LETTERS = ("bee", "wax", "hive", "brood", "queen")


@given(st.lists(st.sets(st.sampled_from(LETTERS)), min_size=1, max_size=12), st.integers(1, len(LETTERS)))
def test_at_least_so_many_of_the_parts_find_what_has_them(records: list[set[str]], least: int) -> None:
    node = at_least(least, [Text((word,)) for word in LETTERS])
    assert parse(write(node)).node == node
    index = Index(titled(" ".join(sorted(words))) for words in records)
    assert find(node, index).tolist() == [len(words) >= least for words in records]


def titled(text: str) -> Searched:
    return Searched(text, "", [], [], "", None, "", "")


@pytest.mark.parametrize("least", [0, 6, -1])
def test_no_query_asks_for_more_parts_than_there_are(least: int) -> None:
    with pytest.raises(ValueError, match="cannot be"):
        at_least(least, [Text((word,)) for word in LETTERS])


def test_the_words_that_tell_a_record_are_its_weightiest_and_share_no_word() -> None:
    texts = ["Wrapped hives in winter", *["Bees in summer"] * 6, "Hives in summer"]
    mined = mine([SeedText(0, texts[0], "Wrapped hives kept their warmth", [])], Index(map(titled, texts)), Settings(longest=2, least=1))
    told = [one.term for one in telling(mined, 4)]
    assert told == ["wrapped", "hives", "winter", "kept"]
    assert telling(mined, 0) == []
