"""The order of a review's records by closeness, and why the next ones stand where they do."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from typing import Any, NamedTuple

from sqlalchemy import BigInteger, Column, Index
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, moment, reference
from kettlesort.store.sql import copying, row, rows, run


class Order(Table, table=True):
    """The latest order of a review's records by closeness: its version, and from how many decisions and seeds it was learnt. The places are `Place`."""

    __tablename__ = "ranking"

    review_id: int = reference("review.id", primary=True)
    version: int = Field(default=0, sa_type=BigInteger)
    made_at: Moment | None = moment()
    decisions: int


class Place(Table, table=True):
    """The place of a record in an order, from 1, how close it is, and for the next undecided ones `Why`. An order is written as a whole under a new version."""

    __table_args__ = (Index("ix_place_record_id", "record_id"),)

    review_id: int = reference("review.id", primary=True)
    version: int = Field(primary_key=True, sa_type=BigInteger)
    rank: int = Field(primary_key=True)
    record_id: int = Field(sa_type=BigInteger)
    closeness: float
    why: dict[str, Any] | None = Field(default=None, sa_column=Column(JSONB, nullable=True))


PLACED = """LEFT JOIN ranking o ON o.review_id = :review
    LEFT JOIN place k ON k.record_id = r.id AND k.version = o.version AND k.review_id = :review"""
"""Joins to ``r``, a record, its place ``k`` in the latest order by closeness."""


class Why(NamedTuple):
    """What adds up to a record's score: ``words`` with their shares and the forms that stand in the record, the ``rest`` of them, the ``sense`` of the
    whole, where every record has its ``start``, and what the records most ``alike`` lend; and the decided ones that are ``nearest``, with their likeness. ``chance`` of belonging with its band and the
    numbers of included and excluded records that it was learnt from; None while it cannot be told.
    """

    words: list[tuple[str, float, list[str]]]
    rest: float
    sense: float
    alike: list[tuple[int, float]]
    nearest: list[tuple[int, float]]
    chance: tuple[float, float, float, int, int] | None = None
    start: float = 0.0


class Ranked(NamedTuple):
    """A record, its closeness, and why it stands there."""

    record: int
    closeness: float
    why: Why | None


class Decided(NamedTuple):
    """Records that belong (seeds, and included in the last pass that has a verdict), excluded on title and abstract, and excluded by their full text."""

    belong: list[int]
    excluded: list[int]
    by_full_text: list[int]


def decided(db: Session, review: int) -> Decided:
    """What is decided in a review."""
    out = Decided([], [], [])
    for entry in rows(
        db,
        """SELECT record_id, CASE WHEN seed OR second = 'include' OR (second <> 'exclude' AND first = 'include') THEN 0 WHEN first = 'exclude' THEN 1 ELSE 2 END AS told
        FROM standing WHERE review_id = :review AND (seed OR first IN ('include', 'exclude'))""",
        review=review,
    ):
        out[entry["told"]].append(entry["record_id"])
    return out


def decided_in_time(db: Session, review: int) -> Sequence[Row]:
    """Decided records but for the seeds, in the order in which they were first read: whether they belong, and whether their full text excluded them."""
    return rows(
        db,
        """SELECT s.record_id, s.second = 'include' OR (s.second <> 'exclude' AND s.first = 'include') AS belongs, s.first = 'include' AND s.second = 'exclude' AS lesser
        FROM standing s JOIN placement p ON p.record_id = s.record_id JOIN verdict v ON v.copy_id = p.copy_id
        WHERE s.review_id = :review AND NOT s.seed AND s.first IN ('include', 'exclude') AND v.withdrawn_at IS NULL
        GROUP BY s.record_id, s.first, s.second ORDER BY min(v.id)""",
        review=review,
    )


def order_of(db: Session, review: int) -> Row | None:
    """What is known of the latest order, but for its places."""
    return row(db, "SELECT version, made_at, decisions FROM ranking WHERE review_id = :review", review=review)


def titles_of(db: Session, review: int, records: Sequence[int]) -> dict[int, Row]:
    """Titles, and how the records were decided, by record."""
    found = rows(
        db,
        """SELECT r.id, r.title, s.first, s.second, s.seed FROM record r JOIN standing s ON s.record_id = r.id
        WHERE r.review_id = :review AND r.id = ANY(CAST(:records AS bigint[]))""",
        review=review, records=list(records),
    )  # fmt: skip
    return {row["id"]: row for row in found}


def write_order(db: Session, review: int, decisions: int, places: Iterable[Ranked]) -> None:
    """Write a new order, the closest first. It takes the place of the one before at once."""
    found = row(db, "SELECT version FROM ranking WHERE review_id = :review FOR UPDATE", review=review)
    version = int(found["version"]) + 1 if found else 1
    with copying(db, "place", ("review_id", "version", "rank", "record_id", "closeness", "why")) as out:
        for rank, (record, closeness, why) in enumerate(places, 1):
            out.write_row((review, version, rank, record, closeness, json.dumps(why._asdict()) if why else None))
    run(
        db,
        """INSERT INTO ranking (review_id, version, made_at, decisions) VALUES (:review, :version, clock_timestamp(), :decisions)
        ON CONFLICT (review_id) DO UPDATE SET version = excluded.version, made_at = excluded.made_at, decisions = excluded.decisions""",
        review=review, version=version, decisions=decisions,
    )  # fmt: skip
    run(db, "DELETE FROM place WHERE review_id = :review AND version < :version", review=review, version=version)
