"""The command-line contract."""

from __future__ import annotations

import csv
import json
import subprocess
import sys
from pathlib import Path
from typing import NamedTuple

import pytest
from typer.testing import CliRunner

from kettlesort.cli import app

FILES = Path(__file__).parents[2] / "demo" / "files"


class Done(NamedTuple):
    returncode: int
    stdout: str
    stderr: str


def run(*arguments: object) -> Done:
    result = CliRunner().invoke(app, [str(it) for it in arguments])
    return Done(result.exit_code, result.stdout, result.stderr)


def test_the_installed_command_answers_without_a_trace_of_python() -> None:
    command = Path(sys.executable).parent / "kettlesort"
    done = subprocess.run([command, "read", FILES / "northern-theses.bib", "/nowhere"], capture_output=True, text=True, check=False)
    assert done.returncode == 1
    assert "129 records" in done.stdout
    assert "/nowhere: cannot be opened: No such file or directory" in done.stderr
    assert "Traceback" not in done.stderr


def table(path: Path) -> list[dict[str, str]]:
    return list(csv.DictReader(path.open(encoding="utf-8")))


def test_read_describes_every_file_and_tells_problems() -> None:
    done = run("read", *sorted(FILES.glob("*.*")), "--json")
    files = {Path(it["path"]).name: it for it in json.loads(done.stdout)["files"]}
    assert done.returncode == 0  # headings before the first record are said, and no record is lost by them
    assert {name: it["records"] for name, it in files.items()} == {
        "agrarica-2026-02-part-1.txt": 206, "agrarica-2026-02-part-2.txt": 212, "apicultural-abstracts.csv": 302, "citation-chasing.ris": 42,
        "beekeepers-archive.ris": 18, "hive-house-list.txt": 26, "hive-trials-register.xlsx": 24, "northern-theses.bib": 129, "vitalis-index.nbib": 391,
    }  # fmt: skip
    assert files["agrarica-2026-02-part-1.txt"]["encoding"] == "Windows-1252"
    assert files["vitalis-index.nbib"]["filled"]["title"] == 391
    assert "hive-trials-register.xlsx:1:" in done.stderr


@pytest.mark.parametrize(
    "arguments",
    [
        ("read", "/nowhere.ris"),
        ("convert", "/nowhere.ris", "--to", "ris"),
        ("convert", FILES / "citation-chasing.ris", "--to", "doc"),
        ("mend",),
    ],
)
def test_wrong_usage_and_nothing_readable_end_with_2_and_without_a_trace(arguments: tuple[object, ...]) -> None:
    done = run(*arguments)
    assert done.returncode == 2
    assert "Traceback" not in done.stderr
    assert done.stderr


def test_convert_goes_to_every_format_and_back(tmp_path: Path) -> None:
    for format in ("ris", "nbib", "bibtex", "csv", "xlsx"):
        out = tmp_path / f"out.{format}"
        assert run("convert", FILES / "citation-chasing.ris", "--to", format, "-o", out).returncode == 0
        assert json.loads(run("read", out, "--json").stdout)["files"][0]["records"] == 42
    csl = json.loads(run("convert", FILES / "citation-chasing.ris", "--to", "csljson").stdout)
    assert len(csl) == 42
    assert csl[0]["author"][0]["family"]


def test_match_gives_one_row_a_record_and_one_kept_record_a_group(tmp_path: Path) -> None:
    copies, pairs, merged = tmp_path / "copies.csv", tmp_path / "pairs.csv", tmp_path / "merged.ris"
    done = run("match", FILES / "citation-chasing.ris", FILES / "vitalis-index.nbib", "-o", copies, "--pairs", pairs, "--merged", merged)
    rows = table(copies)
    assert done.returncode == 0
    assert len(rows) == 433
    assert list(rows[0]) == ["file", "position", "accession", "title", "group", "primary"]
    groups = {row["group"] for row in rows}
    assert sum(row["primary"] == "1" for row in rows) == len(groups) < 433
    assert {row["verdict"] for row in table(pairs)} <= {"same", "unsure"}
    assert json.loads(run("read", merged, "--json").stdout)["files"][0]["records"] == len(groups)


def test_match_under_a_teams_rule_joins_what_its_passes_say_and_trusts_files_in_its_order(tmp_path: Path) -> None:
    rule, copies, merged = tmp_path / "rule.toml", tmp_path / "copies.csv", tmp_path / "merged.ris"
    files = [FILES / "citation-chasing.ris", FILES / "vitalis-index.nbib"]
    rule.write_text('weights = false\ntrust = ["citation-chasing.ris"]\n[[passes]]\nname = "DOI"\nagree = { doi = "exactly" }\n')
    assert run("match", *files, "--rule", rule, "-o", copies, "--merged", merged).returncode == 0
    rows = table(copies)
    dois = [it.get("DOI", "") for file in files for it in json.loads(run("convert", file, "--to", "csljson").stdout)]
    of = {}
    for row, doi in zip(rows, dois, strict=True):
        if doi:
            assert of.setdefault(doi.lower(), row["group"]) == row["group"], "the same DOI is one group"
    assert len({row["group"] for row in rows}) == len(set(of)) + dois.count("")
    rule.write_text('[[passes]]\nname = "DOI"\nagree = { year = 1 }\n')
    done = run("match", *files, "--rule", rule, "-o", copies)
    assert done.returncode == 2
    assert f"{rule}: pass 1: must agree in one of" in done.stderr


def test_rank_puts_every_record_once_and_learns_from_decisions(tmp_path: Path) -> None:
    seeds, out = tmp_path / "seeds.txt", tmp_path / "ranked.csv"
    ids = [entry["id"] for entry in json.loads(run("convert", FILES / "vitalis-index.nbib", "--to", "csljson").stdout)]
    seeds.write_text(f"{ids[0]}\nnot-there\n")
    decisions = tmp_path / "decisions.csv"
    decisions.write_text(f"accession,decision\n{ids[1]},exclude\n{ids[2]},maybe\n")
    done = run("rank", FILES / "vitalis-index.nbib", "--seeds", seeds, "--decisions", decisions, "-o", out)
    rows = table(out)
    assert done.returncode == 1
    assert "not-there" in done.stderr
    assert f"{decisions}:3:" in done.stderr
    assert sorted(row["accession"] for row in rows) == sorted(ids)
    assert [int(row["rank"]) for row in rows] == list(range(1, 392))
    scores = [float(row["score"]) for row in rows]
    assert scores == sorted(scores, reverse=True)


def test_replay_reports_what_ranking_saves(tmp_path: Path) -> None:
    ids = [(entry["id"], entry["title"]) for entry in json.loads(run("convert", FILES / "vitalis-index.nbib", "--to", "csljson").stdout)]
    labels = tmp_path / "labels.csv"
    labels.write_text("accession,label\n" + "".join(f"{id},{int('insulat' in title.lower())}\n" for id, title in ids))
    done = run("replay", FILES / "vitalis-index.nbib", "--labels", labels, "--seeds", 2, "--rng", 5, "--json")
    it = json.loads(done.stdout)
    assert done.returncode == 0
    assert set(it) == {"records", "included", "screened_at", "wss", "mean_discovery", "seconds_per_rerank", "order"}
    assert set(it["screened_at"]) == {"0.95", "0.99", "1.0"}
    assert sorted(it["order"]) == sorted(id for id, _ in ids)
    labels.write_text("accession,label\n")
    assert run("replay", FILES / "vitalis-index.nbib", "--labels", labels, "--seeds", 2, "--json").returncode == 2


def test_a_command_starts_without_what_it_does_not_need() -> None:
    code = "import sys, kettlesort.cli; print(*{name.partition('.')[0] for name in sys.modules})"
    loaded = set(subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True).stdout.split())
    assert not loaded & {
        "numpy",
        "scipy",
        "sklearn",
        "rapidfuzz",
        "lxml",
        "ftfy",
        "faker",
        "bibtexparser",
        "pylatexenc",
        "python_calamine",
        "xlsxwriter",
        "sqlmodel",
        "rich",
    }
