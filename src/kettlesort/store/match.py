"""Which copies are the same report: rulings, the groups that follow, and the kept records."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from psycopg.types.json import Jsonb
from sqlalchemy import ARRAY, BigInteger, Column, Index, Text, text
from sqlmodel import Field, Session

from kettlesort.core.matching import merge
from kettlesort.core.record import Record
from kettlesort.store.base import Moment, Row, Table, copying, json_field, key, moment, reference, rows, run, scalar
from kettlesort.store.gather import Fields
from kettlesort.store.records import COLUMNS, FIELDS, record_of


class Ruling(Table, table=True):
    """That two copies are the same report, or different ones; by a rule or by a person. Appended, withdrawn by time.

    ``how`` names the pass of the team's rule, "" for the weights. Different ones may be ``related``: reports of one study.
    ``trial_id`` is the trial that made it, ``withdrawn_trial_id`` the one that took it back; ``replaced_by`` the ruling in whose favour
    it was withdrawn. Those of one ``stroke``, named by the first of them, were made together.
    """

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
    how: str = ""
    related: bool = False
    trial_id: int | None = reference("trial.id", index=True, null=True)
    withdrawn_trial_id: int | None = reference("trial.id", index=True, null=True)
    stroke: int | None = Field(default=None, sa_type=BigInteger)
    replaced_by: int | None = reference("ruling.id", index=True, null=True)


class Question(Table, table=True):
    """A doubtful pair that waits for a person. ``kind`` is that of look-alikes, ``how`` the pass that asked; a person who looks at it holds it.

    ``trial_id`` is the trial that asked, ``gone_trial_id`` the one that no longer does.
    """

    __table_args__ = (
        Index("ix_question_left_copy", "left_copy"),
        Index("ix_question_right_copy", "right_copy"),
    )

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    left_copy: int = reference("copy.id")
    right_copy: int = reference("copy.id")
    score: float
    later: int = 0
    kind: str = ""
    how: str = ""
    held_by: int | None = reference("account.id", null=True)
    held_until: Moment | None = moment(null=True)
    trial_id: int | None = reference("trial.id", null=True)
    gone_trial_id: int | None = reference("trial.id", null=True)


class Supplement(Table, table=True):
    """A value for a field that no copy of a record fills, or with ``replaces`` a better one, and where it came from.

    Appended, withdrawn by time; what a source delivered stays on its copy.
    """

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    copy_id: int = reference("copy.id", index=True)
    field: str
    value: Any = json_field()
    source: str
    replaces: bool = False
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    withdrawn_at: Moment | None = moment(null=True)


class Placement(Table, table=True):
    """The record that a copy of a taken batch belongs to: the lowest copy of its group."""

    __table_args__ = (
        Index("ix_placement_batch_id", "batch_id"),
        Index("ix_placement_batch", "review_id", "batch_id"),
        Index("ix_placement_surplus", "review_id", "batch_id", postgresql_where=text("copy_id <> record_id")),
    )

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


_ADMIT = f"""
INSERT INTO record (id, review_id, whose, {COLUMNS})
SELECT c.id, c.review_id, '{{}}'::jsonb, {", ".join("c." + name for name in COLUMNS.split(", "))} FROM copy c WHERE c.batch_id = :batch
"""


def admit(db: Session, batch: int) -> None:
    """Give each copy of a batch a place and a record of its own. Who admits says so with `written` when the review is locked."""
    run(
        db,
        "INSERT INTO placement (copy_id, review_id, batch_id, record_id) SELECT id, review_id, batch_id, id FROM copy WHERE batch_id = :batch",
        batch=batch,
    )
    run(db, _ADMIT, batch=batch)


def written(db: Session, review: int) -> None:
    """Kept records of a review were written: what was made from them holds no longer."""
    run(db, "UPDATE review SET texts = texts + 1 WHERE id = :review", review=review)


def placed(db: Session, review: int, *, new: bool = False, copies: Sequence[int] | None = None) -> Sequence[Row]:
    """Every placed copy, those of matched batches first, each part by id; only those of ``new`` files, or certain ``copies``."""
    batches = [it["id"] for it in rows(db, "SELECT id FROM batch WHERE review_id = :r AND NOT matched", r=review)] if new else []
    which = (
        "AND p.batch_id = ANY(CAST(:batches AS bigint[]))" if new else "" if copies is None else "AND c.id = ANY(CAST(:copies AS bigint[]))"
    )
    return rows(
        db,
        f"""SELECT c.id, p.record_id, b.id AS batch_id, b.matched, s.source, {", ".join("c." + name for name in COLUMNS.split(", "))}
        FROM placement p JOIN copy c ON c.id = p.copy_id JOIN batch b ON b.id = p.batch_id JOIN search s ON s.id = b.search_id
        WHERE p.review_id = :review {which} ORDER BY b.matched DESC, c.id""",
        review=review, **({"batches": batches} if new else {}), **({} if copies is None else {"copies": list(copies)}),
    )  # fmt: skip


Found = tuple[int, int, float, str, str]
"""A pair that a rule found: left and right copy, weight, name of the pass or "", kind of look-alikes or ""."""


def rule_same(db: Session, review: int, account: int, pairs: Sequence[Found], trial: int | None = None) -> None:
    """Write down pairs that a rule joins, but for those that a person has ruled on or whose copies are gone meanwhile."""
    run(
        db,
        """INSERT INTO ruling (review_id, left_copy, right_copy, same, by_rule, score, how, related, account_id, trial_id)
        SELECT :review, u.l, u.r, TRUE, TRUE, u.w, u.how, FALSE, :account, CAST(:trial AS bigint)
        FROM unnest(CAST(:lefts AS bigint[]), CAST(:rights AS bigint[]), CAST(:weights AS float[]), CAST(:hows AS text[])) u(l, r, w, how)
        JOIN placement a ON a.copy_id = u.l JOIN placement b ON b.copy_id = u.r
        WHERE NOT EXISTS (SELECT 1 FROM ruling p WHERE p.left_copy = u.l AND p.right_copy = u.r AND NOT p.by_rule AND p.withdrawn_at IS NULL)""",
        review=review, account=account, trial=trial, lefts=[it[0] for it in pairs], rights=[it[1] for it in pairs],
        weights=[it[2] for it in pairs], hows=[it[3] for it in pairs],
    )  # fmt: skip


def ask(db: Session, review: int, pairs: Sequence[Found], trial: int | None = None) -> None:
    """Write down pairs that wait for a person."""
    run(
        db,
        """INSERT INTO question (review_id, left_copy, right_copy, score, later, how, kind, trial_id)
        SELECT :review, u.l, u.r, u.w, 0, u.how, u.kind, CAST(:trial AS bigint)
        FROM unnest(CAST(:lefts AS bigint[]), CAST(:rights AS bigint[]), CAST(:weights AS float[]), CAST(:hows AS text[]), CAST(:kinds AS text[])) u(l, r, w, how, kind)
        JOIN placement a ON a.copy_id = u.l JOIN placement b ON b.copy_id = u.r""",
        review=review, trial=trial, lefts=[it[0] for it in pairs], rights=[it[1] for it in pairs], weights=[it[2] for it in pairs],
        hows=[it[3] for it in pairs], kinds=[it[4] for it in pairs],
    )  # fmt: skip


def forget_questions(db: Session, review: int, copies: Sequence[int]) -> None:
    """Questions about these copies are asked anew, or not at all."""
    run(
        db,
        "DELETE FROM question WHERE review_id = :r AND (left_copy = ANY(CAST(:c AS bigint[])) OR right_copy = ANY(CAST(:c AS bigint[])))",
        r=review, c=list(copies),
    )  # fmt: skip


def count_new(db: Session, review: int) -> int:
    """How many placed copies are of files that are not matched yet."""
    return int(
        scalar(
            db,
            """SELECT coalesce(sum((SELECT count(*) FROM placement p WHERE p.review_id = b.review_id AND p.batch_id = b.id)), 0)
            FROM batch b WHERE b.review_id = :r AND b.state = 'taken' AND NOT b.matched""",
            r=review,
        )
    )


def rulings(db: Session, review: int, copies: list[int] | None = None) -> Sequence[Row]:
    """Rulings in force between placed copies: a person's first, then the weightiest."""
    among = (
        ""
        if copies is None
        else "JOIN unnest(CAST(:copies AS bigint[])) x(id) ON x.id = r.left_copy JOIN unnest(CAST(:copies AS bigint[])) y(id) ON y.id = r.right_copy"
    )
    return rows(
        db,
        f"""SELECT r.id, r.left_copy, r.right_copy, r.same, r.by_rule, r.score, r.how FROM ruling r
        {among} JOIN placement a ON a.copy_id = r.left_copy JOIN placement b ON b.copy_id = r.right_copy
        WHERE r.review_id = :review AND r.withdrawn_at IS NULL ORDER BY r.by_rule, r.score DESC NULLS FIRST, r.id""",
        review=review, **({} if copies is None else {"copies": copies}),
    )  # fmt: skip


def fingerprint(db: Session, review: int) -> tuple[int, int, int]:
    """Changes whenever a copy is placed or removed, or a ruling is made or withdrawn."""
    found = rows(
        db,
        """SELECT (SELECT count(*) FROM placement WHERE review_id = :review) AS placed, (SELECT coalesce(max(id), 0) FROM ruling WHERE review_id = :review) AS ruled,
        (SELECT count(*) FROM ruling WHERE review_id = :review AND withdrawn_at IS NOT NULL) AS withdrawn""",
        review=review,
    )[0]
    return found["placed"], found["ruled"], found["withdrawn"]


def group_copies(db: Session, records: list[int]) -> list[int]:
    """All copies of some records."""
    return [
        it["copy_id"]
        for it in rows(db, "SELECT copy_id FROM placement WHERE record_id = ANY(CAST(:ids AS bigint[])) ORDER BY copy_id", ids=records)
    ]


def move(db: Session, to: dict[int, int]) -> list[int]:
    """Place copies with other records (copy to record); the records that this changed, old and new."""
    moved = rows(
        db,
        """WITH moving AS (SELECT u.copy, u.record, p.record_id AS old FROM unnest(CAST(:copies AS bigint[]), CAST(:records AS bigint[])) u(copy, record)
            JOIN placement p ON p.copy_id = u.copy WHERE p.record_id <> u.record),
        done AS (UPDATE placement p SET record_id = m.record FROM moving m WHERE p.copy_id = m.copy)
        SELECT old, record FROM moving""",
        copies=list(to), records=list(to.values()),
    )  # fmt: skip
    return sorted({it["old"] for it in moved} | {it["record"] for it in moved})


def rebuild(db: Session, review: int, records: list[int], trust: Sequence[str] = ()) -> None:
    """Make some kept records anew from their copies, or remove those that have none left. ``trust`` names sources, the most trusted first."""
    if not records:
        return
    rank = {source: k for k, source in enumerate(trust)}
    found = rows(
        db,
        f"""SELECT p.record_id, c.id, s.source AS of_source, {", ".join("c." + name for name in COLUMNS.split(", "))} FROM placement p JOIN copy c ON c.id = p.copy_id
        JOIN batch b ON b.id = p.batch_id JOIN search s ON s.id = b.search_id WHERE p.record_id = ANY(CAST(:ids AS bigint[])) ORDER BY p.record_id, c.id""",
        ids=records,
    )
    supplements = rows(
        db,
        """SELECT p.record_id, s.field, s.value, s.replaces FROM placement p JOIN supplement s ON s.copy_id = p.copy_id
        WHERE p.record_id = ANY(CAST(:ids AS bigint[])) AND s.withdrawn_at IS NULL ORDER BY s.id""",
        ids=records,
    )
    run(db, "DELETE FROM record WHERE id = ANY(CAST(:ids AS bigint[]))", ids=records)
    written(db, review)
    added: dict[int, list[Row]] = {}
    for it in supplements:
        added.setdefault(it["record_id"], []).append(it)
    groups: dict[int, list[Row]] = {}
    for it in found:
        groups.setdefault(it["record_id"], []).append(it)
    columns = ("id", "review_id", "whose", *FIELDS)
    with copying(db, "record", columns) as out:
        for record, copies in groups.items():
            merged, whose = merge([record_of(it) for it in copies], [rank.get(it["of_source"], len(rank)) for it in copies] if rank else ())
            merged = _supplemented(merged, added.get(record, []))
            owners = {name: copies[k]["id"] for name, k in whose.items()} if len(copies) > 1 else {}
            values = [list(v) if isinstance(v, tuple) else v for v in merged[:-1]]
            out.write_row((record, review, Jsonb(owners), *values, Jsonb([list(pair) for pair in merged.extra])))


def _supplemented(record: Record, added: Sequence[Row]) -> Record:
    """The record with its empty fields filled, and others as they were chosen."""
    for it in added:
        if it["replaces"] or not getattr(record, it["field"]):
            value = it["value"]
            values: dict[str, Any] = {it["field"]: tuple(value) if isinstance(value, list) else value}
            record = record._replace(**values)
    return record


_OPEN = """question q JOIN placement l ON l.copy_id = q.left_copy JOIN placement r ON r.copy_id = q.right_copy
    WHERE q.review_id = :review AND q.gone_trial_id IS NULL AND l.record_id <> r.record_id AND NOT EXISTS (SELECT 1 FROM ruling u WHERE u.review_id = :review
        AND NOT u.by_rule AND u.withdrawn_at IS NULL AND u.left_copy = q.left_copy AND u.right_copy = q.right_copy)"""


def open_questions(db: Session, review: int, question: int | None = None) -> Sequence[Row]:
    """Doubtful pairs, or one, that no person has answered and that are not in one group by now, the weightiest first.

    ``decided`` counts the two records that are decided already.
    """
    return rows(
        db,
        f"""SELECT q.id, q.left_copy, q.right_copy, q.score, q.later, q.kind, q.how, l.record_id AS left_record, r.record_id AS right_record,
        CASE WHEN q.held_until > now() THEN q.held_by END AS held_by, CASE WHEN q.held_until > now() THEN (SELECT a.full_name FROM account a WHERE a.id = q.held_by) END AS holder,
        (SELECT c.title FROM copy c WHERE c.id = q.left_copy) AS title,
        (SELECT count(*) FROM placement p WHERE p.record_id IN (l.record_id, r.record_id)) AS copies,
        (SELECT count(*) FROM standing s WHERE s.record_id IN (l.record_id, r.record_id) AND s.first IN ('include', 'exclude')) AS decided
        FROM {_OPEN} {"" if question is None else "AND q.id = :question"} ORDER BY q.later, q.score DESC, q.id""",
        review=review, **({} if question is None else {"question": question}),
    )  # fmt: skip


def count_open_questions(db: Session, review: int) -> int:
    """How many `open_questions` there are."""
    return int(scalar(db, f"SELECT count(*) FROM {_OPEN}", review=review))
