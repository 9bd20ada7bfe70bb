"""Which values two extractors read, who reads which study, and what each of them read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import Column, Index
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, Session, col, delete, select

from kettlesort.store.base import Moment, Row, Table, key, moment, one_of, reference
from kettlesort.store.sql import rows


class ExtractionMode(Table, table=True):
    """How values are extracted from then on. Appended; the latest holds; without any, one person charts.

    ``items`` and ``studies`` are those that two read, none for all. ``second``: who reads besides a person.
    """

    __tablename__ = "extraction_mode"
    __table_args__ = (
        one_of("second", "nobody", "person", "proposals"),
        one_of("settling", "third", "talk"),
        Index("ix_extraction_mode_review", "review_id", "id"),
    )

    id: int | None = key()
    review_id: int = reference("review.id")
    second: str
    blind: bool
    rounding: bool
    letters: bool
    settling: str
    items: list[int] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True), nullable=True))
    studies: list[int] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True), nullable=True))
    account_id: int = reference("account.id")
    at: Moment | None = moment()


class Extractor(Table, table=True):
    """Who reads a study; of a study without any, whoever comes first."""

    study_id: int = reference("study.id", primary=True)
    account_id: int = reference("account.id", primary=True)
    review_id: int = reference("review.id", index=True)


def mode(db: Session, review: int) -> ExtractionMode | None:
    """How values are extracted now."""
    return db.exec(
        select(ExtractionMode).where(ExtractionMode.review_id == review).order_by(col(ExtractionMode.id).desc()).limit(1)
    ).first()


def extractors(db: Session, review: int) -> dict[int, list[int]]:
    """The people who were given each study, by account."""
    out: dict[int, list[int]] = {}
    for one in db.exec(select(Extractor).where(Extractor.review_id == review).order_by(col(Extractor.study_id), col(Extractor.account_id))):
        out.setdefault(one.study_id, []).append(one.account_id)
    return out


def give(db: Session, review: int, given: Mapping[int, Sequence[int]]) -> None:
    """Give studies to people instead of those who had them."""
    db.exec(delete(Extractor).where(col(Extractor.review_id) == review, col(Extractor.study_id).in_(given)))
    db.add_all([Extractor(study_id=study, account_id=account, review_id=review) for study, people in given.items() for account in people])
    db.flush()


def every_reading(db: Session, review: int) -> list[dict[str, Any]]:
    """All that extractors ever read, in the order in which they wrote it; of each cell what they last wrote holds."""
    return [
        dict(row)
        for row in rows(
            db,
            """SELECT v.id, v.study_id, v.item_id, v.arm_id, v.outcome_id, v.time_id, v.reader_id, v.text, v.unfit
            FROM value v WHERE v.review_id = :review AND v.reader_id IS NOT NULL ORDER BY v.id""",
            review=review,
        )
    ]


def readings(db: Session, review: int, studies: Sequence[int] | None = None) -> Sequence[Row]:
    """What each extractor read of each cell, of some ``studies`` or of all, with its words and the record that they are from."""
    return rows(
        db,
        """SELECT * FROM (SELECT DISTINCT ON (v.study_id, v.item_id, v.arm_id, v.outcome_id, v.time_id, v.reader_id) v.id, v.study_id, v.item_id, v.arm_id,
            v.outcome_id, v.time_id, v.reader_id, v.text, v.quote, v.page, v.copy_id, v.how, v.derived, v.unfit, v.model, v.at, a.full_name AS by, p.record_id AS record
        FROM value v JOIN account a ON a.id = v.reader_id LEFT JOIN placement p ON p.copy_id = v.copy_id
        WHERE v.review_id = :review AND v.reader_id IS NOT NULL
        AND (CAST(:studies AS bigint[]) IS NULL OR v.study_id = ANY(CAST(:studies AS bigint[])))
        ORDER BY v.study_id, v.item_id, v.arm_id, v.outcome_id, v.time_id, v.reader_id, v.id DESC) x WHERE text <> ''
        ORDER BY study_id, item_id, arm_id, outcome_id, time_id, id""",
        review=review, studies=None if studies is None else list(studies),
    )  # fmt: skip


def first_proposals(db: Session, review: int, studies: Sequence[int] | None = None) -> Sequence[Row]:
    """The surest proposal of the reader for each cell, of some ``studies`` or of all, answered or not."""
    return rows(
        db,
        """SELECT DISTINCT ON (p.study_id, p.item_id, p.arm_id, p.outcome_id, p.time_id) p.id, p.study_id, p.item_id, p.arm_id, p.outcome_id, p.time_id,
            p.text, p.quote, coalesce(p.page::text, '') AS page, p.copy_id, p.at, l.record_id AS record
        FROM proposal p JOIN placement l ON l.copy_id = p.copy_id WHERE p.review_id = :review AND p.gone_at IS NULL AND p.model = ''
        AND (CAST(:studies AS bigint[]) IS NULL OR p.study_id = ANY(CAST(:studies AS bigint[])))
        ORDER BY p.study_id, p.item_id, p.arm_id, p.outcome_id, p.time_id, p.confidence DESC, p.id""",
        review=review, studies=None if studies is None else list(studies),
    )  # fmt: skip
