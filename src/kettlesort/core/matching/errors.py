"""What to expect of a setting: how many wrong joins, missed copies and questions; and what a sample checked by hand says."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from kettlesort.core.matching.grouping import Groups
from kettlesort.core.matching.judge import Judged
from kettlesort.core.matching.weights import Weights


class Point(NamedTuple):
    """If all links of at least ``weight`` are joined: how many these are, and how many of them are expected to be wrong;
    and of those below, how many are expected to be copies.
    """

    weight: float
    links: int
    wrong: float
    missed: float


def curve(judged: Judged, weights: Weights, size: int, step: float = 0.5) -> list[Point]:
    """The errors to be expected at each weight, from 0 to the largest.

    Look-alikes that the rule sets apart or asks about are left out. Of pairs that say the same about a group only the
    weightiest count: a link joins what no weightier one has joined. ``size`` is the number of records.
    """
    free = np.flatnonzero((judged.kind == 0) & (judged.weight >= 0.0) & (judged.by < 0))
    order = free[np.lexsort((judged.right[free], judged.left[free], -judged.weight[free]))]
    groups = Groups(size)
    links = []
    for k in order.tolist():
        i, j = int(judged.left[k]), int(judged.right[k])
        if groups.of(i) != groups.of(j):
            groups.join(i, j)
            links.append(k)
    weight = judged.weight[links] if links else np.zeros(0)
    chance = weights.chance(weight)
    top = float(weight.max(initial=0.0))
    out = []
    for at in np.arange(0.0, min(40.0, top) + step, step).tolist():
        above = weight >= at
        out.append(Point(at, int(above.sum()), float((1.0 - chance[above]).sum()), float(chance[~above].sum())))
    return out


class Estimate(NamedTuple):
    """A share, 0 to 1, and the ends of its interval."""

    share: float
    low: float
    high: float


def share_of(hits: int, size: int, level: float = 0.95) -> Estimate:
    """The share of ``hits`` in a sample of ``size`` with its exact interval (Clopper CJ, Pearson ES. Biometrika 1934;26:404-413).

    >>> [round(it, 3) for it in share_of(0, 100)]
    [0.0, 0.0, 0.036]
    """
    if size <= 0:
        return Estimate(0.0, 0.0, 1.0)
    from scipy.stats import binomtest  # takes half a second to load

    interval = binomtest(hits, size).proportion_ci(level, method="exact")
    return Estimate(hits / size, float(interval.low), float(interval.high))
