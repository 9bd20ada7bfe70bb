"""Analyses out of the application: pictures, and the figures that they are made of."""

from __future__ import annotations

from collections.abc import Collection
from importlib.metadata import version

from kettlesort.core.picture import Palette
from kettlesort.core.pooling import pictures, words
from kettlesort.core.pooling.models import Pooled
from kettlesort.store.base import snapshot
from kettlesort.work import pooling
from kettlesort.work.chart import evidence_in
from kettlesort.work.double import Cell
from kettlesort.work.errors import Invalid


def forest(review: int, number: int, palette: Palette, without: Collection[int] = (), *, link: bool = False) -> str:
    """The forest plot of an analysis; within a page each study links to its cell."""
    kept, result, _ = pooling.analysis(review, number, without)
    said, how = kept.said, kept.said.how
    if result.pooled is None:
        raise Invalid("No study can be pooled; the list says why.")
    lines = [
        pictures.Line(
            row.label, row.effect.estimate if row.effect else None, row.effect.ci if row.effect else None, row.weight, row.why_not, _columns(row, said), row.group,
            f"/reviews/{review}/chart?cell={cell_key(row.cells[0])}" if link and row.cells else "", row.out,
        )
        for row in result.rows
        if row.effect or (row.columns and len(row.columns) == len(_columns(row, said)))  # of the others there is nothing to draw
    ]  # fmt: skip
    groups = [pictures.Line(name, it.pooled.estimate, it.pooled.ci, note=_of_group(it)) for name, it in result.groups]
    name = (
        f"Random effects, {said.tau2}{', Hartung-Knapp' if said.hk else ''}"
        if how.model.random
        else f"Fixed effects{_WEIGHTS[how.weights]}"
    )
    whole = pictures.Line(name, result.pooled.pooled.estimate, result.pooled.pooled.ci)
    labels = pictures.Labels(_heads(review, said), said.left, said.right, spread_in_words(result))
    return pictures.forest(said.measure, lines, whole, result.pooled.prediction, groups=groups, labels=labels, palette=palette)


def _of_group(it: Pooled) -> str:
    return f"{it.k} studies, I² {it.i2:.0f} %" if it.k > 1 else "one study"


_WEIGHTS = {"iv": "", "mh": ", Mantel-Haenszel", "peto": ", Peto"}


def _columns(row: pooling.StudyIn, said: pooling.Wording) -> tuple[str, ...]:
    """What each side says, "" where it says nothing."""
    wanted = 1 if said.measure == "GEN" else 2
    return (*row.columns, *([""] * wanted))[:wanted]


def _heads(review: int, said: pooling.Wording) -> tuple[str, ...]:
    if said.measure == "GEN":
        return ("Estimate",)
    with snapshot() as db:
        names = {one.id: one.name for one in evidence_in(db, review).levels}
    return tuple(" + ".join(names.get(one, "?") for one in arms) for arms in (said.arms, said.against))


def spread_in_words(result: pooling.Result) -> str:
    """How far studies differ, in a line."""
    it = result.pooled
    if it is None:
        return ""
    said = f"{it.k} studies; Q {it.q:.2f} on {it.q_df}, p {_p(it.q_p)}; I² {it.i2:.0f} %; τ² {it.tau2:.4g}" if it.k > 1 else "One study"
    if result.between and result.between.q_df:
        said += f"; between groups Q {result.between.q:.2f} on {result.between.q_df}, p {_p(result.between.q_p)}"
    return said


def _p(p: float | None) -> str:
    return "–" if p is None else "< 0.001" if p < 0.001 else f"{p:.3f}"


def funnel(review: int, number: int, palette: Palette) -> str:
    """The funnel plot of an analysis."""
    kept, result, _ = pooling.analysis(review, number)
    points = [(row.label, row.effect.estimate, row.effect.se) for row in result.rows if row.effect and row.effect.se and not row.out]
    if not points or result.pooled is None:
        raise Invalid("No study can be pooled; the list says why.")
    return pictures.funnel(kept.said.measure, points, result.pooled.pooled.estimate, palette)


def in_words(review: int, number: int) -> words.Words:
    """An analysis as the methods and the results of a report would tell it."""
    kept, result, _ = pooling.analysis(review, number)
    if result.pooled is None:
        raise Invalid("No study can be pooled; the list says why.")
    said = kept.said
    with snapshot() as db:
        it = evidence_in(db, review)
    items = {one.id: one.name for one in it.book.items}
    levels = {one.id: one.name for one in it.levels}
    at = ", ".join(levels[one] for one in (said.outcome, said.time) if one in levels)
    one, other = (" with ".join(levels.get(arm, "?") for arm in arms) for arms in (said.arms, said.against))
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
    kept, result, _ = pooling.analysis(review, number)
    heads = _heads(review, kept.said)
    out: list[list[object]] = [["study", *heads, "group", "estimate", "se", "low", "high", "weight", "left out"]]
    for row in result.rows:
        why = row.why_not or ("by the team" if row.out else "")
        effect = row.effect
        low, high = effect.ci if effect and effect.ci else ("", "")
        out.append(
            [
                row.label,
                *_columns(row, kept.said),
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
