"""Queries as they were tried and kept, and what of the records they search."""

from __future__ import annotations

from collections.abc import Sequence

from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, key, moment, reference, row, rows


class QueryStep(Table, table=True):
    """A query that somebody tried; ``version`` numbers those that were kept. The newest is the one being worked on."""

    __tablename__ = "query_step"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    account_id: int = reference("account.id")
    text: str
    note: str = ""
    version: int | None = None
    at: Moment | None = moment()


class SyntaxProfile(Table, table=True):
    """A syntax as a review's team declares it: its own, or in place of a shipped one of the same key."""

    __tablename__ = "syntax_profile"

    review_id: int = reference("review.id", primary=True)
    key: str = Field(primary_key=True)
    text: str


def steps(db: Session, review: int, limit: int) -> Sequence[Row]:
    """The newest steps, and every kept version, newest first."""
    return rows(
        db,
        """SELECT q.id, q.text, q.note, q.version, q.at, a.full_name AS by FROM query_step q JOIN account a ON a.id = q.account_id
        WHERE q.review_id = :review AND (q.version IS NOT NULL OR q.id IN
            (SELECT id FROM query_step WHERE review_id = :review ORDER BY id DESC LIMIT :limit)) ORDER BY q.id DESC""",
        review=review,
        limit=limit,
    )


def fingerprint(db: Session, review: int) -> tuple[object, ...]:
    """Changes whenever the text of a record does: how many rows, and the newest transaction that wrote one."""
    found = row(
        db,
        "SELECT count(*) AS n, max(id) AS last, max(xmin::text::bigint) AS written, sum(id) AS ids FROM record WHERE review_id = :review",
        review=review,
    )
    return tuple(found.values()) if found else ()


def searched(db: Session, review: int, records: Sequence[int] | None = None) -> Sequence[Row]:
    """What of each record, or of these records, is searched."""
    return rows(
        db,
        """SELECT id, title, abstract, keywords, authors, journal, journal_short, year, language, kind, doi FROM record
        WHERE review_id = :review AND (CAST(:records AS bigint[]) IS NULL OR id = ANY(CAST(:records AS bigint[]))) ORDER BY id""",
        review=review,
        records=None if records is None else list(records),
    )


def seeds(db: Session, review: int) -> Sequence[Row]:
    """The records that are seeds."""
    return rows(
        db,
        """SELECT r.id, r.title, r.authors, r.year, r.doi FROM standing s JOIN record r ON r.id = s.record_id
        WHERE s.review_id = :review AND s.seed ORDER BY r.year, r.id""",
        review=review,
    )
