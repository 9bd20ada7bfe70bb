"""Analyses out of the application: pictures, and the figures that they are made of."""

from __future__ import annotations

from collections.abc import Collection
from importlib.metadata import version

import numpy as np

from kettlesort.core.picture import Palette
from kettlesort.core.pooling import closer_pictures, network_picture, network_words, pictures, words
from kettlesort.core.pooling.analysis import OF_COUNTS, effects_of
from kettlesort.core.pooling.closer import line
from kettlesort.core.pooling.closer_pictures import Point
from kettlesort.core.pooling.forest import Labels, Line, Width
from kettlesort.core.pooling.forest import forest as forest_of
from kettlesort.core.pooling.models import Pooled
from kettlesort.work import pooling
from kettlesort.work.double import Cell
from kettlesort.work.errors import Invalid
from kettlesort.work.pool_closer import likelihood, moderated
from kettlesort.work.pool_network import NetworkResult, compared
from kettlesort.work.pool_studies import Result, StudyIn, Table
from kettlesort.work.pool_wording import BY_APPRAISAL, Wording


def forest(review: int, number: int, palette: Palette, without: Collection[str] = (), *, width: Width = "page", link: bool = False) -> str:
    """The forest plot of an analysis; with ``link`` each study leads to its cell."""
    opened = _pooled(review, number, without)
    said, result, whole = opened.kept.said, opened.result, opened.result.pooled
    assert whole
    hidden = "figures" in said.hidden

    def figures(row: StudyIn) -> tuple[str, ...]:
        return () if hidden else _columns(row, said)

    lines = [
        Line(
            row.name, row.effect.estimate if row.effect else None, row.effect.ci if row.effect else None, row.weight, row.why_not, figures(row), row.group,
            f"/reviews/{review}/chart?cell={cell_key(row.cells[0])}" if link and row.cells else "", row.out, row.beside,
        )
        for row in result.rows
        if row.effect or (row.columns and len(row.columns) == len(_columns(row, said)))  # of the others there is nothing to draw
    ]  # fmt: skip
    groups = [Line(name, group.pooled.estimate, group.pooled.ci, note=_of_group(group, said.split)) for name, group in result.groups]
    pooled = Line(words.model(said.how), whole.pooled.estimate, whole.pooled.ci)
    labels = Labels(
        () if hidden else _heads(opened), said.left, said.right, spread_in_words(result), beside_heads(opened),
        "effect" not in said.hidden, "weight" not in said.hidden,
    )  # fmt: skip
    return forest_of(said.measure, lines, pooled, whole.prediction, groups=groups, labels=labels, palette=palette, width=width)


def _pooled(review: int, number: int, without: Collection[str] = ()) -> pooling.Opened:
    return _that_pools(pooling.opened(review, number, without))


def _that_pools(opened: pooling.Opened) -> pooling.Opened:
    if opened.result.pooled is None:
        raise Invalid("No study can be pooled; the list says why.")
    return opened


def _of_group(pooled: Pooled, split: bool) -> str:
    counted = words.counted(pooled.k, 0 if split else None)
    return f"{counted}, I² {pooled.i2:.0f} %" if pooled.k > 1 else counted.lower()


def _columns(row: StudyIn, said: Wording) -> tuple[str, ...]:
    """What each side says, "" where it says nothing."""
    wanted = 1 if said.measure == "GEN" else 2
    return (*row.columns, *([""] * wanted))[:wanted]


def _heads(opened: pooling.Opened) -> tuple[str, ...]:
    """What stands over the figures of each side."""
    if opened.kept.said.measure == "GEN":
        return ("Estimate",)
    return tuple(
        " + ".join(opened.table.levels.get(one, "?") for one in arms) for arms in (opened.kept.said.arms, opened.kept.said.against)
    )


def beside_heads(opened: pooling.Opened) -> tuple[str, ...]:
    """What stands over the values beside the names."""
    return tuple(opened.table.items[one].name for one in opened.kept.said.beside)


def spread_in_words(result: Result) -> str:
    """How far studies differ, in a line."""
    pooled = result.pooled
    if pooled is None:
        return ""
    divided = any(row.arm for row in result.rows)
    studies = len({row.study for row in result.rows if row.effect and not row.out}) if divided else None
    said = (
        f"{words.counted(pooled.k, studies)}; Q {pooled.q:.2f} on {pooled.q_df}, p {words.chance(pooled.q_p)}; I² {pooled.i2:.0f} %; τ² {pooled.tau2:.4g}"
        if pooled.k > 1
        else "One study"
    )
    if result.between and result.between.q_df:
        said += f"; between groups Q {result.between.q:.2f} on {result.between.q_df}, p {words.chance(result.between.q_p)}"
    return said


def funnel(review: int, number: int, palette: Palette, without: Collection[str] = ()) -> str:
    """The funnel plot of an analysis."""
    opened = _pooled(review, number, without)
    assert opened.result.pooled
    points = [(row.name, row.effect.estimate, row.effect.se) for row in opened.result.rows if row.effect and row.effect.se and not row.out]
    return pictures.funnel(opened.kept.said.measure, points, opened.result.pooled.pooled.estimate, palette)


def bubble(review: int, number: int, palette: Palette, which: int, without: Collection[str] = ()) -> str:
    """Effects against one of the analysis's moderators."""
    opened = _pooled(review, number, without)
    found = moderated(opened.table, opened.kept.said, opened.used)
    if found is None or not 0 <= which < len(found.names):
        raise Invalid("This analysis has no such moderator.")
    if found.regression is None:
        raise Invalid(f"{len(found.used)} studies are too few for {len(found.names)} moderators, or one follows from the others.")
    y, v = effects_of(found.used)
    values = np.array(found.values, float)
    at = np.linspace(values[:, which].min(), values[:, which].max(), 41).tolist()
    drawn = line(y, v, values, opened.kept.said.how.model, which, at)
    weights = 1 / (v + found.regression.tau2)
    points = [
        Point(study.name, float(x), float(effect), float(w))
        for study, x, effect, w in zip(found.used, values[:, which], y, weights, strict=True)
    ]
    band = [(x, one.estimate, *one.ci) for x, one in zip(at, drawn, strict=True) if one.ci]
    return closer_pictures.bubble(opened.kept.said.measure, found.names[which], points, band, palette)


def labbe(review: int, number: int, palette: Palette, without: Collection[str] = ()) -> str:
    """The risks of both sides against each other."""
    opened = _pooled(review, number, without)
    said = opened.kept.said
    assert opened.result.pooled
    if said.measure not in OF_COUNTS:
        raise Invalid("Only counts have risks on both sides.")
    points = [
        Point(study.name, study.cells.c / study.cells.n2, study.cells.a / study.cells.n1, float(weight))
        for study, weight in zip(opened.used, opened.result.pooled.weights, strict=True)
        if study.cells
    ]
    one, other = _heads(opened)
    return closer_pictures.labbe(said.measure, points, opened.result.pooled.pooled.estimate, (one, other), palette)


def curve(review: int, number: int, palette: Palette, without: Collection[str] = ()) -> str:
    """The likelihood of τ²."""
    opened = _pooled(review, number, without)
    said = opened.kept.said
    found = likelihood(said, opened.used)
    if found is None:
        raise Invalid("The likelihood of τ² is that of random effects, of three studies or more that differ.")
    return closer_pictures.curve(found, "ML" if said.tau2 == "ML" else "REML", said.level, palette)


def network(review: int, number: int, palette: Palette, without: Collection[str] = ()) -> str:
    """The picture of a network."""
    found = pooling.network_of(review, number, without)
    names = found.treatments
    parts = [[names[k] for k in part] for part in found.parts]
    joined = {(names[a], names[b]): n for (a, b), n in found.studies.items()}
    return network_picture.network(parts, dict(zip(names, found.people, strict=True)), joined, palette)


def in_words(review: int, number: int) -> words.Words:
    """An analysis as the methods and the results of a report would tell it."""
    kept, table = pooling.found(review, number)
    said, items = kept.said, table.items
    at = ", ".join(table.levels[one] for one in (said.outcome, said.time) if one in table.levels)
    item = f"{items[said.item].name}{f' ({at})' if at else ''}"
    if said.kind == "network":
        only = only_in_words(said, table)
        return _network_in_words(compared(table, said), f"{item}, of studies with {only}" if only else item, said)
    opened = _that_pools(pooling.opened_in(kept, table))
    result = opened.result
    assert result.pooled
    one, other = ("", "") if said.measure == "GEN" else _heads(opened)
    groups = "appraisal as a whole" if said.group == BY_APPRAISAL else items[said.group].name if said.group else ""
    missing = [row.why_not for row in result.rows if not row.effect and not row.out]
    pooled_of = {row.study for row in result.rows if row.effect and not row.out}
    gone = [row.study for row in result.rows if row.out]
    left_out = words.LeftOut(len(set(gone) - pooled_of), sum(study in pooled_of for study in gone))
    found = moderated(opened.table, said, opened.used)
    explained = words.Explained(found.names, len(found.used), found.regression) if found and found.regression else None
    about = words.About(item, one, other, groups, said.split, only_in_words(said, table), len(pooled_of) if said.split else None)
    return words.written(said.how, about, result.pooled, result.groups, result.between, missing, left_out, version("kettlesort"), explained)


def only_in_words(said: Wording, table: Table) -> str:
    """What studies of an analysis must have, "" where nothing."""
    if said.only is None:
        return ""
    name = "appraisal as a whole" if said.only == BY_APPRAISAL else table.items[said.only].name
    return f"{name} {' or '.join(said.among)}"


def _network_in_words(found: NetworkResult, item: str, said: Wording) -> words.Words:
    if found.network is None:
        raise Invalid("No study compares the first treatment with another; the list says why.")
    names = found.treatments
    against = [(names[one.b], one.estimate.turned) for one in found.league if one.a == 0]
    missing = [row.why_not for row in found.rows if row.why_not and not row.out]
    ranking = [(names[treatment], score) for treatment, score, _ in found.ranking]
    return network_words.network_written(
        said.how, item, names, found.used, len(found.parts), found.network, against, found.apart, ranking, missing, words.LeftOut(sum(row.out for row in found.rows)), version("kettlesort")
    )  # fmt: skip


def cell_key(at: Cell) -> str:
    """A cell as an address of the evidence table names it."""
    return ":".join(str(number or "") for number in (at[0], at[1], *at[2]))


def data_rows(review: int, number: int) -> list[list[object]]:
    """What an analysis is worked out from, and what it comes to, for CSV."""
    kept, table = pooling.found(review, number)
    if kept.said.kind == "network":
        return _network_rows(compared(table, kept.said))
    opened = pooling.opened_in(kept, table)
    result = opened.result
    beside, heads = beside_heads(opened), _heads(opened)
    out: list[list[object]] = [["study", *beside, *heads, "group", "estimate", "se", "low", "high", "weight", "left out"]]
    for row in result.rows:
        why = row.why_not or ("by the team" if row.out else "")
        effect = row.effect
        low, high = effect.ci if effect and effect.ci else ("", "")
        out.append(
            [
                row.name,
                *row.beside,
                *_columns(row, opened.kept.said),
                row.group,
                effect.estimate if effect else "",
                effect.se if effect else "",
                low,
                high,
                row.weight or "",
                why,
            ]
        )
    if result.pooled:
        estimate = result.pooled.pooled
        low, high = estimate.ci or ("", "")
        out.append(
            ["pooled", *([""] * (len(beside) + len(heads))), "", estimate.estimate, estimate.se, low, high, "", spread_in_words(result)]
        )
    return out


def _network_rows(found: NetworkResult) -> list[list[object]]:
    """Each treatment against each other: the network, direct and indirect evidence, and their difference, on the scale of the axis."""
    out: list[list[object]] = [
        [
            "treatment",
            "against",
            "studies",
            *(f"{of} {name}" for of in ("network", "direct", "indirect", "difference") for name in ("estimate", "se", "low", "high", "p")),
        ]
    ]
    apart = {(one.a, one.b): one for one in found.apart}
    for one in found.league:
        own = apart.get((one.a, one.b))
        row: list[object] = [found.treatments[one.a], found.treatments[one.b], one.studies]
        for estimate in (one.estimate, own and own.direct, own and own.indirect, own and own.difference):
            low, high = estimate.ci if estimate and estimate.ci else ("", "")
            row += [estimate.estimate, estimate.se, low, high, estimate.p] if estimate else [""] * 5
        out.append(row)
    return out
