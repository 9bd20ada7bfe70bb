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
    it = _pooled(review, number, without)
    said, result, whole = it.kept.said, it.result, it.result.pooled
    assert whole
    lines = [
        pictures.Line(
            row.label, row.effect.estimate if row.effect else None, row.effect.ci if row.effect else None, row.weight, row.why_not, _columns(row, said), row.group,
            f"/reviews/{review}/chart?cell={cell_key(row.cells[0])}" if link and row.cells else "", row.out,
        )
        for row in result.rows
        if row.effect or (row.columns and len(row.columns) == len(_columns(row, said)))  # of the others there is nothing to draw
    ]  # fmt: skip
    groups = [pictures.Line(name, it.pooled.estimate, it.pooled.ci, note=_of_group(it)) for name, it in result.groups]
    pooled = pictures.Line(words.model(said.how), whole.pooled.estimate, whole.pooled.ci)
    labels = pictures.Labels(_heads(it), said.left, said.right, spread_in_words(result))
    return pictures.forest(said.measure, lines, pooled, whole.prediction, groups=groups, labels=labels, palette=palette)


def _pooled(review: int, number: int, without: Collection[int] = ()) -> pooling.Opened:
    it = pooling.opened(review, number, without)
    if it.result.pooled is None:
        raise Invalid("No study can be pooled; the list says why.")
    return it


def _of_group(it: Pooled) -> str:
    return f"{it.k} studies, I² {it.i2:.0f} %" if it.k > 1 else "one study"


def _columns(row: pooling.StudyIn, said: pooling.Wording) -> tuple[str, ...]:
    """What each side says, "" where it says nothing."""
    wanted = 1 if said.measure == "GEN" else 2
    return (*row.columns, *([""] * wanted))[:wanted]


def _heads(it: pooling.Opened) -> tuple[str, ...]:
    """What stands over the figures of each side."""
    if it.kept.said.measure == "GEN":
        return ("Estimate",)
    names = {one.id: one.name for one in it.evidence.levels}
    return tuple(" + ".join(names.get(one, "?") for one in arms) for arms in (it.kept.said.arms, it.kept.said.against))


def spread_in_words(result: pooling.Result) -> str:
    """How far studies differ, in a line."""
    it = result.pooled
    if it is None:
        return ""
    said = (
        f"{it.k} studies; Q {it.q:.2f} on {it.q_df}, p {words.chance(it.q_p)}; I² {it.i2:.0f} %; τ² {it.tau2:.4g}"
        if it.k > 1
        else "One study"
    )
    if result.between and result.between.q_df:
        said += f"; between groups Q {result.between.q:.2f} on {result.between.q_df}, p {words.chance(result.between.q_p)}"
    return said


def funnel(review: int, number: int, palette: Palette) -> str:
    """The funnel plot of an analysis."""
    it = _pooled(review, number)
    assert it.result.pooled
    points = [(row.label, row.effect.estimate, row.effect.se) for row in it.result.rows if row.effect and row.effect.se and not row.out]
    return pictures.funnel(it.kept.said.measure, points, it.result.pooled.pooled.estimate, palette)


def in_words(review: int, number: int) -> words.Words:
    """An analysis as the methods and the results of a report would tell it."""
    it = _pooled(review, number)
    said, result = it.kept.said, it.result
    assert result.pooled
    items = {one.id: one.name for one in it.evidence.book.items}
    levels = {one.id: one.name for one in it.evidence.levels}
    at = ", ".join(levels[one] for one in (said.outcome, said.time) if one in levels)
    one, other = ("", "") if said.measure == "GEN" else _heads(it)
    groups = "appraisal as a whole" if said.group == pooling.BY_APPRAISAL else items.get(said.group, "")
    about = words.About(f"{items[said.item]}{f' ({at})' if at else ''}", one, other, groups)
    missing = [row.why_not for row in result.rows if not row.effect and not row.out]
    left_out = sum(row.out for row in result.rows)
    return words.written(said.how, about, result.pooled, result.groups, result.between, missing, left_out, version("kettlesort"))


def cell_key(at: Cell) -> str:
    """A cell as an address of the evidence table names it."""
    return ":".join(str(it or "") for it in (at[0], at[1], *at[2]))


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
        it = result.pooled.pooled
        low, high = it.ci or ("", "")
        out.append(["pooled", *([""] * len(heads)), "", it.estimate, it.se, low, high, "", spread_in_words(result)])
    return out
