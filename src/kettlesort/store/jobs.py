"""Background work as people see it; the queue itself is procrastinate's."""

from __future__ import annotations

from sqlmodel import Session

from kettlesort.store.base import Moment, Table, key, moment, one_of, reference, run


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
