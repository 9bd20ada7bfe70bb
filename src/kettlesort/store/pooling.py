"""Analyses, by version. What they come to is worked out from the evidence table each time."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlmodel import Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, reference
from kettlesort.store.sql import rows


class Analysis(Table, table=True):
    """An analysis of a review, in its place among the others."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    position: int
    removed_at: Moment | None = moment(null=True)


class AnalysisVersion(Table, table=True):
    """What an analysis pools and how, from then on. Appended; the latest holds."""

    __tablename__ = "analysis_version"

    id: int | None = key()
    analysis_id: int = reference("analysis.id", index=True)
    content: dict[str, Any] = json_field({})
    account_id: int = reference("account.id")
    at: Moment | None = moment()


def analyses(db: Session, review: int) -> Sequence[Row]:
    """All analyses as they stand, in their order, with the number of their version, who made it and when."""
    return rows(
        db,
        """SELECT DISTINCT ON (n.position, n.id) n.id, n.position, v.id AS version, v.content, v.at, a.full_name AS by, n.removed_at
        FROM analysis n JOIN analysis_version v ON v.analysis_id = n.id JOIN account a ON a.id = v.account_id
        WHERE n.review_id = :review AND n.removed_at IS NULL ORDER BY n.position, n.id, v.id DESC""",
        review=review,
    )


def versions(db: Session, analysis: int) -> Sequence[Row]:
    """Every version of an analysis, the newest first."""
    return rows(
        db,
        """SELECT v.id, v.content, v.at, a.full_name AS by FROM analysis_version v JOIN account a ON a.id = v.account_id
        WHERE v.analysis_id = :analysis ORDER BY v.id DESC""",
        analysis=analysis,
    )


class SummaryVersion(Table, table=True):
    """What the summary table of a review holds, from then on. Appended; the latest holds."""

    __tablename__ = "summary_version"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    content: dict[str, Any] = json_field({})
    account_id: int = reference("account.id")
    at: Moment | None = moment()


def summary(db: Session, review: int) -> Row | None:
    """The summary table as it stands, with the number of its version and who made it; None before there is one."""
    found = rows(
        db,
        """SELECT v.id, v.content, v.at, a.full_name AS by FROM summary_version v JOIN account a ON a.id = v.account_id
        WHERE v.review_id = :review ORDER BY v.id DESC LIMIT 1""",
        review=review,
    )
    return found[0] if found else None
