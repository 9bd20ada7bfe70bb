"""Looking closer at pooled studies: what explains their differences, and what small ones do."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.special import chdtrc, fdtrc, stdtr

from kettlesort.core.pooling.models import Estimate, Model, between, interval, likeliest

Floats = NDArray[np.float64]
RESIDUAL = ("REML", "ML", "DL")
"""Estimators of what moderators leave of τ²; for the others it is REML."""


class Between(NamedTuple):
    """Whether groups differ: Q between them, its degrees, its p."""

    q: float | None
    q_df: int
    q_p: float | None


def between_groups(pooled: list[Estimate]) -> Between:
    """Σ(θ - θ̄)²/se² over groups, with the standard errors of their intervals (Borenstein M et al. Introduction to meta-analysis. 2009, ch. 19)."""
    df = max(0, len(pooled) - 1)
    errors = [estimate.se for estimate in pooled if estimate.se]
    if not df or len(errors) < len(pooled):
        return Between(0.0 if df == 0 else None, df, 1.0 if df == 0 else None)
    w, y = np.array(errors) ** -2.0, np.array([estimate.estimate for estimate in pooled])
    q = float(w @ (y - w @ y / w.sum()) ** 2)
    return Between(q, df, float(chdtrc(df, q)))


class Regression(NamedTuple):
    """Effects on moderators: coefficients, the intercept first; τ² of the residuals; tests of what is left (``qe``) and of the moderators (``qm``); ``r2`` in per cent."""

    coefficients: list[Estimate]
    tau2: float
    qe: float
    qe_df: int
    qe_p: float | None
    qm: float | None
    qm_df: int | list[int]
    qm_p: float | None
    r2: float | None


class _Solved(NamedTuple):
    beta: Floats
    covariance: Floats
    tau2: float
    qe: float
    df: int


def _solved(y: Floats, v: Floats, moderators: Floats, model: Model) -> _Solved | None:
    k = len(y)
    x = np.column_stack([np.ones(k), moderators])
    p = x.shape[1]
    if k <= p or np.linalg.matrix_rank(x) < p:
        return None
    fixed, qe = _fit(y, 1 / v, x)
    tau2 = 0.0
    if model.random and model.tau2 == "DL":
        w = 1 / v
        trace = float(w.sum() - np.trace(fixed[1] @ (x.T @ (x * (w**2)[:, None]))))
        tau2 = max(0.0, (qe - (k - p)) / trace)
    elif model.random:
        tau2 = likeliest(y, v, x, restricted=model.tau2 != "ML")
    (beta, covariance), rest = _fit(y, 1 / (v + tau2), x)
    return _Solved(beta, covariance * (rest / (k - p)) if model.hk else covariance, tau2, qe, k - p)


def regress(y: Floats, v: Floats, moderators: Floats, model: Model) -> Regression | None:
    """Meta-regression of k effects on ``moderators`` (k, m), weights 1 / (v + τ²) (Thompson SG, Higgins JPT. Stat Med 2002;21:1559-1573; Knapp G, Hartung J. Stat Med
    2003;22:2693-2710). τ² of the residuals by DL or ML, else by REML. None where k ≤ m + 1 or a moderator follows from the others.
    """
    if (found := _solved(y, v, moderators, model)) is None:
        return None
    beta, covariance, tau2, qe, df = found
    degrees = df if model.hk else None
    errors = np.sqrt(np.diag(covariance))
    coefficients = [interval(float(b), float(se), model.level, degrees) for b, se in zip(beta, errors, strict=True)]
    inner, m = covariance[1:, 1:], len(beta) - 1
    wald = float(beta[1:] @ np.linalg.solve(inner, beta[1:])) if np.linalg.matrix_rank(inner) == m else None
    tested: tuple[float | None, int | list[int], float | None] = (wald, m, None if wald is None else float(chdtrc(m, wald)))
    if model.hk:
        tested = (None, [m, df], None) if wald is None else (wald / m, [m, df], float(fdtrc(m, df, wald / m)))
    whole = between(y, v, model.tau2 if model.tau2 in RESIDUAL else "REML") if model.random else 0.0
    r2 = 100 * max(0.0, 1 - tau2 / whole) if whole > 0 else None
    return Regression(coefficients, tau2, qe, df, float(chdtrc(df, qe)), *tested, r2)


def line(y: Floats, v: Floats, moderators: Floats, model: Model, which: int, at: Sequence[float]) -> list[Estimate]:
    """What a meta-regression predicts where one moderator has the values ``at`` and the others their mean, each with its interval; [] where `regress` gives None."""
    if (found := _solved(y, v, moderators, model)) is None:
        return []
    out = []
    for value in at:
        x = np.concatenate([[1.0], moderators.mean(axis=0)])
        x[1 + which] = value
        se = float(x @ found.covariance @ x) ** 0.5
        out.append(interval(float(x @ found.beta), se, model.level, found.df if model.hk else None))
    return out


def _fit(y: Floats, w: Floats, x: Floats) -> tuple[tuple[Floats, Floats], float]:
    """Weighted least squares: coefficients, their covariance, and the weighted sum of squares that is left."""
    inverse = np.linalg.inv(x.T @ (x * w[:, None]))
    beta = inverse @ (x.T @ (w * y))
    return (np.asarray(beta, np.float64), np.asarray(inverse, np.float64)), float(w @ (y - x @ beta) ** 2)


class Asymmetry(NamedTuple):
    """The intercept of y/se on 1/se, with its t test."""

    intercept: float
    se: float
    t: float | None
    df: int
    p: float | None


def asymmetry(y: Floats, v: Floats) -> Asymmetry | None:
    """Egger's test (Egger M et al. BMJ 1997;315:629-634); None for fewer than three studies, or where all have one standard error."""
    k = len(y)
    if k < 3 or np.ptp(v) == 0:
        return None
    se = np.sqrt(v)
    x = np.column_stack([np.ones(k), 1 / se])
    (beta, inverse), rest = _fit(y / se, np.ones(k), x)
    error = float(np.sqrt(rest / (k - 2) * inverse[0, 0]))
    t = float(beta[0]) / error if error > 0 else None
    return Asymmetry(float(beta[0]), error, t, k - 2, None if t is None else float(2 * stdtr(k - 2, -abs(t))))
