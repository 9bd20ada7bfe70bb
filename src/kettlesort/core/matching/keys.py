"""The keys of a record: it is compared with those that share one. They depend on nothing but the record."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any, NamedTuple
from zlib import crc32

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.record import folded, plain

Array = NDArray[Any]

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
    """What keys are made of, a list for each part and in each an entry for each record, empty or 0 where it does not say.

    ``words`` are those of the title, folded and without articles; ``authors`` folded family names; ``accessions`` in lower
    case; ``abstracts`` their beginnings as they are.
    """

    words: Sequence[Sequence[str]]
    authors: Sequence[Sequence[str]]
    years: Sequence[int]
    dois: Sequence[str]
    volumes: Sequence[str]
    pages: Sequence[str]
    accessions: Sequence[str]
    abstracts: Sequence[str]


def keys_of(keyed: Keyed) -> tuple[Array, Array, Array]:
    """The keys of m records, `KEYS` × m; and their places among records of a like title, and among others, each of m.

    Keys and places are below 2^63; a record that lacks a key has 0.
    """
    joined = ["".join(words).encode() for words in keyed.words]
    longer = [sorted({word for word in words if len(word) > 3}) for words in keyed.words]
    said = (
        [crc32(doi.encode()) if doi else _NONE for doi in keyed.dois],
        [crc32(title[:20]) if title else _NONE for title in joined],
        [crc32(title[-20:]) if len(title) > 24 else _NONE for title in joined],
        [crc32(f"{words[0]} {words[1]}".encode()) if len(words) > 1 else _NONE for words in longer],
        [crc32(f"{words[-1]} {words[-2]}".encode()) if len(words) > 3 else _NONE for words in longer],
        [
            crc32(f"{volume or year} {page}".encode()) if page and (volume or year) and page != "1" else _NONE
            for volume, year, page in zip(keyed.volumes, keyed.years, keyed.pages, strict=True)
        ],
        [crc32(f"{names[0]} {year}".encode()) if names and year else _NONE for names, year in zip(keyed.authors, keyed.years, strict=True)],
        [crc32(" ".join(sorted(names[:4])).encode()) if len(names) > 2 else _NONE for names in keyed.authors],
        [_second_sentence(abstract) if abstract else _NONE for abstract in keyed.abstracts],
        [crc32(accession.encode()) if accession else _NONE for accession in keyed.accessions],
        [crc32(b"%b%d" % (title[:12], year)) if title and year else _NONE for title, year in zip(joined, keyed.years, strict=True)],
    )
    size = len(joined)
    values = np.array([np.fromiter(some, np.int64, size) for some in said])
    keys = np.where(values == _NONE, 0, values | np.arange(1, KEYS + 1)[:, None] << 32)
    years = np.fromiter(keyed.years, np.int64, size)
    among_titles = years << 40 | np.fromiter([crc32(" ".join(names[:2]).encode()) for names in keyed.authors], np.int64, size)
    among_others = np.array([title[:7] for title in joined], dtype="S8").view(">u8").astype(np.int64) >> 8
    return keys, among_titles, among_others


_NONE = -1


def _second_sentence(abstract: str) -> int:
    """The letters after the first full stop, which no label is before; of the beginning where there is none."""
    at = abstract.find(". ", 30, 600) + 1
    return crc32(abstract[at : at + 80].lower().encode("ascii", "ignore").translate(None, _DROP)[:48])
