"""Finding copies: blocking, comparing, weighing, telling look-alikes apart, grouping."""

from __future__ import annotations

import gc
import random
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from typing import NamedTuple

import numpy as np

from kettlesort.core.matching.blocking import candidates
from kettlesort.core.matching.columns import Array, Columns, columns_of
from kettlesort.core.matching.compare import compare
from kettlesort.core.matching.errors import Estimate, Point, curve, share_of
from kettlesort.core.matching.explain import Evidence, Weighed, explain
from kettlesort.core.matching.grouping import Groups
from kettlesort.core.matching.judge import APART, ASK, JOIN, Judged, Pair, judge, thresholds
from kettlesort.core.matching.learnt import NOTHING, Learnt, learn, learnt_from
from kettlesort.core.matching.lookalikes import ALIKE, NUMBER, RELATED, lookalikes
from kettlesort.core.matching.merging import merge, primary, supplemented
from kettlesort.core.matching.rule import NotARule, Rule, rule_of
from kettlesort.core.matching.weights import Weights
from kettlesort.core.record import Record

__all__ = [
    "ALIKE", "NOTHING", "Estimate", "Evidence", "Groups", "Learnt", "Matching", "NotARule", "Pair", "Point", "Rule", "Weighed", "explain", "learn",
    "learnt_from", "match", "merge", "primary", "rule_of", "share_of", "supplemented", "thresholds",
]  # fmt: skip

_ENOUGH = 60
"""In a set of linked records up to this large, all pairs are compared; in a larger one, those that were candidates."""


_AGAINST = -3.0
"""A pair of less weight than this keeps two groups apart, whatever links them."""
_ANSWERS = 20
"""From so many answers of people on, they correct what was learnt."""
_UNSUPPORTED = [NUMBER[name] for name in ("untitled", "word", "elsewhere", "recurring")]
"""Kinds that say that nothing else speaks for a pair, not that something speaks against it: a chain may go past them."""


class Matching(NamedTuple):
    """``pairs`` were joined (``same``) or wait for a person (``unsure``); ``groups`` follow from the joined ones.

    ``judged`` are all pairs that came near, among them those left apart; ``learnt`` is what the weights rest on, ``rule``
    what the team has agreed on.
    """

    pairs: list[Pair]
    groups: Groups
    judged: Judged
    learnt: Learnt
    columns: Columns
    rule: Rule
    sources: Array | None

    @property
    def thresholds(self) -> tuple[float, float]:
        """From which weight pairs were joined, and from which asked."""
        return thresholds(self.rule, self.learnt.weights)

    def weigh(self, pairs: Sequence[tuple[int, int]]) -> list[float]:
        """The weights of some pairs of positions, whether they were candidates or not."""
        if not pairs:
            return []
        compared = compare(self.columns, np.array([_ordered(pair) for pair in pairs], dtype=np.int64))
        return [float(weight) for weight in self.learnt.weights.of(compared.levels)]

    def curve(self) -> list[Point]:
        """The errors to be expected at each weight."""
        return curve(self.judged, self.learnt.weights, len(self.columns))

    def kinds(self) -> dict[str, int]:
        """How many pairs of look-alikes of each kind were left apart."""
        judged = self.judged
        counts = np.bincount(judged.kind[(judged.verdict == APART) & (judged.kind > 0)], minlength=len(ALIKE) + 1)
        return {one.name: int(n) for one, n in zip(ALIKE, counts[1:], strict=True) if n}

    def left_apart(self, most: int, seed: int = 1) -> LeftApart:
        """Pairs that came near and are not in one group, at most so many, drawn at random with a seed."""
        judged = self.judged
        apart = [
            k
            for k in np.flatnonzero(judged.verdict == APART).tolist()
            if self.groups.of(int(judged.left[k])) != self.groups.of(int(judged.right[k]))
        ]
        chosen = sorted(random.Random(seed).sample(apart, min(most, len(apart))))
        return LeftApart(len(apart), [(int(judged.left[k]), int(judged.right[k]), float(judged.weight[k])) for k in chosen])


class LeftApart(NamedTuple):
    """How many pairs came near and were left apart, and some of them: positions and weight."""

    population: int
    pairs: list[tuple[int, int, float]]


def match(
    records: Iterable[Record],
    *,
    same: Iterable[tuple[int, int]] = (),
    different: Iterable[tuple[int, int]] = (),
    answered: Iterable[tuple[int, int, bool]] = (),
    first_new: int = 0,
    rule: Rule | None = None,
    learnt: Learnt | None = None,
    sources: Sequence[str] | None = None,
    tick: Callable[[float], None] | None = None,
) -> Matching:
    """Find the copies among ``records``.

    Parameters
    ----------
    records : n records, read once
    same, different : pairs of positions that a person, or an earlier run, has settled; they always hold
    answered : pairs that people have answered, and whether they are the same: what is learnt is set right by them
    first_new : only pairs with a position of at least this are looked for (late arrivals against what is there)
    rule : what the team has agreed on; weights alone if it has not
    learnt : what was learnt from the review before; learnt from these records if it was not
    sources : the source of each record, for a rule that names some
    tick : called with the share done, 0 to 1, now and then; may raise to cancel

    The result does not depend on anything but the arguments.
    """
    rule = rule or Rule()
    tick = tick or (lambda _: None)
    tick(0.0)
    with _undisturbed():
        return _match(
            records, set(map(_ordered, same)), set(map(_ordered, different)), list(answered), first_new, rule, learnt, sources, tick
        )


@contextmanager
def _undisturbed() -> Iterator[None]:
    """Without garbage collection, which would look through all records again and again; nothing here makes cycles."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


def _match(
    records: Iterable[Record], same: set[tuple[int, int]], different: set[tuple[int, int]], answered: list[tuple[int, int, bool]],
    first_new: int, rule: Rule, learnt: Learnt | None, sources: Sequence[str] | None, tick: Callable[[float], None],
) -> Matching:  # fmt: skip
    columns = columns_of(
        records, lambda k: tick(0.4 * min(1.0, k / 100_000) if not isinstance(records, Sequence) else 0.4 * k / max(1, len(records)))
    )
    of = np.array(sources, dtype=object) if sources is not None else None
    if of is not None:
        columns.numbers["source"] = np.unique(of.astype(str), return_inverse=True)[1] + 1
    learnt, compared = learn(columns, tick) if learnt is None else (learnt, None)
    if compared is None:
        learnt.common.prepare(columns)
        compared = compare(columns, candidates(columns, first_new))
    elif first_new:
        compared = compared.of(compared.right >= first_new)
    if len(answered) >= _ANSWERS:
        learnt = learnt._replace(weights=_corrected(columns, learnt.weights, answered))
    tick(0.85)
    judged = judge(columns, compared, rule, learnt.weights, of)
    groups, joined, doubtful = _group(columns, judged, rule, learnt, of, same, different, tick)
    return Matching(sorted(joined + doubtful), groups, judged, learnt, columns, rule, of)


def _corrected(columns: Columns, weights: Weights, answered: list[tuple[int, int, bool]]) -> Weights:
    """Weights with their chances as people's answers have them; look-alikes, which weights do not tell apart, left out."""
    pairs = np.array([_ordered((i, j)) for i, j, _ in answered], dtype=np.int64)
    said = np.array([same for _, _, same in answered])
    compared = compare(columns, pairs)
    plain = lookalikes(columns, compared) == 0
    return weights.calibrated(weights.of(compared.levels[plain]), said[plain])


def _group(
    columns: Columns, judged: Judged, rule: Rule, learnt: Learnt, sources: Array | None,
    same: set[tuple[int, int]], different: set[tuple[int, int]], tick: Callable[[float], None],
) -> tuple[Groups, list[Pair], list[Pair]]:  # fmt: skip
    """Join what is sure, the surest first, unless something in the two groups speaks against it; and one question for each two groups."""
    settled = same | different
    groups = Groups(len(columns), different)
    for i, j in sorted(same):
        groups.join(i, j)
    sure = np.flatnonzero(judged.verdict == JOIN)
    linked = np.stack((judged.left[sure], judged.right[sure]), axis=1)
    more = judge(columns, compare(columns, _untold(linked, same, judged, len(columns))), rule, learnt.weights, sources)
    tick(0.9)
    join, _ = thresholds(rule, learnt.weights)
    for one in (judged, more):
        named = (one.kind > 0) & ~np.isin(one.kind, _UNSUPPORTED)
        likely = (one.kind == NUMBER["elsewhere"]) & (one.weight >= join)  # years apart, and all else agrees
        against = (one.verdict == APART) & ((one.weight < _AGAINST) | named | (one.by >= 0)) | (
            (one.verdict == ASK) & RELATED[one.kind] & ~likely
        )
        for i, j in zip(one.left[against].tolist(), one.right[against].tolist(), strict=True):
            if (i, j) not in settled:
                groups.keep_apart(i, j)
    joined: list[Pair] = []
    doubtful: list[Pair] = []
    order = sure[np.lexsort((judged.right[sure], judged.left[sure], -judged.weight[sure], judged.by[sure] < 0))]
    for pair in judged.pairs(order, rule):
        if pair[:2] not in settled:
            (joined if groups.join(pair.left, pair.right) else doubtful).append(pair)
    doubtful += judged.pairs(np.flatnonzero(judged.verdict == ASK), rule)
    tick(0.97)
    return groups, joined, _questions(doubtful, groups, different)


def _untold(linked: Array, same: set[tuple[int, int]], judged: Judged, size: int) -> Array:
    """Pairs within sets of linked records that were not compared: whether a chain joins what does not belong together."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    more = np.array(sorted(same), dtype=np.int64).reshape(-1, 2)
    edges = np.concatenate((linked, more))
    if not len(edges):
        return edges.astype(np.int64)
    nodes, back = np.unique(edges, return_inverse=True)
    at = back.reshape(edges.shape)
    _, label = connected_components(coo_matrix((np.ones(len(at)), (at[:, 0], at[:, 1])), shape=(len(nodes), len(nodes))), directed=False)
    order = np.argsort(label, kind="stable")
    counts = np.bincount(label)
    ends = np.cumsum(counts)
    known = judged.left.astype(np.int64) * size + judged.right
    codes: list[Array] = []
    for count in np.unique(counts[(counts > 2) & (counts <= _ENOUGH)]).tolist():
        which = np.flatnonzero(counts == count)
        members = np.sort(nodes[order[(ends[which] - count)[:, None] + np.arange(count)]], axis=1)
        a, b = np.triu_indices(count, 1)
        codes.append((members[:, a].astype(np.int64) * size + members[:, b]).ravel())
    if not codes:
        return np.zeros((0, 2), np.int64)
    untold = np.setdiff1d(np.concatenate(codes), known)
    return np.stack((untold // size, untold % size), axis=1)


def _questions(doubtful: list[Pair], groups: Groups, settled: set[tuple[int, int]]) -> list[Pair]:
    """One question for each two groups, the one with most evidence, unless a person has told them apart."""
    answered = {_ordered((groups.of(i), groups.of(j))) for i, j in settled}
    best: dict[tuple[int, int], Pair] = {}
    for pair in sorted(doubtful, key=lambda one: (-one.score, one.left, one.right)):
        key = _ordered((groups.of(pair.left), groups.of(pair.right)))
        if key[0] != key[1] and key not in answered:
            best.setdefault(key, pair._replace(verdict="unsure"))
    return list(best.values())


def _ordered(pair: tuple[int, int]) -> tuple[int, int]:
    i, j = pair
    return (i, j) if i < j else (j, i)
