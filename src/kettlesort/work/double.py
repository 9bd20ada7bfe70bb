"""Cells that two read: what each read of them, and what that comes to. What one read is nobody else's until both have."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any, NamedTuple

from sqlmodel import Session

from kettlesort.core.charting.double import Rules, differences, fuller
from kettlesort.core.charting.items import Item
from kettlesort.store import chart as charts
from kettlesort.store import extraction as store
from kettlesort.store import proposals
from kettlesort.store.base import Row

Levels = tuple[int | None, int | None, int | None]
"""An arm, an outcome and a time point, by number, as far as a value is of one."""
Cell = tuple[int, int, Levels]
"""A study, an item and its levels."""
Reading = Mapping[str, Any]
"""What somebody read of a cell: a row of `extraction.readings`."""
THE_READER = 0
"""Who proposes, where a person and the proposals are the two."""


class Mode(NamedTuple):
    """How values are extracted: by one (``second`` is nobody), by two people, or by a person and the proposals; which ``items`` and ``studies`` (``None`` for
    all) are read so; what counts as the same; and who settles what is not."""

    second: str = "nobody"
    blind: bool = True
    rounding: bool = True
    letters: bool = False
    settling: str = "third"
    items: tuple[int, ...] | None = None
    studies: tuple[int, ...] | None = None

    def covers(self, study: int, item: int) -> bool:
        """Whether two read a cell."""
        return self.second != "nobody" and (self.items is None or item in self.items) and (self.studies is None or study in self.studies)

    @property
    def rules(self) -> Rules:
        """What counts as the same."""
        return Rules(self.rounding, self.letters)


def mode_in(db: Session, review: int) -> Mode:
    """How values are extracted now."""
    mode = store.mode(db, review)
    if mode is None:
        return Mode()
    items, studies = (None if some is None else tuple(some) for some in (mode.items, mode.studies))
    return Mode(mode.second, mode.blind, mode.rounding, mode.letters, mode.settling, items, studies)


def levels_of(value: Row | Reading) -> Levels:
    """The levels that a row names."""
    return value["arm_id"], value["outcome_id"], value["time_id"]


def cell_of(value: Row | Reading) -> Cell:
    """The cell that a row is of."""
    return value["study_id"], value["item_id"], levels_of(value)


def place_of(at: Cell) -> dict[str, int | None]:
    """A cell as the parts of a row that name it."""
    arm, outcome, time = at[2]
    return {"study_id": at[0], "item_id": at[1], "arm_id": arm, "outcome_id": outcome, "time_id": time}


class Double:
    """What extractors read of some ``studies``, or of all."""

    def __init__(self, db: Session, review: int, studies: Collection[int] | None = None) -> None:
        self._db, self._review = db, review
        self._studies = None if studies is None else list(studies)
        self.mode = mode_in(db, review)
        self.given = store.extractors(db, review) if self.mode.second != "nobody" else {}
        self._read: dict[Cell, dict[int, Reading]] = {}
        for reading in store.readings(db, review, self._studies):
            self._read.setdefault(cell_of(reading), {})[reading["reader_id"]] = dict(reading)
        self._proposed: dict[Cell, Reading] | None = None

    def cells(self) -> list[Cell]:
        """Every cell of which somebody read something."""
        return list(self._read)

    def of(self, cell: Cell) -> dict[int, Reading]:
        """What each person read of a cell, who came first at first."""
        return self._read.get(cell, {})

    def put(self, reading: Reading) -> None:
        """A person reads a cell, or takes back what they read."""
        said = self._read.setdefault(cell_of(reading), {})
        if reading["text"]:
            said[reading["reader_id"]] = reading
        else:
            said.pop(reading["reader_id"], None)

    def both(self, cell: Cell) -> list[Reading]:
        """What is compared of a cell: what two people read, or what a person read and what is proposed; less than two where one of them is missing."""
        said = list(self.of(cell).values())
        if len(said) == 1 and self.mode.second == "proposals" and (proposed := self._proposals().get(cell)):
            return [*said, proposed]
        return said[:2]

    def _proposals(self) -> dict[Cell, Reading]:
        if self._proposed is None:
            extra = {"reader_id": THE_READER, "by": "The reader", "how": "accepted", "derived": None, "unfit": "", "model": ""}
            found = store.first_proposals(self._db, self._review, self._studies)
            self._proposed = {cell_of(row): {**row, **extra} for row in found}
        return self._proposed

    def why_not(self, cell: Cell, account: int) -> str:
        """Why somebody cannot be one of the two who read a cell; "" if they can."""
        given = self.given.get(cell[0])
        if given and account not in given:
            return "This study is given to others to read; what they read differently is settled under Differences"
        others = [entry["by"] for reader, entry in self.of(cell).items() if reader != account]
        if len(others) >= (2 if self.mode.second == "person" else 1):
            return f"{' and '.join(others)} have read this already" if len(others) > 1 else f"{others[0]} has read this already"
        return ""

    def agreed(self, item: Item, cell: Cell) -> Reading | None:
        """The value that stands for a cell because both read the same, or because nothing is proposed beside what the one person read; None if there is none."""
        both = self.both(cell)
        if len(both) == 2:
            return None if self.differ(item, both) else _joined(item, both)
        if both and self.mode.second == "proposals" and cell[0] in wholly_read(self._db, self._review):
            return both[0]
        return None

    def differ(self, item: Item, both: Sequence[Reading]) -> list[str]:
        """How two readings of a cell differ, in words."""
        unfit = [f"{entry['text']} does not fit the item any more" for entry in both if entry["unfit"]]
        return unfit or differences(item, both[0]["text"], both[1]["text"], self.mode.rules)


def _joined(item: Item, both: Sequence[Reading]) -> Reading:
    """The one of two readings that says more, with the words of the other where it has none."""
    one, other = both
    best, rest = (one, other) if fuller(item, one["text"], other["text"]) == one["text"] else (other, one)
    words = best if best["quote"] or not rest["quote"] else rest
    return {**best, "how": "agreed", "derived": None, "quote": words["quote"], "page": words["page"], "copy_id": words["copy_id"]}


def wholly_read(db: Session, review: int) -> set[int]:
    """The included studies of which every report was read for proposals."""
    done = {reading["record_id"] for reading in proposals.readings(db, review) if reading["state"] != "waiting"}
    found = charts.reports(db, review)
    return {row["study_id"] for row in found} - {row["study_id"] for row in found if row["record_id"] not in done}
