"""Dates of a study, from sentences and from tables."""

from __future__ import annotations

import re
from collections.abc import Iterator

from kettlesort.core.charting.proposals.candidates import Asking, Candidate, nearness, of_cell, of_sentence
from kettlesort.core.charting.proposals.items import Asked
from kettlesort.core.charting.proposals.passages import of_sentences, of_words

_MONTHS = {
    name: k
    for k, name in enumerate(
        ["january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december"], 1
    )
}
_MONTH = "|".join([*_MONTHS, *(name[:3] + r"\.?" for name in _MONTHS), "sept\\.?"])
_DATE = re.compile(
    rf"\b(?:(?P<y1>(?:19|20)\d\d)-(?P<m1>\d\d)(?:-(?P<d1>\d\d))?"
    rf"|(?P<d2>\d{{1,2}})(?:st|nd|rd|th)?\s+(?:of\s+)?(?P<m2>{_MONTH}),?\s+(?P<y2>(?:19|20)\d\d)"
    rf"|(?P<m3>{_MONTH})\s+(?P<d3>\d{{1,2}})(?:st|nd|rd|th)?,?\s+(?P<y3>(?:19|20)\d\d)"
    rf"|(?P<m4>{_MONTH}),?\s+(?:of\s+)?(?P<y4>(?:19|20)\d\d)"
    rf"|(?P<d5>\d{{1,2}})[./](?P<m5>\d{{1,2}})[./](?P<y5>(?:19|20)\d\d)"
    rf"|(?P<y6>(?:19|20)\d\d))\b(?!\s*[;(]\s*\d)",
    re.I,
)
_RANGE = re.compile(
    rf"\b(?:(?P<d>\d{{1,2}})(?:st|nd|rd|th)?\s+)?(?P<m>{_MONTH})\s+(?:and|to|through|until|[-–])\s+(?:\d{{1,2}}(?:st|nd|rd|th)?\s+)?(?:{_MONTH})\s+(?P<y>(?:19|20)\d\d)",
    re.I,
)
_PERIOD = re.compile(r"(?:study\s+)?(?:period|dates?|years?|duration|recruitment)\b", re.I)
_START = re.compile(r"\b(?:start|begin|began|begun|commenc|from|first|open|launch|between|since)", re.I)
_END = re.compile(r"\b(?:end|finish|complet|until|last|clos|final|to)\b|\b(?:end|finish|complet|clos)(?:ed|ing|s)\b", re.I)


def dates(asking: Asking, item: Asked) -> list[Candidate]:
    """What may be the date that an item asks for. Where a report says a year here and its month there, each is a sign for the month and against the year."""
    found = list(_dates_of(asking, item))
    said = {str(one.value) for one in found}
    year = bool(re.search(r"\byear\b", item.name, re.I))
    return [
        one._replace(
            signs={
                **one.signs,
                "outdone": float(not year and any(other.startswith(f"{one.value}-") for other in said)),
                "confirmed": float(not year and any(str(one.value).startswith(f"{other}-") for other in said)),
            }
        )
        for one in found
    ]


def _dates_of(asking: Asking, item: Asked) -> Iterator[Candidate]:
    asked = f"{item.name} {item.instructions}"
    ends = bool(re.search(r"\b(?:end|ended|finish\w*|complet\w*|last|clos\w*|final|until|stop\w*)\b", asked, re.I))
    for k, sentence in enumerate(asking.passages.sentences):
        found = [date for date in _dates(sentence.text) if not _of_the_report(sentence.text, date[0], date[1], asked)]
        if not found:
            continue
        signs = of_sentence(asking, item, k)
        for n, (begin, end, value) in enumerate(found):
            before = sentence.text[max(0, begin - 24) : begin]
            paired = len(found) > 1
            quote = of_sentences(asking.passages, k, k, begin)
            if quote:
                yield Candidate(
                    item.id, None, value, quote,
                    {
                        **signs,
                        "near": nearness(asking, item, sentence.text, begin, end),
                        "right end": float(paired and (n > 0) == ends),
                        "wrong end": float(paired and (n > 0) != ends),
                        "said": float(bool((_END if ends else _START).search(before))),
                        "exact": value.count("-") / 2,
                        "front": float(sentence.section in ("title", "front")),
                    },
                )  # fmt: skip
    for k, cell in enumerate(asking.passages.cells):
        signs = {}
        within = list(_dates(cell.text))
        for n, (_, _, value) in enumerate(within):
            signs = signs or of_cell(asking, item, k)
            paired = len(within) > 1
            signs |= {"right end": float(paired and (n > 0) == ends), "wrong end": float(paired and (n > 0) != ends)}
            if (signs["name"] > 0.2 or _PERIOD.match(cell.label)) and (quote := of_words(asking.passages, cell.table.page, cell.words())):
                yield Candidate(item.id, None, value, quote, {**signs, "near": signs["label"], "exact": value.count("-") / 2})


_IMPRINT = re.compile(r"\s*;\s*\d+\s*(?:\(|:)|\s*,?\s*(?:vol\.?|volume)\s*\d", re.I)
_ADDRESS = re.compile(r"(?:10\.\d{4,9}/|https?:|www\.)\S*$", re.I)
_BORN = re.compile(r"\bborn\b[^.;]{0,25}$", re.I)
_RECEIVED = re.compile(r"\b(received|revised|accepted|published|available online|copyright|©)\b[^.;]{0,30}$", re.I)


def _of_the_report(text: str, begin: int, end: int, asked: str) -> bool:
    """Whether a date is one of the report itself, or of those in it: within its DOI, the year of its volume, when it was received or published, when people were born; unless that is asked."""
    said = _RECEIVED.search(text[:begin])
    address = _ADDRESS.search(text[:begin])
    if _BORN.search(text[:begin]) and not re.search(r"\b(?:born|birth)\b", asked, re.I):
        return True
    return bool(address or _IMPRINT.match(text, end)) or bool(said and said[1].lower() not in asked.lower())


def _dates(text: str) -> Iterator[tuple[int, int, str]]:
    """The dates of a text as YYYY[-MM[-DD]], with where they stand; the year of a range of months holds for both.

    >>> [value for _, _, value in _dates("from March to June 2016, and on 3 May 2017")]
    ['2016-03', '2016-06', '2017-05-03']
    """
    found = [
        (match.start(), match.end("m"), f"{match['y']}-{_month(match['m']):02d}" + (f"-{int(match['d']):02d}" if match["d"] else ""))
        for match in _RANGE.finditer(text)
    ]
    for match in _DATE.finditer(text):
        year = next(value for key in ("y1", "y2", "y3", "y4", "y5", "y6") if (value := match[key]))
        month = next((value for key in ("m1", "m2", "m3", "m4", "m5") if (value := match[key])), None)
        day = next((value for key in ("d1", "d2", "d3", "d5") if (value := match[key])), None)
        number = _month(month) if month else 0
        if not 0 <= number <= 12 or (month and not number):
            continue
        value = year + (f"-{number:02d}" if number else "") + (f"-{int(day):02d}" if day and number and 1 <= int(day) <= 31 else "")
        found.append((match.start(), match.end(), value))
    yield from sorted(found)


def _month(name: str) -> int:
    if name.isdigit():
        return int(name)
    low = name.lower().strip(".")[:3]
    return next((k for month, k in _MONTHS.items() if month.startswith(low)), 0)
