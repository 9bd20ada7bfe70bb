"""Which pairs are worth comparing: those that share one of several independent keys.

A key depends on nothing but its record, so that the keys of a million records can be kept in a
database and new ones looked up among them. Under a key, records are in the order of their *place*
and each is compared with its next neighbours; most keys have few records, and a crowded one
("Editorial") costs no more than its number of records. So the time grows linearly.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from kettlesort.core.matching.columns import Array, Columns
from kettlesort.core.matching.keys import BY_YEAR, KEYS

WINDOWS = (16, 12, 2, 4, 2, 16, 4, 16, 16, 16, 8)
"""With so many neighbours, on each side, a record is compared under each key: fewer where the key says less."""
_OWN, _RANK = (1 << 32) - 1, 30
"""The bits of a key that are not its number; and so many bits the rank of a place has."""


def window_of(key: int) -> int:
    """With how many neighbours on each side a record is compared under a key."""
    return WINDOWS[(key >> 32) - 1]


def candidates(columns: Columns, first_new: int = 0, tick: Callable[[float], None] | None = None) -> Array:
    """Pairs of positions to compare, m × 2, left < right, of which the right one is at least ``first_new``; sorted, each once."""
    size = max(1, len(columns))
    found = [np.zeros(0, np.int64)]
    by_title, by_others = (np.argsort(place, kind="stable") for place in (columns.among_titles, columns.among_others))
    for k in range(KEYS):
        if tick:
            tick(k / KEYS)
        order = by_title if k in BY_YEAR else by_others
        key = columns.keys[order, k]
        there = np.flatnonzero(key)
        # the key and the rank of the place in one number, which is sorted ten times faster than the two
        ranked = np.sort((key[there] & _OWN) << _RANK | there)
        found.append(_neighbours(ranked >> _RANK, columns.owner[order[ranked & ~(-1 << _RANK)]], size, first_new, WINDOWS[k]))
    codes = np.sort(np.concatenate(found))
    codes = codes[np.diff(codes, prepend=-1) > 0]  # as np.unique does, in a fifth of its time
    return np.stack((codes // size, codes % size), axis=1)


def _neighbours(key: Array, order: Array, size: int, first_new: int, window: int) -> Array:
    """Pairs of neighbours under equal keys as left × size + right."""
    codes: list[Array] = []
    alive = np.flatnonzero(key[:-1] == key[1:])
    for step in range(1, window + 1):
        alive = alive[alive + step < len(key)]
        alive = alive[key[alive] == key[alive + step]]
        if not len(alive):
            break
        one, two = order[alive], order[alive + step]
        left, right = np.minimum(one, two), np.maximum(one, two)
        code = left.astype(np.int64) * size + right
        codes.append(code[(right >= max(first_new, 1)) & (left != right)])
    return np.concatenate(codes) if codes else np.zeros(0, np.int64)
