"""The codebook, studies with their reports, and charted values."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Index
from sqlmodel import Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, reference
from kettlesort.store.sql import column, row, rows, run, scalar


class Item(Table, table=True):
    """A data item of the codebook."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    position: int
    name: str
    kind: str
    unit: str = ""
    choices: list[str] = json_field([])
    instructions: str = ""
    removed_at: Moment | None = moment(null=True)


class Study(Table, table=True):
    """An investigation; its name is that of its first report unless the team gave it one."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    label: str = ""


class StudyReport(Table, table=True):
    """Which study a report, named by a copy of its record, belongs to."""

    __tablename__ = "study_report"

    copy_id: int = reference("copy.id", primary=True)
    review_id: int = reference("review.id", index=True)
    study_id: int = reference("study.id", index=True)


class Value(Table, table=True):
    """A charted value with its quote. Appended; the latest holds, an empty one clears."""

    __table_args__ = (Index("ix_value_item_id", "item_id"),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    study_id: int = reference("study.id", index=True)
    item_id: int = reference("item.id")
    text: str
    quote: str = ""
    page: str = ""
    account_id: int = reference("account.id")
    at: Moment | None = moment()


def ensure_study(db: Session, review: int, record: int) -> None:
    """Give a record a study unless one of its copies has one: that of another report that a person called one of the same study, or its own."""
    there = row(
        db, "SELECT 1 FROM placement p JOIN study_report r ON r.copy_id = p.copy_id WHERE p.record_id = :record LIMIT 1", record=record
    )
    if there is None:
        made = row(
            db,
            """SELECT x.study_id AS id FROM ruling u JOIN placement p ON p.copy_id IN (u.left_copy, u.right_copy)
            JOIN placement o ON o.copy_id = CASE WHEN p.copy_id = u.left_copy THEN u.right_copy ELSE u.left_copy END
            JOIN placement c ON c.record_id = o.record_id JOIN study_report x ON x.copy_id = c.copy_id
            WHERE p.record_id = :record AND u.related AND u.withdrawn_at IS NULL ORDER BY x.study_id LIMIT 1""",
            record=record,
        ) or row(db, "INSERT INTO study (review_id, label) VALUES (:review, '') RETURNING id", review=review)
        assert made is not None
        run(
            db,
            "INSERT INTO study_report (copy_id, review_id, study_id) VALUES (:record, :review, :study)",
            record=record,
            review=review,
            study=made["id"],
        )


def reports(db: Session, review: int) -> Sequence[Row]:
    """Included reports with their studies: of several studies that joined copies had, the first."""
    return rows(
        db,
        """SELECT DISTINCT ON (s.record_id) s.record_id, r.title, r.authors, r.year, x.study_id, t.label
        FROM standing s JOIN record r ON r.id = s.record_id JOIN placement p ON p.record_id = s.record_id
        JOIN study_report x ON x.copy_id = p.copy_id JOIN study t ON t.id = x.study_id
        WHERE s.review_id = :review AND s.first = 'include' AND s.fulltext = 'obtained' AND s.second = 'include'
        ORDER BY s.record_id, x.study_id""",
        review=review,
    )


def values(db: Session, review: int) -> Sequence[Row]:
    """The value that holds for each study and item."""
    return rows(
        db,
        """SELECT DISTINCT ON (v.study_id, v.item_id) v.study_id, v.item_id, v.text, v.quote, v.page, v.at, a.full_name AS by
        FROM value v JOIN account a ON a.id = v.account_id WHERE v.review_id = :review ORDER BY v.study_id, v.item_id, v.id DESC""",
        review=review,
    )


def value_history(db: Session, review: int, study: int, item: int) -> Sequence[Row]:
    """Every value that a study and item ever had, newest first."""
    return rows(
        db,
        """SELECT v.text, v.quote, v.page, v.at, a.full_name AS by FROM value v JOIN account a ON a.id = v.account_id
        WHERE v.review_id = :review AND v.study_id = :study AND v.item_id = :item ORDER BY v.id DESC""",
        review=review, study=study, item=item,
    )  # fmt: skip


def charted_studies(db: Session, review: int) -> int:
    """Included studies with a value for every data item."""
    found = row(
        db,
        """WITH items AS (SELECT id FROM item WHERE review_id = :review AND removed_at IS NULL),
        latest AS (SELECT DISTINCT ON (study_id, item_id) study_id, item_id, text FROM value WHERE review_id = :review
            AND item_id IN (SELECT id FROM items) ORDER BY study_id, item_id, id DESC),
        whole AS (SELECT study_id FROM latest WHERE text <> '' GROUP BY study_id HAVING count(*) = (SELECT count(*) FROM items))
        SELECT count(DISTINCT x.study_id) AS n FROM standing s JOIN placement p ON p.record_id = s.record_id
        JOIN study_report x ON x.copy_id = p.copy_id JOIN whole w ON w.study_id = x.study_id
        WHERE s.review_id = :review AND s.first = 'include' AND s.fulltext = 'obtained' AND s.second = 'include'""",
        review=review,
    )
    return int(found["n"]) if found else 0


def has_values(db: Session, item: int) -> bool:
    """Whether anything was ever charted for an item."""
    return bool(scalar(db, "SELECT EXISTS (SELECT 1 FROM value WHERE item_id = :item AND text <> '')", item=item))


def studies(db: Session, review: int) -> set[int]:
    """The studies of a review."""
    return set(column(db, "SELECT id FROM study WHERE review_id = :review", review=review))


def reports_of(db: Session, study: int) -> Sequence[Row]:
    """The reports of a study, by record."""
    return rows(
        db,
        """SELECT r.title, r.authors, r.year FROM study_report x JOIN placement p ON p.copy_id = x.copy_id JOIN record r ON r.id = p.record_id
        WHERE x.study_id = :study ORDER BY r.id""",
        study=study,
    )


def unlink(db: Session, record: int) -> None:
    """A record belongs to no study."""
    run(db, "DELETE FROM study_report WHERE copy_id IN (SELECT copy_id FROM placement WHERE record_id = :record)", record=record)


def origins(db: Session, review: int, records: Sequence[int]) -> Sequence[Row]:
    """What brought each record: sources with their searches, versions of the query, and the team's labels."""
    return rows(
        db,
        """SELECT p.record_id, array_agg(DISTINCT q.source || ', search ' || q.number || '.' || u.number) AS sources,
        coalesce(array_agg(DISTINCT u.query_version::text) FILTER (WHERE u.query_version IS NOT NULL), '{}') AS versions,
        coalesce(array_agg(DISTINCT l.name) FILTER (WHERE l.name IS NOT NULL), '{}') AS labels
        FROM placement p JOIN batch b ON b.id = p.batch_id JOIN search q ON q.id = b.search_id JOIN search_run u ON u.id = b.run_id
        LEFT JOIN seen_labelled d ON d.copy_id = p.copy_id LEFT JOIN label l ON l.id = d.label_id AND l.removed_at IS NULL
        WHERE p.review_id = :review AND p.record_id = ANY(CAST(:records AS bigint[])) GROUP BY p.record_id""",
        review=review, records=list(records),
    )  # fmt: skip
