"""The plan of a review: question, elements, criteria, sources, members."""

from __future__ import annotations

import os

import pytest

from kettlesort.work import people, plan, report, screen
from kettlesort.work.errors import Conflict, Invalid, NotFound
from tests.conftest import Room, ris


def last_event(room: Room) -> dict[str, object]:
    return dict(report.history(room.review, None, 1)[1][0])


def test_the_question_keeps_what_it_was_in_the_history(room: Room) -> None:
    plan.set_question(room.review, room.lead, {"title": "  Winter   wraps ", "year_from": 1980, "languages": "en, de"})
    it = plan.protocol(room.review).review
    assert (it.title, it.year_from, it.languages) == ("Winter wraps", 1980, "en, de")
    assert last_event(room)["before"] == {"title": "Hives", "year_from": None, "languages": ""}
    told = report.history(room.review, None, 1)[0]
    plan.set_question(room.review, room.lead, {"title": "Winter wraps"})
    assert report.history(room.review, None, 1)[0] == told, "nothing changed, so nothing is told"


@pytest.mark.parametrize(
    ("values", "said"),
    [({"title": "   "}, "needs a title"), ({"year_from": 2020, "year_to": 1980}, "The first year, 2020, is after the last, 1980")],
)
def test_a_question_that_makes_no_sense_is_refused_whole(room: Room, values: dict[str, object], said: str) -> None:
    with pytest.raises(Invalid, match=said):
        plan.set_question(room.review, room.lead, {"question": "Other?", **values})
    assert plan.protocol(room.review).review.question == "Do wraps help?"


def test_elements_lose_blanks_and_doubles_and_keep_their_order(room: Room) -> None:
    plan.set_elements(room.review, room.lead, [("Population", ["honeybee", " honeybee ", ""]), (" ", [""]), ("Outcome", ["winter  loss"])])
    assert [(it.label, it.terms) for it in plan.protocol(room.review).elements] == [
        ("Population", ["honeybee"]),
        ("Outcome", ["winter loss"]),
    ]
    plan.set_elements(room.review, room.lead, [])
    assert last_event(room)["before"] == [{"label": "Population", "terms": ["honeybee"]}, {"label": "Outcome", "terms": ["winter loss"]}]


def test_planned_sources_are_of_a_kind_that_the_flow_knows(room: Room) -> None:
    plan.set_sources(room.review, room.lead, [("Agrarica", "database"), ("", "register")])
    with pytest.raises(Invalid, match="A source is one of"):
        plan.set_sources(room.review, room.lead, [("Hearsay", "rumour")])
    assert [it.name for it in plan.protocol(room.review).sources] == ["Agrarica"]


def test_criteria_keep_their_identity_when_moved_and_reworded(room: Room) -> None:
    one, two = plan.protocol(room.review).criteria
    plan.set_criteria(
        room.review, room.lead,
        [plan.Wording(two.id, "No control", "No group without wraps", False, True), plan.Wording(one.id, one.name, "", True, True), plan.Wording(None, "Wrong outcome", "", True, True)],
    )  # fmt: skip
    now = plan.protocol(room.review).criteria
    assert [(it.id, it.name) for it in now[:2]] == [(two.id, "No control"), (one.id, "Not bees")]
    assert (now[0].first, now[0].second, now[0].wording) == (False, True, "No group without wraps")
    with pytest.raises(Invalid, match="same name"):
        plan.set_criteria(
            room.review, room.lead, [plan.Wording(None, "Dead", "", True, True), plan.Wording(None, " dead ", "", True, True)]
        )
    with pytest.raises(Invalid, match="short name"):
        plan.set_criteria(room.review, room.lead, [plan.Wording(None, " ", "", True, True)])


def test_a_criterion_that_was_used_stays_on_its_verdicts_when_it_is_removed(room: Room) -> None:
    room.gather(ris("Wraps in winter", "Lids in summer"))
    first, second = room.records()
    room.decide(first, "exclude")
    kept = plan.protocol(room.review).criteria[1]
    plan.set_criteria(room.review, room.lead, [plan.Wording(kept.id, kept.name, "", True, True)])
    assert room.total().excluded == 1
    assert screen.records(room.review, screen.Wanted("excluded"), 0, 10)[1][0]["reason"] == "Not bees"
    with pytest.raises((Invalid, NotFound)):
        screen.decide(room.review, room.reviewer, screen.Said(second, 1, "exclude", kept.id + 10_000))
    with pytest.raises(NotFound, match="removed meanwhile"):
        plan.set_criteria(room.review, room.lead, [plan.Wording((kept.id or 0) + 10_000, "Ghost", "", True, True)])


def test_a_review_always_has_a_lead(room: Room) -> None:
    for attempt in (
        lambda: plan.remove_member(room.review, room.lead, room.lead),
        lambda: plan.add_member(room.review, room.lead, people_name(room.lead), "observer"),
    ):
        with pytest.raises(Conflict, match="needs a lead"):
            attempt()
    plan.add_member(room.review, room.lead, people_name(room.reviewer), "lead")
    plan.remove_member(room.review, room.reviewer, room.lead)
    assert plan.role_in(room.review, room.lead) is None
    assert plan.role_in(room.review, room.reviewer) == "lead"


def people_name(account: int) -> str:
    return str(next(it["name"] for it in _everybody() if it["id"] == account))


def _everybody() -> list[dict[str, object]]:
    from kettlesort.store.base import rows, session

    with session() as db:
        return [dict(it) for it in rows(db, "SELECT id, name FROM account")]


def test_members_come_go_and_come_back_by_the_name_they_sign_in_with(room: Room) -> None:
    name = f"odile{os.getpid()}-{room.review}"
    odile = people.make_account(name, "Odile Marsh", "long enough").id or 0
    with pytest.raises(NotFound, match="no account named “nobody”"):
        plan.add_member(room.review, room.lead, "nobody ", "reviewer")
    with pytest.raises(Invalid, match="A role is one of"):
        plan.add_member(room.review, room.lead, name, "emperor")
    plan.add_member(room.review, room.lead, f" {name.upper()} ", "observer")
    with pytest.raises(Conflict, match="Odile Marsh is observer already"):
        plan.add_member(room.review, room.lead, name, "observer")
    plan.remove_member(room.review, room.lead, odile)
    with pytest.raises(NotFound):
        plan.remove_member(room.review, room.lead, odile)
    assert room.review not in {it.row["id"] for it in plan.my_reviews(odile)}
    plan.add_member(room.review, room.lead, name, "reviewer")
    assert [it.row["role"] for it in plan.my_reviews(odile) if it.row["id"] == room.review] == ["reviewer"]
    assert [it["kind"] for it in report.history(room.review, None, 3)[1]] == [
        "plan.member_added",
        "plan.member_removed",
        "plan.member_added",
    ]
