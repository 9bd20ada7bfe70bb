"""Records grouped by likeness of their words: each group with the words that tell it, and how near it is to the seeds."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix
from scipy.sparse.linalg import svds

from kettlesort.core.ranking.texts import RankedText, Terms, texts_with_each, weighed
from kettlesort.core.text.words import language_of, stem_of, words_of

Floats = NDArray[np.float64]
WORDS = 8
"""So many words tell a group."""
_DIMENSIONS, _STARTS, _ROUNDS = 100, 4, 100


class Settings(NamedTuple):
    """How many groups, and which words count: those of at least ``rarest`` records, and of at most the share ``commonest`` of all."""

    groups: int = 20
    rarest: int = 3
    commonest: float = 0.4


class Group(NamedTuple):
    """Members by position, nearest to the seeds first, each with its ``closeness``; ``words`` with how much more often they stand here than elsewhere.

    ``near`` is the mean closeness of the members; None without seeds.
    """

    members: list[int]
    closeness: list[float]
    words: list[tuple[str, float]]
    near: float | None


def group(records: Sequence[RankedText], seeds: Sequence[int], how: Settings, among: Sequence[int] | None = None) -> list[Group]:
    """Group records by likeness of the words of title and abstract; the group nearest to the seeds first, without seeds the largest.

    Texts are sublinear TF-IDF vectors of stems, reduced by singular value decomposition (Deerwester S et al. J Am Soc Inf Sci 1990;41:391-407) and parted by
    spherical k-means (Dhillon IS, Modha DS. Mach Learn 2001;42:143-175), started by k-means++ (Arthur D, Vassilvitskii S. SODA 2007:1027-1035) from fixed
    seeds: the same settings and records give the same groups.

    Parameters
    ----------
    records : n texts, seeds among them
    seeds : positions of those known to belong; closeness is the cosine to the nearest of them, from -1 to 1
    how : settings
    among : positions of the records to group, all where not given; of words that none of them has, nothing is known, so such a record forms a group of the rest

    Raises
    ------
    ValueError : fewer than two groups, a rarest below 1, a commonest that is not above 0 and at most 1
    """
    if how.groups < 2 or how.rarest < 1 or not 0 < how.commonest <= 1:
        raise ValueError("at least two groups, of words in at least one record and in a share above 0")
    chosen = list(range(len(records))) if among is None else sorted(set(among))
    if not chosen:
        return []
    terms, forms = _terms(records, how)
    dense = _reduced(terms)
    points = dense[chosen]
    labels = _parted(points, min(how.groups, len(chosen)))
    known = dense[sorted(set(seeds))]
    near = np.round((points @ known.T).max(axis=1), 9) if len(known) else np.zeros(len(chosen))
    told = _telling(csr_matrix(terms[chosen]), labels, forms)
    out = []
    for label in range(int(labels.max()) + 1):
        inside = np.flatnonzero(labels == label)
        inside = inside[np.lexsort((inside, -near[inside]))]
        out.append(
            Group(
                [chosen[k] for k in inside],
                [float(near[k]) for k in inside],
                told[label],
                float(near[inside].mean()) if len(known) else None,
            )
        )
    return sorted(out, key=lambda one: (-(one.near or 0.0), -len(one.members), one.members[0]))


def _terms(records: Sequence[RankedText], how: Settings) -> tuple[csr_matrix, list[str]]:
    """Weights of stems (n, t), and the commonest spelling of each stem."""
    spelt: dict[str, Counter[str]] = defaultdict(Counter)
    said = Terms()
    for record in records:
        words = words_of(f"{record.title}. {record.abstract}")
        language = language_of(words)
        stems = [(stem, word) for word in words if (stem := stem_of(word, language)) and not word.isdigit()]
        for stem, word in stems:
            spelt[stem][word] += 1
        said.add(stem for stem, _ in stems)
    counts, names = said.counted(how.rarest)
    often = texts_with_each(counts)
    kept = np.flatnonzero((often > 0) & (often <= max(how.rarest, how.commonest * len(records))))
    if not len(kept) or not names:
        return csr_matrix((len(records), 1)), [""]
    forms = [max(spelt[names[k]].items(), key=lambda pair: (pair[1], pair[0]))[0] for k in kept]
    return weighed(csr_matrix(counts[:, kept])), forms


def _reduced(terms: csr_matrix) -> Floats:
    """Rows of length 1 in few dimensions; those of a text without any known word are 0."""
    n, t = terms.shape
    size = min(_DIMENSIONS, n - 1, t - 1)
    if size < 1:
        dense = terms.toarray().astype(np.float64)
    else:
        start = np.random.default_rng(0).standard_normal(min(n, t))
        u, s, _ = svds(terms.astype(np.float64), k=size, v0=start)
        dense = u[:, ::-1] * s[::-1]
        dense *= np.sign(dense[np.abs(dense).argmax(axis=0), np.arange(dense.shape[1])] + 1e-300)
    dense = np.round(dense, 9)
    length = np.linalg.norm(dense, axis=1, keepdims=True)
    return np.asarray(dense / np.where(length > 1e-9, length, 1.0))


def _parted(points: Floats, groups: int) -> NDArray[np.int64]:
    """The group of each point, numbered without gaps: the best of several starts."""
    best, labels = -np.inf, np.zeros(len(points), np.int64)
    for start in range(_STARTS):
        found, how_good = _once(points, groups, np.random.default_rng(start))
        if how_good > best + 1e-9:
            best, labels = how_good, found
    return np.unique(labels, return_inverse=True)[1].astype(np.int64)


def _once(points: Floats, groups: int, rng: np.random.Generator) -> tuple[NDArray[np.int64], float]:
    centres = _starts(points, groups, rng)
    labels = np.full(len(points), -1, np.int64)
    for _ in range(_ROUNDS):
        like = points @ centres.T
        now = like.argmax(axis=1)
        if (now == labels).all():
            break
        labels = now
        sums = np.zeros_like(centres)
        np.add.at(sums, labels, points)
        length = np.linalg.norm(sums, axis=1, keepdims=True)
        centres = np.where(length > 1e-12, sums / np.where(length > 1e-12, length, 1.0), centres)
    return labels, float((points @ centres.T).max(axis=1).sum())


def _starts(points: Floats, groups: int, rng: np.random.Generator) -> Floats:
    """k-means++: each next centre is a point drawn by how far it is from those before."""
    chosen = [int(rng.integers(len(points)))]
    far = 1 - points @ points[chosen[0]]
    while len(chosen) < groups:
        weight = np.maximum(far, 0) ** 2
        total = weight.sum()
        draw = rng.random()
        chosen.append(int(np.searchsorted(np.cumsum(weight) / total, draw)) if total > 1e-12 else int(draw * len(points)))
        chosen[-1] = min(chosen[-1], len(points) - 1)
        far = np.minimum(far, 1 - points @ points[chosen[-1]])
    return points[chosen].copy()


def _telling(terms: csr_matrix, labels: NDArray[np.int64], forms: Sequence[str]) -> list[list[tuple[str, float]]]:
    """For each group the words whose mean weight in it is furthest above that elsewhere."""
    n = terms.shape[0]
    whole = np.asarray(terms.sum(axis=0)).ravel()
    out = []
    for label in range(int(labels.max()) + 1):
        inside = labels == label
        here = np.asarray(terms[np.flatnonzero(inside)].sum(axis=0)).ravel()
        size = int(inside.sum())
        above = here / size - (whole - here) / max(1, n - size)
        first = sorted(np.argsort(-above, kind="stable")[: 4 * WORDS], key=lambda k: (-round(float(above[k]), 9), forms[k]))
        out.append([(forms[k], float(above[k])) for k in first[:WORDS] if above[k] > 0])
    return out
