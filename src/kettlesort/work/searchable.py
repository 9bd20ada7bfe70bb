"""The index of a review's records: kept in the database in parts, brought up to date by those that changed, held in memory by each server."""

from __future__ import annotations

import threading
from collections import OrderedDict, defaultdict
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from sqlmodel import Session

from kettlesort.core.query import Index, Parts, Searched
from kettlesort.core.query.index import FORMAT
from kettlesort.core.record import country_of
from kettlesort.store import query as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.query import IndexPart, Numbers

_KEPT = 4
LARGEST_PART = 25_000
"""Records of a part that is made at once."""


class Searchable(NamedTuple):
    """An index in parts, and the records that its places stand for, in order."""

    mark: tuple[object, ...]
    texts: Parts
    ids: Numbers
    loaded: dict[int, Index]


_held: OrderedDict[int, Searchable] = OrderedDict()
_guard = threading.Lock()
_busy: defaultdict[int, threading.Lock] = defaultdict(threading.Lock)


def searchable(review: int) -> Searchable:
    """The index of a review's records as they are now."""
    with _guard:
        lock = _busy[review]
    with lock:
        with snapshot() as db:
            mark = store.fingerprint(db, review)
        held = _held.get(review)
        if held is None or held.mark != mark:
            held = _brought_up_to_date(review, held.loaded if held else {})
        with _guard:
            _held[review] = held
            _held.move_to_end(review)
            while len(_held) > _KEPT:
                _held.popitem(last=False)
        return held


def index_review(review: int) -> None:
    """Bring the kept index up to date, so that nobody has to wait for it."""
    with session() as db:
        store.lock_index(db, review)
        _make_missing(db, review, *store.marks(db, review))


def _brought_up_to_date(review: int, loaded: dict[int, Index]) -> Searchable:
    with session() as db:
        store.lock_index(db, review)  # what another server is making is waited for, not made twice
        mark = store.fingerprint(db, review)
        ids, marks = store.marks(db, review)
        made = _make_missing(db, review, ids, marks)
        parts, places, known = [], [], {}
        for part in store.index_parts(db, review):
            number = int(part["id"])
            data = None if number in loaded or number in made else store.packed(db, number)
            index = loaded.get(number) or made.get(number) or Index.unpack(data or b"")
            parts.append(index)
            places.append(_places(part, ids, marks))
            known[number] = index
    return Searchable(mark, Parts(parts, places), ids, known)


def _places(part: Row, ids: Numbers, marks: Numbers) -> Numbers:
    """Where each record of a part stands among all; -1 for one that changed or went since."""
    records, then = np.frombuffer(part["records"], np.int64), np.frombuffer(part["marks"], np.int64)
    if not len(ids) or part["format"] != FORMAT:  # made by another version of the program
        return np.full(len(records), -1, np.int64)
    at = np.searchsorted(ids, records)
    at[at == len(ids)] = 0
    return np.where((ids[at] == records) & (marks[at] == then), at, -1).astype(np.int64)


def _make_missing(db: Session, review: int, ids: Numbers, marks: Numbers) -> dict[int, Index]:
    """Index what no part has as it is now. Small and worn parts are made anew along with it, so that parts stay few."""
    kept = store.index_parts(db, review)
    missing = np.ones(len(ids), np.bool_)
    for row in kept:
        places = _places(row, ids, marks)
        missing[places[places >= 0]] = False
    dropped = []
    for row in sorted(kept, key=lambda pair: len(pair["records"])):
        alive = _places(row, ids, marks)
        alive = alive[alive >= 0]
        worn = 16 * len(alive) < len(row["records"])  # fewer than half of its records, of eight bytes each
        if worn or (missing.any() and len(alive) <= 2 * np.count_nonzero(missing)):
            missing[alive] = True
            dropped.append(int(row["id"]))
    made: dict[int, Index] = {}
    wanted = np.flatnonzero(missing)
    for k in range(0, len(wanted), LARGEST_PART):
        some = wanted[k : k + LARGEST_PART]
        index = Index(_searched(db, review, ids[some].tolist()))
        part = IndexPart(review_id=review, format=FORMAT, records=ids[some].tobytes(), marks=marks[some].tobytes(), data=index.pack())
        db.add(part)
        db.flush()
        made[part.id or 0] = index
    store.drop_parts(db, dropped)
    return made


def _searched(db: Session, review: int, records: Sequence[int]) -> list[Searched]:
    found = store.searched(db, review, records)
    return [
        Searched(
            row["title"],
            row["abstract"],
            row["keywords"],
            row["authors"],
            row["journal"] or row["journal_short"],
            row["year"],
            row["language"],
            row["kind"],
            row["doi"],
            country_of(row["extra"]),
        )
        for row in found
    ]
