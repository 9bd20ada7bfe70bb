"""What a relative effect means for a thousand, and how sure a body of evidence is, by the team's own words."""

from __future__ import annotations

import math
from collections.abc import Sequence
from statistics import median
from typing import NamedTuple

from kettlesort.core.pooling.analysis import OF_COUNTS, Study
from kettlesort.core.pooling.models import Estimate

DOUBTS = ("none", "some", "serious")
"""How much doubt a domain leaves; each step takes the certainty down by one word."""


class Absolute(NamedTuple):
    """Of 1,000 on the second side ``baseline`` have the event, of 1,000 on the first ``risk``; ``more`` is the difference with its interval."""

    baseline: float
    risk: float
    more: float
    low: float
    high: float


def absolute(measure: str, pooled: Estimate, baseline: float) -> Absolute | None:
    """What a pooled OR, RR (logarithms) or RD means where ``baseline`` of 1,000, above 0 and below 1,000, have the event anyway.

    Only the effect's interval is carried on; the baseline counts as known (Newcombe RG, Bender R. Evid Based Med 2014;19:6-8). Risks end at 0 and 1,000. None for
    other measures, or without an interval.
    """
    if measure not in OF_COUNTS or pooled.ci is None or not 0 < baseline < 1000:
        return None

    def risk(effect: float) -> float:
        share = baseline / 1000
        if measure == "RD":
            found = share + effect
        elif measure == "RR":
            found = share * math.exp(min(effect, 700))
        else:
            odds = share / (1 - share) * math.exp(min(effect, 700))
            found = odds / (1 + odds)
        return 1000 * min(1.0, max(0.0, found))

    middle, low, high = (risk(effect) for effect in (pooled.estimate, *pooled.ci))
    return Absolute(baseline, middle, middle - baseline, low - baseline, high - baseline)


def usual_baseline(studies: Sequence[Study]) -> float | None:
    """The median risk on the second side of some studies of counts, of 1,000; None where that is 0, 1,000 or of none."""
    risks = [1000 * study.cells.c / study.cells.n2 for study in studies if study.cells]
    found = median(risks) if risks else 0.0
    return found if 0 < found < 1000 else None


def led_to(words: Sequence[str], doubts: Sequence[str]) -> str:
    """The word of certainty, the surest first, that doubts lead to: one step down for some doubt, two for a serious one.

    >>> led_to(["sure", "rather sure", "unsure"], ["none", "some"]), led_to(["sure", "unsure"], ["serious", "serious"])
    ('rather sure', 'unsure')
    """
    return words[min(len(words) - 1, sum(map(DOUBTS.index, doubts)))] if words else ""
