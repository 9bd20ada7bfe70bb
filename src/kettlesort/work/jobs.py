"""Background work as people see it: begun, how far, cancelled, done, failed."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime

import psycopg
from sqlalchemy.exc import DBAPIError
from sqlmodel import Session

from kettlesort.store import jobs as store
from kettlesort.store.base import Row, passes, session, snapshot
from kettlesort.store.jobs import Job
from kettlesort.work.change import Change, changing, enqueue, tell
from kettlesort.work.errors import Conflict, NotFound


class Cancelled(Exception):
    """Somebody cancelled the job."""


def begin(change: Change, kind: str, label: str, subject: int | None = None) -> int:
    """Write down a job and queue its task, as part of a change."""
    return begin_in(change.db, change.review, change.account, kind, label, subject)


def begin_in(db: Session, review: int, account: int, kind: str, label: str, subject: int | None = None) -> int:
    """The same within any transaction."""
    job = Job(review_id=review, account_id=account, kind=kind, label=label, subject_id=subject)
    db.add(job)
    db.flush()
    assert job.id is not None
    enqueue(db, kind, lock=f"match-{review}" if kind == "match_copies" else None, job=job.id)
    return job.id


class Progress:
    """How far a job is, told to everybody a few times a second; raises Cancelled when somebody asked for that."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self._told = 0.0

    def tick(self, share: float) -> None:
        """``share`` of the work, 0 to 1, is done."""
        now = time.monotonic()
        if now - self._told < 0.3:
            return
        self._told = now
        with session() as db:
            cancelled = self.job.id is not None and store.advance(db, self.job.id, share)
            tell(db, self.job.review_id, "jobs")
        if cancelled:
            raise Cancelled


@contextmanager
def working(job_id: int) -> Iterator[tuple[Job, Progress] | None]:
    """The frame around a task: marks it as begun, and afterwards as done, failed or cancelled.

    Yields ``None`` for a job that has ended or was cancelled before it began. Any
    exception but Cancelled is for the caller to describe; what a person reads is plain.
    """
    with session() as db:
        job = db.get(Job, job_id)
        if job is None or job.state in ("done", "failed", "cancelled"):
            yield None
            return
        if not job.cancel:
            job.state, job.done = "working", 0
            job.started_at = datetime.now(UTC)
            tell(db, job.review_id, "jobs")
    if job.cancel:
        finish(job, "cancelled", "")
        yield None
        return
    try:
        yield job, Progress(job)
    except Cancelled:
        finish(job, "cancelled", "")
    except (DBAPIError, psycopg.Error) as error:
        if not passes(error):  # else the whole work is begun again when the database is back
            finish(job, "failed", "The database refused what was to be written. Nothing half done was left; please try again.")
        raise
    except Exception as error:
        finish(job, "failed", f"Something unforeseen happened ({type(error).__name__}). Nothing half done was left; please try again.")
        raise


def one_by_one(job_id: int, waiting: Callable[[Session, int], Sequence[int]], look_at: Callable[[int, int, int], None], told: str) -> None:
    """The work of a job that does what waits in its review, one after the other, and what is added meanwhile: ``waiting`` are the numbers of what is to be
    done, ``look_at`` does one (for a review, by an account); at the end ``told`` is said to whoever watches."""
    with working(job_id) as work:
        if work is None:
            return
        job, progress = work
        done = 0
        while True:
            with changing(job.review_id, job.account_id, "") as change:
                numbers = waiting(change.db, job.review_id)
                if not numbers:  # under the review's lock: what is added from now on finds no job under way, and begins one
                    finish_in(change.db, job, "done")
                    tell(change.db, job.review_id, told)
                    return
            look_at(job.review_id, job.account_id, numbers[0])
            done += 1
            progress.tick(done / (done + len(numbers) - 1))


ATTEMPTS = {"read_file": 2, "read_vocabulary": 2, "make_up": 1}
"""So often a job may be begun whose worker dies under it: what a stranger made is not tried for ever, what is half filled not filled twice. Others: five times."""


def may_begin_again(job_id: int, kind: str, begun: int) -> bool:
    """Whether a job whose worker died is to be begun again after ``begun`` times; if not, it has failed, and says so."""
    if begun < ATTEMPTS.get(kind, 5):
        return True
    with session() as db:
        job = db.get(Job, job_id)
        if job is not None and job.state in ("waiting", "working"):
            finish_in(db, job, "failed", f"{job.label}: the work broke off {begun} times. Nothing half done was left.")
    return False


def finish(job: Job, state: str, message: str) -> None:
    """Mark a job as ended, in a transaction of its own."""
    with session() as db:
        finish_in(db, job, state, message)


def finish_in(db: Session, job: Job, state: str, message: str = "") -> None:
    """Mark a job as ended within the transaction that holds its result."""
    store.end(db, job, state, message)
    tell(db, job.review_id, "jobs")


def current(review: int) -> Sequence[Row]:
    """Jobs under way, and those that ended a short while ago or failed today."""
    with snapshot() as db:
        return store.current(db, review)


INSTEAD = {
    "leave_review": "Half of a file is not left behind. Take the file in again, and all of it stays.",
    "settle_groups": "Half of a dry run is neither the one rule nor the other. Once it is through, it can be taken back.",
}
"""Jobs that are not cancelled, and what a person does instead."""


def cancel(review: int, job: int) -> None:
    """Ask a job to stop; it does so at its next step. Raises Conflict for one that goes on to its end."""
    with session() as db:
        found = db.get(Job, job)
        if found is not None and found.review_id == review and found.state in ("waiting", "working") and found.kind in INSTEAD:
            raise Conflict(INSTEAD[found.kind])
        if not store.cancel(db, review, job):
            raise NotFound("That work has ended already.")
        tell(db, review, "jobs")
