"""A far group is set aside as a whole once its nearest members were looked at, and comes back as it was."""

from __future__ import annotations

import pytest

from kettlesort.core.ranking.groups import Settings
from kettlesort.store.base import session
from kettlesort.store.records import Wanted
from kettlesort.store.sql import run, scalar
from kettlesort.work import likeness, narrow, records, report, seeds
from kettlesort.work.errors import Conflict, NotFound
from tests.conftest import Room, make_room, ris

HIVES = [f"Insulated hive wraps keep colonies warm in winter frost {k}" for k in range(8)]
MITES = [f"Varroa mite treatment by acid dribble into brood infestation {k}" for k in range(8)]


@pytest.fixture
def two_subjects(room: Room) -> Room:
    room.gather(ris(*HIVES, *MITES))
    room.match()
    seeds.mark_seed(room.review, room.lead, room.records()[0], True)
    return room


def grouped(room: Room, groups: int = 2) -> int:
    made = likeness.begin(room.review, room.lead, Settings(groups, 2, 1.0))
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'group_records'", v=room.review)
    likeness.group_records(job)
    return made


def test_a_far_group_goes_as_a_whole_and_comes_back(two_subjects: Room) -> None:
    room = two_subjects
    near, far = likeness.groups(room.review, grouped(room))
    assert {word for word, _ in far["words"]} & {"varroa", "mite", "acid", "brood"}
    with pytest.raises(Conflict, match="Look first"):
        likeness.set_aside(room.review, room.lead, far["id"], [])
    shown = [it["id"] for it in likeness.nearest(room.review, far["id"])]
    assert len(shown) == likeness.LOOKED_AT
    listed = records.page_of(room.review, Wanted(f"group:{far['id']}"), 0, 100)
    assert listed[0] == far["size"], "the count opens the list that it counts"
    touched = listed[1][0]["id"]
    room.decide(touched, "include")
    made, n = likeness.set_aside(room.review, room.lead, far["id"], [*shown, *(it["id"] for it in listed[1])])
    assert n == far["size"] - 1, "what somebody decided on stays"
    figures = report.standing(room.review, from_rows=True).figures
    assert (figures.total.aside, figures.adds_up) == (n, True)
    assert figures.narrowed[0].by_hand is False, "counted as automation"
    assert [it["aside"] for it in likeness.groupings(room.review)] == [n]
    narrow.withdraw(room.review, room.lead, made)
    assert room.total().aside == 0
    read = listed[1][1]["id"]
    room.decide(read, "include")
    assert narrow.withdraw(room.review, room.lead, made, back=True) == n - 1, "what was read meanwhile stays where it was put"
    assert (room.total().aside, room.total().sought) == (n - 1, 2)
    assert near["near"] > far["near"]


def test_records_without_abstract_are_in_no_group_and_without_seeds_nothing_is_far(room: Room) -> None:
    room.gather(ris(*HIVES, *MITES))
    room.match()
    with session() as db:
        run(db, "UPDATE record SET abstract = '' WHERE id = :r", r=room.records()[0])
    made = grouped(room)
    (it,) = likeness.groupings(room.review)
    assert (it["records"], it["without_abstract"], it["known"]) == (15, 1, 0)
    group = likeness.groups(room.review, made)[0]
    with pytest.raises(Conflict, match="Name seeds first"):
        likeness.set_aside(room.review, room.lead, group["id"], [])
    other = make_room()
    with pytest.raises(NotFound):
        likeness.set_aside(other.review, other.lead, group["id"], [])


def test_what_was_set_aside_is_not_grouped_again(two_subjects: Room) -> None:
    room = two_subjects
    _, far = likeness.groups(room.review, grouped(room))
    likeness.set_aside(room.review, room.lead, far["id"], [it["id"] for it in likeness.nearest(room.review, far["id"])])
    again = likeness.groups(room.review, grouped(room))
    assert sum(it["size"] for it in again) == 8, "the undecided ones about hives, the seed among them"
