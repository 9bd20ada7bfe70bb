"""Two and more readers: modes changed at any time, shares, differences, and agreement."""

from __future__ import annotations

import io
from typing import Any

import pytest
import python_calamine
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from kettlesort.core.screening.passes import Mode
from kettlesort.store.base import seen_by, session
from kettlesort.store.records import Wanted
from kettlesort.store.sql import rows, scalar
from kettlesort.work import labels, narrow, passes, people, plan, protocol, records, report, screen, sheets
from kettlesort.work.errors import Conflict, NotAllowed, NotFound, Refused
from kettlesort.work.screen import Said
from tests.conftest import Room, make_room, ris

TITLES = [f"Wrapped hives of place {k}" for k in range(8)]
TWO = Mode(2)


def add(room: Room, name: str) -> int:
    account = people.make_account(f"{name}-{room.review}", name.title(), "long enough").id or 0
    plan.add_member(room.review, room.lead, f"{name}-{room.review}", "reviewer")
    return account


@pytest.fixture
def two(room: Room) -> Room:
    """A review whose first pass has two readers."""
    room.gather(ris(*TITLES))
    room.match()
    passes.set_mode(room.review, room.lead, 1, TWO)
    return room


def firsts(room: Room) -> dict[int, str]:
    with session() as db:
        return {
            it["record_id"]: it["first"] for it in rows(db, "SELECT record_id, first FROM standing WHERE review_id = :v", v=room.review)
        }


def test_two_read_blind_and_what_differs_is_settled_by_a_third(two: Room) -> None:
    third = add(two, "third")
    record, other, *_ = two.records()
    two.decide(record, "include")
    two.decide(record, "exclude", by=two.lead)
    two.decide(other, "include")
    assert (firsts(two)[record], firsts(two)[other]) == ("differs", "open")
    assert two.total().differs == 1
    (found,) = passes.differences(two.review, third, 1)
    assert [(it["by"], it["verdict"]) for it in found.said] == [("Reviewer Ames", "include"), ("Lead Orsel", "exclude")]
    with pytest.raises(Conflict, match="read this record yourself"):
        passes.settle(two.review, two.lead, Said(record, 1, "include", None))
    with pytest.raises(Conflict, match="Not everybody"):
        passes.settle(two.review, third, Said(other, 1, "include", None))
    passes.settle(two.review, third, Said(record, 1, "exclude", two.criterion()))
    assert firsts(two)[record] == "exclude"
    assert [it.record["id"] for it in passes.differences(two.review, third, 1, settled=True)] == [record]
    passes.reopen(two.review, third, record, 1)
    assert firsts(two)[record] == "differs"
    assert report.standing(two.review, from_rows=True).figures.adds_up


def test_after_talk_one_who_read_it_settles_it(two: Room) -> None:
    passes.set_mode(two.review, two.lead, 1, Mode(2, settling="talk"))
    record = two.records()[0]
    two.decide(record, "include")
    two.decide(record, "exclude", by=two.lead)
    passes.settle(two.review, two.lead, Said(record, 1, "include", None))
    assert firsts(two)[record] == "include"


def test_no_third_person_is_handed_a_record_and_nobody_twice(two: Room) -> None:
    third = add(two, "third")
    everybody = (two.lead, two.reviewer, third)
    handed: dict[int, list[int]] = {}
    for who in everybody * 9:
        for sheet in screen.hand_out(two.review, who, Wanted("open"), [], 2):
            handed.setdefault(sheet.id, []).append(who)
            screen.decide(two.review, who, Said(sheet.id, 1, "include", None))
    assert {record: len(set(who)) for record, who in handed.items()} == dict.fromkeys(two.records(), 2)
    assert all(len(who) == 2 for who in handed.values())
    with pytest.raises(Conflict, match="settled under Differences"):
        screen.decide(two.review, third, Said(two.records()[0], 1, "exclude", two.criterion()))


def test_a_slip_is_taken_back_until_somebody_settles_it(two: Room) -> None:
    third = add(two, "third")
    record = two.records()[0]
    two.decide(record, "exclude", by=two.lead)
    two.decide(record, "include")
    assert screen.take_back(two.review, two.reviewer, 1) == record
    assert firsts(two)[record] == "open"
    two.decide(record, "include")
    passes.settle(two.review, third, Said(record, 1, "include", None))
    with pytest.raises(Conflict, match="Settle it under Differences"):
        screen.take_back(two.review, two.reviewer, 1)


def test_a_pilot_is_read_by_all_and_then_parts_are_read(two: Room) -> None:
    third = add(two, "third")
    parts = {two.lead: 1.0, two.reviewer: 1.0, third: 1.0}
    _, out = passes.share_out(two.review, two.lead, passes.Shares(1, "Pilot", parts, most=2, pilot=True, seed=5), Wanted("open"))
    assert out.by_person == dict.fromkeys(parts, 2)
    pilot = [it.id for it in screen.hand_out(two.review, third, Wanted("open"), [], 5)]
    assert len(pilot) == 2
    for who in parts:
        assert [it.id for it in screen.hand_out(two.review, who, Wanted("open"), [], 5)] == pilot, "the same for all, in one sequence"
        for record in pilot:
            assert firsts(two)[record] == "open"
            screen.decide(two.review, who, Said(record, 1, "include", None))
    assert {firsts(two)[record] for record in pilot} == {"include"}
    assert passes.agreement(two.review, two.lead, 1).records == 2

    sharing, out = passes.share_out(two.review, two.lead, passes.Shares(1, "Rest", parts), Wanted("open"))
    assert (out.records, sorted(out.by_person.values())) == (6, [4, 4, 4])
    mine = {it.id for it in screen.hand_out(two.review, third, Wanted("open"), [], 10)}
    assert len(mine) == 4
    (one, *_) = mine
    screen.decide(two.review, third, Said(one, 1, "include", None))
    with pytest.raises(NotAllowed):
        passes.give_back(two.review, two.reviewer, "reviewer", sharing, third)
    assert passes.give_back(two.review, two.lead, "lead", sharing, third) == 3
    theirs = {it.id for it in screen.hand_out(two.review, two.lead, Wanted("open"), [], 10)}
    for record in theirs:
        screen.decide(two.review, two.lead, Said(record, 1, "include", None))
    assert (
        mine - {one}
        <= {it.id for who in (two.lead, two.reviewer) for it in screen.hand_out(two.review, who, Wanted("open"), [], 10)} | theirs
    ), "what was given back is read by others"
    assert passes.give_back(two.review, two.lead, "lead", sharing, third, back=True) == 3


def test_shares_do_not_hold_a_pass_to_the_readers_that_it_had(two: Room) -> None:
    parts = {two.lead: 1.0, two.reviewer: 1.0}
    sharing, _ = passes.share_out(two.review, two.lead, passes.Shares(1, "", parts, most=4), Wanted("open"))
    one, other, third, *_ = [it.id for it in screen.hand_out(two.review, two.lead, Wanted("open"), [], 4)]
    screen.decide(two.review, two.lead, Said(one, 1, "include", None))
    assert [(it.before, it.after, it.records) for it in passes.preview(two.review, 1, Mode())] == [("open", "settled", 1)], "not how"
    passes.set_mode(two.review, two.lead, 1, Mode())
    assert firsts(two)[one] == "include"
    screen.decide(two.review, two.lead, Said(other, 1, "include", None))
    assert firsts(two)[other] == "include"

    # what was given back and read to its end by others is not put back
    assert passes.give_back(two.review, two.lead, "lead", sharing, two.reviewer) == 4
    screen.decide(two.review, two.lead, Said(third, 1, "include", None))
    assert passes.give_back(two.review, two.lead, "lead", sharing, two.reviewer, back=True) == 1
    assert firsts(two)[third] == "include"


def test_agreement_is_that_of_independent_verdicts(two: Room) -> None:
    third = add(two, "third")
    for k, record in enumerate(two.records()):
        two.decide(record, "include" if k < 3 else "exclude")
        two.decide(record, "include" if k in (0, 1, 5) else "exclude", by=two.lead)
    for it in passes.differences(two.review, third, 1):
        passes.settle(two.review, third, Said(it.record["id"], 1, "include", None))
    found = passes.agreement(two.review, two.lead, 1)
    (pair,) = found.compared.pairs
    assert (found.records, pair.n, pair.agreement) == (8, 8, 0.75)
    assert found.tables["Lead Orsel", "Reviewer Ames"] == [[4, 1], [1, 2]]
    assert pair.kappa == pytest.approx(7 / 15)
    assert [(it.criterion, it.records, it.together, it.not_excluded) for it in found.by_reason] == [("Not bees", 6, 4, 2)]
    not_bees = two.criterion()
    told = {row["criterion"]: (row["first"], row["second"]) for row in protocol.excluded_by(two.review)}
    assert told == {not_bees: (records.page_of(two.review, Wanted("excluded", criterion=not_bees), 0, 50)[0], 0)}
    for reasons in (False, True):  # every count of the table opens the list that it counts
        agreed = passes.agreement(two.review, two.lead, 1, reasons=reasons)
        for row, one in zip(agreed.tables["Lead Orsel", "Reviewer Ames"], agreed.keys, strict=True):
            for n, other in zip(row, agreed.keys, strict=True):
                key = f"read:1.{agreed.accounts['Lead Orsel']}.{one}.{agreed.accounts['Reviewer Ames']}.{other}.0"
                assert records.page_of(two.review, Wanted(key), 0, 50)[0] == n
    assert records.shown_as(two.review, key)[0].heading == "Read by two: Lead Orsel included, Reviewer Ames included"
    (reason,) = found.by_reason
    for how, n in (("any", reason.records), ("all", reason.together), ("other", reason.otherwise), ("none", reason.not_excluded)):
        assert records.page_of(two.review, Wanted(f"named:1.{reason.number}.{how}.0"), 0, 50)[0] == n
    assert records.shown_as(two.review, f"named:1.{reason.number}.none.0")[0].heading == (
        "Read by two or more: one named “Not bees”, others did not exclude"
    )
    for wrong in (
        "named:1.7",
        "named:1.999999.any.0",
        f"named:1.{reason.number}.some.0",
        "read:1.2",
        f"read:1.{third}.include.{third}.perhaps.0",
        "read:1.999999.include.999998.include.0",
    ):
        with pytest.raises(NotFound):
            records.shown_as(two.review, wrong)


def test_a_note_that_names_a_colleague_reaches_them_once_it_gives_nothing_away(two: Room) -> None:
    third = add(two, "third")
    name = f"third-{two.review}"
    record = two.records()[0]

    def to(account: int) -> list[tuple[str, bool]]:
        with seen_by(account):
            return [(row["text"], row["done"]) for row in screen.notes_to(two.review, account)]

    screen.note(two.review, two.reviewer, record, f"@{name}. and @nobody: is this one of yours?")
    assert to(third) == [], "who may still be handed it blind is told nothing"
    two.decide(record, "include")
    two.decide(record, "include", by=two.lead)
    assert to(third) == [(f"@{name}. and @nobody: is this one of yours?", False)]
    assert to(two.lead) == to(two.reviewer) == []
    with seen_by(third):
        number = screen.notes_to(two.review, third)[0]["id"]
    screen.be_done(two.review, third, number, done=True)
    assert to(third)[0][1]
    screen.be_done(two.review, third, number, done=False)
    for who in (two.lead, two.reviewer):
        with pytest.raises(NotFound):
            screen.be_done(two.review, who, number, done=True)
    screen.note(two.review, two.reviewer, record, "never mind")
    assert to(third) == [], "a note that was written otherwise calls nobody any more"


def test_a_decision_that_is_sent_again_counts_once(two: Room) -> None:
    record = two.records()[0]
    said = Said(record, 1, "exclude", two.criterion(), "open")
    screen.decide(two.review, two.lead, said)
    screen.decide(two.review, two.lead, said._replace(again=True))
    two.decide(record, "exclude")
    screen.decide(two.review, two.lead, said._replace(again=True))
    with session() as db:
        assert scalar(db, "SELECT count(*) FROM verdict WHERE review_id = :v", v=two.review) == 2
    with pytest.raises(Conflict):
        screen.decide(two.review, two.lead, said._replace(verdict="include", criterion=None, again=True))


def test_a_list_goes_out_as_a_sheet_and_comes_back_with_decisions(two: Room) -> None:
    passes.set_mode(two.review, two.lead, 1, Mode())
    one, other, third, *_ = two.records("open")
    two.decide(one, "include", by=two.lead)
    book = cells_of(sheets.out(two.review, two.lead, 1, Wanted("all")))
    assert [row[0] for row in book[1:]] == two.records()
    assert next(row for row in book if row[0] == one)[7] == "include"
    said = "Record;Decision;Reason;Note\n" + "\n".join(
        [f"{one};include;;", f"{other};exclude;Not bees;late one", f"{third};;;look again", "999999999;include;;", f"{one};perhaps;;"]
    )
    it = sheets.look(two.review, two.lead, 1, io.BytesIO(said.encode()))
    assert [(c.record, c.before, c.verdict, c.note) for c in it.changes] == [
        (other, "", "exclude", "late one"),
        (third, "", "", "look again"),
    ]
    assert (it.same, [w.line for w in it.wrong]) == (1, [5, 6])
    rows = [sheets.Taken(c.record, c.verdict, c.criterion, c.note) for c in it.changes]
    done = sheets.take_in(two.review, two.lead, 1, [*rows, sheets.Taken(other, "exclude", None, None)])
    assert (done.records, [record for record, _ in done.refused]) == ([other, third], [other])
    assert firsts(two)[other] == "exclude"
    screen.take_back(two.review, two.lead, 1, other)
    assert firsts(two)[other] == "open"
    assert screen.sheet(two.review, two.lead, third).notes[0]["text"] == "look again"


def cells_of(data: bytes) -> list[list[Any]]:
    """The cells of a workbook's first sheet."""
    return python_calamine.CalamineWorkbook.from_filelike(io.BytesIO(data)).get_sheet_by_index(0).to_python()


class Modes(RuleBasedStateMachine):
    """Readers decide, modes change, records are shared out, settled and set aside, in any sequence."""

    @initialize()
    def begin(self) -> None:
        self.room = make_room()
        self.room.gather(ris(*TITLES[:4]))
        self.room.match()
        self.all = self.room.records()
        self.people = [self.room.lead, self.room.reviewer, add(self.room, "third")]
        self.given = 0

    def tried(self, work: Any, *arguments: Any) -> bool:
        try:
            work(*arguments)
        except Refused:
            return False
        return True

    who = st.integers(0, 2)
    which = st.integers(0, 3)

    @rule(who=who, which=which, verdict=st.sampled_from(["include", "exclude", "unsure"]))
    def decide(self, who: int, which: int, verdict: str) -> None:
        criterion = self.room.criterion() if verdict == "exclude" else None
        self.given += self.tried(screen.decide, self.room.review, self.people[who], Said(self.all[which], 1, verdict, criterion))

    @rule(who=who, which=which)
    def settle(self, who: int, which: int) -> None:
        self.given += self.tried(passes.settle, self.room.review, self.people[who], Said(self.all[which], 1, "include", None))

    @rule(
        readers=st.integers(1, 3), differ=st.sampled_from(["verdict", "reason"]), unsure=st.sampled_from(["stays", "goes_on"]), settling=st.sampled_from(["third", "talk"])
    )  # fmt: skip
    def change(self, readers: int, differ: Any, unsure: Any, settling: Any) -> None:
        mode = Mode(readers, differ, unsure, settling)
        before = firsts(self.room)
        said = passes.preview(self.room.review, 1, mode)
        with session() as db:
            blind = {
                it["record_id"]
                for it in rows(db, "SELECT record_id FROM standing WHERE review_id = :v AND first_blind", v=self.room.review)
            }
        passes.set_mode(self.room.review, self.room.lead, 1, mode)
        after = firsts(self.room)
        moved: dict[tuple[str, str], int] = {}
        for record in self.all:
            if before[record] != after[record]:
                way = before[record], "settled" if record in blind else after[record]
                moved[way] = moved.get(way, 0) + 1
        assert moved == {(it.before, it.after): it.records for it in said}, "what was said beforehand"

    @rule(which=which)
    def set_aside(self, which: int) -> None:
        self.tried(narrow.set_aside, self.room.review, self.room.lead, "Another time", [self.all[which]])

    @rule(which=which)
    def let_in(self, which: int) -> None:
        self.tried(narrow.let_in, self.room.review, self.room.lead, [self.all[which]])

    @rule(pilot=st.booleans(), seed=st.sampled_from([None, 3]))
    def share(self, pilot: bool, seed: int | None) -> None:
        said = passes.Shares(1, "", dict.fromkeys(self.people, 1.0), most=2, pilot=pilot, seed=seed)
        if passes.try_sharing(self.room.review, said, Wanted("open")).by_person != dict.fromkeys(self.people, 0):
            passes.share_out(self.room.review, self.room.lead, said, Wanted("open"))

    @invariant()
    def no_decision_is_lost_and_the_flow_adds_up(self) -> None:
        with session() as db:
            assert (
                scalar(db, "SELECT count(*) FROM verdict WHERE review_id = :v AND withdrawn_at IS NULL", v=self.room.review) == self.given
            )
        assert report.standing(self.room.review, from_rows=True).figures.adds_up


def test_modes_changed_at_random_lose_no_decision(database: str) -> None:
    case = Modes.TestCase
    case.settings = settings(max_examples=12, stateful_step_count=20, deadline=None)
    case().runTest()


def test_a_label_of_another_on_an_open_record_is_as_if_it_were_not_there(two: Room) -> None:
    record = two.records()[0]
    label, _ = labels.put(two.review, two.lead, "odd", [record])
    _, new = labels.put(two.review, two.reviewer, "odd", [record])
    assert len(new) == 1, "the other's is not seen"
    labels.take(two.review, two.reviewer, label, [record])
    with session() as db:
        assert scalar(db, "SELECT array_agg(account_id) FROM labelled WHERE label_id = :l", l=label) == [two.lead]
