"""The history of a review."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Column, Index
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field

from kettlesort.store.base import Moment, Table, key, moment, reference


class Event(Table, table=True):
    """Who changed what, when, from what, to what."""

    __table_args__ = (Index("ix_event_review", "review_id", "id"),)

    id: int | None = key()
    review_id: int = reference("review.id")
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    kind: str
    subject: str = ""
    before: Any = Field(default=None, sa_column=Column(JSONB, nullable=True))
    after: Any = Field(default=None, sa_column=Column(JSONB, nullable=True))
