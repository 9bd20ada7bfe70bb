"""How far reviewers, or extractors, agree, beyond what chance would do."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from itertools import combinations
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

_Z = 1.959963984540054
"""Two standard errors, nearly: the 0.975 quantile of the normal distribution."""

Floats = NDArray[np.float64]


class Agreement(NamedTuple):
    """How far two reviewers agree over the ``n`` records that both have seen; None where a figure is not defined.

    ``agreement`` is the share of equal words; ``kappa`` is that of `kappa`, with its standard error and 95 % interval, which is not
    cut at 1; ``pabak`` and ``ac1`` are those of the functions of these names.
    """

    a: str
    b: str
    n: int
    agreement: float | None
    kappa: float | None
    kappa_se: float | None
    kappa_ci: tuple[float, float] | None
    pabak: float | None
    ac1: float | None


class Fleiss(NamedTuple):
    """Agreement of all ``raters`` at once over the ``n`` records that each has seen."""

    n: int
    raters: int
    kappa: float | None


class Compared(NamedTuple):
    """All pairs in the order of the reviewers, all at once, and the positions of records on which two differ."""

    pairs: list[Agreement]
    fleiss: Fleiss
    differ: list[int]


def compare(reviewers: Sequence[str], seen: Sequence[Sequence[str]]) -> Compared:
    """Compare reviewers.

    Parameters
    ----------
    reviewers : names, at least two
    seen : one row a record, one word for each reviewer, "" where not seen; words are the same only if they are equal
    """
    words = sorted({word for row in seen for word in row if word})
    number = {word: k for k, word in enumerate(words)}
    pairs = []
    for i, j in combinations(range(len(reviewers)), 2):
        table = np.zeros((len(words), len(words)))
        for row in seen:
            if row[i] and row[j]:
                table[number[row[i]], number[row[j]]] += 1
        pairs.append(_pair(reviewers[i], reviewers[j], table))
    whole = [row for row in seen if all(row)]
    counts = np.array([[Counter(row)[word] for word in words] for row in whole], dtype=float).reshape(len(whole), len(words))
    differ = [k for k, row in enumerate(seen) if len({word for word in row if word}) > 1]
    return Compared(pairs, Fleiss(len(whole), len(reviewers), fleiss_kappa(counts)), differ)


def _pair(a: str, b: str, table: Floats) -> Agreement:
    n = int(table.sum())
    if not n:
        return Agreement(a, b, 0, None, None, None, None, None, None)
    found, error = kappa(table)
    interval = None if found is None or error is None else (found - _Z * error, found + _Z * error)
    return Agreement(a, b, n, float(np.trace(table)) / n, found, error, interval, pabak(table), ac1(table))


def kappa(table: Floats) -> tuple[float | None, float | None]:
    """Cohen's kappa of a table of counts (c, c), and its standard error, not that under the null hypothesis.

    Cohen J. Educ Psychol Meas 1960;20:37-46; Fleiss JL, Cohen J, Everitt BS. Psychol Bull 1969;72:323-327, equation 13. None, None where both
    always said one word.
    """
    n = float(table.sum())
    share = table / n
    rows, columns = share.sum(axis=1), share.sum(axis=0)
    chance = float(rows @ columns)
    if 1 - chance < 1e-12:
        return None, None
    observed = float(np.trace(share))
    found = (observed - chance) / (1 - chance)
    same = float((np.diag(share) * (1 - (rows + columns) * (1 - found)) ** 2).sum())
    crossed = (columns[:, None] + rows[None, :]) ** 2 * share
    other = (1 - found) ** 2 * float(crossed.sum() - np.trace(crossed))
    variance = (same + other - (found - chance * (1 - found)) ** 2) / (n * (1 - chance) ** 2)
    return found, max(0.0, variance) ** 0.5


def pabak(table: Floats) -> float | None:
    """Prevalence- and bias-adjusted kappa, (cA - 1) / (c - 1) for c words (Byrt T, Bishop J, Carlin JB. J Clin Epidemiol 1993;46:423-429). None for one word."""
    c = len(table)
    return (c * float(np.trace(table) / table.sum()) - 1) / (c - 1) if c > 1 else None


def ac1(table: Floats) -> float | None:
    """Gwet's AC1 (Gwet KL. Br J Math Stat Psychol 2008;61:29-48). None for one word."""
    c = len(table)
    if c < 2:
        return None
    share = table / table.sum()
    mean = (share.sum(axis=1) + share.sum(axis=0)) / 2
    chance = float((mean * (1 - mean)).sum()) / (c - 1)
    return (float(np.trace(share)) - chance) / (1 - chance)


def fleiss_kappa(counts: Floats) -> float | None:
    """Fleiss' kappa (Fleiss JL. Psychol Bull 1971;76:378-382) of how often each word (c) was given to each record (n): counts (n, c), rows of one sum.

    None without a record, for less than two raters, and where all always said one word.
    """
    n = len(counts)
    raters = float(counts[0].sum()) if n else 0.0
    if raters < 2:
        return None
    share = counts.sum(axis=0) / (n * raters)
    chance = float((share**2).sum())
    if 1 - chance < 1e-12:
        return None
    observed = float(((counts**2).sum(axis=1) - raters).mean() / (raters * (raters - 1)))
    return (observed - chance) / (1 - chance)
