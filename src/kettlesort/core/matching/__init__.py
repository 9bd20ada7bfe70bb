"""Finding copies: blocking, comparing, grouping."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

from kettlesort.core.matching.blocking import candidates
from kettlesort.core.matching.compare import ASK, JOIN, Evidence, evidence, score
from kettlesort.core.matching.features import Features, features_of
from kettlesort.core.matching.grouping import Groups
from kettlesort.core.matching.merging import merge, primary
from kettlesort.core.record import Record

__all__ = ["ASK", "JOIN", "Evidence", "Groups", "Matching", "Pair", "evidence", "explain", "match", "merge", "primary"]


class Pair(NamedTuple):
    """Two positions (left < right), the weight of the evidence, and ``same`` or ``unsure``."""

    left: int
    right: int
    score: float
    verdict: str


class Matching(NamedTuple):
    """``pairs`` were joined (``same``) or wait for a person (``unsure``); ``groups`` follow from the joined ones."""

    pairs: list[Pair]
    groups: Groups


def match(
    records: Sequence[Record],
    *,
    same: Iterable[tuple[int, int]] = (),
    different: Iterable[tuple[int, int]] = (),
    first_new: int = 0,
    join: float = JOIN,
    ask: float = ASK,
    tick: Callable[[float], None] | None = None,
) -> Matching:
    """Find the copies among ``records``.

    Parameters
    ----------
    records : sequence of n records
    same, different : pairs of positions that a person, or an earlier run, has settled; they always hold
    first_new : only pairs with a position of at least this are looked for (late arrivals against what is there)
    join, ask : weights from which a pair is joined, and from which a person is asked
    tick : called with the share done, 0 to 1, now and then; may raise to cancel

    The result does not depend on anything but the arguments.
    """
    tick = tick or (lambda _: None)
    features: list[Features] = []
    for k, record in enumerate(records):
        if k % 2000 == 0:
            tick(0.35 * k / len(records))
        features.append(features_of(record))
    looked = sorted(candidates(features, first_new, lambda k: tick(0.35 + 0.3 * k / len(features))))
    settled_same = {_ordered(pair) for pair in same}
    settled_different = {_ordered(pair) for pair in different}
    groups = Groups(len(records), settled_different)
    for i, j in sorted(settled_same):
        groups.join(i, j)
    sure: list[Pair] = []
    doubtful: list[Pair] = []
    for k, (i, j) in enumerate(looked):
        if k % 5000 == 0:
            tick(0.65 + 0.35 * k / len(looked))
        if (i, j) in settled_same or (i, j) in settled_different:
            continue
        weight = score(features[i], features[j])
        if weight >= join:
            sure.append(Pair(i, j, weight, "same"))
        elif weight >= ask:
            doubtful.append(Pair(i, j, weight, "unsure"))
        elif weight < 0:
            groups.keep_apart(i, j)
    pairs: list[Pair] = []
    for pair in sorted(sure, key=lambda it: (-it.score, it.left, it.right)):
        if groups.join(pair.left, pair.right):
            pairs.append(pair)
        else:
            doubtful.append(pair._replace(verdict="unsure"))
    pairs += _questions(doubtful, groups, settled_different)
    return Matching(sorted(pairs), groups)


def _questions(doubtful: list[Pair], groups: Groups, settled: set[tuple[int, int]]) -> list[Pair]:
    """One question for each two groups, the one with most evidence, unless a person has told them apart."""
    answered = {_ordered((groups.of(i), groups.of(j))) for i, j in settled}
    best: dict[tuple[int, int], Pair] = {}
    for pair in sorted(doubtful, key=lambda it: (-it.score, it.left, it.right)):
        key = _ordered((groups.of(pair.left), groups.of(pair.right)))
        if key[0] != key[1] and key not in answered:
            best.setdefault(key, pair)
    return list(best.values())


def _ordered(pair: tuple[int, int]) -> tuple[int, int]:
    i, j = pair
    return (i, j) if i < j else (j, i)


def explain(a: Record, b: Record) -> list[Evidence]:
    """What each field of two records says about their being the same report."""
    return evidence(features_of(a), features_of(b))
