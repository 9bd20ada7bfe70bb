"""The order of a review's records, worked out in the background."""

from __future__ import annotations

from collections import OrderedDict
from typing import NamedTuple

import numpy as np

from kettlesort.core import ranking
from kettlesort.core.ranking import TermMatrix
from kettlesort.core.text import text_of
from kettlesort.store import query
from kettlesort.store.base import session, snapshot
from kettlesort.store.records import all_texts
from kettlesort.store.screen import decided, write_order
from kettlesort.work.change import tell

_KEPT = 4
_TERMS = 20000


class _Texts(NamedTuple):
    """Records as terms, and the mark of the texts that they were made from."""

    mark: tuple[object, ...]
    ids: list[int]
    matrix: TermMatrix


_texts: OrderedDict[int, _Texts] = OrderedDict()
"""By review: costly, and the same after every decision."""


def rank_review(review: int) -> None:
    """Rank the records of a review by its seeds and decisions as they are now."""
    held = _texts_of(review)
    if not held.ids:
        return
    with snapshot() as db:
        belong, excluded = decided(db, review)
    position = {record: k for k, record in enumerate(held.ids)}
    order = ranking.rank(held.matrix, [position[r] for r in belong if r in position], [position[r] for r in excluded if r in position])
    heavy = np.argsort(-np.abs(order.weights))[:_TERMS]
    weights = {str(held.matrix.terms[k]): round(float(order.weights[k]), 4) for k in heavy if abs(order.weights[k]) > 1e-3}
    places = [(held.ids[k], float(order.closeness[k])) for k in order.order.tolist()]
    with session() as db:
        write_order(db, review, len(belong) + len(excluded), places, weights)
        tell(db, review, "ranking")


def _texts_of(review: int) -> _Texts:
    """The texts of a review as terms, read again only when they changed."""
    with snapshot() as db:
        mark = query.fingerprint(db, review)
        held = _texts.get(review)
        if held is None or held.mark != mark:
            found = all_texts(db, review)
            held = _Texts(
                mark, [it["id"] for it in found], ranking.build([text_of(it["title"], it["abstract"], it["keywords"]) for it in found])
            )
    _texts[review] = held
    _texts.move_to_end(review)
    while len(_texts) > _KEPT:
        _texts.popitem(last=False)
    return held
