"""The order of a review's records, worked out in the background."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from itertools import islice
from typing import NamedTuple

from kettlesort.core.ranking import RankedText, Ranker, Ranking, build
from kettlesort.core.ranking.chance import Calibration, Decision, calibrate
from kettlesort.core.ranking.reasons import nearest, reasons
from kettlesort.store import query
from kettlesort.store.base import session, snapshot
from kettlesort.store.ranking import Ranked, Why, decided, decided_in_time, write_order
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
        history = decided_in_time(db, review)
    place = {record: k for k, record in enumerate(held.ids)}
    belong, excluded, lesser = ([place[record] for record in some if record in place] for some in told)
    order = held.ranker.rank(belong, excluded, lesser)
    seen = {row["record_id"] for row in history}
    seeds = [place[record] for record in told.belong if record in place and record not in seen]
    chances = _calibrated(
        review,
        held,
        seeds,
        [Decision(place[row["record_id"]], row["belongs"], row["lesser"]) for row in history if row["record_id"] in place],
    )
    why = _explained(held, order, [*belong, *excluded, *lesser], chances) if belong else {}
    places = [Ranked(held.ids[k], float(order.closeness[k]), why.get(k)) for k in order.order.tolist()]
    with session() as db:
        write_order(db, review, sum(map(len, told)) if belong else 0, places)
        tell(db, review, "ranking")


_chances: dict[int, tuple[tuple[object, ...], int, Calibration | None]] = {}
"""By review: the mark of the texts, of how many decisions, and what they tell of a score. Costs ten orders, so it is kept until there are a twentieth more."""


def _calibrated(review: int, held: Held, seeds: Sequence[int], decisions: Sequence[Decision]) -> Calibration | None:
    mark, n, found = _chances.get(review, ((), 0, None))
    if mark != held.mark or len(decisions) < n or len(decisions) >= n + max(5, n // 20):
        found = calibrate(held.ranker, seeds, decisions)
        _chances[review] = (held.mark, len(decisions), found)
    return found


def _explained(held: Held, order: Ranking, seen: Sequence[int], chances: Calibration | None) -> dict[int, Why]:
    """Why the next records stand where they do, by position; those that are ``seen`` need it no more."""
    texts, passed = held.ranker.texts, frozenset(seen)
    next_ones = list(islice((k for k in order.order.tolist() if k not in passed), EXPLAINED))
    out = {}
    for rank, (k, near) in enumerate(zip(next_ones, nearest(texts, next_ones, seen), strict=True), 1):
        found = reasons(texts, order, k)
        out[k] = Why(
            [(word.word, word.share, word.forms) for word in found.words], found.rest, found.sense,
            [(held.ids[j], share) for j, share in found.alike], [(held.ids[j], like) for j, like in near], _chance(chances, float(order.score[k]), rank), found.start,
        )  # fmt: skip
    return out


def _chance(chances: Calibration | None, score: float, rank: int) -> tuple[float, float, float, int, int] | None:
    likely = chances.of(score, rank) if chances else None
    return (*likely, chances.found, chances.excluded) if chances and likely else None


def texts_of(review: int) -> Held:
    """The texts of a review as numbers, read again only when they changed."""
    with snapshot() as db:
        mark = query.fingerprint(db, review)
        held = _held.get(review)
        found = all_texts(db, review) if held is None or held.mark != mark else ()
    if held is None or held.mark != mark:
        texts = build([RankedText(row["title"], row["abstract"], row["keywords"]) for row in found])
        held = Held(mark, [row["id"] for row in found], Ranker(texts))
    _held[review] = held
    _held.move_to_end(review)
    while len(_held) > _KEPT:
        _chances.pop(_held.popitem(last=False)[0], None)
    return held
