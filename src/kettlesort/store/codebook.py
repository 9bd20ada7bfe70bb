"""The codebook of a review: data items under concepts, the levels that they are asked for, and its versions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import UniqueConstraint
from sqlmodel import Session, col, select

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, one_of, reference
from kettlesort.store.sql import column, row, rows


class Concept(Table, table=True):
    """A concept that data items belong to; ``within_id`` is the broader one of which it is a kind."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    position: int
    name: str
    within_id: int | None = reference("concept.id", null=True)
    removed_at: Moment | None = moment(null=True)


class Item(Table, table=True):
    """A data item of the codebook, asked once for a study or for each combination of levels of the factors ``per``."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    position: int
    name: str
    kind: str
    unit: str = ""
    choices: list[str] = json_field([])
    low: float | None = None
    high: float | None = None
    per: list[str] = json_field([])
    concept_id: int | None = reference("concept.id", null=True)
    instructions: str = ""
    examples: str = ""
    removed_at: Moment | None = moment(null=True)


class Level(Table, table=True):
    """An arm, an outcome or a time point: of all studies, or of one that has it for itself."""

    __table_args__ = (one_of("factor", "arm", "outcome", "time"),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    study_id: int | None = reference("study.id", null=True, index=True)
    factor: str
    position: int = 0
    name: str
    words: list[str] = json_field([])
    removed_at: Moment | None = moment(null=True)


class CodebookVersion(Table, table=True):
    """The codebook as it stood from then on."""

    __tablename__ = "codebook_version"
    __table_args__ = (UniqueConstraint("review_id", "number"),)

    id: int | None = key()
    review_id: int = reference("review.id")
    number: int
    content: dict[str, Any] = json_field({})
    """``items``, ``concepts`` and ``levels``, each a list of objects with their ids."""
    account_id: int = reference("account.id")
    at: Moment | None = moment()


def items(db: Session, review: int) -> Sequence[Item]:
    """The data items in their order."""
    return db.exec(
        select(Item).where(Item.review_id == review, col(Item.removed_at).is_(None)).order_by(col(Item.position), col(Item.id))
    ).all()


def concepts(db: Session, review: int) -> Sequence[Concept]:
    """The concepts in their order."""
    return db.exec(
        select(Concept)
        .where(Concept.review_id == review, col(Concept.removed_at).is_(None))
        .order_by(col(Concept.position), col(Concept.id))
    ).all()


def levels(db: Session, review: int) -> Sequence[Level]:
    """The levels of all studies and of single ones, in their order."""
    return db.exec(
        select(Level)
        .where(Level.review_id == review, col(Level.removed_at).is_(None))
        .order_by(col(Level.factor), col(Level.study_id).is_not(None), col(Level.position), col(Level.id))
    ).all()


def in_use(db: Session, review: int) -> dict[int, int]:
    """How many values stand for each item that has any."""
    return {
        row["item_id"]: row["n"]
        for row in rows(
            db,
            """SELECT item_id, count(*) AS n FROM (SELECT DISTINCT ON (study_id, item_id, arm_id, outcome_id, time_id) item_id, text FROM charted
            WHERE review_id = :review ORDER BY study_id, item_id, arm_id, outcome_id, time_id, id DESC) v WHERE text <> '' GROUP BY item_id""",
            review=review,
        )
    }


def levels_in_use(db: Session, review: int) -> set[int]:
    """The levels for which a value stands."""
    return set(
        column(
            db,
            """SELECT DISTINCT unnest(ARRAY[arm_id, outcome_id, time_id]) FROM (
            SELECT DISTINCT ON (study_id, item_id, arm_id, outcome_id, time_id) arm_id, outcome_id, time_id, text FROM charted
            WHERE review_id = :review ORDER BY study_id, item_id, arm_id, outcome_id, time_id, id DESC) v WHERE text <> ''""",
            review=review,
        )
    )


def latest_version(db: Session, review: int) -> int:
    """The number of the version that holds; 0 before the first."""
    found = row(db, "SELECT max(number) AS n FROM codebook_version WHERE review_id = :review", review=review)
    return int(found["n"] or 0) if found else 0


def versions(db: Session, review: int) -> Sequence[Row]:
    """All versions, the newest first."""
    return rows(
        db,
        """SELECT v.number, v.content, v.at, a.full_name AS by FROM codebook_version v JOIN account a ON a.id = v.account_id
        WHERE v.review_id = :review ORDER BY v.number DESC""",
        review=review,
    )
