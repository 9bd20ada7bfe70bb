"""Queries put together from parts: limited to a value or without it, to years, beside another query."""

from __future__ import annotations

import re
from typing import NamedTuple

_PLAIN = re.compile(r"\w+")
_LOOSE = re.compile(r"\s(?=(?:[^\"]*\"[^\"]*\")*[^\"]*$)")  # a blank that is not within quotes


def term(field: str, value: str) -> str:
    """That a field has a value, as a term of the query.

    >>> term("type", "book"), term("journal", 'Hive "Letters"')
    ('type:book', 'journal:"Hive \\'Letters\\'"')
    """
    return f"{field}:{value}" if _PLAIN.fullmatch(value) else f'{field}:"{value.replace(chr(34), chr(39))}"'


def years(first: int | None, last: int | None) -> str:
    """Published in these years, both included; ``None`` is open, and two of them say nothing.

    >>> years(1980, 2026), years(None, 1989), years(None, None)
    ('year:1980-2026', 'year:-1989', '')
    """
    return "" if first is None and last is None else f"year:{'' if first is None else f'{first:04}'}-{'' if last is None else f'{last:04}'}"


def both(*parts: str) -> str:
    """A query that asks for all of these; "" stands for no part.

    >>> both("wax OR comb", "type:book"), both(" wax OR comb ", "")
    ('(wax OR comb) AND type:book', 'wax OR comb')
    """
    said = [part.strip() for part in parts if part.strip()]
    return said[0] if len(said) == 1 else " AND ".join(f"({part})" if _LOOSE.search(part) else part for part in said)


def without(query: str, left_out: str) -> str:
    """What a query finds and another does not.

    >>> without("wax OR comb", "year:1998")
    '(wax OR comb) NOT (year:1998)'
    """
    return f"({query.strip()}) NOT ({left_out.strip()})"


class Limits(NamedTuple):
    """What is limited without writing a query: published before or after a year, in a language, of a type."""

    before: int | None = None
    after: int | None = None
    language: str = ""
    kind: str = ""


def limited(query: str, limits: Limits) -> str:
    """A query with limits, as one.

    >>> limited("wax OR comb", Limits(before=1990, after=2020, language="ger"))
    '(year:-1989 OR year:2021-) AND language:ger AND (wax OR comb)'
    """
    outside = [
        years(None, limits.before - 1) if limits.before is not None else "",
        years(limits.after + 1, None) if limits.after is not None else "",
    ]
    return both(
        " OR ".join(filter(None, outside)),
        term("language", limits.language) if limits.language.strip() else "",
        term("type", limits.kind) if limits.kind.strip() else "",
        query,
    )
