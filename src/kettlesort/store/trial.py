"""The team's rule of matching, what was learnt from the review, matchings on trial, keys to find copies by, and checks by hand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import BigInteger
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, copying, json_field, key, moment, one_of, reference, row, rows, run


class MatchRule(Table, table=True):
    """A version of the team's rule; the latest is in force. ``text`` is its file."""

    __tablename__ = "match_rule"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    version: int
    text: str
    account_id: int = reference("account.id")
    at: Moment | None = moment()


class LearntOf(Table, table=True):
    """What matching learnt from a review's copies: common words, shared DOIs, weights."""

    __tablename__ = "learnt"

    review_id: int = reference("review.id", primary=True)
    data: dict[str, Any] = json_field({})
    at: Moment | None = moment()


class Trial(Table, table=True):
    """A matching of the whole review under another rule. State: waiting, ready, failed, applied or undone.

    ``mark`` tells whether the review has changed since; ``summary`` holds its counts and its curve.
    """

    __table_args__ = (one_of("state", "waiting", "ready", "failed", "applied", "undone"),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    rule: str
    state: str = "waiting"
    mark: list[int] = json_field([])
    summary: dict[str, Any] = json_field({})
    learnt: dict[str, Any] = json_field({})
    failure: str = ""
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    applied_at: Moment | None = moment(null=True)
    applied_by: int | None = reference("account.id", null=True)
    undone_at: Moment | None = moment(null=True)
    undone_by: int | None = reference("account.id", null=True)


class TrialPair(Table, table=True):
    """A pair that a trial joins or asks about, or that it shows for another reason.

    ``change`` is what applying it would do: join, part, ask, answer (no longer asked), or "" for none; ``edge`` is the field by
    which it just fails the pass ``how``.
    """

    __tablename__ = "trial_pair"

    id: int | None = key()
    trial_id: int = reference("trial.id", index=True)
    left_copy: int = reference("copy.id", index=True)
    right_copy: int = reference("copy.id", index=True)
    score: float
    verdict: str
    how: str
    kind: str
    change: str
    edge: str


class MatchKey(Table, table=True):
    """A key under which copies are compared, and the place of the copy among those that share it (`core.matching.keys`)."""

    __tablename__ = "match_key"

    review_id: int = reference("review.id", primary=True)
    key: int = Field(primary_key=True, sa_type=BigInteger)
    place: int = Field(primary_key=True, sa_type=BigInteger)
    copy_id: int = Field(foreign_key="copy.id", primary_key=True, index=True, sa_type=BigInteger)


class CheckSample(Table, table=True):
    """Pairs drawn at random to be checked by hand, ``of`` those joined by rule or those left apart; ``population`` is how many there were."""

    __tablename__ = "check_sample"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    of: str
    population: int
    account_id: int = reference("account.id")
    at: Moment | None = moment()


class CheckedPair(Table, table=True):
    """A pair of a sample, and what a person found."""

    __tablename__ = "checked_pair"

    id: int | None = key()
    sample_id: int = reference("check_sample.id", index=True)
    left_copy: int = reference("copy.id")
    right_copy: int = reference("copy.id")
    score: float
    same: bool | None = None
    account_id: int | None = reference("account.id", null=True)
    answered_at: Moment | None = moment(null=True)
    ruling_id: int | None = reference("ruling.id", null=True)


def rule_in_force(db: Session, review: int) -> Row | None:
    """The latest version of a review's rule."""
    return row(
        db,
        """SELECT m.id, m.version, m.text, m.at, a.full_name AS by FROM match_rule m JOIN account a ON a.id = m.account_id
        WHERE m.review_id = :r ORDER BY m.version DESC LIMIT 1""",
        r=review,
    )


def write_keys(db: Session, review: int, keys: Sequence[tuple[int, int, int]]) -> None:
    """Keep keys (key, place, copy) of copies that have none yet, thousands a second."""
    with copying(db, "match_key", ("review_id", "key", "place", "copy_id")) as out:
        for value, place, copy in keys:
            out.write_row((review, value, place, copy))


def unkeyed(db: Session, review: int) -> bool:
    """Whether some matched copies have no keys, as from before keys were kept."""
    return row(db, "SELECT 1 FROM batch WHERE review_id = :r AND state = 'taken' AND matched AND NOT keyed LIMIT 1", r=review) is not None


def neighbours(db: Session, review: int, asked: Sequence[tuple[int, int]], window: int) -> list[int]:
    """Copies of matched files next to these keys at these places; time of the keys asked for."""
    found = rows(
        db,
        """SELECT DISTINCT n.copy_id FROM unnest(CAST(:keys AS bigint[]), CAST(:places AS bigint[])) a(key, place) CROSS JOIN LATERAL (
            (SELECT m.copy_id FROM match_key m WHERE m.review_id = :r AND m.key = a.key AND m.place >= a.place ORDER BY m.place, m.copy_id LIMIT :w)
            UNION ALL
            (SELECT m.copy_id FROM match_key m WHERE m.review_id = :r AND m.key = a.key AND m.place < a.place ORDER BY m.place DESC, m.copy_id DESC LIMIT :w)
        ) n""",
        keys=[key for key, _ in asked], places=[place for _, place in asked], r=review, w=window,
    )  # fmt: skip
    return [it["copy_id"] for it in found]


def with_groups(db: Session, review: int, copies: Sequence[int]) -> list[int]:
    """Those of some copies that are placed, with all copies of their groups that are of matched files, ascending."""
    found = rows(
        db,
        """WITH near AS (SELECT DISTINCT record_id FROM placement WHERE review_id = :r AND copy_id = ANY(CAST(:copies AS bigint[])))
        SELECT g.copy_id FROM near JOIN placement g ON g.record_id = near.record_id JOIN batch b ON b.id = g.batch_id
        WHERE b.matched ORDER BY g.copy_id""",
        copies=list(copies), r=review,
    )  # fmt: skip
    return [it["copy_id"] for it in found]


def without_keys(db: Session, batches: Sequence[int]) -> list[int]:
    """The placed copies of those of some files whose keys are not kept yet."""
    found = rows(
        db,
        """SELECT p.copy_id FROM batch b JOIN placement p ON p.review_id = b.review_id AND p.batch_id = b.id
        WHERE b.id = ANY(CAST(:batches AS bigint[])) AND NOT b.keyed ORDER BY p.copy_id""",
        batches=list(batches),
    )
    return [it["copy_id"] for it in found]


def mark_matched(db: Session, batches: Sequence[int], keyed: Sequence[int]) -> None:
    """The copies of some files are matched now, and those of some are kept with their keys."""
    run(db, "UPDATE batch SET matched = TRUE WHERE id = ANY(CAST(:ids AS bigint[])) AND state = 'taken'", ids=list(batches))
    run(db, "UPDATE batch SET keyed = TRUE WHERE id = ANY(CAST(:ids AS bigint[])) AND state = 'taken'", ids=list(keyed))
