"""The command that pools studies."""

from __future__ import annotations

import math
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from kettlesort.cli.common import Out, app, done, json_of, one_of, say, stop, write
from kettlesort.cli.figures import AsJson, TableFile, read_table, tell
from kettlesort.core.tables import Problem, Table, folded

if TYPE_CHECKING:
    from kettlesort.core.pooling.analysis import How, Study
    from kettlesort.core.pooling.models import Estimate, Pooled


@app.command()
def pool(
    table: TableFile,
    measure: Annotated[str, typer.Option(help="OR, RR, RD, MD, SMD or GEN.")],
    model: Annotated[str, typer.Option(help="fixed or random.")],
    tau2: Annotated[str | None, typer.Option(help="REML, DL, PM, ML, HE or SJ; random only.")] = None,
    interval: Annotated[str, typer.Option(help="normal, or hk for Hartung and Knapp's.")] = "normal",
    level: Annotated[float, typer.Option(help="Of intervals, between 0 and 1.")] = 0.95,
    correction: Annotated[float, typer.Option(help="Added to each cell of a study that has a zero cell.")] = 0.5,
    weights: Annotated[str | None, typer.Option(help="With fixed: iv, mh or peto.")] = None,
    subgroup: Annotated[str | None, typer.Option(help="A column whose values are groups.")] = None,
    moderator: Annotated[list[str] | None, typer.Option(help="A numeric column; may be given several times.")] = None,
    leave_one_out: Annotated[bool, typer.Option("--leave-one-out", help="Pool again without each study.")] = False,
    cumulative: Annotated[str | None, typer.Option(help="Pool study by study in the order of a column.")] = None,
    asymmetry: Annotated[bool, typer.Option("--asymmetry", help="Egger's test.")] = False,
    forest: Annotated[Path | None, typer.Option(help="Draw a forest plot: SVG, PNG or PDF by the file's name.")] = None,
    funnel: Annotated[Path | None, typer.Option(help="Draw a funnel plot: SVG, PNG or PDF by the file's name.")] = None,
    as_json: AsJson = True,
    out: Out = None,
) -> None:
    """Effects of studies, and what they say together."""
    from kettlesort.core.pooling import analysis, effects

    for picture in (forest, funnel):
        if picture is not None and picture.suffix.lower() not in _PICTURES:
            stop(f"{picture}: a picture is {', '.join(_PICTURES)} by its name")
    how = _how(measure, model, tau2, interval, level, correction, weights)
    moderators = moderator or []
    if moderators and how.model.random and how.model.tau2 not in ("REML", "ML", "DL"):
        stop(f"--moderator: --tau2 {how.model.tau2} is not offered with moderators; REML, ML or DL")
    found = read_table(table)
    needed = ["study", *effects.COLUMNS[measure], *(word for word in (subgroup, cumulative) if word is not None), *moderators]
    if missing := found.lacks(needed):
        stop(f"{table}: no column named {', '.join(missing)}")
    if not found.rows:
        stop(f"{table}: no rows")
    studies, problems = _studies(found, how)
    tell(table, problems)
    names = [study.name for study in studies]
    for name in dict.fromkeys(name for name in names if names.count(name) > 1):
        say(f"{table}: study “{name}” occurs {names.count(name)} times; each row counts")
    used = [study for study in studies if study.estimate is not None]
    whole = analysis.pooled(used, how)
    if whole is None:
        stop(f"{table}: no row can be pooled")
    result = _result(studies, used, whole, how, problems)
    if subgroup is not None:
        result["subgroups"] = _subgroups(table, used, how, subgroup)
    if moderators:
        result["regression"] = _regression(table, found, used, how, moderators)
    if leave_one_out:
        result["without"] = [
            {"study": study.name, "line": study.key.line, **_short(found, how)} for study, found in analysis.without_each(used, how)
        ]
    if cumulative is not None:
        result["cumulative"] = _cumulative(table, found, used, how, cumulative)
    if asymmetry:
        result["asymmetry"] = _asymmetry(table, used)
    if forest is not None or funnel is not None:
        _draw(forest, funnel, studies, used, whole, how)
    write(out, json_of(result))
    done(not problems)


_PICTURES = (".svg", ".png", ".pdf")


def _draw(forest: Path | None, funnel: Path | None, studies: list[Study], used: list[Study], whole: Pooled, how: How) -> None:
    from kettlesort.core.pooling import pictures
    from kettlesort.core.pooling.forest import Line
    from kettlesort.core.pooling.forest import forest as forest_of
    from kettlesort.core.pooling.models import interval

    weight = {id(one): float(share) for one, share in zip(used, whole.weights, strict=True)}
    lines = [
        Line(study.name, study.estimate, None, 0.0, study.left_out or "")
        if study.estimate is None or study.variance is None
        else Line(study.name, study.estimate, interval(study.estimate, study.variance**0.5, how.model.level).ci, weight[id(study)])
        for study in studies
    ]
    pooled = Line("Random effects" if how.model.random else "Fixed effects", whole.pooled.estimate, whole.pooled.ci)
    if forest is not None:
        write(forest, pictures.drawn(forest_of(how.measure, lines, pooled, whole.prediction), forest.suffix.lower()[1:]))
    if funnel is not None:
        points = [
            (study.name, study.estimate, study.variance**0.5) for study in used if study.estimate is not None and study.variance is not None
        ]
        write(funnel, pictures.drawn(pictures.funnel(how.measure, points, whole.pooled.estimate), funnel.suffix.lower()[1:]))


def _how(measure: str, model: str, tau2: str | None, interval: str, level: float, correction: float, weights: str | None) -> How:
    from kettlesort.core.pooling.analysis import How
    from kettlesort.core.pooling.effects import COLUMNS
    from kettlesort.core.pooling.models import TAU2, Model

    one_of("--measure", measure, tuple(COLUMNS))
    one_of("--model", model, ("fixed", "random"))
    one_of("--interval", interval, ("normal", "hk"))
    if tau2 is not None:
        one_of("--tau2", tau2, TAU2)
        if model == "fixed":
            stop("--tau2 is for --model random")
    if model == "fixed" and interval == "hk":
        stop("--interval hk is for --model random")
    if not 0 < level < 1:
        stop(f"--level {level}: between 0 and 1")
    if not (correction >= 0 and math.isfinite(correction)):
        stop(f"--correction {correction}: 0 or more")
    if weights is not None:
        one_of("--weights", weights, ("iv", "mh", "peto"))
        if weights != "iv" and model != "fixed":
            stop("--weights is for --model fixed")
        if weights == "peto" and measure != "OR":
            stop("--weights peto is for --measure OR")
        if weights == "mh" and measure not in ("OR", "RR", "RD"):
            stop("--weights mh is for --measure OR, RR or RD")
    return How(measure, Model(model == "random", tau2 or "REML", interval == "hk", level), weights or "iv", correction)


def _studies(found: Table, how: How) -> tuple[list[Study], list[Problem]]:
    """The rows that can be read, in file order, and what is wrong with the others."""
    from kettlesort.core.pooling import analysis, effects

    studies: list[Study] = []
    problems: list[Problem] = []
    for row in found.rows:
        if row.beyond:
            problems.append(Problem(row.line, "", f"too many values: {row.beyond} beyond the last column"))
            continue
        read = {name: found.number(row, name) for name in effects.COLUMNS[how.measure]}
        wrong = [problem for problem in read.values() if isinstance(problem, Problem)]
        values = {name: problem for name, problem in read.items() if not isinstance(problem, Problem)}
        try:
            if not wrong:
                studies.append(analysis.study(row.cells.get("study", ""), values, how, row))
        except effects.Bad as error:
            wrong.append(Problem(row.line, error.column, str(error)))
        problems += wrong
    return studies, problems


def _estimate(estimate: Estimate | None, how: How) -> dict[str, Any] | None:
    if estimate is None:
        return None
    told: dict[str, Any] = estimate._asdict()
    if how.ratio:
        told["ratio"] = _exp(estimate.estimate)
        told["ratio_ci"] = [_exp(x) for x in estimate.ci] if estimate.ci else None
    return told


def _exp(x: float) -> float | None:
    return math.exp(x) if x < 709 else None


def _short(pooled: Pooled | None, how: How) -> dict[str, Any]:
    return {
        "pooled": _estimate(pooled.pooled if pooled else None, how),
        "tau2": pooled.tau2 if pooled else None,
        "i2": pooled.i2 if pooled else None,
    }


def _result(studies: list[Study], used: list[Study], whole: Pooled, how: How, problems: list[Problem]) -> dict[str, Any]:
    from kettlesort.core.pooling import effects, models

    weight = {id(one): float(share) for one, share in zip(used, whole.weights, strict=True)}
    entries = []
    for study in studies:
        own = (
            None
            if study.estimate is None or study.variance is None
            else models.interval(study.estimate, study.variance**0.5, how.model.level)
        )
        entry: dict[str, Any] = {"study": study.name, "line": study.key.line, "estimate": study.estimate, "se": own.se if own else None}
        entry |= {"ci": own.ci if own else None, "weight": weight.get(id(study), 0.0)}
        if how.ratio:
            entry["ratio"] = _exp(study.estimate) if study.estimate is not None else None
            entry["ratio_ci"] = [_exp(x) for x in own.ci] if own and own.ci else None
        entries.append({**entry, "left_out": study.left_out})
    result: dict[str, Any] = {"k": whole.k, "studies": entries, "pooled": _estimate(whole.pooled, how), "prediction": whole.prediction}
    if how.ratio:
        result["prediction_ratio"] = [_exp(x) for x in whole.prediction] if whole.prediction else None
    figures = {"q": whole.q, "q_df": whole.q_df, "q_p": whole.q_p, "i2": whole.i2, "tau2": whole.tau2}
    return {**result, **figures, "conventions": effects.CONVENTIONS, "problems": [problem._asdict() for problem in problems]}


def _subgroups(table: Path, used: list[Study], how: How, column: str) -> dict[str, Any]:
    from kettlesort.core.pooling.analysis import by_group

    groups: dict[str, list[Study]] = {}
    for study in used:
        name = study.key.cells.get(folded(column), "")
        if name:
            groups.setdefault(name, []).append(study)
        else:
            say(f"{table}:{study.key.line}: {column}: is empty; the study is in no group")
    told, (q, df, p) = by_group(groups, how)
    listed = [
        {
            "name": name,
            "k": found.k,
            "pooled": _estimate(found.pooled, how),
            "tau2": found.tau2,
            "i2": found.i2,
            "q": found.q,
            "q_df": found.q_df,
        }
        for name, found in told
    ]
    return {"groups": listed, "q_between": q, "q_df": df, "q_p": p}


def _regression(table: Path, found: Table, used: list[Study], how: How, columns: list[str]) -> dict[str, Any] | None:
    import numpy as np

    from kettlesort.core.pooling.analysis import effects_of
    from kettlesort.core.pooling.closer import regress

    rows, studies = [], []
    for study in used:
        read = [found.number(study.key, name) for name in columns]
        wrong = [value for value in read if isinstance(value, Problem)]
        for problem in wrong:
            say(f"{table}:{problem.line}: {problem.column}: {problem.message}; the study is not in the regression")
        if not wrong:
            rows.append([value for value in read if not isinstance(value, Problem)])
            studies.append(study)
    told = regress(*effects_of(studies), np.array(rows, float).reshape(len(rows), len(columns)), how.model)
    if told is None:
        say(f"{table}: no regression: {len(rows)} studies are too few for {len(columns)} moderators, or one follows from the others")
        return None
    coefficients = [{"name": name, **one._asdict()} for name, one in zip(("intercept", *columns), told.coefficients, strict=True)]
    return {**told._asdict(), "coefficients": coefficients}


def _cumulative(table: Path, found: Table, used: list[Study], how: How, column: str) -> list[dict[str, Any]]:
    from kettlesort.core.pooling.analysis import added

    def place(study: Study) -> tuple[int, float, str]:
        value = found.number(study.key, column)
        return (0, value, "") if not isinstance(value, Problem) else (1, 0.0, study.key.cells.get(folded(column), ""))

    there = [one for one in used if one.key.cells.get(folded(column))]
    for one in used:
        if one not in there:
            say(f"{table}:{one.key.line}: {column}: is empty; the study is not added")
    ordered = sorted(there, key=place)
    return [{"study": each.name, "line": each.key.line, "pooled": _short(found, how)["pooled"]} for each, found in added(ordered, how)]


def _asymmetry(table: Path, used: list[Study]) -> dict[str, Any] | None:
    from kettlesort.core.pooling.analysis import effects_of
    from kettlesort.core.pooling.closer import asymmetry

    if len(used) < 10:
        say(f"{table}: {len(used)} studies; below ten the test of asymmetry says little")
    told = asymmetry(*effects_of(used))
    return told._asdict() if told else None
