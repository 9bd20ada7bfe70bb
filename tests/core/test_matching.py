"""Finding copies, and leaving apart what only looks the same."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.matching import Groups, explain, match, merge
from kettlesort.core.record import Record

ORSEL = Record(
    kind="article", title="Overwintering losses in wrapped and unwrapped hives: a three-winter comparison in a cold climate",
    authors=("Orsel, Tamsin", "Vanterpool, Milo", "Quillby, Rudd"), year=2019, journal="Annals of Made-up Apiculture", volume="14", issue="2", pages="101–118",
    doi="10.5555/ama.2019.1402", abstract="Honeybee colonies in cold regions are commonly wrapped before winter, yet evidence that insulation improves survival is mixed.",
)  # fmt: skip


def verdict(a: Record, b: Record) -> str:
    pairs = match([a, b]).pairs
    return pairs[0].verdict if pairs else "apart"


@pytest.mark.parametrize(
    "copy",
    [
        ORSEL._replace(title=ORSEL.title.upper(), doi=""),
        ORSEL._replace(title="Overwintering losses in wrapped and unwrapped hives", doi="", year=2020),
        ORSEL._replace(authors=("Orsel, T", "Vanterpool, M", "et al."), journal="Ann. Made-up Apicult.", doi="", abstract=""),
        ORSEL._replace(title=ORSEL.title.replace("-winter", " winter").replace("cold", "co1d"), doi="", abstract=""),
        ORSEL._replace(title="", authors=()),
    ],
)
def test_copies_in_other_styles_are_joined(copy: Record) -> None:
    assert verdict(ORSEL, copy) == "same"


@pytest.mark.parametrize(
    "other",
    [
        ORSEL._replace(title=ORSEL.title + ", part II", doi="", pages="140–160", abstract=""),
        ORSEL._replace(title="Erratum: " + ORSEL.title, doi="", pages="300", abstract=""),
        ORSEL._replace(title="Nectar flow and swarming in rape fields", doi="10.5555/x.2", abstract="Another matter altogether."),
        ORSEL._replace(title="Editorial", authors=("Ames, B",), doi="", abstract="", pages="1"),
    ],
)
def test_what_only_looks_the_same_is_left_apart(other: Record) -> None:
    assert verdict(ORSEL, other) != "same"


def test_a_conference_abstract_of_an_article_is_asked_about() -> None:
    talk = ORSEL._replace(kind="conference", year=2018, journal="Overwintering Society", volume="4", pages="77", doi="", abstract="")
    assert verdict(ORSEL, talk) == "unsure"


def test_two_short_titles_alone_are_no_evidence() -> None:
    assert verdict(Record(title="Editorial", year=2001), Record(title="Editorial", year=2001)) == "apart"


def test_evidence_is_told_by_field_and_missing_is_none() -> None:
    weights = {it.field: it.weight for it in explain(ORSEL, ORSEL._replace(doi="", year=2020, volume=""))}
    assert weights["doi"] == 0
    assert weights["title"] > 0 > weights["year"]


def test_a_persons_word_holds_against_every_rule() -> None:
    result = match([ORSEL, ORSEL, ORSEL], different=[(0, 2)], same=[])
    assert not any({pair.left, pair.right} == {0, 2} and pair.verdict == "same" for pair in result.pairs)
    assert result.groups.of(0) != result.groups.of(2)
    other = Record(title="Something else entirely about drones", year=1980)
    assert match([ORSEL, other], same=[(0, 1)]).groups.of(1) == 0


def test_late_arrivals_meet_what_is_there_and_nothing_else_is_compared() -> None:
    result = match([ORSEL, ORSEL, ORSEL], first_new=2)
    assert {(pair.left, pair.right) for pair in result.pairs} <= {(0, 2), (1, 2)}


def test_the_kept_record_takes_the_fullest_value_and_knows_whose_it_is() -> None:
    short = ORSEL._replace(title="Overwintering losses", authors=("Orsel, T",), abstract="", doi="", issue="")
    kept, whose = merge([short, ORSEL])
    assert (kept.title, kept.authors, kept.doi, kept.abstract) == (ORSEL.title, ORSEL.authors, ORSEL.doi, ORSEL.abstract)
    assert whose["title"] == 1
    assert whose["year"] == 0


@given(
    st.lists(st.tuples(st.integers(0, 7), st.integers(0, 7)), max_size=20),
    st.sets(st.tuples(st.integers(0, 7), st.integers(0, 7)), max_size=6),
)
def test_groups_are_disjoint_and_never_hold_what_must_stay_apart(joins: list[tuple[int, int]], apart: set[tuple[int, int]]) -> None:
    apart = {(i, j) for i, j in apart if i != j}
    groups = Groups(8, apart)
    for i, j in joins:
        groups.join(i, j)
    assert sorted(itertools.chain.from_iterable(groups.all())) == list(range(8))
    assert not any(groups.of(i) == groups.of(j) for i, j in apart)
    assert all(groups.of(k) == min(groups.members(k)) for k in range(8))


def test_matching_is_the_same_every_time_and_in_blocks_of_any_size() -> None:
    many = [ORSEL._replace(title=f"{ORSEL.title} {k % 50}", doi="", pages=str(k % 50), abstract="") for k in range(200)]
    one, two = match(many), match(many)
    assert one.pairs == two.pairs
    assert len(one.groups.all()) == 50
