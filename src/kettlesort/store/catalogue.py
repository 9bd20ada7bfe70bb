"""Connected catalogues."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Column, Index, String
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, key, moment, one_of, reference
from kettlesort.store.sql import rows


class Catalogue(Table, table=True):
    """A catalogue that a team asks: its address, the version of the protocol, the form in which it gives records."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    name: str
    address: str
    version: str
    form: str = Field(sa_column=Column("schema", String, nullable=False))
    removed_at: Moment | None = moment(null=True)


class Schedule(Table, table=True):
    """A query that is run in a catalogue: once, daily, weekly or monthly; ``next_at`` is when it is due."""

    __table_args__ = (
        Index("ix_schedule_search_id", "search_id"),
        one_of("every", "once", "daily", "weekly", "monthly"),
    )

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    search_id: int = reference("search.id")
    catalogue_id: int = reference("catalogue.id")
    query: str
    query_version: int | None = None
    every: str
    next_at: Moment | None = moment(null=True)
    account_id: int = reference("account.id")
    made_at: Moment | None = moment()
    stopped_at: Moment | None = moment(null=True)


def schedules(db: Session, review: int) -> Sequence[Row]:
    """What is planned in a review, with the catalogue and whoever planned it."""
    return rows(
        db,
        """SELECT p.id, p.search_id, p.query, p.query_version, p.every, p.next_at, p.stopped_at, c.name AS catalogue, a.full_name AS by, s.number
        FROM schedule p JOIN catalogue c ON c.id = p.catalogue_id JOIN account a ON a.id = p.account_id JOIN search s ON s.id = p.search_id
        WHERE p.review_id = :review AND s.removed_at IS NULL ORDER BY p.id""",
        review=review,
    )


def records_with(db: Session, review: int, dois: Sequence[str]) -> dict[str, int]:
    """The record of each of these DOIs."""
    found = rows(
        db, "SELECT doi, id FROM record WHERE review_id = :review AND doi = ANY(CAST(:dois AS text[]))", review=review, dois=list(dois)
    )
    return {row["doi"]: row["id"] for row in found}
