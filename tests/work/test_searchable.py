"""The index of a review's records: kept in parts, always as the records are."""

from __future__ import annotations

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kettlesort.store.base import session
from kettlesort.store.sql import rows, run, scalar
from kettlesort.work import query, searchable
from tests.conftest import Room, ris


def parts(room: Room) -> list[int]:
    with session() as db:
        return [
            len(bytes(it["records"])) // 8
            for it in rows(db, "SELECT records FROM index_part WHERE review_id = :v ORDER BY id", v=room.review)
        ]


def titles(room: Room, found: list[int]) -> list[str]:
    with session() as db:
        return [it["title"] for it in rows(db, "SELECT title FROM record WHERE id = ANY(:ids) ORDER BY id", ids=found)]


def test_only_what_changed_is_indexed_and_a_restart_finds_it_kept(room: Room) -> None:
    room.gather(ris(*(f"Wraps of kind {k}" for k in range(12))))
    assert len(query.matching(room.review, "wraps")) == 12
    assert parts(room) == [12]
    with session() as db:
        run(db, "UPDATE record SET title = 'Lids' WHERE id = (SELECT max(id) FROM record WHERE review_id = :v)", v=room.review)
        run(db, "UPDATE review SET texts = texts + 1 WHERE id = :v", v=room.review)  # as whatever writes records does
    assert len(query.matching(room.review, "title:wraps")) == 11
    assert titles(room, query.matching(room.review, "title:lids")) == ["Lids"]
    assert parts(room) == [12, 1], "eleven records were left alone"
    first = searchable.searchable(room.review)

    searchable._held.clear()  # as after a restart
    with session() as db:
        before = scalar(db, "SELECT max(id) FROM index_part")
    again = searchable.searchable(room.review)
    assert sorted(again.loaded) == sorted(first.loaded)
    assert len(query.matching(room.review, "title:wraps")) == 11
    with session() as db:
        assert scalar(db, "SELECT max(id) FROM index_part") == before, "nothing was made anew"


def test_another_server_makes_what_is_missing_and_this_one_takes_it_over(room: Room) -> None:
    room.gather(ris("Wraps", "Lids"))
    assert len(query.matching(room.review, "wraps")) == 1
    room.gather(ris("More wraps"))
    searchable.index_review(room.review)  # the worker, or another server
    held = dict(searchable._held)
    assert len(query.matching(room.review, "wraps")) == 2
    assert searchable._held[room.review].mark != held[room.review].mark


@settings(max_examples=15, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(st.sampled_from(["change", "remove", "ask", "restart"]), st.integers(0, 30)), max_size=12))
def test_whatever_happens_to_records_the_index_says_what_they_say(room: Room, deeds: list[tuple[str, int]]) -> None:
    with session() as db:
        there = scalar(db, "SELECT count(*) FROM record WHERE review_id = :v", v=room.review)
    if not there:
        room.gather(ris(*(f"Wraps of kind {k}" for k in range(31))))
    for deed, k in deeds:
        with session() as db:
            ids = [it["id"] for it in rows(db, "SELECT id FROM record WHERE review_id = :v ORDER BY id", v=room.review)]
            if deed == "change":
                run(db, "UPDATE record SET title = title || ' and lids' WHERE id = :id", id=ids[k])
                run(db, "UPDATE review SET texts = texts + 1 WHERE id = :v", v=room.review)
            elif deed == "remove":
                run(db, "UPDATE record SET title = '' WHERE id = :id", id=ids[k])
                run(db, "UPDATE review SET texts = texts + 1 WHERE id = :v", v=room.review)
        if deed == "restart":
            searchable._held.clear()
        if deed in ("ask", "restart"):
            query.matching(room.review, "wraps")
    at = searchable.searchable(room.review)
    with session() as db:
        meant = [
            it["id"] for it in rows(db, "SELECT id FROM record WHERE review_id = :v AND title ILIKE '%lids%' ORDER BY id", v=room.review)
        ]
    assert query.matching(room.review, "title:lids") == meant
    assert np.array_equal(np.sort(np.concatenate([p[p >= 0] for p in at.texts.places])), np.arange(len(at.ids))), (
        "every record has one place"
    )
    assert len(at.texts.parts) <= 5
