"""Words and phrases of the seeds, beside how common they are elsewhere: what a query can be made of."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from math import log
from typing import NamedTuple

import numpy as np
import snowballstemmer

from kettlesort.core.query.counting import count_records
from kettlesort.core.query.index import Index
from kettlesort.core.query.nodes import EVERYWHERE
from kettlesort.core.query.parts import Parts
from kettlesort.core.query.words import words_of
from kettlesort.core.text import STOP_WORDS

_BREAK = re.compile(r"[.;:!?()\[\]/]+(?:\s|$)|\n")
_stemmer = snowballstemmer.stemmer("english")


class Settings(NamedTuple):
    """What counts as a term, and how its places are weighed.

    ``longest`` phrase in words (1 to 6); ``least`` number of seeds that have it (from 1);
    weights of an occurrence by field; ``common`` keeps words such as "of" and "study";
    ``stems`` joins the forms of a word that the seeds use.
    """

    longest: int = 3
    least: int = 2
    title: float = 3.0
    abstract: float = 1.0
    keyword: float = 2.0
    common: bool = False
    stems: bool = False


class SeedText(NamedTuple):
    """A seed's texts, and its place in the index of all records."""

    place: int
    title: str
    abstract: str
    keywords: Sequence[str]


class Mined(NamedTuple):
    """A word or phrase of the seeds.

    ``seeds`` that have it, occurrences by field, ``weight`` as the settings say, other
    ``records`` that have it, and ``special``: the log-likelihood ratio of its being in the
    seeds more often than elsewhere, negative where it is rarer. ``forms`` are its spellings
    in the seeds, the commonest first.
    """

    term: str
    forms: tuple[str, ...]
    seeds: int
    title: int
    abstract: int
    keyword: int
    weight: float
    records: int
    special: float


def log_likelihood_ratio(a: int, n: int, b: int, m: int) -> float:
    """How much more likely ``a`` of ``n`` and ``b`` of ``m`` are with two rates than with one, twice the logarithm.

    Negative when the rate of the first is the lower. (Dunning T. Comput Linguist
    1993;19:61-74.)

    >>> round(log_likelihood_ratio(6, 6, 10, 100), 2)
    24.94
    """
    total = n + m
    if n == 0 or m == 0:
        return 0.0
    ratio = 0.0
    for observed, row, column in ((a, n, a + b), (n - a, n, total - a - b), (b, m, a + b), (m - b, m, total - a - b)):
        if observed:
            ratio += 2 * observed * log(observed * total / (row * column))
    return ratio if a * m >= b * n else -ratio


def mine(seeds: Sequence[SeedText], index: Index | Parts, settings: Settings = Settings()) -> list[Mined]:
    """The words and phrases of the seeds, the weightiest first.

    A phrase lies within one sentence of one text and neither begins nor ends with a common
    word; it is counted wherever its words follow each other, as a query would find it. The
    other records are all of the index but the seeds. ValueError for settings out of range.
    """
    if not 1 <= settings.longest <= 6 or settings.least < 1 or min(settings.title, settings.abstract, settings.keyword) < 0:
        raise ValueError("phrases have 1 to 6 words, at least one seed, and weights from 0")
    candidates = {gram for seed in seeds for text in _texts(seed) for gram in _candidates(text[1], settings)}
    having: defaultdict[tuple[str, ...], set[int]] = defaultdict(set)
    for number, field_texts in enumerate(map(_texts, seeds)):
        for _, text in field_texts:
            for gram in _grams(words_of(text), settings.longest):
                having[_key(gram, settings)].add(number)
    kept = [key for key in sorted(candidates) if len(having[key]) >= settings.least]
    counts: dict[tuple[str, ...], Counter[str]] = {key: Counter() for key in kept}
    forms: dict[tuple[str, ...], Counter[tuple[str, ...]]] = {key: Counter() for key in kept}
    for field, text in (one for seed in seeds for one in _texts(seed)):
        for gram in _grams(words_of(text), settings.longest):
            key = _key(gram, settings)
            if key in counts:
                counts[key][field] += 1
                forms[key][gram] += 1
    spelled = [[gram for gram, _ in forms[key].most_common()] for key in kept]
    elsewhere = count_records(index, spelled, EVERYWHERE, np.array([seed.place for seed in seeds], np.int64))
    others = index.size - len(seeds)
    out = []
    for key, spellings, records in zip(kept, spelled, elsewhere.tolist(), strict=True):
        count = counts[key]
        names = tuple(" ".join(gram) for gram in spellings)
        having_it = len(having[key])
        out.append(
            Mined(
                term=names[0],
                forms=names,
                seeds=having_it,
                title=count["title"],
                abstract=count["abstract"],
                keyword=count["keyword"],
                weight=settings.title * count["title"] + settings.abstract * count["abstract"] + settings.keyword * count["keyword"],
                records=records,
                special=log_likelihood_ratio(having_it, len(seeds), records, others),
            )
        )
    return sorted(out, key=lambda one: (-one.weight, -one.special, one.term))


def _texts(seed: SeedText) -> Iterator[tuple[str, str]]:
    yield "title", seed.title
    yield "abstract", seed.abstract
    for word in seed.keywords:
        yield "keyword", word


def _grams(words: Sequence[str], longest: int) -> Iterator[tuple[str, ...]]:
    for size in range(1, longest + 1):
        for k in range(len(words) - size + 1):
            yield tuple(words[k : k + size])


def _candidates(text: str, settings: Settings) -> Iterator[tuple[str, ...]]:
    for sentence in _BREAK.split(text):
        for gram in _grams(words_of(sentence), settings.longest):
            if settings.common or not (_is_common(gram[0]) or _is_common(gram[-1])):
                yield _key(gram, settings)


def _is_common(word: str) -> bool:
    return word in STOP_WORDS or len(word) < 2 or word.isdigit()


def _key(gram: tuple[str, ...], settings: Settings) -> tuple[str, ...]:
    return tuple(_stemmer.stemWords(gram)) if settings.stems else gram
