"""Reviews, their protocol and their members."""

from __future__ import annotations

from datetime import date
from typing import Any

from sqlalchemy import BigInteger, Index
from sqlmodel import Field

from kettlesort.store.base import Moment, Table, json_field, key, moment, one_of, reference


class Review(Table, table=True):
    """One review. Dates of publication are limited by year, both ends included. An archived one is only out of sight.

    ``updates_from`` is the date of the last search of the earlier review that it goes on from. ``texts`` counts how often
    its kept records were written, so that whoever holds something made from them knows whether it still holds.
    """

    id: int | None = key()
    title: str
    question: str = ""
    year_from: int | None = None
    year_to: int | None = None
    languages: str = ""
    framework: str = "free"
    types: str = ""
    texts: int = Field(default=0, sa_type=BigInteger)
    update_of: str = ""
    updates_from: date | None = None
    registered_in: str = ""
    registration_number: str = ""
    registered_on: date | None = None
    created_at: Moment | None = moment()
    archived_at: Moment | None = moment(null=True)


class Member(Table, table=True):
    """An account's part in a review: lead, reviewer or observer. A removed member's work stays."""

    __table_args__ = (
        Index("ix_member_account_id", "account_id"),
        one_of("role", "lead", "reviewer", "observer"),
    )

    review_id: int = reference("review.id", primary=True)
    account_id: int = reference("account.id", primary=True)
    role: str
    joined_at: Moment | None = moment()
    removed_at: Moment | None = moment(null=True)


class Element(Table, table=True):
    """An element of the question's framework, with its terms."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    position: int
    label: str
    terms: list[str] = json_field([])


class Criterion(Table, table=True):
    """A rule of eligibility; one that has been used as a reason stays when it is removed."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    position: int
    name: str
    wording: str = ""
    first: bool = True
    second: bool = True
    removed_at: Moment | None = moment(null=True)


class PlannedSource(Table, table=True):
    """A source that the protocol says will be searched."""

    __tablename__ = "planned_source"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    position: int
    name: str = Field()
    kind: str = "database"


class Amendment(Table, table=True):
    """A version of a review's protocol as it stood from then on, with who changed it and why. Never changed."""

    __table_args__ = (Index("ix_amendment_review_version", "review_id", "version", unique=True),)

    id: int | None = key()
    review_id: int = reference("review.id")
    account_id: int = reference("account.id")
    version: int
    reason: str = ""
    protocol: dict[str, Any] = json_field({})
    at: Moment | None = moment()
