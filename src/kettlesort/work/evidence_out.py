"""The evidence table out of the application: as rows, as a workbook with a sheet for each shape, and one value a row."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from itertools import product
from typing import Any, BinaryIO, NamedTuple

from sqlmodel import Session

from kettlesort.core.charting.items import FACTORS, PLURAL, Factor
from kettlesort.core.charting.values import absent, parsed
from kettlesort.core.charting.workbook import Cell, Sheet, write
from kettlesort.store import chart as store
from kettlesort.store.base import Row, snapshot
from kettlesort.work.chart import Evidence, Standing, evidence_in
from kettlesort.work.codebook import ItemWording, core_item
from kettlesort.work.double import Levels, levels_of

_Words = dict[tuple[int, int, Levels], Row]
"""Values with their quotes, by study, item and levels."""


def _with_words(db: Session, review: int) -> tuple[Evidence, _Words]:
    """The evidence table, and the values with their quotes, of one moment."""
    return evidence_in(db, review), {(v["study_id"], v["item_id"], levels_of(v)): v for v in store.values(db, review)}


def export_rows(review: int) -> list[list[str]]:
    """The evidence table as rows, for CSV and XLSX: a column for each item and level, followed by quotes and pages where there are any."""
    with snapshot() as db:
        evidence, words = _with_words(db, review)
        found = store.origins(db, review, [report["record_id"] for study in evidence.studies for report in study.reports])
    origins = {one["record_id"]: one for one in found}
    values = {(v.study, v.item, v.levels): v for v in evidence.values}
    columns = list(_columns(evidence))
    quoted = {column[:2] for column in columns for study in evidence.studies if (v := values.get((study.id, *column[:2]))) and v.quoted}
    head = ["Study", "Reports"]
    for *at, name in columns:
        head += [name, f"{name}: quote", f"{name}: page"] if tuple(at) in quoted else [name]
    table = [[*head, "Found by", "Versions of the query", "Labels"]]
    for study in evidence.studies:
        line = [study.label, "; ".join(report["title"] for report in study.reports)]
        for item, levels, _ in columns:
            value, said = values.get((study.id, item, levels)), words.get((study.id, item, levels))
            line.append((value.shown or value.text) if value else "")
            if (item, levels) in quoted:
                line += [said["quote"], said["page"]] if said else ["", ""]
        brought = [origins[report["record_id"]] for report in study.reports if report["record_id"] in origins]
        table.append(
            [
                *line,
                *("; ".join(dict.fromkeys(one for some in brought for one in some[name])) for name in ("sources", "versions", "labels")),
            ]
        )
    return table


def _columns(evidence: Evidence) -> Iterator[tuple[int, Levels, str]]:
    """Items, and for those that are asked for levels one column for each combination that any study has."""
    for item in evidence.book.items:
        name = f"{item.name} ({item.unit})" if item.unit else item.name
        ways = [
            [(one.id, one.name) for one in evidence.levels if one.factor == factor] if factor in item.per else [(None, "")]
            for factor in FACTORS
        ]
        for levels in product(*ways):
            at: Levels = (levels[0][0], levels[1][0], levels[2][0])
            if all(_everywhere(evidence, one) for one in at) or any(v.item == item.id and v.levels == at for v in evidence.values):
                yield item.id or 0, at, " · ".join([name, *(said for _, said in levels if said)])


def _everywhere(evidence: Evidence, level: int | None) -> bool:
    return level is None or any(one.id == level and one.study_id is None for one in evidence.levels)


LONG = [
    "study", "item", "kind", "arm", "outcome", "time", "value", "number", "unit", "events", "total", "mean", "sd", "median", "low", "high", "n", "how", "quote", "page", "model",
]  # fmt: skip


def long_rows(review: int) -> list[list[str]]:
    """The values one a row, taken apart into figures, as statistics programs read them; quantities in their item's unit."""
    with snapshot() as db:
        return _long(*_with_words(db, review))


def _long(evidence: Evidence, words: _Words) -> list[list[str]]:
    names = {one.id: one.name for one in evidence.levels}
    items = {one.id or 0: one for one in evidence.book.items}
    order = {one: k for k, one in enumerate(items)}
    labels_ = {study.id: study.label for study in evidence.studies}
    rank = {study.id: k for k, study in enumerate(evidence.studies)}
    table = [LONG]
    for v in sorted(evidence.values, key=lambda v: (rank[v.study], order[v.item], [level or 0 for level in v.levels])):
        said = words[v.study, v.item, v.levels]
        at = [names.get(level, "") if level else "" for level in v.levels]
        figures = _figures(items[v.item], v)
        told = {
            "study": labels_[v.study],
            "item": items[v.item].name,
            "kind": items[v.item].kind,
            **dict(zip(("arm", "outcome", "time"), at, strict=True)),
            "value": v.text,
        }
        table.append(
            [
                str({**told, **figures, "how": v.how, "quote": said["quote"], "page": said["page"], "model": v.model}.get(name, ""))
                for name in LONG
            ]
        )
    return table


def _figures(item: ItemWording, v: Standing) -> dict[str, Any]:
    if v.unfit or absent(v.text):
        return {}
    data = parsed(core_item(item), v.text)
    number = {} if v.number is None else {"number": f"{v.number:.12g}"}
    if isinstance(data, dict):
        return {
            **number,
            **{name: one for name, one in data.items() if one is not None and name != "value"},
            **({"unit": item.unit} if item.unit else {}),
        }
    return number


# A workbook


FIGURES: dict[str, tuple[str, ...]] = {
    "counts": ("events", "total"),
    "mean_sd": ("mean", "sd", "n"),
    "median_range": ("median", "low", "high", "n"),
}
"""The columns of a value that is made of several figures."""


class _Written(NamedTuple):
    """A value with its words, as a workbook needs it."""

    value: Standing
    said: Row


def write_workbook(review: int, out: BinaryIO) -> None:
    """The evidence table as a workbook: a sheet of studies, one for each combination of arms, outcomes and times that items are asked for, and one of all
    values, one a row. Numbers and days are such; quotes are comments; no text is a formula."""
    with snapshot() as db:
        evidence, words = _with_words(db, review)
    values = {(v.study, v.item, v.levels): _Written(v, words[v.study, v.item, v.levels]) for v in evidence.values}
    patterns = sorted(
        {tuple(factor for factor in FACTORS if factor in item.per) for item in evidence.book.items} | {()},
        key=lambda some: (len(some), some),
    )
    sheets = [_sheet(evidence, values, pattern) for pattern in patterns]
    head, *rows = _long(evidence, words)
    write(out, [*sheets, Sheet("All values", head, [[Cell(cell) for cell in row] for row in rows])])


def _sheet(evidence: Evidence, values: dict[tuple[int, int, Levels], _Written], pattern: tuple[Factor, ...]) -> Sheet:
    items = [item for item in evidence.book.items if tuple(factor for factor in FACTORS if factor in item.per) == pattern]
    head = ["Study", *(["Reports"] if not pattern else []), *(factor.capitalize() for factor in pattern)]
    for item in items:
        name = f"{item.name} ({item.unit})" if item.unit else item.name
        head += [f"{name}: {figure}" for figure in FIGURES[item.kind]] if item.kind in FIGURES else [name]
    rows: list[list[Cell]] = []
    for study in evidence.studies:
        ways = [[one for one in evidence.levels if one.factor == factor and one.study_id in (None, study.id)] for factor in pattern]
        for chosen in product(*ways):
            at = dict(zip(pattern, chosen, strict=True))
            levels: Levels = tuple(at[factor].id if factor in at else None for factor in FACTORS)  # type: ignore[assignment]
            row = [
                Cell(study.label),
                *([Cell("; ".join(one["title"] for one in study.reports))] if not pattern else []),
                *(Cell(one.name) for one in chosen),
            ]
            for item in items:
                row += _cells(item, values.get((study.id, item.id or 0, levels)))
            rows.append(row)
    return Sheet("Studies" if not pattern else " × ".join(PLURAL[factor] for factor in pattern).capitalize(), head, rows)


def _cells(item: ItemWording, written: _Written | None) -> list[Cell]:
    names = FIGURES.get(item.kind, ("value",))
    if written is None:
        return [Cell()] * len(names)
    value, said = written
    page = f"page {said['page']}" if said["page"] else ""
    note = "\n".join(
        part
        for part in (
            f"“{said['quote']}”" if said["quote"] else "",
            page,
            f"Does not fit: {value.unfit}" if value.unfit else "",
            f"Proposed by {value.model}" if value.model else "",
        )
        if part
    )
    if value.unfit or absent(value.text):
        return [Cell(value.text, note), *[Cell()] * (len(names) - 1)]
    data = parsed(core_item(item), value.text)
    if item.kind in FIGURES:
        return [Cell(data[name], note if k == 0 else "") for k, name in enumerate(names)]
    if item.kind in ("number", "quantity") and value.number is not None:
        typed = f"typed as {value.text}" if value.shown and "(" in value.shown else ""
        return [Cell(value.number, "\n".join(part for part in (typed, note) if part))]
    if item.kind == "date" and value.text.count("-") == 2:
        return [Cell(date.fromisoformat(value.text), note)]
    return [Cell(value.text, note)]
