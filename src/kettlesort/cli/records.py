"""Commands on files of records: read, convert, match, rank, replay."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, NamedTuple

import typer

from kettlesort.cli.common import Out, app, done, json_of, progress, say, stop, table, write
from kettlesort.core import formats
from kettlesort.core.formats.suspicion import PUT_RIGHT
from kettlesort.core.record import FILLABLE, Record, doi_of

if TYPE_CHECKING:
    from kettlesort.core.matching import Rule

Files = Annotated[list[Path], typer.Argument(metavar="FILE...", help="Files of records; the format is detected from the content.")]


class Input(NamedTuple):
    """What was read: one entry a record, in input order, and whether something could not be read."""

    records: list[Record]
    file: list[str]
    position: list[int]
    complete: bool


def _readings(paths: Sequence[Path]) -> Iterator[tuple[Path, formats.Reading | str]]:
    for path in paths:
        try:
            yield path, _opened(path)
        except formats.NotReadable as error:
            yield path, str(error)
        except OSError as error:
            yield path, f"cannot be opened: {error.strerror or error}"


def _opened(path: Path) -> formats.Reading:
    """A file being read; workbooks and archives, which may ask for any memory, in a process of their own."""
    file = path.open("rb")
    head = file.read(4)
    file.seek(0)
    if head.startswith((b"PK", b"\xd0\xcf\x11\xe0")):
        from kettlesort import apart

        return apart.open_reading(file)
    return formats.open_reading(file)


def _tell(path: Path, reading: formats.Reading) -> list[formats.Problem]:
    """Say what was odd in a file; those of it by which something could not be read."""
    for problem in reading.problems:
        say(f"{path}:{problem.line}: {problem.message}")
    for suspicion in reading.settled.said(PUT_RIGHT):
        lines = ", ".join(str(place.line) for place in suspicion.places[:5])
        say(
            f"{path}: {suspicion.records} {'record' if suspicion.records == 1 else 'records'}: {suspicion.message} (line {lines}{', …' if suspicion.records > 5 else ''})"
        )
    return [problem for problem in reading.problems if not problem.remark]


def _read_all(paths: Sequence[Path]) -> Input:
    """Every record of every file. Stops with exit code 2 when nothing is readable."""
    found = Input([], [], [], True)
    complete = True
    for path, reading in _readings(paths):
        if isinstance(reading, str):
            say(f"{path}: {reading}")
            complete = False
            continue
        for entry in reading:
            found.records.append(entry.record)
            found.file.append(str(path))
            found.position.append(entry.position)
        complete = not _tell(path, reading) and complete
    if not found.records:
        stop("nothing readable")
    return found._replace(complete=complete)


@app.command()
def read(files: Files, as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False, out: Out = None) -> None:
    """What each file was read as, how many records it holds, how full each field is, and every problem."""
    described: list[dict[str, Any]] = []
    complete, readable = True, False
    for path, reading in _readings(files):
        if isinstance(reading, str):
            say(f"{path}: {reading}")
            complete = False
            described.append(
                {
                    "path": str(path),
                    "format": None,
                    "encoding": None,
                    "records": 0,
                    "problems": [{"line": 0, "message": reading}],
                    "filled": {},
                }
            )
            continue
        filled = dict.fromkeys(FILLABLE, 0)
        for entry in reading:
            for name in FILLABLE:
                filled[name] += bool(getattr(entry.record, name))
        readable = readable or reading.records > 0
        told = _tell(path, reading)
        complete = complete and not told
        problems = [{"line": problem.line, "message": problem.message} for problem in told]
        described.append(
            {"path": str(path), "format": reading.format, "encoding": reading.encoding, "records": reading.records, "problems": problems, "filled": filled}
        )  # fmt: skip
    if as_json:
        write(out, json_of({"files": described}))
    else:
        lines = [
            f"{one['path']}: {one['format'] or 'not readable'}, {one['records']} records, {len(one['problems'])} problems"
            for one in described
        ]
        write(out, ("\n".join(lines) + "\n").encode())
    if not readable:
        raise typer.Exit(2)
    done(complete)


@app.command()
def convert(files: Files, to: Annotated[str, typer.Option("--to", help=", ".join(formats.WRITABLE))], out: Out = None) -> None:
    """All records of the files as one file of another format."""
    if to not in formats.WRITABLE:
        stop(f"--to {to}: one of {', '.join(formats.WRITABLE)}")
    found = _read_all(files)
    data = io.BytesIO()
    formats.write(found.records, to, data)
    write(out, data.getvalue())
    done(found.complete)


@app.command()
def match(
    files: Files,
    out: Out = None,
    pairs: Annotated[Path | None, typer.Option(help="Write the pairs, joined and unsure, here.")] = None,
    merged: Annotated[Path | None, typer.Option(help="Write one RIS record a group here.")] = None,
    rule: Annotated[
        Path | None, typer.Option(help="The team's rule of matching, as the application exports it; its sources are names of files.")
    ] = None,
) -> None:
    """Which records are copies of each other."""
    from kettlesort.core import matching

    agreed = _rule_of(rule) if rule else matching.Rule()
    found = _read_all(files)
    with progress("Matching") as tick:
        result = matching.match(found.records, rule=agreed, sources=[Path(name).name for name in found.file], tick=tick)
    groups = result.groups.all()
    trust = {name: k for k, name in enumerate(agreed.trust)}
    ranks = [trust.get(Path(name).name, len(trust)) for name in found.file] if trust else []

    def merge(group: list[int]) -> Record:
        return matching.merge([found.records[k] for k in group], [ranks[k] for k in group] if trust else ())[0]

    kept = {group[matching.primary([found.records[k] for k in group])] for group in groups}
    number = {k: n for n, group in enumerate(groups, 1) for k in group}
    rows: list[Sequence[object]] = [("file", "position", "accession", "title", "group", "primary")]
    for k, record in enumerate(found.records):
        rows.append((found.file[k], found.position[k], record.accession, record.title, number[k], int(k in kept)))
    write(out, table(rows))
    if pairs:
        rows = [("left_file", "left_position", "right_file", "right_position", "score", "verdict")]
        for pair in result.pairs:
            left, right = (found.file[pair.left], found.position[pair.left]), (found.file[pair.right], found.position[pair.right])
            rows.append((*left, *right, round(pair.score, 3), pair.verdict))
        write(pairs, table(rows))
    if merged:
        data = io.BytesIO()
        formats.write(map(merge, groups), "ris", data)
        write(merged, data.getvalue())
    done(found.complete)


def _rule_of(path: Path) -> Rule:
    from kettlesort.core import matching

    try:
        return matching.rule_of(path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        stop(f"{path}: cannot be read as text: {error}")
    except matching.NotARule as error:
        stop(f"{path}: {error}")


def _column_rows(path: Path, columns: tuple[str, str]) -> Iterator[tuple[int, str, str]]:
    """Line, first and second column of a CSV file with these two named columns."""
    try:
        text = path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError:
        text = path.read_text(encoding="cp1252", errors="replace")
    except OSError as error:
        stop(f"{path}: cannot be opened: {error.strerror or error}")
    reader = csv.reader(io.StringIO(text), delimiter=max((",", ";", "\t"), key=text.partition("\n")[0].count))
    header = [name.strip().lower() for name in next(reader, [])]
    missing = [name for name in columns if name not in header]
    if missing:
        stop(f"{path}:1: no column named {' or '.join(missing)}")
    first, second = header.index(columns[0]), header.index(columns[1])
    for row in reader:
        if len(row) > max(first, second):
            yield reader.line_num, row[first].strip(), row[second].strip()
        elif any(cell.strip() for cell in row):
            yield reader.line_num, "", ""


def _seed_keys(path: Path) -> tuple[list[Record], list[str], bool]:
    """Seeds as records, or as identifiers one a line."""
    try:
        with path.open("rb") as file:
            reading = formats.open_reading(file)
            records = [entry.record for entry in reading]
            told = _tell(path, reading)
            if records and reading.format != "identifiers":
                return records, [], not told
    except OSError as error:
        stop(f"{path}: cannot be opened: {error.strerror or error}")
    except formats.NotReadable:
        pass
    lines = [line.strip() for line in path.read_text(encoding="utf-8-sig", errors="replace").splitlines() if line.strip()]
    if any("\x00" in line for line in lines):
        stop(f"{path}: neither records nor identifiers")
    return [], lines, True


def _places(found: Input) -> tuple[dict[str, list[int]], dict[str, list[int]]]:
    by_accession: dict[str, list[int]] = {}
    by_doi: dict[str, list[int]] = {}
    for k, record in enumerate(found.records):
        if record.accession:
            by_accession.setdefault(record.accession.lower(), []).append(k)
        if record.doi:
            by_doi.setdefault(record.doi, []).append(k)
    return by_accession, by_doi


@app.command()
def rank(
    files: Files,
    seeds: Annotated[Path, typer.Option(help="Records, or one accession or DOI a line.")],
    decisions: Annotated[Path | None, typer.Option(help="CSV of accession,decision with include or exclude.")] = None,
    out: Out = None,
) -> None:
    """All records in the order of closeness to the seeds."""
    from kettlesort.core import ranking  # takes seconds to load, and the other commands need none of it

    found = _read_all(files)
    complete = found.complete
    by_accession, by_doi = _places(found)
    seed_records, keys, seeds_complete = _seed_keys(seeds)
    complete = complete and seeds_complete
    belong: set[int] = set()
    outside: list[Record] = []
    for line, key in enumerate(keys, 1):
        places = by_accession.get(key.lower()) or by_doi.get(doi_of(key) or "-") or []
        if not places:
            say(f"{seeds}:{line}: “{key}” is the accession or DOI of no record")
            complete = False
        belong.update(places)
    for record in seed_records:
        places = by_doi.get(record.doi or "-") or by_accession.get(record.accession.lower() or "\0") or []
        belong.update(places)
        if not places:
            outside.append(record)
    if not belong and not outside:
        stop(f"{seeds}: no seed")
    excluded: set[int] = set()
    for line, accession, decision in _column_rows(decisions, ("accession", "decision")) if decisions else ():
        places = by_accession.get(accession.lower()) or []
        if not places or decision.lower() not in ("include", "exclude"):
            reason = f"“{decision}” is neither include nor exclude" if places else f"no record has the accession “{accession}”"
            say(f"{decisions}:{line}: {reason}")
            complete = False
            continue
        for k in places:
            (belong if decision.lower() == "include" else excluded).add(k)
            (excluded if decision.lower() == "include" else belong).discard(k)
    n = len(found.records)
    texts = ranking.build([ranking.RankedText(one.title, one.abstract, one.keywords) for one in [*found.records, *outside]])
    order = ranking.Ranker(texts).rank(sorted(belong) + list(range(n, n + len(outside))), sorted(excluded))
    rows: list[Sequence[object]] = [("rank", "accession", "title", "score")]
    ranked = [int(k) for k in order.order if k < n]
    rows += [
        (place, found.records[k].accession, found.records[k].title, round(float(order.closeness[k]), 6))
        for place, k in enumerate(ranked, 1)
    ]
    write(out, table(rows))
    done(complete)


@app.command()
def replay(
    file: Annotated[Path, typer.Argument(metavar="FILE")],
    labels: Annotated[Path, typer.Option(help="CSV of accession,label with 1 or 0 for every record.")],
    seeds: Annotated[int, typer.Option(min=1, help="How many included records start the ranking.")],
    rng: Annotated[int, typer.Option(help="The seed that they are drawn with.")] = 0,
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
    out: Out = None,
) -> None:
    """A simulated screening: what ranking would have saved."""
    from kettlesort.core import ranking
    from kettlesort.core.ranking import replay as replaying

    found = _read_all([file])
    complete = found.complete
    given: dict[str, bool] = {}
    for line, accession, label in _column_rows(labels, ("accession", "label")):
        if not re.fullmatch(r"[01](\.0)?", label):
            say(f"{labels}:{line}: “{label}” is neither 1 nor 0")
            complete = False
        else:
            given[accession.lower()] = label.startswith("1")
    unlabelled = [record.accession or record.title for record in found.records if record.accession.lower() not in given]
    if unlabelled:
        stop(f"{labels}: {len(unlabelled)} records have no label, the first is “{unlabelled[0]}”")
    truth = [given[record.accession.lower()] for record in found.records]
    texts = ranking.build([ranking.RankedText(record.title, record.abstract, record.keywords) for record in found.records])
    try:
        with progress("Screening") as tick:
            run = replaying.replay(texts, truth, seeds, rng, tick=tick)
    except ValueError as error:
        stop(f"{labels}: {error}")
    saving = replaying.measure(run.order, truth, seeds)
    result = {
        "records": len(truth),
        "included": sum(truth),
        "screened_at": {("1.0" if recall == 1 else str(recall)): n for recall, n in saving.screened_at.items()},
        "wss": {str(recall): x for recall, x in saving.wss.items()},
        "mean_discovery": saving.mean_discovery,
        "seconds_per_rerank": run.seconds_per_rerank,
        "order": [found.records[k].accession for k in run.order],
    }
    if as_json:
        write(out, json_of(result))
    else:
        lines = [f"{name}: {value}" for name, value in result.items() if name != "order"]
        write(out, ("\n".join(lines) + "\n").encode())
    done(complete)
