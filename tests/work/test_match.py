"""Copies: joined by rule or by a person, asked about, told apart, and every one of these undone."""

from __future__ import annotations

import pytest

from kettlesort.work import gather, match, report
from kettlesort.work.errors import Conflict, NotFound
from tests.conftest import Room, ris

CERTAIN = ris("Wrapped hives lose fewer colonies in winter", doi="10.5555/w.")
DOUBTFUL = """TY  - JOUR
ID  - A1
TI  - Insulated lids and the moisture of small colonies
AU  - Orselb, Tamsin
AU  - Quillby, Rudd
PY  - 2003
JF  - Annals of Made-up Apiculture
VL  - 12
IS  - 3
SP  - 101
AB  - We compared insulated lids with plain ones over three winters.
ER  -
"""
ABSTRACT = (
    DOUBTFUL.replace("JOUR", "CPAPER")
    .replace("A1", "B9")
    .replace("VL  - 12", "VL  - 7")
    .replace("SP  - 101", "SP  - 3")
    .replace("AB  -", "N1  -")
)


def groups(room: Room) -> list[int]:
    return [it["copies"] for it in match.groups(room.review, 0, 100)[1]]


@pytest.fixture
def asked(room: Room) -> Room:
    """A review in which one pair waits for a person."""
    room.gather(DOUBTFUL, source="Agrarica")
    room.gather(ABSTRACT, source="Meetings", kind="organisation")
    room.match()
    assert len(match.questions(room.review)) == 1
    return room


def question(room: Room) -> int:
    return int(match.questions(room.review)[0]["id"])


def test_certain_copies_are_joined_and_say_by_which_evidence(room: Room) -> None:
    room.gather(CERTAIN, source="Agrarica")
    room.gather(CERTAIN.replace("ID  - R0000001", "ID  - V77"), source="Vitalis")
    room.match()
    assert groups(room) == [2]
    (record,) = room.records()
    found = match.copies_of(room.review, record)
    assert [side.origin.split(",")[0] for side in found.copies] != []
    assert [(it["by_rule"], it["same"]) for it in found.rulings] == [(True, True)]
    assert room.total().copies == 1
    with pytest.raises(NotFound):
        match.copies_of(room.review, 10**9)


def test_a_pair_shows_each_side_and_the_evidence_by_field(asked: Room) -> None:
    pair = match.pair(asked.review, question(asked))
    by_field = {it.field: it.weight for it in pair.evidence}
    assert by_field["title"] > 0
    assert sum(by_field.values()) == pytest.approx(pair.score, abs=0.2)
    assert {pair.left.record.accession, pair.right.record.accession} == {"A1", "B9"}


def test_same_joins_different_keeps_apart_and_both_can_be_taken_back(asked: Room) -> None:
    it = question(asked)
    match.decide_pair(asked.review, asked.reviewer, it, True)
    assert (groups(asked), list(match.questions(asked.review))) == ([2], [])
    assert match.take_back(asked.review, asked.reviewer) == it
    assert (groups(asked), question(asked)) == ([], it)
    match.decide_pair(asked.review, asked.reviewer, it, False)
    assert [bool(row["left_title"]) for row in match.told_apart(asked.review)] == [True]
    with pytest.raises(Conflict, match="answered this pair meanwhile"):
        match.decide_pair(asked.review, asked.lead, it, True)
    match.withdraw(asked.review, asked.lead, match.told_apart(asked.review)[0]["id"])
    assert question(asked) == it
    with pytest.raises(NotFound, match="no answer of yours"):
        match.take_back(asked.review, asked.lead)


def test_a_new_run_asks_nothing_that_was_answered(asked: Room) -> None:
    match.decide_pair(asked.review, asked.reviewer, question(asked), False)
    asked.gather(ris("Something else entirely", start=40), source="Vitalis")
    asked.match()
    assert list(match.questions(asked.review)) == []
    assert groups(asked) == []


def test_later_puts_a_pair_to_the_end_and_says_so(asked: Room) -> None:
    match.later(asked.review, asked.reviewer, question(asked))
    assert match.questions(asked.review)[0]["later"] == 1
    assert report.history(asked.review, None, 1)[1][0]["kind"] == "match.later"
    for gone in (
        lambda: match.later(asked.review, asked.reviewer, 10**9),
        lambda: match.decide_pair(asked.review, asked.reviewer, 10**9, True),
    ):
        with pytest.raises(NotFound, match="not open any more"):
            gone()


def test_a_copy_taken_out_of_its_group_stays_out_until_that_is_undone(room: Room) -> None:
    for source in ("Agrarica", "Vitalis", "Letters"):
        room.gather(CERTAIN.replace("R0000001", source[:3].upper()), source=source)
    room.match()
    (record,) = room.records()
    copies = [side.id for side in match.copies_of(room.review, record).copies]
    match.split(room.review, room.lead, copies[1])
    assert groups(room) == [2]
    assert len(room.records()) == 2
    room.gather(ris("Another", start=30), source="Vitalis")
    room.match()
    assert groups(room) == [2], "a new run does not join it again"
    match.unsplit(room.review, room.lead, copies[1])
    assert groups(room) == [3]
    with pytest.raises(NotFound, match="Nobody has told"):
        match.unsplit(room.review, room.lead, copies[1])
    with pytest.raises(Conflict, match="in no group"):
        match.split(room.review, room.lead, room.records()[-1])


def test_a_question_goes_with_its_file_and_comes_back_with_it(asked: Room) -> None:
    batch = next(it["id"] for it in gather.files(asked.review) if it["source"] == "Meetings")
    gather.set_aside(asked.review, asked.lead, batch)
    assert list(match.questions(asked.review)) == []
    gather.take_in(asked.review, asked.lead, batch)
    asked.match()
    assert len(match.questions(asked.review)) == 1
    assert report.standing(asked.review).figures.questions == 1


def test_the_kept_record_is_the_same_whichever_file_came_first(room: Room) -> None:
    poor = CERTAIN.replace("AB  - About wrapped hives lose fewer colonies in winter, told at some length.\n", "")
    room.gather(poor, source="Agrarica")
    room.gather(CERTAIN.replace("R0000001", "V1"), source="Vitalis")
    room.match()
    (record,) = room.records()
    found = match.copies_of(room.review, record)
    assert found.whose["abstract"] == found.copies[1].id
    match.split(room.review, room.lead, found.copies[1].id)
    assert "abstract" not in match.copies_of(room.review, record).whose
