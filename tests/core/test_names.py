"""Names of people in whatever manner a source writes them."""

from __future__ import annotations

import io
import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.formats import How, open_reading
from kettlesort.core.formats.suspicion import Watch
from kettlesort.core.names import Manner, author_name, is_one_name, manner_named, manner_of, names_in
from tests.core.columns import FORMS, ODD, PARTED, PEOPLE, column


def plain(names: tuple[str, ...]) -> tuple[str, ...]:
    """Names without blanks and stops of their initials: how these stand is the source's, not ours."""
    return tuple(name.replace(" ", "").replace(".", "").casefold() for name in names)


@pytest.mark.parametrize("form", FORMS)
def test_a_column_is_read_in_whatever_manner_it_is_written(form: str) -> None:
    for parted in PARTED:
        cells, meant = column(form, parted)
        manner = manner_of(cells).manner
        for cell, people in zip(cells, meant, strict=True):
            assert plain(names_in(cell, manner)) == plain(people), (cell, manner)


@pytest.mark.parametrize(("cells", "meant"), ODD, ids=lambda it: it[0] if isinstance(it[0], str) else "")
def test_columns_as_they_come(cells: list[str], meant: list[tuple[str, ...]]) -> None:
    manner = manner_of(cells).manner
    assert [plain(names_in(cell, manner)) for cell in cells] == [plain(people) for people in meant]


FAMILY = st.sampled_from([it.family for it in PEOPLE])
GIVEN = st.sampled_from([it.first for it in PEOPLE])
ONE = st.tuples(FAMILY, GIVEN, st.sampled_from(["", "B", "T"]))


@given(
    people=st.lists(st.lists(ONE, min_size=1, max_size=6), min_size=3, max_size=12),
    order=st.sampled_from(["{f}, {i}", "{f} {i}", "{i} {f}", "{f}, {g} {m}", "{g} {m} {f}"]),
    stop=st.sampled_from([".", ""]),
    sign=st.sampled_from(["; ", ";", " | ", "\n", " and ", ", ", ",", "//"]),
)
def test_names_written_in_any_manner_are_read_back(people: list[list[tuple[str, str, str]]], order: str, stop: str, sign: str) -> None:
    def given_of(first: str, middle: str) -> str:
        parts = [part[0] + stop for part in first.split("-")]
        return (
            "-".join(parts) + (middle + stop if middle else "") if "{i}" in order else f"{first} {middle + '.' if middle else ''}".strip()
        )

    cells, meant = [], []
    for row in [*people, [("Orsel", "Wilma", ""), ("Brask", "Cedric", ""), ("Ames", "Rudd", "B")]]:
        cells.append(
            sign.join(
                " ".join(order.format(f=f, i=given_of(g, m), g=g, m=m + "." if m else "").split(" ")).replace("  ", " ") for f, g, m in row
            )
        )
        meant.append(tuple(f"{f}, {given_of(g, m)}" for f, g, m in row))
    manner = manner_of(cells).manner
    assert [plain(names_in(cell, manner)) for cell in cells] == [plain(it) for it in meant]


@given(st.lists(st.text(max_size=60), max_size=8))
def test_no_text_brings_it_down_and_no_letter_is_invented(cells: list[str]) -> None:
    manner = manner_of(cells).manner
    assert manner_named(manner.key()) == manner
    for cell in cells:
        for name in names_in(cell, manner):
            assert set(name) <= set(cell) | {",", " ", "\n"}


def test_a_huge_cell_takes_no_time_that_a_person_would_notice() -> None:
    assert names_in(" " * 200_000 + ";" * 50_000, Manner(";")) == ()
    assert len(names_in("; ".join(f"Orsel{chr(97 + k % 26)}, W" for k in range(5000)), Manner(";"))) == 5000


def people_of(text: str, how: How = How()) -> list[tuple[str, ...]]:
    return [entry.record.authors for entry in open_reading(io.BytesIO(text.encode()), how)]


def test_a_heap_is_taken_apart_in_every_format() -> None:
    meant = [("Orsel, W", "Brask, C", "Ames, DJ")]
    assert people_of("TY  - JOUR\nTI  - Lids\nAU  - Orsel W, Brask C, Ames DJ\nER  - \n") == meant
    assert people_of("PMID- 1\nTI  - Lids\nFAU - Orsel, W; Brask, C; Ames, DJ\n") == meant
    assert people_of("@article{a, title={Lids}, author={Orsel W, Brask C, Ames DJ}}") == meant
    assert people_of('[{"title": "Lids", "author": [{"literal": "Orsel W; Brask C; Ames DJ"}]}]') == meant
    labelled = "Title: Lids {0}\nAuthors: Orsel W, Brask C, Ames DJ\nYear: 2016\nJournal: Hive Letters\n\n"
    assert people_of("".join(map(labelled.format, ("and straw", "and wax", "and wraps")))) == meant * 3
    assert people_of('Title,Authors,Year\nLids,"Orsel W, Brask C, Ames DJ",2016\nWraps,Quill R,2017\n') == [*meant, ("Quill, R",)]


def test_names_that_stand_apart_stay_apart() -> None:
    lines = "".join(
        f"TY  - JOUR\nTI  - Lids {name}\nAU  - {name}\nAU  - Quill, R\nER  - \n"
        for name in ("Garrido Mendel, Gonçal José", "Ministry of Wax, Office of Lids", "Orsel, W.")
    )
    assert [it[0] for it in people_of(lines)] == ["Garrido Mendel, Gonçal José", "Ministry of Wax, Office of Lids", "Orsel, W."]


def test_where_two_readings_are_as_likely_it_is_said_and_can_be_chosen() -> None:
    names = ["Zzorq Vbran", "Tthul Wwexa", "Qquor Nnirt", "Bblem Kkast"]
    text = "Title,Authors,Year\n" + "".join(
        f"Lids of kind {k},{'; '.join(pair)},2016\n" for k, pair in enumerate(itertools.permutations(names, 2))
    )
    watch, reading = Watch(), open_reading(io.BytesIO(text.encode()))
    read = [entry.record.authors for entry in watch.over(reading)]
    (said,) = [it for it in watch.suspicions(reading.people) if it.kind == "names"]
    assert "Vbran, Zzorq" in said.message
    assert "Zzorq, Vbran" in said.message
    assert read[0][0] == "Vbran, Zzorq"
    assert people_of(text, How(names=said.other))[0][0] == "Zzorq, Vbran"


def test_one_name() -> None:
    assert author_name("Tamsin van der Orsel") == "van der Orsel, Tamsin"
    assert author_name("Orsel TB") == "Orsel, TB"
    assert author_name("Hive Study Group") == "Hive Study Group"
    assert author_name("Orsel, Tamsin") == "Orsel, Tamsin"
    assert is_one_name("Orsel, Tamsin")
    assert not is_one_name("Orsel; Tamsin, W")
    assert not is_one_name("Wax and Lids, W")
