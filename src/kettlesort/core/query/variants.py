"""Other forms of a term: singular and plural, spellings, one word or two, and the stem with a star."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np
import snowballstemmer

from kettlesort.core.query.index import Index
from kettlesort.core.query.nodes import Node, Text
from kettlesort.core.query.parts import Parts
from kettlesort.core.query.trial import find
from kettlesort.core.query.words import words_of

_SPELLINGS = (
    (r"isation(s?)$", r"ization\1"), (r"ization(s?)$", r"isation\1"), (r"is(e[ds]?|ing)$", r"iz\1"), (r"iz(e[ds]?|ing)$", r"is\1"), (r"ys(e[ds]?|ing)$", r"yz\1"), (r"yz(e[ds]?|ing)$", r"ys\1"),
    (r"([bdilmnptv])our", r"\1or"), (r"([bdilmnptv])or(?=s?$|al|ed|ing|ite)", r"\1our"), (r"([nt])re(s?)$", r"\1er\2"), (r"([nt])er(s?)$", r"\1re\2"), (r"ae", "e"), (r"oe(?=[cdmst])", "e"),
    (r"^(an|h|l|p)e(m|d|g)", r"\1ae\2"), (r"^e(d|s)(?=[a-z]{3})", r"oe\1"), (r"ph(?=[ou]r$|ate|ide|ur)", "f"), (r"sulf", "sulph"), (r"ogue(s?)$", r"og\1"), (r"og(s?)$", r"ogue\1"),
    (r"ence(s?)$", r"ense\1"), (r"ense(s?)$", r"ence\1"), (r"([aeiou])ll(ed|ing|er)$", r"\1l\2"), (r"([aeiou])l(ed|ing|er)$", r"\1ll\2"), (r"grey", "gray"), (r"gray", "grey"), (r"ageing", "aging"),
    (r"^aging", "ageing"), (r"mme(s?)$", r"m\1"), (r"gram(s?)$", r"gramme\1"), (r"plough", "plow"), (r"plow", "plough"), (r"mould", "mold"), (r"mold", "mould"), (r"fibre", "fiber"), (r"fiber", "fibre"),
)  # fmt: skip
_IRREGULAR = {
    "mouse": "mice", "child": "children", "man": "men", "woman": "women", "foot": "feet", "tooth": "teeth", "goose": "geese", "person": "people", "ox": "oxen", "louse": "lice", "datum": "data",
    "criterion": "criteria", "phenomenon": "phenomena", "medium": "media", "bacterium": "bacteria", "larva": "larvae", "pupa": "pupae", "alga": "algae", "fungus": "fungi", "stimulus": "stimuli",
    "nucleus": "nuclei", "focus": "foci", "index": "indices", "matrix": "matrices", "appendix": "appendices", "leaf": "leaves", "life": "lives", "half": "halves", "wolf": "wolves", "loaf": "loaves",
}  # fmt: skip
_SINGULAR = {plural: one for one, plural in _IRREGULAR.items()}
_stemmer = snowballstemmer.stemmer("english")


class Variant(NamedTuple):
    """Another form of a term: its words, why it is offered, and how many records have it."""

    words: tuple[str, ...]
    why: str
    records: int


def variants(words: tuple[str, ...], index: Index | Parts, most: int = 12) -> list[Variant]:
    """Other forms of a word or phrase that stand in the records, those in the most records first."""
    count = _counter(index)
    said = tuple(words_of(" ".join(words)))
    if not said or any("*" in word or "?" in word for word in words):
        return []
    offered: dict[tuple[str, ...], str] = {}
    for k, word in enumerate(said):
        for form, why in _forms(word):
            offered.setdefault((*said[:k], form, *said[k + 1 :]), why)
    if len(said) == 1:
        for cut in range(3, len(said[0]) - 2):
            offered.setdefault((said[0][:cut], said[0][cut:]), "as two words")
        stem = _stemmer.stemWord(said[0])
        if len(stem) >= 4 and said[0].startswith(stem):
            offered.setdefault((stem + "*",), "all forms of the stem")
    elif len(said) == 2:
        offered.setdefault(("".join(said),), "as one word")
    offered.pop(said, None)
    own = count(said)
    found = [Variant(form, why, count(form)) for form, why in offered.items()]
    return sorted(
        (variant for variant in found if variant.records and not (variant.why == "all forms of the stem" and variant.records == own)),
        key=lambda one: (-one.records, one.words),
    )[:most]


def _counter(index: Index | Parts) -> Callable[[tuple[str, ...]], int]:
    def count(words: tuple[str, ...]) -> int:
        node: Node = Text(words)
        return int(np.count_nonzero(find(node, index)))

    return count


def _forms(word: str) -> Iterator[tuple[str, str]]:
    """Forms of one word, each with why."""
    if len(word) < 3 or not word.isalpha():
        return
    for form in _numbers(word):
        yield form, "singular or plural"
    for pattern, other in _SPELLINGS:
        form = re.sub(pattern, other, word)
        if form != word:
            yield form, "other spelling"


def _numbers(word: str) -> Iterator[str]:
    if word in _IRREGULAR:
        yield _IRREGULAR[word]
    if word in _SINGULAR:
        yield _SINGULAR[word]
        return
    if word.endswith("ies") and len(word) > 4:
        yield word[:-3] + "y"
    elif word.endswith(("sses", "xes", "ches", "shes", "zes")):
        yield word[:-2]
    elif word.endswith("s") and not word.endswith(("ss", "us", "is")):
        yield word[:-1]
    elif word.endswith("sis"):
        yield word[:-2] + "es"
    elif word.endswith("y") and word[-2] not in "aeiou":
        yield word[:-1] + "ies"
    elif word.endswith(("s", "x", "ch", "sh", "z")):
        yield word + "es"
    else:
        yield word + "s"
    if word.endswith("ses"):
        yield word[:-2] + "is"
