"""The seven rules that never break, each by its name."""

from __future__ import annotations

import io
import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy.exc import IntegrityError

from kettlesort.core.record import Record
from kettlesort.store.base import session
from kettlesort.store.records import COLUMNS, Wanted, record_of
from kettlesort.store.sql import row, rows, run, scalar
from kettlesort.store.standing import refresh_standing
from kettlesort.work import (
    chart,
    codebook,
    fulltexts,
    gather,
    groups,
    jobs,
    plan,
    protocol,
    questions,
    records,
    report,
    screen,
    searches,
    seeds,
)
from kettlesort.work.codebook import Book, ItemWording
from kettlesort.work.errors import Conflict, Invalid, NotFound
from tests.conftest import Room, ris

TITLES = [
    f"Wintering of colonies in {place} hives of the {region}"
    for place in ("wrapped", "plain", "straw")
    for region in ("north", "south", "east", "west")
]


def copy_rows(review: int) -> list[tuple[object, ...]]:
    with session() as db:
        found = rows(
            db, f"SELECT position, line, end_line, raw, {COLUMNS} FROM copy WHERE review_id = :v ORDER BY batch_id, position", v=review
        )
    return [(it["position"], it["line"], it["end_line"], it["raw"], record_of(it)) for it in found]


def grouping(review: int) -> list[list[int]]:
    """Groups as lists of places in the order of copies, whatever their numbers are."""
    with session() as db:
        found = rows(db, "SELECT copy_id, record_id FROM placement WHERE review_id = :v ORDER BY copy_id", v=review)
    first: dict[int, int] = {}
    return [[k, first.setdefault(it["record_id"], k)] for k, it in enumerate(found)]


def test_rule_1_a_copy_is_never_changed(room: Room) -> None:
    room.gather(ris(*TITLES[:4]))
    room.gather(ris(*TITLES[:4]), source="Vitalis Index")
    before = copy_rows(room.review)
    room.match()
    record = room.records()[0]
    room.decide(record, "exclude")
    groups.split(room.review, room.lead, groups.copies_of(room.review, record).copies[1].id)
    assert copy_rows(room.review) == before
    assert before[0][3] == ris(TITLES[0]).rstrip()


def test_rule_2_a_verdict_is_never_overwritten_nor_is_a_value(room: Room) -> None:
    room.gather(ris(*TITLES[:2]))
    room.match()
    record = room.records()[0]
    room.decide(record, "exclude")
    room.decide(record, "include", by=room.lead)
    screen.take_back(room.review, room.lead, 1)
    history = screen.sheet(room.review, room.lead, record).history
    assert [(it["verdict"], it["withdrawn_at"] is not None) for it in history] == [("exclude", False), ("include", True)]
    assert screen.sheet(room.review, room.lead, record).row["first"] == "exclude"

    room.decide(record, "include")
    fulltexts.set_full_text(room.review, room.lead, record, "obtained", "")
    room.decide(record, "include", 2)
    codebook.set_codebook(room.review, room.lead, Book([ItemWording(None, "Colonies", "number")]))
    table = chart.evidence_table(room.review)
    item, study = table.book.items[0].id or 0, table.studies[0].id
    for typed in ("12", "13", ""):
        assert chart.set_values(room.review, room.lead, [chart.Typed(study, item, typed)]) == []
    assert [it["text"] for it in chart.value_history(room.review, study, item)] == ["", "13", "12"]


STEPS = st.lists(
    st.tuples(
        st.sampled_from(["include", "exclude", "unsure", "back", "text", "missing", "second", "split", "unsplit", "aside", "in", "same"]),
        st.integers(0, 30),
    ),
    max_size=14,
)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=12)
@given(steps=STEPS)
def test_rule_3_a_figure_is_never_stored_and_always_adds_up(room: Room, steps: list[tuple[str, int]]) -> None:
    review = plan.make_review(room.lead, "Any sequence", "")
    protocol.amend(review, room.lead, {"criteria": [protocol.Wording(None, "Not bees", "", True, True)]}, "Piloted")
    it = Room(review, room.lead, room.lead)
    batches = [it.gather(ris(*TITLES[:5])), it.gather(ris(*TITLES[3:8], start=4), source="Citation chasing", kind="citation")]
    it.match()
    for deed, k in steps:
        found = it.records()
        record = found[k % len(found)] if found else 0
        try:
            _act(it, deed, k, record, batches)
        except (Conflict, Invalid, NotFound):
            pass  # not every deed is possible everywhere
        figures = report.standing(review).figures
        assert figures.adds_up, (deed, figures.checks)
        assert figures.total.records == len(it.records())
    with session() as db:
        kept = rows(db, "SELECT * FROM standing WHERE review_id = :v ORDER BY record_id", v=review)
        refresh_standing(db, review)
        assert rows(db, "SELECT * FROM standing WHERE review_id = :v ORDER BY record_id", v=review) == kept


def _act(it: Room, deed: str, k: int, record: int, batches: list[int]) -> None:
    if deed in ("include", "exclude", "unsure"):
        it.decide(record, deed)
    elif deed == "back":
        screen.take_back(it.review, it.lead, 1 + k % 2)
    elif deed == "text":
        fulltexts.set_full_text(it.review, it.lead, record, "obtained", "")
    elif deed == "missing":
        fulltexts.set_full_text(it.review, it.lead, record, "missing", "gone")
    elif deed == "second":
        it.decide(record, ("include", "exclude")[k % 2], 2)
    elif deed == "split":
        groups.split(it.review, it.lead, groups.copies_of(it.review, record).copies[-1].id)
    elif deed == "unsplit":
        groups.unsplit(it.review, it.lead, record)
    elif deed == "aside":
        gather.set_aside(it.review, it.lead, batches[k % 2])
    elif deed == "in":
        gather.take_in(it.review, it.lead, batches[k % 2])
        it.match()
    elif deed == "same":
        waiting = questions.questions(it.review)
        if waiting:
            questions.decide_pair(it.review, it.lead, waiting[k % len(waiting)].row["id"], ("different", "same", "related")[k % 3])


def test_rule_3_every_figure_counts_the_list_that_it_opens(room: Room) -> None:
    room.gather(ris(*TITLES))
    room.gather(ris(*TITLES[:6]), source="Citation chasing", kind="citation")
    room.match()
    for k, record in enumerate(room.records()):
        if k < 9:
            room.decide(record, ("include", "exclude", "unsure")[k % 3])
    for k, record in enumerate(room.records("sought")):
        fulltexts.set_full_text(room.review, room.lead, record, ("obtained", "missing", "obtained")[k], "why" if k == 1 else "")
    for k, record in enumerate(room.records("assessed")):
        room.decide(record, ("include", "exclude")[k], 2)
    for drawing in ("ours", "standard"):
        _, diagram = report.diagram(room.review, drawing, False)  # type: ignore[arg-type]
        for box in diagram.boxes:
            for line in box.lines:
                if line.list != "studies":
                    assert records.page_of(room.review, Wanted(line.list), 0, 1)[0] == line.n, (drawing, line)


def test_rule_4_a_write_has_an_author(room: Room) -> None:
    room.gather(ris(*TITLES[:3]))
    room.match()
    room.decide(room.records()[0], "exclude")
    screen.note(room.review, room.reviewer, room.records()[0], "Look again")
    seeds.mark_seed(room.review, room.lead, room.records()[1], True)
    total, events = report.history(room.review, None, 500)
    kinds = {it["kind"]: it for it in events}
    assert {
        "plan.review_made",
        "plan.member_added",
        "gather.search_written",
        "gather.file_uploaded",
        "gather.file_read",
        "gather.taken_in",
        "match.run",
        "gather.seed_marked",
    } <= set(kinds)
    assert (kinds["screen.decided_pass_1"]["by"], kinds["screen.decided_pass_1"]["before"], kinds["screen.decided_pass_1"]["after"]) == (
        "Reviewer Ames",
        "open",
        "exclude: Not bees",
    )
    assert kinds["screen.noted"]["after"] == "Look again"
    assert total == len(list(report.all_history(room.review)))


def worker() -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [sys.executable, "-m", "kettlesort.jobs"],
        env=os.environ,
        cwd=Path(__file__).parents[2],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )


def wait_for(sql: str, seconds: float = 120, **values: object) -> None:
    begun = time.monotonic()
    while time.monotonic() - begun < seconds:
        with session() as db:
            if scalar(db, sql, **values):
                return
        time.sleep(0.01)
    pytest.fail(f"not within {seconds} s: {sql}")


def big(n: int) -> str:
    rng = random.Random(8)
    words = [
        "winter",
        "hive",
        "wrap",
        "foam",
        "colony",
        "brood",
        "comb",
        "lid",
        "straw",
        "cluster",
        "honey",
        "mite",
        "forage",
        "nectar",
        "pollen",
        "swarm",
        "queen",
        "drone",
    ]
    titles = [" ".join(rng.choices(words, k=9)) + f" {k % (n * 2 // 3)}" for k in range(n * 2 // 3)]
    return ris(*titles, *titles[: n // 3])


def test_rule_5_a_job_can_die(room: Room) -> None:
    text = big(600)
    calm = plan.make_review(room.lead, "Undisturbed", "")
    undisturbed = Room(calm, room.lead, room.reviewer)
    undisturbed.gather(text)
    undisturbed.match()
    with session() as db:  # leave only what this test is about in the queue
        run(db, "DELETE FROM procrastinate_jobs")

    search = searches.write_search(room.review, room.lead, searches.SearchEntry("Agrarica", "database", "", None, "", "", None))
    (batch,) = gather.upload(room.review, room.lead, search, "records.ris", io.BytesIO(text.encode())).batches
    job = "SELECT count(*) FROM job WHERE review_id = :v AND kind = :kind AND "
    for kind in ("read_file", "match_copies"):
        killed = worker()
        with session() as db:  # the event is what a job writes last: all else is written and not committed
            run(db, "LOCK TABLE event IN SHARE MODE")
            wait_for("SELECT count(*) FROM pg_locks WHERE relation = 'event'::regclass AND NOT granted")
            killed.send_signal(signal.SIGKILL)
            killed.wait()
        with session() as db:
            assert scalar(db, job + "state = 'working'", v=room.review, kind=kind) == 1
            assert scalar(db, "SELECT count(*) FROM copy WHERE review_id = :v", v=room.review) == (0 if kind == "read_file" else 600)
            assert scalar(db, "SELECT count(*) FROM ruling WHERE review_id = :v", v=room.review) == 0
        again = worker()
        wait_for(job + "state = 'done'", v=room.review, kind=kind)
        again.terminate()
        again.wait()
        if kind == "read_file":
            gather.take_in(room.review, room.lead, batch)
    assert copy_rows(room.review) == copy_rows(calm)
    assert grouping(room.review) == grouping(calm)
    with session() as db:
        sql = "SELECT count(*) AS n, sum(score) AS s FROM ruling WHERE review_id = :v"
        assert row(db, sql, v=room.review) == row(db, sql, v=calm)


def test_rule_5_a_cancelled_job_leaves_nothing_behind(room: Room) -> None:
    search = searches.write_search(room.review, room.lead, searches.SearchEntry("Agrarica", "database", "", None, "", "", None))
    gather.upload(room.review, room.lead, search, "records.ris", io.BytesIO(big(3000).encode()))
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v", v=room.review)
    jobs.cancel(room.review, job)
    gather.read_file(job)
    with session() as db:
        assert scalar(db, "SELECT state FROM job WHERE id = :j", j=job) == "cancelled"
        assert scalar(db, "SELECT count(*) FROM copy WHERE review_id = :v", v=room.review) == 0


def test_rule_6_a_review_is_a_wall(room: Room) -> None:
    room.gather(ris(*TITLES[:3]))
    room.gather(ris(*TITLES[:3]), source="Vitalis Index")
    room.match()
    record = room.records()[0]
    other = plan.make_review(room.lead, "Another team", "")
    batch = gather.files(room.review)[0]["id"]
    deeds = [
        lambda: screen.sheet(other, room.lead, record),
        lambda: screen.decide(other, room.lead, screen.Said(record, 1, "include", None)),
        lambda: screen.note(other, room.lead, record, "x"),
        lambda: fulltexts.set_full_text(other, room.lead, record, "obtained", ""),
        lambda: gather.look_at(other, batch),
        lambda: gather.entry_of(other, batch, 1),
        lambda: gather.take_in(other, room.lead, batch),
        lambda: gather.set_aside(other, room.lead, batch),
        lambda: seeds.mark_seed(other, room.lead, record, True),
        lambda: groups.copies_of(other, record),
        lambda: groups.split(other, room.lead, record),
    ]
    for deed in deeds:
        with pytest.raises(NotFound):
            deed()
    protocol.amend(other, room.lead, {"criteria": [protocol.Wording(None, "Theirs", "", True, True)]}, "Piloted")
    with pytest.raises(Invalid):
        screen.decide(room.review, room.lead, screen.Said(record, 1, "exclude", protocol.protocol(other).criteria[0].id))


@pytest.mark.parametrize(
    ("name", "data", "state", "said"),
    [
        ("empty.ris", b"   \n", "failed", "blanks"),
        ("picture.ris", b"\x89PNG\r\n\x1a\n" + b"\x00" * 50, "failed", "picture"),
        ("cut.xlsx", b"PK\x03\x04" + b"x" * 80, "failed", "damaged"),
        ("nul.ris", b"TY  - JOUR\nTI  - A\x00B\nER  - \n", "read", ""),
        ("cut.ris", b"TY  - JOUR\nTI  - Cut off in the midd", "read", "ER"),
        ("entity.csv", b"Title,Year\n<!DOCTYPE x [<!ENTITY a 'b'>]>&a;,2001\n=cmd|'/C calc'!A0,2002\n", "read", ""),
        ("names.bib", b"@article{a, title={One}, year={2001}}\n@article{b, title={Two", "read", "brace"),
    ],
)
def test_rule_7_bad_input_is_data(room: Room, name: str, data: bytes, state: str, said: str) -> None:
    batch = room.upload(data, name)
    it = gather.look_at(room.review, batch)
    assert it.batch.state == state
    told = it.batch.failure + " ".join(problem["message"] for problem in it.problems)
    assert said in told
    assert "Traceback" not in told
    assert all(problem["line"] >= 1 for problem in it.problems)


def test_rule_7_an_empty_upload_is_refused_at_once(room: Room) -> None:
    with pytest.raises(Invalid, match="empty"):
        room.upload(b"", "nothing.ris")


def test_migrations_lead_to_the_models(database: str) -> None:
    from alembic import command

    from kettlesort.store.migrate import config

    command.check(config())


def test_the_kept_record_follows_from_its_copies(room: Room) -> None:
    from kettlesort.core.matching import merge

    room.gather(ris(*TITLES[:4]))
    room.gather(ris(*TITLES[:4], doi="10.5555/x."), source="Vitalis Index")
    room.match()
    for record in room.records():
        copies: list[Record] = [side.record for side in groups.copies_of(room.review, record).copies]
        assert len(copies) == 2
        assert screen.sheet(room.review, room.lead, record).record == merge(copies)[0]
        assert screen.sheet(room.review, room.lead, record).record.doi.startswith("10.5555/x.")


def test_rule_5_two_workers_with_the_same_job_read_a_file_once(room: Room) -> None:
    import io
    from concurrent.futures import ThreadPoolExecutor

    search = searches.write_search(room.review, room.lead, searches.SearchEntry("Agrarica", "database", "", None, "", "", None))
    gather.upload(room.review, room.lead, search, "records.ris", io.BytesIO(big(900).encode()))
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v", v=room.review)
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(gather.read_file, (job, job)))
    with session() as db:
        assert scalar(db, "SELECT count(*) FROM copy WHERE review_id = :v", v=room.review) == 900
        assert scalar(db, "SELECT state FROM job WHERE id = :j", j=job) == "done"


def test_rule_3_a_standing_that_went_wrong_is_found_by_counting_from_the_rows(room: Room) -> None:
    room.gather(ris(*TITLES[:4]))
    room.match()
    for record in room.records()[:3]:
        room.decide(record, "include")
    fulltexts.set_full_text(room.review, room.lead, room.records("sought")[0], "obtained", "")
    room.decide(room.records("assessed")[0], "include", 2)
    assert report.standing(room.review, from_rows=True).figures.adds_up
    for wrong in ("first = 'exclude'", "fulltext = 'missing'", "second = 'open'"):
        with session() as db:
            number = scalar(
                db, "SELECT record_id FROM standing WHERE review_id = :v AND second = 'include' AND fulltext = 'obtained'", v=room.review
            )
            run(db, f"UPDATE standing SET {wrong} WHERE record_id = :r", r=number)
        assert not report.standing(room.review, from_rows=True).figures.adds_up, wrong
        with session() as db:
            refresh_standing(db, room.review)


@pytest.mark.parametrize(
    "wrong",
    [
        "UPDATE batch SET state = 'lost'",
        "UPDATE standing SET first = 'maybe'",
        "UPDATE member SET role = 'owner'",
        "INSERT INTO search (review_id, number, source, kind, notes) SELECT review_id, number, source, kind, '' FROM search LIMIT 1",
    ],
)
def test_the_database_refuses_what_no_rule_knows(room: Room, wrong: str) -> None:
    room.gather(ris(*TITLES[:1]))
    with pytest.raises(IntegrityError), session() as db:
        run(db, wrong)
