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
_SMOOTHINGS = 2
_LESSER = 0.3
"""An exclusion for what only the full text told counts so much."""
_LEARNT_FROM = 4000
"""Of more exclusions than that, a fixed sample is learnt from."""


class Direction(NamedTuple):
    """What a record's own text adds to its score: its `Texts.said` and ``meaning`` times these, plus ``constant``."""

    said: Floats
    meaning: Floats
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
        stand for what nobody has looked at; both sides weigh the same. Its log odds are put into standard deviations of the undecided; twice,
        half of what a record says itself and half of the mean of its 8 nearest are its score. Without any record that belongs, or
        with nothing else, the order is that of the records.
        """
        n = self._n
        undecided = np.ones(n, bool)
        undecided[[*belong, *excluded, *lesser]] = False
        against = self._against(excluded, lesser, undecided)
        if not len(belong) or not against:
            zero = np.zeros(n)
            nowhere = Direction(np.zeros(self._said.shape[1]), np.zeros(self.texts.meaning.shape[1]), 0.0)
            return Ranking(np.arange(n), zero, zero, zero, zero, nowhere)
        direction, own = self._towards(np.asarray(belong, np.int64), against, undecided)
        lent = own
        for _ in range(_SMOOTHINGS - 1):
            lent = 0.5 * own + 0.5 * (self.texts.alike @ lent)
        score = 0.5 * own + 0.5 * (self.texts.alike @ lent)
        least, most = float(score.min()), float(score.max())
        closeness = (score - least) / (most - least) if most > least else np.ones(n)
        return Ranking(np.argsort(-score, kind="stable"), score, closeness, own, lent, direction)

    def _against(self, excluded: Sequence[int], lesser: Sequence[int], undecided: NDArray[np.bool_]) -> list[tuple[int, float]]:
        """Positions that stand for what does not belong, each with its weight."""
        stand_ins = self._shuffled[undecided[self._shuffled]][:_STAND_INS].tolist()
        told = [*((k, 1.0) for k in excluded), *((k, _LESSER) for k in lesser)]
        if len(told) > _LEARNT_FROM:
            place = np.argsort(self._shuffled)
            told = sorted(told, key=lambda pair: place[pair[0]])[:_LEARNT_FROM]
        return [*told, *((k, 1.0) for k in stand_ins)]

    def _towards(
        self, belong: NDArray[np.int64], against: list[tuple[int, float]], undecided: NDArray[np.bool_]
    ) -> tuple[Direction, Floats]:
        """Where those that belong differ from the others, and how far each record lies that way, (n,): the undecided with mean 0 and standard deviation 1."""
        rows = np.concatenate([belong, [k for k, _ in against]])
        labels = np.arange(len(rows)) < len(belong)
        weights = np.concatenate([np.ones(len(belong)), [weight for _, weight in against]])
        for side in (labels, ~labels):
            weights[side] *= len(rows) / 2 / weights[side].sum()
        shares = logistic.fit(self._products(rows), labels, weights, _STRENGTH).shares
        said, meaning = self._said[rows].T @ shares, self.texts.meaning[rows].T @ shares
        far = np.asarray(self._said @ said.astype(np.float32) + self.texts.meaning @ meaning.astype(np.float32), np.float64)
        among = far[undecided] if undecided.any() else far
        middle, spread = float(among.mean()), float(among.std()) or 1.0
        return Direction(said / spread, meaning / spread, -middle / spread), (far - middle) / spread

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
