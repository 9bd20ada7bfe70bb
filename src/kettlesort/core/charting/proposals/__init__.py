"""Values proposed for data items, each with the words of the report that it comes from: made by reading, never invented.

Every value that a sentence or a cell could mean is a candidate; what speaks for it and against it are signs (how much of the item's name stands near
it, in which section, of which arm it surely is), and a logistic regression over the signs says how sure it is. Its weights were fitted on invented
reports (`bench/propose.py`), and can be fitted on a team's own answers.
"""

from __future__ import annotations

import json
import re
from collections import defaultdict
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Any, NamedTuple

from kettlesort.core.charting.items import BY_ARM, Kind
from kettlesort.core.charting.proposals.by_arm import by_arm
from kettlesort.core.charting.proposals.candidates import Asking, Candidate
from kettlesort.core.charting.proposals.choices import choices
from kettlesort.core.charting.proposals.dates import dates
from kettlesort.core.charting.proposals.items import Arm, Asked, NotAnItem, items_of
from kettlesort.core.charting.proposals.numbers import numbers
from kettlesort.core.charting.proposals.passages import passages
from kettlesort.core.charting.proposals.single import single
from kettlesort.core.charting.proposals.speaks import Speech
from kettlesort.core.charting.proposals.texts import texts
from kettlesort.core.charting.proposals.weights import Family, chance, kept
from kettlesort.core.charting.proposals.yesno import yesno
from kettlesort.core.fulltext.article import Article

__all__ = ["Arm", "Asked", "NotAnItem", "Proposal", "Rated", "candidates", "items_of", "propose", "rated"]

MOST = 5
"""So many proposals are made for an item, and for each of its arms."""


class Proposal(NamedTuple):
    """A value with its quote as it stands on ``page`` (from 1; None for an abstract), and the chance that it is right, between 0 and 1."""

    item: str
    arm: str | None
    value: Any
    quote: str
    page: int | None
    confidence: float


class Rated(NamedTuple):
    """A proposal with the signs that its chance follows from."""

    proposal: Proposal
    signs: dict[str, float]


def propose(article: Article, items: Sequence[Asked]) -> list[Proposal]:
    """What a report says of data items: by item and arm the surest first, at most five; nothing where nothing is likely."""
    return [one.proposal for one in rated(article, items)]


def rated(article: Article, items: Sequence[Asked], weights: Mapping[str, Family] | None = None) -> list[Rated]:
    """What `propose` proposes, with the signs of each; ``weights`` are those that were learnt from a team's answers."""
    kinds = {one.id: one.kind for one in items}
    out: list[Rated] = []
    for (item, arm), some in candidates(article, items).items():
        for sure, candidate in kept(kinds[item], _rated(kinds[item], some, weights), weights)[:MOST]:
            out.append(
                Rated(Proposal(item, arm, candidate.value, candidate.quote.text, candidate.quote.page, round(sure, 4)), candidate.signs)
            )
    order = {one.id: k for k, one in enumerate(items)}
    arms = {(one.id, arm.id): k for one in items for k, arm in enumerate(one.arms)}
    return sorted(
        out, key=lambda one: (order[one.proposal.item], arms.get((one.proposal.item, one.proposal.arm or ""), -1), -one.proposal.confidence)
    )


def candidates(article: Article, items: Sequence[Asked]) -> dict[tuple[str, str | None], list[Candidate]]:
    """All that may be the values of data items, by item and arm, with the signs that relate them to each other."""
    pieces = passages(article)
    asking = Asking(pieces, Speech(pieces.texts, items))
    out: dict[tuple[str, str | None], list[Candidate]] = defaultdict(list)
    for item in items:
        for candidate in _of(asking, item):
            if _is_true(candidate):
                out[item.id, candidate.arm].append(candidate)
    return {at: _related(some) for at, some in out.items()}


def _of(asking: Asking, item: Asked) -> list[Candidate]:
    if item.kind in BY_ARM:
        return list(by_arm(asking, item))
    if item.kind in ("number", "quantity"):
        return list(single(asking, item))
    if item.kind in ("choice", "choices"):
        return list(choices(asking, item))
    return list({"date": dates, "yesno": yesno, "text": texts}[item.kind](asking, item))


def _is_true(candidate: Candidate) -> bool:
    """Whether the quote holds every figure of the value."""
    figures = [
        value
        for value in (candidate.value.values() if isinstance(candidate.value, dict) else [candidate.value])
        if isinstance(value, int | float) and not isinstance(value, bool)
    ]
    if not figures:
        return True
    held = _figures_of(candidate.quote.text)
    return all(float(value) in held for value in figures)


@lru_cache(maxsize=4096)
def _figures_of(text: str) -> frozenset[float]:
    """All numbers of a text, whichever way its signs are read."""
    return frozenset(number.value for commas in (False, True) for spaces in (False, True) for number in numbers(text, commas, spaces))


def _related(some: list[Candidate]) -> list[Candidate]:
    """Add how a candidate stands among the others: how much less it speaks of the item than the best, and in how many other places its value stands."""
    told = [one for one in some if not one.signs.get("front")] or some  # a title names much, and states little
    best_name = max(one.signs["name"] for one in told)
    best_near = max(one.signs["near"] for one in told)
    best_country = max(one.signs.get("country", 0.0) * (1 - max(one.signs.get("cites", 0.0), one.signs.get("others", 0.0))) for one in some)
    best_deed = max(one.signs.get("deed", 0.0) for one in some)
    best_counted = max(one.signs.get("counted", 0.0) for one in some)

    def said(one: Candidate) -> bool:  # a mean that is called so needs no word of what it counts
        return bool(one.signs.get("statistic"))

    places: dict[str, set[str]] = defaultdict(set)
    for one in some:
        places[json.dumps(one.value, sort_keys=True)].add(one.quote.text)
    return [
        each._replace(
            signs={
                **each.signs,
                "below name": max(0.0, best_name - each.signs["name"]),
                "below near": max(0.0, best_near - each.signs["near"]),
                "below country": max(0.0, best_country - each.signs.get("country", 0.0)),
                "below counted": 0.0 if said(each) else best_counted - each.signs.get("counted", best_counted),
                "below deed": 0.0 if said(each) else best_deed - each.signs.get("deed", best_deed),
                "again": min(1.0, (len(places[json.dumps(each.value, sort_keys=True)]) - 1) / 2),
            }
        )
        for each in some
    ]


def _rated(kind: Kind, some: Sequence[Candidate], weights: Mapping[str, Family] | None = None) -> list[tuple[float, Candidate]]:
    """Candidates with their chances, the surest first; of several that say the same or nearly the same, the surest."""
    rated = sorted(((chance(kind, candidate.signs, weights), candidate) for candidate in some), key=lambda pair: -pair[0])
    seen: set[str] = set()
    out: list[tuple[float, Candidate]] = []
    for sure, one in rated:
        value = json.dumps(one.value, sort_keys=True)
        if value not in seen and not (kind == "text" and any(_nearly_the_same(one.value, other.value) for _, other in out[:MOST])):
            seen.add(value)
            out.append((sure, one))
    return out


def _nearly_the_same(one: str, other: str) -> bool:
    """Whether two texts have most of their words in common."""
    mine, others = (set(re.findall(r"\w+", text.lower())) for text in (one, other))
    return 2 * len(mine & others) >= 0.7 * (len(mine) + len(others)) > 0
