"""How fast people screen, and when what is left will be done."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from datetime import date, datetime, timedelta
from itertools import pairwise
from math import ceil, sqrt
from statistics import median
from typing import NamedTuple

_PAUSE = 600
"""Seconds; who decides on nothing for longer has paused."""
_ENOUGH = 0.25
"""Hours."""
_DAYS = 14
_Z = 1.96


class Pace(NamedTuple):
    """So many ``records`` in so many ``hours`` at the desk; ``an_hour`` is None while too little time was spent to tell."""

    records: int
    hours: float
    an_hour: float | None


def pace(times: Iterable[datetime]) -> Pace:
    """The pace of one person, from when each decision was made.

    Time at the desk is the sum of the gaps between decisions; a gap of more than ten minutes is a pause, in whose place stands the median gap,
    for the record that was read before the first decision after it.
    """
    held = sorted(times)
    gaps = [(b - a).total_seconds() for a, b in pairwise(held)]
    worked = [gap for gap in gaps if gap <= _PAUSE]
    typical = median(worked) if worked else 0.0
    hours = (sum(worked) + typical * (len(held) - len(worked))) / 3600
    return Pace(len(held), hours, len(held) / hours if hours >= _ENOUGH else None)


class Until(NamedTuple):
    """So many a day, and the day on which the rest is done at that pace: at the earliest and the latest, with 95 % confidence; ``late`` None if it cannot be told."""

    a_day: float
    day: date
    early: date
    late: date | None


def until_done(left: int, times: Sequence[datetime], today: date) -> Until | None:
    """When ``left`` decisions will have been made, from those of the last fourteen days, days without any counted.

    None while there are decisions of less than three days. The band is that of the mean of days: its standard error, as if days were independent.
    """
    begin = max(min((one.date() for one in times), default=today), today - timedelta(days=_DAYS - 1))
    by_day = Counter(one.date() for one in times if one.date() >= begin)
    days = (today - begin).days + 1
    if len(by_day) < 3 or not left:
        return None
    counts = [by_day.get(begin + timedelta(days=k), 0) for k in range(days)]
    mean = sum(counts) / days
    error = sqrt(sum((n - mean) ** 2 for n in counts) / (days - 1) / days)

    def on(rate: float) -> date:
        return today + timedelta(days=min(ceil(left / rate), 36_500))

    slow = mean - _Z * error
    return Until(mean, on(mean), on(mean + _Z * error), on(slow) if slow > mean / 20 else None)
