"""The team's words to underline: seen at the desk of all, kept in versions, nobody's lost."""

from __future__ import annotations

import pytest

from kettlesort.work import screen, underline
from kettlesort.work.errors import Conflict, Invalid
from tests.conftest import Room, ris


def test_the_teams_words_are_underlined_at_every_desk(room: Room) -> None:
    room.gather(ris("Wrapped hives in a cold winter"))
    record = room.records()[0]
    made = underline.set_words(room.review, room.lead, "hive*\ncold winter", "summer", 0)
    (sheet,) = screen.sheets(room.review, room.reviewer, [record], 1)
    assert [(sheet.record.title[it.begin : it.end], it.supports, it.own) for it in sheet.title_marks] == [
        ("hives", True, True),
        ("cold winter", True, True),
    ]
    with pytest.raises(Conflict, match="meanwhile"):
        underline.set_words(room.review, room.reviewer, "moth*", "", 0)
    with pytest.raises(Invalid, match="for and against"):
        underline.set_words(room.review, room.reviewer, "moth*", "Moth*", made.number)
    again = underline.set_words(room.review, room.reviewer, "hive*", "", made.number)
    assert (again.supports, again.opposes) == (["hive*"], [])
    assert underline.set_words(room.review, room.reviewer, "hive*", "", again.number).number == again.number, "nothing changed, no version"
