"""Other orders: each record once, handed out in their sequence, with the sentence that speaks to a question."""

from __future__ import annotations

import random

import pytest

from kettlesort.store.base import session
from kettlesort.store.records import Wanted
from kettlesort.store.sql import scalar
from kettlesort.work import orders, ranking, records, screen
from kettlesort.work.errors import Conflict, NotFound
from tests.conftest import Room, make_room, ris

TITLES = ["Foam lids in winter", "Pollen of gardens", "Wrapped hives and survival", "Mites and acid", "Straw hives of old"]


@pytest.fixture
def five(room: Room) -> Room:
    room.gather(ris(*TITLES))
    room.match()
    ranking.rank_review(room.review)
    return room


def made(room: Room, kind: str, **said: object) -> int:
    number = orders.begin(room.review, room.lead, kind, **said)  # type: ignore[arg-type]
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'order_records' AND state = 'waiting'", v=room.review)
    if job:
        orders.order_records(job)
    return number


def listed(room: Room, order: int) -> list[int]:
    return records.ids_of(room.review, Wanted("all", order=order))


def test_records_are_listed_and_handed_out_in_the_chosen_order(five: Room) -> None:
    every = sorted(five.records())
    shuffled = list(every)
    random.Random(7).shuffle(shuffled)
    by_seed = made(five, "shuffled", seed=7)
    assert listed(five, by_seed) == shuffled
    assert [it.id for it in screen.hand_out(five.review, five.lead, Wanted("open", order=by_seed), [], 5)] == shuffled
    screen.leave_desk(five.review, five.lead)
    newest, oldest = listed(five, made(five, "newest")), listed(five, made(five, "oldest"))
    assert newest == oldest[::-1]
    assert [it["name"] for it in orders.orders(five.review)] == ["Oldest first", "Newest first", "Shuffled, seed 7"]


def test_a_question_finds_its_records_and_their_sentences(five: Room) -> None:
    by_question = made(five, "question", question="Do wraps help hives survive?")
    first, *_ = listed(five, by_question)
    (sheet, *_) = screen.hand_out(five.review, five.lead, Wanted("open", order=by_question), [], 3)
    assert (sheet.id, sheet.record.title) == (first, "Wrapped hives and survival")
    assert sheet.spoken is not None
    assert sheet.spoken["rank"] == 1
    assert "wrapped hives" in sheet.record.abstract[sheet.spoken["begin"] : sheet.spoken["end"]]
    alike = made(five, "alike", records=[first])
    assert listed(five, alike)[0] == first


def test_most_unsure_needs_decisions_of_both_kinds(five: Room) -> None:
    with pytest.raises(Conflict, match="some are included and some excluded"):
        made(five, "unsure")
    five.decide(five.records()[0], "include")
    five.decide(five.records()[1], "exclude")
    ranking.rank_review(five.review)
    assert sorted(listed(five, made(five, "unsure"))) == sorted(five.records())


def test_what_comes_later_stands_at_the_end_and_another_review_has_no_such_order(five: Room) -> None:
    order = made(five, "newest")
    five.gather(ris("Late in the day", start=9), name="late.ris")
    five.match()
    late = max(five.records())
    assert listed(five, order)[-1] == late
    assert [it.id for it in screen.hand_out(five.review, five.lead, Wanted("open", order=order), [], 6)][-1] == late
    other = make_room()
    with pytest.raises(NotFound):
        records.ids_of(other.review, Wanted("all", order=order))
    with pytest.raises(NotFound):
        orders.begin(other.review, other.lead, "alike", records=[late])


def test_the_most_cited_come_first_as_sources_say_then_as_records_here_cite_them(room: Room) -> None:
    texts = [
        ("Told often", "TC  - 12\nZ9  - 15\n"), ("Told seldom", "TC  - 2\n"), ("Cited here", "DO  - 10.5555/cited.1\n"), ("Nobody", "DO  - 10.5555/nobody.1\n"),
        ("Cites", "CR  - Marsh O. Cited here. doi:10.5555/cited.1.\nCR  - https://doi.org/10.5555/CITED.1\n"),
    ]  # fmt: skip
    room.gather("".join(f"TY  - JOUR\nTI  - {title} of all hives\nPY  - 2001\n{more}ER  - \n\n" for title, more in texts))
    room.match()
    titles = {
        one: record.title.removesuffix(" of all hives") for one in room.records() if (record := records.whole(room.review, one).record)
    }
    order = made(room, "cited")
    assert [titles[one] for one in listed(room, order)] == ["Told often", "Told seldom", "Cited here", "Nobody", "Cites"]
    assert orders.orders(room.review)[0]["name"] == "Most cited first"
