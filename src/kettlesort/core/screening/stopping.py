"""What is still out there: how many included records are not yet seen, and how likely what was seen would be if too many were."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.special import gammaln

_LEVEL = 0.05


class Range(NamedTuple):
    """An estimate with its 95 % interval."""

    estimate: float
    low: float
    high: float


class Remaining(NamedTuple):
    """``left``: included records not yet seen. ``recall``: None when nothing is included and all is seen. ``p95``: how likely what was
    seen would be, at most, if recall were below 95 %, at one look. ``assumptions``: what must hold for it.
    """

    left: Range
    recall: Range | None
    p95: float
    method: str
    assumptions: list[str]


class Stretch(NamedTuple):
    """Answers that are looked at as if drawn at random: ``drawn`` of the ``among`` that were undecided before them, with ``found`` included.

    ``more`` is how many were found after it.
    """

    among: int
    drawn: int
    found: int
    more: int = 0


SAMPLED = ["The sample was drawn at random from all records that were undecided then, and its size was fixed beforehand."]
RANKED = [
    "What is left is no richer in included records than what was screened last: the order is no worse than chance towards its end.",
    "No second wave: a group of included records that is unlike all that were found would come late, and no figure here can foresee it. A random sample of the undecided can.",
]
ONCE = "This is one look; who looks again and again, and stops at the first good figure, errs more often."


def remaining(records: int, answers: Sequence[int] | NDArray[np.int8], random: int = 0, after: int = 0) -> Remaining:
    """What is left after some answers.

    Parameters
    ----------
    records : how many there are, at least as many as answers
    answers : 1 for included, 0 for not, in the order in which they were given
    random : so many of the last answers are of records drawn at random from the undecided; the others came in ranked order
    after : so many answers came after those

    With a random sample the number of included records among those that were undecided before it follows from the hypergeometric
    distribution (exact; Clopper CJ, Pearson ES. Biometrika 1934;26:404-413, for finite populations). Without, each of several last
    stretches of the ranked answers is taken for a sample, which errs to the safe side as long as the order does not grow richer, and the one that
    tells most counts (Callaghan MW, Müller-Hansen F. Syst Rev 2020;9:273): a stretch with finds in it tells of a larger number that would be too many,
    so that looking at several hardly adds to the error of the one without. Raises ValueError for numbers that cannot be.
    """
    said = np.asarray(answers, np.int64)
    n = len(said)
    if not 0 <= random + after <= n <= records or min(random, after) < 0:
        raise ValueError(f"{random} random ones of {n} answers about {records} records cannot be")
    found, open_ = int(said.sum()), records - n
    if not open_:
        return Remaining(Range(0, 0, 0), Range(1, 1, 1) if found else None, 0.0, "all seen", [])
    if random:
        stretches, method, assumptions = (
            [_sample(records, said, random, after)],
            "random sample",
            SAMPLED,
        )
    else:
        stretches, method, assumptions = _last_stretches(records, said), "last stretches of the ranked order", RANKED
    too_many = found // 19 + 1
    p95 = 0.0 if too_many > open_ else min(1.0, min(likely(stretch, too_many) for stretch in stretches))
    level = _LEVEL / 2 if random else _LEVEL  # without a sample nothing speaks against 0
    high = min(_most(stretch, open_, level) for stretch in stretches)
    low = _least(stretches[0], open_, _LEVEL / 2) if random else 0
    estimate = min(max(_of_sample(stretches[0], open_) if random else _expected(records, said), low), high)
    share = [1.0 if not found and not left else found / (found + left) for left in (estimate, high, low)]
    return Remaining(Range(estimate, low, high), Range(*share), p95, method, [*assumptions, ONCE])


def _sample(records: int, said: NDArray[np.int64], random: int, after: int) -> Stretch:
    begin, end = len(said) - random - after, len(said) - after
    return Stretch(records - begin, random, int(said[begin:end].sum()), int(said[end:].sum()))


def _of_sample(stretch: Stretch, open_: int) -> float:
    """How many are left if the sample is what all were: its share of those that were undecided then, less what was found since."""
    return min(float(open_), max(0.0, stretch.found / stretch.drawn * (stretch.among - stretch.drawn) - stretch.more))


def likely(stretch: Stretch, left: int) -> float:
    """How likely at most so many would be found in a stretch if ``left`` included records were left after it: the hypergeometric distribution's lower tail."""
    return _tail(stretch.among, stretch.found + stretch.more + left, stretch.drawn, 0, stretch.found)


def _tail(among: int, included: int, drawn: int, first: int, last: int) -> float:
    """How likely from ``first`` to ``last`` of ``included`` are drawn when ``drawn`` of ``among`` are."""
    first, last = max(first, drawn - (among - included)), min(last, drawn, included)
    if last < first:
        return 0.0
    k = np.arange(first, last + 1)

    def chosen(n: int, of: NDArray[np.int64]) -> NDArray[np.float64]:
        return np.asarray(gammaln(n + 1) - gammaln(of + 1) - gammaln(n - of + 1), np.float64)

    log = chosen(included, k) + chosen(among - included, drawn - k) - chosen(among, np.array(drawn))
    return float(min(1.0, np.exp(log).sum()))


def _most(stretch: Stretch, open_: int, level: float) -> int:
    """The most that can be left if what was found in a stretch is not to be less likely than ``level``."""
    low, high = 0, open_
    while low < high:
        middle = (low + high + 1) // 2
        low, high = (middle, high) if likely(stretch, middle) > level else (low, middle - 1)
    return low


def _least(stretch: Stretch, open_: int, level: float) -> int:
    """The fewest that can be left if finding so many is not to be less likely than ``level``."""
    low, high = 0, open_
    while low < high:
        middle = (low + high) // 2
        low, high = (
            (low, middle)
            if _tail(stretch.among, stretch.found + stretch.more + middle, stretch.drawn, stretch.found, stretch.drawn) > level
            else (middle + 1, high)
        )
    return low


SINCE = range(4)
"""Stretches since the last find, since that before it …"""
LAST = (2, 4)
"""The last half and quarter of the answers."""


def _last_stretches(records: int, said: NDArray[np.int64]) -> list[Stretch]:
    n, finds = len(said), np.flatnonzero(said)
    begins = [int(finds[-1 - back]) + 1 if len(finds) > back else 0 for back in SINCE] + [n - n // part for part in LAST]
    return [Stretch(records - begin, n - begin, int(said[begin:].sum())) for begin in dict.fromkeys(begins)]


def _expected(records: int, said: NDArray[np.int64]) -> float:
    """How many included records are left without a sample, as far as can be told.

    The rate of finds goes on falling as it fell: the answers' second half against its first, and the last quarter against the one
    before, taken together, never rising.
    """
    n, open_ = len(said), records - len(said)
    if not n or not said.any():
        return 0.0
    quarter = max(1, n // 4)
    rate = said[n - quarter :].mean()
    halves = said[: n // 2].mean() if n > 1 else rate
    fall = min(1.0, float((said[n // 2 :].mean() + 0.25 / n) / (halves + 0.25 / n)) ** 0.5)  # in a quarter of what was answered
    steps = open_ / quarter
    return float(rate * quarter * (steps if fall == 1 else fall * (1 - fall**steps) / (1 - fall)))
