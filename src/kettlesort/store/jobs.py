"""Background work as people see it; the queue itself is procrastinate's."""

from __future__ import annotations

from collections.abc import Sequence

from sqlmodel import Session

from kettlesort.store.base import Moment, Row, Table, key, moment, one_of, reference
from kettlesort.store.sql import rows, run, scalar


class Job(Table, table=True):
    """A piece of work. State: waiting, working, done, failed or cancelled. ``done`` of ``total`` tells how far it is."""

    __table_args__ = (one_of("state", "waiting", "working", "done", "failed", "cancelled"),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    account_id: int = reference("account.id")
    kind: str
    subject_id: int | None = None
    label: str = ""
    state: str = "waiting"
    done: float = 0
    total: float = 1
    message: str = ""
    cancel: bool = False
    created_at: Moment | None = moment()
    started_at: Moment | None = moment(null=True)
    finished_at: Moment | None = moment(null=True)


_SUBJECTS = {
    "read_file": "UPDATE batch SET state = 'failed', failure = :why WHERE id = :subject AND state IN ('waiting', 'reading')",
    "read_vocabulary": "UPDATE vocabulary SET state = 'failed', failure = :why WHERE id = :subject AND state = 'waiting'",
    "try_rule": "UPDATE trial SET state = 'failed', failure = :why WHERE id = :subject AND state = 'waiting'",
    "order_records": "UPDATE other_order SET state = 'failed', failure = :why WHERE id = :subject AND state = 'waiting'",
    "group_records": "UPDATE grouping SET state = 'failed', failure = :why WHERE id = :subject AND state = 'waiting'",
    "fetch_run": "UPDATE search_run SET state = :state, failure = :why WHERE id = :subject AND state = 'fetching'",
}
"""What becomes of that which a job was about, when it fails or is cancelled."""


def end(db: Session, job: Job, state: str, message: str) -> None:
    """Mark a job as ended; what it was about does not wait for it any longer."""
    run(
        db,
        """UPDATE job SET state = CAST(:state AS text), message = :message, done = CASE WHEN CAST(:state AS text) = 'done' THEN total ELSE done END,
        finished_at = clock_timestamp() WHERE id = :id""",
        state=state, message=message, id=job.id,
    )  # fmt: skip
    if state in ("failed", "cancelled") and job.kind in _SUBJECTS:
        why = message or ("The reading was cancelled." if job.kind.startswith("read_") else "")
        values = {"why": why, "subject": job.subject_id, **({"state": state} if ":state" in _SUBJECTS[job.kind] else {})}
        run(db, _SUBJECTS[job.kind], **values)


def advance(db: Session, job: int, share: float) -> bool:
    """Write down how far a job is; whether somebody asked that it be cancelled."""
    return bool(scalar(db, "UPDATE job SET done = :share WHERE id = :job RETURNING cancel", share=share, job=job))


def cancel(db: Session, review: int, job: int) -> bool:
    """Ask that a job be cancelled; whether it has not ended yet."""
    return bool(
        run(
            db,
            "UPDATE job SET cancel = TRUE WHERE id = :job AND review_id = :review AND state IN ('waiting', 'working')",
            job=job,
            review=review,
        )
    )


def under_way(db: Session, review: int, kind: str) -> bool:
    """Whether a job of this kind waits or is worked on."""
    return bool(
        scalar(
            db,
            "SELECT EXISTS (SELECT 1 FROM job WHERE review_id = :review AND kind = :kind AND state IN ('waiting', 'working'))",
            review=review, kind=kind,
        )
    )  # fmt: skip


def working_on(db: Session, review: int) -> str | None:
    """The name of the job that was begun last and has not ended."""
    return scalar(  # type: ignore[no-any-return]
        db, "SELECT label FROM job WHERE review_id = :review AND state = 'working' ORDER BY started_at DESC LIMIT 1", review=review
    )


def latest(db: Session, review: int, kind: str, subject: int) -> int:
    """The job of this kind that was written down last for something."""
    return int(
        scalar(
            db, "SELECT max(id) FROM job WHERE review_id = :review AND kind = :kind AND subject_id = :subject", review=review, kind=kind, subject=subject
        )
    )  # fmt: skip


def current(db: Session, review: int) -> Sequence[Row]:
    """Jobs under way with the ``seconds_left`` that the work until now lets expect, those that ended within 20 seconds or failed within an hour."""
    return rows(
        db,
        """SELECT id, kind, label, state, done / total AS share, message, subject_id,
        CASE WHEN state = 'working' AND done > 0.02 THEN extract(epoch FROM now() - started_at) * (total - done) / done END AS seconds_left
        FROM job WHERE review_id = :review AND (state IN ('waiting', 'working') OR finished_at > now() - interval '20 seconds'
        OR (state = 'failed' AND finished_at > now() - interval '1 hour')) ORDER BY id""",
        review=review,
    )


def ended_before(db: Session, review: int) -> None:
    """All that was begun in a review is done, a while ago: nobody need wait for it or be told of it. What fills the review goes on."""
    run(
        db,
        """UPDATE job SET state = 'done', done = total, finished_at = clock_timestamp() - interval '1 hour'
        WHERE review_id = :review AND kind <> 'make_up' AND state IN ('waiting', 'working', 'done')""",
        review=review,
    )
