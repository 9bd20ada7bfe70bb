"""At the desk: verdicts and their undoing, notes, holds that run out, the order that follows the decisions, lists of any state."""

from __future__ import annotations

import pytest

from kettlesort.store.base import session
from kettlesort.store.records import Wanted
from kettlesort.store.sql import rows, run
from kettlesort.work import fulltexts, plan, protocol, ranking, records, report, screen, seeds
from kettlesort.work.errors import Conflict, Invalid, NotFound
from tests.conftest import Room, ris

TITLES = [
    "Wraps keep colonies warm in winter",
    "Foam hives lose fewer colonies in winter",
    "Lids of straw against winter loss",
    "Honey yields of southern meadows",
    "Wasps that visit orchards",
    "Pollen of the southern meadows",
]


@pytest.fixture
def desk(room: Room) -> Room:
    """Six records to screen."""
    room.gather(ris(*TITLES))
    room.match()
    return room


def standing(room: Room, record: int) -> tuple[str, str]:
    it = screen.sheet(room.review, room.reviewer, record).row
    return it["first"], it["second"]


def test_the_latest_verdict_holds_and_taking_it_back_brings_back_the_one_before(desk: Room) -> None:
    record = desk.records()[0]
    for verdict in ("unsure", "exclude", "include"):
        desk.decide(record, verdict)
    assert standing(desk, record)[0] == "include"
    assert screen.take_back(desk.review, desk.reviewer, 1) == record
    assert standing(desk, record)[0] == "exclude"
    screen.take_back(desk.review, desk.reviewer, 1)
    assert standing(desk, record)[0] == "unsure"
    screen.take_back(desk.review, desk.reviewer, 1)
    assert standing(desk, record)[0] == "open"
    with pytest.raises(NotFound, match="no decision of yours"):
        screen.take_back(desk.review, desk.reviewer, 1)


def test_one_takes_back_only_ones_own(desk: Room) -> None:
    one, two = desk.records()[:2]
    desk.decide(one, "include", by=desk.reviewer)
    desk.decide(two, "include", by=desk.lead)
    assert screen.take_back(desk.review, desk.reviewer, 1) == one
    assert standing(desk, two)[0] == "include"
    assert [it["record_id"] for it in screen.history(desk.review, desk.lead, 1)] == [two]


def test_a_verdict_that_does_not_fit_is_refused(desk: Room) -> None:
    record = desk.records()[0]
    for wrong in (screen.Said(record, 1, "perhaps", None), screen.Said(record, 3, "include", None)):
        with pytest.raises(Invalid, match="A verdict is"):
            screen.decide(desk.review, desk.reviewer, wrong)
    with pytest.raises(NotFound, match="joined with another"):
        screen.decide(desk.review, desk.reviewer, screen.Said(10**9, 1, "include", None))
    assert standing(desk, record) == ("open", "open")


def test_a_criterion_of_another_review_is_none_of_ours(desk: Room, database: str) -> None:
    other = plan.make_review(desk.lead, "Other", "")
    protocol.amend(other, desk.lead, {"criteria": [protocol.Wording(None, "Theirs", "", True, True)]}, "Piloted")
    theirs = protocol.protocol(other).criteria[0].id
    with pytest.raises(Invalid, match="names the criterion"):
        screen.decide(desk.review, desk.reviewer, screen.Said(desk.records()[0], 1, "exclude", theirs))


def test_what_lies_on_a_desk_too_long_is_handed_to_the_next(desk: Room) -> None:
    mine = [it.id for it in screen.hand_out(desk.review, desk.lead, Wanted("open"), [], 6)]
    assert len(mine) == 6
    assert screen.hand_out(desk.review, desk.reviewer, Wanted("open"), [], 6) == []
    with session() as db:
        run(db, "UPDATE hold SET until = now() - interval '1 minute' WHERE record_id = :r", r=mine[2])
    assert [it.id for it in screen.hand_out(desk.review, desk.reviewer, Wanted("open"), [], 6)] == [mine[2]]
    with pytest.raises(Conflict, match="Reviewer Ames has this record"):
        desk.decide(mine[2], "include", by=desk.lead)


def test_unsure_is_seen_but_still_to_be_decided(desk: Room) -> None:
    record = desk.records()[0]
    desk.decide(record, "unsure")
    assert desk.records("unsure") == [record]
    assert desk.total().open == 6
    assert desk.total().decided == 0


def test_the_order_follows_seeds_and_decisions_and_says_why(desk: Room) -> None:
    by_title = {screen.sheet(desk.review, desk.reviewer, it).record.title: it for it in desk.records()}
    seeds.mark_seed(desk.review, desk.lead, by_title[TITLES[0]], True)
    ranking.rank_review(desk.review)
    order = desk.records("open")
    assert set(order[:3]) == {by_title[title] for title in TITLES[:3]}
    sheet = screen.sheet(desk.review, desk.reviewer, by_title[TITLES[1]])
    assert sheet.row["rank"] is not None
    assert sheet.why is not None
    assert any("winter" in word and share > 0 for word, share, _ in sheet.why.words)
    assert {record for record, _ in sheet.why.alike} <= set(sheet.others)
    assert [record for record, _ in sheet.why.nearest] == [by_title[TITLES[0]]]
    marked = [sheet.record.title[begin:end].lower() for begin, end, supports, _ in sheet.title_marks if supports]
    assert any("winter" in it for it in marked)
    desk.decide(by_title[TITLES[5]], "include")
    for title in TITLES[1:3]:
        desk.decide(by_title[title], "exclude")
    ranking.rank_review(desk.review)
    assert desk.records("open")[0] in (by_title[TITLES[3]], by_title[TITLES[0]])


def test_notes_are_each_ones_own_and_an_empty_one_clears(desk: Room) -> None:
    record = desk.records()[0]
    screen.note(desk.review, desk.reviewer, record, " look at the arms ")
    screen.note(desk.review, desk.lead, record, "agreed")
    told = report.history(desk.review, None, 1)[0]
    screen.note(desk.review, desk.lead, record, "agreed")
    assert report.history(desk.review, None, 1)[0] == told
    assert {it["text"] for it in screen.sheet(desk.review, desk.lead, record).notes} == {"look at the arms", "agreed"}
    screen.note(desk.review, desk.reviewer, record, "")
    assert [it["text"] for it in screen.sheet(desk.review, desk.lead, record).notes if it["text"]] == ["agreed"]
    with pytest.raises(NotFound):
        screen.note(desk.review, desk.lead, 10**9, "x")


def test_a_full_text_has_a_history_and_the_latest_word_holds(desk: Room) -> None:
    one, two = desk.records()[:2]
    desk.decide(one, "include")
    with pytest.raises(Conflict, match="first pass included"):
        fulltexts.set_full_text(desk.review, desk.reviewer, two, "obtained", "")
    with pytest.raises(Invalid, match="sought, obtained or missing"):
        fulltexts.set_full_text(desk.review, desk.reviewer, one, "lost", "")
    fulltexts.set_full_text(desk.review, desk.reviewer, one, "missing", "the library has no copy")
    assert (desk.total().missing, desk.total().waiting) == (1, 0)
    fulltexts.set_full_text(desk.review, desk.reviewer, one, "obtained", "")
    assert (desk.total().missing, desk.total().assessed) == (0, 1)
    with session() as db:
        states = [it["state"] for it in rows(db, "SELECT state FROM full_text WHERE copy_id = :c ORDER BY id", c=one)]
    assert states == ["missing", "obtained"], "nothing is overwritten"


def test_taking_back_the_first_pass_takes_a_report_out_of_the_second(desk: Room) -> None:
    record = desk.records()[0]
    desk.decide(record, "include")
    fulltexts.set_full_text(desk.review, desk.reviewer, record, "obtained", "")
    desk.decide(record, "include", 2)
    assert desk.total().included == 1
    screen.take_back(desk.review, desk.reviewer, 1)
    assert (desk.total().included, desk.total().sought) == (0, 0)
    desk.decide(record, "include")
    assert desk.total().included == 1, "what was said in the second pass was kept"


@pytest.mark.parametrize(
    ("wanted", "titles"),
    [
        (Wanted("all", words="winter -foam"), {TITLES[0], TITLES[2]}),
        (Wanted("all", words="100%"), set()),
        (Wanted("all", words="southern meadows"), {TITLES[3], TITLES[5]}),
        (Wanted("all", year_from=1994, year_to=1995), {TITLES[3], TITLES[4]}),
        (Wanted("all", abstract=False), set()),
        (Wanted("all", source="Nowhere"), set()),
        (Wanted("excluded"), set()),
    ],
)
def test_lists_hold_exactly_what_fits(desk: Room, wanted: Wanted, titles: set[str]) -> None:
    total, found = records.page_of(desk.review, wanted, 0, 100)
    assert {it["title"] for it in found} == titles
    assert total == len(titles)


def test_pages_of_a_list_make_the_list(desk: Room) -> None:
    whole = desk.records()
    pages = [it["id"] for offset in (0, 2, 4) for it in records.page_of(desk.review, Wanted("all"), offset, 2)[1]]
    assert pages == whole
