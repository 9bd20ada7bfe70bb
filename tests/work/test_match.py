"""Copies: joined by rule or by a person, asked about, told apart, tried otherwise, and every one of these undone."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest
from typer.testing import CliRunner

from kettlesort.cli import app
from kettlesort.store.base import session
from kettlesort.store.sql import rows, run, scalar
from kettlesort.work import checks, fulltexts, gather, groups, jobs, match, questions, report, rules, screen, settling, trials
from kettlesort.work.errors import Conflict, Invalid, NotFound
from tests.conftest import Room, make_room, ris
from tests.work.matching import run_trial

FILES = Path(__file__).parents[2] / "demo" / "files"
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


def sizes(room: Room, **sought: object) -> list[int]:
    return [it["copies"] for it in groups.groups(room.review, groups.Sought(**sought), 0, 100)[1]]  # type: ignore[arg-type]


def asked_pairs(room: Room) -> list[int]:
    return [it.row["id"] for it in questions.questions(room.review)]


@pytest.fixture
def asked(room: Room) -> Room:
    """A review in which one pair waits for a person."""
    room.gather(DOUBTFUL, source="Agrarica")
    room.gather(ABSTRACT, source="Meetings", kind="organisation")
    room.match()
    assert len(asked_pairs(room)) == 1
    return room


def three(room: Room) -> int:
    """A record of three certain copies."""
    for source in ("Agrarica", "Vitalis", "Letters"):
        room.gather(CERTAIN.replace("R0000001", source[:3].upper()), source=source)
    room.match()
    (record,) = room.records()
    return record


def test_certain_copies_are_joined_and_say_by_which_evidence(room: Room) -> None:
    room.gather(CERTAIN, source="Agrarica")
    room.gather(CERTAIN.replace("ID  - R0000001", "ID  - V77"), source="Vitalis")
    room.match()
    assert sizes(room) == sizes(room, how="weights") == [2]
    assert sizes(room, how="person") == sizes(room, how="rule") == []
    (record,) = room.records()
    found = groups.copies_of(room.review, record)
    assert [side.source for side in found.copies] == ["Agrarica", "Vitalis"]
    assert [(it["by_rule"], it["same"], it["how"]) for it in found.rulings] == [(True, True, "")]
    assert room.total().copies == 1
    with pytest.raises(NotFound):
        groups.copies_of(room.review, 10**9)


def test_a_pair_shows_each_side_and_the_evidence_by_field(asked: Room) -> None:
    pair = questions.pair(asked.review, asked_pairs(asked)[0])
    by_field = {it.field: it for it in pair.evidence}
    assert by_field["title"].weight > 0
    assert by_field["kind"].says == "different"
    assert sum(it.weight for it in pair.evidence) == pytest.approx(pair.question.row["score"], abs=0.01)
    assert {pair.left.record.accession, pair.right.record.accession} == {"A1", "B9"}
    assert "conference" in pair.says
    assert 0 < pair.question.chance <= 0.5


def test_same_joins_different_keeps_apart_and_both_can_be_taken_back(asked: Room) -> None:
    (it,) = asked_pairs(asked)
    assert questions.decide_pair(asked.review, asked.reviewer, it, "same") == []
    assert (sizes(asked, how="person"), asked_pairs(asked)) == ([2], [])
    assert questions.take_back(asked.review, asked.reviewer) == it
    assert (sizes(asked), asked_pairs(asked)) == ([], [it])
    questions.decide_pair(asked.review, asked.reviewer, it, "different")
    assert [bool(row["holds"]) for row in questions.told(asked.review)] == [True]
    with pytest.raises(Conflict, match="answered this pair meanwhile"):
        questions.decide_pair(asked.review, asked.lead, it, "same")
    questions.withdraw(asked.review, asked.lead, questions.told(asked.review)[0]["id"])
    assert asked_pairs(asked) == [it]
    with pytest.raises(NotFound, match="no answer of yours"):
        questions.take_back(asked.review, asked.lead)


def test_reports_of_one_study_stay_apart_and_are_charted_together(asked: Room) -> None:
    questions.decide_pair(asked.review, asked.reviewer, asked_pairs(asked)[0], "related")
    one, other = sorted(asked.records())
    assert [it["id"] for it in groups.copies_of(asked.review, one).related] == [other]
    for record in (one, other):
        asked.decide(record, "include")
        fulltexts.set_full_text(asked.review, asked.lead, record, "obtained", "")
        asked.decide(record, "include", pass_number=2)
    with session() as db:
        studies = rows(db, "SELECT DISTINCT study_id FROM study_report WHERE review_id = :r", r=asked.review)
    assert len(studies) == 1


def test_two_people_are_never_led_to_the_same_pair(asked: Room) -> None:
    (it,) = asked_pairs(asked)
    questions.take(asked.review, asked.lead, it)
    assert questions.questions(asked.review)[0].row["holder"] == "Lead Orsel"
    for deed in (
        lambda: questions.take(asked.review, asked.reviewer, it),
        lambda: questions.decide_pair(asked.review, asked.reviewer, it, "same"),
    ):
        with pytest.raises(Conflict, match="Lead Orsel is looking at this pair"):
            deed()
    questions.later(asked.review, asked.lead, it)
    questions.take(asked.review, asked.reviewer, it)
    assert questions.decide_pair(asked.review, asked.reviewer, it, "same") == []


def test_two_answers_that_contradict_each_other_are_both_kept_and_shown(room: Room) -> None:
    record = three(room)
    copies = [side.id for side in groups.copies_of(room.review, record).copies]
    groups.split(room.review, room.lead, copies[2])
    told = groups.join(room.review, room.reviewer, record, copies[2])
    assert "Lead Orsel told copies of these groups apart" in told[0]
    assert sizes(room) == [2], "different holds"
    against = [it for it in questions.told(room.review) if not it["holds"]]
    assert [(it["by"], it["same"]) for it in against] == [("Reviewer Ames", True)]
    groups.unsplit(room.review, room.lead, copies[2])
    assert sizes(room) == [3]
    assert [it for it in questions.told(room.review) if not it["holds"]] == []


def test_records_decided_differently_before_they_are_joined_are_listed(asked: Room) -> None:
    one, other = sorted(asked.records())
    asked.decide(one, "include")
    asked.decide(other, "exclude", by=asked.lead)
    (it,) = asked_pairs(asked)
    assert {
        v["verdict"] for side in (questions.pair(asked.review, it).left, questions.pair(asked.review, it).right) for v in side.verdicts
    } == {"include", "exclude"}
    told = questions.decide_pair(asked.review, asked.reviewer, it, "same")
    assert "decided both exclude and include" in told[0]
    assert [(row["said"], row["pass_number"]) for row in groups.conflicts(asked.review)] == [(["exclude", "include"], 1)]
    questions.take_back(asked.review, asked.reviewer)
    assert groups.conflicts(asked.review) == []
    assert sorted(asked.records("excluded")) == [other], "split again, each has its own verdict"


def test_a_new_run_asks_nothing_that_was_answered(asked: Room) -> None:
    questions.decide_pair(asked.review, asked.reviewer, asked_pairs(asked)[0], "different")
    asked.gather(ris("Something else entirely", start=40), source="Vitalis")
    asked.match()
    assert asked_pairs(asked) == []
    assert sizes(asked) == []


def test_later_puts_a_pair_to_the_end_and_says_so(asked: Room) -> None:
    questions.later(asked.review, asked.reviewer, asked_pairs(asked)[0])
    assert questions.questions(asked.review)[0].row["later"] == 1
    assert report.history(asked.review, None, 1)[1][0]["kind"] == "match.later"
    for gone in (
        lambda: questions.later(asked.review, asked.reviewer, 10**9),
        lambda: questions.decide_pair(asked.review, asked.reviewer, 10**9, "same"),
        lambda: questions.take(asked.review, asked.reviewer, 10**9),
    ):
        with pytest.raises(NotFound, match="not open any more"):
            gone()


def test_a_copy_taken_out_of_its_group_stays_out_until_that_is_undone(room: Room) -> None:
    record = three(room)
    copies = [side.id for side in groups.copies_of(room.review, record).copies]
    groups.split(room.review, room.lead, copies[1])
    assert sizes(room) == [2]
    assert len(room.records()) == 2
    room.gather(ris("Another", start=30), source="Vitalis")
    room.match()
    assert sizes(room) == [2], "a new run does not join it again"
    groups.unsplit(room.review, room.lead, copies[1])
    assert sizes(room) == [3]
    with pytest.raises(NotFound, match="Nobody has told"):
        groups.unsplit(room.review, room.lead, copies[1])
    with pytest.raises(Conflict, match="in no group"):
        groups.split(room.review, room.lead, room.records()[-1])


def test_a_whole_joining_is_undone_and_done_again_with_what_people_had_said(room: Room) -> None:
    record = three(room)
    room.gather(ris("Quite another", start=30), source="Vitalis")
    room.match()
    other = next(it for it in room.records() if it != record)
    groups.join(room.review, room.lead, record, other)
    assert sizes(room) == [4]
    copies = [side.id for side in groups.copies_of(room.review, record).copies]
    rulings = groups.take_apart(room.review, room.lead, record)
    assert sizes(room) == []
    assert sorted(room.records()) == sorted(copies)
    with pytest.raises(Conflict, match="no other copies"):
        groups.take_apart(room.review, room.lead, record)
    groups.take_back(room.review, room.lead, rulings)
    assert sizes(room) == [4], "also the copy that only a person had joined"
    with pytest.raises(NotFound, match="taken back already"):
        groups.take_back(room.review, room.lead, rulings)
    with pytest.raises(NotFound):
        groups.take_apart(room.review, room.lead, 10**9)
    groups.split(room.review, room.lead, copies[-1])
    groups.unsplit(room.review, room.lead, copies[-1])
    assert sizes(room) == [4], "the same for one copy alone"


def test_what_hangs_on_a_copy_goes_with_it_when_a_group_is_split_and_comes_back(room: Room) -> None:
    record = three(room)
    copies = [side.id for side in groups.copies_of(room.review, record).copies]
    groups.split(room.review, room.lead, copies[2])
    room.decide(copies[2], "exclude")
    screen.note(room.review, room.lead, copies[2], "Only on the third copy")
    groups.unsplit(room.review, room.lead, copies[2])
    whole = screen.sheet(room.review, room.lead, record)
    assert [it["text"] for it in whole.notes] == ["Only on the third copy"]
    assert room.records("excluded") == [record]
    groups.split(room.review, room.lead, copies[2])
    assert room.records("excluded") == [copies[2]]
    assert list(screen.sheet(room.review, room.lead, record).notes) == []
    assert [it["text"] for it in screen.sheet(room.review, room.lead, copies[2]).notes] == ["Only on the third copy"]


def test_a_value_chosen_by_hand_stays_when_a_new_copy_comes_and_goes_with_its_copy(room: Room) -> None:
    fuller = CERTAIN.replace("in winter\n", "in winter: a trial on farms\n")
    room.gather(CERTAIN, source="Agrarica")
    room.gather(fuller.replace("R0000001", "V1"), source="Vitalis")
    room.match()
    (record,) = room.records()
    first = groups.copies_of(room.review, record).copies[0]
    choice = groups.choose_value(room.review, room.lead, first.id, "title")
    assert groups.copies_of(room.review, record).kept.title.endswith("winter")
    room.gather(fuller.replace("R0000001", "L1"), source="Letters")
    room.match()
    found = groups.copies_of(room.review, record)
    assert (len(found.copies), found.kept.title[-6:]) == (3, "winter")
    assert [(it["field"], it["by"]) for it in found.chosen] == [("title", "Lead Orsel")]
    groups.choose_no_value(room.review, room.lead, choice)
    assert groups.copies_of(room.review, record).kept.title.endswith("farms")
    with pytest.raises(NotFound):
        groups.choose_no_value(room.review, room.lead, choice)
    with pytest.raises(Invalid, match="says nothing"):
        groups.choose_value(room.review, room.lead, first.id, "language")
    with pytest.raises(Invalid, match="no field"):
        groups.choose_value(room.review, room.lead, first.id, "title; DROP TABLE copy")


def test_a_question_goes_with_its_file_and_comes_back_with_it(asked: Room) -> None:
    batch = next(it["id"] for it in gather.files(asked.review) if it["source"] == "Meetings")
    gather.set_aside(asked.review, asked.lead, batch)
    assert asked_pairs(asked) == []
    gather.take_in(asked.review, asked.lead, batch)
    asked.match()
    assert len(asked_pairs(asked)) == 1
    assert report.standing(asked.review).figures.questions == 1


def test_the_kept_record_is_the_same_whichever_file_came_first(room: Room) -> None:
    poor = CERTAIN.replace("AB  - About wrapped hives lose fewer colonies in winter, told at some length.\n", "")
    room.gather(poor, source="Agrarica")
    room.gather(CERTAIN.replace("R0000001", "V1"), source="Vitalis")
    room.match()
    (record,) = room.records()
    found = groups.copies_of(room.review, record)
    assert found.whose["abstract"] == found.copies[1].id
    groups.split(room.review, room.lead, found.copies[1].id)
    assert "abstract" not in groups.copies_of(room.review, record).whose


def test_late_copies_of_decided_records_are_listed_and_disturb_no_verdict(room: Room) -> None:
    room.gather(CERTAIN, source="Agrarica")
    room.match()
    (record,) = room.records()
    room.decide(record, "exclude")
    room.gather(CERTAIN.replace("R0000001", "V1") + ris("Quite another matter", start=30), source="Vitalis")
    room.match()
    assert room.records("excluded") == [record]
    assert [(it["record_id"], it["first"], it["source"]) for it in groups.late(room.review)] == [(record, "exclude", "Vitalis")]


def by_keys(room: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    """Match as a large review is matched: new copies against those that their keys lead to."""
    monkeypatch.setattr(match, "WHOLE", 0)
    room.match()


def test_a_batch_that_is_looked_up_by_its_keys_joins_what_the_whole_would(room: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    other = make_room()
    first = ris(*[f"Straw skeps and cork hives of district {k} in winter" for k in range(30)], doi="10.5555/s.")
    second = first.replace("ID  - R", "ID  - V").replace("DO  - ", "M1  - ") + CERTAIN
    for it in (room, other):
        it.gather(first, source="Agrarica")
        it.match()
        it.gather(second, source="Vitalis")
    by_keys(room, monkeypatch)
    monkeypatch.undo()
    other.match()
    assert sizes(room) == sizes(other) == [2] * 30
    with session() as db:
        keyed = rows(db, "SELECT count(DISTINCT copy_id) AS n FROM match_key WHERE review_id = :r", r=room.review)[0]["n"]
    assert keyed == 61


RULE = """
name = "Title and year"
weights = false

[[passes]]
name = "exact"
agree = { title = "exactly", year = "exactly" }
"""


def test_a_trial_shows_what_would_change_and_is_applied_and_undone_in_one_stroke(asked: Room) -> None:
    asked.gather(CERTAIN, source="Agrarica")
    asked.gather(CERTAIN.replace("R0000001", "V1").replace("in winter", "in winters"), source="Vitalis")
    asked.match()
    before = (sizes(asked), asked_pairs(asked))
    assert before[0] == [2]
    trial = run_trial(asked, RULE)
    found, holds = trials.trial_of(asked.review, trial)
    s = found["summary"]
    assert (holds, found["state"], s["join"], s["part"], s["answer"]) == (True, "ready", 1, 1, 1)
    assert (s["records_before"], s["records_after"]) == (3, 3)
    assert s["passes"][0]["alone"] == 1
    total, listed = trials.pairs(asked.review, trial, "part", "", 0, 10)
    assert total == 1
    assert {listed[0][1].source, listed[0][2].source} == {"Agrarica", "Vitalis"}
    assert (sizes(asked), asked_pairs(asked)) == before, "a trial changes nothing"

    trials.apply(asked.review, asked.lead, trial)
    assert sizes(asked, how="rule") == [2]
    assert asked_pairs(asked) == []
    assert rules.current(asked.review)[0].name == "Title and year"
    with pytest.raises(Conflict, match="applied already"):
        trials.apply(asked.review, asked.lead, trial)
    assert report.standing(asked.review).figures.adds_up

    trials.undo(asked.review, asked.lead, trial)
    assert (sizes(asked), asked_pairs(asked)) == before
    assert rules.current(asked.review)[0].weights
    trials.apply(asked.review, asked.lead, trial)
    assert sizes(asked, how="rule") == [2]
    trials.undo(asked.review, asked.lead, trial)
    assert (sizes(asked), asked_pairs(asked)) == before
    assert [it["version"] for it in rules.versions(asked.review)] == [4, 3, 2, 1]


def test_what_people_said_holds_in_a_trial_and_a_stale_trial_is_not_applied(asked: Room) -> None:
    trial = run_trial(asked, RULE)
    questions.decide_pair(asked.review, asked.lead, asked_pairs(asked)[0], "different")
    assert not trials.trial_of(asked.review, trial)[1]
    with pytest.raises(Conflict, match="has changed since"):
        trials.apply(asked.review, asked.lead, trial)
    again = run_trial(asked, RULE)
    trials.apply(asked.review, asked.lead, again)
    assert sizes(asked) == [], "told apart by a person, whatever the rule says"
    with pytest.raises(Invalid, match="must agree in one of"):
        trials.begin(asked.review, asked.lead, RULE.replace("title", "volume"))
    with pytest.raises(NotFound):
        trials.trial_of(make_room().review, trial)


def test_the_order_of_trust_changes_kept_records_when_it_is_applied(room: Room) -> None:
    room.gather(CERTAIN.replace("Wrapped hives lose", "Wrapped hives loose"), source="Agrarica")
    room.gather(CERTAIN.replace("R0000001", "V1"), source="Vitalis")
    room.match()
    (record,) = room.records()
    assert groups.copies_of(room.review, record).kept.title.startswith("Wrapped hives loose")
    trial = run_trial(room, 'trust = ["Vitalis"]')
    trials.apply(room.review, room.lead, trial)
    assert groups.copies_of(room.review, record).kept.title.startswith("Wrapped hives lose ")
    room.gather(CERTAIN.replace("R0000001", "L1").replace("Wrapped hives lose", "Wrapped hives loose!"), source="Letters")
    room.match()
    assert groups.copies_of(room.review, record).kept.title.startswith("Wrapped hives lose "), "and later ones"


def last_job(room: Room, kind: str) -> int:
    with session() as db:
        return int(scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = :k", v=room.review, k=kind))


def gather_thrice(room: Room) -> None:
    """Seven records from three sources, one of which writes a word of each title otherwise."""
    titles = [f"Wrapped hives {k} lose fewer colonies in a hard winter of the north" for k in range(7)]
    room.gather(ris(*titles), source="Agrarica")
    room.gather(ris(*(title.replace("lose", "lost") for title in titles)), source="Vitalis")
    room.gather(ris(*titles), source="Letters")
    room.match()


def test_a_large_trial_is_applied_and_undone_in_parts_that_come_to_the_same(room: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    gather_thrice(room)
    before = sizes(room)
    trial = run_trial(room, RULE)
    trials.apply(room.review, room.lead, trial)
    whole = sizes(room)
    assert whole != before
    trials.undo(room.review, room.lead, trial)
    assert sizes(room) == before
    monkeypatch.setattr(settling, "PART", 2)
    trials.apply(room.review, room.lead, trial)
    assert sizes(room) not in (before, whole)
    assert report.standing(room.review).figures.adds_up
    with pytest.raises(Conflict, match="still being joined and parted"):
        trials.undo(room.review, room.lead, trial)
    with pytest.raises(Conflict, match="still being joined and parted"):
        trials.begin(room.review, room.lead, RULE)
    job = last_job(room, "settle_groups")
    left = iter([1, 1, 0])
    with pytest.MonkeyPatch.context() as patch:  # a worker that dies on the way
        follow = settling.follow
        patch.setattr(trials, "follow", lambda *part: (1 / next(left), follow(*part)))
        with pytest.raises(ZeroDivisionError):
            trials.settle_groups(job)
    with session() as db:
        run(db, "UPDATE job SET state = 'working' WHERE id = :j", j=job)
    trials.settle_groups(job)
    assert sizes(room) == whole
    trials.undo(room.review, room.lead, trial)
    with pytest.raises(Conflict, match="neither the one rule nor the other"):
        jobs.cancel(room.review, last_job(room, "settle_groups"))
    trials.settle_groups(last_job(room, "settle_groups"))
    assert sizes(room) == before
    assert report.standing(room.review).figures.adds_up
    trials.apply(room.review, room.lead, trial)
    trials.settle_groups(last_job(room, "settle_groups"))
    assert sizes(room) == whole, "and once more, by the rulings that it made before"


def test_a_trial_that_broke_off_for_good_is_undone_and_applied_whole(room: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    gather_thrice(room)
    before = sizes(room)
    trial = run_trial(room, RULE)
    monkeypatch.setattr(settling, "PART", 2)
    trials.apply(room.review, room.lead, trial)
    broken = sizes(room)
    with session() as db:
        run(db, "UPDATE job SET state = 'failed' WHERE id = :j", j=last_job(room, "settle_groups"))
    trials.undo(room.review, room.lead, trial)
    assert sizes(room) == before == [3] * 7
    assert broken not in (before, [2] * 7)
    trials.apply(room.review, room.lead, trial)
    trials.settle_groups(last_job(room, "settle_groups"))
    assert sizes(room) == [2] * 7, "those of the same title, of all"
    trials.undo(room.review, room.lead, trial)
    trials.settle_groups(last_job(room, "settle_groups"))
    assert sizes(room) == before, "what it came to only the second time is taken back too"


def test_removed_copies_are_told_by_what_and_from_where(asked: Room) -> None:
    asked.gather(CERTAIN, source="Agrarica")
    asked.gather(CERTAIN.replace("R0000001", "A2"), source="Agrarica")
    asked.gather(CERTAIN.replace("R0000001", "V1"), source="Vitalis")
    asked.match()
    questions.decide_pair(asked.review, asked.lead, asked_pairs(asked)[0], "same")
    it = groups.removed(asked.review)
    assert dict(it.by) == {"weights": 2, "people": 1}
    assert (it.within, it.between) == (1, 2)
    assert sum(dict(it.by).values()) == report.standing(asked.review).figures.total.copies
    said = groups.export(asked.review, groups.Sought()).decode("utf-8-sig").splitlines()
    assert len(said) == 1 + 5
    assert "a person" in said[-1] or "a person" in said[1]


def test_a_sample_checked_by_hand_gives_the_error_and_mends_what_is_wrong(room: Room) -> None:
    record = three(room)
    sample = checks.draw(room.review, room.lead, "joined", 2, seed=1)
    pairs = checks.pairs(room.review, sample)
    assert len(pairs) == 2
    checks.answer(room.review, room.lead, pairs[0][0]["id"], True)
    checks.answer(room.review, room.reviewer, pairs[1][0]["id"], False)
    (it,) = checks.samples(room.review)
    assert (it.size, it.answered, it.wrong, it.estimate.share) == (2, 2, 1, 0.5)
    assert it.estimate.low < 0.05
    assert len(room.records()) == 2, "what was found to differ is apart"
    assert record in room.records()
    for wrong in (("all", 5), ("joined", 0), ("joined", 501)):
        with pytest.raises(Invalid):
            checks.draw(room.review, room.lead, *wrong)


def test_the_headless_tool_finds_the_same_groups_and_questions(room: Room, tmp_path: Path) -> None:
    """The demo's files, taken in together, and read by the command."""
    names = ["citation-chasing.ris", "vitalis-index.nbib", "northern-theses.bib"]
    for k, name in enumerate(names):
        batch = room.upload((FILES / name).read_bytes(), name, source=f"Source {k}")
        gather.take_in(room.review, room.lead, batch)
    room.match()
    copies, pairs = tmp_path / "copies.csv", tmp_path / "pairs.csv"
    runner = CliRunner()
    done = runner.invoke(app, ["match", *(str(FILES / name) for name in names), "-o", str(copies), "--pairs", str(pairs)])
    assert done.exit_code == 0, done.output
    with session() as db:
        placed = rows(
            db,
            """SELECT c.id, p.record_id, b.filename, c.position FROM placement p JOIN copy c ON c.id = p.copy_id JOIN batch b ON b.id = c.batch_id
            WHERE p.review_id = :r ORDER BY c.id""",
            r=room.review,
        )
    here = {(it["filename"], str(it["position"])): it["record_id"] for it in placed}
    there = {(Path(row["file"]).name, row["position"]): row["group"] for row in csv.DictReader(copies.open(encoding="utf-8-sig"))}
    assert here.keys() == there.keys()
    assert len(set(zip(here.values(), (there[key] for key in here), strict=True))) == len(set(here.values())) == len(set(there.values()))
    at = {it["id"]: (it["filename"], str(it["position"])) for it in placed}
    asked_here = {frozenset((at[it.row["left_copy"]], at[it.row["right_copy"]])) for it in questions.questions(room.review)}
    asked_there = {
        frozenset(((Path(row["left_file"]).name, row["left_position"]), (Path(row["right_file"]).name, row["right_position"])))
        for row in csv.DictReader(pairs.open(encoding="utf-8-sig"))
        if row["verdict"] == "unsure"
    }
    assert asked_here == asked_there


def test_a_file_that_was_matched_can_be_set_aside_and_read_otherwise(room: Room) -> None:
    batch = room.gather(ris("Straw skeps in hard winters", "Cork hives and their moisture"))
    room.match()
    gather.set_aside(room.review, room.lead, batch)
    again = gather.read_again(room.review, room.lead, batch, {"encoding": "cp1252"})
    with session() as db:
        job = rows(db, "SELECT max(id) AS id FROM job WHERE review_id = :r AND kind = 'read_file'", r=room.review)[0]["id"]
    gather.read_file(job)
    gather.take_in(room.review, room.lead, again)
    room.match()
    assert len(room.records()) == 2
