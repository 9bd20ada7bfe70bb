"""What is still out there: exact in small cases, safe in simulated ones, and a command that survives any line."""

from __future__ import annotations

import json
from itertools import permutations
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import hypergeom
from typer.testing import CliRunner

from kettlesort.cli import app
from kettlesort.core.screening.stopping import remaining

SCREENINGS = st.integers(1, 400).flatmap(
    lambda records: st.lists(st.integers(0, 1), max_size=records).flatmap(
        lambda answers: st.tuples(st.just(records), st.just(answers), st.integers(0, len(answers)))
    )
)


@given(SCREENINGS)
def test_figures_agree_with_each_other(it: tuple[int, list[int], int]) -> None:
    records, answers, _ = it
    told, found, open_ = remaining(*it), sum(answers), records - len(answers)
    assert 0 <= told.left.low <= told.left.estimate <= told.left.high <= open_
    assert 0 <= told.p95 <= 1
    if told.recall is None:
        assert (found, open_) == (0, 0)
    else:
        assert told.recall.low <= told.recall.estimate <= told.recall.high <= 1
    if not open_:
        assert told.p95 == 0


def test_with_a_sample_the_figure_is_that_of_the_hypergeometric_distribution() -> None:
    """40 found among 600 in ranked order, then 300 drawn at random from 1,400, with 1 included: 41 found; recall is below 95 % if 3 or more are left."""
    told = remaining(2000, [1] * 40 + [0] * 560 + [1] + [0] * 299, 300)
    assert told.p95 == pytest.approx(hypergeom.cdf(1, 1400, 1 + 3, 300))
    high = max(left for left in range(1101) if hypergeom.cdf(1, 1400, 1 + left, 300) > 0.025)
    low = min(left for left in range(1101) if hypergeom.sf(0, 1400, 1 + left, 300) > 0.025)
    assert (told.left.low, told.left.high) == (low, high)
    assert told.left.estimate == pytest.approx(1100 / 300)
    assert told.method == "random sample"


def test_what_came_after_a_sample_counts_as_seen() -> None:
    """The same sample, then 100 more in ranked order with 2 found: 43 found; below 95 % are 3 left or more, 1 + 2 + 3 among the 1,400."""
    told = remaining(2000, [1] * 40 + [0] * 560 + [1] + [0] * 299 + [1, 1] + [0] * 98, 300, after=100)
    assert told.p95 == pytest.approx(hypergeom.cdf(1, 1400, 1 + 2 + 3, 300))
    assert told.left.estimate == pytest.approx(1100 / 300 - 2)
    assert remaining(2000, [1] * 40 + [0] * 860, 300) == remaining(2000, [1] * 40 + [0] * 860, 300, after=0)


def test_in_any_order_of_few_records_the_promise_is_kept_exactly() -> None:
    """All orders of 8 records of which 3 are included, a sample of 5 after 1: where recall is below 95 %, p95 < a happens in a share of a at most."""
    orders = set(permutations([1, 1, 1, 0, 0, 0, 0, 0]))
    figures = [remaining(8, order[:6], 5).p95 for order in orders if sum(order[:6]) < 3]
    for level in sorted(set(figures)):
        assert sum(it <= level for it in figures) / len(orders) <= level + 1e-9


def test_in_simulated_reviews_the_promise_is_kept_where_the_order_grows_no_richer() -> None:
    rng = np.random.default_rng(8)
    said = held = looks = 0
    for _ in range(1200):
        n, included = int(rng.integers(300, 1500)), int(rng.integers(4, 120))
        places = rng.exponential(rng.uniform(0.02, 0.4), included)
        odd = rng.random(included) < rng.uniform(0, 0.3)
        places = np.where(odd | (places > 1), rng.random(included), places)
        labels = np.concatenate([np.ones(included, int), np.zeros(n, int)])
        labels = labels[np.argsort(np.concatenate([places, rng.random(n)]), kind="stable")]
        seen = int(len(labels) * rng.uniform(0.1, 0.98))
        told, left = remaining(len(labels), labels[:seen]), int(labels[seen:].sum())
        looks += 1
        held += told.left.low <= left <= told.left.high
        if left > 0.05 * included:
            said += told.p95 < 0.05
    assert held / looks >= 0.95
    assert said / looks <= 0.05
    assert remaining(1000, [1] * 60 + [0] * 640).p95 < 0.05, "and it does say so"


@pytest.mark.parametrize(("found", "seen"), [(38, 0.6), (100, 0.4), (100, 0.6), (180, 0.4)])
def test_in_the_worst_case_looking_at_several_stretches_errs_no_more_often_than_is_told(found: int, seen: float) -> None:
    """All finds first, then just too many scattered at random among 1,000: the order has no more to give, and recall is a little below 95 %."""
    rng = np.random.default_rng(found)
    wrong = 0
    for _ in range(400):
        rest = np.zeros(1000 - found, int)
        rest[rng.choice(len(rest), found // 19 + 1, replace=False)] = 1
        answers = np.concatenate([np.ones(found, int), rest])[: int(1000 * seen)]
        if answers.sum() < 0.95 * (found + found // 19 + 1):
            wrong += remaining(1000, answers).p95 < 0.05
    assert wrong / 400 <= 0.05 + 3 * (0.05 * 0.95 / 400) ** 0.5


def run(path: Path, lines: list[str]) -> tuple[int, list[dict[str, object]], str]:
    path.write_text("\n".join(lines), encoding="utf-8")
    found = CliRunner().invoke(app, ["remaining", str(path), "--json"])
    return found.exit_code, [json.loads(line) for line in found.stdout.splitlines()], found.stderr


def test_the_command_answers_each_line_in_its_place(tmp_path: Path) -> None:
    good = json.dumps({"records": 10, "answers": [1, 0, 0, 0], "random": 2})
    path = tmp_path / "all.jsonl"
    code, found, _ = run(path, [good, json.dumps({"records": 2, "answers": [0, 0], "random": 0})])
    assert code == 0
    assert set(found[0]) == {"left", "recall", "p95", "method", "assumptions"}
    assert found[1]["recall"] is None
    bad = ["{", "[]", '{"records": 3}', '{"records": 1, "answers": [1, 0], "random": 0}', '{"records": 5, "answers": [2], "random": 0}', '{"records": 5, "answers": [1], "random": 2}', '{"records": -1, "answers": [], "random": 0}', '{"records": NaN, "answers": []}', "[" * 100_000]  # fmt: skip
    code, found, said = run(path, [good, *bad, good])
    assert code == 1
    assert [it.get("line") for it in found] == [None, *range(2, len(bad) + 2), None]
    assert all("problem" in it for it in found[1:-1])
    assert said.count("all.jsonl:") == len(bad)
    assert run(path, bad)[0] == 2
