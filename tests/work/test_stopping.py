"""Stopping: what is left, a sample drawn and settled, and the rest set aside with the figures of that moment."""

from __future__ import annotations

import pytest

from kettlesort.core.screening.passes import Mode
from kettlesort.core.screening.stopping import remaining
from kettlesort.store.records import Wanted
from kettlesort.work import narrow, passes, report, screen, stopping
from kettlesort.work.errors import Conflict, Invalid
from tests.conftest import Room, ris


@pytest.fixture
def forty(room: Room) -> Room:
    """Forty records, of which the first five belong and ten are decided."""
    room.gather(ris(*[f"Wrapped hives of place {k}" for k in range(40)]))
    room.match()
    for k, record in enumerate(room.records()[:10]):
        room.decide(record, "include" if k < 5 else "exclude")
    return room


def test_what_is_left_follows_from_the_answers_in_their_sequence(forty: Room) -> None:
    it = stopping.outlook(forty.review)
    assert (it.records, it.answered, it.found, it.unread) == (40, 10, 5, 30)
    assert it.told == remaining(40, [1] * 5 + [0] * 5)
    assert (it.curve[0], it.curve[-1]) == ((0, 0), (10, 5))
    assert [(look.answered, look.found) for look in it.looks][-1] == (10, 5)


def test_a_sample_comes_first_at_every_desk_and_tells_once_it_is_settled(forty: Room) -> None:
    stopping.draw_sample(forty.review, forty.lead, 8, seed=4)
    handed = [it.id for it in screen.hand_out(forty.review, forty.reviewer, Wanted("open"), [], 8)]
    with pytest.raises(Conflict, match="not settled yet"):
        stopping.draw_sample(forty.review, forty.lead, 3)
    for record in handed[:7]:
        forty.decide(record, "exclude")
    assert stopping.outlook(forty.review).told.method != "random sample"
    later = next(it for it in forty.records("open") if it not in handed)
    forty.decide(later, "include")
    forty.decide(handed[7], "include")
    it = stopping.outlook(forty.review)
    assert it.sample is not None
    assert (it.sample.records, it.sample.settled) == (8, 8)
    assert it.told == remaining(40, [1] * 5 + [0] * 5 + [0] * 7 + [1] + [1], 8, after=1), "what was decided meanwhile counts after it"
    with pytest.raises(Invalid, match="1 to 21"):
        stopping.draw_sample(forty.review, forty.lead, 22)


def test_stopping_sets_aside_what_nobody_has_read_and_keeps_the_figures(forty: Room) -> None:
    every = forty.records()
    passes.set_mode(forty.review, forty.lead, 1, Mode(2))
    for record in (*every[:2], *every[10:13]):
        screen.decide(forty.review, forty.lead, screen.Said(record, 1, "include", None))
    before = stopping.outlook(forty.review)
    made, n = stopping.stop(forty.review, forty.lead)
    assert (n, before.unread) == (27, 38), "what one of two has read stays; who looks is not told how many that are"
    total = forty.total()
    assert (total.aside, total.open) == (n, 11)
    said = stopping.outlook(forty.review).stopped
    assert said is not None
    after = stopping.outlook(forty.review)
    assert (after.records, after.told) == (before.records, before.told), "what nobody has read is no less unknown for being set aside"
    with pytest.raises(Conflict, match="Go on with it first"):
        stopping.draw_sample(forty.review, forty.lead, 3)
    assert (said.figures["answered"], said.figures["p95"], said.figures["set_aside"]) == (before.answered, before.told.p95, n)
    assert report.standing(forty.review, from_rows=True).figures.adds_up
    narrow.withdraw(forty.review, forty.lead, made)
    assert stopping.outlook(forty.review).stopped is None
    assert forty.total().aside == 0
    with pytest.raises(Conflict, match="no rule that could be repeated"):
        narrow.set_again(forty.review, forty.lead, made, True)
    assert narrow.withdraw(forty.review, forty.lead, made, back=True) == n
    assert narrow.withdraw(forty.review, forty.lead, made) == n
    screen.decide(forty.review, forty.lead, screen.Said(every[20], 1, "include", None))
    with pytest.raises(Conflict, match="Screening went on since"):
        narrow.withdraw(forty.review, forty.lead, made, back=True)
