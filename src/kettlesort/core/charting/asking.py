"""A question over reports: the passages that speak most to it, each as it stands in its report. Nothing is written anew."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from math import log
from typing import NamedTuple

import numpy as np

from kettlesort.core.charting.proposals.speaks import kin, stems_of
from kettlesort.core.fulltext.article import Article, quote
from kettlesort.core.text.meaning import meanings

_UNREAD = ("front", "title", "references", "statements")
_KIN = 0.6
"""What a word counts that only means nearly what was asked."""
_AROUND = 0.35
"""What a word counts that stands in the sentence before, or in the section's heading."""
_LEAST = 0.18
"""Passages that speak less are none."""
_ROOT = 5
"""So many letters two stems share at least to be of one root."""
_SHORT, _LONG = 25, 1500
_HOW_MANY = re.compile(
    r"\b(?:how (?:many|much|long|old|often|large|big|high|far|thick|heavy)|numbers? of|what (?:share|proportion|percentage|per cent|rate|number))\b",
    re.I,
)
_FIGURE = re.compile(r"(?<![\w.])\d")
_WITH_FIGURE, _WITHOUT = 1.15, 0.75
"""Whoever asks how many is answered by passages with figures first."""


class Passage(NamedTuple):
    """A sentence or a row of a table as it stands on a page (from 1; None in an abstract), and the heading of its section."""

    text: str
    page: int | None
    heading: str


class Spoken(NamedTuple):
    """Which passage speaks to the question, and how much, between 0 and 1."""

    passage: int
    score: float


def passages(article: Article) -> list[Passage]:
    """What a report can be asked for: its sentences but for titles, references and statements, and the rows of its tables."""
    found = [
        Passage(sentence.text, sentence.pages[0] if sentence.pages else None, sentence.heading)
        for sentence in article.sentences
        if sentence.section not in _UNREAD and _SHORT <= len(sentence.text) <= _LONG
    ]
    for table in article.tables:
        for line in table.lines:
            words = [word for cell in line.cells for word in cell.words]
            if len(line.cells) > 1 and words:
                found.append(Passage(quote(article, table.page, words), table.page, table.caption[:200]))
    return found


def _of_one_root(one: str, other: str) -> bool:
    """Whether one stem begins with the other, as assessor with assess."""
    return one != other and min(len(one), len(other)) >= _ROOT and (one.startswith(other) or other.startswith(one))


def ask(question: str, asked: Sequence[Passage], most: int = 60) -> list[Spoken]:
    """The passages that speak to a question, the ones that do most first; those that hardly do are left out.

    Half by words: the share of the question's stems that a passage says, each weighing as much as it is rare, ln((1 + n) / (1 + df)) (Spärck Jones K. J Doc
    1972;28:11-21), one of the same root or of nearly the same meaning for less, as is one that stands in the sentence before or the heading. Half by sense: the cosine of the
    means of fixed vectors of word pieces. A question without a word of its own finds nothing.
    """
    wanted = list(dict.fromkeys(stems_of(question)))
    if not wanted or not asked:
        return []
    stems = [set(stems_of(passage.text)) for passage in asked]
    headings = [set(stems_of(passage.heading)) for passage in asked]
    often = Counter(stem for one in stems for stem in one)
    weight = np.array([log((1 + len(asked)) / (1 + often[stem])) + 0.01 for stem in wanted])
    near = [kin(stem) for stem in wanted]
    derived = [{other for other in often if _of_one_root(stem, other)} for stem in wanted]
    related = [set().union(*(kin(stem) for stem in one)) if one else set() for one in stems]
    said = np.zeros((len(asked), len(wanted)))
    for k, one in enumerate(stems):
        around = headings[k] | (stems[k - 1] if k and asked[k - 1].page == asked[k].page else set())
        said[k] = [
            1.0 if stem in one else _KIN if near[n] & related[k] or derived[n] & one else _AROUND if stem in around else 0.0
            for n, stem in enumerate(wanted)
        ]
    words = said @ weight / weight.sum()
    vectors = meanings([question, *(passage.text for passage in asked)])
    sense = np.maximum(vectors[1:] @ vectors[0], 0)
    score = (words + sense) / 2
    if _HOW_MANY.search(question):
        score *= np.array([_WITH_FIGURE if _FIGURE.search(passage.text) else _WITHOUT for passage in asked])
    best = [k for k in np.argsort(-score, kind="stable").tolist() if score[k] >= _LEAST and words[k] > 0]
    return [Spoken(k, round(min(1.0, float(score[k])), 4)) for k in best[:most]]
