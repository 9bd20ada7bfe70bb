"""Words of titles and abstracts."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence

from whoosh.lang.stopwords import stoplists

_ABSTRACTS = """
    aim aims also although among background conclusion conclusions could either however introduction may method
    methods might must objective objectives per purpose result results studies study thus upon use used using whether
    within without would
"""
STOP_WORDS = frozenset([*stoplists["en"], *_ABSTRACTS.split()])
"""The common words of English, and those that abstracts are full of whatever they are about."""
_WORD = re.compile(r"[^\W\d_](?:[\w-]*\w)?")


def text_of(title: str, abstract: str, keywords: Sequence[str]) -> str:
    """What a record is ranked by: title (counted twice), abstract, descriptors."""
    return f"{title} . {title} . {abstract} . {' . '.join(keywords)}"


def stem(word: str) -> str:
    """A lower-case word without its plural ending, so that "hives" and "hive" are one term."""
    if len(word) > 3 and word[-1] == "s":
        if word.endswith("ies") and len(word) > 4:
            return word[:-3] + "y"
        if word.endswith(("sses", "shes", "ches", "xes")):
            return word[:-2]
        if not word.endswith(("ss", "us", "is")):
            return word[:-1]
    return word


_CACHE: dict[str, str] = {}


def terms(text: str) -> list[str]:
    """The terms of a text in order: its words, folded and without the common ones, and pairs of neighbours."""
    words: list[str] = []
    for word in _WORD.findall(text.lower()):
        known = _CACHE.get(word)
        if known is None:
            known = "" if word in STOP_WORDS or len(word) < 2 else stem(word)
            if len(_CACHE) < 500_000:
                _CACHE[word] = known
        words.append(known)
    single = [word for word in words if word]
    return single + [f"{a} {b}" for a, b in itertools.pairwise(words) if a and b]


def places(text: str, wanted: set[str]) -> list[tuple[int, int, str]]:
    """Where the ``wanted`` terms stand in ``text``: (begin, end, term), in order, the longer term first where two overlap."""
    found = [(at.start(), at.end(), stem(at[0].lower()) if at[0].lower() not in STOP_WORDS else "") for at in _WORD.finditer(text)]
    out: list[tuple[int, int, str]] = []
    k = 0
    while k < len(found):
        begin, end, word = found[k]
        if k + 1 < len(found) and word and found[k + 1][2] and f"{word} {found[k + 1][2]}" in wanted:
            out.append((begin, found[k + 1][1], f"{word} {found[k + 1][2]}"))
            k += 2
            continue
        if word in wanted:
            out.append((begin, end, word))
        k += 1
    return out
