"""What reports say, passage by passage, and questions that were kept."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, reference
from kettlesort.store.sql import rows, run


class ReportText(Table, table=True):
    """The passages of a report as they were read last: ``[text, page, heading]`` each. ``sha256`` names the PDF, none for an abstract."""

    __tablename__ = "report_text"

    copy_id: int = reference("copy.id", primary=True)
    review_id: int = reference("review.id", index=True)
    sha256: str | None = Field(default=None, foreign_key="blob.sha256")
    passages: list[Any] = json_field([])


class KeptQuestion(Table, table=True):
    """A question that is asked again as reports come."""

    __tablename__ = "kept_question"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    text: str
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    removed_at: Moment | None = moment(null=True)


def keep_text(db: Session, review: int, copy: int, sha256: str | None, passages: Sequence[Any]) -> None:
    """Keep what a report says, in the place of what was read of it before."""
    run(db, "DELETE FROM report_text WHERE copy_id IN (SELECT copy_id FROM placement WHERE record_id = :record)", record=copy)
    db.add(ReportText(copy_id=copy, review_id=review, sha256=sha256, passages=list(passages)))


def texts(db: Session, review: int) -> Sequence[Row]:
    """What is known of the reports, by record."""
    return rows(
        db,
        """SELECT p.record_id, t.sha256, t.passages FROM report_text t JOIN placement p ON p.copy_id = t.copy_id WHERE t.review_id = :review""",
        review=review,
    )


def kept_questions(db: Session, review: int) -> Sequence[Row]:
    """The questions that were kept, the newest first."""
    return rows(
        db,
        """SELECT q.id, q.text, q.at, a.full_name AS by FROM kept_question q JOIN account a ON a.id = q.account_id
        WHERE q.review_id = :review AND q.removed_at IS NULL ORDER BY q.id DESC""",
        review=review,
    )
