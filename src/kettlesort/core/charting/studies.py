"""Studies and what they are called."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Sequence
from itertools import combinations
from math import fsum, log
from typing import NamedTuple

from kettlesort.core.charting.items import COUNTED
from kettlesort.core.text.words import stem_of, words_of


def study_labels(citations: list[str]) -> list[str]:
    """Names for studies from short citations, told apart by a letter where they would be the same.

    >>> study_labels(["Orsel 2019", "Ames 2003", "Orsel 2019"])
    ['Orsel 2019a', 'Ames 2003', 'Orsel 2019b']
    """
    seen: dict[str, int] = {}
    out = []
    for citation in citations:
        if citations.count(citation) == 1:
            out.append(citation)
            continue
        seen[citation] = seen.get(citation, 0) + 1
        out.append(citation + _letters(seen[citation]))
    return out


def _letters(number: int) -> str:
    text = ""
    while number:
        number, rest = divmod(number - 1, 26)
        text = chr(97 + rest) + text
    return text


class ReportSigns(NamedTuple):
    """What a report shows of the study that it is of: numbers under which it is registered, authors, how many it counts, names of places, words of its title."""

    record: int
    study: int
    registered: frozenset[str]
    authors: frozenset[str]
    sizes: frozenset[str]
    places: frozenset[str]
    title: frozenset[str]


class Together(NamedTuple):
    """Two reports that may be of one study, by their records, how much speaks for it, and what."""

    left: int
    right: int
    score: float
    why: tuple[str, ...]


_REGISTERED = re.compile(
    r"(?:[Rr]egist\w+|[Pp]rotocol|[Tt]rial (?:number|identifier|no\.?))\b[^.;]{0,60}?\b([A-Z]{2,8}[-/ ]?\d[\dA-Z/-]{4,})\b"
)
_SIZE = re.compile(rf"\b(\d{{1,3}}(?:[,\u202f ]\d{{3}})+|\d{{2,6}})\s+(?:\w+\s+){{0,2}}?(?:{COUNTED})\b", re.I)
_PLACE = re.compile(r"(?<=[a-z,] )([A-Z][a-zà-ž]{3,}(?: [A-Z][a-zà-ž]{3,})*)")
_ENOUGH = 2.0
"""So much has to speak for it before a person is asked."""


def signs_of(record: int, study: int, title: str, authors: Sequence[str], text: str) -> ReportSigns:
    """What a report shows of its study, from its title, authors and text (an abstract, or all of it)."""
    names = {author.partition(",")[0].strip().casefold() for author in authors if author.strip()}
    return ReportSigns(
        record,
        study,
        frozenset(re.sub(r"[-/ ]", "", one).upper() for one in _REGISTERED.findall(text)),
        frozenset(names),
        frozenset(re.sub(r"\D", "", one) for one in _SIZE.findall(text)),
        frozenset(one for one in _PLACE.findall(f"{title}. {text[:4000]}") if one.casefold() not in names),
        frozenset(stem for word in words_of(title) if (stem := stem_of(word, "en"))),
    )


def belong_together(reports: Sequence[ReportSigns]) -> list[Together]:
    """Pairs of reports of different studies that may be of one, the likeliest first.

    A shared registration number is enough. Else the shares of authors and of the title's stems in common (Jaccard) speak together with a common count of
    participants and common names of places, each weighed by how rare it is among the reports.
    """
    speaking = _Speaking(reports)
    found = (speaking.of(reports[k], reports[j]) for k, j in _worth_a_look(reports))
    return sorted((one for one in found if one), key=lambda each: (-each.score, each.left, each.right))


_FEW = 3
"""What more reports than these name tells none of them apart."""


def _worth_a_look(reports: Sequence[ReportSigns]) -> set[tuple[int, int]]:
    """Pairs that share a registration number, an author or a rare count: titles and places alone never speak enough."""
    having: dict[tuple[str, str], list[int]] = defaultdict(list)
    for k, report in enumerate(reports):
        for name in ("registered", "authors", "sizes"):
            for each in getattr(report, name):
                having[name, each].append(k)
    return {pair for (name, _), some in having.items() if name != "sizes" or len(some) <= _FEW for pair in combinations(some, 2)}


class _Speaking:
    """What speaks for two reports being of one study, among others."""

    def __init__(self, reports: Sequence[ReportSigns]) -> None:
        often = {name: Counter(each for report in reports for each in getattr(report, name)) for name in ("sizes", "places", "title")}
        self._rare = {name: {each for each, n in often[name].items() if n <= _FEW} for name in ("sizes", "places")}
        self._weights = {stem: log((1 + len(reports)) / (1 + n)) + 0.01 for stem, n in often["title"].items()}

    def of(self, one: ReportSigns, other: ReportSigns) -> Together | None:
        """How much speaks for it and what; nothing where that is too little."""
        if one.study == other.study:
            return None
        why: list[str] = []
        score = 0.0
        if shared := one.registered & other.registered:
            score += 3
            why.append(f"both name {', '.join(sorted(shared))}")
        authors = one.authors & other.authors
        if len(authors) > 1 or (authors and min(len(one.authors), len(other.authors)) == 1):
            score += 1.6 * len(authors) / len(one.authors | other.authors)
            why.append(f"{len(authors)} {'author' if len(authors) == 1 else 'authors'} in common")
        like = self._alike(one.title, other.title)
        if like > 0.3:
            score += 1.2 * like
            why.append("titles are alike")
        if sizes := one.sizes & other.sizes & self._rare["sizes"]:
            score += 0.8
            why.append(f"both count {', '.join(sorted(sizes, key=int))}")
        if places := one.places & other.places & self._rare["places"]:
            score += 0.6
            why.append(f"both name {', '.join(sorted(places))}")
        return Together(one.record, other.record, round(score, 3), tuple(why)) if score >= _ENOUGH else None

    def _alike(self, one: frozenset[str], other: frozenset[str]) -> float:
        """The share of stems in common, each weighing as much as it is rare: between 0 and 1."""
        whole = fsum(self._weights[stem] for stem in one | other)
        return fsum(self._weights[stem] for stem in one & other) / whole if whole else 0.0
