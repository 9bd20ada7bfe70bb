"""What is compared of a record: its fields folded so that spelling habits do not count."""

from __future__ import annotations

import re
from typing import NamedTuple

from kettlesort.core.record import Record, folded

_ARTICLES = frozenset(
    [
        "a",
        "an",
        "the",
        "of",
        "and",
        "in",
        "on",
        "for",
        "to",
        "with",
        "by",
        "from",
        "at",
        "der",
        "die",
        "das",
        "le",
        "la",
        "les",
        "el",
        "los",
        "un",
        "une",
        "ein",
        "eine",
    ]
)
_NUMBER = re.compile(r"^(?:\d+(?:st|nd|rd|th)?|[ivx]{1,4})$")
_PART_WORDS = frozenset(
    ["first", "second", "third", "fourth", "fifth", "one", "two", "three", "four", "five", "before", "after", "upper", "lower"]
)
_NOTICE = frozenset(
    ["erratum", "corrigendum", "correction", "corrections", "retraction", "retracted", "reply", "comment", "commentary", "addendum"]
)
_BRACKET_SAID_TWICE = re.compile(r"\s*\[[^\[\]]{12,}\]\s*$")


class Features(NamedTuple):
    """Comparable forms; empty text, an empty tuple or ``None`` means that the record does not say."""

    title: str
    words: tuple[str, ...]
    parts: frozenset[str]
    notice: frozenset[str]
    families: tuple[str, ...]
    year: int | None
    journal: str
    volume: str
    page: str
    doi: str
    accession: str
    abstract: str
    kind: str


def features_of(record: Record) -> Features:
    """The comparable forms of a record."""
    said = record.title
    if said.endswith("]") and not said.startswith("["):
        said = _BRACKET_SAID_TWICE.sub("", said)
    title = folded(said)
    words = tuple([word for word in title.split() if word not in _ARTICLES])
    first = record.pages.partition("–")[0]
    return Features(
        " ".join(words),
        words,
        frozenset([word for word in words if word in _PART_WORDS or _NUMBER.match(word)]),
        _NOTICE.intersection(words),
        tuple([_family(name) for name in record.authors[:12] if not name.lower().startswith("et al")]),
        record.year,
        folded(record.journal or record.journal_short) if record.journal or record.journal_short else "",
        record.volume.lower().lstrip("0 "),
        first.lower().lstrip("0 "),
        record.doi,
        record.accession if len(record.accession) >= 7 else "",
        record.abstract[:400],
        record.kind,
    )


def _family(name: str) -> str:
    family = name.partition(",")[0]
    if family.isascii():
        family = family.lower()
        return family if family.isalpha() else "".join([c for c in family if c.isalnum()])
    return folded(family).replace(" ", "")
