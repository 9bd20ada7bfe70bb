"""Ordering records by closeness to the seeds, learning from decisions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix
from sklearn.feature_extraction.text import TfidfVectorizer
from sklearn.linear_model import LogisticRegression

from kettlesort.core.text import terms

_PRESUMED = 400
"""So many undecided records stand in for those that do not belong, until people have excluded enough."""


class TermMatrix(NamedTuple):
    """Records as weighted terms.

    ``weights`` has shape (records, terms): 1 + log(count), times inverse document
    frequency, each row scaled to length 1 (Salton G, Buckley C. Inf Process Manag
    1988;24:513-523). ``terms`` names the columns.
    """

    weights: csr_matrix
    terms: NDArray[np.str_]


def build(texts: Sequence[str]) -> TermMatrix:
    """The term matrix of ``texts``. Costly; kept while the texts stay the same."""
    if not any(terms(text) for text in texts):
        return TermMatrix(csr_matrix((len(texts), 1)), np.array([""]))
    vectorizer = TfidfVectorizer(
        analyzer=terms, sublinear_tf=True, min_df=2 if len(texts) > 50 else 1, max_df=0.8 if len(texts) > 50 else 1.0, dtype=np.float32
    )
    weights = vectorizer.fit_transform(texts)
    return TermMatrix(csr_matrix(weights), vectorizer.get_feature_names_out())


class Ranking(NamedTuple):
    """``order`` lists positions, closest first; ``closeness`` is between 0 and 1 by position; ``weights`` by term."""

    order: NDArray[np.int64]
    closeness: NDArray[np.float64]
    weights: NDArray[np.float64]


def rank(matrix: TermMatrix, belong: Sequence[int], excluded: Sequence[int]) -> Ranking:
    """Order all records by how likely they belong.

    Parameters
    ----------
    matrix : of n records
    belong : positions of seeds and included records
    excluded : positions of excluded records

    A logistic regression on the terms tells the two sets apart (Cox DR. J R Stat Soc B
    1958;20:215-242). While few are excluded, a fixed sample of undecided records stands in
    for them with little weight (Cormack GV, Grossman MR. Autonomy and reliability of
    continuous active learning. arXiv:1504.06868, 2015). Both sides weigh the same. Without
    any record that belongs, the order is that of the records.
    """
    n = matrix.weights.shape[0]
    if not belong:
        return Ranking(np.arange(n), np.zeros(n), np.zeros(matrix.weights.shape[1]))
    decided = set(belong) | set(excluded)
    undecided = np.array([k for k in range(n) if k not in decided], dtype=np.int64)
    presumed = max(0, min(_PRESUMED, len(undecided)))
    stand_in = np.random.default_rng(20240229).permutation(undecided)[:presumed]
    rows = np.concatenate([np.asarray(belong, dtype=np.int64), np.asarray(excluded, dtype=np.int64), stand_in])
    labels = np.zeros(len(rows))
    labels[: len(belong)] = 1
    weight = np.ones(len(rows))
    weight[len(belong) + len(excluded) :] = min(1.0, 0.05 + 10 / (10 + len(excluded)))
    against = weight[len(belong) :].sum()
    if against == 0:
        return Ranking(np.arange(n), np.ones(n), np.zeros(matrix.weights.shape[1]))
    weight[: len(belong)] = against / len(belong)
    model = LogisticRegression(C=3.0 / max(1.0, against / len(belong)) ** 0.5, solver="liblinear", random_state=0)
    model.fit(matrix.weights[rows], labels, sample_weight=weight)
    scores = np.asarray(matrix.weights @ model.coef_[0] + model.intercept_[0], dtype=np.float64)
    closeness = 1 / (1 + np.exp(-scores))
    return Ranking(np.argsort(-scores, kind="stable"), closeness, np.asarray(model.coef_[0], dtype=np.float64))


class Reason(NamedTuple):
    """A term of a record and what it adds to the record's closeness, in log odds."""

    term: str
    weight: float


def reasons(matrix: TermMatrix, ranking: Ranking, position: int, most: int = 6) -> list[Reason]:
    """The terms that put a record at its place, the weightiest first."""
    row = matrix.weights[[position]]
    adds = row.data * ranking.weights[row.indices]
    order = np.argsort(-np.abs(adds))[:most]
    return [Reason(str(matrix.terms[row.indices[k]]), float(adds[k])) for k in order if abs(adds[k]) > 1e-4]
