"""Ordering records by closeness to the seeds, learning from decisions. `docs/ranking.md` says how, with sources and figures."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.ranking import logistic
from kettlesort.core.ranking.texts import RankedText, Texts, build

__all__ = ["RankedText", "Ranker", "Ranking", "Texts", "build"]

Floats = NDArray[np.float64]

_STAND_INS = 100
"""So many undecided records stand for those that do not belong, beside what people excluded."""
_STRENGTH = 1.0
_BAYES = 0.25
_NEAR = 5.0
_SMOOTHINGS = 2
_LESSER = 0.3
"""An exclusion for what only the full text told counts so much."""
_LEARNT_FROM = 4000
"""Of more exclusions than that, a fixed sample is learnt from."""


class Direction(NamedTuple):
    """What a record's own text adds to its score: its `Texts.said`, ``meaning`` and ``title_meaning`` times these, plus ``constant``."""

    said: Floats
    meaning: Floats
    title_meaning: Floats
    constant: float


class Ranking(NamedTuple):
    """``order`` lists positions, closest first, ``score`` is by position; of it ``own`` is by the record's text, the rest by those most like it.

    ``closeness`` is the score between 0 (the farthest of all) and 1 (the closest); no probability. ``direction`` makes ``own``,
    ``lent`` (n,) is what each record lends to those whom it is like.
    """

    order: NDArray[np.int64]
    score: Floats
    closeness: Floats
    own: Floats
    lent: Floats
    direction: Direction


class Ranker:
    """Ranks the records of ``texts`` as often as decisions change. The same decisions give the same order, whatever came before."""

    def __init__(self, texts: Texts) -> None:
        self.texts = texts
        self._said = texts.said
        self._n = self._said.shape[0]
        self._shuffled = np.random.default_rng(20240229).permutation(self._n)
        self._place: dict[int, int] = {}
        self._gram = np.zeros((0, 0), np.float32)

    def rank(self, belong: Sequence[int], excluded: Sequence[int], lesser: Sequence[int] = ()) -> Ranking:
        """Order all records by how likely they belong.

        Parameters
        ----------
        belong : positions of seeds and included records
        excluded : positions of those excluded on title and abstract
        lesser : positions of those whose full text excluded them, which their abstracts may not tell

        A logistic regression tells those that belong from the excluded and from 100 undecided ones of one fixed permutation, which
        stand for what nobody has looked at; both sides weigh the same. To it come multinomial naive Bayes and the mean likeness to
        those that belong, which counts less the more was excluded: each in standard deviations of the undecided. Twice, half of what
        a record says itself and half of the mean of its 8 nearest are its score. Without any record that belongs, the order is that of the records.
        """
        n = self._n
        if not len(belong):
            zero = np.zeros(n)
            return Ranking(np.arange(n), zero, zero, zero, zero, self._nowhere())
        undecided = np.ones(n, bool)
        undecided[[*belong, *excluded, *lesser]] = False
        against = self._against(excluded, lesser, undecided)
        direction = self._towards(np.asarray(belong, np.int64), against, undecided, len(excluded) + len(lesser))
        own = self._dot(direction)
        lent = own
        for _ in range(_SMOOTHINGS - 1):
            lent = 0.5 * own + 0.5 * (self.texts.alike @ lent)
        score = 0.5 * own + 0.5 * (self.texts.alike @ lent)
        least, most = float(score.min()), float(score.max())
        closeness = (score - least) / (most - least) if most > least else np.ones(n)
        return Ranking(np.argsort(-score, kind="stable"), score, closeness, own, lent, direction)

    def _nowhere(self) -> Direction:
        width = self.texts.meaning.shape[1]
        return Direction(np.zeros(self._said.shape[1]), np.zeros(width), np.zeros(width), 0.0)

    def _dot(self, direction: Direction) -> Floats:
        texts = self.texts
        return np.asarray(
            self._said @ direction.said
            + texts.meaning @ direction.meaning
            + texts.title_meaning @ direction.title_meaning
            + direction.constant,
            np.float64,
        )

    def _against(self, excluded: Sequence[int], lesser: Sequence[int], undecided: NDArray[np.bool_]) -> list[tuple[int, float]]:
        """Positions that stand for what does not belong, each with its weight."""
        stand_ins = self._shuffled[undecided[self._shuffled]][:_STAND_INS].tolist()
        told = [*((k, 1.0) for k in excluded), *((k, _LESSER) for k in lesser)]
        if len(told) > _LEARNT_FROM:
            place = np.argsort(self._shuffled)
            told = sorted(told, key=lambda pair: place[pair[0]])[:_LEARNT_FROM]
        return [*told, *((k, 1.0) for k in stand_ins)]

    def _towards(self, belong: NDArray[np.int64], against: list[tuple[int, float]], undecided: NDArray[np.bool_], told: int) -> Direction:
        """Where those that belong differ from the others: three opinions, each in standard deviations of the undecided."""
        texts, stems = self.texts, self.texts.stems.shape[1]
        others = np.array([k for k, _ in against], np.int64)
        total = self._nowhere()
        if len(others):
            rows = np.concatenate([belong, others])
            labels = np.arange(len(rows)) < len(belong)
            weights = np.concatenate([np.ones(len(belong)), [weight for _, weight in against]])
            for side in (labels, ~labels):
                weights[side] *= len(rows) / 2 / weights[side].sum()
            fitted = logistic.fit(self._products(rows), labels, weights, _STRENGTH)
            learnt = Direction(self._said[rows].T @ fitted.shares, texts.meaning[rows].T @ fitted.shares, total.title_meaning, 0.0)
            total = self._weighed(learnt, undecided, 1.0)
            often, seldom = (np.asarray(texts.stems[some].sum(axis=0), np.float64).ravel() + 1 for some in (belong, others))
            bayes = np.concatenate([np.log(often / often.sum()) - np.log(seldom / seldom.sum()), np.zeros(self._said.shape[1] - stems)])
            total = _sum(
                total, self._weighed(total._replace(said=bayes, meaning=np.zeros_like(total.meaning), constant=0.0), undecided, _BAYES)
            )
        near = Direction(
            np.asarray(self._said[belong].mean(axis=0), np.float64).ravel(),
            texts.meaning[belong].mean(axis=0, dtype=np.float64),
            texts.title_meaning[belong].mean(axis=0, dtype=np.float64),
            0.0,
        )
        total = _sum(total, self._weighed(near, undecided, _NEAR / (10 + told) if len(others) else 1.0))
        return self._weighed(total, undecided, 1.0)

    def _weighed(self, direction: Direction, undecided: NDArray[np.bool_], weight: float) -> Direction:
        """``direction`` so that the undecided have mean 0 and standard deviation ``weight``."""
        scores = self._dot(direction)
        among = scores[undecided] if undecided.any() else scores
        factor = weight / (float(among.std()) or 1.0)
        return Direction(
            direction.said * factor,
            direction.meaning * factor,
            direction.title_meaning * factor,
            (direction.constant - float(among.mean())) * factor,
        )

    def _products(self, rows: NDArray[np.int64]) -> NDArray[np.float32]:
        """The dot products between ``rows`` in what the regression learns from; those worked out once are kept."""
        new = np.array([k for k in dict.fromkeys(rows.tolist()) if k not in self._place], np.int64)
        if len(new):
            known = np.array([*self._place, *new.tolist()], np.int64)
            if len(known) > 2 * _LEARNT_FROM:  # what stood in long ago
                self._place, self._gram = {}, np.zeros((0, 0), np.float32)
                new = known = rows
            products = (
                np.asarray((self._said[new] @ self._said[known].T).todense(), np.float32)
                + self.texts.meaning[new] @ self.texts.meaning[known].T
            )
            before = len(known) - len(new)
            grown = np.empty((len(known), len(known)), np.float32)
            grown[:before, :before] = self._gram
            grown[before:] = products
            grown[:before, before:] = products[:, :before].T
            self._gram = grown
            self._place = {int(k): place for place, k in enumerate(known)}
        places = np.array([self._place[k] for k in rows.tolist()])
        among: NDArray[np.float32] = self._gram[np.ix_(places, places)]
        return among


def _sum(one: Direction, two: Direction) -> Direction:
    return Direction(one.said + two.said, one.meaning + two.meaning, one.title_meaning + two.title_meaning, one.constant + two.constant)
