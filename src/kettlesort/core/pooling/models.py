"""Several studies as one figure: fixed and random effects."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.special import chdtrc, ndtr, ndtri, stdtr, stdtrit

Floats = NDArray[np.float64]
TAU2 = ("REML", "DL", "PM", "ML", "HE", "SJ")


class Model(NamedTuple):
    """How studies are pooled: ``random`` or fixed effects, the estimator of τ², Hartung and Knapp's interval or the normal one, and its level."""

    random: bool = True
    tau2: str = "REML"
    hk: bool = False
    level: float = 0.95


class Estimate(NamedTuple):
    """A figure with the standard error that its interval is made of; None where it is not defined."""

    estimate: float
    se: float | None
    ci: tuple[float, float] | None
    p: float | None

    @property
    def turned(self) -> Estimate:
        """The other against the one."""
        return self._replace(estimate=-self.estimate, ci=(-self.ci[1], -self.ci[0]) if self.ci else None)


class Pooled(NamedTuple):
    """Pooled studies: ``q`` on ``q_df`` degrees with its p, ``i2`` in per cent by Q, ``tau2``, the interval for a new study, and each study's weight (k,)."""

    k: int
    pooled: Estimate
    prediction: tuple[float, float] | None
    q: float
    q_df: int
    q_p: float
    i2: float
    tau2: float
    weights: Floats


def interval(estimate: float, se: float, level: float, degrees: float | None = None) -> Estimate:
    """A figure with its interval and two-sided p: normal, or t on ``degrees``."""
    half = (1 + level) / 2
    reach = float(ndtri(half) if degrees is None else stdtrit(degrees, half)) * se
    p: float | None = 0.0 if estimate else None
    if se > 0:
        beyond = -abs(estimate) / se
        p = float(2 * (ndtr(beyond) if degrees is None else stdtr(degrees, beyond)))
    return Estimate(estimate, se, (estimate - reach, estimate + reach), p)


def heterogeneity(y: Floats, v: Floats, centre: float | None = None) -> tuple[float, int, float, float]:
    """Cochran's Q with inverse-variance weights, around their mean or another ``centre``, its degrees, its p, and I² in per cent, max(0, (Q - df) / Q) (Higgins JPT, Thompson SG. Stat Med 2002;21:1539-1558)."""
    df = len(y) - 1
    if not df:
        return 0.0, 0, 1.0, 0.0
    q = _q(y, v, 0.0) if centre is None else float((y - centre) ** 2 @ (1 / v))
    return q, df, float(chdtrc(df, q)), 100 * max(0.0, (q - df) / q) if q > 0 else 0.0


def pool(y: Floats, v: Floats, model: Model = Model()) -> Pooled:
    """Pool k ≥ 1 effects ``y`` with variances ``v`` > 0 by inverse variance.

    Random effects: variances v + τ². Hartung-Knapp: se² = Σw(y - θ)² / ((k - 1) Σw), t on k - 1, unmodified (Hartung J, Knapp G. Stat Med 2001;20:3875-3889); for one
    study the normal interval. Prediction: t on k - 2 (Higgins JPT, Thompson SG, Spiegelhalter DJ. J R Stat Soc A 2009;172:137-159), from three studies on.
    """
    k = len(y)
    tau2 = between(y, v, model.tau2) if model.random else 0.0
    w = 1 / (v + tau2)
    centre = float(w @ y / w.sum())
    plain = float(w.sum() ** -0.5)
    if model.hk and k > 1:
        hk = float((w @ (y - centre) ** 2 / ((k - 1) * w.sum())) ** 0.5)
        pooled = interval(centre, hk, model.level, k - 1)
    else:
        pooled = interval(centre, plain, model.level)
    prediction = None
    if model.random and k > 2:
        reach = float(stdtrit(k - 2, (1 + model.level) / 2)) * (tau2 + plain**2) ** 0.5
        prediction = (centre - reach, centre + reach)
    return Pooled(k, pooled, prediction, *heterogeneity(y, v), tau2, 100 * w / w.sum())


def _q(y: Floats, v: Floats, tau2: float) -> float:
    w = 1 / (v + tau2)
    return float(w @ (y - w @ y / w.sum()) ** 2)


def between(y: Floats, v: Floats, method: str) -> float:
    """τ², the variance between studies, never negative; 0 for one study.

    DL: DerSimonian R, Laird N. Control Clin Trials 1986;7:177-188. HE: Hedges LV. Psychol Bull 1983;93:388-395. SJ: Sidik K, Jonkman JN. J R
    Stat Soc C 2005;54:367-384, starting from Σ(y - ȳ)²/k. PM: Paule RC, Mandel J. J Res Natl Bur Stand 1982;87:377-385. ML, REML: the highest
    maximum over τ² ≥ 0 (Viechtbauer W. J Educ Behav Stat 2005;30:261-293).
    """
    k = len(y)
    if k < 2:
        return 0.0
    spread = float(((y - y.mean()) ** 2).sum())
    if method == "DL":
        w = 1 / v
        return max(0.0, (_q(y, v, 0.0) - (k - 1)) / float(w.sum() - (w**2).sum() / w.sum()))
    if method == "HE":
        return max(0.0, spread / (k - 1) - float(v.mean()))
    if method == "SJ":
        start = spread / k
        if start == 0:
            return 0.0
        w = 1 / (v / start + 1)
        return float(w @ (y - w @ y / w.sum()) ** 2) / (k - 1)
    if method == "PM":
        return _paule(y, v)
    ones = np.ones((k, 1))
    return likeliest(y, v, ones, restricted=method == "REML")


def _paule(y: Floats, v: Floats) -> float:
    """Where Q meets its degrees. Q falls and is convex, so that Newton's steps from 0 come nearer from one side and never go beyond."""
    df, tau2 = len(y) - 1, 0.0
    for _ in range(200):
        w = 1 / (v + tau2)
        rest = y - w @ y / w.sum()
        q = float(w @ rest**2)
        if q <= df:
            break
        nearer = tau2 + (q - df) / float(w**2 @ rest**2)
        if nearer == tau2:
            break
        tau2 = nearer
    return tau2


def crossing(falling: Callable[[float], float], low: float, high: float) -> float:
    """Where a function that is above 0 at ``low`` and not at ``high`` meets 0, to the last digit, by halving."""
    while low < (middle := low + (high - low) / 2) < high:
        low, high = (middle, high) if falling(middle) > 0 else (low, middle)
    return high


def likeliest(y: Floats, v: Floats, x: Floats, *, restricted: bool) -> float:
    """The τ² of the highest (restricted) likelihood for effects y = xβ with variances v + τ²: x (k, p). Every maximum is looked for on a fine grid, and found by the root of the slope."""
    fitted = partial(_fitted, y, v, x, restricted)
    top = 4 * (float(np.ptp(y)) ** 2 + float(v.max()))
    grid = np.concatenate([[0.0], np.geomspace(1e-7 * float(v.min()), top, 240)])
    slopes = [fitted(float(one))[1] for one in grid]
    found = [0.0] if slopes[0] <= 0 else []
    for low, high, rising, falling in zip(grid, grid[1:], slopes, slopes[1:], strict=False):
        if rising > 0 >= falling:
            found.append(crossing(lambda one: fitted(one)[1], float(low), float(high)))
    return max(found, key=lambda one: fitted(one)[0], default=0.0)


def likelihood(y: Floats, v: Floats, *, restricted: bool) -> Callable[[float], float]:
    """The (restricted) log likelihood of τ² for effects with one mean and variances v + τ², without its constant."""
    ones = np.ones((len(y), 1))
    return lambda tau2: _fitted(y, v, ones, restricted, tau2)[0]


def _fitted(y: Floats, v: Floats, x: Floats, restricted: bool, tau2: float) -> tuple[float, float]:
    """The (restricted) log likelihood at a τ², and its slope there."""
    w = 1 / (v + tau2)
    weighed = x * w[:, None]
    inner = x.T @ weighed
    inverse = np.linalg.inv(inner)
    rest = y - x @ (inverse @ (weighed.T @ y))
    height = -0.5 * float(np.log(v + tau2).sum()) - 0.5 * float(w @ rest**2)
    slope = -0.5 * float(w.sum()) + 0.5 * float(w**2 @ rest**2)
    if restricted:
        height -= 0.5 * float(np.linalg.slogdet(inner)[1])
        slope += 0.5 * float(np.trace(inverse @ (weighed.T @ weighed)))
    return height, slope
