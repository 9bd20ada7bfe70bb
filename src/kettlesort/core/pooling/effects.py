"""What one study says: effects of two arms with their variance."""

from __future__ import annotations

import math
from typing import NamedTuple

from scipy.special import gammaln

COUNTS = ("events1", "total1", "events2", "total2")
MEANS = ("mean1", "sd1", "n1", "mean2", "sd2", "n2")
GENERIC = ("estimate", "se")
COLUMNS = {"OR": COUNTS, "RR": COUNTS, "RD": COUNTS, "MD": MEANS, "SMD": MEANS, "GEN": GENERIC}
RATIOS = ("OR", "RR")
CONVENTIONS = {
    "i2": "q",
    "smd_j": "exact",
    "smd_variance": "g",
    "rd_zero": "variance-needed",
    "rr_full": "corrected-kept",
    "prediction_se": "plain",
}
"""What was chosen where the literature has several ways; `docs/pooling.md` says what each means."""


class Bad(ValueError):
    """Figures that cannot be; ``column`` is the one to look at."""

    def __init__(self, column: str, message: str) -> None:
        super().__init__(message)
        self.column = column


class Effect(NamedTuple):
    """An effect and its variance; None, with the reason in ``left_out``, where a study says nothing."""

    estimate: float | None
    variance: float | None
    left_out: str | None = None


class Cells(NamedTuple):
    """Events and others in arm 1 (a, b) and in arm 2 (c, d)."""

    a: float
    b: float
    c: float
    d: float

    @property
    def n1(self) -> float:
        """People in arm 1."""
        return self.a + self.b

    @property
    def n2(self) -> float:
        """People in arm 2."""
        return self.c + self.d

    @property
    def total(self) -> float:
        """People."""
        return self.n1 + self.n2

    def plus(self, more: float) -> Cells:
        """With so much added to each cell."""
        return Cells(self.a + more, self.b + more, self.c + more, self.d + more)


def cells_of(values: dict[str, float]) -> Cells:
    """The four cells of a study; raises Bad."""
    for arm in "12":
        events, total = values[f"events{arm}"], values[f"total{arm}"]
        if events < 0:
            raise Bad(f"events{arm}", f"{events:g} is negative")
        if total <= 0:
            raise Bad(f"total{arm}", f"{total:g} is not above 0")
        if events > total:
            raise Bad(f"events{arm}", f"{events:g} events of {total:g}")
    e1, t1, e2, t2 = (values[name] for name in COUNTS)
    return Cells(e1, t1 - e1, e2, t2 - e2)


def silent(cells: Cells, measure: str) -> str | None:
    """Why a study says nothing about a ratio, if it does not."""
    if measure in RATIOS and cells.a == 0 == cells.c:
        return "no events in either arm"
    if measure == "OR" and cells.b == 0 == cells.d:
        return "events in all of both arms"
    return None


def effect(measure: str, values: dict[str, float], correction: float = 0.5) -> Effect:
    """The effect of arm 1 against arm 2 and its variance.

    OR, RR on the logarithmic scale, RD, MD; SMD is Hedges' g with the exact correction (Hedges LV. J Educ Stat 1981;6:107-128) and the variance 1/n1 + 1/n2 + g²/2(n1 + n2).
    A study with a zero cell gets ``correction`` in each of its four cells for OR and RR (0: it is left out), for RD in the variance alone, if that would be 0. Raises Bad.
    """
    if measure in ("OR", "RR", "RD"):
        return _of_counts(measure, cells_of(values), correction)
    if measure == "GEN":
        if values["se"] <= 0:
            raise Bad("se", f"{values['se']:g} is not above 0")
        return Effect(values["estimate"], values["se"] ** 2)
    return _of_means(measure, values)


def _of_counts(measure: str, cells: Cells, correction: float) -> Effect:
    if reason := silent(cells, measure):
        return Effect(None, None, reason)
    if measure == "RD":
        variance = cells.a * cells.b / cells.n1**3 + cells.c * cells.d / cells.n2**3
        if variance == 0:
            more = cells.plus(correction)
            variance = more.a * more.b / more.n1**3 + more.c * more.d / more.n2**3
            if variance == 0:
                return Effect(None, None, "its variance is 0, and no correction is made")
        return Effect(cells.a / cells.n1 - cells.c / cells.n2, variance)
    if 0 in cells:
        if correction == 0:
            return Effect(None, None, "a zero cell, and no correction is made")
        cells = cells.plus(correction)
    if measure == "OR":
        return Effect(
            math.log(cells.a) + math.log(cells.d) - math.log(cells.b) - math.log(cells.c),
            1 / cells.a + 1 / cells.b + 1 / cells.c + 1 / cells.d,
        )
    log = math.log(cells.a) - math.log(cells.n1) - math.log(cells.c) + math.log(cells.n2)
    return Effect(log, cells.b / (cells.a * cells.n1) + cells.d / (cells.c * cells.n2))


def _of_means(measure: str, values: dict[str, float]) -> Effect:
    m1, s1, n1, m2, s2, n2 = (values[name] for name in MEANS)
    for name in ("n1", "n2"):
        if values[name] <= 0:
            raise Bad(name, f"{values[name]:g} is not above 0")
    for name in ("sd1", "sd2"):
        if values[name] < 0:
            raise Bad(name, f"{values[name]:g} is negative")
    if s1 == 0 == s2:
        raise Bad("sd1", "both SDs are 0")
    if measure == "MD":
        return Effect(m1 - m2, s1**2 / n1 + s2**2 / n2)
    degrees = n1 + n2 - 2
    if degrees <= 1:
        raise Bad("n1", f"{n1:g} and {n2:g} are too few for a standardised difference")
    pooled = math.sqrt(((n1 - 1) * s1**2 + (n2 - 1) * s2**2) / degrees)
    if pooled == 0:
        raise Bad("sd1", "the pooled SD is 0")
    j = math.exp(gammaln(degrees / 2) - gammaln((degrees - 1) / 2) - 0.5 * math.log(degrees / 2))
    g = j * (m1 - m2) / pooled
    return Effect(g, 1 / n1 + 1 / n2 + g**2 / (2 * (n1 + n2)))
