"""The codebook and the evidence table."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import NamedTuple

from sqlmodel import Session, col, select

from kettlesort.core import charting
from kettlesort.core.charting import KINDS, NotAValue
from kettlesort.core.record import Record, short_citation
from kettlesort.store import chart as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.chart import Item, Study, StudyReport, Value
from kettlesort.work.change import Change, change
from kettlesort.work.errors import Invalid, NotFound
from kettlesort.work.late import Both, conflict, in_words, merged


class ItemWording(NamedTuple):
    """A data item as typed; ``id`` of one that exists."""

    id: int | None
    name: str
    kind: str
    unit: str
    choices: list[str]
    instructions: str


def codebook(review: int) -> Sequence[Item]:
    """The data items in their order."""
    with snapshot() as db:
        found = _items(db, review)
        db.expunge_all()
        return found


def _items(db: Session, review: int) -> Sequence[Item]:
    return db.exec(
        select(Item).where(Item.review_id == review, col(Item.removed_at).is_(None)).order_by(col(Item.position), col(Item.id))
    ).all()


def _wording(item: Item) -> ItemWording:
    return ItemWording(item.id, item.name, item.kind, item.unit, list(item.choices), item.instructions)


def _tidied(said: ItemWording) -> ItemWording:
    choices = [choice.strip() for choice in said.choices if choice.strip()] if said.kind == "choice" else []
    return ItemWording(said.id, said.name.strip()[:120], said.kind, said.unit.strip()[:40], choices, said.instructions.strip()[:4000])


def _with_theirs(it: Change, items: Sequence[ItemWording], seen: Sequence[ItemWording], now: Sequence[ItemWording]) -> list[ItemWording]:
    """The items as said, with what others made of the codebook since it was ``seen``. Raises Conflict for an item that both changed."""

    def by_id(some: Sequence[ItemWording]) -> dict[int, ItemWording]:
        return {one.id: _tidied(one) for one in some if one.id}

    kept, both = merged(by_id(seen), by_id(now), by_id(items))
    new = [one for one in items if not one.id]
    order = [one.id for one in items if one.id in kept] + [one for one in kept if one not in {item.id for item in items}]
    mine = [*(kept[number] for number in order if number), *new]
    if both:
        theirs, yours = by_id(now), by_id(items)
        raise conflict(
            it.db, it.review, "chart.codebook_changed", "the codebook",
            [Both((theirs.get(one) or yours[one]).name, _shown(theirs.get(one)), _shown(yours.get(one))) for one in both],
            [one._asdict() for one in now], [one._asdict() for one in mine],
        )  # fmt: skip
    return mine


def _shown(item: ItemWording | None) -> str:
    if item is None:
        return "removed"
    return "; ".join(part for part in (item.name, item.kind, item.unit, ", ".join(item.choices), item.instructions) if part)


def set_codebook(review: int, account: int, items: Sequence[ItemWording], seen: Sequence[ItemWording] | None = None) -> None:
    """Replace the codebook. Values of an item that is removed stay, and come back with it.

    ``seen`` is the codebook on which the change was made: what others changed since then stays.
    """
    for said in items:
        if not said.name.strip():
            raise Invalid("Every data item needs a name.", field="name")
        if said.kind not in KINDS:
            raise Invalid(f"A data item is one of {', '.join(KINDS)}.", field="kind")
        if said.kind == "choice" and len({choice.strip() for choice in said.choices if choice.strip()}) < 2:
            raise Invalid(f"“{said.name}” needs at least two choices.", field="choices")
    names = [said.name.strip().casefold() for said in items]
    if len(set(names)) < len(names):
        raise Invalid("Two data items have the same name.", field="name")
    with change(review, account, "chart") as it:
        present = {item.id: item for item in _items(it.db, review)}
        before = [item.name for item in present.values()]
        if seen is not None:
            items = _with_theirs(it, items, seen, [_wording(item) for item in present.values()])
        for position, said in enumerate(items):
            found = present.pop(said.id, None) if said.id else None
            if said.id and found is None:
                raise NotFound("A data item in this list was removed meanwhile; load the page again.")
            if found is not None and found.kind != said.kind and store.has_values(it.db, found.id or 0):
                raise Invalid(f"“{found.name}” has values, so it stays {found.kind}; add another item instead.", field="kind")
            item = found or Item(review_id=review, position=position, name="", kind=said.kind)
            _, item.name, item.kind, item.unit, item.choices, item.instructions = _tidied(said)
            item.position = position
            it.db.add(item)
        for gone in present.values():
            gone.removed_at = datetime.now(UTC)
        it.db.flush()
        it.event("chart.codebook_changed", "", before, [said.name.strip() for said in items])


class StudyRow(NamedTuple):
    """A study of the evidence table."""

    id: int
    label: str
    reports: list[Row]
    values: dict[int, Row]


def evidence_table(review: int) -> tuple[Sequence[Item], list[StudyRow]]:
    """Included studies with their values, by name."""
    with snapshot() as db:
        items = _items(db, review)
        by_study: dict[int, list[Row]] = {}
        for report in store.reports(db, review):
            by_study.setdefault(report["study_id"], []).append(report)
        found = store.values(db, review)
        db.expunge_all()
    ids = sorted(by_study)
    named = charting.study_labels([_citation(by_study[study]) for study in ids])
    values: dict[int, dict[int, Row]] = {study: {} for study in ids}
    for value in found:
        if value["study_id"] in values and value["text"]:
            values[value["study_id"]][value["item_id"]] = value
    table = [
        StudyRow(study, by_study[study][0]["label"] or name, by_study[study], values[study]) for study, name in zip(ids, named, strict=True)
    ]
    return items, sorted(table, key=lambda it: it.label.casefold())


def _citation(reports: list[Row]) -> str:
    first = reports[0]
    return short_citation(Record(title=first["title"], authors=tuple(first["authors"]), year=first["year"]))


class Typed(NamedTuple):
    """A cell as typed. ``quote`` and ``page`` of ``None`` leave those as they are; ``seen`` is what stood there when the typing began."""

    study: int
    item: int
    text: str
    quote: str | None = None
    page: str | None = None
    seen: str | None = None


class NotTaken(NamedTuple):
    """A cell that does not fit its item, or that somebody else changed meanwhile to ``theirs``; and why."""

    study: int
    item: int
    message: str
    theirs: str | None = None


def set_values(review: int, account: int, cells: Sequence[Typed]) -> list[NotTaken]:
    """Write cells; those that do not fit are told and left as they were."""
    refused: list[NotTaken] = []
    with change(review, account, "chart") as it:
        items = {item.id: item for item in _items(it.db, review)}
        studies = store.studies(it.db, review)
        holding = {(v["study_id"], v["item_id"]): v for v in store.values(it.db, review)}
        for cell in cells:
            item = items.get(cell.item)
            if item is None or cell.study not in studies:
                raise NotFound("The table has changed meanwhile; load the page again.")
            try:
                text = charting.understood(charting.Item(item.name, item.kind, item.unit, tuple(item.choices)), cell.text)  # type: ignore[arg-type]
            except NotAValue as error:
                refused.append(NotTaken(cell.study, cell.item, str(error)))
                continue
            old = holding.get((cell.study, cell.item))
            before = (old["text"], old["quote"], old["page"]) if old else ("", "", "")
            if cell.seen is not None and before[0] not in (cell.seen, text):
                by = old["by"] if old else "Somebody"
                refused.append(NotTaken(cell.study, cell.item, f"{by} changed this to {in_words(before[0])} meanwhile.", before[0]))
                continue
            after = (
                text,
                before[1] if cell.quote is None else cell.quote.strip()[:4000],
                before[2] if cell.page is None else cell.page.strip()[:40],
            )
            if after != before:
                it.db.add(
                    Value(
                        review_id=review,
                        study_id=cell.study,
                        item_id=cell.item,
                        text=after[0],
                        quote=after[1],
                        page=after[2],
                        account_id=account,
                    )
                )
                it.event("chart.value", f"{_label(it.db, cell.study)}: {item.name}", before[0], after[0])
    return refused


def _label(db: Session, study: int) -> str:
    found = db.get(Study, study)
    if found and found.label:
        return found.label
    reports = store.reports_of(db, study)
    return _citation(list(reports)) if reports else f"Study {study}"


def value_history(review: int, study: int, item: int) -> Sequence[Row]:
    """Who wrote what into a cell, newest first."""
    with snapshot() as db:
        known = [db.get(Study, study), db.get(Item, item)]
        if any(found is None or found.review_id != review for found in known):
            raise NotFound("There is no such cell in this review.")
        return store.value_history(db, review, study, item)


def rename_study(review: int, account: int, study: int, label: str, seen: str | None = None) -> None:
    """Give a study a name of the team's own; an empty one returns to author and year. ``seen`` is the name that it had."""
    with change(review, account, "chart") as it:
        found = it.db.get(Study, study)
        if found is None or found.review_id != review:
            raise NotFound("There is no such study in this review.")
        label = " ".join(label.split())[:120]
        if seen is not None and found.label not in (seen, label):
            raise conflict(
                it.db,
                review,
                "chart.study_renamed",
                "this name",
                [Both("Name", in_words(found.label), in_words(label))],
                found.label,
                label,
            )
        before, found.label = found.label, label
        it.event("chart.study_renamed", f"Study {study}", before, found.label)


def link_report(review: int, account: int, record: int, study: int | None) -> None:
    """Say that a report belongs to another report's study, or, with ``None``, to one of its own."""
    with change(review, account, "chart") as it:
        if study is not None:
            target = it.db.get(Study, study)
            if target is None or target.review_id != review:
                raise NotFound("There is no such study in this review.")
        before = {r["record_id"]: r["study_id"] for r in store.reports(it.db, review)}.get(record)
        if before is None:
            raise NotFound("This report is not among the included ones.")
        if before == study:
            return
        store.unlink(it.db, record)
        if study is None:
            store.ensure_study(it.db, review, record)
        else:
            it.db.add(StudyReport(copy_id=record, review_id=review, study_id=study))
        it.event("chart.report_linked", f"Record {record}", before, study)


def export_rows(review: int) -> list[list[str]]:
    """The evidence table as rows, for CSV and XLSX; each value followed by its quote and page where there are any."""
    items, studies = evidence_table(review)
    quoted = {
        item.id
        for item in items
        for study in studies
        if item.id in study.values and (study.values[item.id]["quote"] or study.values[item.id]["page"])
    }
    with snapshot() as db:
        found = store.origins(db, review, [report["record_id"] for study in studies for report in study.reports])
    origins = {it["record_id"]: it for it in found}
    head = ["Study", "Reports"]
    for item in items:
        head.append(f"{item.name} ({item.unit})" if item.unit else item.name)
        head += [f"{item.name}: quote", f"{item.name}: page"] if item.id in quoted else []
    table = [[*head, "Found by", "Versions of the query", "Labels"]]
    for study in studies:
        line = [study.label, "; ".join(report["title"] for report in study.reports)]
        for item in items:
            value = study.values.get(item.id or 0)
            line.append(value["text"] if value else "")
            if item.id in quoted:
                line += [value["quote"], value["page"]] if value else ["", ""]
        brought = [origins[report["record_id"]] for report in study.reports if report["record_id"] in origins]
        table.append(
            [*line, *("; ".join(dict.fromkeys(said for it in brought for said in it[name])) for name in ("sources", "versions", "labels"))]
        )
    return table
