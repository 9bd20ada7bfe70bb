"""A language model that was asked for values: of which reports, and what came of it."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Index
from sqlmodel import Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, one_of, reference
from kettlesort.store.sql import column, row, rows


class ModelAsking(Table, table=True):
    """A report that a language model is to be asked about, or was: how many values it proposed, how many of its answers were ``refused`` by reason."""

    __tablename__ = "model_asking"
    __table_args__ = (one_of("state", "waiting", "asked", "failed"), Index("ix_model_asking_state", "review_id", "state"))

    id: int | None = key()
    review_id: int = reference("review.id")
    copy_id: int = reference("copy.id", index=True)
    state: str = "waiting"
    problem: str = ""
    proposed: int = 0
    refused: dict[str, int] = json_field({})
    account_id: int = reference("account.id")
    at: Moment | None = moment()


def waiting(db: Session, review: int) -> list[int]:
    """What is still to be asked, in the order in which it was wanted."""
    return column(db, "SELECT id FROM model_asking WHERE review_id = :review AND state = 'waiting' ORDER BY id", review=review)


def forget_waiting(db: Session, review: int) -> int:
    """What was to be asked is not; how many reports that were."""
    return len(column(db, "DELETE FROM model_asking WHERE review_id = :review AND state = 'waiting' RETURNING id", review=review))


def askings(db: Session, review: int) -> Sequence[Row]:
    """The latest asking about each report."""
    return rows(
        db,
        """SELECT DISTINCT ON (p.record_id) p.record_id, m.state, m.problem, m.proposed, m.refused, m.at FROM model_asking m
        JOIN placement p ON p.copy_id = m.copy_id WHERE m.review_id = :review ORDER BY p.record_id, m.id DESC""",
        review=review,
    )


def to_ask(db: Session, review: int, *, again: bool = False) -> list[int]:
    """Included reports that were read, and of which the model was not asked since, or all of them ``again``."""
    return column(
        db,
        """WITH read AS (SELECT p.record_id, max(g.at) AS at FROM report_reading g JOIN placement p ON p.copy_id = g.copy_id
            WHERE g.review_id = :review AND g.state = 'read' GROUP BY p.record_id),
        asked AS (SELECT p.record_id, max(m.at) AS at, bool_or(m.state = 'waiting') AS waits FROM model_asking m JOIN placement p ON p.copy_id = m.copy_id
            WHERE m.review_id = :review AND m.state <> 'failed' GROUP BY p.record_id)
        SELECT r.record_id FROM read r JOIN standing s ON s.record_id = r.record_id AND s.review_id = :review LEFT JOIN asked a ON a.record_id = r.record_id
        WHERE s.first = 'include' AND s.fulltext = 'obtained' AND s.second = 'include'
        AND (a.at IS NULL OR a.at < r.at OR (:again AND NOT a.waits)) ORDER BY r.record_id""",
        review=review, again=again,
    )  # fmt: skip


def quotes_of(db: Session, review: int, record: int) -> Sequence[Row]:
    """The quotes of what the reader proposes from a report, by item and levels, the surest first."""
    return rows(
        db,
        """SELECT item_id, arm_id, outcome_id, time_id, quote FROM proposal WHERE review_id = :review AND gone_at IS NULL AND model = ''
        AND copy_id IN (SELECT copy_id FROM placement WHERE record_id = :record) ORDER BY confidence DESC, id""",
        review=review, record=record,
    )  # fmt: skip


def said_of_it(db: Session, review: int) -> dict[str, int]:
    """How many of its proposals people took as they were, corrected, and refused or passed over for another: what was said before it proposed is
    not about it."""
    found = row(
        db,
        """WITH said AS (SELECT p.study_id, p.item_id, p.arm_id, p.outcome_id, p.time_id, max(a.at) AS at FROM proposal p
            JOIN proposal_answer a ON a.proposal_id = p.id AND a.withdrawn_at IS NULL WHERE p.review_id = :review GROUP BY 1, 2, 3, 4, 5)
        SELECT count(*) FILTER (WHERE a.verdict = 'accepted') AS accepted, count(*) FILTER (WHERE a.verdict = 'changed') AS changed,
        count(*) FILTER (WHERE a.verdict IS DISTINCT FROM 'accepted' AND a.verdict IS DISTINCT FROM 'changed') AS refused
        FROM said s JOIN proposal p ON p.study_id = s.study_id AND p.item_id = s.item_id AND p.arm_id IS NOT DISTINCT FROM s.arm_id
            AND p.outcome_id IS NOT DISTINCT FROM s.outcome_id AND p.time_id IS NOT DISTINCT FROM s.time_id AND p.gone_at IS NULL AND p.model <> '' AND p.at < s.at
        LEFT JOIN proposal_answer a ON a.proposal_id = p.id AND a.withdrawn_at IS NULL""",
        review=review,
    )
    assert found is not None
    return {name: int(found[name]) for name in ("accepted", "changed", "refused")}


def consented(db: Session, review: int) -> Row | None:
    """Who last let the model be asked, or forbade it, and when."""
    return row(
        db,
        """SELECT a.full_name AS by, e.at FROM event e JOIN account a ON a.id = e.account_id
        WHERE e.review_id = :review AND e.kind IN ('chart.model_allowed', 'chart.model_forbidden') ORDER BY e.id DESC LIMIT 1""",
        review=review,
    )
