"""Studies of an analysis: their figures from the evidence table, their effects, or why they have none."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from typing import Any, NamedTuple

from sqlmodel import Session

from kettlesort.core.charting.items import Item as CoreItem
from kettlesort.core.charting.values import NotAValue, absent, number_of, parsed
from kettlesort.core.pooling import analysis as core
from kettlesort.core.pooling.analysis import OF_COUNTS, Study
from kettlesort.core.pooling.closer import Between
from kettlesort.core.pooling.derive import joined
from kettlesort.core.pooling.effects import COLUMNS, Bad
from kettlesort.core.pooling.models import Estimate, Pooled, interval
from kettlesort.work.appraisal import appraised_in
from kettlesort.work.chart import Evidence, Standing, StudyRow, evidence_in
from kettlesort.work.codebook import core_item
from kettlesort.work.double import Cell
from kettlesort.work.pool_wording import BY_APPRAISAL, BY_YEAR, Wording, part_key


class StudyIn(NamedTuple):
    """A study in an analysis, or with a split side one comparison of it, which ``arm`` names: its key among what may be left out, its group, whether the team leaves
    it ``out``, its figures as text for each side and its values ``beside`` the name, the cells that figures are from, how many took part, its effect with interval
    and weight, or why it is not pooled."""

    study: int
    label: str
    out: bool
    group: str
    key: str = ""
    arm: str = ""
    beside: tuple[str, ...] = ()
    columns: tuple[str, ...] = ()
    cells: tuple[Cell, ...] = ()
    people: float = 0.0
    effect: Estimate | None = None
    weight: float = 0.0
    why_not: str = ""

    @property
    def name(self) -> str:
        """The study, and the arm of its comparison where it has several."""
        return f"{self.label}, {self.arm}" if self.arm else self.label


class Result(NamedTuple):
    """What an analysis comes to: studies in the order of the picture, all together, by group; ``others`` are not of the studies that it is about."""

    rows: list[StudyIn]
    pooled: Pooled | None
    groups: list[tuple[str, Pooled]]
    between: Between | None
    others: int = 0


class Table(NamedTuple):
    """The evidence table of one moment, by cell, and studies' appraisal as a whole where it is asked for."""

    evidence: Evidence
    held: dict[Cell, Standing]
    appraisal: dict[int, str]

    @property
    def items(self) -> dict[int, CoreItem]:
        """The data items, as the core knows them."""
        return {one.id or 0: core_item(one) for one in self.evidence.book.items}

    @property
    def levels(self) -> dict[int | None, str]:
        """Names of arms, outcomes and time points."""
        return {one.id: one.name for one in self.evidence.levels}


class Arm(NamedTuple):
    """What a cell of an arm states: its text, parsed, and the cell; or why it states nothing."""

    cell: Cell
    name: str
    value: Any = None
    why_not: str = ""


class _Figures(NamedTuple):
    values: dict[str, float]
    columns: tuple[str, ...]
    cells: list[Cell]
    people: float
    key: str = ""
    arm: str = ""


class _Missing(NamedTuple):
    """Why a study has no figures, the cell to look at, and what the sides before it say."""

    why: str
    cell: Cell
    columns: tuple[str, ...] = ()


class _Side(NamedTuple):
    figures: tuple[float, ...]
    text: str
    cells: list[Cell]


def table_of(db: Session, review: int, wanted: Iterable[Wording]) -> Table:
    """The evidence table as it is, for some analyses."""
    evidence = evidence_in(db, review)
    by_appraisal = any(BY_APPRAISAL in (said.group, said.only) for said in wanted)
    judged = {one.id: one.whole.judgement for one in appraised_in(db, review)[2]} if by_appraisal else {}
    return Table(evidence, {(v.study, v.item, v.levels): v for v in evidence.values if v.text}, judged)


def arm_of(said: Wording, item: CoreItem, study: int, arm: int, table: Table) -> Arm:
    """What a study states of one arm."""
    at: Cell = (study, said.item, (arm, said.outcome, said.time))
    value, name = table.held.get(at), table.levels.get(arm, "an arm that is gone")
    if value is None:
        return Arm(at, name, None, f"no value for {name}")
    if value.unfit or absent(value.text):
        return Arm(at, name, None, f"{name}: {'does not fit the codebook' if value.unfit else value.text}")
    found = parsed(item, value.text)
    if said.measure not in OF_COUNTS and found["n"] is None:
        return Arm(at, name, None, "the size of a group is missing")
    return Arm(at, name, found)


def _side(said: Wording, arms: list[Arm], share: int = 1) -> _Side:
    """Arms joined as one side, and its ``share``-th part."""
    cells = [arm.cell for arm in arms]
    part = f" ÷ {share}" if share > 1 else ""
    if said.measure in OF_COUNTS:
        events, total = (float(sum(arm.value[name] for arm in arms)) for name in ("events", "total"))
        return _Side((events / share, total / share), f"{events:g} / {total:g}{part}", cells)
    groups = [(float(arm.value["n"]), float(arm.value["mean"]), float(arm.value["sd"])) for arm in arms]
    n, mean, sd = groups[0] if len(groups) == 1 else joined(groups)
    return _Side((mean, sd, n / share), f"{mean:.4g} ± {sd:.3g} (n {n:g}{part})", cells)


def _figures(said: Wording, item: CoreItem, study: int, table: Table, out: Collection[str]) -> list[_Figures | _Missing]:
    """The figures of a study's two sides, or why there are none; one for each comparison that it makes.

    Of comparisons that share a side each that is not ``out`` has its part of it; one that is has what it would have if it were put back.
    """
    one, other = ([arm_of(said, item, study, arm, table) for arm in arms] for arms in (said.arms, said.against))
    if not said.split:
        missing = next((arm for arm in [*one, *other] if arm.why_not), None)
        if missing is None:
            return [_both(said, _side(said, one), _side(said, other))]
        said_before = (_side(said, one).text,) if not any(arm.why_not for arm in one) else ()
        return [_Missing(missing.why_not, missing.cell, said_before)]
    there = [arm for arm in one if not arm.why_not]
    missing = next((arm for arm in other if arm.why_not), None) or (one[0] if not there else None)
    if missing is not None:
        return [_Missing(missing.why_not, missing.cell)]
    if len(there) == 1:
        return [_both(said, _side(said, there), _side(said, other))]
    keys = [part_key(study, arm.cell[2][0]) for arm in there]
    share = sum(key not in out for key in keys)
    return [
        _both(said, _side(said, [arm]), _side(said, other, share + (key in out)), key, arm.name)
        for key, arm in zip(keys, there, strict=True)
    ]


def _both(said: Wording, one: _Side, other: _Side, key: str = "", arm: str = "") -> _Figures:
    values = dict(zip(COLUMNS[said.measure], [*one.figures, *other.figures], strict=True))
    return _Figures(values, (one.text, other.text), one.cells + other.cells, one.figures[-1] + other.figures[-1], key, arm)


def _given(said: Wording, items: Mapping[int, CoreItem], study: int, table: Table) -> _Figures | _Missing:
    """An estimate with its standard error, as charted."""
    values: dict[str, float] = {}
    cells: list[Cell] = []
    for name, number in (("estimate", said.item), ("se", said.se_item or 0)):
        cells.append((study, number, (None, said.outcome, said.time)))
        value = table.held.get(cells[-1])
        figure = number_of(items[number], value.text) if value and not value.unfit else None
        if figure is None:
            return _Missing("no estimate" if name == "estimate" else "no standard error", cells[-1])
        values[name] = figure
    return _Figures(values, (f"{values['estimate']:g} (SE {values['se']:g})",), cells, 0.0)


_BY: dict[str, Callable[[StudyIn], Any]] = {
    "name": lambda row: (row.label.casefold(), row.arm),
    "effect": lambda row: (row.effect is None, row.effect.estimate if row.effect else 0.0),
    "weight": lambda row: -row.weight,
    "people": lambda row: -row.people,
    "year": lambda row: (year_in(row.label) or 9999, row.label.casefold()),
}


def year_in(label: str) -> int | None:
    """The year that a study's label names.

    >>> year_in("Corvane 2003a"), year_in("Study 7")
    (2003, None)
    """
    return next((int(word[:4]) for word in reversed(label.split()) if word[:4].isdigit()), None)


def worked_out(table: Table, said: Wording, without: Collection[str] = ()) -> tuple[Result, list[Study]]:
    """What an analysis comes to, and its studies as the core knows them, each with its row as key; ``without`` some besides those that the team leaves out."""
    items, how = table.items, said.how
    rows: list[StudyIn] = []
    used: list[Study] = []
    about = chosen(table, said)
    out = {*said.left_out, *without}
    for study in about:
        key = part_key(study.id)
        beside = tuple(_value(table, number, study) for number in said.beside)
        blank = StudyIn(study.id, study.label, out=key in out, group=_group(table, said, study), key=key, beside=beside)
        found = [_given(said, items, study.id, table)] if said.measure == "GEN" else _figures(said, items[said.item], study.id, table, out)
        for figures in found:
            if isinstance(figures, _Missing):
                rows.append(blank._replace(why_not=figures.why, cells=(figures.cell,), columns=figures.columns))
                continue
            row = blank._replace(columns=figures.columns, cells=tuple(figures.cells), people=figures.people)
            if figures.key:
                row = row._replace(key=figures.key, arm=figures.arm, out=row.out or figures.key in out)
            try:
                made = core.study(row.name, figures.values, how)
            except (Bad, NotAValue) as error:
                rows.append(row._replace(why_not=str(error)))
                continue
            own = None if made.estimate is None or made.variance is None else interval(made.estimate, made.variance**0.5, how.model.level)
            row = row._replace(effect=own, why_not=made.left_out or "")
            rows.append(row)
            if own and not row.out:
                used.append(made._replace(key=row))
    whole = core.pooled(used, how)
    weight = {study.key: float(share) for study, share in zip(used, whole.weights, strict=True)} if whole else {}
    rows = sorted((row._replace(weight=weight.get(row, 0.0)) for row in rows), key=_BY[said.order])
    groups: dict[str, list[Study]] = {}
    for one in used:
        if one.key.group:
            groups.setdefault(one.key.group, []).append(one)
    told, between = core.by_group(groups, how) if len(groups) > 1 else ([], None)
    return Result(rows, whole, told, between, len(table.evidence.studies) - len(about)), used


def chosen(table: Table, said: Wording) -> list[StudyRow]:
    """The studies that an analysis is about: all, or those with one of some values."""
    if said.only is None:
        return list(table.evidence.studies)
    return [study for study in table.evidence.studies if _value(table, said.only, study) in said.among]


def _group(table: Table, said: Wording, study: StudyRow) -> str:
    return "" if said.group is None else _value(table, said.group, study)


def _value(table: Table, item: int, study: StudyRow) -> str:
    """What a study says of an item, or how it is judged as a whole."""
    if item == BY_APPRAISAL:
        return table.appraisal.get(study.id, "")
    value = table.held.get((study.id, item, (None, None, None)))
    return (value.shown or value.text) if value and not value.unfit else ""


def moderator_of(table: Table, number: int, study: int, label: str) -> float | None:
    """What a study says of a moderator."""
    if number == BY_YEAR:
        year = year_in(label)
        return None if year is None else float(year)
    value = table.held.get((study, number, (None, None, None)))
    return number_of(table.items[number], value.text) if value and not value.unfit else None
