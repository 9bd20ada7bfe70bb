"""Verdicts, holds, full texts, the order of records, and where each record stands."""

from __future__ import annotations

from sqlalchemy import ARRAY, BigInteger, Column, Float, Index, text
from sqlmodel import Field

from kettlesort.store.base import Moment, Table, json_field, key, moment, reference


class Verdict(Table, table=True):
    """One person's decision on one record in one pass. Appended; withdrawn by time, never overwritten.

    It hangs on a copy, so that it stays with the right record when groups are joined or split.
    """

    __table_args__ = (
        Index("ix_verdict_copy", "copy_id", "pass_number", postgresql_where=text("withdrawn_at IS NULL")),
        Index("ix_verdict_review_account", "review_id", "account_id"),
    )

    id: int | None = key()
    review_id: int = reference("review.id")
    copy_id: int = reference("copy.id")
    pass_number: int
    account_id: int = reference("account.id")
    verdict: str
    criterion_id: int | None = reference("criterion.id", null=True)
    at: Moment | None = moment()
    withdrawn_at: Moment | None = moment(null=True)
    withdrawn_by: int | None = reference("account.id", null=True)


class Note(Table, table=True):
    """What somebody noted about a record."""

    id: int | None = key()
    review_id: int = reference("review.id")
    copy_id: int = reference("copy.id", index=True)
    account_id: int = reference("account.id")
    text: str
    at: Moment | None = moment()


class Hold(Table, table=True):
    """A record on somebody's desk: nobody else is handed it until then."""

    review_id: int = reference("review.id", primary=True)
    pass_number: int = Field(primary_key=True)
    record_id: int = reference("copy.id", primary=True)
    account_id: int = reference("account.id")
    until: Moment | None = moment()


class FullText(Table, table=True):
    """What became of seeking a full text: sought, obtained or missing. Appended; the latest holds."""

    __tablename__ = "full_text"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    copy_id: int = reference("copy.id", index=True)
    state: str
    reason: str = ""
    sha256: str | None = Field(default=None, foreign_key="blob.sha256")
    filename: str = ""
    account_id: int = reference("account.id")
    at: Moment | None = moment()


class Standing(Table, table=True):
    """Where a record stands in every step; follows from the rows above and is kept in the same transaction."""

    __table_args__ = (Index("ix_standing_review", "review_id", "first", "fulltext", "second"),)

    record_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    review_id: int = reference("review.id")
    main: bool
    seed: bool
    first: str = "open"
    first_criterion: int | None = reference("criterion.id", null=True)
    fulltext: str = "sought"
    second: str = "open"
    second_criterion: int | None = reference("criterion.id", null=True)


class Order(Table, table=True):
    """The latest order of a review's records by closeness, and the weight of each term."""

    __tablename__ = "ranking"

    review_id: int = reference("review.id", primary=True)
    made_at: Moment | None = moment()
    decisions: int
    record_ids: list[int] = Field(sa_column=Column(ARRAY(BigInteger), nullable=False))
    closeness: list[float] = Field(sa_column=Column(ARRAY(Float), nullable=False))
    weights: dict[str, float] = json_field({})
