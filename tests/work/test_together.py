"""Many at one review at the same time: nobody's word is lost, whatever else is under way, and who would wait too long is told."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor, wait
from typing import Any

import pytest

from kettlesort.store.base import session
from kettlesort.store.sql import rows, run
from kettlesort.store.standing import lock_state, refresh_standing
from kettlesort.work import gather, groups, match, narrow, screen
from kettlesort.work.change import enqueue, lock_review
from kettlesort.work.errors import Busy, Conflict
from tests.conftest import Room, ris

TITLES = [f"{what} hives through {when}" for what in ("Wrapped", "Painted", "Insulated") for when in ("winter", "summer", "autumn")]


def still_waits(it: Future[Any]) -> bool:
    return not wait([it], 0.4).done


def standing(room: Room) -> dict[int, str]:
    with session() as db:
        return {
            it["record_id"]: it["first"] for it in rows(db, "SELECT record_id, first FROM standing WHERE review_id = :r", r=room.review)
        }


@pytest.fixture
def others() -> Iterator[ThreadPoolExecutor]:
    with ThreadPoolExecutor(2) as it:
        yield it


def test_a_decision_waits_for_who_works_out_its_record_anew_and_holds(room: Room, others: ThreadPoolExecutor) -> None:
    room.gather(ris("Wrapped hives", "Foam lids"))
    room.match()
    one, two = room.records("open")
    with session() as db:
        refresh_standing(db, room.review, [one])
        decision = others.submit(room.decide, one, "exclude")
        room.decide(two, "include")  # of another record: at once
        assert still_waits(decision)
    decision.result(10)
    assert standing(room) == {one: "exclude", two: "include"}


def test_who_works_out_records_anew_waits_for_a_decision_and_sees_it(room: Room, others: ThreadPoolExecutor) -> None:
    room.gather(ris("Wrapped hives", "Foam lids"))
    room.match()
    one, two = room.records("open")

    def anew() -> None:
        with session() as db:
            refresh_standing(db, room.review)

    with session() as db:
        lock_state(db, room.review, one)
        everything = others.submit(anew)
        assert still_waits(everything)
        run(
            db,
            """INSERT INTO verdict (review_id, copy_id, pass_number, account_id, verdict, settles)
            SELECT :r, min(copy_id), 1, :a, 'include', FALSE FROM placement WHERE record_id = :one""",
            r=room.review, a=room.lead, one=one,
        )  # fmt: skip
    everything.result(10)
    assert standing(room) == {one: "include", two: "open"}


def test_of_two_who_decide_on_one_record_at_once_the_later_is_told(room: Room, others: ThreadPoolExecutor) -> None:
    room.gather(ris("Wrapped hives"))
    room.match()
    (record,) = room.records("open")
    said = screen.Said(record, 1, "include", None, seen="open")
    with session() as db:  # both have begun when the first of them gets the record
        lock_state(db, room.review, record)
        both = [others.submit(screen.decide, room.review, by, said) for by in (room.lead, room.reviewer)]
        assert all(still_waits(it) for it in both)
    (refused,) = [it.exception() for it in both if it.exception(10)]
    assert isinstance(refused, Conflict)
    assert "has decided on this record meanwhile" in str(refused)


def test_a_narrowing_waits_for_decisions_on_its_own_records_only_and_sees_them(room: Room, others: ThreadPoolExecutor) -> None:
    room.gather(ris("Wrapped hives", "Foam lids", "Straw roofs"))
    room.match()
    one, two, three = room.records("open")
    with session() as db:
        lock_review(db, room.review)  # a large change of the structure is under way
        _, went = others.submit(narrow.set_aside, room.review, room.lead, "Not hives", [three]).result(20)
        assert went == 1
    with session() as db:
        lock_state(db, room.review, one)
        rule = narrow.Rule("All of them", "hives OR lids", "", keep=False, spare=True, again=False)
        rest = others.submit(narrow.apply, room.review, room.lead, rule)
        assert still_waits(rest)
        run(
            db,
            "INSERT INTO verdict (review_id, copy_id, pass_number, account_id, verdict, settles) VALUES (:r, :one, 1, :a, 'include', FALSE)",
            r=room.review, a=room.lead, one=one,
        )  # fmt: skip
        refresh_standing(db, room.review, [one], locked=True)
    assert rest.result(20)[1] == 1
    assert standing(room) == {one: "include", two: "aside", three: "aside"}


def test_what_people_say_while_a_file_is_joined_holds(room: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    room.gather(ris(*TITLES, doi="10.5555/t."))
    room.match()
    before = {it["title"]: it["id"] for it in _titles(room)}
    room.gather(ris(*TITLES, doi="10.5555/t."), "again.ris", "Meliponia")
    split: list[int] = []

    def meanwhile(parts: Callable[[Any], Iterator[Any]]) -> Callable[[Any], Iterator[Any]]:
        def between(now: Any) -> Iterator[Any]:
            for k, part in enumerate(parts(now)):
                yield part
                if k == 0:  # it is joined: one takes it apart again, one decides on what is joined next, one puts another file beside
                    split.append(part.copies[-1])
                    groups.split(room.review, room.lead, split[0])
                    room.decide(before[TITLES[4]], "include")
                    room.gather(ris("Bees and wax", start=70), "third.ris", "Agrarica")

        return between

    monkeypatch.setattr(match, "PART", 2)
    monkeypatch.setattr(match, "_parts", meanwhile(match._parts))
    with session() as db:
        (job,) = rows(db, "SELECT id FROM job WHERE review_id = :r AND kind = 'match_copies' AND state = 'waiting'", r=room.review)
    match.match_copies(job["id"])
    monkeypatch.undo()
    room.match()
    with session() as db:
        placed = rows(db, "SELECT copy_id, record_id FROM placement WHERE review_id = :r", r=room.review)
        copies = rows(db, "SELECT id FROM copy WHERE review_id = :r", r=room.review)
    assert sorted(it["copy_id"] for it in placed) == sorted(it["id"] for it in copies), "each copy stands in one record"
    of = {it["copy_id"]: it["record_id"] for it in placed}
    assert [it["record_id"] for it in placed].count(of[split[0]]) == 1, "what was taken apart stays apart"
    assert len(room.records()) == len(TITLES) + 2, "all others are joined, and the third file stands beside"
    included = [record for record, state in standing(room).items() if state == "include"]
    assert [it["title"] for it in _titles(room) if it["id"] in included] == [TITLES[4]]


def _titles(room: Room) -> Any:
    with session() as db:
        return rows(db, "SELECT id, title FROM record WHERE review_id = :r", r=room.review)


def test_two_who_ask_for_the_same_work_in_one_moment_both_keep_what_they_did(room: Room, others: ThreadPoolExecutor) -> None:
    room.gather(ris("Wrapped hives", "Foam lids"))
    room.match()
    one, two = room.records("open")
    with session() as db:
        run(db, "DELETE FROM procrastinate_jobs")
    with session() as db:
        enqueue(db, "rank", once=f"rank-{room.review}", review=room.review)
        decision = others.submit(room.decide, one, "include")  # asks for the same, and cannot see yet that it is asked for
        assert still_waits(decision)
    decision.result(10)
    assert standing(room) == {one: "include", two: "open"}
    with session() as db:
        assert len(rows(db, "SELECT 1 FROM procrastinate_jobs WHERE task_name = 'rank'")) == 1


def test_who_would_wait_too_long_for_another_change_is_told_what_it_is(room: Room, others: ThreadPoolExecutor) -> None:
    batch = room.gather(ris("Wrapped hives"))
    room.match()
    (record,) = room.records("open")
    with session() as db:
        run(db, "UPDATE job SET state = 'working', label = 'Reading again.ris' WHERE review_id = :r", r=room.review)

    def hurried() -> None:
        with session() as db:
            run(db, "SET LOCAL lock_timeout = '100ms'")
            lock_review(db, room.review)

    with session() as db:
        lock_review(db, room.review)
        with pytest.raises(Busy, match=r"“Reading again\.ris” is under way.*Nothing was changed"):
            others.submit(hurried).result(10)
        aside = others.submit(gather.set_aside, room.review, room.lead, batch)
        assert still_waits(aside)
        room.decide(record, "include")  # a decision asks for its record alone
        assert screen.take_back(room.review, room.reviewer, 1)
    aside.result(10)
    assert room.records() == []
