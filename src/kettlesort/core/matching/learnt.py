"""What a review's records teach: which words and DOIs are common among them, and what agreement is worth."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

import numpy as np

from kettlesort.core.matching.blocking import candidates
from kettlesort.core.matching.columns import Columns
from kettlesort.core.matching.common import Common, common_words, recurring_titles, renamed_venues, shared_dois
from kettlesort.core.matching.compare import Compared, compare, rename, together
from kettlesort.core.matching.lookalikes import NUMBER, lookalikes
from kettlesort.core.matching.weights import Weights, estimate, starting, weights_from

_WORTHLESS = -4.0
"""Compared pairs below this weight are counted and forgotten, unless they may be of one study."""
_WORTH_ASKING = 5.0
_CHUNK = 400_000


class Learnt(NamedTuple):
    """What is ``common`` among a review's records, the ``weights``, and from how many ``records``."""

    common: Common
    weights: Weights
    records: int

    def plain(self) -> dict[str, Any]:
        """As plain values, to be kept."""
        words, dois, titles, venues = self.common
        return {
            "common": {word: round(share, 6) for word, share in words.items()}, "shared": list(dois), "recurring": list(titles),
            "renamed": [list(pair) for pair in venues], "weights": self.weights.plain(), "records": self.records,
        }  # fmt: skip


def learnt_from(kept: Mapping[str, Any]) -> Learnt:
    """What `Learnt.plain` wrote."""
    venues = [(one, two) for one, two in kept.get("renamed", ())]
    common = Common(kept.get("common", {}), kept.get("shared", ()), kept.get("recurring", ()), venues)
    return Learnt(common, weights_from(kept.get("weights", {})), int(kept.get("records", 0)))


NOTHING = Learnt(Common(), starting(), 0)
"""What is taken for true before anything was learnt."""


def learn(columns: Columns, tick: Callable[[float], None] | None = None) -> tuple[Learnt, Compared]:
    """Learn from records; and the pairs that were compared for it, those that are certainly different left out.

    ``tick`` is called with 0.4 to 0.85.
    """
    tick = tick or (lambda _: None)
    common = Common(common_words(columns), shared_dois(columns), recurring_titles(columns))
    common.prepare(columns)
    pairs = candidates(columns, 0, lambda done: tick(0.4 + 0.1 * done))
    begin = starting()
    kept: list[Compared] = []
    levels = []
    for at in range(0, max(1, len(pairs)), _CHUNK):
        tick(0.5 + 0.3 * at / max(1, len(pairs)))
        some = compare(columns, pairs[at : at + _CHUNK])
        worth = (begin.of(some.levels) >= _WORTHLESS) | (begin.of_study(some.levels) >= _WORTH_ASKING)
        levels.append(some.levels[~worth])
        kept.append(some.of(worth))
    near = together(kept)
    kind = lookalikes(columns, near)
    if venues := renamed_venues(columns, near.of((kind == 0) | (kind == NUMBER["elsewhere"]) | (kind == NUMBER["abstract"]))):
        common = common._replace(venues=venues)
        common.prepare(columns)
        rename(columns, near)
        kind = lookalikes(columns, near)
    levels.append(near.levels[kind == 0])
    return Learnt(common, estimate(np.concatenate(levels)), len(columns)), near
