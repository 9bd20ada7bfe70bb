"""Sharing out records among people."""

from __future__ import annotations

import random
from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from itertools import combinations
from typing import NamedTuple


class Allotted(NamedTuple):
    """A record on somebody's share."""

    person: int
    record: int


def in_order(records: Sequence[int], seed: int | None) -> list[int]:
    """The records as they are, or shuffled by a seed: the same records and seed give the same sequence, however they came."""
    if seed is None:
        return list(records)
    out = sorted(records)
    random.Random(seed).shuffle(out)
    return out


def allot(
    records: Sequence[int],
    shares: Mapping[int, float],
    readers: int,
    taken: Mapping[int, Collection[int]] | None = None,
    overlap: float = 0.0,
) -> list[Allotted]:
    """Share records out, so that each has its readers and each person a part in proportion to their share.

    Every record goes to those who are furthest behind their share; among equals to those who have read least together, so that
    all pairs of people meet. Nobody is given a record twice.

    Parameters
    ----------
    records : in the sequence in which they are given out
    shares : each person's share of the work, as hours or numbers of records; above 0
    readers : how many people each record needs, at most as many as there are
    taken : who has each record already, by a verdict or an earlier share; they count among its readers
    overlap : share of the records, from 0 to 1 and evenly spread, that one person more reads

    Raises
    ------
    ValueError : no people, a share that is not above 0, or fewer people than readers
    """
    if not shares or min(shares.values()) <= 0:
        raise ValueError("everybody needs a share above nothing")
    if readers > len(shares):
        raise ValueError(f"{readers} readers are wanted of {len(shares)} people")
    whole = sum(shares.values())
    loads: dict[int, float] = dict.fromkeys(shares, 0.0)
    met: dict[tuple[int, int], int] = defaultdict(int)
    out: list[Allotted] = []
    extra = 0.0
    for record in records:
        extra += overlap
        wanted = readers + (1 if extra >= 1 - 1e-9 else 0)
        extra -= wanted - readers
        having = [number for number in (taken or {}).get(record, ()) if number in shares]
        missing = wanted - len((taken or {}).get(record, ()))
        chosen = list(having)
        for _ in range(min(missing, len(shares) - len(having))):
            person = min(
                (share for share in shares if share not in chosen),
                key=lambda each: (round(loads[each] * whole / shares[each], 6), sum(met[min(each, o), max(each, o)] for o in chosen), each),
            )
            chosen.append(person)
            loads[person] += 1
            out.append(Allotted(person, record))
        for one, other in combinations(sorted(chosen), 2):
            met[one, other] += 1
    return out
