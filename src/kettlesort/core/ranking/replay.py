"""Replaying a screening whose outcome is known, to see what the order would have saved."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from kettlesort.core.ranking import Ranker, Texts


class Replay(NamedTuple):
    """The order in which records were screened, the starting seeds first, and the seconds each re-ranking took."""

    order: list[int]
    seeds: int
    seconds_per_rerank: float


def replay(
    texts: Texts, labels: Sequence[bool], seeds: int, rng: int, *, step: int = 10, tick: Callable[[float], None] | None = None
) -> Replay:
    """Screen all records, beginning with ``seeds`` included ones drawn with the seed ``rng``.

    After every ``step`` answers the rest is ranked anew. A label is looked at only when
    its record is screened. Raises ValueError when fewer than ``seeds`` are included.
    """
    included = [k for k, label in enumerate(labels) if label]
    if not 1 <= seeds <= len(included):
        raise ValueError(f"{seeds} seeds wanted, but {len(included)} records are included")
    drawn = np.random.default_rng(rng).choice(len(included), size=seeds, replace=False)
    belong = sorted(included[k] for k in drawn)
    excluded: list[int] = []
    order = list(belong)
    seen = set(belong)
    took: list[float] = []
    ranker = Ranker(texts)
    while len(order) < len(labels):
        begun = time.perf_counter()
        ranking = ranker.rank(belong, excluded)
        took.append(time.perf_counter() - begun)
        waiting = [int(k) for k in ranking.order if int(k) not in seen][:step]
        for k in waiting:
            (belong if labels[k] else excluded).append(k)
            order.append(k)
            seen.add(k)
        if tick:
            tick(len(order) / len(labels))
    return Replay(order, seeds, float(np.mean(took)) if took else 0.0)


class Saving(NamedTuple):
    """``screened_at`` and ``wss`` by recall, and ``mean_discovery``; as `measure` defines them."""

    screened_at: dict[float, int]
    wss: dict[float, float]
    mean_discovery: float


def measure(order: Sequence[int], labels: Sequence[bool], seeds: int) -> Saving:
    """What an order saves.

    ``screened_at[r]``: records screened when the share r of the included ones had been
    found, the seeds counted as found and screened. Work saved over sampling:
    (n - screened) / n - (1 - r) (Cohen AM et al. J Am Med Inform Assoc 2006;13:206-219).
    ``mean_discovery``: over the included records that are not seeds, the mean share of
    records screened when each was found; 0 when all are seeds.
    """
    n = len(order)
    found_at = [place for place, k in enumerate(order, 1) if labels[k]]
    screened_at = {}
    for recall in (0.95, 0.99, 1.0):
        need = int(np.ceil(recall * len(found_at) - 1e-9))
        screened_at[recall] = max(seeds, found_at[need - 1])
    wss = {recall: (n - screened_at[recall]) / n - (1 - recall) for recall in (0.95, 0.99)}
    later = found_at[seeds:]
    return Saving(screened_at, wss, float(np.mean(later)) / n if later else 0.0)
