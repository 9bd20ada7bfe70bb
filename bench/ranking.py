"""Re-ranking after decisions against scikit-learn fitted anew, both on matrices that are kept, and the memory that it takes.

`./kettle run python bench/ranking.py [RECORDS]`
"""

from __future__ import annotations

import resource
import sys
import time

from sklearn.feature_extraction.text import TfidfVectorizer
from sklearn.linear_model import LogisticRegression

from corpus import invented
from kettlesort.core.ranking import RankedText, Ranker, build
from measure import best, tell


def main() -> None:
    """Print the ratio."""
    n = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    records = [RankedText(it.title, it.abstract, it.keywords) for it in invented(n)]
    belong, excluded = list(range(0, 300, 3)), list(range(1, 3000, 7))
    begun = time.perf_counter()
    ranker = Ranker(build(records))
    print(f"{n:,} records as numbers, once: {time.perf_counter() - begun:.1f} s")
    ranker.rank(belong, excluded)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024**2
    weights = TfidfVectorizer(sublinear_tf=True).fit_transform([f"{it.title} {it.abstract}" for it in records])
    rows = belong + excluded
    more = iter(range(3001, n))

    def again() -> None:
        ranker.rank(belong, [*excluded, *(next(more) for _ in range(10))])

    def peer() -> None:
        model = LogisticRegression(max_iter=200).fit(weights[rows], [1] * len(belong) + [0] * len(excluded))
        model.decision_function(weights).argsort()

    own, others = best(again, peer, runs=5)
    if n <= 10_000:  # beyond, what counts is how long people wait
        tell(f"re-ranking {n:,} records, share of scikit-learn", own / others, 0.2, at_most=True, detail=f"{own * 1000:.0f} ms")
    tell("re-ranking, s", own, 10, at_most=True)
    tell("memory at its most, with the texts, GB", peak, 4, at_most=True)


if __name__ == "__main__":
    main()
