"""What the numbers of a text say together: events of a total, a mean with its SD, a median with its range, a size, an amount with its unit."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Literal, NamedTuple

from kettlesort.core.charting.proposals.numbers import Number, numbers
from kettlesort.core.charting.units import DIMENSIONS, of_unit

Sort = Literal["of", "share", "spread", "range", "size", "single"]
_OF = re.compile(r"^\s*(?:/|of(?:\s+(?:the|all|our|its|a\s+total\s+of))?|out\s+of(?:\s+the)?|from(?:\s+the)?|among(?:\s+the)?)\s*$", re.I)
_NOUN_OF = re.compile(r"^\s+(?:[a-z][a-z-]+\s+){1,2}(?:among|out\s+of|in)\s+(?:the\s+|all\s+|a\s+total\s+of\s+)?$")
_COUNTED_BEHIND = re.compile(r"\s+([a-z]{3,})\s*[)\]]")
_UNIT_OF_TIME = re.compile(
    r"[\s-]*(?:days?|weeks?|months?|years?|hours?|h|min\w*|sites?|cent(?:re|er)s?|hospitals?|groups?|arms?|countries)\b", re.I
)
_LISTED = re.compile(r"^\s*(?:,|,?\s+and|or)\s+$")
_TOTAL_FIRST = re.compile(r"(?:^|[.;,(]\s*|\band\s+)(?:of|among|out\s+of|in)\s+(?:the\s+|all\s+)?$", re.I)
_EVENTS_AFTER = re.compile(r"^\s+[A-Za-z][^.;\d]{2,90}$")
_OPEN = re.compile(r"^\s*[(\[]\s*(?:n\s*=\s*)?$", re.I)
_WORDS_OPEN = re.compile(r"^\s+[A-Za-z][^.;:()\[\]\d]{1,50}\s[(\[]\s*$")
_COMMA_PERCENT = re.compile(r"^\s*[,;]\s*$")
_SD = re.compile(
    r"^\s*(?:[a-zµ°%/²³\d]{0,8}\s*)?(?:±|\+\s?/\s?[-−–]|\+[-−–]|[(\[,;]?\s*(?:with\s+(?:an?\s+)?)?(?:±\s*)?\b(?:s\.?\s?d\.?|std\.?(?:\s*dev\.?)?|standard\s+deviation)(?:\s+(?:of|was))?\s*[=:,]?)\s*$",
    re.I,
)
_SD_LATER = re.compile(
    r"^\s+[A-Za-z][^.;:()\[\]\d]{0,40}[(\[]\s*(?:±\s*)?(?:s\.?\s?d\.?|standard\s+deviation)\s*(?:of)?\s*[=:,]?\s*$", re.I
)
_SE = re.compile(r"\b(?:s\.?e\.?m?\.?|standard\s+error)\s*(?:of\s+the\s+mean)?\s*[=:]?\s*$", re.I)
_TO = re.compile(r"^\s*(?:[-−–—]|to|and|,|;|\.\.\.?|through)\s*$", re.I)
_OPENS_RANGE = re.compile(
    r"^\s*[a-zµ°%]{0,7}\s*[(\[,;]?\s*(?:(?:with\s+an?\s+)?(?P<what>(?:full\s+)?(?:range|iqr|interquartile(?:\s+range)?|quartiles|q1[-–, ]+q3|min(?:imum)?[-–, ]+max(?:imum)?|limits|extremes))\s*(?:of|was|from|[,:=])?\s*)?[(\[]?\s*$",
    re.I,
)
_SIZE = re.compile(r"\b[nN]\s*[=:]?\s*$")
_INTERVAL = re.compile(r"\b(?:c\.?i\.?|confidence|credible)\b[^;()]{0,20}$", re.I)
_P = re.compile(r"\b[Pp]\s*(?:-?\s?values?)?\s*(?:for\s+\w+\s*)?[=<>≤≥]\s*$")
_OF_A_SCALE = re.compile(
    r"\b(?:scores?|scale|index|questionnaire|inventory|points)\s*[(,]\s*(?:range:?\s*)?(?:-?\d+\s*(?:[-–]|to)\s*)?$", re.I
)
_CITED = re.compile(r"\[\s*$")
_AFTER_CITED = re.compile(r"^\s*(?:[,–-]\s*\d+\s*)*\]")

LIMIT_BEFORE = re.compile(
    r"(?:\b(?:at least|older than|younger than|over|under|above|below|less than|more than|fewer than|up to|at most|minimum(?: of| age)?|maximum(?: of| age)?|aged? between|before|within)|[<>≤≥])\s*$",
    re.I,
)
"""What stands before a number that is a limit: more than three lessons."""


class Amount(NamedTuple):
    """Numbers that belong together, from where to where they stand.

    ``of``: events and total (``numbers[0]``, ``numbers[1]``). ``share``: events and their per cent. ``spread``: a mean and its SD. ``range``: a median, low and
    high; behind these two the n, where it stands beside them. ``size``: the n of a group. ``single``: one number. ``sure`` is 1 where the text says what they are, less where only brackets do. ``note`` tells
    what the text said: "iqr", "se", "p", "interval", "year", "cited".
    """

    sort: Sort
    begin: int
    end: int
    numbers: tuple[Number, ...]
    sure: float = 1.0
    note: str = ""


def amounts(text: str, commas: bool = False, found: list[Number] | None = None) -> list[Amount]:
    """All that the numbers of a text may say; the same number may stand in several.

    >>> [(it.sort, [n.value for n in it.numbers]) for it in amounts("12/40 (30%) died; weight 5.2 ± 1.3 kg") if it.sort != "single"]
    [('of', [12.0, 40.0]), ('spread', [5.2, 1.3])]
    """
    found = numbers(text, commas) if found is None else found
    return [*_several(text, found), *_singles(text, found)]


def _several(text: str, found: list[Number]) -> Iterator[Amount]:
    for k, a in enumerate(found[:-1]):
        b = found[k + 1]
        c = found[k + 2] if k + 2 < len(found) else None
        between = text[a.end : b.begin]
        if len(between) > 60:
            continue
        if a.whole and b.whole and _OF.match(between) and a.value <= b.value:
            yield Amount("of", a.begin, b.end, (a, b))
            yield from (Amount("of", one.begin, one.end, (one, b), 0.99) for one in _listed_before(text, found, k) if one.value <= b.value)
        if a.whole and b.whole and a.value <= b.value and _NOUN_OF.match(between) and not _UNIT_OF_TIME.match(text, b.end):
            yield Amount("of", a.begin, b.end, (a, b), 0.75)
        if a.whole and b.whole and 0 < b.value <= a.value and _TOTAL_FIRST.search(text[: a.begin]) and _EVENTS_AFTER.match(between):
            yield Amount("of", a.begin, b.end, (b, a), 0.7)
        is_total = k > 0 and found[k - 1].whole and found[k - 1].value <= a.value and bool(_OF.match(text[found[k - 1].end : a.begin]))
        if a.whole and b.percent and _OPEN.match(between) and not is_total:
            if (
                c
                and c.whole
                and re.match(r"^\s*[)\]]\s*(?:of|out of)\s+(?:the\s+|all\s+)?$", text[b.end : c.begin], re.I)
                and a.value <= c.value
            ):
                yield Amount("of", a.begin, c.end, (a, c))
            else:
                yield Amount("share", a.begin, b.end, (a, b))
        if a.whole and b.percent and _WORDS_OPEN.match(between):
            yield Amount("share", a.begin, b.end, (a, b), 0.8)
        if a.percent and b.whole and _OPEN.match(between):
            if c and c.whole and _OF.match(text[b.end : c.begin]) and b.value <= c.value:
                yield Amount("of", b.begin, c.end, (b, c))
            else:
                yield Amount("share", a.begin, b.end, (b, a))
        if a.whole and b.percent and _COMMA_PERCENT.match(between):
            yield Amount("share", a.begin, b.end, (a, b), 0.7)
        if not a.percent and not b.percent and b.value >= 0:
            if _SD.match(between) or _SD_LATER.match(between):
                yield Amount("spread", a.begin, b.end, (a, b, *_own_size(text, b, c)), 1.0)
            elif _SE.search(between):
                yield Amount("spread", a.begin, b.end, (a, b), 0.3, "se")
            elif _OPEN.match(between) and text[b.end : b.end + 1] in ")]" and not _SIZE.search(between):
                yield Amount("spread", a.begin, b.end, (a, b), 0.5)
        if c and _TO.match(text[b.end : c.begin]) and not b.percent and (opened := _OPENS_RANGE.match(between)):
            what = (opened["what"] or "").lower()
            if b.value <= a.value <= c.value or what:
                close = bool(re.match(r"\s*[)\]\[;]", text[c.end :]))
                said = bool(what) or "median" in text[max(0, a.begin - 40) : a.begin].lower()
                if (close or what) and b.value <= c.value:
                    note = "interval" if _INTERVAL.search(between) else "iqr" if re.match(r"i|q", what) else ""
                    d = found[k + 3] if k + 3 < len(found) else None
                    yield Amount("range", a.begin, c.end, (a, b, c, *_own_size(text, c, d)), 1.0 if said else 0.6, note)


def _own_size(text: str, last: Number, size: Number | None) -> tuple[Number, ...]:
    """The n that stands within the bracket of a mean or a median: 20.9 (SD 5.6, n=297), 94 (SD 8, 1200 cars)."""
    if (
        size is None
        or not size.whole
        or size.value < 2
        or not (between := re.fullmatch(r"\s*[,;]\s*(n\s*=\s*)?", text[last.end : size.begin], re.I))
    ):
        return ()
    counted = _COUNTED_BEHIND.match(text, size.end)
    return (size,) if between[1] or (counted and of_unit(counted[1])[0] not in DIMENSIONS) else ()


def _listed_before(text: str, found: list[Number], k: int) -> Iterator[Number]:
    """The numbers that are counted up before the k-th and share its total: 6 and 9 of "6, 9 and 27 of 200"."""
    for at in range(k - 1, -1, -1):
        is_total = at > 0 and _OF.match(text[found[at - 1].end : found[at].begin])
        if not found[at].whole or is_total or not _LISTED.match(text[found[at].end : found[at + 1].begin]):
            return
        yield found[at]


def _singles(text: str, found: list[Number]) -> Iterator[Amount]:
    for k, number in enumerate(found):
        before, after = text[max(0, number.begin - 40) : number.begin], text[number.end : number.end + 30]
        if _SIZE.search(before) and number.whole:
            yield Amount("size", number.begin, number.end, (number,))
            continue
        note = ""
        if _P.search(before):
            note = "p"
        elif (
            _INTERVAL.search(before)
            or (
                k
                and _TO.match(text[found[k - 1].end : number.begin])
                and _INTERVAL.search(text[max(0, found[k - 1].begin - 30) : found[k - 1].begin])
            )
            or (number.percent and re.match(r"\s*(?:c\.?i\.?|confidence|credible)", after, re.I))
        ):
            note = "interval"
        elif _CITED.search(before) and _AFTER_CITED.match(after):
            note = "cited"
        elif (
            number.whole
            and 1900 <= number.value <= 2100
            and not number.in_words
            and "," not in text[number.begin : number.end]
            and not _unit_word(after)
        ):
            note = "year"
        elif re.match(r":\d", text[number.end :]) or re.search(r"\d:$", before):
            note = "label"  # allocated 1:1
        elif _OF_A_SCALE.search(before) and re.match(r"\s*(?:(?:[-–]|to)\s*\d+\s*)?(?:points?)?[);,]", after):
            note = "scale"
        elif re.search(
            r"\b(?:table|fig(?:ure)?|section|chapter|ref|appendix|version|grant(?:\s+(?:no|number))?|no|doi)\.?\s*$", before, re.I
        ):
            note = "label"
        elif _SD.match(before[-30:][before[-30:].rfind(" ") + 1 :] or " ") or re.search(r"(?:±|\bSD\b\s*[=:]?)\s*$", before):
            note = "sd"
        yield Amount("single", number.begin, number.end, (number,), 1.0, note)


def _unit_word(after: str) -> bool:
    return bool(re.match(r"\s+[a-z]{3,}", after)) and not re.match(
        r"\s+(?:and|to|in|with|until|the|were|was|at|for|by|we|season|of)\b", after
    )
