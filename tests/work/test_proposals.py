"""Proposals from reports: read once in the background, answered by people, learnt from; nothing enters the table without a person."""

from __future__ import annotations

import io

import pytest
from fpdf import FPDF

from kettlesort.core.charting.proposals.weights import Answer, chance, families, learnt
from kettlesort.store.base import session
from kettlesort.store.sql import scalar
from kettlesort.work import asking, chart, codebook, fulltexts, jobs, proposals, studies
from kettlesort.work.codebook import Book, ItemWording, LevelWording
from kettlesort.work.errors import Conflict, Invalid, NotFound
from tests.conftest import Room, ris

BOOK = Book(
    [
        ItemWording(None, "Survived", "counts", instructions="Colonies alive in spring.", per=["arm"]),
        ItemWording(None, "Thickness", "quantity", "mm", instructions="Thickness of the wrap."),
        ItemWording(None, "Blinded", "yesno", instructions="Whether assessors were blinded."),
        ItemWording(None, "Survivors", "counts", instructions="Colonies alive.", per=["time"]),
    ],
    [],
    [LevelWording(None, "arm", "Foam", ["wrapped"]), LevelWording(None, "arm", "Plain", ["control"]), LevelWording(None, "time", "January"), LevelWording(None, "time", "April")],
)  # fmt: skip
TEXT = (
    "Methods. Hives were wrapped in foam of 3 cm thickness. Assessors were not blinded. "
    "Results. In spring 86 of 106 wrapped colonies and 72 of 104 control colonies were alive. In January 199 of 210 colonies were alive, in April 158 of 210."
)


def report(text: str = TEXT) -> bytes:
    pdf = FPDF()
    pdf.add_page()
    pdf.set_font("Times", "", 11)
    pdf.multi_cell(0, 6, text)
    return bytes(pdf.output())


@pytest.fixture
def read(room: Room) -> Room:
    """A review with one included report, which was read for values."""
    room.include("Wraps in winter", pdf=report())
    codebook.set_codebook(room.review, room.lead, BOOK)
    proposals.ask(room.review, room.lead)
    work(room)
    return room


def work(room: Room) -> None:
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'propose_values'", v=room.review)
    proposals.propose_values(job)


def open_(room: Room) -> dict[tuple[str, str], proposals.OpenCell]:
    """What waits, by item and level."""
    it = chart.evidence_table(room.review)
    items, levels = {one.id: one.name for one in it.book.items}, {one.id: one.name for one in it.levels}
    return {(items[c.item], next((levels[level] for level in c.levels if level), "")): c for c in proposals.open_cells(room.review)}


def standing(room: Room) -> list[tuple[str, str]]:
    return [(v.text, v.how) for v in chart.evidence_table(room.review).values]


def test_a_report_is_read_and_each_cell_gets_what_it_states_with_its_words(read: Room) -> None:
    waiting = open_(read)
    assert {at: it.text for at, it in waiting.items()} == {
        ("Survived", "Foam"): "86 / 106", ("Survived", "Plain"): "72 / 104", ("Thickness", ""): "3 cm", ("Blinded", ""): "no",
        ("Survivors", "January"): "199 / 210", ("Survivors", "April"): "158 / 210",
    }  # fmt: skip
    assert standing(read) == [], "nothing enters the table without a person"
    it = waiting["Survived", "Foam"]
    first = proposals.of_cell(read.review, it.study, it.item, it.levels)[0]
    assert (first["page"], first["quote"].startswith("In spring 86 of 106"), first["verdict"]) == (1, True, None)
    (state,) = proposals.reports(read.review)
    assert (state.state, state.whole, state.pages, state.late) == ("read", True, 1, False)
    assert proposals.ask(read.review, read.lead) == 0, "it is read once"
    codebook.set_codebook(
        read.review,
        read.lead,
        codebook.codebook(read.review)[0]._replace(levels=[*codebook.codebook(read.review)[0].levels, LevelWording(None, "arm", "Straw")]),
    )
    assert [it.late for it in proposals.reports(read.review)] == [True]
    assert proposals.ask(read.review, read.lead) == 1


def test_what_is_accepted_changed_or_refused_is_kept_with_how_it_came_and_can_be_taken_back(read: Room) -> None:
    waiting = open_(read)
    taken = proposals.accept(read.review, read.reviewer, [waiting["Survived", "Foam"].proposal, waiting["Survived", "Plain"].proposal])
    assert (taken.taken, taken.refused) == (2, [])
    proposals.accept(read.review, read.reviewer, [waiting["Thickness", ""].proposal], "35 mm")
    blinded = waiting["Blinded", ""]
    refused = proposals.refuse(read.review, read.lead, blinded.study, blinded.item, blinded.levels)
    assert sorted(standing(read)) == [("35 mm", "changed"), ("72 / 104", "accepted"), ("86 / 106", "accepted")]
    assert set(open_(read)) == {("Survivors", "January"), ("Survivors", "April")}
    cell = waiting["Survived", "Foam"]
    (history,) = chart.value_history(read.review, cell.study, cell.item, cell.levels)
    assert (history["page"], history["by"], history["record"]) == ("1", "Reviewer Ames", read.records("included")[0])
    assert "86 of 106" in history["quote"]
    with pytest.raises(Conflict, match="answered this proposal"):
        proposals.accept(read.review, read.lead, [cell.proposal])
    assert proposals.take_back(read.review, read.reviewer, taken.stroke) == 2
    assert proposals.take_back(read.review, read.lead, refused) == 1
    assert standing(read) == [("35 mm", "changed")]
    assert len(open_(read)) == 5
    with pytest.raises(NotFound, match="nothing to take back"):
        proposals.take_back(read.review, read.lead, refused)


def test_a_proposal_never_overwrites_and_one_that_does_not_fit_is_told(read: Room) -> None:
    waiting = open_(read)
    cell, other = waiting["Thickness", ""], waiting["Blinded", ""]
    chart.set_values(read.review, read.lead, [chart.Typed(cell.study, cell.item, "40")])
    assert ("Thickness", "") not in open_(read)
    taken = proposals.accept(read.review, read.reviewer, [cell.proposal])
    assert [(it.theirs, taken.taken) for it in taken.refused] == [("40 mm", 0)]
    with pytest.raises(Invalid, match="neither yes nor no"):
        proposals.accept(read.review, read.reviewer, [other.proposal], "perhaps")
    proposals.accept(read.review, read.reviewer, [other.proposal])
    chart.set_values(read.review, read.lead, [chart.Typed(other.study, other.item, "yes")])
    proposals.take_back(read.review, read.reviewer, other.proposal)
    assert sorted(standing(read)) == [("40 mm", "typed"), ("yes", "typed")], "what somebody typed since stays"


def test_two_proposals_for_one_cell_do_not_overwrite_each_other(read: Room) -> None:
    cell = open_(read)["Survivors", "April"]
    some = [it["id"] for it in proposals.of_cell(read.review, cell.study, cell.item, cell.levels)]
    assert len(some) > 1
    done = proposals.accept(read.review, read.lead, some[:2])
    assert (done.taken, [it.theirs for it in done.refused]) == (1, ["158 / 210"])


def test_what_a_cancelled_job_left_is_read_by_the_next(read: Room) -> None:
    proposals.ask(read.review, read.lead, again=True)
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'propose_values'", v=read.review)
    jobs.cancel(read.review, job)
    proposals.propose_values(job)
    assert proposals.counts(read.review)["waiting"] == 1
    assert proposals.ask(read.review, read.lead) == 1
    work(read)
    assert proposals.counts(read.review)["waiting"] == 0


def test_a_report_that_moves_to_another_study_is_read_anew(read: Room) -> None:
    study = chart.evidence_table(read.review).studies[0].id
    read.gather(ris("Lids over hives", start=50))
    (other,) = [it for it in read.records() if it not in read.records("included")]
    read.decide(other, "include")
    fulltexts.set_full_text(read.review, read.lead, other, "obtained", "")
    read.decide(other, "include", 2)
    (first,) = [it["record_id"] for it in chart.evidence_table(read.review).studies[0].reports]
    target = next(it.id for it in chart.evidence_table(read.review).studies if it.id != study)
    studies.link_report(read.review, read.lead, first, target)
    assert open_(read) == {}
    assert [it.late for it in proposals.reports(read.review) if it.record == first] == [True]
    proposals.ask(read.review, read.lead)
    work(read)
    assert {it.study for it in open_(read).values()} == {target}


def test_another_file_or_codebook_is_read_anew_and_answers_stay(read: Room) -> None:
    proposals.accept(read.review, read.lead, [open_(read)["Blinded", ""].proposal])
    before = {at: it.proposal for at, it in open_(read).items()}
    (record,) = read.records("included")
    fulltexts.set_full_text(read.review, read.lead, record, "obtained", "", "new.pdf", io.BytesIO(report(TEXT.replace("3 cm", "5 cm"))))
    assert proposals.ask(read.review, read.lead) == 1
    work(read)
    after = open_(read)
    assert after["Thickness", ""].text == "5 cm"
    assert not {it.proposal for it in after.values()} & set(before.values())
    with pytest.raises(Conflict, match="read again meanwhile"):
        proposals.accept(read.review, read.lead, [before["Thickness", ""]])
    assert standing(read) == [("no", "accepted")]


@pytest.mark.parametrize(
    ("file", "problem"),
    [(b"%PDF-1.7 and nothing else", "report.pdf: "), (None, "")],
    ids=["broken", "none"],
)
def test_where_there_is_no_file_that_can_be_read_it_is_said(room: Room, file: bytes | None, problem: str) -> None:
    room.include("Wraps in winter", pdf=file)
    codebook.set_codebook(room.review, room.lead, BOOK)
    proposals.ask(room.review, room.lead)
    work(room)
    (state,) = proposals.reports(room.review)
    assert state.state == ("failed" if file else "read")
    assert state.problem.startswith(problem)
    assert state.whole == bool(file)


def test_a_report_can_be_asked_and_answers_with_its_own_words(read: Room) -> None:
    room = read
    room.gather(ris("Hives that were lost", start=90))
    found = asking.ask(room.review, "Were assessors blinded?")
    first = found.answers[0]
    assert (first.text, first.page, first.whole) == ("Assessors were not blinded.", 1, True)
    assert (found.reports, found.abstracts, found.unread) == (1, 0, 0)
    assert asking.ask(room.review, "How many colonies were alive in April?").answers[0].text.endswith("in April 158 of 210.")
    assert asking.ask(room.review, "What was the price of gold?").answers == []
    assert asking.ask(room.review, "Were assessors blinded?", set()).reports == 0
    (record,) = room.records("included")
    fulltexts.set_full_text(
        room.review,
        room.lead,
        record,
        "obtained",
        "",
        "new.pdf",
        io.BytesIO(report(TEXT.replace("not blinded", "blinded in every apiary"))),
    )
    again = asking.ask(room.review, "Were wraps told at some length?")
    assert (again.abstracts, again.unread, [it.whole for it in again.answers]) == (1, 1, [False]), (
        "the new file was not read yet: its abstract answers"
    )
    proposals.ask(room.review, room.lead)
    work(room)
    assert asking.ask(room.review, "Were assessors blinded?").answers[0].text == "Assessors were blinded in every apiary."
    with pytest.raises(Invalid, match="What is the question"):
        asking.ask(room.review, "  ")


def test_a_question_is_kept_once_and_can_be_dropped(room: Room) -> None:
    one = asking.keep(room.review, room.lead, " Were  assessors blinded? ")
    assert asking.keep(room.review, room.lead, "were assessors blinded?") == one
    assert [it["text"] for it in asking.kept(room.review)] == ["Were assessors blinded?"]
    asking.drop(room.review, room.lead, one)
    assert asking.kept(room.review) == []
    asking.drop(room.review, room.lead, one, back=True)
    assert len(asking.kept(room.review)) == 1


def test_a_study_that_has_an_arm_for_itself_is_asked_for_it(read: Room) -> None:
    study = chart.evidence_table(read.review).studies[0].id
    (record,) = read.records("included")
    text = TEXT.replace("control colonies were alive.", "control colonies were alive. Of 50 colonies under straw 30 were alive.")
    fulltexts.set_full_text(read.review, read.lead, record, "obtained", "", "new.pdf", io.BytesIO(report(text)))
    studies.add_level(read.review, read.lead, study, "arm", "Straw")
    proposals.ask(read.review, read.lead)
    work(read)
    assert open_(read)["Survived", "Straw"].text == "30 / 50"


def test_marked_words_give_the_value_that_they_state(read: Room) -> None:
    items = {it.name: it.id or 0 for it in codebook.codebook(read.review)[0].items}
    assert proposals.value_in(read.review, items["Survived"], "86 of 106 wrapped colonies") == "86 / 106"
    assert proposals.value_in(read.review, items["Thickness"], "foam of 3 cm") == "3 cm"
    assert proposals.value_in(read.review, items["Blinded"], "the weather in April") == ""


def test_weights_move_with_what_a_team_says_and_no_further() -> None:
    signs = {"name": 0.5, "arm": 1.0, "near": 0.6, "pattern": 1.0}
    base = chance("counts", signs)
    assert 0.01 < base < 0.99
    other = Answer("counts", {"name": 0.9}, True)
    few, many = (chance("counts", signs, learnt([Answer("counts", signs, False)] * n + [other])) for n in (2, 40))
    assert many < few < base
    assert chance("counts", signs, learnt([Answer("counts", signs, True)] * 40 + [Answer("counts", {"name": 0.0}, False)])) > base
    assert learnt([Answer("counts", signs, False), other])["number"] == families()["number"], "other families stay as they are"
    assert learnt([Answer("counts", signs, True)] * 3) == families(), "answers of one sort say nothing of what parts them"


def test_what_waits_is_rated_by_what_was_said_of_the_rest_and_as_before_when_that_is_taken_back(read: Room) -> None:
    waiting = open_(read)
    before = {at: one.confidence for at, one in waiting.items()}
    taken = proposals.accept(read.review, read.reviewer, [waiting["Survived", "Foam"].proposal])
    cell = waiting["Survivors", "January"]
    refused = proposals.refuse(read.review, read.reviewer, cell.study, cell.item, cell.levels)
    proposals.rate(read.review)
    after = {at: one.confidence for at, one in open_(read).items()}
    assert after["Survived", "Plain"] != before["Survived", "Plain"], "it is of the kind that something was said of"
    assert after["Thickness", ""] == before["Thickness", ""], "nothing was said of its kind"
    proposals.take_back(read.review, read.reviewer, taken.stroke)
    proposals.take_back(read.review, read.reviewer, refused)
    proposals.rate(read.review)
    assert {at: one.confidence for at, one in open_(read).items()} == before
