"""Agreement of reviewers, against published examples and by definition."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from kettlesort.cli import app
from kettlesort.core.agreement import ac1, compare, fleiss_kappa, kappa, pabak

WORDS = st.sampled_from(["include", "exclude", "unsure", ""])


def test_kappa_and_its_error_are_those_of_the_published_example() -> None:
    """Fleiss JL, Cohen J, Everitt BS. Psychol Bull 1969;72:323-327, table 1: kappa 0.429, and variance 0.00285 of 200 subjects."""
    table = np.array([[0.53, 0.05, 0.02], [0.11, 0.14, 0.05], [0.01, 0.06, 0.03]]) * 200
    found, error = kappa(table)
    assert found == pytest.approx(0.429, abs=5e-4)
    assert error is not None
    assert error**2 == pytest.approx(0.002885, abs=5e-5)


def test_fleiss_kappa_is_that_of_the_published_example() -> None:
    """Fourteen raters, ten subjects, five categories: kappa 0.210 (Fleiss JL 1971's formula, as often printed)."""
    counts = np.array(
        [[0, 0, 0, 0, 14], [0, 2, 6, 4, 2], [0, 0, 3, 5, 6], [0, 3, 9, 2, 0], [2, 2, 8, 1, 1], [7, 7, 0, 0, 0], [3, 2, 6, 3, 0], [2, 5, 3, 2, 2], [6, 5, 2, 1, 0], [0, 2, 2, 3, 7]],
        dtype=float,
    )  # fmt: skip
    assert fleiss_kappa(counts) == pytest.approx(0.20993, abs=1e-5)


def test_ac1_withstands_a_rare_word_where_kappa_falls() -> None:
    """118 of 125 agreed on the common word (Gwet KL. Br J Math Stat Psychol 2008;61:29-48, table 1): kappa -0.0234, AC1 0.9408."""
    table = np.array([[118.0, 5.0], [2.0, 0.0]])
    assert kappa(table)[0] == pytest.approx(-0.0234, abs=5e-4)
    assert ac1(table) == pytest.approx(0.9408, abs=5e-4)
    assert pabak(table) == pytest.approx(2 * 118 / 125 - 1)


def test_what_is_not_defined_is_none() -> None:
    both = compare(["a", "b"], [["include", "include"]] * 3)
    assert both.pairs[0][3:] == (1.0, None, None, None, None, None)
    assert both.fleiss == (3, 2, None)
    apart = compare(["a", "b"], [["include", ""], ["", "exclude"]])
    assert apart.pairs[0][2:] == (0, None, None, None, None, None, None)
    assert apart.differ == []


@given(st.lists(st.tuples(WORDS, WORDS, WORDS), min_size=1, max_size=30))
def test_reviewers_and_words_have_no_order(rows: list[tuple[str, str, str]]) -> None:
    one, two = compare(["a", "b", "c"], rows), compare(["c", "b", "a"], [row[::-1] for row in rows])
    assert one.differ == two.differ
    named = {it[:2]: it[2:] for it in two.pairs}
    for it in one.pairs:
        for x, y in zip(it[2:], named[it.b, it.a], strict=True):
            assert x == (pytest.approx(y, abs=1e-9) if y is not None else None)
        if it.agreement == 1 and it.kappa is not None:
            assert (it.kappa, it.kappa_se) == (pytest.approx(1), pytest.approx(0, abs=1e-6))
        assert it.kappa is None or it.kappa <= 1 + 1e-12


def run(path: Path, text: str | bytes, *arguments: str) -> tuple[int, dict[str, object], str]:
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    found = CliRunner().invoke(app, ["agree", str(path), "--json", *arguments])
    return found.exit_code, json.loads(found.stdout) if found.stdout else {}, found.stderr


def test_the_command_reads_any_table_and_tells_what_is_wrong(tmp_path: Path) -> None:
    path = tmp_path / "who.csv"
    code, found, said = run(
        path, "\ufeffBo;Record;Ann \r\n include ;r1;include\r\n\r\nexclude;r2;Exclude\r\n;r3;include\r\n".encode("utf-16")
    )
    assert code == 0
    assert found["disagreements"] == ["r2"], "“Exclude” and “exclude” are two words"
    assert [(it["a"], it["b"], it["n"]) for it in found["pairs"]] == [("Bo", "Ann", 2)]  # type: ignore[attr-defined]
    code, found, said = run(path, "record,Ann,Bo\nr1,include,include,what\n,include,exclude\nr1,exclude,include\nr1,include,exclude\n")
    assert code == 1
    assert "who.csv:2: 1 values too many" in said
    assert "who.csv:3: record: is empty" in said
    assert "occurs 2 times" in said
    for text, why in (("", "the table is empty"), ("id,Ann,Bo\n", "no column named record"), ("record,Ann\n", "at least two"), ("record,Ann,ann\n", "two columns are named"), ("record,Ann,Bo\n", "no row")):  # fmt: skip
        code, found, said = run(path, text)
        assert (code, found) == (2, {})
        assert why in said
