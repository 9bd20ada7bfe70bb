"""Numbers from other numbers: mean and standard deviation of a group, standard errors of two groups against each other, groups joined to one."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from decimal import Decimal
from itertools import combinations, pairwise
from typing import NamedTuple

from scipy.special import ndtri, stdtrit

GIVENS = ("n", "mean", "sd", "se", "ci_low", "ci_high", "level", "median", "q1", "q3", "min", "max")
LEVEL = 0.95


WAYS = {
    "given": "as given",
    "se": "SE × √n",
    "interval": "from the interval of the mean, by t on n − 1 degrees",
    "five": "from median, quartiles and range (mean: Luo 2018; SD: Wan 2014, equation 13)",
    "quartiles": "from median and quartiles (mean: Luo 2018; SD: Wan 2014, equation 16)",
    "range": "from median and range (mean: Luo 2018; SD: Wan 2014, equation 9)",
}
"""How a mean or an SD was had, for a person."""


class Contradiction(ValueError):
    """Numbers that cannot all be right; ``column`` is the one to look at."""

    def __init__(self, column: str, message: str) -> None:
        super().__init__(message)
        self.column = column


class Group(NamedTuple):
    """What is said of a group: None for what is not. ``level`` is the share that the interval of the mean is to hold."""

    n: float | None = None
    mean: float | None = None
    sd: float | None = None
    se: float | None = None
    ci_low: float | None = None
    ci_high: float | None = None
    level: float | None = None
    median: float | None = None
    q1: float | None = None
    q3: float | None = None
    min: float | None = None
    max: float | None = None


class Derived(NamedTuple):
    """Mean and standard deviation, and by what they were had: ``given``, ``se``, ``interval``, ``five``, ``quartiles``, ``range``, or "" for None."""

    mean: float | None
    sd: float | None
    mean_by: str
    sd_by: str


def check(group: Group) -> None:
    """Raise Contradiction for what contradicts itself or cannot be."""
    if group.n is not None and (group.n < 2 or group.n != int(group.n)):
        raise Contradiction("n", f"{group.n:g} is not a whole number from 2")
    for name in ("sd", "se"):
        value = getattr(group, name)
        if value is not None and value < 0:
            raise Contradiction(name, f"{value:g} is negative")
    if group.level is not None and not 0 < group.level < 1:
        raise Contradiction("level", f"{group.level:g} is not a share between 0 and 1")
    _rising(group, ("ci_low", "ci_high"))
    _rising(group, ("min", "q1", "median", "q3", "max"))
    _rising(group, ("ci_low", "mean", "ci_high"))
    _rising(group, ("min", "mean", "max"))


def _rising(group: Group, names: Sequence[str]) -> None:
    said = [(name, value) for name in names if (value := getattr(group, name)) is not None]
    for (below, low), (above, high) in pairwise(said):
        if low > high:
            raise Contradiction(below, f"{below} {low:g} is above {above} {high:g}")


def derive(group: Group) -> Derived:
    """Mean and standard deviation by the first way that can be had: as given; from the standard error; from the interval of the mean; from
    five numbers; from the quartiles; from the range.

    SD = SE √n; SD = √n (high - low) / 2t, t on n - 1 degrees; mean = the interval's middle. From median and quantiles the mean is that of
    Luo D et al. Stat Methods Med Res 2018;27:1785-1805, the SD that of Wan X et al. BMC Med Res Methodol 2014;14:135, equations 13, 16 and 9. Raises Contradiction.
    """
    check(group)
    mean, mean_by = _mean(group)
    sd, sd_by = _sd(group)
    return Derived(mean, sd, mean_by, sd_by)


def _mean(group: Group) -> tuple[float | None, str]:
    n, m, q1, q3, a, b = group.n, group.median, group.q1, group.q3, group.min, group.max
    if group.mean is not None:
        return group.mean, "given"
    if group.ci_low is not None and group.ci_high is not None:
        return (group.ci_low + group.ci_high) / 2, "interval"
    if n is None or m is None:
        return None, ""
    if q1 is not None and q3 is not None and a is not None and b is not None:
        ends, box = 2.2 / (2.2 + n**0.75), 0.7 - 0.72 / n**0.55
        return ends * (a + b) / 2 + box * (q1 + q3) / 2 + (1 - ends - box) * m, "five"
    if q1 is not None and q3 is not None:
        box = 0.7 + 0.39 / n
        return box * (q1 + q3) / 2 + (1 - box) * m, "quartiles"
    if a is not None and b is not None:
        ends = 4 / (4 + n**0.75)
        return ends * (a + b) / 2 + (1 - ends) * m, "range"
    return None, ""


def _sd(group: Group) -> tuple[float | None, str]:
    n, q1, q3, a, b = group.n, group.q1, group.q3, group.min, group.max
    if group.sd is not None:
        return group.sd, "given"
    if n is None:
        return None, ""
    if group.se is not None:
        return group.se * math.sqrt(n), "se"
    if group.ci_low is not None and group.ci_high is not None:
        t = float(stdtrit(n - 1, (1 + (group.level or LEVEL)) / 2))
        return math.sqrt(n) * (group.ci_high - group.ci_low) / (2 * t), "interval"
    whole = float(ndtri((n - 0.375) / (n + 0.25)))
    half = float(ndtri((0.75 * n - 0.125) / (n + 0.25)))
    if q1 is not None and q3 is not None and a is not None and b is not None:
        return (b - a) / (4 * whole) + (q3 - q1) / (4 * half), "five"
    if q1 is not None and q3 is not None:
        return (q3 - q1) / (2 * half), "quartiles"
    if a is not None and b is not None:
        return (b - a) / (2 * whole), "range"
    return None, ""


def doubts(group: Group) -> list[str]:
    """What of a group does not go together, though each number alone may be right: standard deviations that differ by more than rounding, and one that
    no values within the range can have (at most half the range times √(n / (n - 1)): Popoviciu T. Mathematica 1935;9:129-145). For a person to look at."""
    said = [
        f"{one} and {other} do not go together: SD {_span(*had)} by the one, {_span(*has)} by the other"
        for (one, *had), (other, *has) in combinations(_deviations(group), 2)
        if had[0] > has[1] or has[0] > had[1]
    ]
    if group.n is not None and group.min is not None and group.max is not None:
        reach = group.max - group.min + _rounding(group.max) + _rounding(group.min)
        most = reach / 2 * math.sqrt(group.n / (group.n - 1))
        said += [
            f"{one} and the range do not go together: no SD above {most:.4g} is possible within it"
            for one, least, _ in _deviations(group)
            if least > most
        ]
    return said


def _deviations(group: Group) -> Iterator[tuple[str, float, float]]:
    """The SD by each number that says it, from its least to its greatest as that number was rounded. An interval may have been made by t or by z."""
    if group.sd is not None:
        yield "SD", group.sd - _rounding(group.sd), group.sd + _rounding(group.sd)
    if group.n is None:
        return
    root = math.sqrt(group.n)
    if group.se is not None:
        yield "SE", root * (group.se - _rounding(group.se)), root * (group.se + _rounding(group.se))
    if group.ci_low is not None and group.ci_high is not None:
        share = (1 + (group.level or LEVEL)) / 2
        width, around = group.ci_high - group.ci_low, _rounding(group.ci_high) + _rounding(group.ci_low)
        yield (
            "interval",
            root * (width - around) / (2 * float(stdtrit(group.n - 1, share))),
            root * (width + around) / (2 * float(ndtri(share))),
        )


def _rounding(value: float) -> float:
    """Half a unit of the last decimal place that a number is written with, and a trifle."""
    exponent = Decimal(repr(float(value))).normalize().as_tuple().exponent
    return 0.500001 * 10.0 ** min(0, int(exponent))


def _span(least: float, most: float) -> str:
    low, high = f"{max(least, 0):.3g}", f"{most:.3g}"
    return low if low == high else f"{low} to {high}"


def of_difference(difference: float, p: float, n1: float, n2: float) -> tuple[float, float]:
    """Standard error of a difference of means, and the SD that both groups have in common, from the two-sided p of a t test on n1 + n2 - 2 degrees.

    Higgins JPT, Thomas J, eds. Systematic reviews of interventions, 2nd ed. 2019, 6.5.2.3. Raises Contradiction.
    """
    for name, n in (("n1", n1), ("n2", n2)):
        if n < 2 or n != int(n):
            raise Contradiction(name, f"{n:g} is not a whole number from 2")
    if not 0 < p < 1:
        raise Contradiction("p", f"{p:g} is not between 0 and 1")
    if difference == 0:
        raise Contradiction("difference", "is 0, which says nothing about its error")
    t = float(stdtrit(n1 + n2 - 2, 1 - p / 2))
    se = abs(difference) / t
    return se, se / math.sqrt(1 / n1 + 1 / n2)


def of_ratio(ratio: float, low: float, high: float, level: float = LEVEL) -> tuple[float, float]:
    """A ratio with its interval on the logarithmic scale: estimate and standard error, (ln high - ln low) / 2z. Raises Contradiction."""
    for name, value in (("ratio", ratio), ("ci_low", low), ("ci_high", high)):
        if value <= 0:
            raise Contradiction(name, f"{value:g} is not above 0")
    if not 0 < level < 1:
        raise Contradiction("level", f"{level:g} is not a share between 0 and 1")
    if low >= high:
        raise Contradiction("ci_low", f"ci_low {low:g} is not below ci_high {high:g}")
    if not low <= ratio <= high:
        raise Contradiction("ratio", f"{ratio:g} lies outside its interval, {low:g} to {high:g}")
    return math.log(ratio), (math.log(high) - math.log(low)) / (2 * float(ndtri((1 + level) / 2)))


def of_change(mean1: float, sd1: float, mean2: float, sd2: float, correlation: float) -> tuple[float, float]:
    """Mean and SD of the change from a first to a second measurement of the same group, with the correlation between the two that is assumed.

    SD = √(sd1² + sd2² - 2 r sd1 sd2) (Higgins JPT, Thomas J, eds. Systematic reviews of interventions, 2nd ed. 2019, 6.5.2.8). Raises Contradiction.

    >>> of_change(20, 4, 15, 3, 0.5)
    (-5, 3.605551275463989)
    """
    for name, sd in (("sd1", sd1), ("sd2", sd2)):
        if sd < 0:
            raise Contradiction(name, f"{sd:g} is negative")
    if not -1 <= correlation <= 1:
        raise Contradiction("correlation", f"{correlation:g} is not between -1 and 1")
    return mean2 - mean1, math.sqrt(sd1**2 + sd2**2 - 2 * correlation * sd1 * sd2)


def joined(groups: Sequence[tuple[float, float, float]]) -> tuple[float, float, float]:
    """Groups of n, mean and SD as one group, exactly as if all their members were in it."""
    n = math.fsum(group[0] for group in groups)
    mean = math.fsum(one[0] * one[1] for one in groups) / n
    squares = math.fsum((size - 1) * sd**2 + size * (own - mean) ** 2 for size, own, sd in groups)
    return n, mean, math.sqrt(squares / (n - 1))
