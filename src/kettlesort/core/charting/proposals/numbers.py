"""The numbers of a text: in figures of any manner and in words, and what stands after each."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import NamedTuple

_SMALL = {
    word: k
    for k, word in enumerate(
        [
            "zero",
            "one",
            "two",
            "three",
            "four",
            "five",
            "six",
            "seven",
            "eight",
            "nine",
            "ten",
            "eleven",
            "twelve",
            "thirteen",
            "fourteen",
            "fifteen",
            "sixteen",
            "seventeen",
            "eighteen",
            "nineteen",
        ]
    )
}
_TENS = {word: 10 * k for k, word in enumerate(["twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety"], 2)}
_GREAT = {"hundred": 100, "thousand": 1000}
_WORD = "|".join(sorted([*_SMALL, *_TENS, *_GREAT, "none", "neither", "nobody", "no one", "no"], key=len, reverse=True))
_OF_NONE = re.compile(r"\s+(?:of|died|had|were|was|in|did|dropped|on|receiving|among|with)\b")
_NONE_OF = re.compile(
    r"\s+(?!(?:\w+\s+){0,2}?(?:differences?|significan\w+|evidence|(?<!side\s)(?<!adverse\s)effects?|changes?|associations?|interactions?|relations?\w*|benefits?|reasons?|guidelines|results|studies|trials|conflicts?|interests|limits?|restrictions?|correlations?)\b)(?:[a-z-]+\s+){0,2}?(?:[a-z]{3,}[^s\W]s|death|patient|participant|person|child|woman|man|case|event|animal|relapse|recurrence|infection|dropout|loss|people|women|men|children|mortality)\b",
    re.I,
)
_IN_WORDS = re.compile(
    rf"\b(?:(?:a|one)\s+(?=hundred|thousand))?(?:{_WORD})(?:(?:[\s-]+and[\s-]+|[\s-]+)(?:{'|'.join(sorted([*_SMALL, *_TENS, *_GREAT], key=len, reverse=True))}))*\b",
    re.I,
)
_SIGNED = r"(?<![\w.,·])(?P<sign>[-−–](?=\d))?(?P<body>\d{{1,3}}(?:[{}]\d{{3}})+(?![\d])(?:[.,·]\d+)?|\d+(?:[.,·]\d+)?|[.·]\d+)(?!\d)"
_FIGURES, _FIGURES_SPACED = (re.compile(_SIGNED.format(signs)) for signs in ("\u00a0\u202f\u2009',.", "\u00a0\u202f\u2009',. "))
_GREATEST = 1e12
"""Longer rows of figures are codes, not numbers."""
_PERCENT = re.compile(r"\s?(?:%|per\s?cent\b|percent\b|٪|pct\b)")


class Number(NamedTuple):
    """A number of a text: where it stands, its value, how many decimals it is given with, and whether it is a share in per cent (its sign is within ``end``)."""

    begin: int
    end: int
    value: float
    decimals: int
    percent: bool = False
    in_words: bool = False

    @property
    def whole(self) -> bool:
        """Whether it can be a count."""
        return self.decimals == 0 and not self.percent and self.value >= 0


def has_decimal_commas(texts: Sequence[str]) -> bool:
    """Whether a report writes 5,2 for five and two tenths: more often than 5.2.

    >>> has_decimal_commas(["The mean was 5,2 kg (SD 1,3)."])
    True
    """
    commas = points = 0
    for text in texts:
        commas += len(re.findall(r"(?<![\w.,])\d{1,3},\d{1,2}(?![\d,])(?=\s*(?:±|\(|\)|[a-z%;.]|$))", text))
        points += len(re.findall(r"(?<![\w.,])\d+[.·]\d{1,2}(?![\d.])", text))
    return commas > 2 * points and commas > 0


def numbers(text: str, commas: bool = False, spaces: bool = False) -> list[Number]:
    """The numbers of a text in order. ``commas``: a comma parts decimals. ``spaces``: a blank may part thousands, as it may not between cells.

    >>> [(it.value, it.percent) for it in numbers("Twenty-two of 1,240 hives (1.8%) died, 3·5 kg lighter.")]
    [(22.0, False), (1240.0, False), (1.8, True), (3.5, False)]
    """
    found = sorted([*_figures(text, commas, spaces), *_in_words(text)])
    out: list[Number] = []
    for one in found:
        if not out or one.begin >= out[-1].end:
            sign = _PERCENT.match(text, one.end)
            out.append(one._replace(end=sign.end(), percent=True) if sign else one)
    return out


def _figures(text: str, commas: bool, spaces: bool) -> Iterator[Number]:
    for match in (_FIGURES_SPACED if spaces else _FIGURES).finditer(text):
        before = text[match.start() - 1 : match.start()]
        if before and (before.isalpha() or before == "_") and not match["sign"]:
            continue
        begin, sign = match.start(), match["sign"]
        if before == "-" and len(match["body"]) < 3 and text[match.start() - 2 : match.start() - 1].isalpha():
            continue  # menaquinone-7
        if sign and before and (before.isalnum() or before in ")%]"):
            begin, sign = begin + 1, None  # a range, 3–5
        body = match["body"].replace("·", ".")
        value, decimals = _value(body, commas)
        if value is not None and value < _GREATEST:
            yield Number(begin, match.end(), -value if sign else value, decimals)


def _value(body: str, commas: bool) -> tuple[float | None, int]:
    mark = "," if commas else "."
    grouped = re.fullmatch(r"\d{1,3}(?:([ \u2009\u00a0\u202f'.,])\d{3})(?:\1\d{3})*(?:[.,]\d+)?", body)
    if grouped and grouped[1] != mark and not body.startswith("0"):
        digits = body.replace(grouped[1], "")
        whole, _, rest = digits.replace(",", ".").partition(".")
        return float(f"{whole}.{rest or 0}"), len(rest)
    plain = re.sub(r"[ \u2009\u00a0\u202f']", "", body)
    if plain.count(".") + plain.count(",") > 1:
        return None, 0
    whole, _, rest = plain.replace(",", ".").partition(".")
    return float(f"{whole or 0}.{rest or 0}"), len(rest)


def _in_words(text: str) -> Iterator[Number]:
    for match in _ONE_OF_TIME.finditer(text):
        yield Number(match.start("one"), match.end("one"), 1.0, 0, in_words=True)
    for match in _IN_WORDS.finditer(text):
        for begin, end, words in _one_by_one(match):
            if words[0] in ("no", "neither", "none", "nobody"):
                if (_NONE_OF if words[0] == "no" else _OF_NONE).match(text[end:]):
                    yield Number(begin, end, 0.0, 0, in_words=True)
            elif (
                words != ["one"]
                or _ONE.match(text[end:])
                or (_BY_ONE.search(text[:begin]) and re.match(r"\s+[a-z]", text[end:]))
                or (_ENDS_A_LIST.search(text[:begin]) and re.match(r"\s*[,;.)]", text[end:]))
            ):
                yield Number(begin, end, _value_of(words), 0, in_words=True)


def _one_by_one(match: re.Match[str]) -> Iterator[tuple[int, int, list[str]]]:
    """The numbers in words that follow each other: fifteen and sixteen are two, twenty-two and a hundred and five are one each."""
    begin, end, words = match.start(), match.start(), list[str]()
    for word in re.finditer(r"[a-z]+", match[0].lower()):
        if word[0] in ("and", "a"):
            continue
        at = match.start() + word.start()
        last = words[-1] if words else ""
        together = (
            not words
            or word[0] in _GREAT
            or last in _GREAT
            or (last in _TENS and 0 < _SMALL.get(word[0], 0) < 10 and " and " not in match.string[end:at])
        )
        if not together:
            yield begin, end, words
            begin, words = at, []
        words = [*words, word[0]]
        end = match.start() + word.end()
    yield begin, end, words


def _value_of(words: Sequence[str]) -> float:
    total = part = 0
    for word in words:
        if word in _SMALL:
            part += _SMALL[word]
        elif word in _TENS:
            part += _TENS[word]
        elif word == "hundred":
            part = max(1, part) * 100
        elif word == "thousand":
            total, part = total + max(1, part) * 1000, 0
    return float(total + part)


_ONE = re.compile(
    rf"(?:,?\s+and|,)\s+(?:\d|(?:{_WORD})\b)|[\s-]+(?:of|\(|with|on|in\s+the|receiving|given|after|among|under|(?:day|week|month|year|hour|minute)\b|[a-z-]+\s+(?:against|versus|vs?\.?|compared)\b|(?:[a-z-]+\s+){{1,3}}?(?:died|had|was|in|occurred|happened|developed|withdrew|needed|required|refused|dropped)\b)",
    re.I,
)
"""What stands behind a one that counts."""
_BY_ONE = re.compile(r"\b(?:by|at)\s+$", re.I)
_ENDS_A_LIST = re.compile(rf"\b(?:\d+|{_WORD}),?\s+and\s+$", re.I)
_ONE_OF_TIME = re.compile(
    r"\b(?:after|for|within|over|lasted|during|of|one|by)\s+(?P<one>an?)\s+(?=(?:single\s+)?(?:day|week|month|year|hour|minute)\b)", re.I
)


def plain(value: float, decimals: int = 0) -> int | float:
    """A number as JSON says it best: whole without a point."""
    return int(value) if decimals == 0 and value == int(value) else value
