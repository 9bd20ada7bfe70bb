"""A record and the normal forms of its fields."""

from __future__ import annotations

import html
import re
import unicodedata
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import NamedTuple

from kettlesort.core.text.glance import plain_doi, plain_text, year_at_first

KINDS = (
    "article",
    "conference",
    "thesis",
    "book",
    "chapter",
    "report",
    "preprint",
    "registration",
    "website",
    "other",
)


class Record(NamedTuple):
    """What a source delivered about one document. Missing text is ``""``, a missing year ``None``.

    ``authors`` are "Family, Given" in their order; ``doi`` is lower case without an address;
    ``accession`` is the record's identifier in its source; ``extra`` holds every tag or
    column that has no field of its own, as (name, value).
    """

    kind: str = "other"
    title: str = ""
    authors: tuple[str, ...] = ()
    year: int | None = None
    date: str = ""
    journal: str = ""
    journal_short: str = ""
    volume: str = ""
    issue: str = ""
    pages: str = ""
    doi: str = ""
    accession: str = ""
    issn: str = ""
    abstract: str = ""
    language: str = ""
    keywords: tuple[str, ...] = ()
    url: str = ""
    publisher: str = ""
    references: tuple[str, ...] = ()
    note: str = ""
    extra: tuple[tuple[str, str], ...] = ()


FILLABLE = tuple(name for name in Record._fields if name not in ("kind", "date", "extra"))
"""The fields whose fullness is counted when a file is read."""

_DOI = re.compile(r"10\.\d{4,9}/\S+")
_YEAR = re.compile(r"(?<!\d)(1[5-9]\d\d|20\d\d)(?!\d)")
_MARKUP = re.compile(r"<\s*/?\s*[a-zA-Z][^<>]{0,200}>")
_PAGES = re.compile(r"\s*[-\u2010-\u2015\u2212]+\s*")


@lru_cache(maxsize=65536)
def year_of(text: str) -> int | None:
    """The first year from 1500 to 2099 in ``text``, or ``None``."""
    if year := year_at_first(text):  # most of them
        return year
    found = _YEAR.search(text)
    return int(found[1]) if found else None


def doi_of(text: str) -> str:
    """The DOI in ``text`` in lower case, without address, label or trailing stop; ``""`` if none.

    >>> doi_of("https://doi.org/10.5555/AMA.2016.1109.")
    '10.5555/ama.2016.1109'
    """
    if plain_doi(text):  # most of them
        return text.lower()
    found = _DOI.search(text)
    if not found:
        return ""
    doi = found[0].lower().rstrip(".,;:'\">]}")
    if "<" in doi and ">" not in doi:
        doi = doi.split("<")[0]
    while doi.endswith(")") and doi.count("(") < doi.count(")"):
        doi = doi[:-1]
    return doi.split("%20")[0]


def pages_of(first: str, last: str = "") -> str:
    """A page range with an en dash: ``101–118``; shortened ends are kept as given."""
    begin, _, end = (first, "", last) if last else first.partition("-")
    if begin.isdigit() and end.isdigit():  # most of them
        return begin if begin == end else f"{begin}–{end}"
    parts = [part for part in _PAGES.split(f"{first}-{last}" if last else first) if part]
    if len(parts) == 2 and parts[0] == parts[1]:
        parts.pop()
    return "–".join(parts)


def plain(text: str) -> str:
    """``text`` without mark-up, entities and runs of white space."""
    text = text.strip()
    if plain_text(text):
        return text
    if "<" in text:
        text = _MARKUP.sub("", text)
    if "&" in text:
        text = html.unescape(text)
        if "<" in text:
            text = _MARKUP.sub("", text)
    return " ".join(text.split())


class Folding(dict[int, str]):
    """Each letter in lower case without its accents, each sign as a space, worked out when it is first met: a table for `str.translate`."""

    def __missing__(self, code: int) -> str:
        small = chr(code).casefold()
        if len(small) == 1 and ord(small) in self:
            self[code] = self[ord(small)]
        else:
            letters = [c for c in unicodedata.normalize("NFKD", small) if not unicodedata.combining(c)]
            self[code] = "".join([c if c.isalnum() else " " for c in letters])
        return self[code]


SPELLED = {"ß": "ss", "ø": "o", "ł": "l", "æ": "ae"}
_FOLD = Folding({ord(letter): said for letter, said in SPELLED.items()})


def folded(text: str) -> str:
    """``text`` in lower case, without accents, mark-up and punctuation: for comparing, not for showing."""
    if "<" in text or "&" in text:
        text = plain(text)
    return " ".join(text.translate(_FOLD).split())


_COUNTRY_TAGS = ("country", "pl", "cy", "country of publication", "place of publication", "land")


def country_of(extra: Iterable[Sequence[str]]) -> str:
    """The country or place of publication among a record's extra tags; "" if none."""
    return next((" ".join(value.split()) for name, value in extra if name.lower() in _COUNTRY_TAGS and value.strip()), "")


def family_of(author: str) -> str:
    """The family name of an author, as written."""
    return author.split(",")[0].strip()


def short_citation(record: Record) -> str:
    """The name that a study goes by: first author's family name and year, as in "Orsel 2019"."""
    name = family_of(record.authors[0]) if record.authors else " ".join(record.title.split()[:3]) or "Untitled"
    return f"{name} {record.year}" if record.year else name
