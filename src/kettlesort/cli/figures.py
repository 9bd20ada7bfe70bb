"""Commands on tables of figures."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import Annotated

import typer

from kettlesort.cli.common import Out, app, done, json_of, say, stop, write
from kettlesort.core.tables import NotATable, Problem, Row, Table, folded, table_of

TableFile = Annotated[Path, typer.Argument(metavar="TABLE.csv", help="A table; its first line names the columns.")]
AsJson = Annotated[bool, typer.Option("--json", help="As JSON, which is the only form there is.")]


def read_table(path: Path) -> Table:
    """A table from a file; ends with exit code 2 when there is none."""
    from kettlesort.core.formats.source import TextSource

    try:
        with path.open("rb") as file:
            source = TextSource(file)
            text = "".join(source)
    except OSError as error:
        stop(f"{path}: cannot be opened: {error.strerror or error}")
    for problem in source.problems:
        say(f"{path}:{problem.line}: {problem.message}")
    try:
        return table_of(text)
    except NotATable as error:
        stop(f"{path}: {error}")


def tell(path: Path, problems: Iterable[Problem]) -> None:
    """Say each problem with file, line and column."""
    for problem in problems:
        say(f"{path}:{problem.line}: {f'{problem.column}: ' if problem.column else ''}{problem.message}")


@app.command()
def agree(table: TableFile, as_json: AsJson = True, out: Out = None) -> None:
    """How far reviewers agree: a column `record`, and one for each reviewer with a word in each cell."""
    from kettlesort.core.agreement import compare

    found = read_table(table)
    if found.lacks(["record"]):
        stop(f"{table}: no column named record")
    reviewers = [name for name in found.columns if name and name.casefold().strip() != "record"]
    if len(reviewers) < 2:
        stop(f"{table}: {len(reviewers)} reviewers; at least two are needed, a column each")
    problems: list[Problem] = []
    records: list[str] = []
    seen: list[list[str]] = []
    for row in found.rows:
        if row.beyond:
            problems.append(Problem(row.line, "", f"{row.beyond} values too many"))
        elif not row.cells.get("record"):
            problems.append(Problem(row.line, "record", "is empty"))
        else:
            records.append(row.cells["record"])
            seen.append([row.cells.get(folded(name), "") for name in reviewers])
    tell(table, problems)
    twice = sorted({name for name in records if records.count(name) > 1}) if len(set(records)) < len(records) else []
    for name in twice:
        say(f"{table}: record “{name}” occurs {records.count(name)} times; each row counts")
    if not records:
        stop(f"{table}: no row that can be read")
    told = compare(reviewers, seen)
    for pair in told.pairs:
        if pair.kappa is None:
            reason = "no record was seen by both" if not pair.n else "both always said one word"
            say(f"{table}: kappa of {pair.a} and {pair.b} is not defined: {reason}")
    if told.fleiss.kappa is None:
        reason = "no record was seen by all" if not told.fleiss.n else "all always said one word"
        say(f"{table}: Fleiss' kappa is not defined: {reason}")
    result = {
        "pairs": [agreement._asdict() for agreement in told.pairs],
        "fleiss": told.fleiss._asdict(),
        "disagreements": [records[k] for k in told.differ],
    }
    write(out, json_of(result))
    done(not problems)


@app.command()
def remaining(
    file: Annotated[
        Path, typer.Argument(metavar="FILE.jsonl", help='One screening a line: {"records": N, "answers": [1, 0, …], "random": k}.')
    ],
    as_json: AsJson = True,
    out: Out = None,
) -> None:
    """How many included records are still out there, and how likely what was seen would be if recall were below 95 %."""
    import json

    from kettlesort.core.screening import stopping

    try:
        lines = file.read_bytes().removeprefix(b"\xef\xbb\xbf").splitlines()
    except OSError as error:
        stop(f"{file}: cannot be opened: {error.strerror or error}")
    told: list[bytes] = []
    complete, readable = True, False
    for number, line in enumerate(lines, 1):
        if not line.strip():
            continue
        try:
            one = stopping.remaining(*_screening(json.loads(line)))
        except (ValueError, RecursionError) as error:
            problem = "is not JSON" if isinstance(error, (json.JSONDecodeError, UnicodeDecodeError, RecursionError)) else str(error)
            say(f"{file}:{number}: {problem}")
            told.append(json_of({"line": number, "problem": problem}))
            complete = False
            continue
        readable = True
        result = {"left": one.left._asdict(), "recall": one.recall._asdict() if one.recall else None}
        told.append(json_of({**result, "p95": one.p95, "method": one.method, "assumptions": one.assumptions}))
    if not told:
        stop(f"{file}: no line")
    write(out, b"".join(told))
    if not readable:
        raise typer.Exit(2)
    done(complete)


def _screening(said: object) -> tuple[int, list[int], int]:
    """The three parts of a line; ValueError tells what is wrong with them."""
    if not isinstance(said, dict):
        raise ValueError("is not an object")
    records, answers, random = said.get("records"), said.get("answers"), said.get("random", 0)
    if type(records) is not int or records < 0:
        raise ValueError("“records” is not a whole number from 0")
    if not isinstance(answers, list) or any(
        answer is not True and answer is not False and not (type(answer) is int and answer in (0, 1)) for answer in answers
    ):
        raise ValueError("“answers” is not a list of 0 and 1")
    if type(random) is not int or random < 0:
        raise ValueError("“random” is not a whole number from 0")
    if len(answers) > records:
        raise ValueError(f"{len(answers)} answers about {records} records")
    if random > len(answers):
        raise ValueError(f"{random} random ones among {len(answers)} answers")
    return records, [int(answer) for answer in answers], random


_PAIRED = ("difference", "p", "n1", "n2", "ratio")


@app.command()
def derive(
    table: TableFile,
    combine: Annotated[str | None, typer.Option(help="Groups that have the same name in this column become one.")] = None,
    as_json: AsJson = True,
    out: Out = None,
) -> None:
    """Mean and SD from what a report gives instead: standard error, interval, quartiles, range, p, a ratio with its interval."""
    from kettlesort.core.pooling import derive as deriving

    found = read_table(table)
    known = [name for name in (*deriving.GIVENS, *_PAIRED) if found.has(name)]
    if not known:
        stop(f"{table}: none of the columns {', '.join((*deriving.GIVENS, *_PAIRED))}")
    if combine is not None and not found.has(combine):
        stop(f"{table}: no column named {combine}")
    if not found.rows:
        stop(f"{table}: no rows")
    problems: list[Problem] = []
    rows: list[dict[str, object]] = []
    named: dict[str, list[tuple[float, float, float] | None]] = {}
    for row in found.rows:
        told: dict[str, object] = {"line": row.line, "n": None, "mean": None, "sd": None, "mean_by": None, "sd_by": None}
        values, wrong = _numbers(found, row, known)
        try:
            if not wrong:
                told |= _derived(values)
        except deriving.Contradiction as error:
            wrong.append(Problem(row.line, error.column, str(error)))
        problems += wrong
        rows.append(told)
        if combine is not None:
            name = row.cells.get(folded(combine), "")
            parts = (told["n"], told["mean"], told["sd"])
            whole = None if wrong or None in parts else parts
            if name:
                named.setdefault(name, []).append(whole)  # type: ignore[arg-type]
            else:
                say(f"{table}:{row.line}: {combine}: is empty; the row is in no group")
    combined = []
    for name, groups in named.items():
        full = [group for group in groups if group is not None]
        n, mean, sd = deriving.joined(full) if len(full) == len(groups) else (None, None, None)
        combined.append({"name": name, "n": n, "mean": mean, "sd": sd})
    tell(table, problems)
    write(out, json_of({"rows": rows, "combined": combined, "problems": [problem._asdict() for problem in problems]}))
    done(not problems)


def _numbers(table: Table, row: Row, columns: list[str]) -> tuple[dict[str, float], list[Problem]]:
    """The numbers of a row that are there, and what is wrong with the others."""
    wrong = [Problem(row.line, "", f"too many values: {row.beyond} beyond the last column")] if row.beyond else []
    values: dict[str, float] = {}
    for name in columns:
        if row.cells.get(folded(name)):
            problem = table.number(row, name)
            if isinstance(problem, Problem):
                wrong.append(problem)
            else:
                values[name] = problem
    return values, wrong


def _derived(values: dict[str, float]) -> dict[str, object]:
    """What a row's numbers give; raises Contradiction."""
    from kettlesort.core.pooling import derive as deriving

    if "ratio" in values:
        if missing := next((name for name in ("ci_low", "ci_high") if name not in values), None):
            raise deriving.Contradiction(missing, "is empty; a ratio needs its interval")
        estimate, se = deriving.of_ratio(values["ratio"], values["ci_low"], values["ci_high"], values.get("level", deriving.LEVEL))
        return {"estimate": estimate, "se": se}
    if "difference" in values or "p" in values:
        if missing := next((name for name in ("difference", "p", "n1", "n2") if name not in values), None):
            raise deriving.Contradiction(missing, "is empty; a difference needs p, n1 and n2")
        se, sd = deriving.of_difference(values["difference"], values["p"], values["n1"], values["n2"])
        return {"se": se, "sd": sd, "sd_by": "t"}
    derived = deriving.derive(deriving.Group(**{name: value for name, value in values.items() if name in deriving.GIVENS}))
    if derived.mean is None and derived.sd is None:
        raise deriving.Contradiction("", "neither mean nor SD can be had from what is given")
    n = values.get("n")
    return {
        "n": int(n) if n is not None else None,
        "mean": derived.mean,
        "sd": derived.sd,
        "mean_by": derived.mean_by or None,
        "sd_by": derived.sd_by or None,
    }
