"""Groups of records that are alike: each grouping, its groups, and their members."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from sqlalchemy import Column, Index
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, key, moment, one_of, reference
from kettlesort.store.sql import copying, rows, run


class Grouping(Table, table=True):
    """The undecided records of a moment grouped by some settings: how many ``groups`` were wanted, of words in at least ``rarest`` records and at most a share of them."""

    __table_args__ = (one_of("state", "waiting", "ready", "failed"),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    groups: int
    rarest: int
    commonest: float
    state: str = "waiting"
    failure: str = ""
    records: int = 0
    without_abstract: int = 0
    known: int = 0
    account_id: int = reference("account.id")
    at: Moment | None = moment()


class AlikeGroup(Table, table=True):
    """A group: its words, each with its weight, and how near its members are to what is known; ``narrowing_id`` if it was set aside as a whole."""

    __tablename__ = "alike_group"
    __table_args__ = (Index("ix_alike_group_grouping", "grouping_id", "number"),)

    id: int | None = key()
    grouping_id: int = reference("grouping.id")
    number: int
    words: Any = Field(sa_column=Column(JSONB, nullable=False))
    near: float | None = None
    narrowing_id: int | None = reference("narrowing.id", null=True)


class Grouped(Table, table=True):
    """A record in a group, at its ``place`` there: the nearest to what is known first. It hangs on a copy like a verdict."""

    __table_args__ = (Index("ix_grouped_copy_id", "copy_id"),)

    group_id: int = reference("alike_group.id", primary=True)
    copy_id: int = reference("copy.id", primary=True)
    place: int
    closeness: float


def texts_to_group(db: Session, review: int) -> Sequence[Row]:
    """Undecided records with an abstract, and those that belong: id, title, abstract, and whether it is ``known``."""
    return rows(
        db,
        """SELECT r.id, r.title, r.abstract, (s.seed OR s.first = 'include') AS known, s.first = 'open' AND r.abstract <> '' AS open FROM standing s JOIN record r ON r.id = s.record_id
        WHERE s.review_id = :review AND (s.seed OR s.first = 'include' OR (s.first = 'open' AND r.abstract <> '')) ORDER BY r.id""",
        review=review,
    )


def add_group(db: Session, made: AlikeGroup, members: Iterable[tuple[int, float]]) -> None:
    """Write a group down with its members, each with its closeness, in their sequence."""
    db.add(made)
    db.flush()
    with copying(db, "grouped", ("group_id", "copy_id", "place", "closeness")) as out:
        for place, (record, closeness) in enumerate(members, 1):
            out.write_row((made.id, record, place, closeness))


def groupings(db: Session, review: int) -> Sequence[Row]:
    """All groupings, the newest first, with how many of their records were set aside by groups and still are."""
    return rows(
        db,
        """SELECT g.*, a.full_name AS by, (SELECT count(*) FROM alike_group k WHERE k.grouping_id = g.id) AS made,
        (SELECT count(*) FROM alike_group k JOIN standing s ON s.narrowing_id = k.narrowing_id WHERE k.grouping_id = g.id AND s.review_id = :review) AS aside
        FROM grouping g JOIN account a ON a.id = g.account_id WHERE g.review_id = :review ORDER BY g.id DESC LIMIT 200""",
        review=review,
    )


def groups_of(db: Session, review: int, grouping: int) -> Sequence[Row]:
    """The groups of a grouping, the nearest first, with where their members stand now."""
    return rows(
        db,
        """SELECT k.id, k.number, k.words, k.near, CASE WHEN n.withdrawn_at IS NULL THEN k.narrowing_id END AS narrowing_id, count(*) AS size, count(*) FILTER (WHERE s.first = 'open') AS open,
        count(*) FILTER (WHERE s.first = 'aside') AS aside, count(*) FILTER (WHERE s.first = 'include') AS included, count(*) FILTER (WHERE s.first = 'exclude') AS excluded
        FROM alike_group k JOIN grouping g ON g.id = k.grouping_id JOIN grouped m ON m.group_id = k.id JOIN placement p ON p.copy_id = m.copy_id
        JOIN standing s ON s.record_id = p.record_id LEFT JOIN narrowing n ON n.id = k.narrowing_id
        WHERE g.review_id = :review AND g.id = :grouping GROUP BY k.id, n.id ORDER BY k.number""",
        review=review, grouping=grouping,
    )  # fmt: skip


def nearest_open(db: Session, group: int, most: int) -> Sequence[Row]:
    """The undecided members of a group that are nearest to what is known."""
    return rows(
        db,
        """SELECT DISTINCT ON (m.place) r.id, r.title, r.abstract, r.year, m.closeness FROM grouped m JOIN placement p ON p.copy_id = m.copy_id
        JOIN record r ON r.id = p.record_id JOIN standing s ON s.record_id = r.id WHERE m.group_id = :group AND s.first = 'open' ORDER BY m.place LIMIT :most""",
        group=group, most=most,
    )  # fmt: skip


def open_members(db: Session, group: int) -> Sequence[Row]:
    """The undecided members of a group; ``touched`` if somebody has decided on one."""
    return rows(
        db,
        """SELECT DISTINCT s.record_id AS id, EXISTS (SELECT 1 FROM placement q JOIN verdict v ON v.copy_id = q.copy_id WHERE q.record_id = s.record_id
            AND v.pass_number = 1 AND v.withdrawn_at IS NULL) AS touched
        FROM grouped m JOIN placement p ON p.copy_id = m.copy_id JOIN standing s ON s.record_id = p.record_id
        WHERE m.group_id = :group AND s.first = 'open' AND NOT s.seed ORDER BY 1""",
        group=group,
    )


def words_of_group(db: Session, review: int, group: int) -> list[str]:
    """The words of a group; none if the review has no such group."""
    found = rows(
        db,
        "SELECT k.words FROM alike_group k JOIN grouping g ON g.id = k.grouping_id WHERE g.review_id = :review AND k.id = :group",
        review=review, group=group,
    )  # fmt: skip
    return [word for word, _ in found[0]["words"]] if found else []


def forget_groups(db: Session, grouping: int) -> None:
    """Forget the groups of a grouping that is worked out again."""
    run(db, "DELETE FROM grouped WHERE group_id IN (SELECT id FROM alike_group WHERE grouping_id = :grouping)", grouping=grouping)
    run(db, "DELETE FROM alike_group WHERE grouping_id = :grouping", grouping=grouping)
