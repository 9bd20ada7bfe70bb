"""Reviews, their protocol and their members."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from typing import Any

from sqlalchemy import BigInteger, ColumnElement, Index, select
from sqlalchemy import Table as SqlTable
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, one_of, reference
from kettlesort.store.sql import column, rows, run, scalar


class Review(Table, table=True):
    """One review. Dates of publication are limited by year, both ends included. An archived one is only out of sight.

    ``updates_from`` is the date of the last search of the earlier review that it goes on from. ``texts`` counts how often its kept records
    were written, so that whoever holds something made from them knows whether it still holds. A ``made_up`` one holds the demo's data, to play in. With ``language_model``, a lead lets
    what its reports say be sent to the language model that this server knows.
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
    made_up: bool = False
    language_model: bool = False
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


def lock(db: Session, review: int) -> None:
    """Wait until no other transaction has locked this review, and hold it until this one ends."""
    scalar(db, "SELECT pg_advisory_xact_lock(71, CAST(:review AS int))", review=review)


def written(db: Session, review: int) -> None:
    """Kept records of a review were written: what was made from them holds no longer."""
    run(db, "UPDATE review SET texts = texts + 1 WHERE id = :review", review=review)


def reviews_of(db: Session, account: int) -> Sequence[Row]:
    """The reviews that an account belongs to, the one that changed last first, at most 500."""
    return rows(
        db,
        """SELECT r.id, r.title, r.question, m.role, r.archived_at IS NOT NULL AS archived, r.made_up,
        (SELECT max(e.at) FROM event e WHERE e.review_id = r.id) AS changed_at
        FROM member m JOIN review r ON r.id = m.review_id WHERE m.account_id = :account AND m.removed_at IS NULL
        ORDER BY changed_at DESC NULLS LAST, r.id DESC LIMIT 500""",
        account=account,
    )


def made_up_of(db: Session, account: int) -> int:
    """How many made-up reviews of an account are not thrown away."""
    return int(
        scalar(
            db,
            """SELECT count(*) FROM review r JOIN member m ON m.review_id = r.id
            WHERE r.made_up AND r.archived_at IS NULL AND m.account_id = :account AND m.role = 'lead' AND m.removed_at IS NULL""",
            account=account,
        )
    )


def mark_made_up(db: Session, review: int) -> None:
    """A review is made up from now on."""
    run(db, "UPDATE review SET made_up = TRUE WHERE id = :review", review=review)


def thrown_away(db: Session, before: datetime) -> list[int]:
    """Made-up reviews that were thrown away before a moment."""
    return column(db, "SELECT id FROM review WHERE made_up AND archived_at < :before ORDER BY id", before=before)


def forget(db: Session, review: int) -> None:
    """Delete a made-up review with every row that belongs to it; ValueError for any other review."""
    if not scalar(db, "SELECT made_up FROM review WHERE id = :review", review=review):
        raise ValueError(f"review {review} is not made up")
    for table in reversed(Table.metadata.sorted_tables):
        inside = _inside(table, review)
        if inside is not None:
            db.execute(table.delete().where(inside))
    run(db, "DELETE FROM review WHERE id = :review", review=review)


def _inside(table: SqlTable, review: int) -> ColumnElement[bool] | None:
    """Which rows of a table belong to a review: by its number, or by a row that they refer to; None for tables of no review."""
    if "review_id" in table.c:
        return table.c.review_id == review
    for held in table.c:
        for key_ in held.foreign_keys:
            if key_.column.table is not table and (inside := _inside(key_.column.table, review)) is not None:
                return held.in_(select(key_.column).where(inside))
    return None


def members(db: Session, review: int) -> Sequence[Row]:
    """Everybody who is or was a member, with how much they decided."""
    return rows(
        db,
        """SELECT a.id, a.name, a.full_name, m.role, m.joined_at, m.removed_at,
        (SELECT count(*) FROM seen_verdict v WHERE v.review_id = :review AND v.account_id = a.id AND v.withdrawn_at IS NULL) AS decisions
        FROM member m JOIN account a ON a.id = m.account_id WHERE m.review_id = :review ORDER BY m.removed_at NULLS FIRST, m.joined_at, a.id""",
        review=review,
    )


def team(db: Session, review: int) -> Sequence[Row]:
    """The members, and whether each has a page of the review open."""
    return rows(
        db,
        """SELECT a.id, a.full_name, m.role, coalesce(p.seen_at > now() - interval '40 seconds', FALSE) AS here FROM member m JOIN account a ON a.id = m.account_id
        LEFT JOIN presence p ON p.review_id = m.review_id AND p.account_id = a.id WHERE m.review_id = :review AND m.removed_at IS NULL
        ORDER BY m.joined_at, a.id""",
        review=review,
    )


def be_seen(db: Session, review: int, account: int) -> None:
    """An account has a page of the review open now."""
    run(
        db,
        """INSERT INTO presence (review_id, account_id, seen_at) VALUES (:review, :account, clock_timestamp())
        ON CONFLICT (review_id, account_id) DO UPDATE SET seen_at = clock_timestamp()""",
        review=review, account=account,
    )  # fmt: skip


def other_leads(db: Session, review: int, account: int) -> int:
    """How many lead a review besides an account."""
    return int(
        scalar(
            db,
            "SELECT count(*) FROM member WHERE review_id = :review AND role = 'lead' AND removed_at IS NULL AND account_id <> :account",
            review=review, account=account,
        )
    )  # fmt: skip


def criteria_named(db: Session, review: int) -> frozenset[int]:
    """The criteria that verdicts in force name."""
    return frozenset(
        column(
            db,
            "SELECT DISTINCT criterion_id FROM seen_verdict WHERE review_id = :review AND withdrawn_at IS NULL AND criterion_id IS NOT NULL",
            review=review,
        )
    )


def excluded_by(db: Session, review: int) -> Sequence[Row]:
    """How many records each criterion excludes in the ``first`` pass, and how many full texts in the ``second``."""
    return rows(
        db,
        """SELECT c.id AS criterion, count(*) FILTER (WHERE s.first = 'exclude' AND s.first_criterion = c.id) AS first,
            count(*) FILTER (WHERE s.first = 'include' AND s.fulltext = 'obtained' AND s.second = 'exclude' AND s.second_criterion = c.id) AS second
        FROM criterion c JOIN standing s ON s.review_id = c.review_id AND c.id IN (s.first_criterion, s.second_criterion)
        WHERE c.review_id = :review GROUP BY c.id ORDER BY c.id""",
        review=review,
    )


def names_of_criteria(db: Session, review: int) -> list[str]:
    """The names of all criteria that a review has or had, those in force first, in their order."""
    return column(db, "SELECT name FROM criterion WHERE review_id = :review ORDER BY removed_at NULLS FIRST, position", review=review)


def version(db: Session, review: int) -> int:
    """The number of the protocol's latest version."""
    return int(scalar(db, "SELECT coalesce(max(version), 0) FROM amendment WHERE review_id = :review", review=review))


def judged(db: Session, review: int) -> bool:
    """Whether any record was ever judged."""
    return bool(scalar(db, "SELECT EXISTS (SELECT 1 FROM verdict WHERE review_id = :review)", review=review))


def versions(db: Session, review: int) -> Sequence[Row]:
    """The versions of the protocol, oldest first, with who made each."""
    return rows(
        db,
        """SELECT m.version, m.at, m.reason, m.protocol, a.full_name AS by FROM amendment m JOIN account a ON a.id = m.account_id
        WHERE m.review_id = :review ORDER BY m.version""",
        review=review,
    )


def forget_elements(db: Session, review: int) -> None:
    """The elements of the question are written anew."""
    run(db, "DELETE FROM element WHERE review_id = :review", review=review)


def forget_sources(db: Session, review: int) -> None:
    """The planned sources are written anew."""
    run(db, "DELETE FROM planned_source WHERE review_id = :review", review=review)
