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
_PARTS, _LATEST = 10, 400
"""Into so many stretches so many decisions are cut, the latest."""
_FADE = 0.5
"""A stretch of decisions weighs so much of the one after it."""
_BEYOND = 0.1
_ENOUGH = 1.0
"""Those that belong must weigh so much together, or nothing is told: where the latest found hardly any, no curve says how few are left."""
_STEEP = 3.0
"""How steep the curve may well be, as the standard deviation of a slope around 0: so that it stays finite where scores tell all apart."""
_STEPS = 60


class Likely(NamedTuple):
    """A chance from 0 to 1 with its 95 % band."""

    chance: float
    low: float
    high: float


class Calibration(NamedTuple):
    """What turns a score of `Ranking` into a chance: log odds ``intercept`` + ``slope`` × score, their covariance (2, 2), from how many decisions it was learnt, and the
    score below which hardly any decision was made: farther down nothing is told."""

    intercept: float
    slope: float
    covariance: Floats
    found: int
    excluded: int
    reaches: float

    def of(self, score: float) -> Likely | None:
        """The chance of a record with a score, with the band that the calibration leaves; None beyond what decisions reach."""
        if score < self.reaches:
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

    The latest decisions are cut into stretches; each stretch is scored by an order that has learnt from what was decided before it (prequential: Dawid AP. J R Stat Soc A
    1984;147:278-292), as its records were when somebody took them from the top: so that what people chose to look at does not bend the curve. A logistic curve through these
    scores, the latest stretches weighing most, is the calibration (Platt JC. In: Advances in large margin classifiers. 2000:61-74, with its smoothed targets).
    """
    plus = sum(decision.belongs for decision in decisions)
    if plus < LEAST_FOUND or len(decisions) - plus < LEAST_EXCLUDED:
        return None
    edges = _edges(decisions)
    scores, labels, weights = [], [], []
    for n, (begin, end) in enumerate(itertools.pairwise(edges)):
        before = decisions[:begin]
        belong = [*seeds, *(decision.position for decision in before if decision.belongs)]
        if not belong:
            continue
        excluded, lesser = (
            [decision.position for decision in before if not decision.belongs and decision.lesser == late] for late in (False, True)
        )
        score = ranker.rank(belong, excluded, lesser).score
        stretch = decisions[begin:end]
        scores += score[[decision.position for decision in stretch]].tolist()
        labels += [decision.belongs for decision in stretch]
        weights += [_FADE ** (len(edges) - 2 - n)] * len(stretch)
    if sum(itertools.compress(weights, labels)) < _ENOUGH or all(labels):
        return None
    return _fitted(np.array(scores), np.array(labels), np.array(weights))


def _edges(decisions: Sequence[Decision]) -> list[int]:
    """Where stretches of the latest decisions begin and end; of so many more before them as it takes until some belong."""
    wanted = _LATEST
    while wanted < len(decisions) and not any(decision.belongs for decision in decisions[-wanted * _PARTS // (_PARTS + 1) :]):
        wanted *= 2
    first = max(0, len(decisions) - wanted)
    begin = first + (len(decisions) - first) // (_PARTS + 1)
    return sorted({round(edge) for edge in np.linspace(begin, len(decisions), _PARTS + 1).tolist()})


def _fitted(scores: Floats, labels: NDArray[np.bool_], weights: Floats) -> Calibration | None:
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
    latest = scores[weights >= _FADE]
    covariance = np.asarray(np.linalg.inv(information), np.float64)
    return Calibration(
        float(beta[0]), float(beta[1]), covariance, int(labels.sum()), int((~labels).sum()), float(np.quantile(latest, _BEYOND))
    )
