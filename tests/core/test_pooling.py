"""Pooling, against published worked examples, a second computation with 40 digits, and by definition."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import mpmath
import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from typer.testing import CliRunner

from kettlesort.cli import app
from kettlesort.core.pooling.effects import effect
from kettlesort.core.pooling.models import TAU2, Model, between, pool

BCG = """study,events1,total1,events2,total2,latitude,allocation
1,4,123,11,139,44,random
2,6,306,29,303,55,random
3,3,231,11,220,42,random
4,62,13598,248,12867,52,random
5,33,5069,47,5808,13,alternate
6,180,1541,372,1451,44,alternate
7,8,2545,10,629,19,random
8,505,88391,499,88391,13,random
9,29,7499,45,7277,27,random
10,17,1716,65,1665,42,systematic
11,186,50634,141,27338,18,systematic
12,5,2498,3,2341,33,systematic
13,27,16913,29,17854,33,systematic
"""
"""Colditz GA et al. JAMA 1994;271:698-702, as printed in Viechtbauer W. J Stat Softw 2010;36(3):1-48, from which the figures below are."""
STUDIES = st.lists(st.tuples(st.floats(-5, 5), st.floats(1e-4, 10)), min_size=1, max_size=15)


def run(path: Path, text: str, *arguments: str) -> tuple[int, dict[str, Any], str]:
    path.write_text(text, encoding="utf-8")
    found = CliRunner().invoke(app, ["pool", str(path), *arguments, "--json"])
    return found.exit_code, json.loads(found.stdout) if found.stdout else {}, found.stderr


@pytest.mark.parametrize(
    ("arguments", "estimate", "se", "tau2", "q"),
    [
        ("--measure RR --model random", -0.7145, 0.1798, 0.3132, 152.2330),
        ("--measure RR --model random --tau2 DL", -0.7141, 0.1787, 0.3088, 152.2330),
        ("--measure RR --model random --tau2 DL --interval hk", -0.7141, 0.1807, 0.3088, 152.2330),
        ("--measure RR --model fixed", -0.4303, 0.0405, 0, 152.2330),
        ("--measure OR --model fixed --weights mh", -0.4734, 0.0410, 0, 163.9426),
        ("--measure OR --model fixed --weights peto", -0.4744, 0.0407, 0, 167.7302),
    ],
)
def test_trials_of_a_vaccine_give_the_printed_figures(
    tmp_path: Path, arguments: str, estimate: float, se: float, tau2: float, q: float
) -> None:
    code, found, said = run(tmp_path / "bcg.csv", BCG, *arguments.split())
    assert (code, said) == (0, "")
    assert found["k"] == 13
    assert found["pooled"]["estimate"] == pytest.approx(estimate, abs=6e-5)
    assert found["pooled"]["se"] == pytest.approx(se, abs=6e-5)
    assert found["tau2"] == pytest.approx(tau2, abs=6e-5)
    assert found["q"] == pytest.approx(q, abs=6e-4)
    assert sum(it["weight"] for it in found["studies"]) == pytest.approx(100)
    assert found["pooled"]["ratio"] == pytest.approx(math.exp(found["pooled"]["estimate"]))


def test_what_is_looked_at_closer_gives_the_printed_figures(tmp_path: Path) -> None:
    options = [
        "--measure",
        "RR",
        "--model",
        "random",
        "--moderator",
        "latitude",
        "--subgroup",
        "allocation",
        "--leave-one-out",
        "--cumulative",
        "latitude",
        "--asymmetry",
    ]
    code, found, _ = run(tmp_path / "bcg.csv", BCG, *options)
    assert code == 0
    regression = found["regression"]
    assert [(it["name"], round(it["estimate"], 4), round(it["se"], 4)) for it in regression["coefficients"]] == [("intercept", 0.2515, 0.2491), ("latitude", -0.0291, 0.0072)]  # fmt: skip
    assert regression["tau2"] == pytest.approx(0.0764, abs=2e-4), "printed where the iteration ended; the maximum is at 0.0763"
    assert (regression["qe"], regression["qm"]) == (pytest.approx(30.7331, abs=1e-4), pytest.approx(16.3571, abs=2e-3))
    assert regression["qe_df"] == 11
    assert regression["r2"] == pytest.approx(100 * (1 - 0.0764 / 0.3132), abs=0.05)
    assert [(it["name"], it["k"]) for it in found["subgroups"]["groups"]] == [("random", 7), ("alternate", 2), ("systematic", 4)]
    assert found["subgroups"]["q_df"] == 2
    assert len(found["without"]) == len(found["cumulative"]) == 13
    assert found["cumulative"][-1]["pooled"]["estimate"] == pytest.approx(found["pooled"]["estimate"])
    assert [it["study"] for it in found["cumulative"]][:3] == ["5", "8", "11"]
    assert found["asymmetry"]["df"] == 11


def test_every_estimator_agrees_with_a_second_computation_of_40_digits() -> None:
    y, v = [0.1, 0.9, -0.4, 1.3, 0.2], [0.04, 0.2, 0.11, 0.3, 0.02]
    with mpmath.workdps(40):
        ys, vs = [mpmath.mpf(repr(it)) for it in y], [mpmath.mpf(repr(it)) for it in v]

        def q(tau2: Any) -> Any:
            w = [1 / (it + tau2) for it in vs]
            centre = sum(a * b for a, b in zip(w, ys, strict=True)) / sum(w)
            return sum(a * (b - centre) ** 2 for a, b in zip(w, ys, strict=True))

        paule = mpmath.findroot(lambda it: q(it) - 4, mpmath.mpf("0.2"))

        def restricted(tau2: Any) -> Any:
            w = [1 / (it + tau2) for it in vs]
            return (sum(map(mpmath.log, w)) - mpmath.log(sum(w)) - q(tau2)) / 2

        reml = mpmath.findroot(lambda it: mpmath.diff(restricted, it), mpmath.mpf("0.2"))
    assert between(np.array(y), np.array(v), "PM") == pytest.approx(float(paule), rel=1e-10)
    assert between(np.array(y), np.array(v), "REML") == pytest.approx(float(reml), rel=1e-8)


@given(STUDIES, st.sampled_from(TAU2), st.floats(0.01, 100))
@example([(0.875, 3.0)], "REML", 1.0)
@settings(max_examples=60, deadline=None)
def test_order_sign_and_scale_do_what_they_must(studies: list[tuple[float, float]], method: str, scale: float) -> None:
    y, v = np.array([it[0] for it in studies]), np.array([it[1] for it in studies])
    model = Model(True, method)
    one = pool(y, v, model)
    assert one.tau2 >= 0
    for other, factor in ((pool(y[::-1], v[::-1], model), 1.0), (pool(-y, v, model), -1.0), (pool(y * scale, v * scale**2, model), scale)):
        assert other.tau2 == pytest.approx(one.tau2 * factor**2, rel=1e-5, abs=1e-9 * max(1, factor**2))
        assert other.pooled.estimate == pytest.approx(one.pooled.estimate * factor, rel=1e-5, abs=1e-7 * max(1, abs(factor)))
    if len(studies) == 1:
        assert (one.q, one.i2, one.tau2, one.pooled.estimate) == (0, 0, 0, pytest.approx(y[0]))


def test_swapping_the_arms_negates() -> None:
    one = {"events1": 4.0, "total1": 120.0, "events2": 0.0, "total2": 139.0}
    two = {"events1": 0.0, "total1": 139.0, "events2": 4.0, "total2": 120.0}
    for measure in ("OR", "RR", "RD"):
        a, b = effect(measure, one), effect(measure, two)
        assert a.estimate == pytest.approx(-b.estimate)  # type: ignore[operator]
        assert a.variance == pytest.approx(b.variance)


@pytest.mark.parametrize(
    ("row", "column"),
    [
        ("x,1,10,2,", "total2"), ("x,one,10,2,9", "events1"), ("x,inf,10,2,9", "events1"), ("x,-1,10,2,9", "events1"), ("x,11,10,2,9", "events1"),
        ("x,0,0,2,9", "total1"), ("x,1,10,2,9,7", ""),
    ],
)  # fmt: skip
def test_bad_rows_are_told_and_the_rest_is_pooled(tmp_path: Path, row: str, column: str) -> None:
    path = tmp_path / "bad.csv"
    head = "study,events1,total1,events2,total2\n"
    code, found, said = run(path, f"{head}a,3,20,5,22\n\n{row}\nb,0,20,0,22\nb,2,20,6,22\n", "--measure", "OR", "--model", "random")
    assert code == 1
    assert [(it["line"], it["column"]) for it in found["problems"]] == [(4, column)]
    assert f"bad.csv:4: {column}" in said
    assert "“b” occurs 2 times" in said
    assert [(it["line"], it["left_out"]) for it in found["studies"]] == [(2, None), (5, "no events in either arm"), (6, None)]
    assert found["k"] == 2
    code, found, _ = run(path, f"{head}{row}\n", "--measure", "OR", "--model", "random")
    assert (code, found) == (2, {})


@pytest.mark.parametrize(
    "wrong",
    ["--measure XX --model random", "--measure OR --model fixed --interval hk", "--measure OR --model fixed --tau2 DL", "--measure OR --model random --level 95", "--measure OR --model random --correction -1", "--measure RR --model fixed --weights peto", "--measure OR --model random --weights mh", "--measure MD --model random", "--measure OR --model random --subgroup nowhere"],
)  # fmt: skip
def test_wrong_usage_ends_with_2(tmp_path: Path, wrong: str) -> None:
    assert run(tmp_path / "bcg.csv", BCG, *wrong.split())[:2] == (2, {})


def test_pictures_hold_every_study_as_text_whatever_its_name(tmp_path: Path) -> None:
    hostile = BCG.replace("\n1,", '\n"<script>alert(1)</script> & ""Söhne""\x0b",', 1)
    pictures = {kind: tmp_path / f"forest.{kind}" for kind in ("svg", "png", "pdf")}
    for path in pictures.values():
        options = ("--measure", "RR", "--model", "random", "--forest", str(path), "--funnel", str(path.with_name("funnel" + path.suffix)))
        assert run(tmp_path / "bcg.csv", hostile, *options)[0] == 0
    svg = pictures["svg"].read_text(encoding="utf-8")
    drawn = ElementTree.fromstring(svg)
    assert "<script" not in svg
    assert len(drawn.findall(".//{*}rect")) == 1 + 13, "a sheet, and a square for each study"
    assert "0.49 [0.34, 0.70]" in [it.text for it in drawn.iter("{http://www.w3.org/2000/svg}text")]
    assert len(ElementTree.parse(tmp_path / "funnel.svg").findall(".//{*}circle")) == 13
    assert pictures["png"].read_bytes().startswith(b"\x89PNG")
    assert pictures["pdf"].read_bytes().startswith(b"%PDF")
    assert run(tmp_path / "bcg.csv", BCG, "--measure", "RR", "--model", "random", "--forest", str(tmp_path / "forest.gif"))[0] == 2
