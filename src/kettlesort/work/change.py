"""One change of a review: one transaction, one author, its event, and word of it to everybody who watches."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from psycopg.errors import LockNotAvailable
from sqlalchemy.exc import OperationalError
from sqlmodel import Session

from kettlesort.store import queue
from kettlesort.store.base import seen_by, session, unhurried
from kettlesort.store.jobs import working_on
from kettlesort.store.plan import lock
from kettlesort.store.report import Event
from kettlesort.store.standing import refresh_standing
from kettlesort.work.errors import Busy

CHANNEL = "kettlesort"
QUEUES = {
    "propose_values": "reading",
    "rank": "ranking",
    "rate": "ranking",
    "index": "ranking",
    "fetch_run": "outside",
    "fill_gaps": "outside",
    "ask_model": "outside",
    "make_up": "made_up",
}
"""The lane of each task that is not one of files and matching."""
RANK_AFTER = 2.0
"""Seconds after a decision until the order is worked out anew, with all decisions up to then."""


_here: ContextVar[bool] = ContextVar("here", default=False)


@contextmanager
def worked_here() -> Iterator[None]:
    """Within it tasks are not queued: whoever begins the jobs works on them, one after the other."""
    token = _here.set(True)
    try:
        yield
    finally:
        _here.reset(token)


class Change:
    """A change in the making. ``db`` is its transaction; changes of one review follow one another."""

    def __init__(self, db: Session, review: int, account: int) -> None:
        self.db = db
        self.review = review
        self.account = account
        self.unseen = False
        """Nobody else may see what it did; so nobody is told of it."""

    def wait_turn(self) -> None:
        """From here on, no other change of the review is under way."""
        self.db.flush()
        lock_review(self.db, self.review)

    def event(
        self,
        kind: str,
        subject: str = "",
        before: Any = None,
        after: Any = None,
        *,
        about: int | None = None,
        pass_number: int | None = None,
    ) -> None:
        """Write down what changed. ``kind`` is stage and deed, as in ``screen.decided``; ``about`` is the one record that it is about."""
        self.db.add(
            Event(
                review_id=self.review, account_id=self.account, kind=kind, subject=subject, before=before, after=after, copy_id=about, pass_number=pass_number
            )
        )  # fmt: skip

    def stands(self, records: list[int] | None = None, *, locked: bool = False) -> None:
        """Records, or all, may stand elsewhere now; ``locked`` if this change holds their rows already."""
        self.db.flush()
        refresh_standing(self.db, self.review, records, locked=locked)

    def enqueue(self, task: str, *, once: str | None = None, after: float = 0, **arguments: Any) -> None:
        """Queue a task as part of this transaction, for ``after`` seconds from now; of those with the same ``once`` at most one waits."""
        enqueue(self.db, task, once=once, after=after, **arguments)

    def index_again(self) -> None:
        """Records changed: their index is to be brought up to date before somebody asks."""
        self.enqueue("index", once=f"index-{self.review}", review=self.review)

    def rank_again(self) -> None:
        """The order of records has to be worked out anew; what comes within some seconds is worked in together."""
        self.enqueue("rank", once=f"rank-{self.review}", after=RANK_AFTER, review=self.review)


def enqueue(db: Session, task: str, *, once: str | None = None, lock: str | None = None, after: float = 0, **arguments: Any) -> None:
    """Queue a task within the transaction of ``db``; of those with the same ``lock`` one is worked on at a time."""
    if _here.get():
        return
    queue.defer(db, task, QUEUES.get(task, "work"), once=once, lock=lock or once, after=after, arguments=arguments)


def tell(db: Session, review: int, what: str) -> None:
    """Let everybody who watches the review know, when the transaction commits."""
    queue.tell(db, CHANNEL, json.dumps({"review": review, "what": what}))


def lock_review(db: Session, review: int) -> None:
    """Wait until no other change of this review is under way. Raises Busy when that takes too long."""
    try:
        lock(db, review)
    except OperationalError as error:
        if not isinstance(error.orig, LockNotAvailable):
            raise
        raise Busy(
            f"Another change of this review takes its time{_under_way(review)}. Nothing was changed; please try again in a moment."
        ) from None


def _under_way(review: int) -> str:
    with session() as db:
        found = working_on(db, review)
    return f" (“{found}” is under way)" if found else ""


@contextmanager
def changing(review: int, account: int, what: str = "review", *, alone: bool = True, large: bool = False) -> Iterator[Change]:
    """A change of a review by an account; all of it happens, or nothing. ``what`` is told to whoever watches, unless it is "".

    One that is ``large`` touches as many records as there are, and may take as long as it takes once it is its turn.

    Changes follow one another. One that is not ``alone`` waits for no other and is waited for by
    none: it is about one record, whose row it locks, or it makes much that is new and waits its turn when that is done.
    """
    with seen_by(account), session() as db:
        if alone:
            lock_review(db, review)
        if large:
            unhurried(db)
        change = Change(db, review, account)
        yield change
        db.flush()
        if what and not change.unseen:
            tell(db, review, what)
