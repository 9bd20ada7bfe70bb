"""An index in parts, each of some records: new and changed records get a part of their own, and the others stay as they are."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence

import numpy as np

from kettlesort.core.query.index import Hits, Index, Places, commonest


class Parts:
    """``parts`` with, for each, the place that each of its records has among all; -1 for one that is no longer there.

    The places of all parts together are 0 to ``size`` - 1, each once.
    """

    def __init__(self, parts: Sequence[Index], places: Sequence[Places]) -> None:
        self.parts, self.places = list(parts), list(places)
        self.size = sum(int(np.count_nonzero(at >= 0)) for at in places)
        for part, at in zip(parts, places, strict=True):
            if len(at) != part.size:
                raise ValueError("every record of a part needs its place")

    def gather(self, find: Callable[[Index], Hits]) -> Hits:
        """What is found in the parts, in the order of all records. Shape (size,)."""
        hits = np.zeros(self.size, np.bool_)
        for part, at in zip(self.parts, self.places, strict=True):
            found = at[find(part)]
            hits[found[found >= 0]] = True
        return hits

    def inside(self, k: int, places: Places) -> Places:
        """The places in part ``k`` of those of these records that it has, and of what is no longer there."""
        at = self.places[k]
        return np.flatnonzero((at < 0) | np.isin(at, places))

    def breakdown(self, found: Hits, field: str, most: int = 30) -> list[tuple[str, int]]:
        """How the found records divide by year, language, type, country, journal or descriptor: the commonest values, or all years in order."""
        counted: Counter[str] = Counter()
        for part, at in zip(self.parts, self.places, strict=True):
            counted.update(part.counts((at >= 0) & found[at], field) if self.size else {})
        return commonest(counted, field, most)
