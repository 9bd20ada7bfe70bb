"""From an uploaded file to records: nothing lost, everything undoable, every count explained."""

from __future__ import annotations

import io
import random
from datetime import date

import pytest

from kettlesort.core import formats
from kettlesort.core.record import Record
from kettlesort.store import report as figures_store
from kettlesort.store.base import session
from kettlesort.store.records import COLUMNS, record_of
from kettlesort.store.sql import rows, scalar
from kettlesort.work import gather, jobs, match, report, screen, searches, seeds
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.searches import SearchEntry
from tests.conftest import Room, ris

ODD = [
    "plain",
    "tab\tin it",
    "back\\slash",
    "\\N",
    "{braces}",
    '"quotes"',
    "a,b",
    "\x1f",
    "\x01",
    "é日本𝛼",
    "\\x41",
    "NULL",
    "\u2028",
    "%s :name",
    "'; DROP TABLE copy; --",
]


def stored(batch: int) -> list[Record]:
    with session() as db:
        return [record_of(it) for it in rows(db, f"SELECT {COLUMNS} FROM copy WHERE batch_id = :b ORDER BY position", b=batch)]


def test_what_is_stored_is_what_was_read_whatever_it_holds(room: Room) -> None:
    rng = random.Random(5)
    odd = lambda: " ".join(rng.choice(ODD) for _ in range(rng.randint(1, 4)))  # noqa: E731
    records = [
        Record(title=odd(), authors=tuple(odd() for _ in range(rng.randint(0, 3))), year=rng.choice([None, 1999]), abstract=odd(), note=odd(), keywords=(odd(), odd()), extra=(("ZZ", odd()),))
        for _ in range(60)
    ]  # fmt: skip
    out = io.BytesIO()
    formats.write(records, "ris", out)
    read = [entry.record for entry in formats.open_reading(io.BytesIO(out.getvalue()))]
    assert len(read) == 60
    assert stored(room.upload(out.getvalue())) == read


def newest_job(room: Room) -> int:
    with session() as db:
        return int(scalar(db, "SELECT max(id) FROM job WHERE review_id = :v", v=room.review))


def test_a_search_log_entry_keeps_the_query_as_it_was_run(room: Room) -> None:
    said = SearchEntry(" Vitalis Index ", "register", "(hive* OR colony)\n  AND wrap ", date(2026, 3, 1), "OM", "", 120)
    search = searches.write_search(room.review, room.lead, said)
    it = next(it for it in searches.search_log(room.review) if it.id == search)
    assert (it.source, it.latest["query"], it.announced, it.imported) == ("Vitalis Index", "(hive* OR colony)\n  AND wrap ", 120, 0)
    for wrong in (said._replace(source=" "), said._replace(kind="rumour")):
        with pytest.raises(Invalid):
            searches.write_search(room.review, room.lead, wrong, search)


def test_a_search_with_files_cannot_leave_the_log_and_one_without_can_come_back(room: Room) -> None:
    batch = room.gather(ris("Wraps"))
    search = gather.look_at(room.review, batch).search.id or 0
    with pytest.raises(Conflict, match="set them aside first"):
        searches.remove_search(room.review, room.lead, search)
    gather.set_aside(room.review, room.lead, batch)
    searches.remove_search(room.review, room.lead, search)
    assert searches.search_log(room.review) == []
    searches.remove_search(room.review, room.lead, search, back=True)
    assert [it.id for it in searches.search_log(room.review)] == [search]


def test_another_kind_of_source_moves_its_records_to_the_other_route(room: Room) -> None:
    batch = room.gather(ris("Wraps", "Lids"))
    search = gather.look_at(room.review, batch).search
    searches.write_search(room.review, room.lead, SearchEntry("Agrarica", "website", "", None, "", "", None), search.id)
    with session() as db:
        assert {(it["main"], it["n"]) for it in figures_store.cells(db, room.review)} == {(False, 2)}
        assert [(it["kind"], it["copies"]) for it in figures_store.source_counts(db, room.review)] == [("website", 2)]


def test_a_file_goes_in_once_and_through_its_states_in_order(room: Room) -> None:
    data = ris("Wraps", "Lids")
    batch = room.upload(data)
    search = gather.look_at(room.review, batch).search.id or 0
    again = gather.upload(room.review, room.lead, search, "again.ris", io.BytesIO(data.encode()))
    assert again.same_as == "records.ris"  # said, not refused
    gather.read_file(newest_job(room))
    gather.set_aside(room.review, room.lead, again.batches[0])
    with pytest.raises(Conflict, match="not set aside"):
        gather.bring_back(room.review, room.lead, batch)
    gather.take_in(room.review, room.lead, batch)
    with pytest.raises(Conflict, match="taken in already"):
        gather.take_in(room.review, room.lead, batch)
    gather.set_aside(room.review, room.lead, batch)
    with pytest.raises(Conflict, match="set aside already"):
        gather.set_aside(room.review, room.lead, batch)
    assert room.total().found == 0
    gather.bring_back(room.review, room.lead, batch)
    assert gather.look_at(room.review, batch).batch.state == "read"
    gather.take_in(room.review, room.lead, batch)
    assert room.total().found == 2


def test_a_large_file_leaves_in_parts_and_comes_back_from_the_middle(room: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    titles = [f"Wrapped hives {k} in a hard winter of the north" for k in range(5)]
    room.gather(ris(*titles[:2]), source="Vitalis Index")
    batch = room.gather(ris(*titles))
    room.match()
    everything = room.records()
    monkeypatch.setattr(match, "LEAVING", 2)
    monkeypatch.setattr(gather, "LEAVING", 2)

    def state() -> tuple[str, int]:
        assert report.standing(room.review).figures.adds_up
        return next(it["state"] for it in gather.files(room.review) if it["id"] == batch), len(room.records())

    def job() -> int:
        with session() as db:
            return int(scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'leave_review'", v=room.review))

    gather.set_aside(room.review, room.lead, batch)
    assert state() == ("leaving", 5), "two copies of others have left"
    with pytest.raises(Conflict, match="already"):
        gather.set_aside(room.review, room.lead, batch)
    gather.take_in(room.review, room.lead, batch)
    room.match()
    gather.leave_review(job())  # which finds it taken in
    assert (state()[0], room.records()) == ("taken", everything)
    gather.set_aside(room.review, room.lead, batch)
    gather.leave_review(job())
    assert state() == ("aside", 2)
    gather.take_in(room.review, room.lead, batch)
    room.match()
    assert room.records() == everything
    gather.set_aside(room.review, room.lead, batch)
    with pytest.raises(Conflict, match="Take the file in again"):
        jobs.cancel(room.review, job())
    with pytest.raises(Conflict, match="still being set aside"):
        gather.read_again(room.review, room.lead, batch, {"format": "ris"})
    gather.leave_review(job())
    assert state() == ("aside", 2)
    gather.read_again(room.review, room.lead, batch, {"format": "ris"})


def test_verdicts_outlive_setting_a_file_aside(room: Room) -> None:
    batch = room.gather(ris("Wraps", "Lids"))
    first, _ = room.records()
    room.decide(first, "include")
    gather.set_aside(room.review, room.lead, batch)
    assert room.records() == []
    gather.take_in(room.review, room.lead, batch)
    assert room.total().sought == 1
    assert screen.sheet(room.review, room.reviewer, first, 1).row["first"] == "include"


def test_a_file_is_looked_at_line_by_line_before_it_is_taken_in(room: Room) -> None:
    batch = room.upload("TY  - JOUR\nTI  - Wraps\nPY  - spring\nER  - \n\nTY  - JOUR\nTI  - Lids\nER  - \n")
    it = gather.look_at(room.review, batch)
    assert (it.filled["records"], it.filled["title"], it.filled["year"], it.with_others) == (2, 2, 0, 2)
    assert [(problem["line"], "spring" in problem["message"]) for problem in it.problems] == [(1, True)]
    assert [line.text for line in gather.entry_of(room.review, batch, 2).lines] == ["TY  - JOUR", "TI  - Lids", "ER  -"]
    assert gather.entry_of(room.review, batch, 1).problems
    with pytest.raises(NotFound, match="no record 3"):
        gather.entry_of(room.review, batch, 3)


def test_a_seed_by_mark_or_by_identifier_can_be_taken_back(room: Room) -> None:
    room.gather(ris("Wraps", "Lids", doi="10.5555/h."))
    first, second = room.records()
    seeds.mark_seed(room.review, room.lead, first, True)
    assert seeds.paste_seeds(room.review, room.lead, "https://doi.org/10.5555/H.2; r0000009, R0000009") == 2
    found, keys = seeds.seeds(room.review)
    assert {it["id"] for it in found} == {first, second}
    assert {it["key"]: it["record_id"] for it in keys} == {"10.5555/h.2": second, "r0000009": None}
    assert seeds.paste_seeds(room.review, room.lead, "10.5555/h.2") == 0
    room.gather(ris("Entrance", start=9), source="Other")
    assert len(seeds.seeds(room.review)[0]) == 3, "an identifier finds its record when it comes"
    seeds.mark_seed(room.review, room.lead, second, False)
    seeds.mark_seed(room.review, room.lead, first, False)
    assert [it["key"] for it in seeds.seeds(room.review)[1]] == ["r0000009"]
    seeds.drop_seed_key(room.review, room.lead, seeds.seeds(room.review)[1][0]["id"])
    assert seeds.seeds(room.review) == ([], [])
    with pytest.raises(Invalid, match="Paste DOIs"):
        seeds.paste_seeds(room.review, room.lead, " ;, ")


def test_figures_equal_what_a_person_would_count_on_the_rows(room: Room) -> None:
    batches = [room.gather(ris(*[f"Title {n} of {source}" for n in range(8)], start=1 + 8 * k), source=source, kind=kind) for k, (source, kind) in enumerate([("Agrarica", "database"), ("Vitalis", "register"), ("Letters", "citation")])]  # fmt: skip
    room.gather(ris("Title 0 of Agrarica"), source="Vitalis", kind="register")
    room.match()
    for k, record in enumerate(room.records()):
        if k % 4:
            room.decide(record, ["include", "exclude", "unsure"][k % 4 - 1])
    gather.set_aside(room.review, room.lead, batches[2])
    with session() as db:
        standing = [dict(it) for it in rows(db, "SELECT * FROM standing WHERE review_id = :v", v=room.review)]
        placed = rows(
            db,
            "SELECT p.*, s.source FROM placement p JOIN batch b ON b.id = p.batch_id JOIN search s ON s.id = b.search_id WHERE p.review_id = :v",
            v=room.review,
        )
        cells, sources = figures_store.cells(db, room.review), figures_store.source_counts(db, room.review)
    keys = ("main", "seed", "first", "fulltext", "second")
    counted = {tuple(it[key] for key in keys): it["n"] for it in cells}
    assert counted == {kind: sum(tuple(it[key] for key in keys) == kind for it in standing) for kind in counted}
    assert sum(counted.values()) == len(standing) == 16
    assert {it["source"]: it["copies"] for it in sources} == {"Agrarica": 8, "Vitalis": 9}
    assert sum(it["surplus"] for it in sources) == sum(it["copy_id"] != it["record_id"] for it in placed) == 1
