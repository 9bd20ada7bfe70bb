"""The plan of a review: question, elements, criteria, sources, members."""

from __future__ import annotations

import io
import os
from datetime import date, timedelta

import docx
import pytest
from sqlalchemy import event, func, select
from sqlmodel import Session

from kettlesort.core import documents
from kettlesort.store import plan as store
from kettlesort.store.base import Table, engine, session
from kettlesort.store.records import Wanted
from kettlesort.work import jobs, people, plan, protocol, records, report, screen
from kettlesort.work.errors import Conflict, Invalid, NotFound
from tests.conftest import Room, make_room, ris
from tests.furnished import furnish


def last_event(room: Room) -> dict[str, object]:
    return dict(report.history(room.review, None, 1)[1][0])


def test_the_question_keeps_what_it_was_in_the_history(room: Room) -> None:
    protocol.amend(room.review, room.lead, {"title": "  Winter   wraps ", "year_from": 1980, "languages": "en, de"})
    it = protocol.protocol(room.review).review
    assert (it.title, it.year_from, it.languages) == ("Winter wraps", 1980, "en, de")
    assert last_event(room)["before"] == {"Title": "Hives", "Limits": ""}
    assert last_event(room)["after"] == {"Title": "Winter wraps", "Limits": "published from 1980; languages: en, de"}
    told = report.history(room.review, None, 1)[0]
    protocol.amend(room.review, room.lead, {"title": "Winter wraps"})
    assert report.history(room.review, None, 1)[0] == told, "nothing changed, so nothing is told"


@pytest.mark.parametrize(
    ("values", "said"),
    [({"title": "   "}, "needs a title"), ({"year_from": 2020, "year_to": 1980}, "The first year, 2020, is after the last, 1980")],
)
def test_a_question_that_makes_no_sense_is_refused_whole(room: Room, values: dict[str, object], said: str) -> None:
    with pytest.raises(Invalid, match=said):
        protocol.amend(room.review, room.lead, {"question": "Other?", **values})
    assert protocol.protocol(room.review).review.question == "Do wraps help?"


def test_elements_lose_blanks_and_doubles_and_keep_their_order(room: Room) -> None:
    protocol.amend(
        room.review, room.lead, {"elements": [("Population", ["honeybee", " honeybee ", ""]), (" ", [""]), ("Outcome", ["winter  loss"])]}
    )
    assert [(it.label, it.terms) for it in protocol.protocol(room.review).elements] == [
        ("Population", ["honeybee"]),
        ("Outcome", ["winter loss"]),
    ]
    protocol.amend(room.review, room.lead, {"elements": []})
    assert last_event(room)["before"] == {"Population": "honeybee", "Outcome": "winter loss"}


def test_planned_sources_are_of_a_kind_that_the_flow_knows(room: Room) -> None:
    protocol.amend(room.review, room.lead, {"sources": [("Agrarica", "database"), ("", "register")]})
    with pytest.raises(Invalid, match="A source is one of"):
        protocol.amend(room.review, room.lead, {"sources": [("Hearsay", "rumour")]})
    assert [it.name for it in protocol.protocol(room.review).sources] == ["Agrarica"]


def test_criteria_keep_their_identity_when_moved_and_reworded(room: Room) -> None:
    one, two = protocol.protocol(room.review).criteria
    protocol.amend(room.review, room.lead, {"criteria": [protocol.Wording(two.id, "No control", "No group without wraps", False, True), protocol.Wording(one.id, one.name, "", True, True), protocol.Wording(None, "Wrong outcome", "", True, True)]})  # fmt: skip
    now = protocol.protocol(room.review).criteria
    assert [(it.id, it.name) for it in now[:2]] == [(two.id, "No control"), (one.id, "Not bees")]
    assert (now[0].first, now[0].second, now[0].wording) == (False, True, "No group without wraps")
    with pytest.raises(Invalid, match="same name"):
        protocol.amend(
            room.review,
            room.lead,
            {"criteria": [protocol.Wording(None, "Dead", "", True, True), protocol.Wording(None, " dead ", "", True, True)]},
        )
    with pytest.raises(Invalid, match="short name"):
        protocol.amend(room.review, room.lead, {"criteria": [protocol.Wording(None, " ", "", True, True)]}, "Piloted")


def test_a_criterion_that_was_used_stays_on_its_verdicts_when_it_is_removed(room: Room) -> None:
    room.gather(ris("Wraps in winter", "Lids in summer"))
    first, second = room.records()
    room.decide(first, "exclude")
    kept = protocol.protocol(room.review).criteria[1]
    with pytest.raises(Invalid, match="Say why it changes"):
        protocol.amend(room.review, room.lead, {"criteria": [protocol.Wording(kept.id, kept.name)]})
    assert len(protocol.protocol(room.review).criteria) == 2
    protocol.amend(room.review, room.lead, {"criteria": [protocol.Wording(kept.id, kept.name)]}, "Piloted")
    assert room.total().excluded == 1
    assert records.page_of(room.review, Wanted("excluded"), 0, 10)[1][0]["reason"] == "Not bees"
    with pytest.raises((Invalid, NotFound)):
        screen.decide(room.review, room.reviewer, screen.Said(second, 1, "exclude", kept.id + 10_000))
    with pytest.raises(NotFound, match="removed meanwhile"):
        protocol.amend(
            room.review, room.lead, {"criteria": [protocol.Wording((kept.id or 0) + 10_000, "Ghost", "", True, True)]}, "Piloted"
        )


def test_a_review_always_has_a_lead(room: Room) -> None:
    for attempt in (
        lambda: plan.remove_member(room.review, room.lead, room.lead),
        lambda: plan.add_member(room.review, room.lead, people_name(room.lead), "observer"),
    ):
        with pytest.raises(Conflict, match="needs a lead"):
            attempt()
    plan.add_member(room.review, room.lead, people_name(room.reviewer), "lead")
    plan.remove_member(room.review, room.reviewer, room.lead)
    assert [(it["id"], it["role"]) for it in plan.members(room.review) if not it["removed_at"]] == [(room.reviewer, "lead")]


def people_name(account: int) -> str:
    return str(next(it["name"] for it in _everybody() if it["id"] == account))


def _everybody() -> list[dict[str, object]]:
    from kettlesort.store.base import session
    from kettlesort.store.sql import rows

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


def test_every_change_is_a_version_with_its_person_and_reason(room: Room) -> None:
    first = protocol.protocol(room.review).version
    kept = [protocol.Wording(it.id, it.name, it.wording) for it in protocol.protocol(room.review).criteria]
    changes: protocol.Changes = {
        "framework": "peco", "elements": [("Population", ["honeybee"]), ("Exposure", ["wrap"])], "criteria": [kept[1], kept[0]],
        "updates_from": date(2021, 5, 3), "update_of": "Wraps, a review of 2021", "registered_in": "Open Shelf", "registration_number": "OS-7", "registered_on": date(2026, 1, 2),
    }  # fmt: skip
    assert protocol.amend(room.review, room.lead, changes, " Piloted\non ten ", seen=first) == first + 1
    assert protocol.amend(room.review, room.lead, changes) == first + 1, "the same again is no version"
    with pytest.raises(Conflict, match="changed the protocol meanwhile"):
        protocol.amend(room.review, room.lead, {"question": "Other?"}, seen=first)
    last = protocol.versions(room.review)[-1]
    assert (last.row["version"], last.row["reason"], last.row["by"]) == (first + 1, "Piloted on ten", "Lead Orsel")
    assert {it.name: (it.before, it.after) for it in last.changes} == {
        "Framework": ("", "PECO"),
        "Population": ("", "honeybee"),
        "Exposure": ("", "wrap"),
        "Criteria": (
            "1. Not bees (both passes)\n2. No comparison (both passes)",
            "1. No comparison (both passes)\n2. Not bees (both passes)",
        ),
        "Limits": ("", "added since 2021-05-03, the last search of the earlier review"),
        "Earlier review": ("", "Wraps, a review of 2021"),
        "Registration": ("", "Open Shelf OS-7, 2026-01-02"),
    }
    with pytest.raises(Invalid, match="A framework is one of pico"):
        protocol.amend(room.review, room.lead, {"framework": "colours"})  # type: ignore[typeddict-item]


def test_the_protocol_is_a_document_with_its_amendments(room: Room) -> None:
    protocol.amend(
        room.review,
        room.lead,
        {"question": "Do | wraps\nhelp *bees*?\x0c", "elements": [("Population", ["honeybee"])], "year_to": 2026},
        "Begun",
    )
    title, blocks = protocol.document(room.review)
    text = documents.markdown(blocks)
    assert text.startswith(f"# {title}\n")
    assert "Do \\| wraps  \nhelp \\*bees\\*?" in text
    for words in (
        "| Population | honeybee |",
        "1. Not bees",
        "published until 2026",
        "| Lead Orsel | lead |",
        "Begun",
        "Limits: — → published until 2026",
    ):
        assert words in text
    file = docx.Document(io.BytesIO(documents.docx_file(blocks)))
    assert file.paragraphs[0].text == title
    assert [cell.text for cell in file.tables[0].rows[1].cells] == ["Population", "honeybee"]
    assert "Not bees" in [it.text for it in file.paragraphs]


def test_the_list_of_reviews_says_what_each_says_itself_and_asks_as_often_however_many_they_are(room: Room) -> None:
    furnish(room)
    asked: list[str] = []

    def note(_conn: object, _cursor: object, statement: str, *_more: object) -> None:
        asked.append(statement)

    event.listen(engine(), "before_cursor_execute", note)
    try:
        (mine,) = plan.my_reviews(room.lead)
        for one in range(3):
            plan.make_review(room.lead, f"Another {one}", "")
        first, asked[:] = len([it for it in asked if "INSERT" not in it]), []
        assert len(plan.my_reviews(room.lead)) == 4
        assert len(asked) <= first
    finally:
        event.remove(engine(), "before_cursor_execute", note)
    whole = report.standing(room.review).figures
    for name in ("found", "aside", "records", "open", "unsure", "excluded", "sought", "assessed", "second_open", "included"):
        assert getattr(mine.total, name) == getattr(whole.total, name), name
    assert mine.questions == whole.questions


def _counts(db: Session) -> dict[str, int]:
    """How many rows each table has, but for what belongs to no review."""
    return {table.name: db.execute(select(func.count()).select_from(table)).scalar_one() for table in Table.metadata.sorted_tables}


def test_a_made_up_review_that_was_thrown_away_is_forgotten_with_every_row_and_nothing_else(
    room: Room, monkeypatch: pytest.MonkeyPatch
) -> None:
    furnish(room)
    with session() as db:
        before = _counts(db)
        twin = make_room()
    furnish(twin)
    with session() as db:
        assert all(
            n > before[name] for name, n in _counts(db).items() if before[name] and name in ("copy", "verdict", "labelled", "trial_pair")
        )
        with pytest.raises(ValueError, match="is not made up"):
            store.forget(db, twin.review)
        store.mark_made_up(db, twin.review)
    plan.forget_thrown_away()
    assert twin.records(), "nobody threw it away"
    plan.archive(twin.review, twin.lead, True)
    plan.forget_thrown_away()
    assert twin.records(), "it can be brought back"
    monkeypatch.setattr(plan, "THROWN_AWAY", timedelta(0))
    plan.forget_thrown_away()
    with session() as db:
        after = _counts(db)
    alone = {"account", "attempt", "blob", "blob_piece", "signed_in"}
    assert {name: n for name, n in after.items() if name not in alone} == {name: n for name, n in before.items() if name not in alone}


def test_an_account_has_three_made_up_reviews_at_most(room: Room) -> None:
    made = [plan.make_up(room.lead, "Play", "") for _ in range(plan.MADE_UP)]
    with pytest.raises(Conflict, match="Throw one away first"):
        plan.make_up(room.lead, "Play", "")
    assert [job["label"] for job in jobs.current(made[0])] == ["Filling with made-up data"]
    plan.archive(made[0], room.lead, True)
    assert plan.make_up(room.lead, "Play", "")
