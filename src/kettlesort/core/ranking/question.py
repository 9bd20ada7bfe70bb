"""Records by how much they speak to a question in plain words, each with the sentence that does so most."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from math import log
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.ranking.texts import RankedText
from kettlesort.core.text.meaning import meanings
from kettlesort.core.text.sentences import sentences
from kettlesort.core.text.words import language_of, stem_of, words_of

_LONGEST = 60
"""So many sentences of a text are looked at."""


class Spoken(NamedTuple):
    """How much a record speaks to a question, at most 1, and from where to where in its abstract the sentence stands that does most; 0, 0 if none does."""

    score: float
    begin: int
    end: int


def ask(question: str, records: Sequence[RankedText]) -> list[Spoken]:
    """How much each record speaks to a question: half by its whole text, half by its best sentence or title, each by words and by sense alike.

    Words: the share of the question's stems that occur, each weighing as much as it is rare, ln((1 + n) / (1 + df)) (Spärck Jones K. J Doc 1972;28:11-21).
    Sense: the cosine of the means of the vectors of word pieces, not below 0. An empty question or one of common words alone speaks to no words.
    """
    asked = words_of(question)
    language = language_of(asked)
    wanted = {stem for word in asked if (stem := stem_of(word, language))}
    units: list[str] = []
    place: list[tuple[int, int, int]] = []
    for k, text in enumerate(records):
        found = [(0, 0), *sentences(text.abstract)[:_LONGEST]]
        units += [text.title, *(text.abstract[a:b] for a, b in found[1:])]
        place += [(k, a, b) for a, b in found]
    stems = [{stem for word in words_of(unit) if (stem := stem_of(word, language))} & wanted for unit in units]
    owner = np.array([k for k, _, _ in place], np.int64)
    whole = _together(stems, owner, len(records))
    often = Counter(stem for one in whole for stem in one)
    weight = {stem: log((1 + len(records)) / (1 + often[stem])) + 0.01 for stem in wanted}
    total = sum(weight.values()) or 1.0

    def share(some: Sequence[set[str]]) -> NDArray[np.float64]:
        return np.array([sum(weight[stem] for stem in one) / total for one in some])

    sense = meanings([question, *units, *(f"{ranked_text.title}. {ranked_text.abstract}" for ranked_text in records)])
    like = np.maximum(sense[1:] @ sense[0], 0).astype(np.float64)
    of_units = (share(stems) + like[: len(units)]) / 2
    of_whole = (share(whole) + like[len(units) :]) / 2
    best, sentence = [0.0] * len(records), [(0.0, 0, 0)] * len(records)
    for said, (record, begin, end) in zip(of_units.tolist(), place, strict=True):
        best[record] = max(best[record], said)
        if end and said > sentence[record][0]:
            sentence[record] = (said, begin, end)
    return [Spoken(round(float((of_whole[k] + best[k]) / 2), 6), *sentence[k][1:]) for k in range(len(records))]


def _together(stems: Sequence[set[str]], owner: NDArray[np.int64], n: int) -> list[set[str]]:
    out: list[set[str]] = [set() for _ in range(n)]
    for some, k in zip(stems, owner.tolist(), strict=True):
        out[k] |= some
    return out
