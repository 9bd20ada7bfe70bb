"""Narrowing: records that a query of the team's sets aside before screening."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Index, text
from sqlmodel import Session

from kettlesort.store.base import Moment, Row, Table, key, moment, reference
from kettlesort.store.sql import column, rows, run, scalar


class Narrowing(Table, table=True):
    """A rule by which records are set aside: those that the query finds, or with ``keep`` those that it does not.

    One ``by_hand`` holds what a person picked. ``abstract`` is "", "yes" or "no". ``spare`` leaves seeds and included records in. ``again`` applies it to what comes later.
    """

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    name: str
    query: str
    abstract: str = ""
    keep: bool
    by_hand: bool = False
    spare: bool = True
    again: bool = False
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    withdrawn_at: Moment | None = moment(null=True)

    @property
    def has_rule(self) -> bool:
        """Whether it follows a rule that could be applied to what comes later; the others set aside what there was at one moment."""
        return bool(self.query or self.abstract)


_HAS_RULE = "(n.query <> '' OR n.abstract <> '')"
_NOT_READ_SINCE = """NOT EXISTS (SELECT 1 FROM placement p JOIN placement o ON o.record_id = p.record_id JOIN verdict v ON v.copy_id = o.copy_id
    WHERE p.copy_id = d.copy_id AND v.withdrawn_at IS NULL AND v.at > d.released_at)"""


class Narrowed(Table, table=True):
    """A copy whose record a narrowing set aside, until it is released: by itself, or ``with_all`` when the narrowing was taken back."""

    __table_args__ = (Index("ix_narrowed_copy_id", "copy_id", postgresql_where=text("released_at IS NULL")),)

    narrowing_id: int = reference("narrowing.id", primary=True)
    copy_id: int = reference("copy.id", primary=True)
    account_id: int = reference("account.id")
    released_at: Moment | None = moment(null=True)
    with_all: bool = False


def release(db: Session, review: int, records: Sequence[int]) -> list[tuple[int, int]]:
    """Release records from every narrowing that holds them aside; what was released, narrowing and copy."""
    found = rows(
        db,
        """UPDATE narrowed d SET released_at = clock_timestamp() FROM placement p, narrowing n WHERE p.copy_id = d.copy_id AND p.review_id = :review
        AND p.record_id = ANY(CAST(:records AS bigint[])) AND n.id = d.narrowing_id AND n.withdrawn_at IS NULL AND d.released_at IS NULL
        RETURNING d.narrowing_id, d.copy_id""",
        review=review, records=list(records),
    )  # fmt: skip
    return sorted((row["narrowing_id"], row["copy_id"]) for row in found)


def hold_again(db: Session, review: int, released: Sequence[tuple[int, int]]) -> list[int]:
    """Hold aside again what was released one by one, unless its narrowing was taken back or somebody has read it since; the copies."""
    found = rows(
        db,
        f"""UPDATE narrowed d SET released_at = NULL FROM unnest(CAST(:narrowings AS bigint[]), CAST(:copies AS bigint[])) u(n, c), narrowing n
        WHERE d.narrowing_id = u.n AND d.copy_id = u.c AND n.id = u.n AND n.review_id = :review AND n.withdrawn_at IS NULL
        AND d.released_at IS NOT NULL AND {_NOT_READ_SINCE} RETURNING d.copy_id""",
        review=review, narrowings=[n for n, _ in released], copies=[c for _, c in released],
    )  # fmt: skip
    return [row["copy_id"] for row in found]


def narrowings(db: Session, review: int) -> Sequence[Row]:
    """All narrowings, the newest first, with how many records each holds aside, and how many it would if none were released."""
    return rows(
        db,
        f"""SELECT n.*, {_HAS_RULE} AS has_rule, a.full_name AS by, (SELECT count(*) FROM standing s WHERE s.review_id = :review AND s.narrowing_id = n.id) AS records,
        (SELECT count(*) FROM narrowed d WHERE d.narrowing_id = n.id AND d.released_at IS NOT NULL) AS released
        FROM narrowing n JOIN account a ON a.id = n.account_id WHERE n.review_id = :review ORDER BY n.id DESC""",
        review=review,
    )


def set_aside_by(db: Session, review: int) -> Sequence[Row]:
    """How many records each narrowing holds aside, by route."""
    return rows(
        db,
        """SELECT n.id, n.name, n.by_hand, s.main, count(*) AS n FROM standing s JOIN narrowing n ON n.id = s.narrowing_id
        WHERE s.review_id = :review AND s.narrowing_id IS NOT NULL GROUP BY n.id, n.name, n.by_hand, s.main ORDER BY n.id""",
        review=review,
    )


def with_abstracts(db: Session, review: int, among: Sequence[int] | None = None) -> dict[int, bool]:
    """The records of a review, or those among some, and whether each has an abstract."""
    found = rows(
        db,
        """SELECT id, abstract <> '' AS whole FROM record WHERE review_id = :review
        AND (CAST(:among AS bigint[]) IS NULL OR id = ANY(CAST(:among AS bigint[])))""",
        review=review, among=None if among is None else list(among),
    )  # fmt: skip
    return {row["id"]: row["whole"] for row in found}


def put(db: Session, narrowing: int, account: int, records: Sequence[int]) -> None:
    """Let a narrowing hold records aside."""
    run(
        db,
        """INSERT INTO narrowed (narrowing_id, copy_id, account_id, with_all) SELECT :narrowing, unnest(CAST(:records AS bigint[])), :account, FALSE
        ON CONFLICT (narrowing_id, copy_id) DO UPDATE SET released_at = NULL, with_all = FALSE""",
        narrowing=narrowing, records=list(records), account=account,
    )  # fmt: skip


def release_all(db: Session, narrowing: int) -> list[int]:
    """A narrowing is taken back: the copies that it held until now."""
    return column(
        db,
        "UPDATE narrowed SET released_at = clock_timestamp(), with_all = TRUE WHERE narrowing_id = :narrowing AND released_at IS NULL RETURNING copy_id",
        narrowing=narrowing,
    )


def hold_all_again(db: Session, narrowing: int) -> list[int]:
    """A narrowing that was taken back holds again what it held then and nobody has read since; the copies."""
    return column(
        db,
        f"""UPDATE narrowed d SET released_at = NULL, with_all = FALSE WHERE d.narrowing_id = :narrowing AND d.released_at IS NOT NULL AND d.with_all
        AND {_NOT_READ_SINCE} RETURNING d.copy_id""",
        narrowing=narrowing,
    )


def stopped_and_gone_on(db: Session, review: int, narrowing: int) -> bool:
    """Whether a narrowing came from stopping the first pass, and since it was taken back decisions were made or another stop."""
    found = scalar(
        db,
        """SELECT EXISTS (SELECT 1 FROM event WHERE review_id = :review AND kind = 'screen.stopped' AND CAST(after ->> 'narrowing' AS bigint) = :narrowing)
        AND (EXISTS (SELECT 1 FROM verdict WHERE review_id = :review AND pass_number = 1 AND at > b.back)
            OR EXISTS (SELECT 1 FROM event WHERE review_id = :review AND kind = 'screen.stopped' AND at > b.back))
        FROM (SELECT max(released_at) AS back FROM narrowed WHERE narrowing_id = :narrowing AND with_all) b""",
        review=review, narrowing=narrowing,
    )  # fmt: skip
    return bool(found)


def to_be_repeated(db: Session, review: int) -> list[int]:
    """The narrowings that are applied to what comes later."""
    return column(
        db,
        f"SELECT n.id FROM narrowing n WHERE n.review_id = :review AND n.again AND {_HAS_RULE} AND n.withdrawn_at IS NULL ORDER BY n.id",
        review=review,
    )


def seen_by(db: Session, narrowing: int) -> set[int]:
    """The copies that a narrowing has ever held."""
    return set(column(db, "SELECT copy_id FROM narrowed WHERE narrowing_id = :narrowing", narrowing=narrowing))
