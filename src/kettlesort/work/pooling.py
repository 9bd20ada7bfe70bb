"""Analyses: studies pooled from the evidence table as it stands, and looked at more closely."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from datetime import UTC, datetime
from typing import Any, NamedTuple

from sqlmodel import Session

from kettlesort.core.charting.items import Item as CoreItem
from kettlesort.core.charting.values import NotAValue, absent, number_of, parsed
from kettlesort.core.pooling import analysis as core
from kettlesort.core.pooling.analysis import OF_COUNTS, OF_MEANS, How, Study, effects_of
from kettlesort.core.pooling.closer import Asymmetry, Between, asymmetry
from kettlesort.core.pooling.derive import joined
from kettlesort.core.pooling.effects import COLUMNS, Bad
from kettlesort.core.pooling.models import TAU2, Estimate, Model, Pooled, interval
from kettlesort.store import pooling as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.pooling import Analysis, AnalysisVersion
from kettlesort.work.appraisal import appraised_in
from kettlesort.work.change import Change, changing
from kettlesort.work.chart import Evidence, Standing, StudyRow, evidence_in
from kettlesort.work.codebook import core_item
from kettlesort.work.double import Cell
from kettlesort.work.errors import Conflict, Invalid, NotFound

MEASURES = (*OF_COUNTS, *OF_MEANS, "GEN")
BY_APPRAISAL = 0
"""What groups studies by their appraisal as a whole."""


class Wording(NamedTuple):
    """What an analysis pools and how.

    ``item`` at an ``outcome`` and a ``time``, as far as it is asked for them; ``arms`` against the arms ``against``: several are joined as one. For GEN, ``item`` is an
    estimate and ``se_item`` its standard error. ``left_out``: studies that the team leaves out. ``group``: an item by whose values studies are grouped (0: by
    their appraisal). ``order``: of studies in the picture.
    """

    name: str
    measure: str
    item: int
    arms: tuple[int, ...] = ()
    against: tuple[int, ...] = ()
    outcome: int | None = None
    time: int | None = None
    se_item: int | None = None
    model: str = "random"
    tau2: str = "REML"
    hk: bool = False
    weights: str = "iv"
    level: float = 0.95
    correction: float = 0.5
    left_out: tuple[int, ...] = ()
    group: int | None = None
    order: str = "name"
    left: str = ""
    right: str = ""

    @property
    def how(self) -> How:
        """As the core knows it."""
        random = self.model == "random"
        return How(
            self.measure, Model(random, self.tau2, random and self.hk, self.level), "iv" if random else self.weights, self.correction
        )


_LISTS = ("arms", "against", "left_out")


def wording_of(content: Mapping[str, Any]) -> Wording:
    """An analysis from data."""
    return Wording(**{**content, **{name: tuple(content.get(name) or ()) for name in _LISTS}})


def as_data(wording: Wording) -> dict[str, Any]:
    """An analysis as data."""
    return {name: list(value) if isinstance(value, tuple) else value for name, value in wording._asdict().items()}


class StudyIn(NamedTuple):
    """A study in an analysis: its group, whether the team leaves it ``out``, its figures as text for each side, the cells that they are from, how many took part, its
    effect with interval and weight, or why it is not pooled."""

    study: int
    label: str
    out: bool
    group: str
    columns: tuple[str, ...] = ()
    cells: tuple[Cell, ...] = ()
    people: float = 0.0
    effect: Estimate | None = None
    weight: float = 0.0
    why_not: str = ""


class Result(NamedTuple):
    """What an analysis comes to. ``closer`` is worked out only where it is asked for."""

    rows: list[StudyIn]
    pooled: Pooled | None
    groups: list[tuple[str, Pooled]]
    between: Between | None


class Closer(NamedTuple):
    """The same studies without each, one by one as they came, by every model, and the test of asymmetry."""

    without: list[tuple[str, Pooled | None]]
    added: list[tuple[str, Pooled | None]]
    ways: list[tuple[How, Pooled | None]]
    asymmetry: Asymmetry | None
    k: int


def checked(evidence: Evidence, said: Wording) -> Wording:
    """An analysis that can be. Raises Invalid."""
    said = said._replace(name=" ".join(said.name.split())[:200], left=said.left.strip()[:80], right=said.right.strip()[:80])
    if not said.name:
        raise Invalid("An analysis needs a name.", field="name")
    if said.measure not in MEASURES or said.model not in ("fixed", "random") or said.tau2 not in TAU2 or said.order not in ORDERS:
        raise Invalid("There is no such way to pool.")
    if (
        said.weights not in ("iv", "mh", "peto")
        or (said.weights == "peto" and said.measure != "OR")
        or (said.weights == "mh" and said.measure not in OF_COUNTS)
    ):
        raise Invalid("These weights are not for this measure.", field="weights")
    if not 0.5 <= said.level < 1 or not 0 <= said.correction <= 10:
        raise Invalid("A level lies between 0.5 and 1, a correction between 0 and 10.", field="level")
    items = {one.id: one for one in evidence.book.items}
    item = items.get(said.item)
    if item is None:
        raise Invalid("This item is no longer in the codebook.", field="item")
    kinds = ("counts",) if said.measure in OF_COUNTS else ("mean_sd",) if said.measure in OF_MEANS else ("number", "quantity")
    if item.kind not in kinds:
        raise Invalid(f"{item.name} is no item from which {said.measure} can be worked out.", field="item")
    if said.measure == "GEN":
        se = items.get(said.se_item)
        if se is None or se.kind not in kinds or se.per != item.per:
            raise Invalid("The item of the standard error is a number that is asked for the same parts of a study.", field="se_item")
    if said.measure != "GEN" and (not said.arms or not said.against or set(said.arms) & set(said.against)):
        raise Invalid("Choose at least one arm for each side, none for both.", field="arms")
    levels = {one.id: one.factor for one in evidence.levels}
    for factor, some in (("arm", [*said.arms, *said.against]), ("outcome", [said.outcome]), ("time", [said.time])):
        asked = factor in item.per
        if any((one is not None) != asked or (one is not None and levels.get(one) != factor) for one in some):
            raise Invalid(f"{item.name} is {'asked' if asked else 'not asked'} for each {factor}; choose accordingly.", field=factor)
    if said.group not in (None, BY_APPRAISAL) and said.group not in items:
        raise Invalid("The item of the groups is no longer in the codebook.", field="group")
    return said


class _Table(NamedTuple):
    evidence: Evidence
    held: dict[Cell, Standing]
    appraisal: dict[int, str]


class _Figures(NamedTuple):
    values: dict[str, float]
    columns: tuple[str, ...]
    cells: list[Cell]
    people: float


class _Missing(NamedTuple):
    """Why a study has no figures, the cell to look at, and what the sides before it say."""

    why: str
    cell: Cell
    columns: tuple[str, ...] = ()


def _figures(said: Wording, item: CoreItem, study: int, table: _Table) -> _Figures | _Missing:
    """The figures of a study's two sides, or why there are none."""
    names = {one.id: one.name for one in table.evidence.levels}
    sides: list[tuple[float, ...]] = []
    texts: list[str] = []
    cells: list[Cell] = []
    for arms in (said.arms, said.against):
        found = []
        for arm in arms:
            at: Cell = (study, said.item, (arm, said.outcome, said.time))
            cells.append(at)
            value, name = table.held.get(at), names.get(arm, "an arm that is gone")
            if value is None:
                return _Missing(f"no value for {name}", at, tuple(texts))
            if value.unfit or absent(value.text):
                return _Missing(f"{name}: {'does not fit the codebook' if value.unfit else value.text}", at, tuple(texts))
            found.append(parsed(item, value.text))
        if said.measure in OF_COUNTS:
            events, total = (float(sum(one[part] for one in found)) for part in ("events", "total"))
            sides.append((events, total))
            texts.append(f"{events:g} / {total:g}")
        elif any(one["n"] is None for one in found):
            return _Missing("the size of a group is missing", cells[-1], tuple(texts))
        else:
            groups = [(float(one["n"]), float(one["mean"]), float(one["sd"])) for one in found]
            n, mean, sd = groups[0] if len(groups) == 1 else joined(groups)
            sides.append((mean, sd, n))
            texts.append(f"{mean:.4g} ± {sd:.3g} (n {n:g})")
    values = dict(zip(COLUMNS[said.measure], [figure for side in sides for figure in side], strict=True))
    return _Figures(values, tuple(texts), cells, sum(side[-1] for side in sides))


def _given(said: Wording, items: Mapping[int, CoreItem], study: int, table: _Table) -> _Figures | _Missing:
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


ORDERS: dict[str, Callable[[StudyIn], Any]] = {
    "name": lambda one: one.label.casefold(),
    "effect": lambda one: (one.effect is None, one.effect.estimate if one.effect else 0.0),
    "weight": lambda one: -one.weight,
    "people": lambda one: -one.people,
    "year": lambda one: (_year(one.label), one.label.casefold()),
}


def _year(label: str) -> str:
    return next((word[:4] for word in reversed(label.split()) if word[:4].isdigit()), "9999")


def _table(db: Session, review: int, wanted: Iterable[Wording]) -> _Table:
    """The evidence table, and where studies are grouped by it their appraisal, of one moment."""
    evidence = evidence_in(db, review)
    by_appraisal = any(said.group == BY_APPRAISAL for said in wanted)
    judged = {one.id: one.whole.judgement for one in appraised_in(db, review)[2]} if by_appraisal else {}
    return _Table(evidence, {(v.study, v.item, v.levels): v for v in evidence.values if v.text}, judged)


def worked_out(table: _Table, said: Wording, without: Collection[int] = ()) -> tuple[Result, list[Study]]:
    """What an analysis comes to, and its studies as the core knows them; ``without`` some besides those that the team leaves out."""
    items = {one.id or 0: core_item(one) for one in table.evidence.book.items}
    how = said.how
    rows: list[StudyIn] = []
    used: list[Study] = []
    for study in table.evidence.studies:
        figures = _given(said, items, study.id, table) if said.measure == "GEN" else _figures(said, items[said.item], study.id, table)
        row = StudyIn(study.id, study.label, out=study.id in said.left_out or study.id in without, group=_group(table, said, study))
        if isinstance(figures, _Missing):
            rows.append(row._replace(why_not=figures.why, cells=(figures.cell,), columns=figures.columns))
            continue
        row = row._replace(columns=figures.columns, cells=tuple(figures.cells), people=figures.people)
        try:
            one = core.study(study.label, figures.values, how, study.id)
        except (Bad, NotAValue) as error:
            rows.append(row._replace(why_not=str(error)))
            continue
        own = None if one.estimate is None or one.variance is None else interval(one.estimate, one.variance**0.5, how.model.level)
        rows.append(row._replace(effect=own, why_not=one.left_out or ""))
        if own and not row.out:
            used.append(one)
    whole = core.pooled(used, how)
    weight = {one.key: float(share) for one, share in zip(used, whole.weights, strict=True)} if whole else {}
    rows = sorted((row._replace(weight=weight.get(row.study, 0.0)) for row in rows), key=ORDERS[said.order])
    of = {row.study: row.group for row in rows}
    groups: dict[str, list[Study]] = {}
    for one in used:
        if of[one.key]:
            groups.setdefault(of[one.key], []).append(one)
    told, between = core.by_group(groups, how) if len(groups) > 1 else ([], None)
    return Result(rows, whole, told, between), used


def _group(table: _Table, said: Wording, study: StudyRow) -> str:
    if said.group is None:
        return ""
    if said.group == BY_APPRAISAL:
        return table.appraisal.get(study.id, "")
    value = table.held.get((study.id, said.group, (None, None, None)))
    return (value.shown or value.text) if value and not value.unfit else ""


def closer(used: Sequence[Study], how: How) -> Closer:
    """Studies that are pooled, looked at more closely."""
    ordered = sorted(used, key=lambda one: _year(one.name))
    test = asymmetry(*effects_of(used)) if len(used) > 2 else None
    return Closer(
        [(study.name, found) for study, found in core.without_each(used, how)],
        [(study.name, found) for study, found in core.added(ordered, how)],
        core.every_way(used, how),
        test,
        len(used),
    )


class Kept(NamedTuple):
    """An analysis as it is kept: its number, the number of its version, who made that and when."""

    id: int
    version: int
    said: Wording
    by: str
    at: datetime


def _kept(row: Row) -> Kept:
    return Kept(row["id"], row["version"], wording_of(row["content"]), row["by"], row["at"])


def analyses(review: int) -> list[tuple[Kept, Pooled | None, str]]:
    """Every analysis with what it comes to now, or why it cannot be worked out any more."""
    with snapshot() as db:
        kept = [_kept(analysis) for analysis in store.analyses(db, review)]
        table = _table(db, review, [one.said for one in kept])
    out: list[tuple[Kept, Pooled | None, str]] = []
    for each in kept:
        try:
            checked(table.evidence, each.said)
            out.append((each, worked_out(table, each.said)[0].pooled, ""))
        except Invalid as error:
            out.append((each, None, error.message))
    return out


def _find(db: Session, review: int, number: int) -> Kept:
    found = next((analysis for analysis in store.analyses(db, review) if analysis["id"] == number), None)
    if found is None:
        raise NotFound("There is no such analysis in this review.")
    return _kept(found)


class Opened(NamedTuple):
    """An analysis, the table that it is worked out from, what it comes to, and the studies that are pooled in it."""

    kept: Kept
    evidence: Evidence
    result: Result
    used: list[Study]


def opened(review: int, number: int, without: Collection[int] = ()) -> Opened:
    """An analysis and what it comes to now, without some studies for a look."""
    with snapshot() as db:
        kept = _find(db, review, number)
        table = _table(db, review, [kept.said])
    checked(table.evidence, kept.said)
    return Opened(kept, table.evidence, *worked_out(table, kept.said, without))


def preview(review: int, said: Wording) -> Result:
    """What an analysis would come to."""
    with snapshot() as db:
        table = _table(db, review, [said])
    return worked_out(table, checked(table.evidence, said))[0]


def keep(review: int, account: int, said: Wording, number: int | None = None, seen: int | None = None) -> int:
    """Keep a new analysis, or another version of one, made from the version ``seen``; its number."""
    with changing(review, account, "pool") as change:
        now = _find(change.db, review, number) if number is not None else None
        said = checked(evidence_in(change.db, review), said)
        if now is None:
            made = Analysis(review_id=review, position=len(store.analyses(change.db, review)))
            change.db.add(made)
            change.db.flush()
            assert made.id
            _append(change, made.id, said)
            change.event("pool.made", said.name)
            return made.id
        if now.version != seen:
            raise Conflict(f"{now.by} changed this analysis meanwhile. Look at what it is now.")
        if now.said != said:
            _append(change, now.id, said)
            before, after = as_data(now.said), as_data(said)
            change.event(
                "pool.changed",
                said.name,
                *({name: some[name] for name in before if before[name] != after[name]} for some in (before, after)),
            )
        return now.id


def _append(change: Change, number: int, said: Wording) -> None:
    change.db.add(AnalysisVersion(analysis_id=number, content=as_data(said), account_id=change.account))


def remove(review: int, account: int, number: int, *, back: bool = False) -> None:
    """Take an analysis out of sight, or bring it ``back``."""
    with changing(review, account, "pool") as change:
        found = change.db.get(Analysis, number)
        if found is None or found.review_id != review:
            raise NotFound("There is no such analysis in this review.")
        found.removed_at = None if back else datetime.now(UTC)
        name = store.versions(change.db, number)[0]["content"]["name"]
        change.event("pool.brought_back" if back else "pool.removed", name)
