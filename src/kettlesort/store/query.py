"""Queries as they were tried and kept, and what of the records they search."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, key, moment, reference
from kettlesort.store.sql import row, rows, run, scalar

Numbers = NDArray[np.int64]


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


class IndexPart(Table, table=True):
    """A part of the index of a review's records: which records, as they were when they had these marks, and the packed index of them.

    ``records`` and ``marks`` are 64-bit numbers. A summary of rows, always checked against them.
    """

    __tablename__ = "index_part"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    format: int
    records: bytes
    marks: bytes
    data: bytes


def marks(db: Session, review: int) -> tuple[Numbers, Numbers]:
    """The records of a review in order, and for each a mark that changes whenever its row does: the transaction that wrote it."""
    found = rows(db, "SELECT id, xmin::text::bigint AS mark FROM record WHERE review_id = :review ORDER BY id", review=review)
    both = np.array([(row["id"], row["mark"]) for row in found], np.int64).reshape(-1, 2)
    return both[:, 0], both[:, 1]


def index_parts(db: Session, review: int) -> Sequence[Row]:
    """The parts of an index, without their data."""
    return rows(db, "SELECT id, format, records, marks FROM index_part WHERE review_id = :v ORDER BY id", v=review)


def packed(db: Session, part: int) -> bytes | None:
    """The data of a part; ``None`` when it was replaced meanwhile."""
    found = row(db, "SELECT data FROM index_part WHERE id = :id", id=part)
    return bytes(found["data"]) if found else None


def lock_index(db: Session, review: int) -> None:
    """Wait until nobody else brings the index of this review up to date."""
    run(db, "SELECT pg_advisory_xact_lock(72, CAST(:review AS int))", review=review)


def drop_parts(db: Session, parts: Sequence[int]) -> None:
    """Parts that are replaced."""
    run(db, "DELETE FROM index_part WHERE id = ANY(CAST(:parts AS bigint[]))", parts=list(parts))


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
    """Changes whenever the text of a record does."""
    found = row(db, "SELECT texts FROM review WHERE id = :review", review=review)
    return tuple(found.values()) if found else ()


def searched(db: Session, review: int, records: Sequence[int] | None = None) -> Sequence[Row]:
    """What of each record, or of these records, is searched."""
    return rows(
        db,
        """SELECT id, title, abstract, keywords, authors, journal, journal_short, year, language, kind, doi, extra FROM record
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


def latest_version(db: Session, review: int) -> int:
    """The number of the latest version of the query that was kept, 0 if none was."""
    return int(scalar(db, "SELECT coalesce(max(version), 0) FROM query_step WHERE review_id = :review", review=review))
