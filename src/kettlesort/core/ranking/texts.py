"""The texts of records as numbers: stems, characters, titles, meaning, and who is like whom. Worked out once; kept while the texts stay the same."""

from __future__ import annotations

from array import array
from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix, hstack

from kettlesort.core.ranking.neighbours import neighbours
from kettlesort.core.text.meaning import meanings
from kettlesort.core.text.words import language_of, stem_of, words_of

Matrix = csr_matrix
Floats = NDArray[np.float32]

_TITLE = 0.3**0.5
"""Titles count 0.3 of the text beside which they stand."""
_MEANING = 0.5
"""The sense of a text counts so much beside its words when records are told apart: what it has in common with a broad field misleads."""
_FEW = 50
"""Among so few records a term counts that only one has."""
_GRAM = 4


class RankedText(NamedTuple):
    """What a record is ranked by."""

    title: str
    abstract: str = ""
    keywords: Sequence[str] = ()


class Texts(NamedTuple):
    """n records as numbers.

    ``stems`` (n, s): stems and after them pairs of neighbouring ones, named by ``names``; ``grams`` (n, c): runs of four characters within words;
    ``titles`` (n, t): stems of titles, named by the first of the same names. Weights are 1 + ln(count) times ln((1 + n) / (1 + df)) + 1 (Salton G, Buckley C. Inf Process
    Manag 1988;24:513-523), rows of length 1, but √0.3 in ``titles``. ``meaning`` and ``title_meaning`` (n, 256): as `meanings`
    has them, of length ½ and ½√0.3. ``alike`` (n, n): the 8 records most like each, rows summing to 1.
    ``counts`` (n, w): how often each word occurs, and ``spelling`` (w, c): the runs of characters in it; ``words`` names them.
    """

    stems: Matrix
    grams: Matrix
    titles: Matrix
    meaning: Floats
    title_meaning: Floats
    alike: Matrix
    names: list[str]
    counts: Matrix
    spelling: Matrix
    words: list[str]
    languages: list[str]

    @property
    def said(self) -> Matrix:
        """[stems grams titles] side by side."""
        return csr_matrix(hstack([self.stems, self.grams, self.titles], format="csr"))


def build(records: Sequence[RankedText]) -> Texts:
    """Records as numbers. Costs about a second for 2,000 of them; an abstract that is missing is stood in for by the keywords."""
    full = [f"{record.title}. {record.abstract or '. '.join(record.keywords)}" for record in records]
    n = len(records)
    least, most = (2, 3) if n > _FEW else (1, 1)
    said_words, said_stems, languages = Terms(), Terms(), list[str]()
    headed = Terms(said_stems.number)
    for text, record in zip(full, records, strict=True):
        words = words_of(text)
        languages.append(code := language_of(words))
        said_words.add(words)
        said_stems.add(stem for word in words if (stem := stem_of(word, code)))
        headed.add(stem for word in words_of(record.title) if (stem := stem_of(word, code)))
    counts, words = said_words.counted()
    single, names = said_stems.counted(least)
    pairs, pair_names = said_stems.pairs(least)
    titles = csr_matrix(headed.counts()[:, [said_stems.number[name] for name in names]])
    spelling = _spelling(words)
    grams = csr_matrix(counts @ spelling)
    common = texts_with_each(grams)
    kept = np.flatnonzero((common >= most) & (common <= (0.3 * n if n > _FEW else n)))
    grams, spelling = csr_matrix(grams[:, kept]), csr_matrix(spelling[:, kept])
    stems = csr_matrix(hstack([single, pairs], format="csr"))
    weights = (weighed(stems), weighed(grams), weighed(titles) * np.float32(_TITLE))
    meaning, title_meaning = meanings(full), meanings([record.title for record in records]) * np.float32(_TITLE)
    said = csr_matrix(hstack(weights, format="csr"))
    alike = neighbours(said, weights[0], np.hstack([meaning, title_meaning]))
    scale = np.float32(_MEANING)
    return Texts(*weights, meaning * scale, title_meaning * scale, alike, names + pair_names, counts, spelling, words, languages)


class Terms:
    """The terms of texts by number, text after text; several may share their numbers. Nothing is kept of a term but its number and, once, its name."""

    def __init__(self, number: dict[str, int] | None = None) -> None:
        self.number: dict[str, int] = {} if number is None else number
        self._run, self._ends = array("i"), array("q", [0])

    def add(self, terms: Iterable[str]) -> None:
        """Go on with the terms of the next text."""
        number = self.number
        self._run.extend([number.setdefault(term, len(number)) for term in terms])
        self._ends.append(len(self._run))

    def counts(self) -> Matrix:
        """How often each term occurs in each text, (n, terms), by number."""
        return _tallied(np.frombuffer(self._run, np.int32), np.frombuffer(self._ends, np.int64), len(self.number))

    def counted(self, least: int = 1) -> tuple[Matrix, list[str]]:
        """How often each term occurs in each text, and the terms, alphabetically: those that at least ``least`` texts have."""
        counts, names = self.counts(), list(self.number)
        kept = sorted(np.flatnonzero(texts_with_each(counts) >= least).tolist(), key=names.__getitem__)
        return csr_matrix(counts[:, kept]), [names[k] for k in kept]

    def pairs(self, least: int) -> tuple[Matrix, list[str]]:
        """The same of pairs of neighbouring terms, by the numbers of both, a blank between their names."""
        run, ends, names = np.frombuffer(self._run, np.int32), np.frombuffer(self._ends, np.int64), list(self.number)
        width = max(1, len(names))
        within = np.ones(max(0, len(run) - 1), bool)
        within[ends[1:-1][(ends[1:-1] > 0) & (ends[1:-1] < len(run))] - 1] = False  # one text's last and the next one's first
        both = (run[:-1].astype(np.int64) * width + run[1:])[within]
        pairs, numbers = np.unique(both, return_inverse=True)
        counts = _tallied(numbers.astype(np.int32), np.concatenate([[0], np.cumsum(np.maximum(np.diff(ends) - 1, 0))]), len(pairs))
        kept = np.flatnonzero(texts_with_each(counts) >= least)
        first, second = np.divmod(pairs[kept], width)
        return csr_matrix(counts[:, kept]), [f"{names[a]} {names[b]}" for a, b in zip(first.tolist(), second.tolist(), strict=True)]


def _tallied(run: NDArray[np.int32], ends: NDArray[np.int64], width: int) -> Matrix:
    """How often each number below ``width`` stands between each end and the next."""
    out = csr_matrix((np.ones(len(run), np.float32), run, ends), shape=(len(ends) - 1, width), copy=True)  # what follows works in place
    out.sum_duplicates()
    return out


def texts_with_each(counts: Matrix) -> NDArray[np.int64]:
    """In how many texts each term occurs, (terms,)."""
    return np.bincount(counts.indices, minlength=counts.shape[1])


def _spelling(words: Sequence[str]) -> Matrix:
    """How often each run of four characters occurs in each word, a blank before and behind it; a shorter word is one run."""
    runs = Terms()
    for word in words:
        padded = f" {word} "
        runs.add(padded[k : k + _GRAM] for k in range(max(1, len(padded) - _GRAM + 1)))
    return runs.counts()


def weighed(counts: Matrix) -> Matrix:
    """Counts as weights, each row of length 1: 1 + ln(count) times ln((1 + n) / (1 + df)) + 1."""
    n = counts.shape[0]
    out = counts.astype(np.float32)
    rare = np.log((1 + n) / (1 + np.bincount(out.indices, minlength=out.shape[1]))) + 1
    out.data = ((1 + np.log(out.data)) * rare[out.indices]).astype(np.float32)
    length = np.sqrt(np.asarray(out.multiply(out).sum(axis=1)).ravel())
    out.data /= np.repeat(np.where(length > 0, length, 1), np.diff(out.indptr)).astype(np.float32)
    return out
