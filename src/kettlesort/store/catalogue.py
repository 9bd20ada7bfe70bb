"""Connected catalogues."""

from __future__ import annotations

from sqlalchemy import Column, Index, String
from sqlmodel import Field

from kettlesort.store.base import Moment, Table, key, moment, one_of, reference


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
