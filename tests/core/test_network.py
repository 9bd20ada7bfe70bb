"""Networks of treatments: against contrasts with their whole covariance, against the pairwise result, and by command."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from typer.testing import CliRunner

from kettlesort.cli import app
from kettlesort.core.pooling.models import Model, pool
from kettlesort.core.pooling.network import Arms, compare, components, direct, p_scores

ARM = st.tuples(st.floats(-3, 3), st.floats(0.01, 2))


def some(seed: int, treatments: int = 5, studies: int = 14) -> list[Arms]:
    rng = np.random.default_rng(seed)
    out = [Arms(np.array([k, k + 1]), rng.normal(0, 1, 2), rng.uniform(0.05, 0.6, 2)) for k in range(treatments - 1)]
    for _ in range(studies):
        arms = rng.choice(treatments, int(rng.integers(2, 5)), replace=False)
        out.append(Arms(arms, rng.normal(0, 1, len(arms)), rng.uniform(0.05, 0.6, len(arms))))
    return out


def by_contrasts(count: int, studies: list[Arms], tau2: float) -> tuple[np.ndarray, np.ndarray, float, float, float]:
    """Generalised least squares over contrasts with each study's first arm: effects, covariance, Q, log likelihood, DL's trace; written out in full."""
    y, x, blocks, spreads = [], [], [], []
    for it in studies:
        m = len(it.y) - 1
        for j in range(1, m + 1):
            row = np.zeros(count)
            row[it.treatments[j]], row[it.treatments[0]] = 1, -1
            y.append(it.y[j] - it.y[0])
            x.append(row[1:])
        blocks.append(np.diag(it.v[1:]) + it.v[0])
        spreads.append(0.5 * np.eye(m) + 0.5)

    def whole(parts: list[np.ndarray]) -> np.ndarray:
        size = sum(map(len, parts))
        out, at = np.zeros((size, size)), 0
        for part in parts:
            out[at : at + len(part), at : at + len(part)] = part
            at += len(part)
        return out

    ys, xs, v, d = np.array(y), np.array(x), whole(blocks), whole(spreads)
    w = np.linalg.inv(v + tau2 * d)
    covariance = np.linalg.inv(xs.T @ w @ xs)
    beta = covariance @ xs.T @ w @ ys
    q = float((ys - xs @ beta) @ w @ (ys - xs @ beta))
    height = -0.5 * (np.linalg.slogdet(v + tau2 * d)[1] - np.linalg.slogdet(covariance)[1] + q)
    trace = float(np.trace(w @ d) - np.trace(covariance @ xs.T @ w @ d @ w @ xs))
    return beta, covariance, q, float(height), trace


@pytest.mark.parametrize("seed", range(6))
def test_arms_give_what_contrasts_with_their_covariance_give(seed: int) -> None:
    studies = some(seed)
    fixed = compare(5, studies, None)
    beta, covariance, q, _, trace = by_contrasts(5, studies, 0.0)
    assert fixed.effects[1:] == pytest.approx(beta, rel=1e-9)
    assert fixed.covariance[1:, 1:] == pytest.approx(covariance, rel=1e-9)
    df = sum(len(it.y) - 1 for it in studies) - 4
    assert (fixed.q.total, fixed.q.df) == (pytest.approx(q), df)
    assert fixed.within.total + fixed.between.total == pytest.approx(fixed.q.total)
    assert fixed.within.df + fixed.between.df == fixed.q.df
    assert compare(5, studies, "DL").tau2 == pytest.approx(max(0.0, (q - df) / trace), rel=1e-9)
    reml = compare(5, studies, "REML")
    best = max(np.concatenate([[0.0], np.geomspace(1e-4, 20, 4000)]).tolist(), key=lambda it: by_contrasts(5, studies, it)[3])
    assert reml.tau2 == pytest.approx(best, rel=4e-3, abs=2e-4)
    assert by_contrasts(5, studies, reml.tau2)[3] >= by_contrasts(5, studies, best)[3] - 1e-9


@given(st.lists(st.tuples(ARM, ARM), min_size=1, max_size=10), st.sampled_from(["REML", "DL", None]))
@settings(max_examples=40, deadline=None)
def test_two_treatments_are_the_pairwise_result(pairs: list[tuple[tuple[float, float], tuple[float, float]]], method: str | None) -> None:
    studies = [Arms(np.array([0, 1]), np.array([a[0], b[0]]), np.array([a[1], b[1]])) for a, b in pairs]
    y, v = np.array([b[0] - a[0] for a, b in pairs]), np.array([a[1] + b[1] for a, b in pairs])
    network, pairwise = compare(2, studies, method), pool(y, v, Model(method is not None, method or "REML"))
    assert network.tau2 == pytest.approx(pairwise.tau2, rel=1e-5, abs=1e-7)
    assert network.effects[1] == pytest.approx(pairwise.pooled.estimate, rel=1e-5, abs=1e-6)
    both = direct(studies, 1, 0, network.tau2, 0.95)
    assert both is not None
    assert (both[0].estimate, both[1]) == (pytest.approx(pairwise.pooled.estimate, rel=1e-5, abs=1e-6), len(pairs))
    assert sum(p_scores(network)) == pytest.approx(1)


def test_parts_that_hang_together() -> None:
    def arms(*treatments: int) -> Arms:
        return Arms(np.array(treatments), np.zeros(len(treatments)), np.ones(len(treatments)))

    assert components(5, [arms(0, 3), arms(1, 2), arms(3, 4)]) == [[0, 3, 4], [1, 2]]


TABLE = "study,treatment,events,total\n1,wrap,9,40\n1,plain,15,41\n2,foam,4,30\n2,plain,9,29\n3,wrap,3,25\n3,foam,5,24\n3,plain,9,26\n4,wrap,0,20\n4,plain,0,21\n5,foam,0,18\n5,wrap,3,19\n"


def run(path: Path, text: str, *arguments: str) -> tuple[int, dict[str, Any], str]:
    path.write_text(text, encoding="utf-8")
    found = CliRunner().invoke(app, ["network", str(path), *arguments, "--json"])
    return found.exit_code, json.loads(found.stdout) if found.stdout else {}, found.stderr


def test_the_command_compares_every_pair_once(tmp_path: Path) -> None:
    path = tmp_path / "net.csv"
    code, found, said = run(path, TABLE, "--measure", "OR", "--model", "random", "--reference", "plain")
    assert code == 0
    assert "study “4” has no event and is left out" in said
    assert (found["k"], found["treatments"], found["components"]) == (4, ["plain", "wrap", "foam"], [["plain", "wrap", "foam"]])
    assert [(it["a"], it["b"], it["studies"]) for it in found["league"]] == [
        ("plain", "wrap", 2),
        ("plain", "foam", 2),
        ("wrap", "foam", 2),
    ]
    assert set(found["q_within"]) == set(found["q_between"]) == set(found["q"]) == {"total", "df", "p"}
    assert {it["treatment"] for it in found["ranking"]} == {"plain", "wrap", "foam"}
    _, other, _ = run(path, TABLE, "--measure", "OR", "--model", "random", "--smaller-is-better")
    assert [it["treatment"] for it in other["ranking"]] == [it["treatment"] for it in found["ranking"]][::-1]


def test_what_cannot_be_compared_is_told(tmp_path: Path) -> None:
    path = tmp_path / "net.csv"
    code, _, said = run(path, TABLE + "6,straw,1,9\n6,clay,2,9\n", "--measure", "RR", "--model", "fixed")
    assert code == 2
    assert "falls apart into 2 parts: wrap, plain, foam; straw, clay" in said
    code, found, said = run(path, TABLE + "7,wrap,30,9\n8,wrap,1,9\n1,wrap,1,9\n", "--measure", "RD", "--model", "fixed")
    assert code == 1
    assert [(it["line"], it["column"]) for it in found["problems"]] == [(13, "events"), (15, "treatment"), (14, "study")]
    for wrong in ("--measure SMD --model fixed", "--measure OR --model fixed --tau2 DL", "--measure OR --model random --reference clay", "--measure MD --model fixed"):  # fmt: skip
        assert run(path, TABLE, *wrong.split())[:2] == (2, {})
