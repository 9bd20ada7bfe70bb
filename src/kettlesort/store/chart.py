"""Studies with their reports, and charted values."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any, NamedTuple

from sqlalchemy import Column, Index, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, one_of, reference
from kettlesort.store.sql import column, row, rows, run, scalar, tuples


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
    """A charted value with its quote. Appended; the latest for an item and its levels holds, an empty one clears. With a ``reader_id`` it is what that one of
    two extractors read, and no value of the table: the table is read from the view ``charted``, which has none of these.

    ``how`` it came: typed, pasted, marked (in the report), accepted (as proposed), changed (after a proposal), derived (from other numbers), carried (over to
    a changed codebook or another study), agreed (two extractors read the same), settled (between them). ``unfit`` says why it does not fit its item since the codebook changed.
    ``model`` names the language model that proposed it, "" for none.
    """

    __table_args__ = (
        one_of("how", "typed", "pasted", "marked", "accepted", "changed", "derived", "carried", "agreed", "settled"),
        Index("ix_value_item_id", "item_id"),
        Index("ix_value_review", "review_id", "id"),
        Index("ix_value_read", "review_id", "id", postgresql_where=text("reader_id IS NOT NULL")),
    )

    id: int | None = key()
    review_id: int = reference("review.id")
    study_id: int = reference("study.id", index=True)
    item_id: int = reference("item.id")
    arm_id: int | None = reference("level.id", null=True)
    outcome_id: int | None = reference("level.id", null=True)
    time_id: int | None = reference("level.id", null=True)
    text: str
    quote: str = ""
    page: str = ""
    copy_id: int | None = reference("copy.id", null=True)
    """The report that the quote is from."""
    how: str = "typed"
    model: str = ""
    unfit: str = ""
    derived: dict[str, Any] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True), nullable=True))
    """What it was worked out from: ``way``, ``givens`` or ``arms``, and by which formula (``by``)."""
    reader_id: int | None = reference("account.id", null=True)
    account_id: int = reference("account.id")
    at: Moment | None = moment()


class ToldApart(Table, table=True):
    """Two reports that a person called ones of different studies, named by copies of their records. Appended; taken back by time."""

    __tablename__ = "told_apart"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    left_copy: int = reference("copy.id")
    right_copy: int = reference("copy.id")
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    withdrawn_at: Moment | None = moment(null=True)


class EvidenceView(Table, table=True):
    """How a person likes to see the evidence table of a review."""

    __tablename__ = "evidence_view"

    review_id: int = reference("review.id", primary=True)
    account_id: int = reference("account.id", primary=True)
    content: dict[str, Any] = json_field({})


def ensure_study(db: Session, review: int, record: int, *, own: bool = False) -> None:
    """Give a record a study unless one of its copies has one: that of another report that a person called one of the same study, or its ``own``."""
    there = row(
        db, "SELECT 1 FROM placement p JOIN study_report r ON r.copy_id = p.copy_id WHERE p.record_id = :record LIMIT 1", record=record
    )
    if there is None:
        related = None if own else _related_study(db, record)
        made = related or row(db, "INSERT INTO study (review_id, label) VALUES (:review, '') RETURNING id", review=review)
        assert made is not None
        run(
            db,
            "INSERT INTO study_report (copy_id, review_id, study_id) VALUES (:record, :review, :study)",
            record=record,
            review=review,
            study=made["id"],
        )


def _related_study(db: Session, record: int) -> Row | None:
    """The study of another report that a person called one of the same study as this record."""
    return row(
        db,
        """SELECT x.study_id AS id FROM ruling u JOIN placement p ON p.copy_id IN (u.left_copy, u.right_copy)
        JOIN placement o ON o.copy_id = CASE WHEN p.copy_id = u.left_copy THEN u.right_copy ELSE u.left_copy END
        JOIN placement c ON c.record_id = o.record_id JOIN study_report x ON x.copy_id = c.copy_id
        WHERE p.record_id = :record AND u.related AND u.withdrawn_at IS NULL ORDER BY x.study_id LIMIT 1""",
        record=record,
    )


def reports(db: Session, review: int) -> Sequence[Row]:
    """Included reports with their studies and the number of their PDF: of several studies that joined copies had, the first."""
    return rows(
        db,
        """SELECT DISTINCT ON (s.record_id) s.record_id, r.title, r.authors, r.year, r.abstract, x.study_id, t.label, f.id AS file, f.filename, f.sha256
        FROM standing s JOIN record r ON r.id = s.record_id JOIN placement p ON p.record_id = s.record_id
        JOIN study_report x ON x.copy_id = p.copy_id JOIN study t ON t.id = x.study_id
        LEFT JOIN LATERAL (SELECT f.id, f.filename, f.sha256 FROM full_text f JOIN placement q ON q.copy_id = f.copy_id
            WHERE q.record_id = s.record_id AND f.sha256 IS NOT NULL AND f.taken_off_at IS NULL ORDER BY f.id DESC LIMIT 1) f ON true
        WHERE s.review_id = :review AND s.first = 'include' AND s.fulltext = 'obtained' AND s.second = 'include'
        ORDER BY s.record_id, x.study_id""",
        review=review,
    )


def values(db: Session, review: int, studies: Sequence[int] | None = None, *, read: bool = False) -> Sequence[Row]:
    """The value that holds for each study, or each of some ``studies``, item and levels. Those that extractors ``read`` for themselves are among them if
    they are asked for: they have a ``reader_id``."""
    return rows(
        db,
        f"""SELECT DISTINCT ON (v.reader_id, v.study_id, v.item_id, v.arm_id, v.outcome_id, v.time_id) v.id, v.study_id, v.item_id, v.arm_id, v.outcome_id,
            v.time_id, v.text, v.quote, v.page, v.how, v.unfit, v.derived, v.model, v.at, v.copy_id, v.reader_id, v.account_id, a.full_name AS by
        FROM {"value" if read else "charted"} v JOIN account a ON a.id = v.account_id WHERE v.review_id = :review
        AND (CAST(:studies AS bigint[]) IS NULL OR v.study_id = ANY(CAST(:studies AS bigint[])))
        ORDER BY v.reader_id, v.study_id, v.item_id, v.arm_id, v.outcome_id, v.time_id, v.id DESC""",
        review=review, studies=None if studies is None else list(studies),
    )  # fmt: skip


class Brief(NamedTuple):
    """A value that holds, without its words."""

    study: int
    item: int
    arm: int | None
    outcome: int | None
    time: int | None
    text: str
    quoted: bool
    how: str
    unfit: str
    model: str


def brief_values(db: Session, review: int, since: int = 0) -> list[Brief]:
    """The value that holds for each study, item and levels, of those that came after the value ``since``, without quotes: there may be very many."""
    found = tuples(
        db,
        """SELECT DISTINCT ON (study_id, item_id, arm_id, outcome_id, time_id) study_id, item_id, arm_id, outcome_id, time_id, text,
            quote <> '' OR page <> '', how, unfit, model
        FROM charted WHERE review_id = :review AND id > :since ORDER BY study_id, item_id, arm_id, outcome_id, time_id, id DESC""",
        review=review, since=since,
    )  # fmt: skip
    return list(map(Brief._make, found))


def charted_among(db: Session, review: int, studies: Collection[int]) -> set[int]:
    """Those of some studies for which a value stands."""
    found = column(
        db,
        """SELECT DISTINCT study_id FROM (SELECT DISTINCT ON (study_id, item_id, arm_id, outcome_id, time_id) study_id, text FROM charted
            WHERE review_id = :review AND study_id = ANY(CAST(:studies AS bigint[])) ORDER BY study_id, item_id, arm_id, outcome_id, time_id, id DESC) v
        WHERE text <> ''""",
        review=review, studies=list(studies),
    )  # fmt: skip
    return set(found)


_PARTS = (
    "study_id",
    "item_id",
    "arm_id",
    "outcome_id",
    "time_id",
    "text",
    "quote",
    "page",
    "copy_id",
    "how",
    "derived",
    "unfit",
    "model",
    "reader_id",
)


def append_value(db: Session, review: int, account: int, value: Mapping[str, Any]) -> dict[str, Any]:
    """Append a value that is made of the parts of a row of `values`; it holds from now on. Those parts."""
    parts = {name: value[name] for name in _PARTS}
    db.add(Value(review_id=review, account_id=account, **parts))
    db.flush()
    return parts


def versions(db: Session, review: int, cells: Collection[tuple[int, int]], account: int) -> Sequence[Row]:
    """Everything that ever stood in the cells of some studies and items, the latest last: of the table, and what somebody read for themselves."""
    return rows(
        db,
        f"""SELECT {", ".join(f"v.{name}" for name in _PARTS)} FROM unnest(CAST(:studies AS bigint[]), CAST(:items AS bigint[])) c(study, item)
        JOIN value v ON v.study_id = c.study AND v.item_id = c.item
        WHERE v.review_id = :review AND v.text <> '' AND (v.reader_id IS NULL OR v.reader_id = :account) ORDER BY v.id""",
        review=review, studies=[study for study, _ in cells], items=[item for _, item in cells], account=account,
    )  # fmt: skip


def left_behind(db: Session, study: int) -> Sequence[Row]:
    """What stood in the cells of a study that were emptied because its last report went to another one, before that."""
    return rows(
        db,
        """WITH ranked AS (SELECT v.*, row_number() OVER (PARTITION BY reader_id, item_id, arm_id, outcome_id, time_id ORDER BY id DESC) AS back FROM value v
            WHERE study_id = :study)
        SELECT b.study_id, b.item_id, b.arm_id, b.outcome_id, b.time_id, b.text, b.quote, b.page, b.copy_id, b.how, b.derived, b.unfit, b.model, b.reader_id
        FROM ranked a JOIN ranked b ON b.reader_id IS NOT DISTINCT FROM a.reader_id AND b.item_id = a.item_id AND b.arm_id IS NOT DISTINCT FROM a.arm_id AND b.outcome_id IS NOT DISTINCT FROM a.outcome_id
            AND b.time_id IS NOT DISTINCT FROM a.time_id AND b.back = 2
        WHERE a.back = 1 AND a.text = '' AND a.how = 'carried' AND b.text <> ''""",
        study=study,
    )


def read_since(db: Session, review: int, since: int) -> set[tuple[int, int, tuple[int | None, int | None, int | None]]]:
    """The cells of which an extractor read something, or took it back, after the value ``since``."""
    found = tuples(
        db,
        "SELECT DISTINCT study_id, item_id, arm_id, outcome_id, time_id FROM value WHERE review_id = :review AND id > :since AND reader_id IS NOT NULL",
        review=review, since=since,
    )  # fmt: skip
    return {(study, item, (arm, outcome, time)) for study, item, arm, outcome, time in found}


def last_value(db: Session, review: int) -> int:
    """The number of the value that was written last; 0 before the first."""
    return int(scalar(db, "SELECT max(id) FROM value WHERE review_id = :review", review=review) or 0)


def value_history(db: Session, study: int, item: int, levels: tuple[int | None, int | None, int | None], reader: int) -> Sequence[Row]:
    """Every value that a cell ever had, and what a ``reader`` read for themselves (``own``), newest first."""
    arm, outcome, time = levels
    return rows(
        db,
        """SELECT v.text, v.quote, v.page, v.how, v.unfit, v.derived, v.model, v.at, a.full_name AS by, p.record_id AS record,
            v.reader_id IS NOT NULL AS own
        FROM value v JOIN account a ON a.id = v.account_id LEFT JOIN placement p ON p.copy_id = v.copy_id
        WHERE v.study_id = :study AND v.item_id = :item AND v.arm_id IS NOT DISTINCT FROM CAST(:arm AS bigint)
        AND v.outcome_id IS NOT DISTINCT FROM CAST(:outcome AS bigint) AND v.time_id IS NOT DISTINCT FROM CAST(:time AS bigint)
        AND (v.reader_id IS NULL OR v.reader_id = :reader) ORDER BY v.id DESC""",
        study=study, item=item, arm=arm, outcome=outcome, time=time, reader=reader,
    )  # fmt: skip


def charted_studies(db: Session, review: int) -> int:
    """Included studies with a value for every data item, for each of the levels that it is asked for; those without any such level are not whole."""
    return int(
        scalar(
            db,
            """WITH asked AS (SELECT id, per FROM item WHERE review_id = :review AND removed_at IS NULL),
            included AS (SELECT DISTINCT x.study_id FROM standing s JOIN placement p ON p.record_id = s.record_id JOIN study_report x ON x.copy_id = p.copy_id
                WHERE s.review_id = :review AND s.first = 'include' AND s.fulltext = 'obtained' AND s.second = 'include'),
            sizes AS (SELECT i.study_id, greatest(count(*) FILTER (WHERE l.factor = 'arm'), 1) AS arms,
                greatest(count(*) FILTER (WHERE l.factor = 'outcome'), 1) AS outcomes, greatest(count(*) FILTER (WHERE l.factor = 'time'), 1) AS times
                FROM included i LEFT JOIN level l ON l.review_id = :review AND l.removed_at IS NULL AND (l.study_id IS NULL OR l.study_id = i.study_id)
                GROUP BY i.study_id),
            needed AS (SELECT s.study_id, sum(CASE WHEN a.per @> '["arm"]' THEN arms ELSE 1 END * CASE WHEN a.per @> '["outcome"]' THEN outcomes ELSE 1 END
                * CASE WHEN a.per @> '["time"]' THEN times ELSE 1 END) AS n FROM sizes s CROSS JOIN asked a GROUP BY s.study_id),
            held AS (SELECT DISTINCT ON (study_id, item_id, arm_id, outcome_id, time_id) study_id, text, unfit FROM charted v
                WHERE review_id = :review AND item_id IN (SELECT id FROM asked)
                AND NOT EXISTS (SELECT 1 FROM level l WHERE l.id IN (v.arm_id, v.outcome_id, v.time_id) AND l.removed_at IS NOT NULL)
                ORDER BY study_id, item_id, arm_id, outcome_id, time_id, id DESC),
            filled AS (SELECT study_id, count(*) AS n FROM held WHERE text <> '' AND unfit = '' GROUP BY study_id)
            SELECT count(*) FROM needed d JOIN filled f ON f.study_id = d.study_id AND f.n = d.n""",
            review=review,
        )
    )


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


def copies_of(db: Session, record: int) -> list[int]:
    """The copies of a record."""
    return column(db, "SELECT copy_id FROM placement WHERE record_id = :record", record=record)


def text_of(db: Session, record: int) -> tuple[str, str]:
    """Title and abstract of a record."""
    found = row(db, "SELECT title, abstract FROM record WHERE id = :record", record=record)
    return (found["title"], found["abstract"]) if found else ("", "")


def told_apart(db: Session, review: int) -> set[tuple[int, int]]:
    """Pairs of records that a person called ones of different studies, the lower one first."""
    found = rows(
        db,
        """SELECT least(a.record_id, b.record_id) AS one, greatest(a.record_id, b.record_id) AS other FROM told_apart t
        JOIN placement a ON a.copy_id = t.left_copy JOIN placement b ON b.copy_id = t.right_copy
        WHERE t.review_id = :review AND t.withdrawn_at IS NULL""",
        review=review,
    )
    return {(row["one"], row["other"]) for row in found}


def apart_with(db: Session, review: int, left: int, right: int) -> list[int]:
    """The numbers under which two records are called ones of different studies."""
    return column(
        db,
        """SELECT t.id FROM told_apart t JOIN placement a ON a.copy_id = t.left_copy JOIN placement b ON b.copy_id = t.right_copy
        WHERE t.review_id = :review AND t.withdrawn_at IS NULL AND ((a.record_id = :l AND b.record_id = :r) OR (a.record_id = :r AND b.record_id = :l))""",
        review=review, l=left, r=right,
    )  # fmt: skip
