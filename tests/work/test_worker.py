"""The worker on bad days: killed while people screen, told to stop, its database away, its like waiting already."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg
import pytest

from kettlesort.store.base import session
from kettlesort.store.sql import run, scalar
from kettlesort.work import gather, jobs
from kettlesort.work.change import changing
from tests.conftest import Room, ris

WAITING = "SELECT count(*) FROM procrastinate_jobs WHERE task_name = 'rank' AND status = 'todo'"


@contextmanager
def worker(**more: str) -> Iterator[subprocess.Popen[bytes]]:
    it = subprocess.Popen(
        [sys.executable, "-m", "kettlesort.jobs"], env={**os.environ, **more}, cwd=Path(__file__).parents[2], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )  # fmt: skip
    try:
        yield it
    finally:
        it.kill()
        it.wait()


def until(sql: str, wanted: object, seconds: float = 120, **values: object) -> None:
    begun, found = time.monotonic(), None
    while time.monotonic() - begun < seconds:
        with session() as db:
            found = scalar(db, sql, **values)
        if found == wanted:
            return
        time.sleep(0.1)
    pytest.fail(f"{found} instead of {wanted} after {seconds} s: {sql}")


@pytest.fixture
def busy(room: Room) -> Room:
    """A review with records, and nothing in the queue."""
    room.gather(ris("Wrapped hives", "Foam lids", "Straw roofs"))
    room.match()
    with session() as db:
        run(db, "DELETE FROM procrastinate_jobs")
    return room


def abandoned(review: int, task: str = "rank", attempts: int = 0, **arguments: int) -> int:
    """A job that a worker had begun which is no more."""
    with session() as db:
        return int(
            scalar(
                db,
                """INSERT INTO procrastinate_jobs (queue_name, task_name, lock, queueing_lock, args, status, attempts)
                VALUES (:q, :t, :l, :l, CAST(:a AS jsonb), 'doing', :n) RETURNING id""",
                q="ranking" if task == "rank" else "work", t=task, l=f"{task}-{review}", n=attempts, a=str(arguments or {"review": review}).replace("'", '"'),
            )
        )  # fmt: skip


def test_a_stalled_job_whose_like_waits_is_dropped_and_the_worker_goes_on(busy: Room) -> None:
    left = abandoned(busy.review)
    with changing(busy.review, busy.lead) as it:
        it.rank_again()
    with worker() as it:
        until("SELECT count(*) FROM ranking WHERE review_id = :v", 1, v=busy.review)
        until("SELECT count(*) FROM procrastinate_jobs WHERE id = :i", 0, i=left)
        assert it.poll() is None


def test_a_worker_that_is_told_to_stop_stops_and_leaves_its_job_to_the_next(busy: Room) -> None:
    with session() as db:
        scalar(db, "SELECT pg_advisory_xact_lock(71, CAST(:v AS int))", v=busy.review)  # the worker waits for the review
        with session() as other:
            job = jobs.begin_in(other, busy.review, busy.lead, "match_copies", "Matching")
            run(other, "UPDATE batch SET matched = FALSE WHERE review_id = :v", v=busy.review)
        with worker() as it:
            until("SELECT state FROM job WHERE id = :j", "working", j=job)
            it.send_signal(signal.SIGTERM)
            assert it.wait(15) == 0
    with worker():
        until("SELECT state FROM job WHERE id = :j", "done", j=job)


def test_a_file_under_which_workers_die_twice_has_failed_for_good(busy: Room) -> None:
    batch = busy.upload(ris("Another"), "poison.ris")
    with session() as db:
        run(db, "UPDATE batch SET state = 'waiting' WHERE id = :b", b=batch)
        run(db, "DELETE FROM procrastinate_jobs")
        job = scalar(db, "SELECT max(id) FROM job WHERE subject_id = :b AND kind = 'read_file'", b=batch)
        run(db, "UPDATE job SET state = 'working' WHERE id = :j", j=job)
    abandoned(busy.review, "read_file", attempts=1, job=job)
    with worker():
        until("SELECT state FROM job WHERE id = :j", "failed", j=job)
    found = gather.look_at(busy.review, batch).batch
    assert found.state == "failed"
    assert "broke off 2 times" in found.failure


def test_the_worker_waits_for_its_database_however_often_its_connections_break(busy: Room) -> None:
    with worker() as it:
        until("SELECT count(*) > 0 FROM procrastinate_workers WHERE last_heartbeat > now() - interval '3 seconds'", True)
        for _ in range(3):
            with psycopg.connect(os.environ["KETTLE_DATABASE"], autocommit=True) as db:
                db.execute(
                    "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()"
                )
            time.sleep(1)
        with changing(busy.review, busy.lead) as one:
            one.rank_again()
        until("SELECT count(*) FROM ranking WHERE review_id = :v", 1, v=busy.review)
        assert it.poll() is None


def test_a_worker_that_starts_before_its_database_waits_for_it() -> None:
    with worker(KETTLE_DATABASE="postgresql://kettle@127.0.0.1:9/none") as it, pytest.raises(subprocess.TimeoutExpired):
        it.wait(6)


def test_no_statement_that_broke_off_is_taken_for_one_that_failed(busy: Room) -> None:
    """A job whose connection breaks is begun again in place; one that the database refuses is not."""
    from kettlesort.jobs import patiently

    tried: list[int] = []

    def work() -> None:
        tried.append(1)
        with session() as db:
            if len(tried) == 1:
                scalar(db, "SELECT pg_terminate_backend(pg_backend_pid())")
            else:
                scalar(db, "SELECT 1")

    patiently(work)()
    assert len(tried) == 2

    def wrong() -> None:
        with session() as db:
            scalar(db, "SELECT 1 / 0")

    with pytest.raises(Exception, match="division by zero"):
        patiently(wrong)()
