"""The command line with input that is wrong in part: the rest is done, each problem is told with file and line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.core.test_headless import FILES, run, table

GOOD = FILES / "citation-chasing.ris"


def accessions() -> list[str]:
    return [it["id"] for it in json.loads(run("convert", GOOD, "--to", "csljson").stdout)]


@pytest.fixture
def broken(tmp_path: Path) -> Path:
    path = tmp_path / "broken.ris"
    path.write_text("TI  - lost words\nTY  - JOUR\nTI  - Half a record\nPY  - spring\n")
    return path


@pytest.mark.parametrize("command", ["convert", "match", "rank"])
def test_what_can_be_read_is_done_and_the_exit_code_says_that_something_was_not(command: str, broken: Path, tmp_path: Path) -> None:
    out, seeds = tmp_path / "out", tmp_path / "seeds.txt"
    seeds.write_text(accessions()[0])
    options = {"convert": ["--to", "csv"], "match": [], "rank": ["--seeds", seeds]}[command]
    done = run(command, broken, GOOD, tmp_path / "none.ris", *options, "-o", out)
    assert done.returncode == 1
    assert f"{broken}:1: text outside any record" in done.stderr
    assert f"{broken}:2: “spring” is not a year" in done.stderr or f"{broken}:4: “spring” is not a year" in done.stderr
    assert "none.ris: cannot be opened" in done.stderr
    assert len(table(out)) == 43


def test_an_output_that_cannot_be_written_is_said_and_ends_with_2(tmp_path: Path) -> None:
    done = run("convert", GOOD, "--to", "ris", "-o", tmp_path / "no such folder" / "out.ris")
    assert done.returncode == 2
    assert "cannot be written" in done.stderr


def test_seeds_may_be_records_and_need_not_be_among_those_ranked(tmp_path: Path) -> None:
    seeds, out = tmp_path / "seeds.ris", tmp_path / "out.csv"
    seeds.write_text("TY  - JOUR\nTI  - Wraps and insulation of hives in winter\nER  - \n")
    assert run("rank", GOOD, "--seeds", seeds, "-o", out).returncode == 0
    assert len(table(out)) == 42
    seeds.write_bytes(b"\x00\x01\x02")
    done = run("rank", GOOD, "--seeds", seeds)
    assert done.returncode == 2
    assert done.stderr


@pytest.mark.parametrize(
    ("text", "code", "said"),
    [
        ("accession;decision\n{0};INCLUDE\n", 0, ""),
        ("\ufeffdecision,accession\nexclude,{0}\n\n", 0, ""),
        ("accession,decision\nnobody,include\n", 1, ":2: no record has the accession “nobody”"),
        ("accession,decision\n{0}\n", 1, ":2:"),
        ("accession,verdict\n{0},include\n", 2, ":1: no column named decision"),
        ("", 2, ":1: no column named accession or decision"),
    ],
)
def test_decisions_are_read_in_any_usual_form(text: str, code: int, said: str, tmp_path: Path) -> None:
    seeds, decisions = tmp_path / "seeds.txt", tmp_path / "decisions.csv"
    ids = accessions()
    seeds.write_text(ids[1])
    decisions.write_text(text.format(*ids), encoding="utf-8")
    done = run("rank", GOOD, "--seeds", seeds, "--decisions", decisions)
    assert done.returncode == code
    assert said in done.stderr


@pytest.mark.parametrize(
    ("labels", "said"),
    [
        (lambda ids: [f"{id},1" for id in ids[1:]], "1 records have no label"),
        (lambda ids: [f"{id},0" for id in ids], "included"),
        (lambda ids: [f"{id},yes" for id in ids], "is neither 1 nor 0"),
    ],
)
def test_replay_says_what_is_wrong_with_its_labels(labels, said: str, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "labels.csv"
    path.write_text("accession,label\n" + "\n".join(labels(accessions())))
    done = run("replay", GOOD, "--labels", path, "--seeds", 2)
    assert done.returncode == 2
    assert said in done.stderr
    assert "Traceback" not in done.stderr


def test_results_can_be_read_by_people_too() -> None:
    done = run("read", GOOD)
    assert done.returncode == 0
    assert "42 records" in done.stdout
    assert run("read", GOOD, "--json").stdout.startswith("{")
