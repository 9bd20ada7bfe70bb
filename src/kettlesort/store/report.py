"""The history of a review."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import Column, Index
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, key, moment, reference, rows, scalar


class Event(Table, table=True):
    """Who changed what, when, from what, to what."""

    __table_args__ = (Index("ix_event_review", "review_id", "id"),)

    id: int | None = key()
    review_id: int = reference("review.id")
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    kind: str
    subject: str = ""
    before: Any = Field(default=None, sa_column=Column(JSONB, nullable=True))
    after: Any = Field(default=None, sa_column=Column(JSONB, nullable=True))


def source_counts(db: Session, review: int) -> Sequence[Row]:
    """Placed copies by source, in the order of the log, with those that are not the kept one."""
    return rows(
        db,
        """SELECT s.source, s.kind, min(s.number) AS number, sum(g.copies) AS copies, sum(g.surplus) AS surplus FROM (
            SELECT batch_id, count(*) AS copies, count(*) FILTER (WHERE copy_id <> record_id) AS surplus
            FROM placement WHERE review_id = :review GROUP BY batch_id) g
        JOIN batch b ON b.id = g.batch_id JOIN search s ON s.id = b.search_id GROUP BY s.source, s.kind ORDER BY number""",
        review=review,
    )


def cells(db: Session, review: int) -> Sequence[Row]:
    """Records by where they stand."""
    return rows(
        db,
        """SELECT g.*, coalesce(c.name, '') AS criterion FROM (
            SELECT main, seed, first, fulltext, second, second_criterion, count(*) AS n FROM standing WHERE review_id = :review
            GROUP BY main, seed, first, fulltext, second, second_criterion) g LEFT JOIN criterion c ON c.id = g.second_criterion""",
        review=review,
    )


def included_studies(db: Session, review: int) -> int:
    """Studies with an included report."""
    return int(
        scalar(
            db,
            """SELECT count(DISTINCT r.study_id) FROM standing s JOIN placement p ON p.record_id = s.record_id JOIN study_report r ON r.copy_id = p.copy_id
            WHERE s.review_id = :review AND s.first = 'include' AND s.fulltext = 'obtained' AND s.second = 'include'""",
            review=review,
        )
    )


def events(db: Session, review: int, before: int | None, limit: int, kind: str = "", account: int | None = None) -> Sequence[Row]:
    """The history, newest first, from before an event on."""
    return rows(
        db,
        """SELECT e.id, e.at, a.full_name AS by, e.kind, e.subject, e.before, e.after FROM event e JOIN account a ON a.id = e.account_id
        WHERE e.review_id = :review AND (CAST(:before AS bigint) IS NULL OR e.id < :before) AND (:kind = '' OR e.kind LIKE :kind || '%')
        AND (CAST(:account AS bigint) IS NULL OR e.account_id = :account) ORDER BY e.id DESC LIMIT :limit""",
        review=review, before=before, limit=limit, kind=kind, account=account,
    )  # fmt: skip
