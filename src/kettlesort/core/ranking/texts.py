"""The texts of records as numbers: stems, characters, titles, meaning, and who is like whom. Worked out once; kept while the texts stay the same."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import pairwise
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

    ``stems`` (n, s): stems and pairs of neighbouring ones, named by ``names``; ``grams`` (n, c): runs of four characters within words;
    ``titles`` (n, s): those of titles, without pairs. Weights are 1 + ln(count) times ln((1 + n) / (1 + df)) + 1 (Salton G, Buckley C. Inf Process
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
    spoken = [words_of(text) for text in full]
    heads = [words_of(record.title) for record in records]
    languages = [language_of(words) for words in spoken]
    stemmed = [[stem for word in words if (stem := stem_of(word, code))] for words, code in zip(spoken, languages, strict=True)]
    headed = [[stem for word in words if (stem := stem_of(word, code))] for words, code in zip(heads, languages, strict=True)]
    n = len(records)
    counts, words = counted(spoken)
    least, most = (2, 3) if n > _FEW else (1, 1)
    stems, names = counted([[*one, *map(" ".join, pairwise(one))] for one in stemmed], least)
    number = {name: k for k, name in enumerate(names)}
    titles, _ = counted(headed, known=number)
    spelling = _spelling(words)
    grams = csr_matrix(counts @ spelling)
    common = np.bincount(grams.indices, minlength=grams.shape[1])
    kept = np.flatnonzero((common >= most) & (common <= (0.3 * n if n > _FEW else n)))
    grams, spelling = csr_matrix(grams[:, kept]), csr_matrix(spelling[:, kept])
    weights = (weighed(stems), weighed(grams), weighed(titles) * np.float32(_TITLE))
    meaning, title_meaning = meanings(full), meanings([record.title for record in records]) * np.float32(_TITLE)
    said = csr_matrix(hstack(weights, format="csr"))
    alike = neighbours(said, weights[0], np.hstack([meaning, title_meaning]))
    scale = np.float32(_MEANING)
    return Texts(*weights, meaning * scale, title_meaning * scale, alike, names, counts, spelling, words, languages)


def counted(texts: Iterable[Sequence[str]], least: int = 1, known: dict[str, int] | None = None) -> tuple[Matrix, list[str]]:
    """How often each term occurs in each text, and the terms, alphabetically: those that at least ``least`` texts have, or the ``known`` ones."""
    number: dict[str, int] = {} if known is None else known
    columns: list[int] = []
    ends = [0]
    for text in texts:
        columns += (
            [number[word] for word in text if word in number]
            if known is not None
            else [number.setdefault(word, len(number)) for word in text]
        )
        ends.append(len(columns))
    out = csr_matrix(
        (np.ones(len(columns), np.float32), np.array(columns, np.int32), np.array(ends, np.int64)),
        shape=(len(ends) - 1, max(1, len(number))),
    )
    out.sum_duplicates()
    names = list(number)
    if known is not None or not names:
        return out, names
    often = np.bincount(out.indices, minlength=len(names)) >= least
    kept = np.array(sorted(np.flatnonzero(often).tolist(), key=names.__getitem__), np.int64)
    if not len(kept):
        return csr_matrix((out.shape[0], 1)), []
    return csr_matrix(out[:, kept]), [names[k] for k in kept]


def _spelling(words: Sequence[str]) -> Matrix:
    """How often each run of four characters occurs in each word, a blank before and behind it; a shorter word is one run."""
    padded = (f" {word} " for word in words or [""])
    return counted([[text[k : k + _GRAM] for k in range(max(1, len(text) - _GRAM + 1))] for text in padded])[0]


def weighed(counts: Matrix) -> Matrix:
    """Counts as weights, each row of length 1: 1 + ln(count) times ln((1 + n) / (1 + df)) + 1."""
    n = counts.shape[0]
    out = counts.astype(np.float32)
    rare = np.log((1 + n) / (1 + np.bincount(out.indices, minlength=out.shape[1]))) + 1
    out.data = ((1 + np.log(out.data)) * rare[out.indices]).astype(np.float32)
    length = np.sqrt(np.asarray(out.multiply(out).sum(axis=1)).ravel())
    out.data /= np.repeat(np.where(length > 0, length, 1), np.diff(out.indptr)).astype(np.float32)
    return out
