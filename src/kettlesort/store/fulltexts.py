"""Full texts: what became of each, and PDFs that were delivered and belong to a record or to none yet."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import Index
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, one_of, reference
from kettlesort.store.sql import column, row, rows


class FullText(Table, table=True):
    """What became of seeking a full text: sought, obtained or missing. Appended; the latest holds."""

    __tablename__ = "full_text"
    __table_args__ = (one_of("state", "sought", "obtained", "missing"),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    copy_id: int = reference("copy.id", index=True)
    state: str
    reason: str = ""
    sha256: str | None = Field(default=None, foreign_key="blob.sha256")
    filename: str = ""
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    taken_off_at: Moment | None = moment(null=True)
    """When its file was found to belong elsewhere."""


class Delivered(Table, table=True):
    """A PDF that came with others, before it is known whose it is. State: waiting to be read, placed, asked (a person is to say), unplaced, twice (the
    same file is there), refused (no PDF that can be read), unpacked (it was an archive), dropped.

    ``proposals`` are records that it may belong to, the likeliest first: ``{"id", "likely", "why"}``.
    """

    __table_args__ = (
        one_of("state", "waiting", "placed", "asked", "unplaced", "twice", "refused", "unpacked", "dropped"),
        Index("ix_delivered_state", "review_id", "state"),
    )

    id: int | None = key()
    review_id: int = reference("review.id")
    filename: str
    sha256: str = Field(foreign_key="blob.sha256")
    state: str = "waiting"
    says: str = ""
    pages: int = 0
    problem: str = ""
    proposals: list[dict[str, Any]] = json_field([])
    dropped_as: str = ""
    """Its state before it was dropped."""
    copy_id: int | None = reference("copy.id", null=True)
    account_id: int = reference("account.id")
    at: Moment | None = moment()


def delivered(db: Session, review: int) -> Sequence[Row]:
    """What was delivered and not dropped, with the record that each file was placed at; what a person has to see to first."""
    return rows(
        db,
        """SELECT d.id, d.filename, d.state, d.says, d.pages, d.problem, d.proposals, d.at, a.full_name AS by, p.record_id AS record, r.title AS record_title
        FROM delivered d JOIN account a ON a.id = d.account_id LEFT JOIN placement p ON p.copy_id = d.copy_id LEFT JOIN record r ON r.id = p.record_id
        WHERE d.review_id = :review AND d.state NOT IN ('dropped', 'unpacked')
        ORDER BY CASE d.state WHEN 'asked' THEN 0 WHEN 'unplaced' THEN 1 WHEN 'twice' THEN 2 WHEN 'refused' THEN 3 WHEN 'waiting' THEN 4 ELSE 5 END, d.id LIMIT 5000""",
        review=review,
    )


def waiting(db: Session, review: int) -> list[int]:
    """The delivered files that are still to be read, in the order in which they came."""
    return column(db, "SELECT id FROM delivered WHERE review_id = :review AND state = 'waiting' ORDER BY id", review=review)


def same_file(db: Session, review: int, sha256: str, but: int) -> Row | None:
    """Where the same file is already: at a record, or delivered before."""
    return row(
        db,
        """SELECT p.record_id AS record, '' AS filename FROM full_text t JOIN placement p ON p.copy_id = t.copy_id
            WHERE t.review_id = :review AND t.sha256 = :sha AND t.taken_off_at IS NULL
        UNION ALL SELECT NULL, d.filename FROM delivered d WHERE d.review_id = :review AND d.sha256 = :sha AND d.id < :but AND d.state IN ('asked', 'unplaced')
        LIMIT 1""",
        review=review, sha=sha256, but=but,
    )  # fmt: skip


def file_of(db: Session, record: int) -> FullText | None:
    """The latest file of a record that was not taken off."""
    found = column(
        db,
        """SELECT t.id FROM placement p JOIN full_text t ON t.copy_id = p.copy_id WHERE p.record_id = :record AND t.sha256 IS NOT NULL AND t.taken_off_at IS NULL
        ORDER BY t.id DESC LIMIT 1""",
        record=record,
    )
    return db.get(FullText, found[0]) if found else None


def taken_off(db: Session, record: int) -> FullText | None:
    """The file that was taken off a record last."""
    found = column(
        db,
        "SELECT t.id FROM placement p JOIN full_text t ON t.copy_id = p.copy_id WHERE p.record_id = :record AND t.taken_off_at IS NOT NULL ORDER BY t.taken_off_at DESC LIMIT 1",
        record=record,
    )
    return db.get(FullText, found[0]) if found else None


def loose(db: Session, review: int, sha256: str) -> list[int]:
    """Where a file lies among those that a person is to place."""
    return column(
        db,
        "SELECT id FROM delivered WHERE review_id = :review AND sha256 = :sha AND state IN ('asked', 'unplaced') ORDER BY id LIMIT 1",
        review=review, sha=sha256,
    )  # fmt: skip


def came_as(db: Session, review: int, sha256: str, record: int) -> int | None:
    """The delivered file that was placed at a record."""
    found = column(
        db,
        """SELECT d.id FROM delivered d JOIN placement p ON p.copy_id = d.copy_id WHERE d.review_id = :review AND d.sha256 = :sha AND d.state = 'placed'
        AND p.record_id = :record ORDER BY d.id DESC LIMIT 1""",
        review=review, sha=sha256, record=record,
    )  # fmt: skip
    return found[0] if found else None


def reasons(db: Session, review: int) -> list[str]:
    """Why full texts of the review were not obtained, the most frequent first."""
    return column(
        db,
        "SELECT reason FROM full_text WHERE review_id = :review AND state = 'missing' AND reason <> '' GROUP BY reason ORDER BY count(*) DESC, reason LIMIT 50",
        review=review,
    )


def full_texts_of(db: Session, records: Sequence[int]) -> Sequence[Row]:
    """The latest word on some records' full texts, and the latest attached file of each."""
    return rows(
        db,
        """SELECT DISTINCT ON (p.record_id) p.record_id, t.state, t.reason, t.at, a.full_name AS by, f.id AS file_id, f.filename
        FROM placement p JOIN full_text t ON t.copy_id = p.copy_id JOIN account a ON a.id = t.account_id
        LEFT JOIN LATERAL (SELECT g.id, g.filename FROM placement o JOIN full_text g ON g.copy_id = o.copy_id
            WHERE o.record_id = p.record_id AND g.sha256 IS NOT NULL AND g.taken_off_at IS NULL ORDER BY g.id DESC LIMIT 1) f ON TRUE
        WHERE p.record_id = ANY(CAST(:records AS bigint[])) ORDER BY p.record_id, t.id DESC""",
        records=list(records),
    )


def sought(db: Session, review: int) -> Sequence[Row]:
    """The records whose full text is sought, with what became of it and its latest file; at most 20,000."""
    return rows(
        db,
        """SELECT s.record_id AS id, r.title, r.authors, r.year, r.journal, r.volume, r.issue, r.pages, r.doi, r.accession, s.fulltext, s.second, coalesce(f.reason, '') AS reason, f.at,
        a.full_name AS by, g.id AS file_id, g.filename, coalesce(c.name, '') AS criterion
        FROM standing s JOIN record r ON r.id = s.record_id
        LEFT JOIN LATERAL (SELECT t.* FROM placement p JOIN full_text t ON t.copy_id = p.copy_id WHERE p.record_id = r.id ORDER BY t.id DESC LIMIT 1) f ON TRUE
        LEFT JOIN LATERAL (SELECT t.id, t.filename FROM placement p JOIN full_text t ON t.copy_id = p.copy_id
            WHERE p.record_id = r.id AND t.sha256 IS NOT NULL AND t.taken_off_at IS NULL ORDER BY t.id DESC LIMIT 1) g ON TRUE
        LEFT JOIN account a ON a.id = f.account_id LEFT JOIN criterion c ON c.id = s.second_criterion
        WHERE s.review_id = :review AND s.first = 'include' ORDER BY CASE s.fulltext WHEN 'sought' THEN 0 WHEN 'obtained' THEN 1 ELSE 2 END, r.authors, r.year, r.id LIMIT 20000""",
        review=review,
    )
