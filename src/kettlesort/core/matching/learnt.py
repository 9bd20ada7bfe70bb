"""What a review's records teach: which words and DOIs are common among them, and what agreement is worth."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

import numpy as np

from kettlesort.core.matching.blocking import candidates
from kettlesort.core.matching.columns import Columns, common_words, prepare
from kettlesort.core.matching.compare import Compared, compare, shared_dois, together
from kettlesort.core.matching.lookalikes import lookalikes
from kettlesort.core.matching.weights import Weights, estimate, starting, weights_from

_WORTHLESS = -4.0
"""Compared pairs below this weight are counted and forgotten, unless they may be of one study."""
_WORTH_ASKING = 5.0
_CHUNK = 400_000


class Learnt(NamedTuple):
    """``common`` words with the share of titles that they stand in, ``shared`` DOIs, the ``weights``, and from how many ``records``."""

    common: Mapping[str, float]
    shared: tuple[str, ...]
    weights: Weights
    records: int

    def prepare(self, columns: Columns) -> None:
        """Let columns know what is common."""
        prepare(columns, self.common, self.shared)

    def plain(self) -> dict[str, Any]:
        """As plain values, to be kept."""
        common = {word: round(share, 6) for word, share in self.common.items()}
        return {"common": common, "shared": list(self.shared), "weights": self.weights.plain(), "records": self.records}


def learnt_from(kept: Mapping[str, Any]) -> Learnt:
    """What `Learnt.plain` wrote."""
    return Learnt(kept.get("common", {}), tuple(kept.get("shared", ())), weights_from(kept.get("weights", {})), int(kept.get("records", 0)))


NOTHING = Learnt({}, (), starting(), 0)
"""What is taken for true before anything was learnt."""


def learn(columns: Columns, limit: int | None = None, tick: Callable[[float], None] | None = None) -> tuple[Learnt, Compared]:
    """Learn from records; and the pairs that were compared for it, those that are certainly different left out.

    ``tick`` is called with 0.4 to 0.85.
    """
    tick = tick or (lambda _: None)
    common, shared = common_words(columns), tuple(shared_dois(columns))
    prepare(columns, common, shared)
    pairs = candidates(columns, 0, lambda done: tick(0.4 + 0.1 * done))
    begin = starting()
    kept: list[Compared] = []
    levels = []
    for at in range(0, max(1, len(pairs)), _CHUNK):
        tick(0.5 + 0.3 * at / max(1, len(pairs)))
        some = compare(columns, pairs[at : at + _CHUNK])
        weight = begin.of(some.levels)
        worth = (weight >= _WORTHLESS) | (begin.of_study(some.levels) >= _WORTH_ASKING)
        near = some.of(worth)
        alike = np.zeros(len(some), bool)
        alike[worth] = lookalikes(columns, near) > 0
        levels.append(some.levels[~alike])
        kept.append(near)
    return Learnt(common, shared, estimate(np.concatenate(levels)), len(columns)), together(kept)
