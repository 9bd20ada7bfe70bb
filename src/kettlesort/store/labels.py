"""Labels that a team gives to files and records. A label hangs on copies, so that it stays with the right record."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import BigInteger, Column, Index
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, key, moment, reference
from kettlesort.store.sql import column, rows, scalar


class Label(Table, table=True):
    """A name that a team gives to some copies, as "hand search, autumn"."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    name: str
    account_id: int = reference("account.id")
    made_at: Moment | None = moment()
    removed_at: Moment | None = moment(null=True)


class Labelled(Table, table=True):
    """A copy with a label."""

    __table_args__ = (Index("ix_labelled_copy_id", "copy_id"),)

    label_id: int = reference("label.id", primary=True)
    copy_id: int = reference("copy.id", primary=True)
    account_id: int = Field(default=0, sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    """Who put it on this record; 0 where it came with a file."""


def labels(db: Session, review: int) -> Sequence[Row]:
    """The labels of a review, with how many records carry each."""
    return rows(
        db,
        """SELECT l.id, l.name, l.made_at, a.full_name AS by, (SELECT count(DISTINCT p.record_id) FROM seen_labelled d JOIN placement p ON p.copy_id = d.copy_id WHERE d.label_id = l.id) AS records
        FROM label l JOIN account a ON a.id = l.account_id WHERE l.review_id = :review AND l.removed_at IS NULL ORDER BY l.name""",
        review=review,
    )


def names_of_labels(db: Session, review: int) -> dict[str, str]:
    """The names of a review's labels by their numbers, in the order of their names."""
    found = rows(db, "SELECT id, name FROM label WHERE review_id = :review AND removed_at IS NULL ORDER BY name", review=review)
    return {str(row["id"]): row["name"] for row in found}


def labels_of(db: Session, record: int) -> Sequence[Row]:
    """The labels of a record's copies."""
    return rows(
        db,
        """SELECT DISTINCT l.id, l.name FROM placement p JOIN seen_labelled d ON d.copy_id = p.copy_id JOIN label l ON l.id = d.label_id
        WHERE p.record_id = :record AND l.removed_at IS NULL ORDER BY l.name""",
        record=record,
    )


def named(db: Session, review: int, name: str) -> int | None:
    """The label of a name, in capitals or not."""
    return scalar(  # type: ignore[no-any-return]
        db, "SELECT id FROM label WHERE review_id = :review AND lower(name) = lower(:name) AND removed_at IS NULL", review=review, name=name
    )


def records_here(db: Session, review: int, records: Sequence[int]) -> list[int]:
    """Those of some records that are this review's."""
    return column(
        db, "SELECT id FROM record WHERE review_id = :review AND id = ANY(CAST(:records AS bigint[]))", review=review, records=list(records)
    )


def put(db: Session, label: int, copies: Sequence[int], account: int = 0) -> list[int]:
    """Label copies, as an ``account`` or as they came; those that, as far as the viewer sees, had not got it."""
    found = rows(
        db,
        """INSERT INTO labelled (label_id, copy_id, account_id) SELECT :label, u, :account FROM unnest(CAST(:copies AS bigint[])) u
        WHERE NOT EXISTS (SELECT 1 FROM seen_labelled d WHERE d.label_id = :label AND d.copy_id = u) ON CONFLICT DO NOTHING RETURNING copy_id""",
        label=label, copies=list(copies), account=account,
    )  # fmt: skip
    return [row["copy_id"] for row in found]


def take(db: Session, label: int, copies: Sequence[int]) -> list[int]:
    """Take a label off copies, as far as the viewer sees it on them; those that had it."""
    found = rows(
        db,
        """DELETE FROM labelled d USING seen_labelled x WHERE d.label_id = :label AND d.copy_id = ANY(CAST(:copies AS bigint[]))
        AND x.label_id = d.label_id AND x.copy_id = d.copy_id AND x.account_id = d.account_id RETURNING d.copy_id""",
        label=label, copies=list(copies),
    )  # fmt: skip
    return sorted({row["copy_id"] for row in found})


def ours(db: Session, review: int, copies: Sequence[int]) -> list[int]:
    """Those of some copies that are this review's."""
    found = rows(
        db, "SELECT id FROM copy WHERE review_id = :review AND id = ANY(CAST(:copies AS bigint[]))", review=review, copies=list(copies)
    )
    return [row["id"] for row in found]


def with_their_records(db: Session, review: int, copies: Sequence[int]) -> list[int]:
    """All copies of the records that some copies belong to."""
    found = rows(
        db,
        """SELECT DISTINCT q.copy_id FROM placement p JOIN placement q ON q.record_id = p.record_id
        WHERE p.review_id = :review AND p.copy_id = ANY(CAST(:copies AS bigint[]))""",
        review=review, copies=list(copies),
    )  # fmt: skip
    return [row["copy_id"] for row in found]
