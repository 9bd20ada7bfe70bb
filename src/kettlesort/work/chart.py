"""The evidence table: studies with their values, by item and level."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any, NamedTuple

from sqlmodel import Session

from kettlesort.core.charting.items import FACTORS
from kettlesort.core.charting.items import Item as CoreItem
from kettlesort.core.charting.values import NotAValue, number_of, shown, understood
from kettlesort.store import chart as store
from kettlesort.store import codebook as codebooks
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.chart import Brief, EvidenceView, Study
from kettlesort.store.codebook import Item, Level
from kettlesort.work import derived
from kettlesort.work.change import Change, change
from kettlesort.work.codebook import Book, book_in, core_item
from kettlesort.work.errors import Invalid, NotFound
from kettlesort.work.late import in_words
from kettlesort.work.studies import by_study, label_of, labels

Levels = tuple[int | None, int | None, int | None]
"""An arm, an outcome and a time point, by number, as far as a value is of one."""


class StudyRow(NamedTuple):
    """A study of the evidence table."""

    id: int
    label: str
    reports: list[Row]


class Standing(NamedTuple):
    """A value that stands: how it is shown, if not as it was typed, and the figure that it is sorted by."""

    study: int
    item: int
    levels: Levels
    text: str
    shown: str | None
    number: float | None
    quoted: bool
    how: str
    unfit: str


class Evidence(NamedTuple):
    """Included studies, by name, and values that came after the one that was asked for; ``upto`` is the last of them."""

    book: Book
    levels: Sequence[Level]
    studies: list[StudyRow]
    values: list[Standing]
    upto: int


def evidence_table(review: int, since: int = 0) -> Evidence:
    """The evidence table, or what was written into it after the value ``since``: then values that were cleared are among them."""
    with snapshot() as db:
        return evidence_in(db, review, since)


def evidence_in(db: Session, review: int, since: int = 0) -> Evidence:
    """The evidence table within a transaction. Values of what was removed from the codebook are out of sight."""
    book = book_in(db, review)
    levels = codebooks.levels(db, review)
    grouped = by_study(store.reports(db, review))
    found = store.brief_values(db, review, since)
    upto = store.last_value(db, review)
    db.expunge_all()
    named = labels(grouped)
    items = {it.id or 0: core_item(it) for it in book.items}
    there = {None, *(it.id for it in levels)}
    studies = [StudyRow(study, named[study], grouped[study]) for study in grouped]
    values = [
        _standing(items[v.item], v)
        for v in found
        if v.item in items and v.study in grouped and (v.text or since) and {v.arm, v.outcome, v.time} <= there
    ]
    return Evidence(book, levels, sorted(studies, key=lambda it: (it.label.casefold(), it.id)), values, upto)


def _standing(item: CoreItem, value: Brief) -> Standing:
    study, number, arm, outcome, time, text, quoted, how, unfit = value
    other = shown(item, text) if text and not unfit else text
    figure = number_of(item, text) if text and not unfit else None
    return Standing(study, number, (arm, outcome, time), text, other if other != text else None, figure, quoted, how, unfit)


def levels_of(value: Row | Mapping[str, Any]) -> Levels:
    """The levels that a row names."""
    return value["arm_id"], value["outcome_id"], value["time_id"]


class Typed(NamedTuple):
    """A cell as typed. ``quote`` and ``page`` of ``None`` leave those as they are; ``seen`` is what stood there when the typing began.

    ``record`` is the report that the quote is from.
    """

    study: int
    item: int
    text: str
    quote: str | None = None
    page: str | None = None
    seen: str | None = None
    levels: Levels = (None, None, None)
    how: str = "typed"
    record: int | None = None
    derived: dict[str, Any] | None = None


class NotTaken(NamedTuple):
    """A cell that does not fit its item, or that somebody else changed meanwhile to ``theirs``; and why."""

    study: int
    item: int
    levels: Levels
    message: str
    theirs: str | None = None


def set_values(review: int, account: int, cells: Sequence[Typed]) -> list[NotTaken]:
    """Write cells; those that do not fit are told and left as they were."""
    with change(review, account, "chart") as it:
        return Table(it, {cell.study for cell in cells}).write(cells)


def worked_out(review: int, cell: Typed) -> derived.WorkedOut:
    """What a cell comes to from what it is to be worked out from. Raises Invalid."""
    with session() as db:
        found = _work_out(Table(Change(db, review, 0), {cell.study}), cell)
        db.rollback()
        return found


def set_worked_out(review: int, account: int, cell: Typed) -> list[NotTaken]:
    """Write a cell as it is worked out from other numbers, which stay with it."""
    with change(review, account, "chart") as it:
        table = Table(it, {cell.study})
        found = _work_out(table, cell)
        source = {**(cell.derived or {}), "by": found.by}
        return table.write([cell._replace(text=found.text, how="derived", derived=source)])


def _work_out(table: Table, cell: Typed) -> derived.WorkedOut:
    item = table.asked.get(cell.item)
    if item is None or cell.derived is None:
        raise NotFound("The table has changed meanwhile; load the page again.")
    arms = cell.derived.get("arms") or []
    if cell.levels[0] in arms:
        raise Invalid("An arm cannot be joined from itself.", field="arms")
    try:
        return derived.of(item, cell.derived, table.arm_texts(cell.study, cell.item, cell.levels, arms))
    except NotAValue as error:
        raise Invalid(f"{str(error)[0].upper()}{str(error)[1:]}.", field="givens") from error


def fitting(review: int, cells: Sequence[Typed]) -> list[NotTaken]:
    """What of some cells could not be taken, before they are written."""
    with session() as db:
        found = Table(Change(db, review, 0), {cell.study for cell in cells}).fitting(cells)
        db.rollback()
        return found


class Table:
    """Some studies of the evidence table within a change."""

    def __init__(self, it: Change, studies: Collection[int]) -> None:
        self._it = it
        self.asked = {one.id or 0: core_item(one) for one in book_in(it.db, it.review).items}
        self._levels = {one.id or 0: one for one in codebooks.levels(it.db, it.review)}
        self._studies = store.studies(it.db, it.review)
        self._records = {one["record_id"] for one in store.reports(it.db, it.review)}
        self.holding: dict[tuple[int, int, Levels], Mapping[str, Any]] = {
            (v["study_id"], v["item_id"], levels_of(v)): dict(v) for v in store.values(it.db, it.review, studies=list(studies))
        }
        self._called: dict[int, str] = {}

    def write(self, cells: Sequence[Typed]) -> list[NotTaken]:
        """Write cells, each with its event, and what was worked out from them anew; what cannot be taken."""
        refused = [told for cell in cells if (told := self._write(cell)) is not None]
        touched = {(cell.study, cell.item) for cell in cells}
        for at, value in list(self.holding.items()):
            if at[:2] in touched and value["text"] and (value["derived"] or {}).get("way") == "arms":
                self._work_out_again(value)
        return refused

    def arm_texts(self, study: int, item: int, levels: Levels, arms: Sequence[int]) -> list[str]:
        """What stands for some arms of an item, at the same outcome and time; "" where nothing does."""
        standing = [self.holding.get((study, item, (arm, *levels[1:]))) for arm in arms]
        return [it["text"] if it and not it["unfit"] else "" for it in standing]

    def _work_out_again(self, held: Mapping[str, Any]) -> None:
        """Let a value that is worked out from arms follow them."""
        at = (held["study_id"], held["item_id"], levels_of(held))
        try:
            text, unfit = derived.of_arms(self.asked[held["item_id"]], self.arm_texts(*at, held["derived"]["arms"])).text, ""
        except NotAValue as error:
            text, unfit = held["text"], str(error)
        if (text, unfit) != (held["text"], held["unfit"]):
            self._hold({**held, "text": text, "unfit": unfit, "how": "derived"})

    def _hold(self, value: Mapping[str, Any]) -> None:
        """Append a value; it holds from now on."""
        parts = store.append_value(self._it.db, self._it.review, self._it.account, value)
        self.holding[value["study_id"], value["item_id"], levels_of(value)] = {"by": "You", **parts}

    def fitting(self, cells: Sequence[Typed]) -> list[NotTaken]:
        """What of some cells cannot be taken."""
        return [told for cell in cells if isinstance(told := self._text(cell), NotTaken)]

    def _text(self, cell: Typed) -> str | NotTaken:
        """The normal form of a cell, or why it cannot be taken."""
        if cell.item not in self.asked or cell.study not in self._studies:
            raise NotFound("The table has changed meanwhile; load the page again.")
        old = self.holding.get((cell.study, cell.item, cell.levels))
        try:
            text = understood(self.asked[cell.item], cell.text)
        except NotAValue as error:
            return NotTaken(cell.study, cell.item, cell.levels, str(error))
        if text and (why := self._misplaced(cell)):
            return NotTaken(cell.study, cell.item, cell.levels, why)
        held = old["text"] if old else ""
        if cell.seen is not None and held not in (cell.seen, text):
            by = old["by"] if old else "Somebody"
            return NotTaken(cell.study, cell.item, cell.levels, f"{by} changed this to {in_words(held)} meanwhile.", held)
        return text

    def _write(self, cell: Typed) -> NotTaken | None:
        text = self._text(cell)
        if isinstance(text, NotTaken):
            return text
        old = self.holding.get((cell.study, cell.item, cell.levels))
        before = (old["text"], old["quote"], old["page"], old["copy_id"]) if old else ("", "", "", None)
        quote, page = (
            was if said is None else said.strip()[:most] for said, was, most in ((cell.quote, before[1], 4000), (cell.page, before[2], 40))
        )
        report = before[3] if cell.quote is None and cell.record is None else cell.record if cell.record in self._records else None
        if not text and cell.quote is None:  # where nothing is stated, no words state it
            quote, page, report = "", "", None
        after = (text, quote, page, report)
        source, how = cell.derived, cell.how
        if old and text == before[0] and source is None:  # only its quote changes: how it came stays
            source, how = old["derived"], old["how"] if how == "typed" else how
        if after == before and not (old and (old["unfit"] or old["derived"] != source)):
            return None
        arm, outcome, time = cell.levels
        self._hold({
            "study_id": cell.study, "item_id": cell.item, "arm_id": arm, "outcome_id": outcome, "time_id": time, "text": text, "quote": quote, "page": page,
            "copy_id": report, "how": how, "derived": source, "unfit": "",
        })  # fmt: skip
        where = ", ".join([self.asked[cell.item].name, *(self._levels[one].name for one in cell.levels if one in self._levels)])
        self._it.event("chart.value", f"{self._name_of(cell.study)}: {where}", before[0], text)
        return None

    def _name_of(self, study: int) -> str:
        if study not in self._called:
            self._called[study] = label_of(self._it.db, study)
        return self._called[study]

    def _misplaced(self, cell: Typed) -> str:
        per = self.asked[cell.item].per
        for factor, level in zip(FACTORS, cell.levels, strict=True):
            known = self._levels.get(level or 0)
            if level is not None and (known is None or known.factor != factor or known.study_id not in (None, cell.study)):
                raise NotFound("The table has changed meanwhile; load the page again.")
            if (level is None) != (factor not in per):
                name = self.asked[cell.item].name
                return f"{name} is asked for each {factor}" if level is None else f"{name} is not asked for each {factor}"
        return ""


def value_history(review: int, study: int, item: int, levels: Levels = (None, None, None)) -> Sequence[Row]:
    """Who wrote what into a cell, newest first."""
    with snapshot() as db:
        known_cell(db, review, study, item)
        return store.value_history(db, study, item, levels)


def known_cell(db: Session, review: int, study: int, item: int) -> None:
    """Raises NotFound for a cell that is not of this review."""
    known = [db.get(Study, study), db.get(Item, item)]
    if any(found is None or found.review_id != review for found in known):
        raise NotFound("There is no such cell in this review.")


def view_of(review: int, account: int) -> dict[str, Any]:
    """How a person likes to see the table."""
    with snapshot() as db:
        found = db.get(EvidenceView, (review, account))
        return found.content if found else {}


def set_view(review: int, account: int, content: dict[str, Any]) -> None:
    """Keep how a person likes to see the table."""
    with session() as db:
        db.merge(EvidenceView(review_id=review, account_id=account, content=content))
