"""The queue of background work is procrastinate's; a task is put into it within the transaction that asks for it."""

from __future__ import annotations

from typing import Any

from procrastinate import App, SyncPsycopgConnector
from procrastinate.exceptions import AlreadyEnqueued
from sqlmodel import Session

from kettlesort.store.sql import scalar

_app = App(connector=SyncPsycopgConnector())
"""Only to put tasks in, on the connection of whoever asks: it is never opened."""


def defer(db: Session, task: str, queue: str, *, once: str | None, lock: str | None, after: float, arguments: dict[str, Any]) -> None:
    """Put a task into a queue, for ``after`` seconds from now.

    Of those with the same ``once`` at most one waits; of those with the same ``lock`` one is worked on at a time.
    """
    if once and scalar(db, "SELECT EXISTS (SELECT 1 FROM procrastinate_jobs WHERE queueing_lock = :once AND status = 'todo')", once=once):
        return
    try:
        with db.begin_nested():
            own = db.connection().connection.driver_connection  # asked for in here: with it the savepoint is made
            schedule = {"seconds": after} if after else None
            _app.configure_task(task, queue=queue, lock=lock, queueing_lock=once, schedule_in=schedule, connection=own).defer(**arguments)
    except AlreadyEnqueued:  # another transaction has asked for it in the same moment
        pass


def tell(db: Session, channel: str, word: str) -> None:
    """Say a word to everybody who listens, when the transaction commits."""
    scalar(db, "SELECT pg_notify(:channel, :word)", channel=channel, word=word)
