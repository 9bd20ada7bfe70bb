"""Logistic regression on texts by the dot products between them alone, so that what costs is their number, not how many terms they have."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

_STEPS = 60
_KEPT = 8
_GOOD_ENOUGH = 1e-3
"""The gradient's length at the end, as a share of that at the beginning."""

Floats = NDArray[np.float64]


class Fitted(NamedTuple):
    """What tells two sets apart: a text's log odds are the dot product with Σ ``shares``ₖ textₖ, plus ``intercept``."""

    shares: Floats
    intercept: float


class _Step(NamedTuple):
    """A direction in the space of texts as shares of them, its image under the Gram matrix, and its part along the intercept."""

    shares: Floats
    image: Floats
    along: float

    def times(self, other: _Step) -> float:
        return float(self.shares @ other.image) + self.along * other.along

    def plus(self, factor: float, other: _Step) -> _Step:
        return _Step(self.shares + factor * other.shares, self.image + factor * other.image, self.along + factor * other.along)


def fit(gram: NDArray[np.float32], labels: NDArray[np.bool_], weights: Floats, strength: float) -> Fitted:
    """Fit ½‖w‖² + ``strength`` Σ weightₖ ln(1 + exp(-±zₖ)), z = w · text + intercept, the intercept free (Cox DR. J R Stat Soc B 1958;20:215-242).

    Parameters
    ----------
    gram : (n, n), dot products of the n texts
    labels : (n,), True for those that belong; both kinds must occur
    weights : (n,), at least 0
    strength : how much the texts count against the length of w; above 0

    Minimised by L-BFGS (Liu DC, Nocedal J. Math Program 1989;45:503-528) in the space that the texts span: one product with
    ``gram`` a step, until the gradient is a thousandth of what it was, or for 60 steps.
    """
    target = np.where(labels, 1.0, -1.0)
    cost = strength * weights

    def loss(step: _Step, z: Floats) -> float:
        return 0.5 * float(step.shares @ step.image) + float(cost @ np.logaddexp(0, -target * z))

    def gradient(step: _Step, z: Floats) -> _Step:
        pull = -cost * target / (1 + np.exp(np.clip(target * z, -500, 500)))
        shares = step.shares + pull
        return _Step(shares, np.asarray(gram @ shares.astype(np.float32), np.float64), float(pull.sum()))

    at = _Step(np.zeros(len(labels)), np.zeros(len(labels)), 0.0)
    z = np.zeros(len(labels))
    slope = gradient(at, z)
    enough = _GOOD_ENOUGH * max(slope.times(slope), 1e-300) ** 0.5
    value = loss(at, z)
    past: list[tuple[_Step, _Step, float]] = []
    for _ in range(_STEPS):
        if slope.times(slope) ** 0.5 <= enough:
            break
        way = _along(slope, past)
        change = way.image + way.along
        falls = slope.times(way)
        length = 1.0 if past else min(1.0, 1.0 / (slope.times(slope) ** 0.5))
        while True:
            there, z_there = at.plus(length, way), z + length * change
            value_there = loss(there, z_there)
            if value_there <= value + 1e-4 * length * falls or length < 1e-10:
                break
            length /= 2
        slope_there = gradient(there, z_there)
        moved, turned = there.plus(-1, at), slope_there.plus(-1, slope)
        curved = moved.times(turned)
        if curved > 1e-12 * moved.times(moved):
            past = [*past[-_KEPT + 1 :], (moved, turned, curved)]
        at, z, slope, value = there, z_there, slope_there, value_there
    return Fitted(at.shares, at.along)


def _along(slope: _Step, past: list[tuple[_Step, _Step, float]]) -> _Step:
    """Where to go from a slope, by the last steps and how the slope turned in them."""
    way = slope.plus(-2, slope)
    back = []
    for moved, turned, curved in reversed(past):
        share = moved.times(way) / curved
        way = way.plus(-share, turned)
        back.append(share)
    if past:
        moved, turned, curved = past[-1]
        scale = curved / max(turned.times(turned), 1e-300)
        way = way.plus(scale - 1, way)
    for (moved, turned, curved), share in zip(past, reversed(back), strict=True):
        way = way.plus(share - turned.times(way) / curved, moved)
    return way
