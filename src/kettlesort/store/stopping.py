"""What has been answered in the first pass, and random samples of what has not."""

from __future__ import annotations

from collections.abc import Sequence

from sqlmodel import Session

from kettlesort.store.base import Moment, Row, Table, key, moment, reference
from kettlesort.store.sql import column, copying, row, rows, scalar


class ScreenSample(Table, table=True):
    """A random sample of the records that were undecided then, drawn by a ``seed``, to tell what is left."""

    __tablename__ = "screen_sample"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    seed: int
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    withdrawn_at: Moment | None = moment(null=True)


class Sampled(Table, table=True):
    """A record of a sample, at its ``place`` there. It hangs on a copy like a verdict."""

    sample_id: int = reference("screen_sample.id", primary=True)
    copy_id: int = reference("copy.id", primary=True)
    place: int


def answered(db: Session, review: int) -> Sequence[Row]:
    """The records that the first pass has settled, in the order in which they were, and when; ``included`` or not."""
    return rows(
        db,
        """SELECT s.record_id, s.first = 'include' AS included, max(v.id) AS last, max(v.at) AS at FROM standing s JOIN placement p ON p.record_id = s.record_id
        JOIN verdict v ON v.copy_id = p.copy_id AND v.pass_number = 1 AND v.withdrawn_at IS NULL
        WHERE s.review_id = :review AND s.first IN ('include', 'exclude') GROUP BY s.record_id ORDER BY last""",
        review=review,
    )


_UNDECIDED = """SELECT s.record_id, s.first, EXISTS (SELECT 1 FROM placement p JOIN {verdicts} v ON v.copy_id = p.copy_id
    WHERE p.record_id = s.record_id AND v.pass_number = 1 AND v.withdrawn_at IS NULL) AS touched
    FROM standing s WHERE s.review_id = :review AND (s.first IN ('open', 'unsure', 'differs') OR s.narrowing_id = :stopped)"""


def undecided(db: Session, review: int, *, by_all: bool = False) -> Sequence[Row]:
    """The records that the first pass has not settled; ``touched`` if somebody has decided on one, as far as the viewer may know, or ``by_all``."""
    listed = _UNDECIDED.format(verdicts="verdict" if by_all else "seen_verdict")
    return rows(db, f"{listed} ORDER BY s.record_id", review=review, stopped=None)


def how_many_undecided(db: Session, review: int, stopped: int | None = None) -> tuple[int, int]:
    """How many records the first pass has not settled, with those that the narrowing of having ``stopped`` holds aside; and how many of them nobody
    has decided on, as far as the viewer may know."""
    counted = "SELECT count(*) AS n, count(*) FILTER (WHERE NOT touched) AS unread"
    found = row(db, f"{counted} FROM ({_UNDECIDED.format(verdicts='seen_verdict')}) u", review=review, stopped=stopped)
    return (found["n"], found["unread"]) if found else (0, 0)


def verdict_before(db: Session, review: int, at: Moment) -> int:
    """The number of the last verdict that was given before a moment."""
    return int(scalar(db, "SELECT coalesce(max(id), 0) FROM verdict WHERE review_id = :review AND at < :at", review=review, at=at))


def latest_sample(db: Session, review: int) -> Row | None:
    """The sample that was drawn last and not withdrawn."""
    return row(
        db,
        """SELECT m.id, m.seed, m.at, a.full_name AS by FROM screen_sample m JOIN account a ON a.id = m.account_id
        WHERE m.review_id = :review AND m.withdrawn_at IS NULL ORDER BY m.id DESC LIMIT 1""",
        review=review,
    )


def sampled(db: Session, sample: int) -> list[int]:
    """The records of a sample that are not set aside, in its sequence."""
    return column(
        db,
        """SELECT s.record_id FROM sampled m JOIN placement p ON p.copy_id = m.copy_id JOIN standing s ON s.record_id = p.record_id
        WHERE m.sample_id = :sample AND s.first <> 'aside' GROUP BY s.record_id ORDER BY min(m.place)""",
        sample=sample,
    )


def add_sampled(db: Session, sample: int, records: Sequence[int]) -> None:
    """Write a sample down."""
    with copying(db, "sampled", ("sample_id", "copy_id", "place")) as out:
        for place, record in enumerate(records, 1):
            out.write_row((sample, record, place))
