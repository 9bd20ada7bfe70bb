"""The team's form of appraisal, by version, and what people judged of studies."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import Index
from sqlmodel import Field, Session, col, select

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, reference
from kettlesort.store.sql import rows


class AppraisalForm(Table, table=True):
    """A version of the form. Appended; the latest holds."""

    __tablename__ = "appraisal_form"
    __table_args__ = (Index("ix_appraisal_form_review", "review_id", "number", unique=True),)

    id: int | None = key()
    review_id: int = reference("review.id")
    number: int
    content: dict[str, Any] = json_field({})
    account_id: int = reference("account.id")
    at: Moment | None = moment()


class Appraisal(Table, table=True):
    """What somebody answered and judged of a domain (named by its key) of a study. Appended; what a person said last holds for them; an empty judgement is
    none yet. One that ``settles`` stands for what two judged differently."""

    __table_args__ = (Index("ix_appraisal_review", "review_id", "study_id"),)

    id: int | None = key()
    review_id: int = reference("review.id")
    study_id: int = reference("study.id", index=True)
    domain: str
    answers: dict[str, Any] = json_field({})
    judgement: str = ""
    reason: str = ""
    settles: bool = Field(default=False)
    account_id: int = reference("account.id")
    at: Moment | None = moment()


def latest_form(db: Session, review: int) -> AppraisalForm | None:
    """The form that holds."""
    return db.exec(
        select(AppraisalForm).where(AppraisalForm.review_id == review).order_by(col(AppraisalForm.number).desc()).limit(1)
    ).first()


def said(db: Session, review: int, study: int | None = None) -> Sequence[Row]:
    """What each person said last of each domain of each study, or of one, and how it was settled; those who came first at first."""
    return rows(
        db,
        """SELECT * FROM (SELECT DISTINCT ON (p.study_id, p.domain, p.account_id, p.settles) p.id, p.study_id, p.domain, p.answers, p.judgement, p.reason,
            p.settles, p.account_id, p.at, a.full_name AS by FROM appraisal p JOIN account a ON a.id = p.account_id
        WHERE p.review_id = :review AND (CAST(:study AS bigint) IS NULL OR p.study_id = :study)
        ORDER BY p.study_id, p.domain, p.account_id, p.settles, p.id DESC) x ORDER BY id""",
        review=review, study=study,
    )  # fmt: skip
