"""The keys of a record: it is compared with those that share one. They depend on nothing but the record."""

from __future__ import annotations

import re
from array import array
from collections.abc import Sequence
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


def keys_of(
    title: Sequence[str], authors: Sequence[str], record: Record, doi: str, volume: str, page: str, into: array[int]
) -> tuple[int, int]:
    """Append the keys of a record to ``into``; its two places: among records of a like title, and among others.

    ``title`` are the words of the title, folded and without articles, ``authors`` are folded family names; keys and places are below 2^63.
    """
    joined = "".join(title).encode()
    words = sorted({word for word in title if len(word) > 3})
    year = record.year or 0
    first = last = 0
    if len(words) >= 4:
        first, last = 4 << 32 | crc32(f"{words[0]} {words[1]}".encode()), 5 << 32 | crc32(f"{words[-1]} {words[-2]}".encode())
    elif len(words) >= 2:
        first = 4 << 32 | crc32(" ".join(words[:2]).encode())
    into.extend(
        (
            1 << 32 | crc32(doi.encode()) if doi else 0,
            2 << 32 | crc32(joined[:20]) if joined else 0,
            3 << 32 | crc32(joined[-20:]) if len(joined) > 24 else 0,
            first,
            last,
            6 << 32 | crc32(f"{volume or year} {page}".encode()) if page and (volume or year) and page != "1" else 0,
            7 << 32 | crc32(f"{authors[0]} {year}".encode()) if authors and year else 0,
            8 << 32 | crc32(" ".join(sorted(authors[:4])).encode()) if len(authors) >= 3 else 0,
            9 << 32 | _second_sentence(record.abstract) if len(record.abstract) >= 60 else 0,
            10 << 32 | crc32(record.accession.lower().encode()) if len(record.accession) >= 7 else 0,
            11 << 32 | crc32(joined[:12] + b"%d" % year) if joined and year else 0,
        )
    )
    return (year << 40) | crc32(" ".join(authors[:2]).encode()), int.from_bytes(joined[:7].ljust(7, b"\0"), "big")


def _second_sentence(abstract: str) -> int:
    """The letters after the first full stop, which no label is before; of the beginning where there is none."""
    at = abstract.find(". ", 30, 600) + 1
    return crc32(abstract[at : at + 80].lower().encode("ascii", "ignore").translate(None, _DROP)[:48])
