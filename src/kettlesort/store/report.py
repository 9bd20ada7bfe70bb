"""The history of a review."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import BigInteger, Column, Index
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, key, moment, reference
from kettlesort.store.sql import column, row, rows, scalar


class Event(Table, table=True):
    """Who changed what, when, from what, to what."""

    __table_args__ = (
        Index("ix_event_kind", "review_id", "kind", "id"),
        Index("ix_event_review", "review_id", "id"),
    )

    id: int | None = key()
    review_id: int = reference("review.id")
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    kind: str
    subject: str = ""
    copy_id: int | None = Field(default=None, sa_type=BigInteger)
    """What is about one record hangs on a copy, as the decision does; hidden from others while its pass is blind."""
    pass_number: int | None = None
    before: Any = Field(default=None, sa_column=Column(JSONB, nullable=True))
    after: Any = Field(default=None, sa_column=Column(JSONB, nullable=True))


def last_event(db: Session, review: int, kind: str) -> Row | None:
    """The latest event of a kind that the viewer may see: who, when, and what there is after it."""
    return row(
        db,
        """SELECT a.full_name AS by, e.at, e.after FROM seen_event e JOIN account a ON a.id = e.account_id WHERE e.review_id = :review AND e.kind = :kind
        ORDER BY e.id DESC LIMIT 1""",
        review=review, kind=kind,
    )  # fmt: skip


def source_counts(db: Session, review: int) -> Sequence[Row]:
    """Placed copies by source, in the order of the log, with those that are not the kept one."""
    return rows(
        db,
        """SELECT s.source, s.kind, min(s.number) AS number, sum(g.copies) AS copies, sum(g.surplus) AS surplus FROM (
            SELECT b.search_id, (SELECT count(*) FROM placement p WHERE p.review_id = :review AND p.batch_id = b.id) AS copies,
            (SELECT count(*) FROM placement p WHERE p.review_id = :review AND p.batch_id = b.id AND p.copy_id <> p.record_id) AS surplus
            FROM batch b WHERE b.review_id = :review) g
        JOIN search s ON s.id = g.search_id GROUP BY s.source, s.kind HAVING sum(g.copies) > 0 ORDER BY number""",
        review=review,
    )


def cells(db: Session, review: int) -> Sequence[Row]:
    """Records by where they stand.

    The index holds records that stand alike side by side, so that from each kind one step leads to
    the next, and each is counted as fast as the database counts anything.
    """
    return rows(
        db,
        """WITH RECURSIVE kind AS (
            (SELECT first, fulltext, second, main, seed FROM standing WHERE review_id = :review ORDER BY 1, 2, 3, 4, 5 LIMIT 1)
            UNION ALL SELECT n.* FROM kind k, LATERAL (
                SELECT first, fulltext, second, main, seed FROM standing WHERE review_id = :review
                AND (first, fulltext, second, main, seed) > (k.first, k.fulltext, k.second, k.main, k.seed) ORDER BY 1, 2, 3, 4, 5 LIMIT 1) n)
        SELECT k.*, g.n, coalesce(c.name, '') AS criterion FROM kind k, LATERAL (
            SELECT s.second_criterion, count(*) AS n FROM standing s WHERE s.review_id = :review AND s.first = k.first
            AND s.fulltext = k.fulltext AND s.second = k.second AND s.main = k.main AND s.seed = k.seed GROUP BY s.second_criterion) g
        LEFT JOIN criterion c ON c.id = g.second_criterion""",
        review=review,
    )


def cells_of(db: Session, reviews: Sequence[int]) -> Sequence[Row]:
    """Records of several reviews by where they stand, in one statement."""
    return rows(
        db,
        """SELECT review_id, main, first, fulltext, second, count(*) AS n FROM standing WHERE review_id = ANY(CAST(:reviews AS bigint[]))
        GROUP BY review_id, main, first, fulltext, second""",
        reviews=list(reviews),
    )


def copies_of(db: Session, reviews: Sequence[int]) -> dict[int, int]:
    """How many copies each of several reviews has."""
    found = rows(
        db,
        "SELECT review_id, count(*) AS n FROM placement WHERE review_id = ANY(CAST(:reviews AS bigint[])) GROUP BY review_id",
        reviews=list(reviews),
    )
    return {row["review_id"]: row["n"] for row in found}


def held_aside(db: Session, review: int) -> set[int]:
    """The records that a narrowing holds aside."""
    return set(
        column(
            db,
            "SELECT DISTINCT p.record_id FROM narrowed d JOIN placement p ON p.copy_id = d.copy_id WHERE p.review_id = :review AND d.released_at IS NULL",
            review=review,
        )
    )


def obtained(db: Session, review: int) -> set[int]:
    """The records whose full text was obtained."""
    return set(
        column(
            db,
            """SELECT record_id FROM (SELECT DISTINCT ON (p.record_id) p.record_id, t.state FROM full_text t JOIN placement p ON p.copy_id = t.copy_id
            WHERE t.review_id = :review ORDER BY p.record_id, t.id DESC) x WHERE state = 'obtained'""",
            review=review,
        )
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


def count_events(db: Session, review: int) -> int:
    """How many events a review's history has that the viewer may see."""
    return int(scalar(db, "SELECT count(*) FROM seen_event WHERE review_id = :review", review=review))


def events(db: Session, review: int, before: int | None, limit: int, kind: str = "", account: int | None = None) -> Sequence[Row]:
    """The history, newest first, from before an event on."""
    return rows(
        db,
        """SELECT e.id, e.at, a.full_name AS by, e.kind, e.subject, e.before, e.after FROM seen_event e JOIN account a ON a.id = e.account_id
        WHERE e.review_id = :review AND (CAST(:before AS bigint) IS NULL OR e.id < :before) AND (:kind = '' OR e.kind LIKE :kind || '%')
        AND (CAST(:account AS bigint) IS NULL OR e.account_id = :account) ORDER BY e.id DESC LIMIT :limit""",
        review=review, before=before, limit=limit, kind=kind, account=account,
    )  # fmt: skip
