"""The kept record: the fullest value of each field, and whose it was."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from typing import Any

from kettlesort.core.record import Record

_MERGED = tuple(name for name in Record._fields if name != "extra")


def fullness(record: Record) -> int:
    """How much a record says: fields that are filled, and the length of its longest ones."""
    filled = sum(1 for value in record if value)
    return filled * 1000 + min(len(record.abstract), 5000) // 10 + min(len(record.title), 400)


def primary(records: Sequence[Record]) -> int:
    """The position of the fullest record; the first of equals."""
    return max(range(len(records)), key=lambda k: (fullness(records[k]), -k))


_WHOLE = ("abstract", "keywords", "references")
"""Of these the fullest value is kept, whoever is trusted most."""


def merge(records: Sequence[Record], trust: Sequence[int] = ()) -> tuple[Record, dict[str, int]]:
    """The kept record of a group, and for each filled field the position of the copy that it came from.

    ``trust`` ranks the source of each record, 0 the most trusted; equal ranks if it is empty. A field is taken from the
    most trusted that fill it, abstract, keywords and references from the fullest. Among equals the fullest value wins: the
    longest text, the most authors with the fullest names; a year, kind or DOI is what most copies say. Then the earlier copy.
    """
    values: dict[str, Any] = {}
    whose: dict[str, int] = {}
    for name in _MERGED:
        column = [getattr(record, name) for record in records]
        filled = [k for k, value in enumerate(column) if value and not (name == "kind" and value == "other")]
        if not filled:
            continue
        if trust and name not in _WHOLE:
            most = min(trust[k] for k in filled)
            filled = [k for k in filled if trust[k] == most]
        best = _best(name, column, filled)
        values[name] = column[best]
        whose[name] = best
    extra = dict.fromkeys(pair for record in records for pair in record.extra)
    return Record(**values, extra=tuple(extra)), whose


def _best(name: str, column: list[Any], filled: list[int]) -> int:
    if name in ("year", "kind", "doi", "volume", "issue", "language"):
        often = Counter(column[k] for k in filled)
        return max(filled, key=lambda k: (often[column[k]], -k))
    if name == "title":
        return max(filled, key=lambda k: (not column[k].isupper(), len(column[k]), -k))
    if name in ("authors", "keywords", "references"):
        return max(filled, key=lambda k: (len(column[k]), sum(map(len, column[k])), -k))
    return max(filled, key=lambda k: (len(column[k]), -k))


def supplemented(record: Record, added: Iterable[tuple[str, Any, bool]]) -> Record:
    """The record with its empty fields filled by what is ``added``: field, value, and whether the value stands even where there is one already."""
    for field, value, replaces in added:
        if replaces or not getattr(record, field):
            values: dict[str, Any] = {field: tuple(value) if isinstance(value, list) else value}
            record = record._replace(**values)
    return record
