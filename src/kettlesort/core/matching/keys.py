"""The keys of a record: it is compared with those that share one. They depend on nothing but the record."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import NamedTuple
from zlib import crc32

from kettlesort.core.record import Record, folded, plain

KEYS = 11
"""So many keys a record has at most; one that it lacks is 0."""
BY_YEAR = (1, 2, 3, 4)
"""Keys under which records are in the order of their year and authors; under others, of their title."""
ABSTRACT = 400
"""So many letters of an abstract are compared."""
_LABEL = re.compile(
    rb"(?:abstract|summary|(?:study)?objectives?|background(?:(?:and)?(?:aims?|objectives?))?|(?:aims?|purpose)(?:ofthestudy)?|introduction|context|importance|"
    rb"rationale|question|problem){1,2}"
)
_KEEP = b"abcdefghijklmnopqrstuvwxyz0123456789"
_DROP = bytes(set(range(256)) - set(_KEEP))


def abstract_of(said: str) -> str:
    """The beginning of an abstract to compare: its letters and digits, without mark-up and the label of its first part."""
    letters = (plain(said) if "<" in said or "&" in said else said).lower().encode("ascii", "ignore").translate(None, _DROP)
    if 3 * len(letters) < len(said):  # another script
        return folded(said)[:ABSTRACT]
    label = _LABEL.match(letters)
    begin = label.end() if label else 0
    return letters[begin : begin + ABSTRACT].decode()


class Keyed(NamedTuple):
    """What keys are made of, a list for each part and in each an entry for each record.

    ``words`` are those of the title, folded and without articles; ``authors`` folded family names.
    """

    records: Sequence[Record]
    words: Sequence[Sequence[str]]
    authors: Sequence[Sequence[str]]
    dois: Sequence[str]
    volumes: Sequence[str]
    pages: Sequence[str]


def keys_of(it: Keyed) -> tuple[list[list[int]], list[int], list[int]]:
    """The keys of records, `KEYS` lists with an entry for each; and their places among records of a like title, and among others.

    Keys and places are below 2^63; a record that lacks a key has 0.
    """
    joined = ["".join(words).encode() for words in it.words]
    longer = [sorted({word for word in words if len(word) > 3}) for words in it.words]
    years = [record.year or 0 for record in it.records]
    keys = [
        [1 << 32 | crc32(doi.encode()) if doi else 0 for doi in it.dois],
        [2 << 32 | crc32(title[:20]) if title else 0 for title in joined],
        [3 << 32 | crc32(title[-20:]) if len(title) > 24 else 0 for title in joined],
        [4 << 32 | crc32(f"{words[0]} {words[1]}".encode()) if len(words) > 1 else 0 for words in longer],
        [5 << 32 | crc32(f"{words[-1]} {words[-2]}".encode()) if len(words) > 3 else 0 for words in longer],
        [
            6 << 32 | crc32(f"{volume or year} {page}".encode()) if page and (volume or year) and page != "1" else 0
            for volume, year, page in zip(it.volumes, years, it.pages, strict=True)
        ],
        [7 << 32 | crc32(f"{names[0]} {year}".encode()) if names and year else 0 for names, year in zip(it.authors, years, strict=True)],
        [8 << 32 | crc32(" ".join(sorted(names[:4])).encode()) if len(names) > 2 else 0 for names in it.authors],
        [9 << 32 | _second_sentence(record.abstract) if len(record.abstract) >= 60 else 0 for record in it.records],
        [10 << 32 | crc32(record.accession.lower().encode()) if len(record.accession) >= 7 else 0 for record in it.records],
        [11 << 32 | crc32(b"%b%d" % (title[:12], year)) if title and year else 0 for title, year in zip(joined, years, strict=True)],
    ]
    among_titles = [(year << 40) | crc32(" ".join(names[:2]).encode()) for names, year in zip(it.authors, years, strict=True)]
    return keys, among_titles, [int.from_bytes(title[:7].ljust(7, b"\0"), "big") for title in joined]


def _second_sentence(abstract: str) -> int:
    """The letters after the first full stop, which no label is before; of the beginning where there is none."""
    at = abstract.find(". ", 30, 600) + 1
    return crc32(abstract[at : at + 80].lower().encode("ascii", "ignore").translate(None, _DROP)[:48])
