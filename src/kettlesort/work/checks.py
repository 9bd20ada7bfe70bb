"""Checking by hand: a sample of what was joined, or left apart, and what it says about the errors."""

from __future__ import annotations

import random
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import NamedTuple

from kettlesort.core.matching import Estimate, share_of
from kettlesort.store import checks as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.checks import CheckedPair, CheckSample
from kettlesort.store.match import joined_by_rule, latest_of_people, placements, ruling_in_force
from kettlesort.store.trial import left_apart
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.match import withdraw_all
from kettlesort.work.questions import Side, rule_on, sides

OF = ("joined", "apart")


class Sample(NamedTuple):
    """A sample: how many of its pairs are answered and wrong, and the share of errors in all with its interval."""

    row: Row
    size: int
    answered: int
    wrong: int
    estimate: Estimate


def draw(review: int, account: int, of: str, size: int, seed: int | None = None) -> int:
    """Draw pairs at random of those that a rule joined or that were left apart; the sample."""
    if of not in OF:
        raise Invalid("A sample is of what was joined, or of what was left apart.", field="of")
    if not 1 <= size <= 500:
        raise Invalid("A sample has 1 to 500 pairs.", field="size")
    with changing(review, account, "match") as change:
        population, pairs = _joined(change) if of == "joined" else _apart(change)
        if not pairs:
            raise Conflict("There is nothing to draw from yet; it comes with the first matching.")
        made = CheckSample(review_id=review, of=of, population=population, account_id=account)
        change.db.add(made)
        change.db.flush()
        assert made.id is not None
        for left, right, score in sorted(random.Random(seed).sample(pairs, min(size, len(pairs)))):
            change.db.add(CheckedPair(sample_id=made.id, left_copy=left, right_copy=right, score=score))
        change.event("match.sample_drawn", of, None, {"pairs": min(size, len(pairs)), "of": population})
        return made.id


def _joined(change: Change) -> tuple[int, list[tuple[int, int, float]]]:
    found = joined_by_rule(change.db, change.review)
    return len(found), [(r["left_copy"], r["right_copy"], r["score"]) for r in found]


def _apart(change: Change) -> tuple[int, list[tuple[int, int, float]]]:
    population, kept = left_apart(change.db, change.review)
    place = placements(change.db, change.review)
    return population, [(a, b, w) for a, b, w in kept if a in place and b in place and place[a] != place[b]]


def samples(review: int) -> list[Sample]:
    """All samples, the latest first."""
    with snapshot() as db:
        return [
            Sample(sample, sample["size"], sample["answered"], sample["wrong"], share_of(sample["wrong"], sample["answered"]))
            for sample in store.samples(db, review)
        ]


def pairs(review: int, sample: int) -> list[tuple[Row, Side, Side]]:
    """The pairs of a sample, those without answer first."""
    with snapshot() as db:
        found = store.pairs(db, review, sample)
        if not found:
            raise NotFound("There is no such sample in this review.")
        by = {side.id: side for side in sides(db, sorted({c for row in found for c in (row["left_copy"], row["right_copy"])}))}
        return [(row, by[row["left_copy"]], by[row["right_copy"]]) for row in found]


def answer(review: int, account: int, pair: int, same: bool | None) -> Sequence[str]:
    """Say what a pair of a sample is, or with ``None`` take it back. An answer that finds an error also mends it: it counts as a ruling."""
    with changing(review, account, "match") as change:
        found = change.db.get(CheckedPair, pair)
        sample = change.db.get(CheckSample, found.sample_id) if found else None
        if found is None or sample is None or sample.review_id != review:
            raise NotFound("There is no such pair in a sample of this review.")
        if found.ruling_id is not None:  # what an answer before this one mended is as it was
            ruling, found.ruling_id = found.ruling_id, None
            _withdraw(change, ruling)
        before, found.same = found.same, same
        found.account_id, found.answered_at = (account, datetime.now(UTC)) if same is not None else (None, None)
        change.event("match.checked", f"Pair {pair}", before, same)
        if same is not None and same == (sample.of == "apart"):
            told = rule_on(change, found.left_copy, found.right_copy, "same" if same else "different", found.score)
            left, right = sorted((found.left_copy, found.right_copy))
            found.ruling_id = latest_of_people(change.db, review, left, right)
            return told
        return []


def _withdraw(change: Change, ruling: int) -> None:
    held = ruling_in_force(change.db, ruling)
    if held is not None:
        withdraw_all(change, [held])
