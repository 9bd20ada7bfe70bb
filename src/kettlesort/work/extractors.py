"""Two extractors: which values two read and who, where they differ, how that is settled, and how far they agree."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from itertools import product
from typing import NamedTuple

from sqlmodel import Session

from kettlesort.core.charting.double import ItemAgreement, agreement
from kettlesort.core.charting.items import FACTORS
from kettlesort.core.charting.items import Item as CoreItem
from kettlesort.core.charting.values import NotAValue, understood
from kettlesort.core.screening.allocation import allot, in_order
from kettlesort.store import chart as charts
from kettlesort.store import codebook as codebooks
from kettlesort.store import extraction as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.extraction import ExtractionMode
from kettlesort.store.passes import people_of
from kettlesort.work.change import Change, changing
from kettlesort.work.chart import NOTHING, Table, known_cell
from kettlesort.work.codebook import book_in, core_item
from kettlesort.work.double import THE_READER, Cell, Double, Mode, Reading, cell_of, mode_in, place_of
from kettlesort.work.errors import Conflict, Invalid, NotAllowed, NotFound
from kettlesort.work.late import in_words
from kettlesort.work.studies import by_study, labels, labels_of


def checked(db: Session, review: int, mode: Mode) -> Mode:
    """A mode that can be. Raises Invalid."""
    if mode.second not in ("nobody", "person", "proposals") or mode.settling not in ("third", "talk"):
        raise Invalid("There is no such rule for two extractors.")
    items = {codebook.id for codebook in codebooks.items(db, review)}
    if mode.items is not None and not set(mode.items) <= items:
        raise Invalid("One of these items is no longer in the codebook.", field="items")
    if mode.studies is not None and not set(mode.studies) <= charts.studies(db, review):
        raise Invalid("One of these studies is not in this review.", field="studies")
    if mode.second != "nobody" and (mode.items == () or mode.studies == ()):
        raise Invalid("Choose at least one item and one study that two read.", field="items" if mode.items == () else "studies")
    return mode


class Consequences(NamedTuple):
    """What another mode does: so many values of the table ``stay`` though two read their cells from now on, or count as ``first_readings`` and leave the table
    until they were read again; so many readings of one person ``enter`` the table as no second one is awaited any more; so many that ``differ`` stay open."""

    stay: int
    first_readings: int
    enter: int
    differ: int


class _Moving(NamedTuple):
    stay: list[Reading]
    enter: list[Cell]
    differ: list[Cell]


def _moving(table: Table, now: Mode, mode: Mode) -> _Moving:
    """Values of cells that two read from now on, and cells of which one or two read something and which nobody else reads any more."""
    moving = _Moving([v for at, v in table.holding.items() if v["text"] and mode.covers(*at[:2]) and not now.covers(*at[:2])], [], [])
    for at in table.double.cells():
        held, said = table.holding.get(at), table.double.of(at)
        if said and not (held and held["text"]) and not mode.covers(*at[:2]):
            (moving.enter if len(said) == 1 else moving.differ).append(
                at
            )  # what is proposed beside a person's reading stands against it no more
    return moving


def preview(review: int, mode: Mode, *, first_readings: bool = False) -> Consequences:
    """What another mode would do."""
    with snapshot() as db:
        found = _moving(Table(Change(db, review, 0), charts.studies(db, review)), mode_in(db, review), checked(db, review, mode))
    stay = len(found.stay)
    return Consequences(0 if first_readings else stay, stay if first_readings else 0, len(found.enter), len(found.differ))


def set_mode(review: int, account: int, mode: Mode, *, first_readings: bool = False) -> None:
    """Have values extracted in another mode from now on. Values of the table stay, unless they are to count as the ``first_readings`` of those who wrote them;
    readings that no second one is awaited for enter the table."""
    with changing(review, account, "chart") as change:
        now = mode_in(change.db, review)
        if checked(change.db, review, mode) == now:
            return
        table = Table(change, charts.studies(change.db, review))
        found = _moving(table, now, mode)
        for at in found.enter:
            (mine,) = table.double.of(at).values()
            table.hold({**mine, "reader_id": None}, mine["reader_id"])
        said = {"items": None if mode.items is None else list(mode.items), "studies": None if mode.studies is None else list(mode.studies)}
        change.db.add(ExtractionMode(review_id=review, account_id=account, **{**mode._asdict(), **said}))
        change.db.flush()
        if first_readings:
            table = Table(change, charts.studies(change.db, review))  # by the new mode
            for value in found.stay:
                table.hold({**place_of(cell_of(value)), **NOTHING})
                table.hold({**value, "reader_id": value["account_id"]}, value["account_id"])
        change.event("chart.extraction_mode", "", now._asdict(), mode._asdict())


class StudyProgress(NamedTuple):
    """How far a study is: to whom it is given, how many cells two are to read, how many each person read, and how many stand, or differ."""

    id: int
    label: str
    given: list[int]
    asked: int
    read: dict[int, int]
    stand: int
    differ: int


class Extraction(NamedTuple):
    """How values are extracted, by whom (names by account), and how far each study is."""

    mode: Mode
    people: dict[int, str]
    studies: list[StudyProgress]


def extraction(review: int) -> Extraction:
    """How values are extracted, and how far each study is that two read. Of others it is told how much they have read, not what."""
    with snapshot() as db:
        double = Double(db, review)
        grouped = by_study(charts.reports(db, review))
        standing = {(v.study, v.item, (v.arm, v.outcome, v.time)) for v in charts.brief_values(db, review) if v.text}
        asked = _asked(db, review, grouped, double.mode)
        people = people_of(db, review)
    named = labels(grouped)
    by_cell: dict[int, list[Cell]] = {study: [] for study in grouped}
    for at in double.cells():
        if at in asked.get(at[0], ()):
            by_cell[at[0]].append(at)
    out = []
    for study in sorted(grouped, key=lambda one: (named[one].casefold(), one)):
        if not asked[study]:
            continue
        read: dict[int, int] = {}
        for at in by_cell[study]:
            for reader in double.of(at):
                read[reader] = read.get(reader, 0) + 1
        differ = sum(len(double.both(at)) == 2 and at not in standing for at in by_cell[study])
        given = double.given.get(study, [])
        out.append(StudyProgress(study, named[study], given, len(asked[study]), read, len(asked[study] & standing), differ))
    return Extraction(double.mode, people, out)


def _asked(db: Session, review: int, studies: Iterable[int], mode: Mode) -> dict[int, set[Cell]]:
    """The cells of each study that two read."""
    of_all: dict[str, list[int | None]] = {factor: [] for factor in FACTORS}
    of_one: dict[tuple[str, int], list[int | None]] = {}
    for level in codebooks.levels(db, review):
        place = of_all[level.factor] if level.study_id is None else of_one.setdefault((level.factor, level.study_id), [])
        place.append(level.id)
    items = [(item.id, item.per) for item in codebooks.items(db, review) if item.id is not None]
    out: dict[int, set[Cell]] = {}
    for study in studies:
        ways = {factor: of_all[factor] + of_one.get((factor, study), []) for factor in FACTORS}
        out[study] = {
            (study, item, (arm, outcome, time))
            for item, per in items
            if mode.covers(study, item)
            for arm, outcome, time in product(*(ways[factor] if factor in per else [None] for factor in FACTORS))
        }
    return out


def give(review: int, account: int, given: Mapping[int, Sequence[int]]) -> None:
    """Give studies to people to read; a study that is given to nobody is read by whoever comes first."""
    with changing(review, account, "chart") as change:
        people = people_of(change.db, review)
        if not set(given) <= charts.studies(change.db, review):
            raise NotFound("One of these studies is not in this review.")
        if any(one not in people for some in given.values() for one in some):
            raise NotFound("One of these people is not in this review.")
        before = store.extractors(change.db, review)
        if any(len(set(some)) > 2 for some in given.values()):
            raise Invalid("Two people read a study at most.", field="given")
        store.give(change.db, review, {study: list(dict.fromkeys(some)) for study, some in given.items()})
        change.event(
            "chart.studies_given",
            "",
            {str(one): before.get(one, []) for one in given},
            {str(one): list(some) for one, some in given.items()},
        )


def shared_out(review: int, people: Sequence[int], seed: int) -> dict[int, list[int]]:
    """To whom studies are given that nobody has, so that all have as many and all pairs meet: two people each or, beside the proposals, one. Those who have
    begun to read a study keep it."""
    with snapshot() as db:
        double = Double(db, review)
        wanted = 1 if double.mode.second == "proposals" else 2
        if len(set(people)) < wanted:
            raise Invalid(f"At least {wanted} {'people are' if wanted > 1 else 'person is'} needed.", field="people")
        if not set(people) <= set(people_of(db, review)):
            raise NotFound("One of these people is not in this review.")
        asked = _asked(db, review, by_study(charts.reports(db, review)), double.mode)
        studies = [study for study, cells in asked.items() if cells]
    begun: dict[int, list[int]] = {study: list(some) for study, some in double.given.items()}
    for at in double.cells():
        mine = begun.setdefault(at[0], [])
        mine += [reader for reader in double.of(at) if reader not in mine]
    out = {study: list(begun.get(study, []))[:wanted] for study in studies}
    for allotted in allot(in_order(studies, seed), dict.fromkeys(people, 1.0), wanted, begun):
        out[allotted.record].append(allotted.person)
    return out


class Compared(NamedTuple):
    """A cell that both read: what each read, how that differs, and what stands. ``state``: differ, settled, same."""

    cell: Cell
    study: str
    state: str
    said: list[Reading]
    why: list[str]
    stands: Row | None


def compared(review: int) -> list[Compared]:
    """Every cell that both have read, by study and item."""
    with snapshot() as db:
        return _compared(db, review)


def _compared(db: Session, review: int) -> list[Compared]:
    double = Double(db, review)
    items = {item.id or 0: core_item(item) for item in book_in(db, review).items}
    there = {None, *(level.id for level in codebooks.levels(db, review))}
    named = labels_of(db, review)
    cells = [at for at in double.cells() if at[0] in named and at[1] in items and set(at[2]) <= there and len(double.both(at)) == 2]
    standing = {cell_of(v): v for v in charts.values(db, review, list({at[0] for at in cells})) if v["text"]}
    order = {number: k for k, number in enumerate(items)}
    out = []
    for at in sorted(cells, key=lambda cell: (named[cell[0]].casefold(), cell[0], order[cell[1]], [one or 0 for one in cell[2]])):
        both, held = double.both(at), standing.get(at)
        why = double.differ(items[at[1]], both)
        state = "differ" if held is None else "same" if held["how"] == "agreed" or not why else "settled"
        out.append(Compared(at, named[at[0]], state, both, why, held))
    return out


def settle(review: int, account: int, cell: Cell, text: str, *, of: int | None, seen: Sequence[str]) -> None:
    """Say what stands for a cell that two read differently: what one of them read (``of``, by account; 0 for the proposals), or another ``text``. ``seen`` is what
    both had read when that was decided."""
    with changing(review, account, "chart") as change:
        table = Table(change, {cell[0]})
        item = table.asked.get(cell[1])
        both = table.double.both(cell)
        held = table.holding.get(cell)
        if item is None or len(both) < 2:
            raise NotFound("There are no two readings of this cell.")
        if held and held["text"] and held["how"] != "settled":
            raise Conflict("This cell has a value of the table meanwhile; look again.")
        if [one["text"] for one in both] != list(seen):
            raise Conflict(f"What was read has changed meanwhile: {' and '.join(in_words(one['text']) for one in both)}. Look again.")
        _may_settle(table.double, cell, account)
        base = next((one for one in both if one["reader_id"] == of), None)
        if of is not None and base is None:
            raise NotFound("This person has not read this cell.")
        try:
            value = understood(item, base["text"] if base else text)
        except NotAValue as error:
            raise Invalid(f"{str(error)[0].upper()}{str(error)[1:]}.", field="text") from error
        if not value:
            raise Invalid("Say what stands; “not reported” is an answer, too.", field="text")
        words = base or next((one for one in both if one["text"] == value), both[0])
        table.hold({**words, "text": value, "how": "settled", "unfit": "", "reader_id": None, "derived": base["derived"] if base else None})
        change.event("chart.settled", table.called(cell), " / ".join(one["text"] for one in both), value)


def _may_settle(double: Double, cell: Cell, account: int) -> None:
    if double.mode.settling == "third" and account in double.of(cell):
        raise NotAllowed("You have read this yourself; a third person settles it.")


def reopen(review: int, account: int, cell: Cell) -> None:
    """Take back how a cell was settled."""
    with changing(review, account, "chart") as change:
        table = Table(change, {cell[0]})
        held = table.holding.get(cell)
        if not held or held["how"] != "settled":
            raise Conflict("This is not settled any more; look again.")
        _may_settle(table.double, cell, account)
        table.hold({**place_of(cell), **NOTHING})
        change.event("chart.settled_back", table.called(cell), held["text"], None)


class OfItem(NamedTuple):
    """How far the two agree on an item of the codebook."""

    item: int
    name: str
    figures: ItemAgreement


def agreements(review: int) -> list[OfItem]:
    """How far the two agree, by item: over what both had read when they were compared first. What one of them corrected since does not raise it."""
    with snapshot() as db:
        double = Double(db, review)
        items: dict[int, CoreItem] = {item.id or 0: core_item(item) for item in book_in(db, review).items}
        studies = set(by_study(charts.reports(db, review)))
        first = _first_compared(store.every_reading(db, review))
        if double.mode.second == "proposals":
            first |= {at: (both[0]["text"], both[1]["text"]) for at in double.cells() if len(both := double.both(at)) == 2 and both[1]["reader_id"] == THE_READER}  # fmt: skip
    pairs: dict[int, list[tuple[str, str]]] = {}
    for at, both_read in first.items():
        if at[0] in studies and at[1] in items:
            pairs.setdefault(at[1], []).append(both_read)
    return [
        OfItem(number, item.name, agreement(item, pairs[number], double.mode.rules)) for number, item in items.items() if number in pairs
    ]


def _first_compared(history: Sequence[Reading]) -> dict[Cell, tuple[str, str]]:
    """What two had read of each cell at the moment at which both had read something, the one with the lower number first."""
    so_far: dict[Cell, dict[int, str]] = {}
    out: dict[Cell, tuple[str, str]] = {}
    for entry in history:
        at = cell_of(entry)
        said = so_far.setdefault(at, {})
        said[entry["reader_id"]] = entry["text"]
        present = [said[reader] for reader in sorted(said) if said[reader]]
        if len(present) == 2 and at not in out:
            out[at] = (present[0], present[1])
    return out


def readings_of(review: int, account: int, cell: Cell) -> list[Reading]:
    """What people read of a cell, as far as somebody may know it: their own; all where reading is open, or once both have read."""
    with snapshot() as db:
        known_cell(db, review, cell[0], cell[1])
        double = Double(db, review, [cell[0]])
    said = list(double.of(cell).values())
    if not double.mode.blind or len(double.both(cell)) == 2:
        return said
    return [entry for entry in said if entry["reader_id"] == account]
