"""One change of a review: one transaction, one author, its event, and word of it to everybody who watches."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from sqlmodel import Session

from kettlesort.store.base import run, session
from kettlesort.store.report import Event
from kettlesort.store.screen import refresh_standing

CHANNEL = "kettlesort"
QUEUES = {"rank": "ranking", "index": "ranking", "fetch_run": "outside", "fill_gaps": "outside"}
"""The lane of each task that is not one of files and matching."""


class Change:
    """A change in the making. ``db`` is its transaction; changes of one review follow one another."""

    def __init__(self, db: Session, review: int, account: int) -> None:
        self.db = db
        self.review = review
        self.account = account

    def event(self, kind: str, subject: str = "", before: Any = None, after: Any = None) -> None:
        """Write down what changed. ``kind`` is stage and deed, as in ``screen.decided``."""
        self.db.add(Event(review_id=self.review, account_id=self.account, kind=kind, subject=subject, before=before, after=after))

    def stands(self, records: list[int] | None = None) -> None:
        """Records, or all, may stand elsewhere now."""
        self.db.flush()
        refresh_standing(self.db, self.review, records)

    def enqueue(self, task: str, *, once: str | None = None, **arguments: Any) -> None:
        """Queue a task as part of this transaction; of those with the same ``once`` at most one waits."""
        enqueue(self.db, task, once=once, **arguments)

    def index_again(self) -> None:
        """Records changed: their index is to be brought up to date before somebody asks."""
        self.enqueue("index", once=f"index-{self.review}", review=self.review)

    def rank_again(self) -> None:
        """The order of records has to be worked out anew."""
        self.enqueue("rank", once=f"rank-{self.review}", review=self.review)


def enqueue(db: Session, task: str, *, once: str | None = None, **arguments: Any) -> None:
    """Put a task into procrastinate's queue within the transaction of ``db``."""
    run(
        db,
        """INSERT INTO procrastinate_jobs (queue_name, task_name, priority, lock, queueing_lock, args)
        VALUES (:queue, :task, 0, :lock, :once, CAST(:arguments AS jsonb)) ON CONFLICT DO NOTHING""",
        queue=QUEUES.get(task, "work"),
        task=task, lock=once, once=once, arguments=json.dumps(arguments),
    )  # fmt: skip


def tell(db: Session, review: int, what: str) -> None:
    """Let everybody who watches the review know, when the transaction commits."""
    run(db, "SELECT pg_notify(:channel, :word)", channel=CHANNEL, word=json.dumps({"review": review, "what": what}))


def lock_review(db: Session, review: int) -> None:
    """Wait until no other change of this review is under way."""
    run(db, "SELECT pg_advisory_xact_lock(71, CAST(:review AS int))", review=review)


@contextmanager
def change(review: int, account: int, what: str = "review") -> Iterator[Change]:
    """A change of a review by an account; all of it happens, or nothing."""
    with session() as db:
        lock_review(db, review)
        it = Change(db, review, account)
        yield it
        db.flush()
        tell(db, review, what)
