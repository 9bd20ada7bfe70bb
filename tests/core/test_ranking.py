"""The order of screening, and what it would have saved."""

from __future__ import annotations

import random
from collections import Counter
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sklearn.linear_model import LogisticRegression

from kettlesort.core.ranking import RankedText, Ranker, build
from kettlesort.core.ranking.chance import Decision, calibrate
from kettlesort.core.ranking.logistic import fit
from kettlesort.core.ranking.reasons import marked, nearest, reasons
from kettlesort.core.ranking.replay import measure, replay
from kettlesort.core.ranking.texts import Terms
from kettlesort.core.text.words import language_of, stem_of, words_of

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


def corpus(n: int = 300, every: int = 15) -> tuple[list[RankedText], list[bool]]:
    rng = random.Random(4)
    texts, labels = [], []
    for k in range(n):
        belongs = k % every == 0
        words = rng.choices(WORDS, k=30) + (rng.choices(["insulation", "winter", "survival", "wrap"], k=5) if belongs else [])
        rng.shuffle(words)
        texts.append(RankedText(" ".join(words[:6]), " ".join(words[6:])))
        labels.append(belongs)
    return texts, labels


def told(*titles: str) -> Ranker:
    return Ranker(build([RankedText(title) for title in titles]))


def test_records_like_the_seeds_come_first() -> None:
    texts, labels = corpus()
    found = Ranker(build(texts)).rank([0, 15], [])
    assert sum(labels[k] for k in found.order[:20].tolist()) >= 18
    assert found.closeness.min() == 0
    assert found.closeness.max() == 1


def test_why_a_record_stands_there_adds_up_to_its_score() -> None:
    texts, labels = corpus()
    ranker = Ranker(build(texts))
    found = ranker.rank([0, 15, 30], [1, 2, 3, 4], [5])
    for k in (*found.order[:12].tolist(), *found.order[-3:].tolist(), 0):
        why = reasons(ranker.texts, found, k)
        assert why.total == pytest.approx(found.score[k], abs=1e-4)
        assert len(why.alike) <= 8
        assert k not in [other for other, _ in why.alike]
        assert all(set(it.forms) <= set(words_of(f"{texts[k].title} {texts[k].abstract}")) for it in why.words)
    first = next(k for k in found.order.tolist() if labels[k] and k not in (0, 15, 30))
    assert {it.word for it in reasons(ranker.texts, found, first).words if it.share > 0} & {"insulation", "winter", "survival", "wrap"}
    assert labels[nearest(ranker.texts, [first], [0, 1, 2, 3])[0][0][0]]


def test_an_exclusion_moves_its_like_down_and_one_by_full_text_less() -> None:
    ranker = told(*["winter wrap survival"] * 3, *["winter feeding sugar"] * 20, *["pollen nectar orchard"] * 300)
    before, lesser, after = (ranker.rank([0], some, less).closeness[10] for some, less in (([], []), ([], [3, 4]), ([3, 4], [])))
    assert after < lesser < before


def test_the_same_decisions_give_the_same_order_whatever_came_before() -> None:
    texts, _ = corpus()
    built = build(texts)
    used = Ranker(built)
    for k in range(40, 120, 7):
        used.rank([0, 15], list(range(40, k)))
    assert np.array_equal(used.rank([0, 15], [41, 42]).order, Ranker(built).rank([0, 15], [41, 42]).order)


def test_without_seeds_the_order_is_that_of_the_records() -> None:
    assert list(told("a b", "c d", "").rank([], []).order) == [0, 1, 2]
    assert list(told("").rank([0], []).order) == [0]


@given(st.lists(st.text(max_size=40), min_size=1, max_size=12), st.data())
@settings(max_examples=60, deadline=None)
def test_any_texts_are_ranked_once_each_by_finite_scores(titles: list[str], data: st.DataObject) -> None:
    ranker = told(*titles)
    belong = data.draw(st.sets(st.integers(0, len(titles) - 1)))
    excluded = data.draw(st.sets(st.integers(0, len(titles) - 1))) - belong
    found = ranker.rank(sorted(belong), sorted(excluded))
    assert sorted(found.order.tolist()) == list(range(len(titles)))
    assert np.isfinite(found.score).all()
    for k in range(len(titles)):
        if belong:
            assert reasons(ranker.texts, found, k).total == pytest.approx(found.score[k], abs=1e-3)


@pytest.mark.parametrize("strength", [0.1, 1.0, 10.0])
def test_the_regression_is_that_of_a_common_library(strength: float) -> None:
    rng = np.random.default_rng(3)
    texts = rng.normal(size=(120, 400)).astype(np.float32)
    texts /= np.linalg.norm(texts, axis=1, keepdims=True)
    labels = rng.random(120) < 0.2
    weights = np.where(labels, 120 / 2 / labels.sum(), 120 / 2 / (~labels).sum())
    found = fit(texts @ texts.T, labels, weights, strength)
    peer = LogisticRegression(C=strength, class_weight="balanced", tol=1e-8, max_iter=5000).fit(texts, labels)
    assert texts.T @ found.shares == pytest.approx(peer.coef_[0], abs=2e-3 * float(np.abs(peer.coef_).max()))
    assert found.intercept == pytest.approx(peer.intercept_[0], abs=2e-3)


@given(st.lists(st.lists(st.sampled_from("abcd")), max_size=6), st.integers(1, 2))
def test_terms_and_pairs_of_neighbours_are_counted_by_text(texts: list[list[str]], least: int) -> None:
    terms = Terms()
    for text in texts:
        terms.add(text)
    for (counts, names), of in (
        (terms.counted(least), lambda text: text),
        (terms.pairs(least), lambda text: [*map(" ".join, pairwise(text))]),
    ):
        often = Counter(term for text in texts for term in set(of(text)))
        assert set(names) == {term for term, n in often.items() if n >= least}
        assert counts.toarray().tolist() == [[Counter(of(text))[name] for name in names] for text in texts]


def test_words_of_any_language_and_script() -> None:
    assert words_of("Çelvane’s hives, 2nd: über α-Werte") == ["celvane", "s", "hives", "2nd", "uber", "α", "werte"]
    assert words_of("मधुमक्खी के छत्ते") == ["मधुमक्खी", "के", "छत्ते"]
    assert words_of("蜂群越冬") == ["蜂群", "群越", "越冬"]
    german = words_of("Die Völker wurden im Winter nicht gewogen, und die Beuten waren gedämmt")
    assert language_of(german) == "de"
    assert stem_of("volker", "de") == stem_of("volkern", "de")
    assert stem_of("the", "en") == stem_of("x", "en") == stem_of("results", "en") == ""
    assert stem_of("hives", "en") == stem_of("hive", "en") == "hive"


def test_a_text_in_another_script_is_found_by_its_like() -> None:
    ranker = told("蜂群越冬与保温", "蜂群保温材料", *[f"果园授粉 {k}" for k in range(20)], *[f"orchard pollination {k}" for k in range(20)])
    assert ranker.rank([0], []).order[:2].tolist() == [0, 1]


def test_marks_stand_where_the_words_do() -> None:
    text = "Wrapped hives, and HIVES über Winter"
    assert [(text[a:b], sign) for a, b, sign in marked(text, {"hives": True, "uber": False})] == [
        ("hives", True),
        ("HIVES", True),
        ("über", False),
    ]


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


def test_a_chance_is_told_once_decisions_reach_and_not_before() -> None:
    rng = np.random.default_rng(5)
    topics = ["hives wrapped foam winter survival", "queen rearing mating drones", "honey heating quality sugar"]
    texts = [
        RankedText(
            f"{topics[k % 3]} {' '.join(rng.choice(['cold', 'north', 'valley', 'apiary', 'spring', 'loss'], 3))}",
            f"Report {k} on {topics[k % 3]}.",
        )
        for k in range(300)
    ]
    ranker = Ranker(build(texts))
    belongs = [k % 3 == 0 and k % 4 != 0 for k in range(300)]
    decisions: list[Decision] = []
    while len(decisions) < 120:
        seen = {0, *(one.position for one in decisions)}
        found = [one.position for one in decisions if one.belongs]
        order = ranker.rank([0, *found], [one.position for one in decisions if not one.belongs]).order
        decisions += [Decision(k, belongs[k]) for k in [k for k in order.tolist() if k not in seen][:10]]
    assert calibrate(ranker, [0], decisions[:12]) is None
    told = calibrate(ranker, [0], decisions)
    assert told
    assert (told.found, told.excluded) == (sum(one.belongs for one in decisions[-44:]), sum(not one.belongs for one in decisions[-44:]))
    again = calibrate(ranker, [0], decisions)
    assert again
    near, far = told.of(4.0, 1), told.of(1.0, told.depth)
    assert near
    assert far
    assert near == again.of(4.0, 1)
    assert far.chance < near.chance
    assert far.low <= far.chance <= far.high
    assert told.of(4.0, told.depth + 1) is None
    barren = [Decision(k, False) for k in range(300) if not belongs[k] and k not in {one.position for one in decisions}]
    assert calibrate(ranker, [0], decisions + barren) is None  # nobody knows how few are left where none was found of late
