"""Counts pooled without a variance for each study: Mantel and Haenszel, and Peto."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from kettlesort.core.pooling.effects import Cells, Effect, silent


class Stratified(NamedTuple):
    """The figure, its standard error, and each study's weight in per cent."""

    estimate: float
    se: float
    weights: list[float]


def mantel_haenszel(measure: str, studies: Sequence[Cells], correction: float) -> Stratified | None:
    """Pooled OR, RR (logarithms) or RD of Mantel and Haenszel. None where it is not defined.

    OR: Robins J, Breslow N, Greenland S. Biometrics 1986;42:311-323; RR, RD: Greenland S, Robins JM. Biometrics 1985;41:55-68. A correction is
    added only where every study has the same cell empty.
    """
    if measure != "RD" and any(all(study[k] == 0 for study in studies) for k in range(4)):
        studies = [study.plus(correction) for study in studies]
    a, b, c, d = (np.array(column, float) for column in zip(*studies, strict=True))
    n1, n2 = a + b, c + d
    n = n1 + n2
    if measure == "OR":
        r, s, p, q = a * d / n, b * c / n, (a + d) / n, (b + c) / n
        if r.sum() == 0 or s.sum() == 0:
            return None
        variance = (p @ r) / (2 * r.sum() ** 2) + (p @ s + q @ r) / (2 * r.sum() * s.sum()) + (q @ s) / (2 * s.sum() ** 2)
        return _told(math.log(r.sum() / s.sum()), variance, s)
    if measure == "RR":
        r, s = a * n2 / n, c * n1 / n
        if r.sum() == 0 or s.sum() == 0:
            return None
        variance = ((n1 * n2 * (a + c) - a * c * n) / n**2).sum() / (r.sum() * s.sum())
        return _told(math.log(r.sum() / s.sum()), variance, s)
    w = n1 * n2 / n
    variance = ((a * b * n2**3 + c * d * n1**3) / (n1 * n2 * n**2)).sum() / w.sum() ** 2
    return _told(((a * n2 - c * n1) / n).sum() / w.sum(), variance, w)


def _told(estimate: float, variance: float, weights: np.ndarray) -> Stratified:
    return Stratified(
        float(estimate), float(variance) ** 0.5, (100 * weights / weights.sum()).tolist() if weights.sum() else [0.0] * len(weights)
    )


def peto(cells: Cells) -> Effect:
    """The logarithm of Peto's OR, Z/V, with the variance 1/V: Z the observed less the expected events of arm 1, V their hypergeometric variance (Yusuf S et al. Prog
    Cardiovasc Dis 1985;27:335-371). Pooled by inverse variance these are ΣZ/ΣV.
    """
    if reason := silent(cells, "OR"):
        return Effect(None, None, reason)
    n, events = cells.total, cells.a + cells.c
    variance = cells.n1 * cells.n2 * events * (n - events) / (n**2 * (n - 1)) if n > 1 else 0.0
    return Effect((cells.a - cells.n1 * events / n) / variance, 1 / variance) if variance > 0 else Effect(None, None, "its variance is 0")
