"""Checks by hand: samples of what was joined, or left apart, and what people found."""

from __future__ import annotations

from collections.abc import Sequence

from sqlmodel import Session

from kettlesort.store.base import Moment, Row, Table, key, moment, reference
from kettlesort.store.sql import rows


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


def samples(db: Session, review: int) -> Sequence[Row]:
    """The samples of a review: how many of their pairs there are, are answered, and are wrong; the latest first."""
    return rows(
        db,
        """SELECT s.id, s.of, s.population, s.at, a.full_name AS by, count(p.id) AS size, count(p.same) AS answered,
        count(*) FILTER (WHERE p.same = (s.of = 'apart')) AS wrong FROM check_sample s JOIN account a ON a.id = s.account_id
        JOIN checked_pair p ON p.sample_id = s.id WHERE s.review_id = :review GROUP BY s.id, a.full_name ORDER BY s.id DESC""",
        review=review,
    )


def pairs(db: Session, review: int, sample: int) -> Sequence[Row]:
    """The pairs of a sample, those without answer first."""
    return rows(
        db,
        """SELECT p.* FROM checked_pair p JOIN check_sample s ON s.id = p.sample_id WHERE s.id = :sample AND s.review_id = :review
        ORDER BY p.same IS NOT NULL, p.id""",
        sample=sample, review=review,
    )  # fmt: skip
