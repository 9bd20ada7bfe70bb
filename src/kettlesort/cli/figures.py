"""Commands on tables of figures."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import Annotated

import typer

from kettlesort.cli.common import Out, app, done, json_of, say, stop, write
from kettlesort.core.tables import NotATable, Problem, Table, table_of

TableFile = Annotated[Path, typer.Argument(metavar="TABLE.csv", help="A table; its first line names the columns.")]
AsJson = Annotated[bool, typer.Option("--json", help="As JSON, which is the only form there is.")]


def _read(path: Path) -> Table:
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


def _tell(path: Path, problems: Iterable[Problem]) -> None:
    for it in problems:
        say(f"{path}:{it.line}: {f'{it.column}: ' if it.column else ''}{it.message}")


@app.command()
def agree(table: TableFile, as_json: AsJson = True, out: Out = None) -> None:
    """How far reviewers agree: a column `record`, and one for each reviewer with a word in each cell."""
    from kettlesort.core.screening.agreement import compare

    found = _read(table)
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
            seen.append([row.cells.get(" ".join(name.casefold().split()), "") for name in reviewers])
    _tell(table, problems)
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
        "pairs": [it._asdict() for it in told.pairs],
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
            it = stopping.remaining(*_screening(json.loads(line)))
        except (ValueError, RecursionError) as error:
            problem = "is not JSON" if isinstance(error, (json.JSONDecodeError, UnicodeDecodeError, RecursionError)) else str(error)
            say(f"{file}:{number}: {problem}")
            told.append(json_of({"line": number, "problem": problem}))
            complete = False
            continue
        readable = True
        result = {"left": it.left._asdict(), "recall": it.recall._asdict() if it.recall else None}
        told.append(json_of({**result, "p95": it.p95, "method": it.method, "assumptions": it.assumptions}))
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
        it is not True and it is not False and not (type(it) is int and it in (0, 1)) for it in answers
    ):
        raise ValueError("“answers” is not a list of 0 and 1")
    if type(random) is not int or random < 0:
        raise ValueError("“random” is not a whole number from 0")
    if len(answers) > records:
        raise ValueError(f"{len(answers)} answers about {records} records")
    if random > len(answers):
        raise ValueError(f"{random} random ones among {len(answers)} answers")
    return records, [int(it) for it in answers], random
