"""How much one study carries, and how well τ² is known."""

from __future__ import annotations

from functools import partial
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.special import chdtri, ndtri

from kettlesort.core.pooling.models import Model, between, crossing, likelihood, pool

Floats = NDArray[np.float64]
POINTS = 161
"""In how many places the curve of a likelihood is worked out."""


class Influence(NamedTuple):
    """What one study does to the whole: its studentised deleted residual, Cook's distance, hat value, and τ² and Q without it. None where a study is alone."""

    residual: float | None
    cook: float | None
    hat: float
    tau2: float | None
    q: float | None


def influences(y: Floats, v: Floats, model: Model) -> list[Influence]:
    """Of k effects ``y`` with variances ``v``, each study's influence (Viechtbauer W, Cheung MWL. Res Synth Methods 2010;1:112-125).

    The residual is that of a study from what the others give, over √(v + τ² + se²), all without it; Cook's distance (θ - θ₋ᵢ)² / se², with the se of
    inverse variance whatever interval is shown; hat values are shares of weight, 0 to 1.
    """
    plain = model._replace(hk=False)
    whole = pool(y, v, plain)
    hats = whole.weights / 100
    if len(y) < 2:
        return [Influence(None, None, float(hats[0]), None, None)]
    out = []
    for k in range(len(y)):
        rest = pool(np.delete(y, k), np.delete(v, k), plain)
        residual = (y[k] - rest.pooled.estimate) / (v[k] + rest.tau2 + (rest.pooled.se or 0.0) ** 2) ** 0.5
        cook = (whole.pooled.estimate - rest.pooled.estimate) ** 2 / (whole.pooled.se or 1.0) ** 2
        out.append(Influence(float(residual), float(cook), float(hats[k]), rest.tau2, rest.q))
    return out


def stands_out(influence: Influence, k: int) -> bool:
    """Whether a study of ``k`` deserves a look: its residual lies beyond ±1.96, Cook's distance above the median of χ² on one degree, or its hat value above 3 / k."""
    residual, cook = abs(influence.residual or 0.0), influence.cook or 0.0
    return k > 2 and (residual > 1.96 or cook > float(chdtri(1, 0.5)) or influence.hat > 3 / k)


class Profile(NamedTuple):
    """The (restricted) log likelihood of τ², less its maximum: ``tau2`` and ``height`` (`POINTS`,), where it is highest, and two intervals of τ².

    ``low``, ``high`` by the likelihood ratio; ``q_low``, ``q_high`` by Q (Viechtbauer W. Stat Med 2007;26:37-52).
    """

    tau2: Floats
    height: Floats
    best: float
    low: float
    high: float
    q_low: float
    q_high: float


def profile(y: Floats, v: Floats, *, restricted: bool = True, level: float = 0.95) -> Profile | None:
    """How likely each τ² is, given k effects with variances; None for fewer than three, or where all are one."""
    k = len(y)
    if k < 3 or float(np.ptp(y)) == 0:
        return None
    height = likelihood(y, v, restricted=restricted)
    best = between(y, v, "REML" if restricted else "ML")
    top = height(best)
    drop = float(ndtri((1 + level) / 2)) ** 2 / 2
    scale = max(best, float(np.var(y)), float(v.min()))

    def beyond(tau2: float) -> float:
        return height(tau2) - (top - drop)

    far = scale
    while beyond(far) > 0:
        far *= 2
    high = crossing(beyond, best, far)
    low = 0.0 if beyond(0.0) >= 0 else best - crossing(lambda down: beyond(best - down), 0.0, best)
    grid = np.linspace(0.0, 1.15 * high, POINTS)
    heights = np.array([height(float(tau2)) - top for tau2 in grid])
    return Profile(grid, heights, best, low, high, *_by_q(y, v, level))


def _by_q(y: Floats, v: Floats, level: float) -> tuple[float, float]:
    """Where Q with weights 1 / (v + τ²) leaves the middle of χ² on k - 1."""
    df = len(y) - 1

    def q(tau2: float, less: float = 0.0) -> float:
        w = 1 / (v + tau2)
        return float(w @ (y - w @ y / w.sum()) ** 2) - less

    ends = []
    for tail in ((1 - level) / 2, (1 + level) / 2):  # chdtri takes the upper tail
        wanted = float(chdtri(df, tail))
        if q(0.0) <= wanted:
            ends.append(0.0)
            continue
        far = float(np.ptp(y)) ** 2 + float(v.max())
        while q(far) > wanted:
            far *= 2
        ends.append(crossing(partial(q, less=wanted), 0.0, far))
    return ends[0], ends[1]
