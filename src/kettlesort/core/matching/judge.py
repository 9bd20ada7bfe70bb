"""What is done with each compared pair: joined, asked about or left apart, and by what."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from kettlesort.core.matching.columns import Array, Columns
from kettlesort.core.matching.compare import Compared
from kettlesort.core.matching.lookalikes import ALIKE, RELATED, lookalikes
from kettlesort.core.matching.rule import Rule, failures
from kettlesort.core.matching.weights import Weights

APART, ASK, JOIN = 0, 1, 2
JOIN_CHANCE, ASK_CHANCE = 0.9, 0.1
"""Unless a team says otherwise, pairs are joined that are copies with at least the first chance, and asked with at least the second."""
_SELDOM = 0.05
"""A source of which fewer records say a volume or a page says no places."""
RELATED_FROM = 6.0
"""Look-alikes that may be of one study are asked from this weight of title, authors and abstract, wherever they were published."""


class Pair(NamedTuple):
    """Two positions (left < right), the weight of the evidence, and ``same``, ``unsure`` or ``apart``.

    ``how`` is the name of the pass that decided, or "" for the weights; ``kind`` that of the look-alikes it belongs to.
    """

    left: int
    right: int
    score: float
    verdict: str
    how: str = ""
    kind: str = ""


class Judged(NamedTuple):
    """Pairs (``left`` < ``right``) with the ``weight`` of their evidence, the ``kind`` of look-alikes (0 for none), the ``verdict``, and
    ``by`` which pass of the rule it came, -1 for the weights. All of m.
    """

    left: Array
    right: Array
    weight: Array
    kind: Array
    verdict: Array
    by: Array
    compared: Compared

    def pairs(self, which: Array, rule: Rule) -> list[Pair]:
        """Some pairs, given by their numbers, with words for what they were found to be."""
        passes, kinds, verdicts = (
            [*(pass_.name for pass_ in rule.passes), ""],
            ["", *(alike.name for alike in ALIKE)],
            ("apart", "unsure", "same"),
        )
        left, right, weight, kind, verdict, by = (
            values[which].tolist() for values in (self.left, self.right, self.weight, self.kind, self.verdict, self.by)
        )
        return [
            Pair(i, j, w, verdicts[v], passes[b], kinds[k]) for i, j, w, k, v, b in zip(left, right, weight, kind, verdict, by, strict=True)
        ]


def thresholds(rule: Rule, weights: Weights) -> tuple[float, float]:
    """From which weight pairs are joined, and from which asked."""
    join = weights.at(JOIN_CHANCE) if rule.join_from is None else rule.join_from
    ask = min(join, weights.at(ASK_CHANCE)) if rule.ask_from is None else rule.ask_from
    return max(join, ask), ask


def _lone(columns: Columns, compared: Compared) -> Array:
    """Pairs of a title that comes again and again, in two sources that say no places: by one person, in one venue and year, and once in each."""
    i, j = compared.left, compared.right
    same = (
        compared.is_at("title", "same untitled", "same common", "same")
        & compared.is_at("authors", "all", "one")
        & (compared.level("year") == 1)
    )
    bare = (compared.level("place") == 0) & (compared.level("doi") == 0) & compared.is_at("journal", "same", "renamed")
    placed = np.bincount(columns.source, weights=(columns.volume > 0) | (columns.page > 0), minlength=1)
    without = placed < _SELDOM * np.bincount(columns.source, minlength=1)
    without[0] = False
    apart = (columns.source[i] != columns.source[j]) & without[columns.source[i]] & without[columns.source[j]]
    return np.asarray(same & bare & apart & columns.recurs[i] & ~columns.crowded[i] & ~columns.crowded[j])


def judge(columns: Columns, compared: Compared, rule: Rule, weights: Weights, sources: Array | None = None) -> Judged:
    """Judge compared pairs. ``sources`` has the source of each record."""
    weight = weights.of(compared.levels)
    verdict = np.zeros(len(compared), np.int8)
    kind = lookalikes(columns, compared)
    if rule.weights:
        join, ask = thresholds(rule, weights)
        verdict[weight >= ask] = ASK
        verdict[weight >= join] = JOIN
        # what only names a kind of piece is joined by its place or its DOI, or asked
        nameless = compared.is_at("title", "same untitled") & ~compared.is_at("place", "both", "only page") & ~compared.is_at("doi", "same")
        verdict[nameless & (verdict == JOIN)] = ASK
        of_study = weights.of_study(compared.levels)
        for number in np.unique(kind[kind > 0]).tolist():
            then = rule.then(number)
            if then == "weigh":
                continue
            here = kind == number
            asked = (of_study >= RELATED_FROM) | (weight >= ask) if RELATED[number] else weight >= ask
            verdict[here] = np.where(asked & (then == "ask"), ASK, APART)[here]
        verdict[_lone(columns, compared)] = JOIN
    by = np.full(len(compared), -1, np.int16)
    for number, one in enumerate(rule.passes):
        holds = (by < 0) & (failures(columns, compared, one, sources) == 0)
        by[holds] = number
        verdict[holds] = {"join": JOIN, "ask": ASK, "apart": APART}[one.then]
    return Judged(compared.left, compared.right, weight, kind, verdict, by, compared)
