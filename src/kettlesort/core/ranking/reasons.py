"""Why a record stands at its place: shares of words, of its sense, and of the records most like it, which add up to its score."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from kettlesort.core.ranking import Ranking
from kettlesort.core.ranking.texts import Texts
from kettlesort.core.text.words import stem_of, words_of

_TOKEN = re.compile(r"\w+")


class Word(NamedTuple):
    """A word of a record in the form that it uses most, what all its forms add to the score, and these forms, folded."""

    word: str
    share: float
    forms: list[str]


class Reasons(NamedTuple):
    """``words``, the weightiest first; ``rest``: other words; ``sense``: the meaning of title and text as a whole; ``start``: where every record
    starts; ``alike``: positions of the records most like it, with what each lends. All together are the score.
    """

    words: list[Word]
    rest: float
    sense: float
    start: float
    alike: list[tuple[int, float]]

    @property
    def total(self) -> float:
        """The score."""
        return sum(word.share for word in self.words) + self.rest + self.sense + self.start + sum(share for _, share in self.alike)


def reasons(texts: Texts, ranking: Ranking, position: int, most: int = 7) -> Reasons:
    """What puts a record at its place.

    A pair of neighbouring stems counts half for each, a run of characters for the words that hold it. Half of the score is the
    record's own, half is lent.
    """
    language = texts.languages[position]
    direction = ranking.direction
    split = np.split(direction.said, np.cumsum([texts.stems.shape[1], texts.grams.shape[1]]))
    by_stem: dict[str, float] = defaultdict(float)
    for matrix, weights in ((texts.stems, split[0]), (texts.titles, split[2])):
        row = slice(matrix.indptr[position], matrix.indptr[position + 1])
        for column, value in zip(matrix.indices[row].tolist(), (matrix.data[row] * weights[matrix.indices[row]]).tolist(), strict=True):
            parts = texts.names[column].split(" ")
            for part in parts:
                by_stem[part] += value / len(parts)
    forms: dict[str, Counter[str]] = defaultdict(Counter)
    rest = 0.0
    for number, often, share in _spelt(texts, split[1], position):
        word = texts.words[number]
        stem = stem_of(word, language)
        if not stem:
            rest += share
            continue
        by_stem[stem] += share
        forms[stem][word] += often
    rest += sum(share for stem, share in by_stem.items() if stem not in forms)
    told = sorted((stem for stem in by_stem if stem in forms), key=lambda stem: -abs(by_stem[stem]))
    rest += sum(by_stem[stem] for stem in told[most:])
    words = [Word(forms[stem].most_common(1)[0][0], by_stem[stem] / 2, sorted(forms[stem])) for stem in told[:most]]
    sense = float(texts.meaning[position] @ direction.meaning)
    near = slice(texts.alike.indptr[position], texts.alike.indptr[position + 1])
    others = texts.alike.indices[near]
    lent = texts.alike.data[near] * ranking.lent[others] / 2
    return Reasons(words, rest / 2, sense / 2, direction.constant / 2, list(zip(others.tolist(), lent.tolist(), strict=True)))


def _spelt(texts: Texts, weights: np.ndarray, position: int) -> list[tuple[int, int, float]]:
    """The words of a record, how often each occurs, and what their runs of characters add, each run shared out among the words that hold it."""
    row = slice(texts.counts.indptr[position], texts.counts.indptr[position + 1])
    numbers, often = texts.counts.indices[row], texts.counts.data[row]
    spelling = texts.spelling[numbers]
    grams = slice(texts.grams.indptr[position], texts.grams.indptr[position + 1])
    columns = texts.grams.indices[grams]
    in_all = np.zeros(texts.grams.shape[1])
    np.add.at(in_all, spelling.indices, spelling.data * np.repeat(often, np.diff(spelling.indptr)))
    each = np.zeros(texts.grams.shape[1])
    each[columns] = texts.grams.data[grams] * weights[columns] / in_all[columns]
    shares = often * (spelling @ each)
    return list(zip(numbers.tolist(), often.astype(int).tolist(), shares.tolist(), strict=True))


def marked(text: str, forms: Mapping[str, bool]) -> list[tuple[int, int, bool]]:
    """Where words of ``forms`` (folded) stand in a text: (begin, end, what ``forms`` says of it), in order.

    >>> marked("Wrapped hives, and HIVES", {"hives": True, "wrapped": False})
    [(0, 7, False), (8, 13, True), (19, 24, True)]
    """
    if not forms:
        return []
    words = ((at, _first_word(at[0])) for at in _TOKEN.finditer(text))
    return [(at.start(), at.end(), forms[word]) for at, word in words if word in forms]


def _first_word(token: str) -> str:
    return token.lower() if token.isascii() and token.isalnum() else next(iter(words_of(token)), "")


def nearest(texts: Texts, positions: Sequence[int], among: Sequence[int], most: int = 3) -> list[list[tuple[int, float]]]:
    """For each of some records, those among others that are most like it, with their likeness: the dot product of all that their texts are."""
    if not len(among):
        return [[] for _ in positions]
    rows, wanted = np.asarray(among, np.int64), np.asarray(positions, np.int64)
    blocks = [(matrix[wanted] @ matrix[rows].T).toarray() for matrix in (texts.stems, texts.grams, texts.titles)]
    meant = [sense[wanted] @ sense[rows].T for sense in (texts.meaning, texts.title_meaning)]
    out = []
    for like in np.sum([*blocks, *meant], axis=0):
        first = np.argsort(-like, kind="stable")[:most]
        out.append([(int(rows[k]), float(like[k])) for k in first])
    return out
