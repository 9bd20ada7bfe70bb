"""Values that were read from reports and proposed, and what people said of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import BigInteger, Index
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, one_of, reference
from kettlesort.store.sql import column, row, rows, run, scalar


class ReportReading(Table, table=True):
    """A report that is to be read for values, or was. State: waiting, read, failed (with its problem).

    ``sha256`` names the PDF that was read, none for an abstract; ``version`` is the codebook's at that time.
    """

    __tablename__ = "report_reading"
    __table_args__ = (
        one_of("state", "waiting", "read", "failed"),
        Index("ix_report_reading_state", "review_id", "state"),
    )

    id: int | None = key()
    review_id: int = reference("review.id")
    copy_id: int = reference("copy.id", index=True)
    state: str = "waiting"
    sha256: str | None = Field(default=None, foreign_key="blob.sha256")
    version: int = 0
    pages: int | None = None
    problem: str = ""
    account_id: int = reference("account.id")
    at: Moment | None = moment()


class Proposal(Table, table=True):
    """A value that a report seems to state for an item and its levels. It never changes, but for ``confidence``, which follows the team's answers while it
    is open; ``gone_at`` is when a later reading replaced it. ``model`` names the language model that made it, "" for the reader."""

    __table_args__ = (Index("ix_proposal_cell", "review_id", "study_id", "item_id"),)

    id: int | None = key()
    review_id: int = reference("review.id")
    study_id: int = reference("study.id", index=True)
    item_id: int = reference("item.id", index=True)
    arm_id: int | None = reference("level.id", null=True)
    outcome_id: int | None = reference("level.id", null=True)
    time_id: int | None = reference("level.id", null=True)
    copy_id: int = reference("copy.id", index=True)
    text: str
    quote: str
    page: int | None = None
    confidence: float
    signs: dict[str, float] = json_field({})
    model: str = ""
    at: Moment | None = moment()
    gone_at: Moment | None = moment(null=True)


class ProposalAnswer(Table, table=True):
    """What a person said of a proposal: accepted, changed (it was corrected), refused. Appended; taken back by time."""

    __tablename__ = "proposal_answer"
    __table_args__ = (one_of("verdict", "accepted", "changed", "refused"), Index("ix_proposal_answer_stroke", "review_id", "stroke"))

    id: int | None = key()
    review_id: int = reference("review.id")
    proposal_id: int = reference("proposal.id", index=True)
    stroke: int = Field(sa_type=BigInteger)
    """Answers that were given together have the number of the first proposal among them."""
    verdict: str
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    withdrawn_at: Moment | None = moment(null=True)


OPEN = """
WITH held AS (SELECT DISTINCT ON (study_id, item_id, arm_id, outcome_id, time_id) study_id, item_id, arm_id, outcome_id, time_id, text FROM charted
    WHERE review_id = :review ORDER BY study_id, item_id, arm_id, outcome_id, time_id, id DESC),
included AS (SELECT DISTINCT p.copy_id, x.study_id FROM standing s JOIN placement p ON p.record_id = s.record_id JOIN study_report x ON x.copy_id = p.copy_id
    WHERE s.review_id = :review AND s.first = 'include' AND s.fulltext = 'obtained' AND s.second = 'include'),
answered AS (SELECT DISTINCT p.study_id, p.item_id, p.arm_id, p.outcome_id, p.time_id FROM proposal p JOIN proposal_answer a ON a.proposal_id = p.id
    WHERE p.review_id = :review AND p.gone_at IS NULL AND a.withdrawn_at IS NULL),
open AS (SELECT p.* FROM proposal p JOIN item i ON i.id = p.item_id AND i.removed_at IS NULL
    WHERE p.review_id = :review AND p.gone_at IS NULL AND p.study_id IN (SELECT study_id FROM included)
    AND NOT EXISTS (SELECT 1 FROM level l WHERE l.id IN (p.arm_id, p.outcome_id, p.time_id) AND l.removed_at IS NOT NULL)
    AND NOT EXISTS (SELECT 1 FROM held h WHERE h.study_id = p.study_id AND h.item_id = p.item_id AND h.text <> '' AND h.arm_id IS NOT DISTINCT FROM p.arm_id
        AND h.outcome_id IS NOT DISTINCT FROM p.outcome_id AND h.time_id IS NOT DISTINCT FROM p.time_id)
    AND NOT EXISTS (SELECT 1 FROM answered n WHERE n.study_id = p.study_id AND n.item_id = p.item_id AND n.arm_id IS NOT DISTINCT FROM p.arm_id
        AND n.outcome_id IS NOT DISTINCT FROM p.outcome_id AND n.time_id IS NOT DISTINCT FROM p.time_id))
"""
"""Proposals of included studies for cells that are empty and of which nobody has said anything."""


def open_cells(db: Session, review: int) -> Sequence[Row]:
    """The surest proposal of each cell that waits for a person, and how many there are for it."""
    return rows(
        db,
        OPEN  # the name of the query; see there
        + """SELECT DISTINCT ON (study_id, item_id, arm_id, outcome_id, time_id) id, study_id, item_id, arm_id, outcome_id, time_id, text, confidence, model,
        count(*) OVER (PARTITION BY study_id, item_id, arm_id, outcome_id, time_id) AS n
        FROM open ORDER BY study_id, item_id, arm_id, outcome_id, time_id, confidence DESC, id""",
        review=review,
    )


def of_cell(db: Session, review: int, study: int, item: int, levels: tuple[int | None, int | None, int | None]) -> Sequence[Row]:
    """All proposals for a cell, the surest first, with what was said of each and the PDF that they are from."""
    arm, outcome, time = levels
    return rows(
        db,
        """SELECT p.id, p.text, p.quote, p.page, p.confidence, p.model, l.record_id AS record, a.verdict, a.at AS answered_at, c.full_name AS answered_by
        FROM proposal p JOIN placement l ON l.copy_id = p.copy_id
        LEFT JOIN proposal_answer a ON a.proposal_id = p.id AND a.withdrawn_at IS NULL LEFT JOIN account c ON c.id = a.account_id
        WHERE p.review_id = :review AND p.study_id = :study AND p.item_id = :item AND p.gone_at IS NULL
        AND p.arm_id IS NOT DISTINCT FROM CAST(:arm AS bigint) AND p.outcome_id IS NOT DISTINCT FROM CAST(:outcome AS bigint)
        AND p.time_id IS NOT DISTINCT FROM CAST(:time AS bigint) ORDER BY p.confidence DESC, p.id""",
        review=review, study=study, item=item, arm=arm, outcome=outcome, time=time,
    )  # fmt: skip


def open_signs(db: Session, review: int) -> Sequence[Row]:
    """The proposals that wait for a person, with the kind of their item, the signs that they are rated by, and what makes them."""
    return rows(
        db,
        OPEN  # the name of the query; see there
        + "SELECT o.id, i.kind, o.signs, o.confidence, o.model FROM open o JOIN item i ON i.id = o.item_id ORDER BY o.id",
        review=review,
    )


def rate_anew(db: Session, chances: Mapping[int, float]) -> None:
    """Give proposals other chances, but for those that are replaced meanwhile."""
    run(
        db,
        """UPDATE proposal p SET confidence = u.chance FROM unnest(CAST(:ids AS bigint[]), CAST(:chances AS float[])) u(id, chance)
        WHERE p.id = u.id AND p.gone_at IS NULL""",
        ids=list(chances), chances=list(chances.values()),
    )  # fmt: skip


def drop_unanswered(db: Session, review: int, record: int, *, of_model: bool = False) -> None:
    """Proposals from a report of which nobody has said anything are replaced by those of a later reading; only those ``of_model`` when that is asked again."""
    run(
        db,
        """UPDATE proposal p SET gone_at = clock_timestamp() WHERE p.review_id = :review AND p.gone_at IS NULL AND (NOT :of_model OR p.model <> '')
        AND p.copy_id IN (SELECT copy_id FROM placement WHERE record_id = :record)
        AND NOT EXISTS (SELECT 1 FROM proposal_answer a WHERE a.proposal_id = p.id AND a.withdrawn_at IS NULL)""",
        review=review, record=record, of_model=of_model,
    )  # fmt: skip


def read_anew(db: Session, review: int, record: int) -> None:
    """What was proposed from a report belongs to another study now: it is to be read again."""
    drop_unanswered(db, review, record)
    run(
        db,
        """UPDATE report_reading SET version = 0 WHERE review_id = :review AND state <> 'waiting'
        AND copy_id IN (SELECT copy_id FROM placement WHERE record_id = :record)""",
        review=review, record=record,
    )  # fmt: skip


def waiting(db: Session, review: int) -> list[int]:
    """The readings that are still to be done, in the order in which they were asked for."""
    return column(db, "SELECT id FROM report_reading WHERE review_id = :review AND state = 'waiting' ORDER BY id", review=review)


def readings(db: Session, review: int) -> Sequence[Row]:
    """The latest reading of each report: what became of it, and of which file under which version of the codebook."""
    return rows(
        db,
        """SELECT DISTINCT ON (p.record_id) p.record_id, g.state, g.sha256, g.version, g.pages, g.problem, g.at FROM report_reading g
        JOIN placement p ON p.copy_id = g.copy_id WHERE g.review_id = :review ORDER BY p.record_id, g.id DESC""",
        review=review,
    )


def answers_with_signs(db: Session, review: int) -> Sequence[Row]:
    """What people said of proposals, with the signs that each was rated by: what was accepted is right, and what says the same; what was refused
    or passed over for another is not. What a language model proposed has no signs."""
    return rows(
        db,
        """WITH said AS (SELECT p.study_id, p.item_id, p.arm_id, p.outcome_id, p.time_id, max(a.at) AS at FROM proposal p
            JOIN proposal_answer a ON a.proposal_id = p.id AND a.withdrawn_at IS NULL WHERE p.review_id = :review GROUP BY 1, 2, 3, 4, 5
            ORDER BY max(a.at) DESC LIMIT 2000)
        SELECT i.kind, p.signs, EXISTS (SELECT 1 FROM proposal o JOIN proposal_answer y ON y.proposal_id = o.id AND y.withdrawn_at IS NULL AND y.verdict = 'accepted'
            WHERE o.study_id = p.study_id AND o.item_id = p.item_id AND o.arm_id IS NOT DISTINCT FROM p.arm_id AND o.outcome_id IS NOT DISTINCT FROM p.outcome_id
            AND o.time_id IS NOT DISTINCT FROM p.time_id AND o.text = p.text) AS right
        FROM said s
        JOIN proposal p ON p.study_id = s.study_id AND p.item_id = s.item_id AND p.arm_id IS NOT DISTINCT FROM s.arm_id
            AND p.outcome_id IS NOT DISTINCT FROM s.outcome_id AND p.time_id IS NOT DISTINCT FROM s.time_id AND p.gone_at IS NULL AND p.model = ''
        JOIN item i ON i.id = p.item_id ORDER BY p.id""",
        review=review,
    )


def answered_in(db: Session, review: int, stroke: int) -> Sequence[Row]:
    """Proposals that were answered in one stroke, and are still."""
    return rows(
        db,
        """SELECT a.id AS answer, a.verdict, a.account_id, p.study_id, p.item_id, p.arm_id, p.outcome_id, p.time_id FROM proposal_answer a
        JOIN proposal p ON p.id = a.proposal_id WHERE a.review_id = :review AND a.stroke = :stroke AND a.withdrawn_at IS NULL ORDER BY a.id""",
        review=review, stroke=stroke,
    )  # fmt: skip


def counts(db: Session, review: int) -> dict[str, Any]:
    """How many answers there are of each kind, and how many reports wait to be read."""
    found = row(
        db,
        """SELECT count(*) FILTER (WHERE verdict = 'accepted') AS accepted, count(*) FILTER (WHERE verdict = 'changed') AS changed,
        count(DISTINCT stroke) FILTER (WHERE verdict = 'refused') AS refused FROM proposal_answer WHERE review_id = :review AND withdrawn_at IS NULL""",
        review=review,
    )
    assert found is not None
    left = scalar(db, "SELECT count(*) FROM report_reading WHERE review_id = :review AND state = 'waiting'", review=review)
    return {**found, "waiting": int(left)}
