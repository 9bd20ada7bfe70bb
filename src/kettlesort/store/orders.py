"""Orders of a review's records other than that by closeness: shuffled, by year, by a question, and the like."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any, NamedTuple

from sqlalchemy import BigInteger, Index
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, one_of, reference
from kettlesort.store.ranking import PLACED
from kettlesort.store.sql import copying, row, rows, run

KINDS = ("shuffled", "newest", "oldest", "unsure", "question", "alike", "cited")


class OtherOrder(Table, table=True):
    """An order that somebody asked for. ``said`` is what it follows: a seed, a question, or records."""

    __tablename__ = "other_order"
    __table_args__ = (one_of("kind", *KINDS), one_of("state", "waiting", "ready", "failed"))

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    kind: str
    said: dict[str, Any] = json_field({})
    state: str = "waiting"
    failure: str = ""
    account_id: int = reference("account.id")
    at: Moment | None = moment()


class OtherPlace(Table, table=True):
    """The place of a record in such an order, from 1, its score there, and where in its abstract the sentence stands that speaks most to a question."""

    __tablename__ = "other_place"
    __table_args__ = (Index("ix_other_place_record", "record_id", "order_id"),)

    order_id: int = reference("other_order.id", primary=True)
    rank: int = Field(primary_key=True)
    record_id: int = Field(sa_type=BigInteger)
    score: float | None = None
    begin: int = 0
    end: int = 0


class Placed(NamedTuple):
    """A record in its sequence."""

    record: int
    score: float | None = None
    begin: int = 0
    end: int = 0


def write_places(db: Session, order: int, places: Iterable[Placed]) -> None:
    """Write the sequence of an order, in place of what was there."""
    run(db, "DELETE FROM other_place WHERE order_id = :order", order=order)
    with copying(db, "other_place", ("order_id", "rank", "record_id", "score", "begin", "end")) as out:
        for rank, place in enumerate(places, 1):
            out.write_row((order, rank, *place))


def orders(db: Session, review: int) -> Sequence[Row]:
    """The orders that were asked for last, the newest first."""
    return rows(
        db,
        """SELECT o.id, o.kind, o.said, o.state, o.failure, o.at, a.full_name AS by FROM other_order o JOIN account a ON a.id = o.account_id
        WHERE o.review_id = :review ORDER BY o.id DESC LIMIT 20""",
        review=review,
    )


def order_here(db: Session, review: int, order: int) -> Row | None:
    """One order of a review."""
    return row(
        db, "SELECT id, kind, said, state, at FROM other_order WHERE review_id = :review AND id = :order", review=review, order=order
    )


def sequence(db: Session, order: int) -> Sequence[Row]:
    """The records of an order in their sequence, with their scores."""
    return rows(db, "SELECT record_id, score FROM other_place WHERE order_id = :order ORDER BY rank", order=order)


def spoken_in(db: Session, order: int, records: Sequence[int]) -> dict[int, Row]:
    """Score and sentence of some records in an order."""
    found = rows(
        db,
        'SELECT record_id, rank, score, begin, "end" FROM other_place WHERE order_id = :order AND record_id = ANY(CAST(:records AS bigint[]))',
        order=order, records=list(records),
    )  # fmt: skip
    return {row["record_id"]: row for row in found}


def by_year(db: Session, review: int, *, newest: bool) -> list[Placed]:
    """All records by year, those without one last, among equals the closest first."""
    found = rows(
        db,
        f"""SELECT r.id FROM record r {PLACED} WHERE r.review_id = :review ORDER BY r.year {"DESC" if newest else "ASC"} NULLS LAST, k.rank NULLS LAST, r.id""",
        review=review,
    )
    return [Placed(row["id"]) for row in found]


def closeness(db: Session, review: int) -> Sequence[Row]:
    """How close each record is in the latest order, with what was decided first."""
    return rows(
        db,
        """SELECT s.record_id, s.first, k.closeness FROM standing s JOIN ranking o ON o.review_id = :review
        JOIN place k ON k.record_id = s.record_id AND k.version = o.version AND k.review_id = :review WHERE s.review_id = :review ORDER BY k.rank""",
        review=review,
    )
