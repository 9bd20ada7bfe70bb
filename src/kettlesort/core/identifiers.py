"""What people paste to name studies: DOIs, accession numbers, titles, whole references, in any mixture."""

from __future__ import annotations

import re
from typing import Literal, NamedTuple

from kettlesort.core.record import doi_of

LONGEST_LINE = 1000
_ACCESSION = re.compile(r"(?=[^\s]*\d)[A-Za-z]{0,12}[:.\-_]?[\w.\-:]{1,40}")
_BULLET = re.compile(r"^\s*(?:[-*•–]|\(?\d{1,3}[.)])\s+")


_LABELLED = re.compile(r"(?:^|[\s;,|])(doi|pmid|pmcid|issn|e-?issn|isbn|an|accession|id)\s*[:=#]\s*(\S(?:[^\s;,|]*[^\s;,|.])?)", re.I)


def labelled(text: str) -> dict[str, str]:
    """The identifiers in a text that says of each what it is, by their labels in small letters.

    >>> labelled("PMID: 123; DOI: 10.5555/a.1")
    {'pmid': '123', 'doi': '10.5555/a.1'}
    """
    return {label.lower(): value for label, value in _LABELLED.findall(text)}


def accession_among(said: dict[str, str]) -> str:
    """Of labelled identifiers the one that a source knows its record by; "" if there is none."""
    return next((said[label] for label in ("pmid", "an", "accession", "id", "pmcid") if label in said), "")


class Named(NamedTuple):
    """A line as pasted, and what it names a study by: ``key`` is the DOI or the accession in lower case, or the title."""

    line: str
    kind: Literal["doi", "accession", "title"]
    key: str


def named(text: str) -> list[Named]:
    """What each line of ``text`` names; a line of several identifiers names several, and none is named twice.

    >>> [it[1:] for it in named("doi:10.5555/A.1\\n7300001; 7300002\\n1. Wraps in winter.")]
    [('doi', '10.5555/a.1'), ('accession', '7300001'), ('accession', '7300002'), ('title', 'Wraps in winter')]
    """
    out: dict[tuple[str, str], Named] = {}
    for line in text.splitlines():
        said = " ".join(_BULLET.sub("", line).split())[:LONGEST_LINE]
        for one in _of_line(said):
            out.setdefault((one.kind, one.key.casefold()), one)
    return list(out.values())


def _of_line(line: str) -> list[Named]:
    if not line:
        return []
    parts = [part for part in re.split(r"[\s,;]+", line) if part and part.lower().rstrip(":") not in ("doi", "pmid", "id", "accession")]
    if parts and all(doi_of(part) or _ACCESSION.fullmatch(part) for part in parts):
        return [Named(part, "doi", doi_of(part)) if doi_of(part) else Named(part, "accession", part.lower()) for part in parts]
    if doi_of(line):
        return [Named(line, "doi", doi_of(line))]
    return [Named(line, "title", line.rstrip("."))] if any(sign.isalpha() for sign in line) else []
