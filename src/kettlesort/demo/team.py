"""Who works in the demo review, and what is left to be done for them."""

from __future__ import annotations

from typing import NamedTuple

from sqlmodel import col, func, select

from kettlesort.store.base import session
from kettlesort.store.jobs import Job


class Team(NamedTuple):
    """Who does what in the review; all may be one person."""

    lead: int
    second: int
    third: int


def last_job(review: int) -> int:
    """The job that was asked for last."""
    with session() as db:
        return int(db.exec(select(func.max(col(Job.id))).where(Job.review_id == review)).one() or 0)
