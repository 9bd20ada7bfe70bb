"""Which copies are the same report: rulings, the groups that follow, and the kept records."""

from __future__ import annotations

from sqlalchemy import ARRAY, Column, Index, Text, text
from sqlmodel import Field

from kettlesort.store.base import Moment, Table, json_field, key, moment, reference
from kettlesort.store.gather import Fields


class Ruling(Table, table=True):
    """That two copies are the same report, or different ones; by a rule or by a person. Appended, withdrawn by time."""

    __table_args__ = (
        Index("ix_ruling_left", "left_copy", postgresql_where=text("withdrawn_at IS NULL")),
        Index("ix_ruling_right", "right_copy", postgresql_where=text("withdrawn_at IS NULL")),
    )

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    left_copy: int = reference("copy.id")
    right_copy: int = reference("copy.id")
    same: bool
    by_rule: bool
    score: float | None = None
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    withdrawn_at: Moment | None = moment(null=True)
    withdrawn_by: int | None = reference("account.id", null=True)


class Question(Table, table=True):
    """A doubtful pair that waits for a person."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    left_copy: int = reference("copy.id")
    right_copy: int = reference("copy.id")
    score: float
    later: int = 0


class Placement(Table, table=True):
    """The record that a copy of a taken batch belongs to: the lowest copy of its group."""

    __table_args__ = (Index("ix_placement_review_batch", "review_id", "batch_id"),)

    copy_id: int = reference("copy.id", primary=True)
    review_id: int = reference("review.id")
    batch_id: int = reference("batch.id")
    record_id: int = reference("copy.id", index=True)


class Kept(Fields, table=True):
    """The kept record of a group: the fullest value of each field, ``whose`` it was by copy. Follows from the copies."""

    __tablename__ = "record"

    id: int = reference("copy.id", primary=True)
    review_id: int = reference("review.id", index=True)
    authors: list[str] = Field(default_factory=list, sa_column=Column(ARRAY(Text), nullable=False, server_default="{}"))
    keywords: list[str] = Field(default_factory=list, sa_column=Column(ARRAY(Text), nullable=False, server_default="{}"))
    references: list[str] = Field(default_factory=list, sa_column=Column(ARRAY(Text), nullable=False, server_default="{}"))
    extra: list[list[str]] = json_field([])
    whose: dict[str, int] = json_field({})
