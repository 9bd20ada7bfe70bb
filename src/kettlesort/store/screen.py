"""Verdicts, holds, full texts, the order of records, and where each record stands."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import ARRAY, BigInteger, Column, Float, Index, text
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, reference, row, rows, run
from kettlesort.store.records import Wanted, where


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
    """Where a record stands in every step; follows from the rows above and is kept in the same transaction.

    A record that a narrowing holds aside has the first state "aside", whatever was decided on it before.
    """

    __table_args__ = (
        Index("ix_standing_review", "review_id", "first", "fulltext", "second", "main", "seed", "second_criterion"),
        Index("ix_standing_narrowing", "review_id", "narrowing_id", "main", postgresql_where=text("narrowing_id IS NOT NULL")),
    )

    record_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    review_id: int = reference("review.id")
    main: bool
    seed: bool
    first: str = "open"
    first_criterion: int | None = reference("criterion.id", null=True)
    fulltext: str = "sought"
    second: str = "open"
    second_criterion: int | None = reference("criterion.id", null=True)
    narrowing_id: int | None = reference("narrowing.id", null=True)


class Order(Table, table=True):
    """The latest order of a review's records by closeness, and the weight of each term."""

    __tablename__ = "ranking"

    review_id: int = reference("review.id", primary=True)
    made_at: Moment | None = moment()
    decisions: int
    record_ids: list[int] = Field(sa_column=Column(ARRAY(BigInteger), nullable=False))
    closeness: list[float] = Field(sa_column=Column(ARRAY(Float), nullable=False))
    weights: dict[str, float] = json_field({})


_REFRESH = """
INSERT INTO standing (record_id, review_id, main, seed, first, first_criterion, fulltext, second, second_criterion, narrowing_id)
SELECT r.id, r.review_id,
    EXISTS (SELECT 1 FROM placement p JOIN batch b ON b.id = p.batch_id JOIN search q ON q.id = b.search_id
            WHERE p.record_id = r.id AND q.kind IN ('database', 'register')),
    EXISTS (SELECT 1 FROM placement p JOIN seed_mark m ON m.copy_id = p.copy_id WHERE p.record_id = r.id AND m.withdrawn_at IS NULL)
    OR EXISTS (SELECT 1 FROM placement p JOIN copy c ON c.id = p.copy_id JOIN seed_key k ON k.review_id = p.review_id
               AND k.removed_at IS NULL AND k.key IN (c.doi, lower(c.accession)) WHERE p.record_id = r.id),
    CASE WHEN n.narrowing_id IS NULL THEN coalesce(v1.verdict, 'open') ELSE 'aside' END, v1.criterion_id, coalesce(f.state, 'sought'), coalesce(v2.verdict, 'open'), v2.criterion_id, n.narrowing_id
FROM record r
LEFT JOIN LATERAL (SELECT v.verdict, v.criterion_id FROM placement p JOIN verdict v ON v.copy_id = p.copy_id
    WHERE p.record_id = r.id AND v.pass_number = 1 AND v.withdrawn_at IS NULL ORDER BY v.id DESC LIMIT 1) v1 ON TRUE
LEFT JOIN LATERAL (SELECT v.verdict, v.criterion_id FROM placement p JOIN verdict v ON v.copy_id = p.copy_id
    WHERE p.record_id = r.id AND v.pass_number = 2 AND v.withdrawn_at IS NULL ORDER BY v.id DESC LIMIT 1) v2 ON TRUE
LEFT JOIN LATERAL (SELECT t.state FROM placement p JOIN full_text t ON t.copy_id = p.copy_id
    WHERE p.record_id = r.id ORDER BY t.id DESC LIMIT 1) f ON TRUE
LEFT JOIN LATERAL (SELECT d.narrowing_id FROM placement p JOIN narrowed d ON d.copy_id = p.copy_id
    WHERE p.record_id = r.id AND d.released_at IS NULL ORDER BY d.narrowing_id LIMIT 1) n ON TRUE
WHERE r.review_id = :review AND {which}
ON CONFLICT (record_id) DO UPDATE SET main = excluded.main, seed = excluded.seed, first = excluded.first,
    first_criterion = excluded.first_criterion, fulltext = excluded.fulltext, second = excluded.second,
    second_criterion = excluded.second_criterion, narrowing_id = excluded.narrowing_id
"""


def refresh_standing(db: Session, review: int, records: list[int] | None = None) -> None:
    """Work out anew where some records, or all, stand, from verdicts, seeds and full texts."""
    if records is None:
        run(
            db,
            "DELETE FROM standing s WHERE review_id = :review AND NOT EXISTS (SELECT 1 FROM record r WHERE r.id = s.record_id)",
            review=review,
        )
        run(db, _REFRESH.format(which="TRUE"), review=review)
    elif records:
        run(
            db,
            "DELETE FROM standing s WHERE record_id IN (SELECT unnest(CAST(:ids AS bigint[]))) AND NOT EXISTS (SELECT 1 FROM record r WHERE r.id = s.record_id)",
            ids=records,
        )
        run(db, _REFRESH.format(which="r.id IN (SELECT unnest(CAST(:ids AS bigint[])))"), review=review, ids=records)


def state_in(db: Session, review: int, record: int) -> Row | None:
    """Where one record stands; ``None`` when this review has no such record."""
    return row(db, "SELECT * FROM standing WHERE review_id = :review AND record_id = :record", review=review, record=record)


def next_open(db: Session, review: int, account: int, wanted: Wanted, skip: list[int], limit: int) -> list[int]:
    """The closest records that are not decided and on nobody else's desk."""
    values: dict[str, Any] = {"review": review, "account": account, "pass": wanted.pass_number, "skip": skip, "limit": limit}
    conditions = where(wanted, values)
    found = rows(
        db,
        f"""SELECT r.id FROM standing s JOIN record r ON r.id = s.record_id
        LEFT JOIN (SELECT u.* FROM ranking o, unnest(o.record_ids) WITH ORDINALITY u(id, rank) WHERE o.review_id = :review) k ON k.id = r.id
        WHERE {conditions} AND r.id <> ALL(:skip) AND NOT EXISTS (SELECT 1 FROM hold h WHERE h.review_id = :review
            AND h.pass_number = :pass AND h.record_id = r.id AND h.account_id <> :account AND h.until > now())
        ORDER BY k.rank NULLS LAST, r.id LIMIT :limit""",
        **values,
    )
    return [int(it["id"]) for it in found]


def put_on_desk(db: Session, review: int, account: int, pass_number: int, records: list[int], minutes: int) -> None:
    """Hold records for an account; a hold of somebody else that has run out gives way."""
    run(
        db,
        """INSERT INTO hold (review_id, pass_number, record_id, account_id, until)
        SELECT :review, :pass, u, :account, now() + make_interval(mins => :minutes) FROM unnest(CAST(:records AS bigint[])) u
        ON CONFLICT (review_id, pass_number, record_id) DO UPDATE SET account_id = excluded.account_id, until = excluded.until
        WHERE hold.account_id = excluded.account_id OR hold.until <= now()""",
        review=review, account=account, records=records, minutes=minutes, **{"pass": pass_number},
    )  # fmt: skip


def holder(db: Session, review: int, pass_number: int, record: int, account: int) -> str | None:
    """The name of somebody else who has the record on the desk."""
    found = row(
        db,
        """SELECT a.full_name FROM hold h JOIN account a ON a.id = h.account_id WHERE h.review_id = :review AND h.pass_number = :pass
        AND h.record_id = :record AND h.account_id <> :account AND h.until > now()""",
        review=review, record=record, account=account, **{"pass": pass_number},
    )  # fmt: skip
    return str(found["full_name"]) if found else None


def clear_desk(db: Session, review: int, account: int, pass_number: int | None = None, record: int | None = None) -> None:
    """Give up holds: all of an account, or one."""
    run(
        db,
        """DELETE FROM hold WHERE review_id = :review AND account_id = :account AND (CAST(:pass AS int) IS NULL OR pass_number = :pass)
        AND (CAST(:record AS bigint) IS NULL OR record_id = :record)""",
        review=review, account=account, record=record, **{"pass": pass_number},
    )  # fmt: skip


def latest_own(db: Session, review: int, account: int, pass_number: int) -> Row | None:
    """The latest decision of an account in a pass that is not withdrawn, and the record that it is on now."""
    return row(
        db,
        """SELECT v.*, p.record_id FROM verdict v JOIN placement p ON p.copy_id = v.copy_id WHERE v.review_id = :review
        AND v.account_id = :account AND v.pass_number = :pass AND v.withdrawn_at IS NULL ORDER BY v.id DESC LIMIT 1""",
        review=review, account=account, **{"pass": pass_number},
    )  # fmt: skip


def own_history(db: Session, review: int, account: int, pass_number: int, limit: int) -> Sequence[Row]:
    """An account's latest decisions in a pass, newest first."""
    return rows(
        db,
        """SELECT v.id, p.record_id, r.title, v.verdict, v.at, v.withdrawn_at IS NOT NULL AS withdrawn, coalesce(c.name, '') AS criterion, v.criterion_id
        FROM verdict v JOIN placement p ON p.copy_id = v.copy_id JOIN record r ON r.id = p.record_id LEFT JOIN criterion c ON c.id = v.criterion_id
        WHERE v.review_id = :review AND v.account_id = :account AND v.pass_number = :pass ORDER BY v.id DESC LIMIT :limit""",
        review=review, account=account, limit=limit, **{"pass": pass_number},
    )  # fmt: skip


def record_history(db: Session, record: int) -> Sequence[Row]:
    """Every decision ever made on a record, by anybody, oldest first."""
    return rows(
        db,
        """SELECT v.pass_number, v.verdict, coalesce(c.name, '') AS criterion, a.full_name AS by, v.at, v.withdrawn_at
        FROM placement p JOIN verdict v ON v.copy_id = p.copy_id JOIN account a ON a.id = v.account_id LEFT JOIN criterion c ON c.id = v.criterion_id
        WHERE p.record_id = :record ORDER BY v.id""",
        record=record,
    )


def notes_on(db: Session, record: int) -> Sequence[Row]:
    """The latest note of each person on a record."""
    return rows(
        db,
        """SELECT DISTINCT ON (n.account_id) n.account_id, a.full_name AS by, n.text, n.at FROM placement p JOIN note n ON n.copy_id = p.copy_id
        JOIN account a ON a.id = n.account_id WHERE p.record_id = :record ORDER BY n.account_id, n.id DESC""",
        record=record,
    )


def full_text_of(db: Session, record: int) -> Row | None:
    """The latest word on a record's full text, and the latest attached file."""
    return row(
        db,
        """SELECT t.state, t.reason, t.at, a.full_name AS by,
        (SELECT f.id FROM placement p2 JOIN full_text f ON f.copy_id = p2.copy_id WHERE p2.record_id = :record AND f.sha256 IS NOT NULL ORDER BY f.id DESC LIMIT 1) AS file_id,
        (SELECT f.filename FROM placement p2 JOIN full_text f ON f.copy_id = p2.copy_id WHERE p2.record_id = :record AND f.sha256 IS NOT NULL ORDER BY f.id DESC LIMIT 1) AS filename
        FROM placement p JOIN full_text t ON t.copy_id = p.copy_id JOIN account a ON a.id = t.account_id
        WHERE p.record_id = :record ORDER BY t.id DESC LIMIT 1""",
        record=record,
    )


def origins_of(db: Session, record: int) -> Sequence[Row]:
    """The copies of a record with what brought them."""
    return rows(
        db,
        """SELECT c.id, q.source, q.number, q.id AS search_id, u.number AS run, u.run_on, u.query_version, b.filename, b.id AS batch_id, c.line, c.position, c.accession,
        ARRAY(SELECT l.name FROM labelled d JOIN label l ON l.id = d.label_id WHERE d.copy_id = c.id AND l.removed_at IS NULL ORDER BY l.name) AS labels
        FROM placement p JOIN copy c ON c.id = p.copy_id JOIN batch b ON b.id = p.batch_id JOIN search q ON q.id = b.search_id JOIN search_run u ON u.id = b.run_id
        WHERE p.record_id = :record ORDER BY c.id""",
        record=record,
    )


def decided(db: Session, review: int) -> tuple[list[int], list[int]]:
    """Records that belong (seeds, and included in the last pass that has a verdict) and records that are excluded."""
    found = rows(
        db,
        """SELECT record_id, (seed OR CASE WHEN second IN ('include', 'exclude') THEN second = 'include' ELSE first = 'include' END) AS belongs
        FROM standing WHERE review_id = :review AND (seed OR first IN ('include', 'exclude'))""",
        review=review,
    )
    return [it["record_id"] for it in found if it["belongs"]], [it["record_id"] for it in found if not it["belongs"]]
