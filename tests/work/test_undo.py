"""Whatever offers an undo brings back exactly what was there: all that stands is compared, before and after."""

from __future__ import annotations

import io
from collections.abc import Callable
from typing import Any

import pytest

from kettlesort.core.screening.passes import Mode
from kettlesort.store.base import session
from kettlesort.store.questions import open_questions
from kettlesort.store.sql import rows
from kettlesort.work import (
    asking,
    catalogue,
    chart,
    checks,
    fulltexts,
    gaps,
    gather,
    groups,
    labels,
    narrow,
    passes,
    plan,
    pooling,
    proposals,
    recipes,
    runs,
    screen,
    searches,
    seeds,
    stopping,
    studies,
    trials,
    vocabulary,
)  # fmt: skip
from tests.conftest import Room, make_room
from tests.furnished import furnish

STANDS = {
    "placement": "SELECT copy_id, record_id FROM placement WHERE review_id = :v ORDER BY 1",
    "records": "SELECT * FROM record WHERE review_id = :v ORDER BY id",
    "standing": "SELECT * FROM standing WHERE review_id = :v ORDER BY record_id",
    "labels": "SELECT l.name, d.copy_id FROM label l JOIN labelled d ON d.label_id = l.id WHERE l.review_id = :v AND l.removed_at IS NULL ORDER BY 1, 2",
    "aside": "SELECT d.narrowing_id, d.copy_id FROM narrowed d JOIN narrowing n ON n.id = d.narrowing_id WHERE n.review_id = :v AND d.released_at IS NULL AND n.withdrawn_at IS NULL ORDER BY 1, 2",
    "said": "SELECT DISTINCT left_copy, right_copy, same, related, account_id FROM ruling WHERE review_id = :v AND NOT by_rule AND withdrawn_at IS NULL ORDER BY 1, 2, 3, 4, 5",
    "ruled": "SELECT left_copy, right_copy, same, how FROM ruling WHERE review_id = :v AND by_rule AND withdrawn_at IS NULL ORDER BY 1, 2, 3, 4",
    "filled": "SELECT copy_id, field, value::text FROM supplement WHERE review_id = :v AND withdrawn_at IS NULL ORDER BY 1, 2, 3",
    "gaps": "SELECT id, state FROM gap WHERE review_id = :v ORDER BY 1",
    "values": """SELECT * FROM (SELECT DISTINCT ON (reader_id, study_id, item_id, arm_id, outcome_id, time_id) study_id, item_id, arm_id, outcome_id, time_id, text, quote, page
        FROM value WHERE review_id = :v ORDER BY reader_id, study_id, item_id, arm_id, outcome_id, time_id, id DESC) x WHERE text <> '' ORDER BY 1, 2, 3, 4, 5""",
    "levels": "SELECT id, study_id, name FROM level WHERE review_id = :v AND removed_at IS NULL ORDER BY 1",
    "analyses": "SELECT id, position FROM analysis WHERE review_id = :v AND removed_at IS NULL ORDER BY 1",
    "asked": "SELECT id FROM kept_question WHERE review_id = :v AND removed_at IS NULL ORDER BY 1",
    "answers": "SELECT proposal_id, verdict FROM proposal_answer WHERE review_id = :v AND withdrawn_at IS NULL ORDER BY 1",
    "studies": "SELECT x.copy_id, x.study_id, s.label FROM study_report x JOIN study s ON s.id = x.study_id WHERE x.review_id = :v ORDER BY 1",
    "searches": "SELECT id, removed_at IS NULL FROM search WHERE review_id = :v ORDER BY 1",
    "files": "SELECT id, state FROM batch WHERE review_id = :v ORDER BY 1",
    "schedules": "SELECT id, stopped_at IS NULL FROM schedule WHERE review_id = :v ORDER BY 1",
    "catalogues": "SELECT id, removed_at IS NULL FROM catalogue WHERE review_id = :v ORDER BY 1",
    "vocabularies": "SELECT id, removed_at IS NULL FROM vocabulary WHERE review_id = :v ORDER BY 1",
    "recipes": "SELECT name, version FROM recipe WHERE review_id = :v AND removed_at IS NULL ORDER BY 1, 2",
    "members": "SELECT account_id, role FROM member WHERE review_id = :v AND removed_at IS NULL ORDER BY 1",
    "checks": "SELECT p.id, p.same FROM checked_pair p JOIN check_sample s ON s.id = p.sample_id WHERE s.review_id = :v ORDER BY 1",
    "shares": "SELECT sharing_id, copy_id, account_id FROM allotment WHERE review_id = :v AND given_back_at IS NULL ORDER BY 1, 2, 3",
    "sample": "SELECT id FROM screen_sample WHERE review_id = :v AND withdrawn_at IS NULL ORDER BY 1",
    "keys": "SELECT key FROM seed_key WHERE review_id = :v AND removed_at IS NULL ORDER BY 1",
    "delivered": "SELECT id, state, copy_id FROM delivered WHERE review_id = :v ORDER BY 1",
    "full texts": """SELECT DISTINCT ON (t.copy_id) t.copy_id, t.state, t.reason FROM full_text t WHERE t.review_id = :v ORDER BY t.copy_id, t.id DESC""",
}


def stands(room: Room) -> dict[str, Any]:
    with session() as db:
        it: dict[str, Any] = {name: [tuple(row.values()) for row in rows(db, sql, v=room.review)] for name, sql in STANDS.items()}
        it["questions"] = sorted((q["left_copy"], q["right_copy"]) for q in open_questions(db, room.review))
    return it


Deed = Callable[[Room, dict[str, Any]], Any]
Undo = Callable[[Room, dict[str, Any], Any], Any]


def _group(room: Room, _: dict[str, Any]) -> int:
    return next(it["id"] for it in groups.groups(room.review, groups.Sought(), 0, 10)[1])


def _two(deed: Callable[..., Any]) -> Deed:
    return lambda room, it: deed(room.review, room.lead, it)


DEEDS: dict[str, tuple[Deed, Undo]] = {
    "take a group apart": (lambda r, it: groups.take_apart(r.review, r.lead, _group(r, it)), lambda r, it, made: groups.take_back(r.review, r.lead, made)),
    "take a copy out": (
        lambda r, it: (c := groups.copies_of(r.review, _group(r, it)).copies[-1].id, groups.split(r.review, r.lead, c))[0],
        lambda r, it, made: groups.unsplit(r.review, r.lead, made),
    ),
    "choose a value": (
        lambda r, it: groups.choose_value(r.review, r.lead, groups.copies_of(r.review, _group(r, it)).copies[-1].id, "doi"),
        lambda r, it, made: groups.choose_no_value(r.review, r.lead, made),
    ),
    "set a file aside": (lambda r, it: gather.set_aside(r.review, r.lead, it["second"]), lambda r, it, _: (gather.take_in(r.review, r.lead, it["second"]), r.match())),
    "label": (lambda r, it: labels.put(r.review, r.lead, "Again", r.records()), lambda r, it, made: labels.take(r.review, r.lead, made[0], made[1], only=True)),
    "label what has it in part": (
        lambda r, it: labels.put(r.review, r.lead, "Hand search", r.records()),
        lambda r, it, made: labels.take(r.review, r.lead, made[0], made[1], only=True),
    ),
    "take a label off": (lambda r, it: labels.take(r.review, r.lead, it["label"], r.records()), lambda r, it, made: labels.give(r.review, r.lead, it["label"], made)),
    "remove a label": (lambda r, it: labels.remove(r.review, r.lead, it["label"]), lambda r, it, _: labels.remove(r.review, r.lead, it["label"], back=True)),
    "set records aside": (lambda r, it: narrow.set_aside(r.review, r.lead, "More", r.records("open")[:2])[0], lambda r, it, made: narrow.withdraw(r.review, r.lead, made)),
    "let records in": (lambda r, it: narrow.let_in(r.review, r.lead, r.records("aside")), lambda r, it, made: narrow.hold_again(r.review, r.lead, made)),
    "take a narrowing back": (lambda r, it: narrow.withdraw(r.review, r.lead, it["narrowing"]), lambda r, it, _: narrow.withdraw(r.review, r.lead, it["narrowing"], back=True)),
    "decide": (lambda r, it: r.decide(r.records("open")[0], "exclude"), lambda r, it, _: screen.take_back(r.review, r.reviewer, 1)),
    "decide again": (lambda r, it: r.decide(it["record"], "exclude"), lambda r, it, _: screen.take_back(r.review, r.reviewer, 1)),
    "exclude a full text": (lambda r, it: r.decide(it["record"], "exclude", 2), lambda r, it, _: screen.take_back(r.review, r.reviewer, 2)),
    "take gaps": (lambda r, it: gaps.take(r.review, r.lead, [it["gap"]]), lambda r, it, made: gaps.take_back(r.review, r.lead, made)),
    "leave gaps": (lambda r, it: gaps.leave(r.review, r.lead, [it["gap"]]), lambda r, it, _: gaps.leave(r.review, r.lead, [it["gap"]], back=True)),
    "apply a trial": (lambda r, it: trials.apply(r.review, r.lead, _fresh_trial(r)), lambda r, it, _: trials.undo(r.review, r.lead, _applied(r))),
    "answer a pair": (
        lambda r, it: _answered(r, it["question"]),
        lambda r, it, _: _asked_back(r),
    ),
    "find an error in a sample": (lambda r, it: checks.answer(r.review, r.lead, it["pair"], False), lambda r, it, _: checks.answer(r.review, r.lead, it["pair"], None)),
    "mark a seed": (lambda r, it: seeds.mark_seed(r.review, r.lead, it["other"], True), lambda r, it, _: seeds.mark_seed(r.review, r.lead, it["other"], False)),
    "remove a member": (lambda r, it: plan.remove_member(r.review, r.lead, r.reviewer), lambda r, it, _: plan.add_member(r.review, r.lead, _name(r.reviewer), "reviewer")),
    "stop a plan": (lambda r, it: runs.stop(r.review, r.lead, it["schedule"]), lambda r, it, _: runs.stop(r.review, r.lead, it["schedule"], back=True)),
    "disconnect a catalogue": (lambda r, it: catalogue.use(r.review, r.lead, it["catalogue"], False), lambda r, it, _: catalogue.use(r.review, r.lead, it["catalogue"], True)),
    "put a vocabulary out of use": (lambda r, it: vocabulary.use(r.review, r.lead, it["vocabulary"], False), lambda r, it, _: vocabulary.use(r.review, r.lead, it["vocabulary"], True)),
    "remove a recipe": (lambda r, it: recipes.remove(r.review, r.lead, "Our recipe"), lambda r, it, _: recipes.remove(r.review, r.lead, "Our recipe", back=True)),
    "remove a search": (lambda r, it: _new_search(r), lambda r, it, made: searches.remove_search(r.review, r.lead, made, back=True)),
    "screen a pass with two readers": (lambda r, it: passes.set_mode(r.review, r.lead, 1, Mode(2)), lambda r, it, _: passes.set_mode(r.review, r.lead, 1, Mode())),
    "give a share back": (
        lambda r, it: passes.give_back(r.review, r.lead, "lead", it["sharing"], None),
        lambda r, it, _: passes.give_back(r.review, r.lead, "lead", it["sharing"], None, back=True),
    ),
    "take a sample back": (lambda r, it: stopping.withdraw_sample(r.review, r.lead, it["drawn"]), lambda r, it, _: stopping.withdraw_sample(r.review, r.lead, it["drawn"], back=True)),
    "stop screening": (lambda r, it: stopping.stop(r.review, r.lead)[0], lambda r, it, made: narrow.withdraw(r.review, r.lead, made)),
    "take a study's own arm away": (
        lambda r, it: studies.remove_level(r.review, r.lead, it["level"]),
        lambda r, it, _: studies.remove_level(r.review, r.lead, it["level"], back=True),
    ),
    "drop a question": (
        lambda r, it: asking.drop(r.review, r.lead, it["asked"]),
        lambda r, it, _: asking.drop(r.review, r.lead, it["asked"], back=True),
    ),
    "take an answer to proposals back": (
        lambda r, it: proposals.take_back(r.review, r.lead, it["stroke"]),
        lambda r, it, _: proposals.refuse(r.review, r.lead, it["study"], it["item"], (None, None, None)),
    ),
    "move an analysis": (lambda r, it: pooling.move(r.review, r.lead, it["analysis"], 1), lambda r, it, _: pooling.move(r.review, r.lead, it["analysis"], 0)),
    "remove an analysis": (lambda r, it: pooling.remove(r.review, r.lead, it["analysis"]), lambda r, it, _: pooling.remove(r.review, r.lead, it["analysis"], back=True)),
    "write cells": (lambda r, it: _write(r, it, "13"), lambda r, it, _: _write(r, it, "12")),
    "take a PDF off": (lambda r, it: fulltexts.take_off(r.review, r.lead, it["record"]), lambda r, it, _: fulltexts.put_on_again(r.review, r.lead, it["record"])),
    "drop a delivered PDF": (
        lambda r, it: fulltexts.place(r.review, r.lead, it["delivered"], None),
        lambda r, it, _: fulltexts.put_back(r.review, r.lead, it["delivered"]),
    ),
    "say what became of a full text": (
        lambda r, it: fulltexts.set_full_text(r.review, r.lead, it["record"], "missing", "Not held"),
        lambda r, it, _: fulltexts.set_full_text(r.review, r.lead, it["record"], "obtained", ""),
    ),
}  # fmt: skip


def _fresh_trial(room: Room) -> int:
    return int(next(it["id"] for it in trials.trials(room.review) if it["state"] == "ready"))


def _applied(room: Room) -> int:
    return int(next(it["id"] for it in trials.trials(room.review) if it["state"] == "applied"))


def _answered(room: Room, question: int) -> None:
    from kettlesort.work import questions

    questions.decide_pair(room.review, room.lead, question, "same")


def _asked_back(room: Room) -> None:
    from kettlesort.work import questions

    questions.take_back(room.review, room.lead)


def _name(account: int) -> str:
    with session() as db:
        return str(rows(db, "SELECT name FROM account WHERE id = :a", a=account)[0]["name"])


def _new_search(room: Room) -> int:
    """A search without files, taken out of the log; it was there before, so its writing is no part of the deed."""
    number = next(it.id for it in searches.search_log(room.review) if it.source == "Empty")
    searches.remove_search(room.review, room.lead, number)
    return number


def _write(room: Room, it: dict[str, Any], text: str) -> None:
    chart.set_values(room.review, room.lead, [chart.Typed(it["study"], it["item"], text)])


@pytest.fixture(scope="module")
def furnished(database: str) -> tuple[Room, dict[str, Any]]:
    room = make_room()
    things = furnish(room)
    searches.write_search(room.review, room.lead, searches.SearchEntry("Empty", "database", "", None, "", "", None))
    return room, things


@pytest.mark.parametrize("deed", sorted(DEEDS))
def test_undo_brings_back_exactly_what_was_there(deed: str, furnished: tuple[Room, dict[str, Any]]) -> None:
    room, things = furnished
    do, undo = DEEDS[deed]
    if deed == "apply a trial":  # one that is not stale
        _try(room)
    before = stands(room)
    made = do(room, things)
    assert stands(room) != before, "it did something"
    undo(room, things, made)
    after = stands(room)
    for name in before:
        assert after[name] == before[name], name


def _try(room: Room) -> None:
    from kettlesort.core.matching import Rule
    from kettlesort.store.sql import scalar

    trials.begin(room.review, room.lead, Rule(join=20.0).text() if "join" in Rule.model_fields else Rule().text())
    with session() as db:
        trials.try_rule(scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'try_rule'", v=room.review))


def test_the_pdf_stays_attached_when_its_state_is_taken_back(furnished: tuple[Room, dict[str, Any]]) -> None:
    room, things = furnished
    fulltexts.set_full_text(room.review, room.lead, things["record"], "obtained", "", "new.pdf", io.BytesIO(b"%PDF-1.7 new"))
    fulltexts.set_full_text(room.review, room.lead, things["record"], "obtained", "")
    found = screen.sheet(room.review, room.lead, things["record"]).full_text
    assert found is not None
    assert found["filename"] == "new.pdf"
