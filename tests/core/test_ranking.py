"""The order of screening, and what it would have saved."""

from __future__ import annotations

import random

import pytest

from kettlesort.core.ranking import build, rank, reasons
from kettlesort.core.ranking.replay import measure, replay
from kettlesort.core.text import places, stem, terms

WORDS = [
    "pollen",
    "nectar",
    "queen",
    "drone",
    "swarm",
    "forage",
    "sugar",
    "comb",
    "frame",
    "smoke",
    "orchard",
    "rape",
    "clover",
    "apple",
    "dance",
]


def corpus(n: int = 300, every: int = 15) -> tuple[list[str], list[bool]]:
    rng = random.Random(4)
    texts, labels = [], []
    for k in range(n):
        belongs = k % every == 0
        words = rng.choices(WORDS, k=30) + (rng.choices(["insulation", "winter", "survival", "wrap"], k=5) if belongs else [])
        rng.shuffle(words)
        texts.append(" ".join(words))
        labels.append(belongs)
    return texts, labels


def test_records_like_the_seeds_come_first_and_say_why() -> None:
    texts, labels = corpus()
    matrix = build(texts)
    ranking = rank(matrix, [0, 15], [])
    first = [int(k) for k in ranking.order[:20]]
    assert sum(labels[k] for k in first) >= 18
    told = {reason.term for reason in reasons(matrix, ranking, first[5]) if reason.weight > 0}
    assert told & {"insulation", "winter", "survival", "wrap"}
    assert all(0 <= c <= 1 for c in ranking.closeness)


def test_an_exclusion_moves_its_like_down() -> None:
    texts = ["winter wrap survival"] * 3 + ["winter feeding sugar"] * 20 + ["pollen nectar orchard"] * 2000
    matrix = build(texts)
    before = rank(matrix, [0], [])
    after = rank(matrix, [0], [3, 4])
    assert list(after.order).index(10) >= list(before.order).index(10)
    assert after.closeness[10] < before.closeness[10]


def test_without_seeds_the_order_is_that_of_the_records() -> None:
    matrix = build(["a b", "c d", ""])
    assert list(rank(matrix, [], []).order) == [0, 1, 2]
    assert list(rank(build([""]), [0], []).order) == [0]


def test_replay_screens_everything_once_and_saves_work() -> None:
    texts, labels = corpus()
    run = replay(build(texts), labels, seeds=2, rng=1)
    assert sorted(run.order) == list(range(len(texts)))
    assert all(labels[k] for k in run.order[:2])
    saving = measure(run.order, labels, 2)
    assert saving.wss[0.95] > 0.7
    assert run.order == replay(build(texts), labels, seeds=2, rng=1).order


def test_replay_never_looks_at_a_label_before_its_record_is_screened() -> None:
    texts, labels = corpus(120)

    class Guarded(list[bool]):
        def __init__(self, values: list[bool]) -> None:
            super().__init__(values)
            self.opened: set[int] = set()

        def __getitem__(self, k):  # type: ignore[no-untyped-def]
            self.opened.add(k)
            return super().__getitem__(k)

    guarded = Guarded(labels)
    seen: list[int] = []
    replay(build(texts), guarded, seeds=2, rng=3, tick=lambda share: seen.append(len(guarded.opened)))
    assert seen[0] <= 10
    with pytest.raises(ValueError, match="included"):
        replay(build(texts), labels, seeds=99, rng=1)


def test_measures_follow_their_definitions() -> None:
    labels = [True, False, True, False, True, False, False, False, False, True]
    saving = measure([0, 2, 1, 4, 3, 9, 5, 6, 7, 8], labels, seeds=1)
    assert saving.screened_at == {0.95: 6, 0.99: 6, 1.0: 6}
    assert saving.wss[0.95] == pytest.approx(4 / 10 - 0.05)
    assert saving.mean_discovery == pytest.approx((2 + 4 + 6) / 3 / 10)


def test_terms_and_their_places() -> None:
    assert stem("hives") == "hive"
    assert stem("studies") == "study"
    assert stem("loss") == "loss"
    assert terms("The wrapped hives") == ["wrapped", "hive", "wrapped hive"]
    assert places("Wrapped hives, and hives", {"wrapped hive", "hive"}) == [(0, 13, "wrapped hive"), (19, 24, "hive")]
