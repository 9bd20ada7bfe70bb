"""How often a record was cited, where that is known."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence

from kettlesort.core.record import doi_of

_COUNTS = re.compile(
    r"(?:tc|z9|cited\s*by(?:\s*count)?|times[\s-]*cited(?:,?\s*(?:all databases|count|in all))?|cit(?:ation|ed)[\s-]*count|(?:number|no\.?|count)\s*of\s*citations|citations|"
    r"nombre de citations|zitationen|citas)\s*$",
    re.I,
)
"""Labels under which exports say how often a record was cited."""
_NUMBER = re.compile(r"\s*(\d{1,7})\s*(?:times|citations)?\s*$", re.I)
_DOI = re.compile(r"\b10\.\d{4,9}/[^\s\"<>]+")


def times_cited(extra: Iterable[Sequence[str]]) -> int | None:
    """How often a record was cited, as its source says among what has no field; the largest of several, None where none says so.

    >>> times_cited([("TC", "12"), ("Z9", "15")]), times_cited([("Cited by", "3 times"), ("C8", "12")]), times_cited([("TC", "many")])
    (15, 3, None)
    """
    found = [
        int(number[1]) for label, value in extra if _COUNTS.fullmatch(label.strip().rstrip(":")) and (number := _NUMBER.fullmatch(value))
    ]
    return max(found, default=None)


def cited_here(references: Iterable[Sequence[str]]) -> Counter[str]:
    """How many of some records cite each DOI, by what their lists of references say."""
    cited: Counter[str] = Counter()
    for some in references:
        cited.update(
            {doi for text in some for match in _DOI.findall(text) if (doi := doi_of(match.rstrip(".,;)]"))) and not doi.endswith("/")}
        )
    return cited
