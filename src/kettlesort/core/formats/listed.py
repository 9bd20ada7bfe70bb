"""A list of identifiers, one or several a line: records of which nothing else is known yet."""

from __future__ import annotations

import re
from collections.abc import Iterator

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.source import Problem, TextSource
from kettlesort.core.record import Record, doi_of

_ACCESSION = re.compile(r"(?=[^\s]*\d)[A-Za-z]{0,12}[:.\-_]?[A-Za-z0-9][\w.\-:]{2,40}")
_LABELS = ("doi", "doi:", "pmid", "pmid:", "id", "id:", "accession", "accession:", "dois", "pmids")
_APART = re.compile(r"[\s,;]+")


def _parts(line: str) -> list[str]:
    return [part for part in _APART.split(line.strip("\ufeff \t\x00")) if part and part.lower() not in _LABELS]


def is_list(sample: str) -> bool:
    """Whether every line names nothing but DOIs and accession numbers (a heading aside)."""
    lines = [parts for line in sample.split("\n")[:400] if (parts := _parts(line))]
    if not lines or (len(lines) == 1 and len(lines[0]) > 200):
        return False
    return all(
        doi_of(part) or (_ACCESSION.fullmatch(part) and not re.fullmatch(r"(?:1[89]|20)\d\d|\d{1,3}", part))
        for parts in lines
        for part in parts
    )


def read(source: TextSource, problems: list[Problem]) -> Iterator[Entry]:
    """A record for each identifier; what is none is told."""
    position = number = 0
    tail = ""
    seen: set[str] = set()
    for piece in (*source, "\n"):
        lines = (tail + piece).split("\n")
        tail = lines.pop()[-100_000:]
        for line in lines:
            number += 1
            for part in _parts(line):
                doi = doi_of(part)
                if not doi and not _ACCESSION.fullmatch(part):
                    problems.append(Problem(number, f"“{part[:40]}” is neither a DOI nor an accession number"))
                    continue
                accession = "" if doi else part.removeprefix("PMID:").removeprefix("pmid:")
                if (doi or accession.lower()) in seen:
                    problems.append(Problem(number, f"“{part[:40]}” stands in this list before"))
                    continue
                seen.add(doi or accession.lower())
                position += 1
                yield Entry(position, number, number, line.strip()[:1000], Record(doi=doi, accession=accession))
