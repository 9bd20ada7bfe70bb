"""Which records are most like each other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix, csr_matrix

NEAREST = 8
_CANDIDATES = 32
_ALL_AGAINST_ALL = 20_000
_CELLS = 300
_CELLS_LOOKED_AT = 4
_TELLING = 100
"""Terms that more records have lead to no candidates: too many share them."""


def likeness_to(said: csr_matrix, meant: NDArray[np.float32], chosen: Sequence[int]) -> NDArray[np.float64]:
    """How like some ``chosen`` ones each of n records is at the mean, (n,): 1 for the one of them that is most like all of them.

    As `neighbours` measures it. The chosen ones themselves come first.
    """
    some = list(chosen)
    score = (np.asarray((said @ said[some].T).todense(), np.float64) + meant @ meant[some].T).mean(axis=1)
    score /= max(1e-9, float(score[some].max()))
    score[some] = np.maximum(score[some], score.max())
    return np.asarray(score, np.float64)


def neighbours(said: csr_matrix, stems: csr_matrix, meant: NDArray[np.float32]) -> csr_matrix:
    """The 8 records most like each of n, by the dot product of ``said`` (n, terms) and of ``meant`` (n, d): weights (n, n), rows summing to 1.

    Candidates are the nearest in meaning, and those that share rare ``stems``; their likeness is exact. Above 20,000 records
    the nearest in meaning are looked for in a few of 300 cells (MacQueen J, 1967, k-means).
    """
    n = said.shape[0]
    near = _near_in_meaning(meant)
    sharing = _sharing(stems)
    rows, columns, likeness = [], [], []
    scratch = np.zeros(said.shape[1], np.float32)
    for k in range(n):
        candidates = np.union1d(near[k], sharing.indices[sharing.indptr[k] : sharing.indptr[k + 1]])
        candidates = candidates[candidates != k]
        if not len(candidates):
            continue
        begin, end = said.indptr[k], said.indptr[k + 1]
        own = said.indices[begin:end]
        scratch[own] = said.data[begin:end]
        like = said[candidates] @ scratch + meant[candidates] @ meant[k]
        scratch[own] = 0
        first = np.argsort(-like, kind="stable")[:NEAREST]
        first = first[like[first] > 0]
        rows.append(np.full(len(first), k))
        columns.append(candidates[first])
        likeness.append(like[first] / like[first].sum() if len(first) else like[first])
    if not rows:
        return csr_matrix((n, n))
    flat = (np.concatenate(likeness).astype(np.float32), (np.concatenate(rows), np.concatenate(columns)))
    return csr_matrix(coo_matrix(flat, shape=(n, n)))


def _near_in_meaning(meant: NDArray[np.float32]) -> list[NDArray[np.int64]]:
    n = len(meant)
    out: list[NDArray[np.int64]] = [np.empty(0, np.int64)] * n
    if n <= _ALL_AGAINST_ALL:
        everyone = np.arange(n)
        for begin in range(0, n, 512):
            rows = np.arange(begin, min(n, begin + 512))
            _nearest(meant, rows, everyone, out)
        return out
    from sklearn.cluster import MiniBatchKMeans  # takes a second to load, and only the largest reviews need it

    cells = MiniBatchKMeans(_CELLS, random_state=0, n_init=1, batch_size=4096, max_iter=30).fit(meant)
    inside = [np.flatnonzero(cells.labels_ == k) for k in range(_CELLS)]
    beside = np.argsort(-(cells.cluster_centers_ @ cells.cluster_centers_.T - 0.5 * (cells.cluster_centers_**2).sum(axis=1)), axis=1)
    for k in range(_CELLS):
        others = np.unique(np.concatenate([inside[k], *(inside[j] for j in beside[k, : _CELLS_LOOKED_AT + 1])]))
        for begin in range(0, len(inside[k]), 512):
            _nearest(meant, inside[k][begin : begin + 512], others, out)
    return out


def _nearest(meant: NDArray[np.float32], rows: NDArray[np.int64], among: NDArray[np.int64], out: list[NDArray[np.int64]]) -> None:
    """Write the candidates of ``rows`` into ``out``."""
    like = meant[rows] @ meant[among].T
    most = min(_CANDIDATES + 1, len(among))
    first = np.argpartition(-like, most - 1, axis=1)[:, :most]
    for k, row in enumerate(rows.tolist()):
        out[row] = among[first[k]]


def _sharing(stems: csr_matrix) -> csr_matrix:
    """For each record, those that share most of its rare terms."""
    often = np.bincount(stems.indices, minlength=stems.shape[1])
    rare = csr_matrix(stems[:, np.flatnonzero((often > 1) & (often <= _TELLING))])
    across = csr_matrix(rare.T)
    indptr, indices = [0], []
    for begin in range(0, stems.shape[0], 512):
        shared = csr_matrix(rare[begin : begin + 512] @ across)
        for k in range(shared.shape[0]):
            row = slice(shared.indptr[k], shared.indptr[k + 1])
            columns, weight = shared.indices[row], shared.data[row]
            most = min(_CANDIDATES + 1, len(columns))
            first = columns[np.argpartition(-weight, most - 1)[:most]] if most else columns
            indices.append(first)
            indptr.append(indptr[-1] + len(first))
    flat = np.concatenate(indices) if indices else np.empty(0, np.int64)
    return csr_matrix((np.ones(len(flat), np.float32), flat, np.array(indptr)), shape=(stems.shape[0], stems.shape[0]))
