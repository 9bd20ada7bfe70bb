"""Lists of records, what they divide into, one record with all that ever happened to it, and records as a file."""

from __future__ import annotations

import io
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from kettlesort.core import formats
from kettlesort.core.formats import Loss
from kettlesort.core.query import In, Text, find
from kettlesort.core.query.words import words_of
from kettlesort.core.record import Record, doi_of
from kettlesort.store import screen as screening
from kettlesort.store.base import Row, row, rows, snapshot
from kettlesort.store.labels import labels_of
from kettlesort.store.match import group_copies
from kettlesort.store.query import Numbers
from kettlesort.store.records import (
    COLUMNS,
    Wanted,
    described,
    ids,
    listed_copies,
    order,
    order_made_at,
    record_of,
    values_of,
    years_and_sources,
)
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
    return wanted if found is None else replace(wanted, found=tuple(int(it) for it in found))


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
            named = rows(
                db,
                """SELECT DISTINCT p.record_id FROM copy c JOIN placement p ON p.copy_id = c.id WHERE c.review_id = :v AND p.review_id = :v
                AND (c.doi = :d OR lower(c.accession) = :a)""",
                v=review, d=doi_of(key) or "-", a=key.lower(),
            )  # fmt: skip
        found = np.union1d(found, np.array([it["record_id"] for it in named], np.int64))
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


def _ordered(review: int, wanted: Wanted) -> tuple[Numbers, _Order]:
    """The records of a list, closest to the seeds first and those without rank last, and the order."""
    found, by = _found(review, wanted), _order(review)
    narrow = replace(wanted, query="", typed="")
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
                return total, [dict(it) for it in copies]
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
            **it,
            "rank": int(by.ranks[at]) if (at := places[it["id"]]) >= 0 else None,
            "closeness": float(by.closeness[at]) if at >= 0 else None,
        }
        for it in found
    ]


def ids_of(review: int, wanted: Wanted, most: int = MOST_AT_ONCE) -> list[int]:
    """The records of a list in its order."""
    if wanted.of_copies:
        with snapshot() as db:
            try:
                return sorted(ids(db, review, found_by(review, wanted)))[:most]
            except (KeyError, ValueError) as error:
                raise NotFound(f"There is no list named “{wanted.list}”.") from error
    return [int(it) for it in _ordered(review, wanted)[0][:most]]


def filter_values(review: int) -> Row | None:
    """What a filter can offer at all."""
    with snapshot() as db:
        return years_and_sources(db, review)


def divided(review: int, wanted: Wanted) -> dict[str, list[tuple[str, int]]]:
    """What the records of a list divide into, each value with its count."""
    wanted = found_by(review, wanted)
    with snapshot() as db:
        try:
            return values_of(db, review, wanted)
        except (KeyError, ValueError) as error:
            raise NotFound(f"There is no list named “{wanted.list}”.") from error


class Copy(NamedTuple):
    """A copy as it came: its fields, its text in the file, and where that is."""

    id: int
    record: Record
    raw: str
    origin: Row


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
        found = row(db, f"SELECT id, whose, {COLUMNS} FROM record WHERE id = :i AND review_id = :v", i=record, v=review)
        standing = screening.state_in(db, review, record)
        if found is None or standing is None:
            raise NotFound("There is no such record in this review; it may have been joined with another.")
        copies = group_copies(db, [record])
        origins = {it["id"]: it for it in screening.origins(db, [record])}
        texts = rows(db, f"SELECT id, raw, {COLUMNS} FROM copy WHERE id = ANY(CAST(:c AS bigint[])) ORDER BY id", c=copies)
        filled = rows(
            db, "SELECT field, source FROM supplement WHERE copy_id = ANY(CAST(:c AS bigint[])) AND withdrawn_at IS NULL ORDER BY id", c=copies
        )  # fmt: skip
        it = record_of(found)
        named = row(db, "SELECT name FROM narrowing WHERE id = :n", n=standing["narrowing_id"] or 0)
        whose = found["whose"] or {name: copies[0] for name in Record._fields if getattr(it, name)}
        supplied = {one["field"]: one["source"] for one in filled if getattr(it, one["field"])}
        return Whole(
            record, it, whose, supplied, standing, str(named["name"]) if named else "", labels_of(db, record),
            [Copy(one["id"], record_of(one), one["raw"], origins[one["id"]]) for one in texts],
            [Happened(one["at"], one["by"], one["what"], one["detail"]) for one in rows(db, _HISTORY, c=copies)],
        )  # fmt: skip


_HISTORY = """
SELECT at, a.full_name AS by, what, detail FROM (
    SELECT b.uploaded_at AS at, b.uploaded_by AS account, 'uploaded' AS what, q.source || ', search ' || q.number || ', ' || b.filename || ', line ' || c.line AS detail
        FROM copy c JOIN batch b ON b.id = c.batch_id JOIN search q ON q.id = b.search_id WHERE c.id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT u.at, u.account_id, CASE WHEN u.same THEN 'joined' ELSE 'told_apart' END, CASE WHEN u.by_rule THEN 'by rule, weight ' || round(u.score::numeric, 1) ELSE 'by hand' END
        FROM ruling u WHERE u.left_copy = ANY(CAST(:c AS bigint[])) OR u.right_copy = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT u.withdrawn_at, u.withdrawn_by, 'ruling_withdrawn', CASE WHEN u.same THEN 'no longer joined' ELSE 'no longer told apart' END
        FROM ruling u WHERE u.withdrawn_at IS NOT NULL AND u.withdrawn_by IS NOT NULL AND (u.left_copy = ANY(CAST(:c AS bigint[])) OR u.right_copy = ANY(CAST(:c AS bigint[])))
    UNION ALL SELECT v.at, v.account_id, 'decided', 'pass ' || v.pass_number || ': ' || v.verdict || coalesce(', ' || k.name, '')
        FROM verdict v LEFT JOIN criterion k ON k.id = v.criterion_id WHERE v.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT v.withdrawn_at, coalesce(v.withdrawn_by, v.account_id), 'decision_withdrawn', 'pass ' || v.pass_number || ': ' || v.verdict
        FROM verdict v WHERE v.withdrawn_at IS NOT NULL AND v.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT m.at, m.account_id, 'seed', '' FROM seed_mark m WHERE m.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT n.at, n.account_id, 'noted', n.text FROM note n WHERE n.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT t.at, t.account_id, 'full_text', t.state || CASE WHEN t.reason <> '' THEN ': ' || t.reason ELSE '' END FROM full_text t WHERE t.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT s.at, s.account_id, 'filled', s.field || ', from ' || s.source FROM supplement s WHERE s.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT n.at, n.account_id, 'set_aside', n.name FROM narrowed d JOIN narrowing n ON n.id = d.narrowing_id WHERE d.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT d.released_at, d.account_id, 'let_in', n.name FROM narrowed d JOIN narrowing n ON n.id = d.narrowing_id WHERE d.released_at IS NOT NULL AND d.copy_id = ANY(CAST(:c AS bigint[]))
) h JOIN account a ON a.id = h.account ORDER BY at, what
"""


class Export(NamedTuple):
    """Records as a file."""

    data: bytes
    records: int


ORIGIN_COLUMNS = ("record", "sources", "searches", "files and lines", "versions of the query", "labels", "state", "seed")


def _records(review: int, wanted: Wanted) -> tuple[list[int], list[Record]]:
    held = ids_of(review, wanted)
    if not held:
        raise Invalid("This list is empty; there is nothing to write.", field="list")
    with snapshot() as db:
        found = {
            it["id"]: record_of(it) for it in rows(db, f"SELECT id, {COLUMNS} FROM record WHERE id = ANY(CAST(:i AS bigint[]))", i=held)
        }
    return [it for it in held if it in found], [found[it] for it in held if it in found]


def export(review: int, wanted: Wanted, format: str, columns: Sequence[str] = ()) -> Export:
    """The records of a list as a file, with their origin: in tables in columns of its own, elsewhere among what has no field."""
    held, records = _records(review, wanted)
    origins = _origins(review, held)
    out = io.BytesIO()
    if format in ("csv", "xlsx"):
        chosen = [name for name in columns if name in (*Record._fields, "other") and name != "extra"] or list(formats.table.COLUMNS)
        wanted_more = [name for name in ORIGIN_COLUMNS if not columns or name in columns]
        more = {name: [str(origins[it][name]) for it in held] for name in wanted_more}
        formats.write(records, format, out, chosen, more)
    else:
        place, label = {"ris": ("C8", "C7"), "nbib": ("ORIG", "LABL")}.get(format, ("origin", "label"))
        with_origin = []
        for number, it in zip(held, records, strict=True):
            said = [(place, line) for line in origins[number]["files and lines"].split(" | ")]
            said += [(label, name) for name in origins[number]["labels"].split("; ") if name]
            with_origin.append(it._replace(extra=(*it.extra, *said)))
        formats.write(with_origin, format, out)
    return Export(out.getvalue(), len(records))


def _origins(review: int, held: Sequence[int]) -> dict[int, dict[str, Any]]:
    with snapshot() as db:
        found = rows(
            db,
            """SELECT s.record_id AS id, s.seed, s.first, s.fulltext, s.second, string_agg(DISTINCT q.source, '; ') AS sources,
            string_agg(DISTINCT q.number || '.' || u.number, '; ') AS searches,
            string_agg(q.source || ', search ' || q.number || ', ' || b.filename || ', line ' || c.line, ' | ' ORDER BY c.id) AS files,
            coalesce(string_agg(DISTINCT u.query_version::text, '; '), '') AS versions,
            coalesce((SELECT string_agg(DISTINCT l.name, '; ') FROM placement x JOIN labelled d ON d.copy_id = x.copy_id JOIN label l ON l.id = d.label_id
                WHERE x.record_id = s.record_id AND l.removed_at IS NULL), '') AS labels
            FROM standing s JOIN placement p ON p.record_id = s.record_id JOIN copy c ON c.id = p.copy_id JOIN batch b ON b.id = p.batch_id
            JOIN search q ON q.id = b.search_id JOIN search_run u ON u.id = b.run_id
            WHERE s.review_id = :v AND s.record_id = ANY(CAST(:i AS bigint[])) GROUP BY s.record_id""",
            v=review, i=list(held),
        )  # fmt: skip
    return {
        it["id"]: {
            "record": it["id"], "sources": it["sources"], "searches": it["searches"], "files and lines": it["files"], "versions of the query": it["versions"],
            "labels": it["labels"], "state": _state(it), "seed": "yes" if it["seed"] else "",
        }
        for it in found
    }  # fmt: skip


def _state(it: Row) -> str:
    if it["first"] != "include":
        return {"open": "not decided", "unsure": "unsure", "exclude": "excluded", "aside": "set aside"}[it["first"]]
    if it["fulltext"] != "obtained":
        return {"sought": "full text sought", "missing": "full text not obtained"}[it["fulltext"]]
    return {"include": "included", "exclude": "full text excluded"}.get(it["second"], "full text to be decided")


def losses(review: int, wanted: Wanted, format: str) -> tuple[int, list[Loss]]:
    """What a format would lose of the first records of a list: how many were looked at, and what of them."""
    _, records = _records(review, wanted)
    return min(len(records), MOST_TO_COMPARE), formats.losses(records[:MOST_TO_COMPARE], format)
