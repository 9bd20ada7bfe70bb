"""Lists of records, what they divide into, one record with all that ever happened to it, and records as a file."""

from __future__ import annotations

import tempfile
from collections import Counter, OrderedDict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import IO, Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from sqlmodel import Session

from kettlesort.core import formats
from kettlesort.core.formats import Loss
from kettlesort.core.languages import language_named
from kettlesort.core.query import In, Text, find
from kettlesort.core.query.words import words_of
from kettlesort.core.record import Record, doi_of
from kettlesort.core.screening import in_words
from kettlesort.core.screening.lists import NAMED, OFFERED, Shown, keyed, named_by_some, read_by_two, shown
from kettlesort.store import orders, provenance
from kettlesort.store import screen as screening
from kettlesort.store import standing as standings
from kettlesort.store.base import Row, snapshot
from kettlesort.store.labels import labels_of, names_of_labels
from kettlesort.store.likeness import words_of_group
from kettlesort.store.match import group_copies
from kettlesort.store.narrow import Narrowing
from kettlesort.store.passes import names_of_readers
from kettlesort.store.plan import Criterion
from kettlesort.store.query import Numbers
from kettlesort.store.records import (
    Wanted,
    described,
    ids,
    kept,
    listed_copies,
    order,
    order_made_at,
    record_of,
    values_of,
)
from kettlesort.store.seeds import carrying
from kettlesort.work.errors import Invalid, NotFound
from kettlesort.work.query import matching
from kettlesort.work.searchable import searchable

MOST_AT_ONCE = 200_000
MOST_TO_COMPARE = 3000
"""Records that are written and read again to say what a format would lose."""
SEARCHED = ("title", "abstract", "author")


def found_by(review: int, wanted: Wanted) -> Wanted:
    """The same wish with the records that its query and what was typed find."""
    found = _found(review, wanted)
    return wanted if found is None else replace(wanted, found=tuple(int(word) for word in found))


def _found(review: int, wanted: Wanted) -> Numbers | None:
    """The records that the query and what was typed find; ``None`` where nothing is looked for."""
    held = np.array(matching(review, wanted.query), np.int64) if wanted.query else None
    if wanted.typed.strip():
        typed = typed_ids(review, wanted.typed)
        held = typed if held is None else np.intersect1d(held, typed)
    return held


def typed_ids(review: int, typed: str) -> Numbers:
    """The records in whose title, abstract or authors each typed word begins a word; -word must not occur. A DOI or a number finds that record."""
    at = searchable(review)
    hits = np.ones(len(at.ids), np.bool_)
    for part in typed.split()[:20]:
        absent, words = part.startswith("-") and len(part) > 1, words_of(part)
        if not words:
            continue
        *whole, last = words
        begun = last if last.endswith(("*", "?")) else f"{last}*"
        mask = find(In(SEARCHED, Text((*whole, begun))), at.texts)
        hits &= ~mask if absent else mask
    found = at.ids[hits]
    key = typed.strip()
    if " " not in key and (doi_of(key) or any(sign.isdigit() for sign in key)):
        with snapshot() as db:
            named = carrying(db, review, [doi_of(key) or "-", key.lower()])
        found = np.union1d(found, np.array(named, np.int64))
    return found


class _Order(NamedTuple):
    """The latest order of a review's records: their numbers, sorted; the rank of each, from 1; how close each is."""

    made_at: datetime
    ids: Numbers
    ranks: Numbers
    closeness: NDArray[np.float64]

    def places(self, records: Numbers) -> Numbers:
        """The place of each record among `ids`, -1 for one that has no rank."""
        if not len(self.ids):
            return np.full(len(records), -1, np.int64)
        at = np.searchsorted(self.ids, records)
        at[at == len(self.ids)] = 0
        return np.where(self.ids[at] == records, at, -1)


_orders: OrderedDict[int, _Order] = OrderedDict()
_KEPT = 20


def _order(review: int) -> _Order:
    """The latest order, kept in this process until a newer one is made."""
    with snapshot() as db:
        made_at = order_made_at(db, review)
        held = _orders.get(review)
        if held is not None and held.made_at == made_at:
            return held
        numbers, closeness = order(db, review)
    ids = np.array(numbers, np.int64)
    by_id = np.argsort(ids)
    made = _Order(made_at, ids[by_id], by_id + 1, np.array(closeness, np.float64)[by_id])
    _orders[review] = made
    while len(_orders) > _KEPT:
        _orders.popitem(last=False)
    return made


def _other(review: int, order: int) -> _Order:
    """Another order than that by closeness; what came since stands at its end."""
    with snapshot() as db:
        held = orders.order_here(db, review, order)
        if held is None:
            raise NotFound("There is no such order in this review.")
        places = orders.sequence(db, order)
    ids = np.array([place["record_id"] for place in places], np.int64)
    by_id = np.argsort(ids)
    return _Order(held["at"], ids[by_id], by_id + 1, np.array([place["score"] or 0.0 for place in places], np.float64)[by_id])


def _ordered(review: int, wanted: Wanted) -> tuple[Numbers, _Order]:
    """The records of a list, closest to the seeds first and those without rank last, and the order."""
    found, by = _found(review, wanted), _other(review, wanted.order) if wanted.order else _order(review)
    narrow = replace(wanted, query="", typed="", order=0)
    if found is None or narrow != Wanted(pass_number=wanted.pass_number):
        with snapshot() as db:
            try:
                held = np.array(ids(db, review, narrow), np.int64)
            except (KeyError, ValueError) as error:
                raise NotFound(f"There is no list named “{wanted.list}”.") from error
        found = held if found is None else np.intersect1d(found, held)
    places = by.places(found)
    ranks = np.where(places >= 0, by.ranks[places] if len(by.ids) else 0, np.iinfo(np.int64).max)
    return found[np.lexsort((found, ranks))], by


def page_of(review: int, wanted: Wanted, offset: int, limit: int) -> tuple[int, Sequence[Mapping[str, Any]]]:
    """How many there are in a list of records or copies, and a page of it."""
    limit = min(limit, 500)
    if wanted.of_copies:
        with snapshot() as db:
            try:
                total, copies = listed_copies(db, review, found_by(review, wanted), offset, limit)
                return total, [dict(copy) for copy in copies]
            except (KeyError, ValueError) as error:
                raise NotFound(f"There is no list named “{wanted.list}”.") from error
    held, by = _ordered(review, wanted)
    page = held[offset : offset + limit]
    places = dict(zip(page.tolist(), by.places(page).tolist(), strict=True))
    second = wanted.pass_number == 2 or wanted.list.startswith(("reason", "reports"))
    with snapshot() as db:
        found = described(db, review, page.tolist(), second)
    return len(held), [
        {
            **row,
            "rank": int(by.ranks[at]) if (at := places[row["id"]]) >= 0 else None,
            "closeness": float(by.closeness[at]) if at >= 0 else None,
        }
        for row in found
    ]


def ids_of(review: int, wanted: Wanted, most: int = MOST_AT_ONCE) -> list[int]:
    """The records of a list in its order."""
    if wanted.of_copies:
        with snapshot() as db:
            try:
                return sorted(ids(db, review, found_by(review, wanted)))[:most]
            except (KeyError, ValueError) as error:
                raise NotFound(f"There is no list named “{wanted.list}”.") from error
    return [int(word) for word in _ordered(review, wanted)[0][:most]]


def divided(review: int, wanted: Wanted) -> dict[str, list[tuple[str, int]]]:
    """What the records of a list divide into, each value with its count."""
    wanted = found_by(review, wanted)
    with snapshot() as db:
        try:
            found = values_of(db, review, wanted)
        except (KeyError, ValueError) as error:
            raise NotFound(f"There is no list named “{wanted.list}”.") from error
    languages: Counter[str] = Counter()
    for value, n in found["languages"]:
        languages[language_named(value)] += n
    return {**found, "languages": sorted(languages.items(), key=lambda language: (-language[1], language[0]))}


class Copy(NamedTuple):
    """A copy as it came: its fields, its text in the file, and where that is."""

    id: int
    record: Record
    raw: str
    origin: Row


def shown_as(review: int, list: str) -> tuple[Shown, dict[str, str]]:
    """What a list is called and holds, and the lists that can be chosen, the team's labels among them."""
    with snapshot() as db:
        labels = names_of_labels(db, review)
        name, key = keyed(list)
        narrowing = db.get(Narrowing, int(key)) if name == "narrowed" and key.isdecimal() and len(key) < 19 else None
        called = narrowing.name if narrowing and narrowing.review_id == review else labels.get(key, "")
        if name == "read":
            called = _read_in_words(db, review, key)
        if name == "named":
            called = _named_in_words(db, review, key)
        if name == "group" and key.isdecimal() and len(key) < 19:
            called = ", ".join(words_of_group(db, review, int(key))[:4])
    if name in ("narrowed", "label", "group", "read", "named") and not called:
        raise NotFound("There is no such label, narrowing, group, criterion or pair of readers in this review; it may have been removed.")
    try:
        return shown(list, called), {**OFFERED, **{f"label:{number}": shown("label", said).heading for number, said in labels.items()}}
    except KeyError:
        raise NotFound(f"There is no list named “{list}”.") from None


_SAID = {"include": "included", "exclude": "excluded", "unsure": "was unsure"}


def _read_in_words(db: Session, review: int, key: str) -> str:
    """What two readers said, "" where there are no such people or words."""
    try:
        read = read_by_two(key)
    except KeyError:
        return ""
    names = names_of_readers(db, review, [read.one, read.other])
    if not {read.one, read.other} <= set(names):
        return ""

    def said(who: int, word: str) -> str:
        verdict, _, number = word.partition("/")
        criterion = db.get(Criterion, int(number)) if number else None
        reason = f" ({criterion.name})" if criterion and criterion.review_id == review else ""
        return f"{names[who]} {_SAID[verdict]}{reason}"

    return f"{said(read.one, read.said)}, {said(read.other, read.other_said)}"


def _named_in_words(db: Session, review: int, key: str) -> str:
    """How several readers named a criterion, "" where there is no such one."""
    try:
        read = named_by_some(key)
    except KeyError:
        return ""
    criterion = db.get(Criterion, read.criterion)
    return NAMED[read.how].format(f"“{criterion.name}”") if criterion and criterion.review_id == review else ""


class Happened(NamedTuple):
    """Something that happened to a record."""

    at: datetime
    by: str
    what: str
    detail: str


class Whole(NamedTuple):
    """A record with all that is known of it. ``whose`` says which copy gave each field, ``filled`` where others came from."""

    id: int
    record: Record
    whose: dict[str, int]
    filled: dict[str, str]
    standing: Row
    narrowing: str
    labels: Sequence[Row]
    copies: list[Copy]
    history: list[Happened]


def whole(review: int, record: int) -> Whole:
    """One record, its copies as they came, and its history."""
    with snapshot() as db:
        found = kept(db, review, record)
        standing = standings.state_in(db, review, record)
        if found is None or standing is None:
            raise NotFound("There is no such record in this review; it may have been joined with another.")
        copies = group_copies(db, [record])
        origins = {origin["id"]: origin for origin in screening.origins(db, [record])}
        each = record_of(found)
        named = db.get(Narrowing, standing["narrowing_id"]) if standing["narrowing_id"] else None
        whose = found["whose"] or {name: copies[0] for name in Record._fields if getattr(each, name)}
        supplied = {one["field"]: one["source"] for one in provenance.supplied(db, copies) if getattr(each, one["field"])}
        return Whole(
            record, each, whose, supplied, standing, named.name if named else "", labels_of(db, record),
            [Copy(one["id"], record_of(one), one["raw"], origins[one["id"]]) for one in provenance.copies(db, copies)],
            [Happened(one["at"], one["by"], one["what"], one["detail"]) for one in provenance.history(db, copies)],
        )  # fmt: skip


class Export(NamedTuple):
    """Records as a file, which lies on the disk when it is large, and is gone when it is closed."""

    file: IO[bytes]
    records: int


ORIGIN_COLUMNS = ("record", "sources", "searches", "files and lines", "versions of the query", "labels", "state", "seed")


def _listed(review: int, wanted: Wanted) -> list[int]:
    """The records of a list. Raises Invalid where there are none."""
    held = ids_of(review, wanted)
    if not held:
        raise Invalid("This list is empty; there is nothing to write.", field="list")
    return held


def export(review: int, wanted: Wanted, format: str, columns: Sequence[str] = ()) -> Export:
    """The records of a list as a file, with their origin: in tables in columns of its own, elsewhere among what has no field."""
    held = _listed(review, wanted)
    out = tempfile.SpooledTemporaryFile(max_size=IN_MEMORY)  # noqa: SIM115 -- whoever sends it closes it
    with snapshot() as db:
        told = _Told(db, review, held)
        if format in ("csv", "xlsx"):
            chosen = [name for name in columns if name in (*Record._fields, "other") and name != "extra"] or list(formats.table.COLUMNS)
            wanted_more = [name for name in ORIGIN_COLUMNS if not columns or name in columns]
            formats.write(told.records(), format, out, chosen, {name: told.beside(name) for name in wanted_more})
        else:
            formats.write(told.with_origin(*{"ris": ("C8", "C7"), "nbib": ("ORIG", "LABL")}.get(format, ("origin", "label"))), format, out)
    out.seek(0)
    return Export(out, told.told)


AT_ONCE = 2000
"""So many records are in memory at a time while they are written."""
IN_MEMORY = 4_000_000
"""A file of more bytes lies on the disk until it is sent."""


class _Told:
    """Records of a list, some at a time, each with its origin."""

    def __init__(self, db: Session, review: int, held: Sequence[int]) -> None:
        self._db, self._review, self._held = db, review, held
        self._origin: dict[str, Any] = {}
        self.told = 0

    def records(self) -> Iterator[Record]:
        """The records, one after the other."""
        for begin in range(0, len(self._held), AT_ONCE):
            some = self._held[begin : begin + AT_ONCE]
            found = {record["id"]: record_of(record) for record in provenance.records(self._db, some)}
            origins = _origins(self._db, self._review, some)
            for number in some:
                if number in found:
                    self._origin = origins[number]
                    self.told += 1
                    yield found[number]

    def beside(self, name: str) -> Iterator[str]:
        """A part of the origin of the record that was told last, each time that it is asked for."""
        while True:
            yield str(self._origin[name])

    def with_origin(self, place: str, label: str) -> Iterator[Record]:
        """The records with their origin and labels among what has no field."""
        for record in self.records():
            said = [(place, line) for line in self._origin["files and lines"].split(" | ")]
            said += [(label, name) for name in self._origin["labels"].split("; ") if name]
            yield record._replace(extra=(*record.extra, *said))


def _origins(db: Session, review: int, held: Sequence[int]) -> dict[int, dict[str, Any]]:
    found = provenance.origins(db, review, held)
    return {
        row["id"]: {
            "record": row["id"], "sources": row["sources"], "searches": row["searches"], "files and lines": row["files"], "versions of the query": row["versions"],
            "labels": row["labels"], "state": in_words(row["first"], row["fulltext"], row["second"]), "seed": "yes" if row["seed"] else "",
        }
        for row in found
    }  # fmt: skip


def losses(review: int, wanted: Wanted, format: str) -> tuple[int, list[Loss]]:
    """What a format would lose of the first records of a list: how many were looked at, and what of them."""
    held = _listed(review, wanted)[:MOST_TO_COMPARE]
    with snapshot() as db:
        records = [record_of(record) for record in provenance.records(db, held)]
    return len(records), formats.losses(records, format)
