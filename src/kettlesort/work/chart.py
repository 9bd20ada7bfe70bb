"""The evidence table: studies with their values, by item and level."""

from __future__ import annotations

from collections.abc import Collection, Sequence
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
from kettlesort.work.change import Change, changing
from kettlesort.work.codebook import Book, book_in, core_item
from kettlesort.work.double import Cell, Double, Levels, Reading, cell_of, place_of
from kettlesort.work.errors import Invalid, NotFound
from kettlesort.work.late import in_words
from kettlesort.work.studies import by_study, label_of, labels


class StudyRow(NamedTuple):
    """A study of the evidence table."""

    id: int
    label: str
    reports: list[Row]


class Standing(NamedTuple):
    """A value that stands: how it is shown, if not as it was typed, and the figure that it is sorted by. ``read``: "" for one of the table; for what somebody
    read for themselves "one" until another has, and "differs" when they read something else."""

    study: int
    item: int
    levels: Levels
    text: str
    shown: str | None
    number: float | None
    quoted: bool
    how: str
    unfit: str
    model: str = ""
    read: str = ""


class Evidence(NamedTuple):
    """Included studies, by name, and values that came after the one that was asked for; ``upto`` is the last of them."""

    book: Book
    levels: Sequence[Level]
    studies: list[StudyRow]
    values: list[Standing]
    upto: int


def evidence_table(review: int, account: int = 0, since: int = 0) -> Evidence:
    """The evidence table as somebody sees it (without anybody, what stands for all), or what was written into it after the value ``since``: then values that were cleared are among them."""
    with snapshot() as db:
        evidence = evidence_in(db, review, since)
        return evidence._replace(values=[*evidence.values, *_own(db, review, account, evidence, since)])


def evidence_in(db: Session, review: int, since: int = 0) -> Evidence:
    """The evidence table within a transaction. Values of what was removed from the codebook are out of sight."""
    book = book_in(db, review)
    levels = codebooks.levels(db, review)
    grouped = by_study(store.reports(db, review))
    found = store.brief_values(db, review, since)
    upto = store.last_value(db, review)
    db.expunge_all()
    named = labels(grouped)
    items = {item.id or 0: core_item(item) for item in book.items}
    there = {None, *(level.id for level in levels)}
    studies = [StudyRow(study, named[study], grouped[study]) for study in grouped]
    values = [
        _standing(items[v.item], v)
        for v in found
        if v.item in items and v.study in grouped and (v.text or since) and v.arm in there and v.outcome in there and v.time in there
    ]
    return Evidence(book, levels, sorted(studies, key=lambda one: (one.label.casefold(), one.id)), values, upto)


def _own(db: Session, review: int, account: int, evidence: Evidence, since: int) -> list[Standing]:
    """What somebody read for themselves of cells that have no value of the table yet; of those that changed after ``since``, also what is taken back."""
    double = Double(db, review)
    if not since and not double.cells():
        return []
    written = {(v.study, v.item, v.levels) for v in evidence.values}
    touched = written | store.read_since(db, review, since) if since else None
    cells = [cell for cell in touched or double.cells() if touched is None or cell in touched]
    standing = {(v.study, v.item, v.levels) for v in evidence.values if v.text}
    if since and cells:  # a cell that is only touched by a reading may have a value that was written before
        standing |= {cell_of(v) for v in store.values(db, review, list({cell[0] for cell in cells})) if v["text"]}
    items = {one.id or 0: core_item(one) for one in evidence.book.items}
    there, studies = {None, *(one.id for one in evidence.levels)}, {one.id for one in evidence.studies}
    out = []
    for cell in cells:
        study, number, levels = cell
        if cell in standing or number not in items or study not in studies or not set(levels) <= there:
            continue
        mine = double.of(cell).get(account)
        if mine is not None:
            brief = Brief(
                study, number, *levels, mine["text"], bool(mine["quote"] or mine["page"]), mine["how"], mine["unfit"], mine["model"]
            )
            out.append(_standing(items[number], brief)._replace(read="differs" if len(double.both(cell)) == 2 else "one"))
        elif since and cell not in written:
            out.append(Standing(*cell, "", None, None, False, "typed", ""))
    return out


def _standing(item: CoreItem, value: Brief) -> Standing:
    study, number, arm, outcome, time, text, quoted, how, unfit, model = value
    other = shown(item, text) if text and not unfit else text
    figure = number_of(item, text) if text and not unfit else None
    return Standing(study, number, (arm, outcome, time), text, other if other != text else None, figure, quoted, how, unfit, model)


class Typed(NamedTuple):
    """A cell as typed. ``quote`` and ``page`` of ``None`` leave those as they are; ``seen`` is what stood there when the typing began.

    ``record`` is the report that the quote is from; ``model`` the language model that proposed it. What comes ``back`` is as it was when it last stood
    there, with its words and how it came.
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
    model: str = ""
    back: bool = False


class NotTaken(NamedTuple):
    """A cell that does not fit its item, or that somebody else changed meanwhile to ``theirs``; and why."""

    study: int
    item: int
    levels: Levels
    message: str
    theirs: str | None = None


def set_values(review: int, account: int, cells: Sequence[Typed]) -> list[NotTaken]:
    """Write cells; those that do not fit are told and left as they were."""
    with changing(review, account, "chart") as change:
        return Table(change, {cell.study for cell in cells}).write(cells)


def worked_out(review: int, cell: Typed) -> derived.WorkedOut:
    """What a cell comes to from what it is to be worked out from. Raises Invalid."""
    with session() as db:
        found = _work_out(Table(Change(db, review, 0), {cell.study}), cell)
        db.rollback()
        return found


def set_worked_out(review: int, account: int, cell: Typed) -> list[NotTaken]:
    """Write a cell as it is worked out from other numbers, which stay with it."""
    with changing(review, account, "chart") as change:
        table = Table(change, {cell.study})
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


NOTHING = {
    "text": "",
    "quote": "",
    "page": "",
    "copy_id": None,
    "unfit": "",
    "derived": None,
    "how": "typed",
    "model": "",
    "reader_id": None,
}
"""The parts of a value that clears a cell."""


class Table:
    """Some studies of the evidence table within a change."""

    def __init__(self, change: Change, studies: Collection[int]) -> None:
        self._it = change
        self.asked = {one.id or 0: core_item(one) for one in book_in(change.db, change.review).items}
        self._levels = {one.id or 0: one for one in codebooks.levels(change.db, change.review)}
        self._studies = store.studies(change.db, change.review)
        self._records = {one["record_id"] for one in store.reports(change.db, change.review)}
        self.holding: dict[Cell, Reading] = {cell_of(v): dict(v) for v in store.values(change.db, change.review, list(studies))}
        self.double = Double(change.db, change.review, studies)
        self._called: dict[int, str] = {}
        self._former: dict[tuple[Cell, bool, str, str | None], Reading] = {}

    def write(self, cells: Sequence[Typed]) -> list[NotTaken]:
        """Write cells, each with its event, and what was worked out from them anew; what cannot be taken."""
        self._remember({(cell.study, cell.item) for cell in cells if cell.back})
        refused = [told for cell in cells if (told := self._write(cell)) is not None]
        touched = {(cell.study, cell.item) for cell in cells}
        own = [mine for at in self.double.cells() if (mine := self.double.of(at).get(self._it.account))]
        for value in [*self.holding.values(), *own]:
            if (value["study_id"], value["item_id"]) in touched and value["text"] and (value["derived"] or {}).get("way") == "arms":
                self._work_out_again(value)
        return refused

    def arm_texts(self, study: int, item: int, levels: Levels, arms: Sequence[int]) -> list[str]:
        """What stands for some arms of an item, at the same outcome and time; "" where nothing does."""
        standing = [self.over((study, item, (arm, *levels[1:])))[0] for arm in arms]
        return [entry["text"] if entry and not entry["unfit"] else "" for entry in standing]

    def _work_out_again(self, held: Reading) -> None:
        """Let a value that is worked out from arms follow them."""
        study, item, levels = cell_of(held)
        try:
            text, unfit = derived.of_arms(self.asked[item], self.arm_texts(study, item, levels, held["derived"]["arms"])).text, ""
        except NotAValue as error:
            text, unfit = held["text"], str(error)
        if (text, unfit) != (held["text"], held["unfit"]):
            self.hold({**held, "text": text, "unfit": unfit, "how": "derived"})

    def hold(self, value: Reading, by: int | None = None) -> None:
        """Append a value; it holds from now on. It is the table's or, with a reader, theirs: then it is compared with what the other one read."""
        parts = store.append_value(self._it.db, self._it.review, by or self._it.account, value)
        if parts["reader_id"] is None:
            self.holding[cell_of(value)] = {"by": "You", **parts}
        else:
            self.double.put({"by": "You", **parts})
            self.compare(cell_of(value))

    def compare(self, at: Cell) -> None:
        """Let a cell that two read have the value that both read, or none of the table while they differ. What was settled or typed since stays."""
        standing = self.holding.get(at)
        if standing and standing["text"] and standing["how"] != "agreed":
            return
        both = self.double.agreed(self.asked[at[1]], at) if at[1] in self.asked else None
        now = (standing["text"], standing["quote"], standing["page"]) if standing else ("", "", "")
        if both and now != (both["text"], both["quote"], both["page"]):
            self.hold({**both, "reader_id": None}, both["reader_id"] or None)
        elif not both and now[0]:
            self.hold({**place_of(at), **NOTHING})

    def over(self, at: Cell) -> tuple[Reading | None, bool]:
        """What somebody's writing replaces, and whether that is what they read for themselves: in a cell that two read, until it is settled."""
        held, mine = self.holding.get(at), self.double.of(at).get(self._it.account)
        if not self.double.mode.covers(at[0], at[1]) or (held and held["text"] and not (held["how"] == "agreed" and mine)):
            return held, False
        return mine, True

    def fitting(self, cells: Sequence[Typed]) -> list[NotTaken]:
        """What of some cells cannot be taken."""
        return [told for cell in cells if isinstance(told := self._text(cell), NotTaken)]

    def _text(self, cell: Typed) -> str | NotTaken:
        """The normal form of a cell, or why it cannot be taken."""
        if cell.item not in self.asked or cell.study not in self._studies:
            raise NotFound("The table has changed meanwhile; load the page again.")
        at = (cell.study, cell.item, cell.levels)
        old, own = self.over(at)
        try:
            text = understood(self.asked[cell.item], cell.text)
        except NotAValue as error:
            return NotTaken(*at, str(error))
        if text and (why := self._misplaced(cell) or (self.double.why_not(at, self._it.account) if own else "")):
            return NotTaken(*at, why)
        held, seen = (entry["text"] if entry else "" for entry in (old, self.holding.get(at)))
        if cell.seen is not None and cell.seen not in (held, seen) and held != text:
            by = old["by"] if old else "Somebody"
            return NotTaken(*at, f"{by} changed this to {in_words(held)} meanwhile.", held)
        return text

    def _write(self, cell: Typed) -> NotTaken | None:
        text = self._text(cell)
        if isinstance(text, NotTaken):
            return text
        at = (cell.study, cell.item, cell.levels)
        old, own = self.over(at)
        if cell.back and (former := self._former.get((at, own, text, cell.quote))):
            if not old or any(old[part] != former[part] for part in former):
                self._put(former, old)
            return None
        before = (old["text"], old["quote"], old["page"], old["copy_id"]) if old else ("", "", "", None)
        quote, page = (
            was if said is None else said.strip()[:most] for said, was, most in ((cell.quote, before[1], 4000), (cell.page, before[2], 40))
        )
        report = before[3] if cell.quote is None and cell.record is None else cell.record if cell.record in self._records else None
        if not text and cell.quote is None:  # where nothing is stated, no words state it
            quote, page, report = "", "", None
        after = (text, quote, page, report)
        source, how, model = cell.derived, cell.how, cell.model
        if old and text == before[0] and source is None:  # only its quote changes: how it came stays
            source, how, model = (old["derived"], old["how"], old["model"]) if how == "typed" else (old["derived"], how, model)
        if after == before and not (old and (old["unfit"] or old["derived"] != source)):
            return None
        value: Reading = {
            **place_of(at), "text": text, "quote": quote, "page": page, "copy_id": report, "how": how, "model": model, "derived": source, "unfit": "",
            "reader_id": self._it.account if own else None,
        }  # fmt: skip
        self._put(value, old)
        return None

    def _put(self, value: Reading, old: Reading | None) -> None:
        """Hold a value that somebody wrote over another, and say so."""
        self.hold(value)
        if value["reader_id"]:  # what was read is the reader's own
            self._it.event("chart.read", self.called(cell_of(value)))
        else:
            self._it.event("chart.value", self.called(cell_of(value)), old["text"] if old else "", value["text"])

    def _remember(self, cells: Collection[tuple[int, int]]) -> None:
        """Look up what stood in some cells before: the latest of each text, and of each text with its quote."""
        for row in store.versions(self._it.db, self._it.review, cells, self._it.account) if cells else ():
            for quote in (None, row["quote"]):
                self._former[cell_of(row), row["reader_id"] is not None, row["text"], quote] = dict(row)

    def called(self, at: Cell) -> str:
        """What a cell is called in the history."""
        where = ", ".join([self.asked[at[1]].name, *(self._levels[one].name for one in at[2] if one in self._levels)])
        return f"{self._name_of(at[0])}: {where}"

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


def value_history(review: int, study: int, item: int, levels: Levels = (None, None, None), account: int = 0) -> Sequence[Row]:
    """Who wrote what into a cell, newest first; with what somebody read of it for themselves."""
    with snapshot() as db:
        known_cell(db, review, study, item)
        return store.value_history(db, study, item, levels, account)


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
