"""Verdicts, notes, holds and full texts, and what the desk shows of a record."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any, NamedTuple

from sqlalchemy import Index, text
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, key, moment, one_of, reference
from kettlesort.store.ranking import PLACED
from kettlesort.store.records import COLUMNS, RECORD_LISTS, Wanted, where
from kettlesort.store.sql import column, row, rows, run


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
    settles: bool = False
    """Given in sight of the verdicts of others, to settle what differs."""


class Note(Table, table=True):
    """What somebody noted about a record."""

    id: int | None = key()
    review_id: int = reference("review.id")
    copy_id: int = reference("copy.id", index=True)
    account_id: int = reference("account.id")
    text: str
    at: Moment | None = moment()


class NoteTo(Table, table=True):
    """A colleague whom a note names, and when they were done with it. Appended with the note."""

    __tablename__ = "note_to"
    __table_args__ = (Index("ix_note_to_account", "review_id", "account_id"),)

    note_id: int = reference("note.id", primary=True)
    account_id: int = reference("account.id", primary=True)
    review_id: int = reference("review.id")
    done_at: Moment | None = moment(null=True)


class Hold(Table, table=True):
    """A record on somebody's desk: until then no more people are handed it than are to read it."""

    review_id: int = reference("review.id", primary=True)
    pass_number: int = Field(primary_key=True)
    record_id: int = reference("copy.id", primary=True)
    account_id: int = reference("account.id", primary=True)
    until: Moment | None = moment()


_BLIND = {1: "s.first_blind", 2: "s.second_blind"}
_ALLOTTED = """EXISTS (SELECT 1 FROM placement q JOIN allotment t ON t.copy_id = q.copy_id JOIN sharing g ON g.id = t.sharing_id
    WHERE q.record_id = {record} AND g.pass_number = :pass AND t.account_id = :account AND t.given_back_at IS NULL)"""


def _room(record: str, readers: int) -> str:
    """That a record still wants a reader, or has the account on its share: others who read it, are to, or have it on the desk count."""
    verdicts = f"""UNION ALL SELECT v.account_id FROM placement q JOIN verdict v ON v.copy_id = q.copy_id
        WHERE q.record_id = {record} AND v.pass_number = :pass AND v.withdrawn_at IS NULL"""
    return f"""((SELECT count(DISTINCT y.account_id) FROM (
        SELECT h.account_id FROM hold h WHERE h.review_id = :review AND h.pass_number = :pass AND h.record_id = {record} AND h.until > clock_timestamp()
        UNION ALL SELECT t.account_id FROM placement q JOIN allotment t ON t.copy_id = q.copy_id JOIN sharing g ON g.id = t.sharing_id
        WHERE q.record_id = {record} AND g.pass_number = :pass AND t.given_back_at IS NULL {verdicts if readers > 1 else ""}) y
        WHERE y.account_id <> :account) < {readers:d} OR {_ALLOTTED.format(record=record)})"""


class Taking(NamedTuple):
    """Who takes records in which pass: how many ``readers`` each wants, the account's ``share``, where it has one to read, and a ``sample`` that comes first."""

    review: int
    account: int
    readers: int
    share: Row | None
    sample: int | None = None


def take_next(db: Session, taking: Taking, wanted: Wanted, skip: list[int], limit: int, minutes: int) -> list[int]:
    """Put the next open records of a list on somebody's desk, of their share where they have one; those that are.

    What another person is taking at this moment is passed over, so nobody waits and nothing is handed out twice.
    """
    for _ in range(3):  # between looking and taking, another may have been faster
        found = _free(db, taking, wanted, skip, limit)
        held = put_on_desk(db, taking, wanted.pass_number, found, minutes)
        if held or not found:
            return [record for record in found if record in held]
    return []


_WINDOWS = (0, 60, 400, 2000, 8000, 30_000, 100_000, 10**9)
"""The order is looked through in pieces, so that finding the next record costs what stands before it, whatever the planner thinks."""


def _free(db: Session, taking: Taking, wanted: Wanted, skip: list[int], limit: int) -> list[int]:
    """The next open records of a list that want a reader, locked: of a random sample, then of a shuffled share in its sequence, else the closest, those without a place last."""
    number = wanted.pass_number
    values: dict[str, Any] = {"review": taking.review, "account": taking.account, "pass": number}
    open_now = RECORD_LISTS["to_read" if number == 1 else "second_to_read"]
    own = f"""NOT ({_BLIND[number]} AND EXISTS (SELECT 1 FROM placement q JOIN verdict v ON v.copy_id = q.copy_id
        WHERE q.record_id = s.record_id AND v.pass_number = :pass AND v.account_id = :account AND v.withdrawn_at IS NULL))"""
    conditions = (
        f"{where(wanted, values)} AND {open_now} AND s.record_id <> ALL(:skip) AND {own} AND {_room('s.record_id', taking.readers)}"
    )
    kept = "JOIN record r ON r.id = s.record_id" if "r." in conditions else ""
    found: list[int] = []
    if taking.sample:
        found = column(
            db,
            f"""SELECT s.record_id FROM sampled t JOIN placement z ON z.copy_id = t.copy_id JOIN standing s ON s.record_id = z.record_id {kept}
            WHERE t.sample_id = :sample AND {conditions} ORDER BY t.place LIMIT :limit FOR UPDATE OF s SKIP LOCKED""",
            **values, sample=taking.sample, skip=skip, limit=limit,
        )  # fmt: skip
        if found:
            return found
    if taking.share:
        conditions += f" AND {_ALLOTTED.format(record='s.record_id')}"
    if taking.share and taking.share["shuffled"] and not wanted.order:
        return column(
            db,
            f"""SELECT s.record_id FROM allotment t JOIN placement z ON z.copy_id = t.copy_id JOIN standing s ON s.record_id = z.record_id {kept}
            WHERE t.sharing_id = :sharing AND t.account_id = :account AND t.given_back_at IS NULL AND {conditions} ORDER BY t.place LIMIT :limit FOR UPDATE OF s SKIP LOCKED""",
            **values, sharing=taking.share["id"], skip=skip, limit=limit,
        )  # fmt: skip
    for low, high in itertools.pairwise(_WINDOWS):
        piece = _piece(db, taking.review, wanted.order, low, high)
        found += column(
            db,
            f"""SELECT s.record_id FROM unnest(CAST(:piece AS bigint[])) WITH ORDINALITY u(id, nth) JOIN standing s ON s.record_id = u.id {kept}
            WHERE {conditions} ORDER BY u.nth LIMIT :limit FOR UPDATE OF s SKIP LOCKED""",
            **values, piece=piece, skip=[*skip, *found], limit=limit - len(found),
        )  # fmt: skip
        if len(found) >= limit:
            return found
        if len(piece) < high - low:
            break
    rest = f"""SELECT s.record_id FROM standing s {kept} WHERE {conditions} ORDER BY s.record_id + 0 LIMIT :limit FOR UPDATE OF s SKIP LOCKED"""
    return found + column(db, rest, **values, skip=[*skip, *found], limit=limit - len(found))


def _piece(db: Session, review: int, order: int, low: int, high: int) -> list[int]:
    """The records from one rank to another, of the latest order by closeness or of another."""
    places = (
        "other_place WHERE order_id = (SELECT id FROM other_order WHERE id = :order AND review_id = :review)"
        if order
        else "place WHERE review_id = :review AND version = (SELECT version FROM ranking WHERE review_id = :review) AND CAST(:order AS bigint) = 0"
    )
    return column(
        db,
        f"SELECT record_id FROM {places} AND rank > :low AND rank <= :high ORDER BY rank",
        review=review,
        order=order,
        low=low,
        high=high,
    )


def put_on_desk(db: Session, taking: Taking, pass_number: int, records: list[int], minutes: int) -> set[int]:
    """Hold records for an account, those that still want a reader; those that are held now.

    Whoever holds a record has its standing locked first: so this statement sees what another put on a desk a moment ago.
    """
    values = {"review": taking.review, "pass": pass_number}
    run(
        db,
        "DELETE FROM hold WHERE review_id = :review AND pass_number = :pass AND record_id = ANY(CAST(:records AS bigint[])) AND until <= clock_timestamp()",
        **values, records=records,
    )  # fmt: skip
    found = column(
        db,
        f"""INSERT INTO hold (review_id, pass_number, record_id, account_id, until)
        SELECT :review, :pass, u, :account, clock_timestamp() + make_interval(mins => :minutes) FROM unnest(CAST(:records AS bigint[])) u
        WHERE {_room("u", taking.readers)}
        ON CONFLICT (review_id, pass_number, record_id, account_id) DO UPDATE SET until = excluded.until RETURNING record_id""",
        **values, account=taking.account, records=records, minutes=minutes,
    )  # fmt: skip
    return set(found)


class Reading(NamedTuple):
    """Who reads a record in a pass: so many ``others`` than an account decided on it or have it on a share; whether it is ``mine``; ``allotted`` as in `outcome`."""

    others: int
    mine: bool
    allotted: int


def reading_of(db: Session, review: int, record: int, pass_number: int, account: int) -> Reading:
    """Who reads a record in a pass, seen by an account."""
    values = {"review": review, "record": record, "pass": pass_number}
    read = column(
        db,
        """SELECT DISTINCT v.account_id FROM placement p JOIN verdict v ON v.copy_id = p.copy_id
        WHERE p.record_id = :record AND v.review_id = :review AND v.pass_number = :pass AND v.withdrawn_at IS NULL AND NOT v.settles""",
        **values,
    )
    shared = rows(
        db,
        """SELECT t.account_id, bool_or(t.beyond) AS beyond FROM placement p JOIN allotment t ON t.copy_id = p.copy_id JOIN sharing g ON g.id = t.sharing_id
        WHERE p.record_id = :record AND t.review_id = :review AND g.pass_number = :pass AND t.given_back_at IS NULL GROUP BY t.account_id""",
        **values,
    )
    everybody = {*read, *(row["account_id"] for row in shared)}
    return Reading(len(everybody - {account}), account in everybody, len(shared) if any(row["beyond"] for row in shared) else 0)


def rivals_of(db: Session, review: int, record: int, pass_number: int, account: int) -> Row:
    """Who else than an account has a record on the desk, and who else gave the latest verdict on it."""
    found = row(
        db,
        """SELECT (SELECT a.full_name FROM hold h JOIN account a ON a.id = h.account_id WHERE h.review_id = :review AND h.pass_number = :pass
            AND h.record_id = :record AND h.account_id <> :account AND h.until > clock_timestamp() LIMIT 1) AS holder,
        (SELECT CASE WHEN v.account_id <> :account THEN a.full_name END FROM placement p JOIN verdict v ON v.copy_id = p.copy_id JOIN account a ON a.id = v.account_id
            WHERE p.record_id = :record AND v.pass_number = :pass AND v.withdrawn_at IS NULL ORDER BY v.id DESC LIMIT 1) AS decided_by""",
        review=review, record=record, account=account, **{"pass": pass_number},
    )  # fmt: skip
    assert found is not None
    return found


def clear_desk(db: Session, review: int, account: int, pass_number: int | None = None, record: int | None = None) -> None:
    """Give up holds: all of an account, or one."""
    run(
        db,
        """DELETE FROM hold WHERE review_id = :review AND account_id = :account AND (CAST(:pass AS int) IS NULL OR pass_number = :pass)
        AND (CAST(:record AS bigint) IS NULL OR record_id = :record)""",
        review=review, account=account, record=record, **{"pass": pass_number},
    )  # fmt: skip


def latest_own(db: Session, review: int, account: int, pass_number: int, record: int | None = None) -> Row | None:
    """The latest decision of an account in a pass that is not withdrawn, on one record or on any, and the record that it is on now."""
    return row(
        db,
        """SELECT v.*, p.record_id FROM verdict v JOIN placement p ON p.copy_id = v.copy_id WHERE v.review_id = :review
        AND v.account_id = :account AND v.pass_number = :pass AND v.withdrawn_at IS NULL AND NOT v.settles
        AND (CAST(:record AS bigint) IS NULL OR p.record_id = :record) ORDER BY v.id DESC LIMIT 1""",
        review=review, account=account, record=record, **{"pass": pass_number},
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
        f"""SELECT r.id, r.whose, {", ".join(f"r.{name}" for name in COLUMNS.split(", "))}, s.first, s.fulltext, s.second, s.seed, {_BLIND[pass_number]} AS blind, m.verdict AS mine, k.rank, k.closeness, k.why, q.id AS question,
        CASE WHEN NOT {_BLIND[pass_number]} THEN h.full_name END AS holder
        FROM unnest(CAST(:records AS bigint[])) WITH ORDINALITY u(id, nth) JOIN record r ON r.id = u.id AND r.review_id = :review JOIN standing s ON s.record_id = r.id
        {PLACED}
        LEFT JOIN LATERAL (SELECT q.id FROM placement p JOIN question q ON p.copy_id IN (q.left_copy, q.right_copy)
            JOIN placement x ON x.copy_id = q.left_copy JOIN placement y ON y.copy_id = q.right_copy
            WHERE p.record_id = r.id AND q.review_id = :review AND q.gone_trial_id IS NULL AND x.record_id <> y.record_id AND NOT EXISTS (SELECT 1 FROM ruling v
                WHERE NOT v.by_rule AND v.withdrawn_at IS NULL AND v.left_copy = q.left_copy AND v.right_copy = q.right_copy) ORDER BY q.id LIMIT 1) q ON TRUE
        LEFT JOIN LATERAL (SELECT a.full_name FROM hold d JOIN account a ON a.id = d.account_id WHERE d.review_id = :review AND d.pass_number = :pass
            AND d.record_id = r.id AND d.account_id <> :account AND d.until > clock_timestamp() LIMIT 1) h ON TRUE
        LEFT JOIN LATERAL (SELECT v.verdict FROM placement p JOIN verdict v ON v.copy_id = p.copy_id WHERE p.record_id = r.id AND v.pass_number = :pass
            AND v.account_id = :account AND v.withdrawn_at IS NULL AND NOT v.settles ORDER BY v.id DESC LIMIT 1) m ON TRUE
        ORDER BY u.nth""",
        review=review, account=account, records=list(records), **{"pass": pass_number},
    )  # fmt: skip


def histories(db: Session, records: Sequence[int]) -> Sequence[Row]:
    """Every decision ever made on some records, by anybody whose verdicts the viewer may see, oldest first."""
    return rows(
        db,
        """SELECT p.record_id, v.pass_number, v.verdict, coalesce(c.name, '') AS criterion, a.full_name AS by, v.at, v.withdrawn_at, v.settles
        FROM placement p JOIN seen_verdict v ON v.copy_id = p.copy_id JOIN account a ON a.id = v.account_id LEFT JOIN criterion c ON c.id = v.criterion_id
        WHERE p.record_id = ANY(CAST(:records AS bigint[])) ORDER BY v.id""",
        records=list(records),
    )


def notes_on(db: Session, records: Sequence[int]) -> Sequence[Row]:
    """The latest note of each person on some records, as far as the viewer may see them."""
    return rows(
        db,
        """SELECT DISTINCT ON (p.record_id, n.account_id) p.record_id, n.account_id, a.full_name AS by, n.text, n.at FROM placement p JOIN seen_note n ON n.copy_id = p.copy_id
        JOIN account a ON a.id = n.account_id WHERE p.record_id = ANY(CAST(:records AS bigint[])) ORDER BY p.record_id, n.account_id, n.id DESC""",
        records=list(records),
    )


def notes_to(db: Session, review: int, account: int) -> Sequence[Row]:
    """The notes that name somebody and stand, as far as they may see them, the newest first; those they are done with last."""
    return rows(
        db,
        """SELECT n.id, p.record_id AS record, r.title, a.full_name AS by, n.at, n.text, t.done_at IS NOT NULL AS done FROM note_to t JOIN seen_note n ON n.id = t.note_id
        JOIN placement p ON p.copy_id = n.copy_id JOIN record r ON r.id = p.record_id JOIN account a ON a.id = n.account_id
        WHERE t.review_id = :review AND t.account_id = :account
        AND NOT EXISTS (SELECT 1 FROM placement q JOIN note o ON o.copy_id = q.copy_id WHERE q.record_id = p.record_id AND o.account_id = n.account_id AND o.id > n.id)
        ORDER BY t.done_at NULLS FIRST, n.id DESC LIMIT 500""",
        review=review, account=account,
    )  # fmt: skip


def origins(db: Session, records: Sequence[int]) -> Sequence[Row]:
    """The copies of some records with what brought them."""
    return rows(
        db,
        """SELECT p.record_id, c.id, q.source, q.number, q.id AS search_id, u.number AS run, u.run_on, u.query_version, b.filename, b.id AS batch_id, c.line, c.position, c.accession,
        ARRAY(SELECT DISTINCT l.name FROM seen_labelled d JOIN label l ON l.id = d.label_id WHERE d.copy_id = c.id AND l.removed_at IS NULL ORDER BY l.name) AS labels
        FROM placement p JOIN copy c ON c.id = p.copy_id JOIN batch b ON b.id = p.batch_id JOIN search q ON q.id = b.search_id JOIN search_run u ON u.id = b.run_id
        WHERE p.record_id = ANY(CAST(:records AS bigint[])) ORDER BY c.id""",
        records=list(records),
    )
