"""Background work as people see it; the queue itself is procrastinate's."""

from __future__ import annotations

from kettlesort.store.base import Moment, Table, key, moment, reference


class Job(Table, table=True):
    """A piece of work. State: waiting, working, done, failed or cancelled. ``done`` of ``total`` tells how far it is."""

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
