"""Filters: each value with its count under the other filters, and the list that a count opens has as many."""

from __future__ import annotations

import io
from dataclasses import replace
from typing import Any

import pytest

from kettlesort.core.languages import language_named, spellings_of
from kettlesort.store.records import Wanted
from kettlesort.work import fulltexts, records, seeds
from tests.conftest import Room

RECORDS = "".join(
    f"TY  - {kind}\nTI  - {title}\nPY  - {year}\nLA  - {language}\n{abstract}ID  - {k}\nER  - \n\n"
    for k, (kind, title, year, language, abstract) in enumerate(
        [
            ("JOUR", "Wrapped hives", 2001, "eng", "AB  - We wrapped them.\n"), ("JOUR", "Foam lids", 2001, "English", ""), ("CHAP", "Feeding", 2005, "ger", "AB  - We fed them.\n"),
            ("JOUR", "Mites under snow", 2009, "Deutsch", "AB  - Mites.\n"), ("JOUR", "Queens", 2009, "", "AB  - Queens.\n"),
        ],
        1,
    )
)  # fmt: skip


@pytest.fixture
def five(room: Room) -> Room:
    room.gather(RECORDS)
    by_title = {it["title"]: it["id"] for it in records.page_of(room.review, Wanted(), 0, 9)[1]}
    room.decide(by_title["Wrapped hives"], "include")
    fulltexts.set_full_text(room.review, room.lead, by_title["Wrapped hives"], "obtained", "", "w.pdf", io.BytesIO(b"%PDF-1.4 w"))
    room.decide(by_title["Feeding"], "exclude", by=room.reviewer)
    room.decide(by_title["Queens"], "unsure")
    return room


def count(room: Room, wanted: Wanted) -> int:
    return records.page_of(room.review, wanted, 0, 1)[0]


FIELD: dict[str, Any] = {
    "kinds": lambda it, v: replace(it, kind=v), "languages": lambda it, v: replace(it, language=v or "-"), "abstract": lambda it, v: replace(it, abstract=v == "yes"),
    "doi": lambda it, v: replace(it, doi=v == "yes"), "pdf": lambda it, v: replace(it, pdf=v == "yes"), "states": lambda it, v: replace(it, verdict=v), "sources": lambda it, v: replace(it, source=v),
    "years": lambda it, v: replace(it, year_from=int(v), year_to=int(v)), "descriptors": lambda it, v: replace(it, descriptor=v), "people": lambda it, v: replace(it, person=int(v.split(":")[0])), "reasons": lambda it, v: replace(it, criterion=int(v.split(":")[0])),
}  # fmt: skip


@pytest.mark.parametrize("wanted", [Wanted(), Wanted(abstract=True), Wanted(language="German"), Wanted(verdict="include"), Wanted(kind="article", year_from=2002), Wanted(pdf=False)])  # fmt: skip
def test_every_count_is_that_of_the_list_which_it_opens(five: Room, wanted: Wanted) -> None:
    for way, values in records.divided(five.review, wanted).items():
        for value, n in values:
            if way != "labels":
                assert count(five, FIELD[way](wanted, value)) == n, (way, value)


def test_a_value_is_counted_under_the_other_filters(five: Room) -> None:
    divided = records.divided(five.review, Wanted(kind="article", abstract=True))
    assert dict(divided["kinds"]) == {"article": 3, "chapter": 1}, "what else could be chosen stays in sight"
    assert dict(divided["abstract"]) == {"yes": 3, "no": 1}
    assert dict(records.divided(five.review, Wanted())["languages"]) == {"English": 2, "German": 2, "": 1}
    assert [name.split(":")[1] for name, _ in records.divided(five.review, Wanted())["reasons"]] != []


def test_by_descriptors_that_seeds_have_too(room: Room) -> None:
    def record(number: int, *keywords: str) -> str:
        return f"TY  - JOUR\nTI  - Record {number}\n{''.join(f'KW  - {it}{chr(10)}' for it in keywords)}ID  - {number}\nER  - \n\n"

    room.gather(
        record(1, "Bees/physiology", "*Winter", "Hives")
        + record(2, "*Bees / physiology/genetics", "winter")
        + record(3, "Bees/genetics", "Snow")
        + record(4, "Moths")
        + record(5)
    )
    by_title = {it["title"]: it["id"] for it in records.page_of(room.review, Wanted(), 0, 9)[1]}
    seeds.mark_seed(room.review, room.lead, by_title["Record 1"], True)

    def found(**how: Any) -> set[str]:
        return {it["title"][-1] for it in records.page_of(room.review, Wanted(**how), 0, 9)[1]}

    assert found(shared=1) == {"1", "2", "3"}
    assert found(shared=2) == {"1", "2"}
    assert found(shared=1, shared_qualified=1) == {"1", "2"}
    assert found(descriptor="bees") == {"1", "2", "3"}
    assert found(descriptor="Bees/genetics") == {"2", "3"}
    assert dict(records.divided(room.review, Wanted())["descriptors"]) == {"bees": 3, "winter": 2, "hives": 1, "snow": 1, "moths": 1}


@pytest.mark.parametrize(("said", "name"), [("eng", "English"), ("EN-us", "English"), ("Français", "French"), ("русский", "Russian"), ("Klingon", "Klingon"), ("", ""), (" de ", "German")])  # fmt: skip
def test_a_language_has_one_name(said: str, name: str) -> None:
    assert language_named(said) == name
    assert not said.strip() or said.strip().lower().split("-")[0] in spellings_of(name)
