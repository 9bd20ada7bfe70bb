"""Which copies are the same report: rulings, the groups that follow, and the kept records."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from psycopg.types.json import Jsonb
from sqlalchemy import ARRAY, BigInteger, Column, Index, Text, text
from sqlmodel import Field, Session

from kettlesort.core.matching import merge, supplemented
from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, reference
from kettlesort.store.gather import Fields, descriptors_of_keywords
from kettlesort.store.plan import written
from kettlesort.store.records import COLUMNS, FIELDS, record_of
from kettlesort.store.sql import column, copying, row, rows, run, scalar


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
    descriptors: list[str] = Field(default_factory=list, sa_column=descriptors_of_keywords())
    whose: dict[str, int] = json_field({})


_ADMIT = f"""
INSERT INTO record (id, review_id, whose, {COLUMNS})
SELECT c.id, c.review_id, '{{}}'::jsonb, {", ".join("c." + name for name in COLUMNS.split(", "))} FROM copy c WHERE c.id = ANY(CAST(:copies AS bigint[]))
"""


def admit(db: Session, batch: int) -> list[int]:
    """Give each copy of a batch that has none a place and a record of its own; these copies. Who admits says so with `written` when the review is locked."""
    copies = column(
        db,
        """INSERT INTO placement (copy_id, review_id, batch_id, record_id) SELECT id, review_id, batch_id, id FROM copy c WHERE batch_id = :batch
        AND NOT EXISTS (SELECT 1 FROM placement p WHERE p.copy_id = c.id) RETURNING copy_id""",
        batch=batch,
    )
    run(db, _ADMIT, copies=copies)
    return sorted(copies)


def placed(db: Session, review: int, *, new: bool = False, copies: Sequence[int] | None = None) -> Sequence[Row]:
    """Every placed copy, those of matched batches first, each part by id; only those of ``new`` files, or certain ``copies``."""
    batches = [row["id"] for row in rows(db, "SELECT id FROM batch WHERE review_id = :r AND NOT matched", r=review)] if new else []
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
        review=review, account=account, trial=trial, lefts=[pair[0] for pair in pairs], rights=[pair[1] for pair in pairs],
        weights=[pair[2] for pair in pairs], hows=[pair[3] for pair in pairs],
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
        row["copy_id"]
        for row in rows(db, "SELECT copy_id FROM placement WHERE record_id = ANY(CAST(:ids AS bigint[])) ORDER BY copy_id", ids=records)
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
    return sorted({row["old"] for row in moved} | {row["record"] for row in moved})


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
    for supplement in supplements:
        added.setdefault(supplement["record_id"], []).append(supplement)
    groups: dict[int, list[Row]] = {}
    for entry in found:
        groups.setdefault(entry["record_id"], []).append(entry)
    columns = ("id", "review_id", "whose", *FIELDS)
    with copying(db, "record", columns) as out:
        for record, copies in groups.items():
            merged, whose = merge(
                [record_of(copy) for copy in copies], [rank.get(copy["of_source"], len(rank)) for copy in copies] if rank else ()
            )
            merged = supplemented(merged, [(one["field"], one["value"], one["replaces"]) for one in added.get(record, [])])
            owners = {name: copies[k]["id"] for name, k in whose.items()} if len(copies) > 1 else {}
            values = [list(v) if isinstance(v, tuple) else v for v in merged[:-1]]
            out.write_row((record, review, Jsonb(owners), *values, Jsonb([list(pair) for pair in merged.extra])))


def records_of(db: Session, copies: Sequence[int]) -> list[int]:
    """The records that copies are placed with, ascending."""
    return column(
        db,
        "SELECT DISTINCT record_id FROM placement WHERE copy_id = ANY(CAST(:copies AS bigint[])) ORDER BY record_id",
        copies=list(copies),
    )


def placed_of_batch(db: Session, batch: int, most: int) -> list[int]:
    """Placed copies of a file, at most so many, those of one record together."""
    return column(
        db, "SELECT copy_id FROM placement WHERE batch_id = :batch ORDER BY record_id, copy_id LIMIT :most", batch=batch, most=most
    )


def title_of(db: Session, copy: int) -> str:
    """The title of a copy."""
    return str(scalar(db, "SELECT title FROM copy WHERE id = :copy", copy=copy) or "")


def record_here(db: Session, review: int, record: int) -> bool:
    """Whether a review has such a record."""
    return bool(scalar(db, "SELECT EXISTS (SELECT 1 FROM record WHERE id = :record AND review_id = :review)", record=record, review=review))


def record_of_copy(db: Session, review: int, copy: int) -> int | None:
    """The record that a copy of a review is placed with, if it is."""
    found = scalar(db, "SELECT record_id FROM placement WHERE copy_id = :copy AND review_id = :review", copy=copy, review=review)
    return None if found is None else int(found)


def said_in(db: Session, review: int, copy: int, field: str) -> Any:
    """What a placed copy says in one of `FIELDS`; ``None`` if there is no such copy in the review."""
    assert field in FIELDS
    found = row(
        db,
        f'SELECT c."{field}" AS value FROM copy c JOIN placement p ON p.copy_id = c.id WHERE c.id = :copy AND c.review_id = :review',
        copy=copy, review=review,
    )  # fmt: skip
    return None if found is None else found["value"] or ""


def unplace(db: Session, copies: Sequence[int]) -> None:
    """Some copies belong to no record any longer. What they held together is worked out by who calls."""
    run(db, "DELETE FROM placement WHERE copy_id = ANY(CAST(:copies AS bigint[]))", copies=list(copies))


def stand_alone(db: Session, copies: Sequence[int]) -> None:
    """Each of some copies is a record of its own."""
    run(db, "UPDATE placement SET record_id = copy_id WHERE copy_id = ANY(CAST(:copies AS bigint[]))", copies=list(copies))


def of_people(
    db: Session, review: int, *, ids: Sequence[int] | None = None, copy: int | None = None, same: bool | None = False
) -> Sequence[Row]:
    """Rulings of people that are in force: certain ones, or those about a copy; that copies are the ``same``, that they differ, or either."""
    return rows(
        db,
        f"""SELECT * FROM ruling WHERE review_id = :review AND NOT by_rule AND withdrawn_at IS NULL
        {"" if ids is None else "AND id = ANY(CAST(:ids AS bigint[]))"} {"" if copy is None else "AND (left_copy = :copy OR right_copy = :copy)"}
        {"" if same is None else "AND same" if same else "AND NOT same"} ORDER BY id""",
        review=review, **({} if ids is None else {"ids": list(ids)}), **({} if copy is None else {"copy": copy}),
    )  # fmt: skip


def ruling_in_force(db: Session, ruling: int) -> Row | None:
    """A ruling, unless it was withdrawn."""
    return row(db, "SELECT * FROM ruling WHERE id = :ruling AND withdrawn_at IS NULL", ruling=ruling)


def latest_of_people(db: Session, review: int, left: int, right: int) -> int | None:
    """The latest ruling in force by a person on two copies, the lower first."""
    found = scalar(
        db,
        """SELECT max(id) FROM ruling WHERE review_id = :review AND left_copy = :left AND right_copy = :right AND NOT by_rule AND withdrawn_at IS NULL""",
        review=review, left=left, right=right,
    )  # fmt: skip
    return None if found is None else int(found)


def replace_by(db: Session, account: int, rulings: Sequence[int]) -> None:
    """What people had said of the pairs of these rulings, that they are the same, holds no longer, in favour of these."""
    run(
        db,
        """UPDATE ruling r SET withdrawn_at = clock_timestamp(), withdrawn_by = :account, replaced_by = d.id FROM ruling d WHERE d.id = ANY(CAST(:rulings AS bigint[]))
        AND r.left_copy = d.left_copy AND r.right_copy = d.right_copy AND NOT r.by_rule AND r.same AND r.withdrawn_at IS NULL""",
        account=account, rulings=list(rulings),
    )  # fmt: skip


def replaced_by(db: Session, rulings: Sequence[int]) -> Sequence[Row]:
    """What people had said of pairs until these rulings took its place."""
    return rows(
        db,
        "SELECT DISTINCT left_copy, right_copy, account_id FROM ruling WHERE replaced_by = ANY(CAST(:rulings AS bigint[]))",
        rulings=list(rulings),
    )


def joined_by_rule(db: Session, review: int) -> Sequence[Row]:
    """The pairs that a rule joins and that are in one record."""
    return rows(
        db,
        """SELECT u.left_copy, u.right_copy, coalesce(u.score, 0) AS score FROM ruling u JOIN placement a ON a.copy_id = u.left_copy JOIN placement b ON b.copy_id = u.right_copy
        WHERE u.review_id = :review AND u.same AND u.by_rule AND u.withdrawn_at IS NULL AND a.record_id = b.record_id ORDER BY u.id""",
        review=review,
    )


def placements(db: Session, review: int) -> dict[int, int]:
    """The record of every copy of a review."""
    found = rows(db, "SELECT copy_id, record_id FROM placement WHERE review_id = :review ORDER BY copy_id", review=review)
    return {row["copy_id"]: row["record_id"] for row in found}


def several(db: Session, review: int) -> list[int]:
    """The records of more than one copy."""
    return column(
        db,
        "SELECT record_id FROM placement WHERE review_id = :review GROUP BY record_id HAVING count(*) > 1 ORDER BY record_id",
        review=review,
    )


def unchoose(db: Session, record: int, field: str, source: str) -> None:
    """Values of a field that came to a record from this source hold no longer."""
    run(
        db,
        """UPDATE supplement s SET withdrawn_at = clock_timestamp() FROM placement p WHERE p.copy_id = s.copy_id AND p.record_id = :record AND s.field = :field
        AND s.source = :source AND s.withdrawn_at IS NULL""",
        record=record, field=field, source=source,
    )  # fmt: skip


def withdraw_supplements(db: Session, review: int, supplements: Sequence[int]) -> Sequence[Row]:
    """Values that were filled in hold no longer; those that did until now."""
    return rows(
        db,
        """UPDATE supplement SET withdrawn_at = clock_timestamp() WHERE review_id = :review AND id = ANY(CAST(:ids AS bigint[])) AND withdrawn_at IS NULL
        RETURNING copy_id, field, value""",
        review=review, ids=list(supplements),
    )  # fmt: skip
