"""Analyses out of the application: pictures, and the figures that they are made of."""

from __future__ import annotations

from collections.abc import Collection
from importlib.metadata import version

from kettlesort.core.picture import Palette
from kettlesort.core.pooling import pictures, words
from kettlesort.core.pooling.models import Pooled
from kettlesort.work import pooling
from kettlesort.work.double import Cell
from kettlesort.work.errors import Invalid


def forest(review: int, number: int, palette: Palette, without: Collection[int] = (), *, link: bool = False) -> str:
    """The forest plot of an analysis; within a page each study links to its cell."""
    opened = _pooled(review, number, without)
    said, result, whole = opened.kept.said, opened.result, opened.result.pooled
    assert whole
    lines = [
        pictures.Line(
            row.label, row.effect.estimate if row.effect else None, row.effect.ci if row.effect else None, row.weight, row.why_not, _columns(row, said), row.group,
            f"/reviews/{review}/chart?cell={cell_key(row.cells[0])}" if link and row.cells else "", row.out,
        )
        for row in result.rows
        if row.effect or (row.columns and len(row.columns) == len(_columns(row, said)))  # of the others there is nothing to draw
    ]  # fmt: skip
    groups = [pictures.Line(name, group.pooled.estimate, group.pooled.ci, note=_of_group(group)) for name, group in result.groups]
    pooled = pictures.Line(words.model(said.how), whole.pooled.estimate, whole.pooled.ci)
    labels = pictures.Labels(_heads(opened), said.left, said.right, spread_in_words(result))
    return pictures.forest(said.measure, lines, pooled, whole.prediction, groups=groups, labels=labels, palette=palette)


def _pooled(review: int, number: int, without: Collection[int] = ()) -> pooling.Opened:
    opened = pooling.opened(review, number, without)
    if opened.result.pooled is None:
        raise Invalid("No study can be pooled; the list says why.")
    return opened


def _of_group(pooled: Pooled) -> str:
    return f"{pooled.k} studies, I² {pooled.i2:.0f} %" if pooled.k > 1 else "one study"


def _columns(row: pooling.StudyIn, said: pooling.Wording) -> tuple[str, ...]:
    """What each side says, "" where it says nothing."""
    wanted = 1 if said.measure == "GEN" else 2
    return (*row.columns, *([""] * wanted))[:wanted]


def _heads(opened: pooling.Opened) -> tuple[str, ...]:
    """What stands over the figures of each side."""
    if opened.kept.said.measure == "GEN":
        return ("Estimate",)
    names = {one.id: one.name for one in opened.evidence.levels}
    return tuple(" + ".join(names.get(one, "?") for one in arms) for arms in (opened.kept.said.arms, opened.kept.said.against))


def spread_in_words(result: pooling.Result) -> str:
    """How far studies differ, in a line."""
    pooled = result.pooled
    if pooled is None:
        return ""
    said = (
        f"{pooled.k} studies; Q {pooled.q:.2f} on {pooled.q_df}, p {words.chance(pooled.q_p)}; I² {pooled.i2:.0f} %; τ² {pooled.tau2:.4g}"
        if pooled.k > 1
        else "One study"
    )
    if result.between and result.between.q_df:
        said += f"; between groups Q {result.between.q:.2f} on {result.between.q_df}, p {words.chance(result.between.q_p)}"
    return said


def funnel(review: int, number: int, palette: Palette) -> str:
    """The funnel plot of an analysis."""
    opened = _pooled(review, number)
    assert opened.result.pooled
    points = [(row.label, row.effect.estimate, row.effect.se) for row in opened.result.rows if row.effect and row.effect.se and not row.out]
    return pictures.funnel(opened.kept.said.measure, points, opened.result.pooled.pooled.estimate, palette)


def in_words(review: int, number: int) -> words.Words:
    """An analysis as the methods and the results of a report would tell it."""
    opened = _pooled(review, number)
    said, result = opened.kept.said, opened.result
    assert result.pooled
    items = {one.id: one.name for one in opened.evidence.book.items}
    levels = {one.id: one.name for one in opened.evidence.levels}
    at = ", ".join(levels[one] for one in (said.outcome, said.time) if one in levels)
    one, other = ("", "") if said.measure == "GEN" else _heads(opened)
    groups = "appraisal as a whole" if said.group == pooling.BY_APPRAISAL else items.get(said.group, "")
    about = words.About(f"{items[said.item]}{f' ({at})' if at else ''}", one, other, groups)
    missing = [row.why_not for row in result.rows if not row.effect and not row.out]
    left_out = sum(row.out for row in result.rows)
    return words.written(said.how, about, result.pooled, result.groups, result.between, missing, left_out, version("kettlesort"))


def cell_key(at: Cell) -> str:
    """A cell as an address of the evidence table names it."""
    return ":".join(str(number or "") for number in (at[0], at[1], *at[2]))


def data_rows(review: int, number: int) -> list[list[object]]:
    """What an analysis is worked out from, and what it comes to, for CSV."""
    opened = pooling.opened(review, number)
    result = opened.result
    heads = _heads(opened)
    out: list[list[object]] = [["study", *heads, "group", "estimate", "se", "low", "high", "weight", "left out"]]
    for row in result.rows:
        why = row.why_not or ("by the team" if row.out else "")
        effect = row.effect
        low, high = effect.ci if effect and effect.ci else ("", "")
        out.append(
            [
                row.label,
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
        out.append(["pooled", *([""] * len(heads)), "", estimate.estimate, estimate.se, low, high, "", spread_in_words(result)])
    return out
