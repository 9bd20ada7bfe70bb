"""The command that compares several treatments."""

from __future__ import annotations

import math
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, NamedTuple

import typer

from kettlesort.cli.common import Out, app, done, json_of, one_of, say, stop, write
from kettlesort.cli.figures import AsJson, TableFile, read_table, tell
from kettlesort.core.tables import Problem, Row, Table

if TYPE_CHECKING:
    from kettlesort.core.pooling.models import Estimate
    from kettlesort.core.pooling.network import Arms

_COLUMNS = {"OR": ("events", "total"), "RR": ("events", "total"), "RD": ("events", "total"), "MD": ("mean", "sd", "n")}
_CORRECTION = 0.5


class Arm(NamedTuple):
    """A row that can be read."""

    row: Row
    treatment: str
    values: tuple[float, ...]


@app.command()
def network(
    table: TableFile,
    measure: Annotated[str, typer.Option(help="OR, RR, RD or MD.")],
    model: Annotated[str, typer.Option(help="fixed or random.")],
    tau2: Annotated[str | None, typer.Option(help="REML or DL; random only.")] = None,
    reference: Annotated[str | None, typer.Option(help="The treatment that comes first.")] = None,
    level: Annotated[float, typer.Option(help="Of intervals, between 0 and 1.")] = 0.95,
    smaller_is_better: Annotated[bool, typer.Option("--smaller-is-better", help="For the ranking.")] = False,
    as_json: AsJson = True,
    out: Out = None,
) -> None:
    """Several treatments against each other: one row an arm, `study`, `treatment` and what was seen in it."""
    from kettlesort.core.pooling import network as networks

    one_of("--measure", measure, tuple(_COLUMNS))
    one_of("--model", model, ("fixed", "random"))
    one_of("--tau2", tau2 or "REML", ("REML", "DL"))
    if tau2 is not None and model == "fixed":
        stop("--tau2 is for --model random")
    if not 0 < level < 1:
        stop(f"--level {level}: between 0 and 1")
    found = read_table(table)
    if missing := found.lacks(["study", "treatment", *_COLUMNS[measure]]):
        stop(f"{table}: no column named {', '.join(missing)}")
    if not found.rows:
        stop(f"{table}: no rows")
    arms, problems = _arms(found, measure)
    studies = _studies(table, arms, measure, problems)
    tell(table, problems)
    if not studies:
        stop(f"{table}: no study can be compared")
    names = list(dict.fromkeys(arm.treatment for members in studies.values() for arm, _, _ in members))
    if reference is not None:
        if reference not in names:
            stop(f"--reference {reference}: no such treatment among {', '.join(names)}")
        names = [reference, *(word for word in names if word != reference)]
    built = [_built(members, names) for members in studies.values()]
    parts = [[names[k] for k in part] for part in networks.components(len(names), built)]
    if len(parts) > 1:
        stop(f"{table}: the network falls apart into {len(parts)} parts: {'; '.join(', '.join(part) for part in parts)}")
    told = networks.compare(len(names), built, (tau2 or "REML") if model == "random" else None)
    ratio = measure in ("OR", "RR")
    league, straight = [], []
    for a in range(len(names)):
        for b in range(a + 1, len(names)):
            both = networks.direct(built, a, b, told.tau2, level)
            count = both[1] if both else 0
            league.append({"a": names[a], "b": names[b], **_figures(told.against(a, b, level), ratio), "studies": count})
            if both:
                straight.append({"a": names[a], "b": names[b], **_figures(both[0], ratio), "studies": count})
    scores = networks.p_scores(told, smaller_is_better=smaller_is_better)
    ranking = sorted(zip(names, scores, strict=True), key=lambda pair: -pair[1])
    result = {
        "k": len(built), "treatments": names, "tau2": told.tau2, "league": league, "direct": straight,
        "q": told.q._asdict(), "q_within": told.within._asdict(), "q_between": told.between._asdict(),
        "ranking": [{"treatment": name, "p_score": score} for name, score in ranking],
        "components": parts, "problems": [problem._asdict() for problem in problems],
    }  # fmt: skip
    write(out, json_of(result))
    done(not problems)


def _arms(found: Table, measure: str) -> tuple[dict[str, list[Arm]], list[Problem]]:
    """Arms by study, in file order, and what is wrong with rows."""
    arms: dict[str, list[Arm]] = {}
    problems: list[Problem] = []
    for row in found.rows:
        study, treatment = row.cells.get("study", ""), row.cells.get("treatment", "")
        read = [found.number(row, name) for name in _COLUMNS[measure]]
        wrong = [problem for problem in read if isinstance(problem, Problem)]
        values = tuple(value for value in read if not isinstance(value, Problem))
        wrong += [Problem(row.line, name, "is empty") for name, value in (("study", study), ("treatment", treatment)) if not value]
        if row.beyond:
            wrong.append(Problem(row.line, "", f"too many values: {row.beyond} beyond the last column"))
        if not wrong and (impossible := _impossible(measure, values)):
            wrong.append(Problem(row.line, *impossible))
        if not wrong and any(arm.treatment == treatment for arm in arms.get(study, [])):
            wrong.append(Problem(row.line, "treatment", f"“{treatment}” is in study “{study}” already; join the arms first"))
        if wrong:
            problems += wrong
        else:
            arms.setdefault(study, []).append(Arm(row, treatment, values))
    return arms, problems


def _impossible(measure: str, values: tuple[float, ...]) -> tuple[str, str] | None:
    if measure == "MD":
        _, sd, n = values
        return ("n", f"{n:g} is not above 0") if n <= 0 else ("sd", f"{sd:g} is not above 0") if sd <= 0 else None
    events, total = values
    if events < 0:
        return "events", f"{events:g} is negative"
    if total <= 0:
        return "total", f"{total:g} is not above 0"
    return ("events", f"{events:g} events of {total:g}") if events > total else None


def _studies(table: Path, arms: dict[str, list[Arm]], measure: str, problems: list[Problem]) -> dict[str, list[tuple[Arm, float, float]]]:
    """What is seen in each arm of each study that can be compared; those that cannot are told."""
    from kettlesort.core.pooling.network import all_seen

    out: dict[str, list[tuple[Arm, float, float]]] = {}
    for study, members in arms.items():
        seen = all_seen(measure, [arm.values for arm in members], _CORRECTION)
        if not isinstance(seen, str):
            out[study] = [(arm, y, v) for arm, (y, v) in zip(members, seen, strict=True)]
        elif len(members) < 2:
            problems.append(Problem(members[0].row.line, "study", f"“{study}” {seen}"))
        else:
            say(f"{table}:{members[0].row.line}: study “{study}” {seen} and is left out")
    return out


def _built(members: list[tuple[Arm, float, float]], names: list[str]) -> Arms:
    import numpy as np

    from kettlesort.core.pooling.network import Arms

    treatments, y, v = zip(*((names.index(arm.treatment), y, v) for arm, y, v in members), strict=True)
    return Arms(np.array(treatments, np.int64), np.array(y, np.float64), np.array(v, np.float64))


def _figures(estimate: Estimate, ratio: bool) -> dict[str, Any]:
    told: dict[str, Any] = estimate._asdict()
    if ratio:
        told["ratio"] = math.exp(estimate.estimate) if estimate.estimate < 709 else None
        told["ratio_ci"] = [math.exp(x) if x < 709 else None for x in estimate.ci] if estimate.ci else None
    return told
