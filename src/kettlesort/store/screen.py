"""Verdicts, holds, full texts, the order of records, and where each record stands."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any

from sqlalchemy import BigInteger, Column, Index, text
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, key, moment, one_of, reference
from kettlesort.store.records import COLUMNS, RECORD_LISTS, Wanted, where
from kettlesort.store.sql import row, rows, run


class Verdict(Table, table=True):
    """One person's decision on one record in one pass. Appended; withdrawn by time, never overwritten.

    It hangs on a copy, so that it stays with the right record when groups are joined or split.
    """

    __table_args__ = (
        Index("ix_verdict_criterion_id", "criterion_id"),
        one_of("verdict", "include", "exclude", "unsure"),
        one_of("pass_number", 1, 2),
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
    __table_args__ = (one_of("state", "sought", "obtained", "missing"),)

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
        one_of("first", "open", "unsure", "include", "exclude", "aside"),
        one_of("fulltext", "sought", "obtained", "missing"),
        one_of("second", "open", "unsure", "include", "exclude"),
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


def refresh_standing(db: Session, review: int, records: list[int] | None = None, *, locked: bool = False) -> None:
    """Work out anew where some records, or all, stand, from verdicts, seeds and full texts.

    Their rows are locked first, unless they are ``locked``: a decision that is under way on one of them is waited for, and seen.
    """
    if records is not None and not records:
        return
    which = "TRUE"
    values: dict[str, Any] = {"review": review}
    if records is not None and len(records) == 1:  # PostgreSQL plans this once, and once more for each list of several
        which, values = "{} = :id", {"review": review, "id": records[0]}
    elif records is not None:
        which, values = "{} = ANY(CAST(:ids AS bigint[]))", {"review": review, "ids": records}
    found = (
        []
        if locked
        else rows(
            db,
            f"""SELECT s.record_id, r.id IS NULL AS gone FROM standing s LEFT JOIN record r ON r.id = s.record_id
        WHERE s.review_id = :review AND {which.format("s.record_id")} ORDER BY s.record_id FOR UPDATE OF s""",
            **values,
        )
    )
    gone = [it["record_id"] for it in found if it["gone"]]
    if gone:
        run(db, "DELETE FROM standing WHERE record_id = ANY(CAST(:gone AS bigint[]))", gone=gone)
    run(db, _REFRESH.format(which=which.format("r.id")), **values)


def state_in(db: Session, review: int, record: int) -> Row | None:
    """Where one record stands; ``None`` when this review has no such record."""
    return row(db, "SELECT * FROM standing WHERE review_id = :review AND record_id = :record", review=review, record=record)


def lock_state(db: Session, review: int, record: int, pass_number: int = 1, account: int = 0) -> Row | None:
    """Where one record stands, its title, who else than ``account`` has it on the desk and who gave the verdict in force.

    Nobody else decides on it or joins it with another until this transaction ends. It is read when it is locked:
    a statement that waits for a lock sees, of all other rows, what was there before.
    """
    run(db, "SELECT FROM standing WHERE review_id = :review AND record_id = :record FOR UPDATE", review=review, record=record)
    return row(
        db,
        """SELECT s.*, r.title, (SELECT a.full_name FROM hold h JOIN account a ON a.id = h.account_id WHERE h.review_id = :review AND h.pass_number = :pass
            AND h.record_id = s.record_id AND h.account_id <> :account AND h.until > clock_timestamp()) AS holder,
        (SELECT CASE WHEN v.account_id <> :account THEN a.full_name END FROM placement p JOIN verdict v ON v.copy_id = p.copy_id JOIN account a ON a.id = v.account_id
            WHERE p.record_id = s.record_id AND v.pass_number = :pass AND v.withdrawn_at IS NULL ORDER BY v.id DESC LIMIT 1) AS decided_by
        FROM standing s JOIN record r ON r.id = s.record_id WHERE s.review_id = :review AND s.record_id = :record""",
        review=review, record=record, account=account, **{"pass": pass_number},
    )  # fmt: skip


_FREE = """NOT EXISTS (SELECT 1 FROM hold h WHERE h.review_id = :review AND h.pass_number = :pass
    AND h.record_id = s.record_id AND h.account_id <> :account AND h.until > clock_timestamp())"""


def take_next(db: Session, review: int, account: int, wanted: Wanted, skip: list[int], limit: int, minutes: int) -> list[int]:
    """Put the closest open records of a list that are on nobody else's desk on somebody's; those that are.

    What another person is taking at this moment is passed over, so nobody waits and nothing is handed out twice.
    """
    for _ in range(3):  # between looking and taking, another may have been faster
        found = _free(db, review, account, wanted, skip, limit)
        held = put_on_desk(db, review, account, wanted.pass_number, found, minutes)
        if held or not found:
            return [it for it in found if it in held]
    return []


_WINDOWS = (0, 60, 400, 2000, 8000, 30_000, 100_000, 10**9)
"""The order is looked through in pieces, so that finding the next record costs what stands before it, whatever the planner thinks."""


def _free(db: Session, review: int, account: int, wanted: Wanted, skip: list[int], limit: int) -> list[int]:
    """The closest open records of a list that nobody else has, locked; those without a place in the order last."""
    values: dict[str, Any] = {"review": review, "account": account, "pass": wanted.pass_number}
    open_now = RECORD_LISTS["open" if wanted.pass_number == 1 else "second_open"]
    conditions = f"{where(wanted, values)} AND {open_now} AND s.record_id <> ALL(:skip) AND {_FREE}"
    kept = "JOIN record r ON r.id = s.record_id" if "r." in conditions else ""
    found: list[int] = []
    for low, high in itertools.pairwise(_WINDOWS):
        piece = rows(
            db,
            """SELECT record_id FROM place WHERE review_id = :review AND version = (SELECT version FROM ranking WHERE review_id = :review)
            AND rank > :low AND rank <= :high ORDER BY rank""",
            review=review, low=low, high=high,
        )  # fmt: skip
        found += [it["record_id"] for it in rows(
            db,
            f"""SELECT s.record_id FROM unnest(CAST(:piece AS bigint[])) WITH ORDINALITY u(id, nth) JOIN standing s ON s.record_id = u.id {kept}
            WHERE {conditions} ORDER BY u.nth LIMIT :limit FOR UPDATE OF s SKIP LOCKED""",
            **values, piece=[it["record_id"] for it in piece], skip=[*skip, *found], limit=limit - len(found),
        )]  # fmt: skip
        if len(found) >= limit:
            return found
        if len(piece) < high - low:
            break
    rest = f"""SELECT s.record_id FROM standing s {kept} WHERE {conditions} ORDER BY s.record_id + 0 LIMIT :limit FOR UPDATE OF s SKIP LOCKED"""
    return found + [it["record_id"] for it in rows(db, rest, **values, skip=[*skip, *found], limit=limit - len(found))]


def put_on_desk(db: Session, review: int, account: int, pass_number: int, records: list[int], minutes: int) -> set[int]:
    """Hold records for an account, those that nobody else holds; a hold that has run out gives way. Those that are held now."""
    found = rows(
        db,
        """INSERT INTO hold (review_id, pass_number, record_id, account_id, until)
        SELECT :review, :pass, u, :account, clock_timestamp() + make_interval(mins => :minutes) FROM unnest(CAST(:records AS bigint[])) u
        ON CONFLICT (review_id, pass_number, record_id) DO UPDATE SET account_id = excluded.account_id, until = excluded.until
        WHERE hold.account_id = excluded.account_id OR hold.until <= clock_timestamp() RETURNING record_id""",
        review=review, account=account, records=records, minutes=minutes, **{"pass": pass_number},
    )  # fmt: skip
    return {it["record_id"] for it in found}


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


def sheets(db: Session, review: int, account: int, pass_number: int, records: Sequence[int]) -> Sequence[Row]:
    """Some records as the desk shows them, in the given order: fields, state, place in the order, a pair that waits, who else has it on the desk."""
    return rows(
        db,
        f"""SELECT r.id, r.whose, {", ".join(f"r.{name}" for name in COLUMNS.split(", "))}, s.first, s.fulltext, s.second, s.seed, k.rank, k.closeness, k.why, q.id AS question, h.full_name AS holder
        FROM unnest(CAST(:records AS bigint[])) WITH ORDINALITY u(id, nth) JOIN record r ON r.id = u.id AND r.review_id = :review JOIN standing s ON s.record_id = r.id
        LEFT JOIN ranking o ON o.review_id = :review LEFT JOIN place k ON k.record_id = r.id AND k.version = o.version AND k.review_id = :review
        LEFT JOIN LATERAL (SELECT q.id FROM placement p JOIN question q ON p.copy_id IN (q.left_copy, q.right_copy)
            JOIN placement x ON x.copy_id = q.left_copy JOIN placement y ON y.copy_id = q.right_copy
            WHERE p.record_id = r.id AND q.review_id = :review AND q.gone_trial_id IS NULL AND x.record_id <> y.record_id AND NOT EXISTS (SELECT 1 FROM ruling v
                WHERE NOT v.by_rule AND v.withdrawn_at IS NULL AND v.left_copy = q.left_copy AND v.right_copy = q.right_copy) ORDER BY q.id LIMIT 1) q ON TRUE
        LEFT JOIN LATERAL (SELECT a.full_name FROM hold d JOIN account a ON a.id = d.account_id WHERE d.review_id = :review AND d.pass_number = :pass
            AND d.record_id = r.id AND d.account_id <> :account AND d.until > clock_timestamp()) h ON TRUE
        ORDER BY u.nth""",
        review=review, account=account, records=list(records), **{"pass": pass_number},
    )  # fmt: skip


def histories(db: Session, records: Sequence[int]) -> Sequence[Row]:
    """Every decision ever made on some records, by anybody, oldest first."""
    return rows(
        db,
        """SELECT p.record_id, v.pass_number, v.verdict, coalesce(c.name, '') AS criterion, a.full_name AS by, v.at, v.withdrawn_at
        FROM placement p JOIN verdict v ON v.copy_id = p.copy_id JOIN account a ON a.id = v.account_id LEFT JOIN criterion c ON c.id = v.criterion_id
        WHERE p.record_id = ANY(CAST(:records AS bigint[])) ORDER BY v.id""",
        records=list(records),
    )


def notes_on(db: Session, records: Sequence[int]) -> Sequence[Row]:
    """The latest note of each person on some records."""
    return rows(
        db,
        """SELECT DISTINCT ON (p.record_id, n.account_id) p.record_id, n.account_id, a.full_name AS by, n.text, n.at FROM placement p JOIN note n ON n.copy_id = p.copy_id
        JOIN account a ON a.id = n.account_id WHERE p.record_id = ANY(CAST(:records AS bigint[])) ORDER BY p.record_id, n.account_id, n.id DESC""",
        records=list(records),
    )


def full_texts_of(db: Session, records: Sequence[int]) -> Sequence[Row]:
    """The latest word on some records' full texts, and the latest attached file of each."""
    return rows(
        db,
        """SELECT DISTINCT ON (p.record_id) p.record_id, t.state, t.reason, t.at, a.full_name AS by, f.id AS file_id, f.filename
        FROM placement p JOIN full_text t ON t.copy_id = p.copy_id JOIN account a ON a.id = t.account_id
        LEFT JOIN LATERAL (SELECT g.id, g.filename FROM placement o JOIN full_text g ON g.copy_id = o.copy_id
            WHERE o.record_id = p.record_id AND g.sha256 IS NOT NULL ORDER BY g.id DESC LIMIT 1) f ON TRUE
        WHERE p.record_id = ANY(CAST(:records AS bigint[])) ORDER BY p.record_id, t.id DESC""",
        records=list(records),
    )


def origins(db: Session, records: Sequence[int]) -> Sequence[Row]:
    """The copies of some records with what brought them."""
    return rows(
        db,
        """SELECT p.record_id, c.id, q.source, q.number, q.id AS search_id, u.number AS run, u.run_on, u.query_version, b.filename, b.id AS batch_id, c.line, c.position, c.accession,
        ARRAY(SELECT l.name FROM labelled d JOIN label l ON l.id = d.label_id WHERE d.copy_id = c.id AND l.removed_at IS NULL ORDER BY l.name) AS labels
        FROM placement p JOIN copy c ON c.id = p.copy_id JOIN batch b ON b.id = p.batch_id JOIN search q ON q.id = b.search_id JOIN search_run u ON u.id = b.run_id
        WHERE p.record_id = ANY(CAST(:records AS bigint[])) ORDER BY c.id""",
        records=list(records),
    )


def sought(db: Session, review: int) -> Sequence[Row]:
    """The records whose full text is sought, with what became of it and its latest file; at most 20,000."""
    return rows(
        db,
        """SELECT s.record_id AS id, r.title, r.authors, r.year, r.journal, r.doi, s.fulltext, s.second, coalesce(f.reason, '') AS reason, f.at,
        a.full_name AS by, g.id AS file_id, g.filename, coalesce(c.name, '') AS criterion
        FROM standing s JOIN record r ON r.id = s.record_id
        LEFT JOIN LATERAL (SELECT t.* FROM placement p JOIN full_text t ON t.copy_id = p.copy_id WHERE p.record_id = r.id ORDER BY t.id DESC LIMIT 1) f ON TRUE
        LEFT JOIN LATERAL (SELECT t.id, t.filename FROM placement p JOIN full_text t ON t.copy_id = p.copy_id
            WHERE p.record_id = r.id AND t.sha256 IS NOT NULL ORDER BY t.id DESC LIMIT 1) g ON TRUE
        LEFT JOIN account a ON a.id = f.account_id LEFT JOIN criterion c ON c.id = s.second_criterion
        WHERE s.review_id = :review AND s.first = 'include' ORDER BY CASE s.fulltext WHEN 'sought' THEN 0 WHEN 'obtained' THEN 1 ELSE 2 END, r.authors, r.year, r.id LIMIT 20000""",
        review=review,
    )


def decisions_by_person(db: Session, review: int) -> Sequence[Row]:
    """How many decisions in force each person made, by pass."""
    return rows(
        db,
        """SELECT a.full_name AS by, v.pass_number, count(*) AS n FROM verdict v JOIN account a ON a.id = v.account_id
        WHERE v.review_id = :review AND v.withdrawn_at IS NULL GROUP BY a.full_name, v.pass_number ORDER BY n DESC""",
        review=review,
    )
