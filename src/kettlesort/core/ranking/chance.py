"""How likely a record belongs, calibrated on the team's own decisions."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.special import expit, ndtri

from kettlesort.core.ranking import Ranker

Floats = NDArray[np.float64]
LEAST_FOUND, LEAST_EXCLUDED = 10, 30
"""From fewer decisions than these no chance is told."""
_LATEST, _HALF_LIFE = 400, 1 / 11
"""The weight of a decision halves with such a share of all, or of so many, the latest."""
_HALVINGS, _PARTS = 4, 10
"""So many halvings back decisions are looked at, in so many stretches."""
_REACH = 0.75
"""Such a share of the latest decisions was made no farther down the order than a chance is told."""
_STEEP = 3.0
"""How steep the curve may well be, as the standard deviation of a slope around 0: so that it stays finite where scores tell all apart."""
_STEPS = 60


class Likely(NamedTuple):
    """A chance from 0 to 1 with its 95 % band."""

    chance: float
    low: float
    high: float


class Calibration(NamedTuple):
    """What turns a score of `Ranking` into a chance: log odds ``intercept`` + ``slope`` × score, their covariance (2, 2), from how many decisions it was learnt, and how
    far down the order of the undecided these were made, as a rank from 1: farther down nothing is told."""

    intercept: float
    slope: float
    covariance: Floats
    found: int
    excluded: int
    depth: int

    def of(self, score: float, rank: int) -> Likely | None:
        """The chance of a record with a score and a rank among the undecided, with the band that the calibration leaves; None beyond what decisions reach."""
        if rank > self.depth:
            return None
        x = np.array([1.0, score])
        middle = self.intercept + self.slope * score
        reach = float(ndtri(0.975)) * float(np.sqrt(max(0.0, x @ self.covariance @ x)))
        low, chance, high = expit([middle - reach, middle, middle + reach]).tolist()
        return Likely(chance, low, high)


class Decision(NamedTuple):
    """A decision on the record at a position; ``lesser``: it was excluded for what only its full text told."""

    position: int
    belongs: bool
    lesser: bool = False


def calibrate(ranker: Ranker, seeds: Sequence[int], decisions: Sequence[Decision]) -> Calibration | None:
    """Learn from ``decisions``, in the order in which they were made, what a score is worth. None before `LEAST_FOUND` and `LEAST_EXCLUDED` of them.

    The latest decisions are cut into short stretches; each is scored by an order that has learnt from what was decided before it (prequential: Dawid AP. J R Stat Soc A
    1984;147:278-292), as its records were when somebody took them from the top: so that what people chose to look at does not bend the curve. A long stretch would: whoever reads
    on meets what the order, learning on, has brought up from far down. A logistic curve through these scores, the latest decisions weighing most, is the calibration
    (Platt JC. In: Advances in large margin classifiers. 2000:61-74).
    """
    plus = sum(decision.belongs for decision in decisions)
    if plus < LEAST_FOUND or len(decisions) - plus < LEAST_EXCLUDED:
        return None
    half_life = _half_life(decisions)
    first = max(1, len(decisions) - round(_HALVINGS * half_life))
    edges = sorted({round(edge) for edge in np.linspace(first, len(decisions), _PARTS + 1).tolist()})
    scores: list[float] = []
    ranks: list[int] = []
    for begin, end in itertools.pairwise(edges):
        before = decisions[:begin]
        belong = [*seeds, *(decision.position for decision in before if decision.belongs)]
        excluded, lesser = (
            [decision.position for decision in before if not decision.belongs and decision.lesser == late] for late in (False, True)
        )
        if not belong:
            continue
        ranking = ranker.rank(belong, excluded, lesser)
        stretch = [decision.position for decision in decisions[begin:end]]
        undecided = np.sort(np.delete(ranking.score, [*belong, *excluded, *lesser]))
        scores += ranking.score[stretch].tolist()
        ranks += (len(undecided) + 1 - np.searchsorted(undecided, ranking.score[stretch], "right")).tolist()
    labels = np.array([decision.belongs for decision in decisions[len(decisions) - len(scores) :]])
    if labels.all() or not labels.any():
        return None
    weights = 0.5 ** (np.arange(len(labels))[::-1] / half_life)
    depth = int(np.quantile(np.array(ranks)[weights >= 0.5], _REACH))
    return _fitted(np.array(scores), labels, weights, depth)


def _half_life(decisions: Sequence[Decision]) -> float:
    """After how many decisions a weight has halved: longer where it takes more of them until some belong."""
    latest = _LATEST
    while latest < len(decisions) and not any(decision.belongs for decision in decisions[-round(_HALVINGS * _HALF_LIFE * latest) :]):
        latest *= 2
    return _HALF_LIFE * min(latest, len(decisions))


def _fitted(scores: Floats, labels: NDArray[np.bool_], weights: Floats, depth: int) -> Calibration | None:
    """The logistic curve of the highest likelihood by Newton's steps, halved until each helps; None where a higher score tells nothing."""
    plus, minus = float(weights @ labels), float(weights @ ~labels)
    target = labels.astype(float)
    x = np.column_stack([np.ones(len(scores)), scores])
    beta = np.array([np.log((plus + 1) / (minus + 1)), 0.0])

    def loss(beta: Floats) -> float:
        z = x @ beta
        return float(weights @ (np.logaddexp(0, z) - target * z)) + 0.5 * float(beta[1] / _STEEP) ** 2

    information = np.eye(2)
    for _ in range(_STEPS):
        p = expit(x @ beta)
        information = x.T @ (x * (weights * p * (1 - p))[:, None]) + np.diag([1e-9, _STEEP**-2])
        step = np.linalg.solve(information, x.T @ (weights * (target - p)) - np.array([0.0, beta[1] * _STEEP**-2]))
        length = 1.0
        while loss(beta + length * step) > loss(beta) and length > 1e-6:
            length /= 2
        beta = beta + length * step
        if float(np.abs(length * step).max()) < 1e-8:
            break
    if beta[1] <= 0:
        return None
    covariance = np.asarray(np.linalg.inv(information), np.float64)
    return Calibration(float(beta[0]), float(beta[1]), covariance, int(labels.sum()), int((~labels).sum()), depth)
