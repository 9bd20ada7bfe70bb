"""Which pairs are worth comparing: those that share one of several independent keys."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Sequence

from kettlesort.core.matching.features import Features

_CROWD = 40
"""A key shared by more records than this says too little; only neighbours under it are compared."""
_WINDOW = 8


def candidates(features: Sequence[Features], first_new: int = 0, tick: Callable[[int], None] | None = None) -> set[tuple[int, int]]:
    """Pairs (i < j) of positions to compare, of which j is at least ``first_new``.

    The time grows about linearly: each record has at most seven keys, and a crowded
    key is compared by a sliding window over its records in the order of their titles.
    """
    frequency: Counter[str] = Counter()
    for it in features:
        frequency.update(it.words)
    blocks: dict[str, list[int]] = defaultdict(list)
    for k, it in enumerate(features):
        for key in _keys(it, frequency):
            blocks[key].append(k)
        if tick and k % 5000 == 0:
            tick(k)
    pairs: set[tuple[int, int]] = set()
    for members in blocks.values():
        if len(members) < 2 or members[-1] < first_new:
            continue
        if len(members) <= _CROWD:
            for at, j in enumerate(members):
                if j >= first_new:
                    pairs.update([(i, j) for i in members[:at]])
        else:
            pairs.update(_neighbours(features, members, first_new))
    return pairs


def _neighbours(features: Sequence[Features], members: list[int], first_new: int) -> Iterator[tuple[int, int]]:
    ordered = sorted(members, key=lambda k: features[k].title)
    for at, i in enumerate(ordered):
        for j in ordered[at + 1 : at + _WINDOW]:
            if max(i, j) >= first_new:
                yield (i, j) if i < j else (j, i)


def _keys(it: Features, frequency: Counter[str]) -> list[str]:
    keys = []
    words = it.words
    if it.doi:
        keys.append("d" + it.doi)
    if words:
        keys.append("t" + "".join(words[:4]))
        if len(words) > 4:
            rare = sorted(words, key=lambda word: (frequency[word], word))[:2]
            keys.append("r" + rare[0] + " " + rare[1])
            keys.append("e" + "".join(words[-4:]))
    if it.page and it.volume:
        keys.append(f"p{it.volume} {it.page}")
    if it.families and it.year and words:
        keys.append(f"a{it.families[0]}{it.year}{words[0][:5]}")
    if it.abstract:
        keys.append("b" + it.abstract[:60].lower())
    return keys
