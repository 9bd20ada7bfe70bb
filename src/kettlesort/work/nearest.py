"""What a connected catalogue has that is most like some records of the review: how it is asked for, and which of the finds are kept."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from math import log
from typing import NamedTuple

import numpy as np

from kettlesort.core import query
from kettlesort.core.catalogue import NotAnAnswer, read_record
from kettlesort.core.query.words import words_of
from kettlesort.core.ranking.neighbours import likeness_to
from kettlesort.core.ranking.texts import RankedText, build
from kettlesort.core.record import Record
from kettlesort.core.screening.allocation import in_order
from kettlesort.store.base import Row, snapshot
from kettlesort.store.catalogue import records_with
from kettlesort.store.query import marks, searched
from kettlesort.work import catalogue
from kettlesort.work.errors import Invalid
from kettlesort.work.query import telling_words

MOST_RECORDS = 20
MOST_KEPT = 200
LOOKED_THROUGH = 1000
"""At most so many records of the catalogue are compared with the chosen ones."""
_TRIED, _TERMS = 20, 8
_RARE = 4.0
"""Rarer than this, as the logarithm of a share, tells no more: it is chance, a slip of the pen, or a name."""
_BACKGROUND = 2000
"""Beside so many records of the review, at most, it is judged how much a word tells."""


class Composed(NamedTuple):
    """A query as it is written here, and as the catalogue is asked."""

    query: str
    asked: str


def compose(review: int, number: int, records: Sequence[int], tick: Callable[[float], None]) -> Composed:
    """The widest query for what has several of the telling terms of some records that finds no more than can be compared.

    The terms are those that weigh most in the records and are rare in the catalogue: the review is all about one thing, and would
    call the words of that thing common. Raises NotCounted.
    """
    size = catalogue.count_all(review, number)
    held = []
    for k, term in enumerate(telling_words(review, records, _TRIED)):
        tick(k / _TRIED)
        node = query.Text(tuple(words_of(term.term)))
        hits = catalogue.count(review, number, query.write(node), seeds=False).hits
        if hits:
            held.append((term.weight * min(_RARE, log(max(1.0, size / hits))), node))
    terms = [node for _, node in sorted(held, key=lambda pair: -pair[0])[:_TERMS]]
    for least in range(1, len(terms) + 1):
        text = query.write(query.at_least(least, terms))
        counted = catalogue.count(review, number, text, seeds=False)
        if counted.hits <= LOOKED_THROUGH:
            return Composed(text, counted.asked)
    raise catalogue.NotCounted(
        f"What these records have in common with more than {LOOKED_THROUGH:,} of the catalogue tells nothing. Choose records with more of a text."
        if terms
        else "The catalogue knows none of the words of these records."
    )


def closest(review: int, records: Sequence[int], found: Sequence[Row], keep: int) -> set[str]:
    """The keys of those fetched records that are most like the chosen ones; those whose DOI is here already are left out."""
    read = {one["key"]: _read(one["raw"]) for one in found}
    with snapshot() as db:
        here = records_with(db, review, [record.doi for record in read.values() if record.doi])
        every = dict.fromkeys(marks(db, review)[0].tolist())
        chosen = [record for record in records if record in every]
        if not chosen:
            raise Invalid("The chosen records are gone; they may have been joined with others. Choose again.")
        beside = in_order([*(every.keys() - {*chosen})], 0)[:_BACKGROUND]
        texts = {row["id"]: RankedText(row["title"], row["abstract"], row["keywords"]) for row in searched(db, review, [*chosen, *beside])}
    fresh = {key: record for key, record in read.items() if record.title and record.doi not in here}
    judged = [RankedText(record.title, record.abstract, record.keywords) for record in fresh.values()]
    built = build([*(texts[record] for record in (*chosen, *beside)), *judged])
    like = likeness_to(built.said, np.hstack([built.meaning, built.title_meaning]), range(len(chosen)))[len(chosen) + len(beside) :]
    return {key for _, key in sorted(zip((-like).tolist(), fresh, strict=True))[:keep]}


def _read(raw: str) -> Record:
    try:
        return read_record(raw)
    except NotAnAnswer:
        return Record()
