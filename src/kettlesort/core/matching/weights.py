"""What each level of agreement is worth: starting values, and what a review's own copies teach.

The estimate is by expectation-maximisation (Winkler WE. Using the EM algorithm for weight computation in the
Fellegi-Sunter model of record linkage. Proc Sect Surv Res Methods, Am Stat Assoc 1988:667-671) on the patterns
of levels among the compared pairs. The starting values count as so many pairs seen before, so a small review
hardly moves them, and no weight moves by more than `MOST_MOVED`.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

import numpy as np

from kettlesort.core.matching.columns import Array
from kettlesort.core.matching.fields import FIELDS, NAMES

MOST_MOVED = 2.0
"""An estimated weight lies within this of its starting value."""
_SAME_BEFORE, _OTHER_BEFORE = 200.0, 600.0
"""So many copies, and so many different reports, the starting values count for."""
_LEVELS = 16
EVEN, SLOPE = 5.3, 1.0
"""At the weight at which the log odds of the sum, with those of ``share``, are ``EVEN`` a pair is as likely a copy as not: fields
are less independent than a sum supposes, and pairs are compared because they are alike. The log odds rise by ``SLOPE`` with each
unit. As found on noisy exports of invented records (`bench/noisy`, seeds 1 to 16); a team's answers move both (`calibrated`)."""


_OF_STUDY = [NAMES.index(name) for name in ("title", "authors", "abstract")]


def _even(share: float) -> float:
    return EVEN - float(np.clip(np.log(share / (1.0 - share)), -3.0, -0.8))


class Weights(NamedTuple):
    """``table`` has the weight of each level (fields × 16, level 0 is 0); ``share`` is that of copies among compared pairs.

    ``pairs`` and ``copies`` say how many pairs were compared for the estimate, and about how many of them were copies;
    0 for starting values. ``even`` and ``slope`` turn a weight into a chance.
    """

    table: Array
    share: float
    pairs: int
    copies: float
    even: float
    slope: float = SLOPE

    def of(self, levels: Array) -> Array:
        """The total weights of pairs, from their levels (m × fields): m numbers."""
        out = np.zeros(len(levels), np.float64)
        for k in range(len(FIELDS)):
            out += self.table[k][levels[:, k]]
        return out

    def of_study(self, levels: Array) -> Array:
        """The weights of title, authors and abstract alone: whether two reports may be of one study, wherever they were published."""
        return np.asarray(sum((self.table[k][levels[:, k]] for k in _OF_STUDY), np.zeros(len(levels))))

    def chance(self, weight: Array) -> Array:
        """The probability, 0 to 1, that pairs of these weights are copies."""
        return np.asarray(1.0 / (1.0 + np.exp(-np.clip(self.slope * (np.asarray(weight) - self.even), -50, 50))))

    def at(self, chance: float) -> float:
        """The weight at which a pair has this chance, between 0 and 1, of being one report."""
        return self.even + float(np.log(chance / (1.0 - chance))) / self.slope

    def calibrated(self, weight: Array, same: Array) -> Weights:
        """With ``even`` and ``slope`` as answers of people have them: weights of pairs, and whether each was the same report.

        Logistic regression by Newton's steps, towards the present values as if they had standard errors of 1 and 0.25.
        """
        x, y = np.asarray(weight, np.float64), np.asarray(same, np.float64)
        begin = np.array([-self.slope * self.even, self.slope])
        # the errors of even and slope as those of the intercept and the slope
        spread = np.array([[-self.slope, -self.even], [0.0, 1.0]])
        certain = np.linalg.inv(spread @ np.diag([1.0, 0.25**2]) @ spread.T)
        beta = begin.copy()
        design = np.stack((np.ones(len(x)), x), axis=1)
        for _ in range(30):
            chance = 1.0 / (1.0 + np.exp(-np.clip(design @ beta, -50, 50)))
            slope = design.T @ (y - chance) - certain @ (beta - begin)
            bend = design.T @ (design * (chance * (1 - chance))[:, None]) + certain
            step = np.linalg.solve(bend, slope)
            beta = beta + step
            if float(np.abs(step).max()) < 1e-8:
                break
        rise = float(np.clip(beta[1], 0.2, 3.0))
        return self._replace(even=float(np.clip(-beta[0] / rise, 0.0, 25.0)), slope=rise)

    def plain(self) -> dict[str, Any]:
        """As plain values, to be kept."""
        return {
            "table": [[round(float(w), 4) for w in row] for row in self.table],
            "share": self.share,
            "pairs": self.pairs,
            "copies": self.copies,
            "even": self.even,
            "slope": self.slope,
        }


def weights_from(kept: Mapping[str, Any]) -> Weights:
    """The weights that `Weights.plain` wrote; the starting ones where they are of other fields than today's."""
    table = np.array(kept.get("table", []), dtype=np.float64)
    if table.shape != (len(FIELDS), _LEVELS):
        return starting()
    return Weights(table, float(kept["share"]), int(kept["pairs"]), float(kept["copies"]), float(kept["even"]), float(kept["slope"]))


def _before() -> tuple[Array, Array, Array]:
    """The starting m and u (fields × 16) and the number of the block of each level, 0 where there is none."""
    m, u, block = np.ones((len(FIELDS), _LEVELS)), np.ones((len(FIELDS), _LEVELS)), np.zeros((len(FIELDS), _LEVELS), np.int8)
    for k, field in enumerate(FIELDS):
        at = 1
        for number, levels in enumerate(field.blocks, 1):
            for level in levels:
                m[k, at], u[k, at], block[k, at] = level.m, level.u, number
                at += 1
    return m, u, block


_M, _U, _BLOCK = _before()


def starting() -> Weights:
    """The weights to begin with."""
    return Weights(np.log(_M / _U), 0.2, 0, 0.0, _even(0.2))


def patterns_of(levels: Array) -> Array:
    """Each row of levels as one number, so that equal rows can be counted."""
    out = np.zeros(len(levels), np.int64)
    for k in range(levels.shape[1]):
        out = out * _LEVELS + levels[:, k]
    return out


def rows_of(patterns: Array) -> Array:
    """The levels of patterns, undoing `patterns_of`."""
    out = np.zeros((len(patterns), len(FIELDS)), np.int8)
    rest = patterns.copy()
    for k in range(len(FIELDS) - 1, -1, -1):
        out[:, k] = rest % _LEVELS
        rest //= _LEVELS
    return out


def estimate(levels: Array, rounds: int = 100) -> Weights:
    """Estimate the weights from the levels of compared pairs (m × fields).

    Leave out pairs that only look the same; they would teach that copies differ.
    """
    if not len(levels):
        return starting()
    patterns, counts = np.unique(patterns_of(levels), return_counts=True)
    rows, n = rows_of(patterns), counts.astype(np.float64)
    begin = starting()
    share = begin.share
    table = begin.table
    total = float(n.sum())
    for _ in range(rounds):
        weight = np.zeros(len(rows))
        for k in range(len(FIELDS)):
            weight += table[k][rows[:, k]]
        odds = np.clip(weight + np.log(share / (1 - share)), -50, 50)
        same = n / (1.0 + np.exp(-odds))
        moved = _moved(rows, same, n - same)
        new_share = float((same.sum() + 20.0) / (total + 100.0))
        settled = abs(new_share - share) < 1e-6 and float(np.abs(moved - table).max()) < 1e-4
        share, table = new_share, moved
        if settled:
            break
    return Weights(table, share, int(total), float(same.sum()), _even(share))


def _moved(rows: Array, same: Array, other: Array) -> Array:
    out = np.log(_M / _U)
    for k, field in enumerate(FIELDS):
        if not field.estimated:
            continue
        m = np.bincount(rows[:, k], weights=same, minlength=_LEVELS)
        u = np.bincount(rows[:, k], weights=other, minlength=_LEVELS)
        for number in range(1, len(field.blocks) + 1):
            at = _BLOCK[k] == number
            new_m = (m[at] + _SAME_BEFORE * _M[k][at]) / (m[at].sum() + _SAME_BEFORE)
            new_u = (u[at] + _OTHER_BEFORE * _U[k][at]) / (u[at].sum() + _OTHER_BEFORE)
            was = np.log(_M[k][at] / _U[k][at])
            out[k][at] = np.clip(np.log(new_m / new_u), was - MOST_MOVED, was + MOST_MOVED)
    return out


assert len(NAMES) * 4 < 63, "a pattern has to fit into 63 bits"
