"""Re-ranking after a decision against scikit-learn from nothing: `./kettle run python bench/ranking.py`"""

from __future__ import annotations

from sklearn.feature_extraction.text import TfidfVectorizer
from sklearn.linear_model import LogisticRegression

from corpus import invented
from kettlesort.core.ranking import build, rank
from kettlesort.core.text import text_of
from measure import best, tell


def main() -> None:
    texts = [text_of(it.title, it.abstract, it.keywords) for it in invented(10_000)]
    belong, excluded = list(range(0, 300, 3)), list(range(1, 3000, 7))
    matrix = build(texts)

    def from_nothing() -> None:
        weights = TfidfVectorizer(sublinear_tf=True).fit_transform(texts)
        rows = belong + excluded
        model = LogisticRegression(max_iter=200).fit(weights[rows], [1] * len(belong) + [0] * len(excluded))
        model.decision_function(weights).argsort()

    again, peer = best(lambda: rank(matrix, belong, excluded), from_nothing, runs=3)
    tell("re-ranking 10,000 records, share of scikit-learn from nothing", again / peer, 0.2, at_most=True, detail=f"{again * 1000:.0f} ms")


if __name__ == "__main__":
    main()
