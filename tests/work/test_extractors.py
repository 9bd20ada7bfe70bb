"""Two extractors: each reads for themselves; what is the same stands, what differs is settled, and nothing is lost on the way."""

from __future__ import annotations

from dataclasses import dataclass

import pytest

from kettlesort.store.base import session
from kettlesort.store.sql import run, scalar
from kettlesort.work import chart, codebook, evidence_out, extractors, people, plan, proposals, report, studies
from kettlesort.work.chart import Typed
from kettlesort.work.codebook import Book, ItemWording, LevelWording
from kettlesort.work.double import Cell, Mode
from kettlesort.work.errors import Conflict, Invalid, NotAllowed, NotFound
from tests.conftest import Room

ITEMS = [
    ItemWording(None, "Colonies", "number"),
    ItemWording(None, "Design", "choice", "", ["Trial", "Cohort"]),
    ItemWording(None, "Used", "mean_sd", per=["arm"]),
    ItemWording(None, "Remark", "text"),
]
TWO = Mode("person")


@dataclass
class Two(Room):
    """A review in which two read: the lead and the reviewer; a third person settles."""

    third: int = 0

    def cell(self, item: str, row: int = 0, arm: str = "") -> Cell:
        it = chart.evidence_table(self.review)
        number = next(one.id for one in it.book.items if one.name == item) or 0
        level = next(one.id for one in it.levels if one.name == arm) if arm else None
        return it.studies[row].id, number, (level, None, None)

    def read(self, account: int, item: str, text: str, row: int = 0, arm: str = "", **more: str) -> list[str]:
        study, number, levels = self.cell(item, row, arm)
        return [it.message for it in chart.set_values(self.review, account, [Typed(study, number, text, levels=levels, **more)])]  # type: ignore[arg-type]

    def stands(self, item: str, row: int = 0, arm: str = "", account: int = 0) -> tuple[str, str, str]:
        at = self.cell(item, row, arm)
        found = [(v.text, v.how, v.read) for v in chart.evidence_table(self.review, account).values if (v.study, v.item, v.levels) == at]
        assert len(found) < 2
        return found[0] if found else ("", "", "")

    def states(self) -> list[tuple[str, list[str]]]:
        return [(it.state, it.why) for it in extractors.compared(self.review)]


@pytest.fixture
def two(room: Room) -> Two:
    room.include("Wraps in winter", "Lids in winter")
    codebook.set_codebook(
        room.review, room.lead, Book(ITEMS, [], [LevelWording(None, "arm", "Wrapped"), LevelWording(None, "arm", "Plain")])
    )
    third = people.make_account(f"third-{room.review}", "Third", "long enough").id or 0
    plan.add_member(room.review, room.lead, f"third-{room.review}", "reviewer")
    extractors.set_mode(room.review, room.lead, TWO)
    return Two(room.review, room.lead, room.reviewer, third)


def test_what_both_read_the_same_stands_with_the_fuller_value_and_a_quote(two: Two) -> None:
    two.read(two.lead, "Used", "12.3 ± 4 (n 20)", arm="Plain", quote="On average 12.3 kg were used.", page="4")
    assert two.stands("Used", arm="Plain") == ("", "", "")
    assert two.stands("Used", arm="Plain", account=two.lead) == ("12.3 ± 4 (n 20)", "typed", "one")
    assert two.stands("Used", arm="Plain", account=two.reviewer) == ("", "", "")
    two.read(two.reviewer, "Used", "12.31 ± 4.0 (n 20)", arm="Plain")
    for account in (0, two.lead, two.reviewer):
        assert two.stands("Used", arm="Plain", account=account) == ("12.31 ± 4.0 (n 20)", "agreed", "")
    history = chart.value_history(two.review, *two.cell("Used", arm="Plain"))
    assert (history[0]["quote"], history[0]["page"]) == ("On average 12.3 kg were used.", "4")
    assert two.states() == [("same", [])]


def test_what_differs_is_open_until_a_third_settles_it_and_can_be_taken_back(two: Two) -> None:
    two.read(two.lead, "Colonies", "40")
    two.read(two.reviewer, "Colonies", "41", quote="41 colonies")
    cell = two.cell("Colonies")
    assert two.stands("Colonies", account=two.lead) == ("40", "typed", "differs")
    assert two.states() == [("differ", ["40 and 41"])]
    assert report.standing(two.review).charted == 0
    assert "40" not in {text for row in evidence_out.export_rows(two.review) for text in row}, "nothing that is open goes out"
    with pytest.raises(NotAllowed, match="a third person"):
        extractors.settle(two.review, two.lead, cell, "", of=two.lead, seen=["40", "41"])
    with pytest.raises(Conflict, match="changed meanwhile"):
        extractors.settle(two.review, two.third, cell, "", of=two.lead, seen=["40", "40"])
    extractors.settle(two.review, two.third, cell, "", of=two.reviewer, seen=["40", "41"])
    assert two.stands("Colonies", account=two.lead) == ("41", "settled", "")
    assert chart.value_history(two.review, *cell)[0]["quote"] == "41 colonies"
    extractors.reopen(two.review, two.third, cell)
    assert two.stands("Colonies", account=two.lead) == ("40", "typed", "differs")
    with pytest.raises(Invalid, match="not a number"):
        extractors.settle(two.review, two.third, cell, "many", of=None, seen=["40", "41"])
    extractors.settle(two.review, two.third, cell, "42", of=None, seen=["40", "41"])
    assert two.states() == [("settled", ["40 and 41"])]
    assert two.read(two.third, "Colonies", "43") == [], "what is settled can be corrected, as any value of the table"
    assert two.stands("Colonies") == ("43", "typed", "")


def test_who_changes_what_was_agreed_opens_it_again(two: Two) -> None:
    for account in (two.lead, two.reviewer):
        two.read(account, "Design", "Trial")
    assert two.stands("Design")[1] == "agreed"
    two.read(two.reviewer, "Design", "Cohort", seen="Trial")
    assert two.stands("Design", account=two.reviewer) == ("Cohort", "typed", "differs")
    assert two.stands("Design") == ("", "", "")
    two.read(two.reviewer, "Design", "", seen="Cohort")
    assert two.stands("Design", account=two.lead) == ("Trial", "typed", "one")
    figures = {it.name: it.figures for it in extractors.agreements(two.review)}
    assert (figures["Design"].read, figures["Design"].same) == (1, 1), "over what both had read when they were compared first"
    two.read(two.reviewer, "Design", "Trial")
    assert two.stands("Design") == ("Trial", "agreed", "")


def test_no_third_reads_what_two_have_read_and_who_has_a_study_reads_it(two: Two) -> None:
    two.read(two.lead, "Colonies", "40")
    two.read(two.reviewer, "Colonies", "41")
    assert "have read this already" in two.read(two.third, "Colonies", "40")[0]
    study = two.cell("Colonies", 1)[0]
    extractors.give(two.review, two.lead, {study: [two.lead, two.third]})
    assert "given to others" in two.read(two.reviewer, "Colonies", "5", row=1)[0]
    assert two.read(two.third, "Colonies", "5", row=1) == []
    with pytest.raises(NotFound):
        extractors.give(two.review, two.lead, {study: [10**9]})
    with pytest.raises(NotFound):
        extractors.give(two.review, two.lead, {10**9: [two.lead]})


def test_studies_are_shared_out_evenly_and_who_has_begun_goes_on(two: Two) -> None:
    two.read(two.third, "Colonies", "5", row=1)
    given = extractors.shared_out(two.review, [two.lead, two.reviewer, two.third], 1)
    assert all(len(set(some)) == 2 for some in given.values())
    assert two.third in given[two.cell("Colonies", 1)[0]]
    assert {one for some in given.values() for one in some} == {two.lead, two.reviewer, two.third}


def test_a_mode_says_what_it_would_do_and_loses_nothing(two: Two) -> None:
    extractors.set_mode(two.review, two.lead, Mode())
    two.read(two.lead, "Colonies", "40", quote="40 colonies")
    assert extractors.preview(two.review, TWO) == extractors.Consequences(1, 0, 0, 0)
    assert extractors.preview(two.review, TWO, first_readings=True) == extractors.Consequences(0, 1, 0, 0)
    extractors.set_mode(two.review, two.lead, TWO, first_readings=True)
    assert two.stands("Colonies") == ("", "", "")
    assert two.stands("Colonies", account=two.lead) == ("40", "typed", "one")
    two.read(two.lead, "Design", "Trial")
    two.read(two.reviewer, "Design", "Cohort")
    assert extractors.preview(two.review, Mode()) == extractors.Consequences(0, 0, 1, 1)
    extractors.set_mode(two.review, two.lead, Mode())
    assert two.stands("Colonies") == ("40", "typed", "")
    assert chart.value_history(two.review, *two.cell("Colonies"))[0]["quote"] == "40 colonies"
    assert [it.state for it in extractors.compared(two.review)] == ["differ"], "what differs can still be settled"
    with pytest.raises(Invalid):
        extractors.set_mode(two.review, two.lead, Mode("person", items=()))
    with pytest.raises(Invalid):
        extractors.set_mode(two.review, two.lead, Mode("person", items=(10**9,)))


def test_what_a_person_read_against_the_proposals_enters_the_table_when_they_stand_against_it_no_more(two: Two) -> None:
    extractors.set_mode(two.review, two.lead, Mode("proposals"))
    _propose(two, "Colonies", "11")
    two.read(two.lead, "Colonies", "12", quote="twelve")
    assert two.states() == [("differ", ["12 and 11"])]
    assert extractors.preview(two.review, Mode()) == extractors.Consequences(0, 0, 1, 0)
    extractors.set_mode(two.review, two.lead, Mode())
    assert two.stands("Colonies") == ("12", "typed", "")
    assert two.states() == []


def test_some_items_by_two_the_others_by_one(two: Two) -> None:
    extractors.set_mode(two.review, two.lead, Mode("person", items=(two.cell("Colonies")[1],)))
    two.read(two.lead, "Remark", "Seen")
    two.read(two.lead, "Colonies", "40")
    assert two.stands("Remark") == ("Seen", "typed", "")
    assert two.stands("Colonies") == ("", "", "")
    assert [it.asked for it in extractors.extraction(two.review).studies] == [1, 1]


def _propose(two: Two, item: str, text: str) -> None:
    (study, number, _), record = two.cell(item), chart.evidence_table(two.review).studies[0].reports[0]["record_id"]
    with session() as db:
        run(
            db,
            "INSERT INTO proposal (review_id, study_id, item_id, copy_id, text, quote, page, confidence, signs, model) VALUES (:v, :s, :i, :c, :t, 'so', 2, 0.9, '{}', '')",
            v=two.review, s=study, i=number, c=record, t=text,
        )  # fmt: skip


def test_a_person_and_the_proposals_are_two(two: Two) -> None:
    extractors.set_mode(two.review, two.lead, Mode("proposals"))
    _propose(two, "Colonies", "11")
    assert proposals.open_cells(two.review) == [], "they read on their own"
    two.read(two.lead, "Colonies", "12")
    assert two.states() == [("differ", ["12 and 11"])]
    extractors.settle(two.review, two.third, two.cell("Colonies"), "", of=0, seen=["12", "11"])
    assert two.stands("Colonies") == ("11", "settled", "")
    two.read(two.lead, "Design", "Trial")
    assert two.stands("Design", account=two.lead) == ("Trial", "typed", "one"), "the report was not read yet"
    proposals.ask(two.review, two.lead)
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'propose_values'", v=two.review)
    proposals.propose_values(job)
    assert two.stands("Design") == ("Trial", "typed", ""), "nothing is proposed beside it"


def test_readings_follow_the_codebook_and_their_study(two: Two) -> None:
    two.read(two.lead, "Colonies", "40")
    now = codebook.codebook(two.review)[0]
    quantity = [it._replace(kind="quantity", unit="hives") if it.name == "Colonies" else it for it in now.items]
    codebook.set_codebook(two.review, two.lead, now._replace(items=quantity), agreed=True)
    assert two.stands("Colonies", account=two.lead) == ("40 hives", "carried", "one")
    two.read(two.reviewer, "Colonies", "40 hives")
    assert two.stands("Colonies") == ("40 hives", "agreed", "")
    one, other = chart.evidence_table(two.review).studies
    two.read(two.lead, "Remark", "of the first")
    studies.link_report(two.review, two.lead, one.reports[0]["record_id"], other.id)
    assert two.stands("Remark", account=two.lead)[0] == "of the first"
    assert len(chart.evidence_table(two.review).studies) == 1
