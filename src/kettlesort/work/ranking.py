"""The order of a review's records, worked out in the background."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from itertools import islice
from typing import NamedTuple

from kettlesort.core.ranking import RankedText, Ranker, Ranking, build
from kettlesort.core.ranking.reasons import nearest, reasons
from kettlesort.store import query
from kettlesort.store.base import session, snapshot
from kettlesort.store.ranking import Ranked, Why, decided, write_order
from kettlesort.store.records import all_texts
from kettlesort.work.change import tell

_KEPT = 4
EXPLAINED = 300
"""For so many undecided records, from the first, it is worked out why they stand there."""


class Held(NamedTuple):
    """A review's records as numbers, and the mark of the texts that they were made from."""

    mark: tuple[object, ...]
    ids: list[int]
    ranker: Ranker


_held: OrderedDict[int, Held] = OrderedDict()
"""By review: costly, and the same after every decision."""


def rank_review(review: int) -> None:
    """Rank the records of a review by its seeds and decisions as they are now."""
    held = texts_of(review)
    if not held.ids:
        return
    with snapshot() as db:
        told = decided(db, review)
    place = {record: k for k, record in enumerate(held.ids)}
    belong, excluded, lesser = ([place[record] for record in some if record in place] for some in told)
    order = held.ranker.rank(belong, excluded, lesser)
    why = _explained(held, order, [*belong, *excluded, *lesser]) if belong else {}
    places = [Ranked(held.ids[k], float(order.closeness[k]), why.get(k)) for k in order.order.tolist()]
    with session() as db:
        write_order(db, review, sum(map(len, told)) if belong else 0, places)
        tell(db, review, "ranking")


def _explained(held: Held, order: Ranking, seen: Sequence[int]) -> dict[int, Why]:
    """Why the next records stand where they do, by position; those that are ``seen`` need it no more."""
    texts, passed = held.ranker.texts, frozenset(seen)
    out = {}
    for k in islice((k for k in order.order.tolist() if k not in passed), EXPLAINED):
        found = reasons(texts, order, k)
        out[k] = Why(
            [(word.word, word.share, word.forms) for word in found.words], found.rest, found.sense,
            [(held.ids[j], share) for j, share in found.alike], [(held.ids[j], like) for j, like in nearest(texts, k, seen)],
        )  # fmt: skip
    return out


def texts_of(review: int) -> Held:
    """The texts of a review as numbers, read again only when they changed."""
    with snapshot() as db:
        mark = query.fingerprint(db, review)
        held = _held.get(review)
        if held is None or held.mark != mark:
            found = all_texts(db, review)
            texts = build([RankedText(row["title"], row["abstract"], row["keywords"]) for row in found])
            held = Held(mark, [row["id"] for row in found], Ranker(texts))
    _held[review] = held
    _held.move_to_end(review)
    while len(_held) > _KEPT:
        _held.popitem(last=False)
    return held
