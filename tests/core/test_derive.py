"""Numbers from other numbers, against worked figures and by definition."""

from __future__ import annotations

import json
import math
import statistics
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from scipy.special import stdtrit
from typer.testing import CliRunner

from kettlesort.cli import app
from kettlesort.core.pooling.derive import Contradiction, Derived, Group, derive, doubts, joined, of_difference, of_ratio

VALUES = st.lists(st.floats(-1e4, 1e4), min_size=2, max_size=30)


@pytest.mark.parametrize(
    ("said", "mean", "sd", "by"),
    [
        (Group(n=25, mean=10, sd=3, se=9), 10, 3, ("given", "given")),
        (Group(n=25, mean=10, se=0.6), 10, 3, ("given", "se")),
        (Group(n=25, ci_low=8.76, ci_high=11.24), 10, 2.48 / 2 * 5 / stats.t.ppf(0.975, 24), ("interval", "interval")),
        (Group(n=25, mean=10, ci_low=9, ci_high=11, level=0.9), 10, 5 / stats.t.ppf(0.95, 24), ("given", "interval")),
        (Group(n=100, median=10, q1=8, q3=12), 10, 4 / (2 * stats.norm.ppf((75 - 0.125) / 100.25)), ("quartiles", "quartiles")),
        (Group(n=100, q1=8, q3=12), None, 4 / (2 * stats.norm.ppf((75 - 0.125) / 100.25)), ("", "quartiles")),
        (Group(n=16, median=12, min=6, max=20), 4 / 12 * 13 + 8 / 12 * 12, 14 / (2 * stats.norm.ppf(15.625 / 16.25)), ("range", "range")),
        (Group(mean=4), 4, None, ("given", "")),
    ],
)  # fmt: skip
def test_the_first_way_that_can_be_had_is_taken(said: Group, mean: float | None, sd: float | None, by: tuple[str, str]) -> None:
    assert derive(said) == Derived(None if mean is None else pytest.approx(mean), None if sd is None else pytest.approx(sd), *by)


def test_quantiles_of_many_normal_values_give_back_their_mean_and_sd() -> None:
    values = 50 + 8 * stats.norm.ppf((np.arange(400) + 0.5) / 400)
    low, q1, median, q3, high = np.quantile(values, [0, 0.25, 0.5, 0.75, 1]).tolist()
    for it in (Group(n=400, median=median, q1=q1, q3=q3), Group(n=400, median=median, q1=q1, q3=q3, min=low, max=high)):
        found = derive(it)
        assert found.mean == pytest.approx(50, abs=1)
        assert found.sd == pytest.approx(8, abs=0.7)


@given(st.lists(VALUES, min_size=1, max_size=4))
def test_groups_joined_are_as_if_all_their_members_were_in_one(groups: list[list[float]]) -> None:
    n, mean, sd = joined([(len(it), statistics.fmean(it), statistics.stdev(it)) for it in groups])
    together = [value for it in groups for value in it]
    assert n == len(together)
    assert mean == pytest.approx(statistics.fmean(together), abs=1e-6)
    assert sd == pytest.approx(statistics.stdev(together), abs=1e-5, rel=1e-6)


def test_a_p_value_and_a_ratio_give_back_the_errors_that_they_were_made_of() -> None:
    se, sd = of_difference(-3.0, 2 * stats.t.sf(3 / 1.25, 43), 20, 25)
    assert (se, sd) == (pytest.approx(1.25), pytest.approx(1.25 / math.sqrt(1 / 20 + 1 / 25)))
    estimate, error = of_ratio(0.8, 0.8 * math.exp(-1.645 * 0.2), 0.8 * math.exp(1.645 * 0.2), 0.90003)
    assert (estimate, error) == (pytest.approx(math.log(0.8)), pytest.approx(0.2, abs=1e-4))


@pytest.mark.parametrize(
    ("said", "column"),
    [
        (Group(n=1, mean=3), "n"), (Group(n=10, q1=5, median=4), "q1"), (Group(n=10, mean=3, ci_low=4, ci_high=6), "ci_low"),
        (Group(n=10, mean=3, sd=-1), "sd"), (Group(n=10, min=3, max=1), "min"), (Group(n=10, ci_low=1, ci_high=2, level=95), "level"),
    ],
)  # fmt: skip
def test_what_contradicts_itself_gives_no_figure(said: Group, column: str) -> None:
    with pytest.raises(Contradiction) as told:
        derive(said)
    assert told.value.column == column


@pytest.mark.parametrize(
    ("said", "told"),
    [
        (Group(n=50, mean=12.4, se=0.4, ci_low=11, ci_high=14), ["SE and interval do not go together: SD 2.47 to 3.18 by the one, 3.52 to 7.22 by the other"]),
        (Group(n=25, mean=10, sd=5, se=1), []),
        (Group(n=25, mean=10, sd=5, se=5), ["SD and SE do not go together: SD 4.5 to 5.5 by the one, 22.5 to 27.5 by the other"]),
        (Group(n=12, mean=4.2, se=0.31, ci_low=3.59, ci_high=4.81), []),  # made by z, as many do
        (Group(n=20, sd=9, min=2, max=14), ["SD and the range do not go together: no SD above 6.669 is possible within it"]),
        (Group(sd=9, se=1), []),  # without an n nothing can be said
    ],
)  # fmt: skip
def test_what_does_not_go_together_is_told_but_for_rounding(said: Group, told: list[str]) -> None:
    assert doubts(said) == told


@given(st.integers(2, 500), st.floats(-1e3, 1e3), st.floats(0.05, 1e3), st.integers(0, 4), st.floats(0.5, 0.99))
def test_numbers_of_one_sample_go_together_however_they_are_rounded(n: int, mean: float, sd: float, places: int, level: float) -> None:
    half = stdtrit(n - 1, (1 + level) / 2) * sd / math.sqrt(n)
    said = {"mean": mean, "sd": sd, "se": sd / math.sqrt(n), "ci_low": mean - half, "ci_high": mean + half}
    assert doubts(Group(n=n, level=level, **{name: round(value, places) for name, value in said.items()})) == []


def run(path: Path, text: str, *arguments: str) -> tuple[int, dict[str, list[dict[str, object]]], str]:
    path.write_text(text, encoding="utf-8")
    found = CliRunner().invoke(app, ["derive", str(path), "--json", *arguments])
    return found.exit_code, json.loads(found.stdout) if found.stdout else {}, found.stderr


def test_the_command_tells_each_row_and_joins_groups(tmp_path: Path) -> None:
    path = tmp_path / "groups.csv"
    code, found, _ = run(path, "arm;n;mean;sd;se\nwrap;10;4,5;1,5;\nwrap;20;5,5;;0,4\nplain;12;3,0;1,0;\n", "--combine", "arm")
    assert code == 0
    assert [it["sd_by"] for it in found["rows"]] == ["given", "se", "given"]
    assert [(it["name"], it["n"]) for it in found["combined"]] == [("wrap", 30), ("plain", 12)]
    code, found, said = run(path, "arm,n,mean,sd\nwrap,10,4.5,1.5\nwrap,one,5,2\n\nplain,5,1,1\n", "--combine", "arm")
    assert code == 1
    assert found["problems"] == [{"line": 3, "column": "n", "message": "“one” is not a number"}]
    assert "groups.csv:3: n: “one” is not a number" in said
    assert found["combined"] == [
        {"name": "wrap", "n": None, "mean": None, "sd": None},
        {"name": "plain", "n": 5, "mean": 1.0, "sd": 1.0},
    ]
    code, found, _ = run(path, "difference,p,n1,n2\n2,0.04,20,20\n2,0,20,20\n")
    assert code == 1
    assert found["rows"][0]["sd_by"] == "t"
    assert found["problems"][0]["column"] == "p"
    for text, why in (("", "is empty"), ("n\n", "no rows"), ("who\nx\n", "none of the columns")):
        code, found, said = run(path, text)
        assert (code, found) == (2, {})
        assert why in said
