"""Where the screening of a review stands: each person's pace, for themselves and a lead, and when what is left will be done."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import NamedTuple

from kettlesort.core.screening.pace import Pace, Until, pace, until_done
from kettlesort.store import passes, stopping
from kettlesort.store.base import Row, snapshot
from kettlesort.store.records import Wanted, counted


class Person(NamedTuple):
    """Somebody's decisions in force: how many in each pass, at what pace, and when the last was made."""

    account: int
    name: str
    first: int
    second: int
    pace: Pace
    last: datetime


class Progress(NamedTuple):
    """``left`` records of the first pass are not settled; ``until`` is when they will be, as far as can be told."""

    left: int
    until: Until | None
    people: list[Person]


def progress(review: int, account: int, role: str) -> Progress:
    """Where things stand. The pace of others is for a lead alone to know; when all is done follows from what is settled, not from who reads."""
    with snapshot() as db:
        (left,) = counted(db, review, Wanted("open"))
        settled = [row["at"] for row in stopping.answered(db, review)]
        made = passes.decisions(db, review, None if role == "lead" else account)
    by_person: dict[int, list[Row]] = {}
    for row in made:
        by_person.setdefault(row["account_id"], []).append(row)
    people = [_person(number, said) for number, said in by_person.items()]
    return Progress(left, until_done(left, settled, datetime.now(UTC).date()), sorted(people, key=lambda person: person.name))


def _person(account: int, said: Sequence[Row]) -> Person:
    times = [row["at"] for row in said]
    first = sum(one["pass_number"] == 1 for one in said)
    return Person(account, said[0]["person"], first, len(said) - first, pace(times), max(times))
