"""Values proposed for data items, each with the words of the report that it comes from: made by reading, never invented.

Every value that a sentence or a cell could mean is a candidate; what speaks for it and against it are signs (how much of the item's name stands near
it, in which section, of which arm it surely is), and a logistic regression over the signs says how sure it is. Its weights were fitted on invented
reports (`bench/propose.py`), and can be fitted on a team's own answers.
"""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from kettlesort.core.charting.items import BY_ARM, Kind
from kettlesort.core.charting.proposals.by_arm import by_arm
from kettlesort.core.charting.proposals.candidates import Asking, Candidate
from kettlesort.core.charting.proposals.items import Arm, Asked, NotAnItem, items_of
from kettlesort.core.charting.proposals.numbers import numbers
from kettlesort.core.charting.proposals.passages import passages
from kettlesort.core.charting.proposals.single import dates, single
from kettlesort.core.charting.proposals.speaks import Speech
from kettlesort.core.charting.proposals.weights import Family, chance, kept
from kettlesort.core.charting.proposals.worded import answers
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
    return [it.proposal for it in rated(article, items)]


def rated(article: Article, items: Sequence[Asked], weights: Mapping[str, Family] | None = None) -> list[Rated]:
    """What `propose` proposes, with the signs of each; ``weights`` are those that were learnt from a team's answers."""
    kinds = {it.id: it.kind for it in items}
    out: list[Rated] = []
    for (item, arm), some in candidates(article, items).items():
        for sure, it in kept(kinds[item], _rated(kinds[item], some, weights), weights)[:MOST]:
            out.append(Rated(Proposal(item, arm, it.value, it.quote.text, it.quote.page, round(sure, 4)), it.signs))
    order = {it.id: k for k, it in enumerate(items)}
    arms = {(it.id, arm.id): k for it in items for k, arm in enumerate(it.arms)}
    return sorted(
        out, key=lambda it: (order[it.proposal.item], arms.get((it.proposal.item, it.proposal.arm or ""), -1), -it.proposal.confidence)
    )


def candidates(article: Article, items: Sequence[Asked]) -> dict[tuple[str, str | None], list[Candidate]]:
    """All that may be the values of data items, by item and arm, with the signs that relate them to each other."""
    pieces = passages(article)
    asking = Asking(pieces, Speech(pieces.texts, items))
    out: dict[tuple[str, str | None], list[Candidate]] = defaultdict(list)
    for item in items:
        for it in _of(asking, item):
            if _is_true(it):
                out[item.id, it.arm].append(it)
    return {at: _related(some) for at, some in out.items()}


def _of(asking: Asking, item: Asked) -> list[Candidate]:
    if item.kind in BY_ARM:
        return list(by_arm(asking, item))
    if item.kind in ("number", "quantity"):
        return list(single(asking, item))
    return list(dates(asking, item) if item.kind == "date" else answers(asking, item))


def _is_true(it: Candidate) -> bool:
    """Whether the quote holds every figure of the value."""
    figures = [
        value
        for value in (it.value.values() if isinstance(it.value, dict) else [it.value])
        if isinstance(value, int | float) and not isinstance(value, bool)
    ]
    if not figures:
        return True
    held = {number.value for commas in (False, True) for spaces in (False, True) for number in numbers(it.quote.text, commas, spaces)}
    return all(float(value) in held for value in figures)


def _related(some: list[Candidate]) -> list[Candidate]:
    """Add how a candidate stands among the others: how much less it speaks of the item than the best, and in how many other places its value stands."""
    best_name = max(it.signs["name"] for it in some)
    best_near = max(it.signs["near"] for it in some)
    places: dict[str, set[str]] = defaultdict(set)
    for it in some:
        places[json.dumps(it.value, sort_keys=True)].add(it.quote.text)
    return [
        it._replace(
            signs={
                **it.signs,
                "below name": best_name - it.signs["name"],
                "below near": best_near - it.signs["near"],
                "again": min(1.0, (len(places[json.dumps(it.value, sort_keys=True)]) - 1) / 2),
            }
        )
        for it in some
    ]


def _rated(kind: Kind, some: Sequence[Candidate], weights: Mapping[str, Family] | None = None) -> list[tuple[float, Candidate]]:
    """Candidates with their chances, the surest first; of several with one value and of one quote that holds another's, the surest."""
    rated = sorted(((chance(kind, it.signs, weights), it) for it in some), key=lambda pair: -pair[0])
    seen: set[str] = set()
    out = []
    for sure, it in rated:
        value = json.dumps(it.value, sort_keys=True)
        if value not in seen:
            seen.add(value)
            out.append((sure, it))
    return out
