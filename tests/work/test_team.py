"""People working at once, and everyday work on pairs, seeds, files and values."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest

from kettlesort.settings import settings
from kettlesort.store.records import Wanted
from kettlesort.work import fulltexts, gather, groups, people, plan, protocol, questions, ranking, records, screen, seeds
from kettlesort.work.errors import Conflict, Invalid, NotSignedIn, TooMany
from tests.conftest import Room, ris

TITLES = [
    f"Trial number {k} of hives wrapped in {m}"
    for k, m in enumerate(["foam", "straw", "tar", "wool", "cork", "felt", "moss", "paper", "hemp", "reed"])
]


def test_two_people_are_never_handed_the_same_undecided_record(room: Room) -> None:
    room.gather(ris(*TITLES))
    room.match()

    def work(account: int) -> list[int]:
        mine = []
        while found := screen.hand_out(room.review, account, Wanted("open"), [], 2):
            for sheet in found:
                mine.append(sheet.id)
                room.decide(sheet.id, "include", by=account)
        return mine

    with ThreadPoolExecutor(2) as pool:
        one, two = pool.map(work, (room.lead, room.reviewer))
    assert sorted(one + two) == sorted(room.records())
    assert not set(one) & set(two)


def test_a_record_on_a_colleagues_desk_cannot_be_decided(room: Room) -> None:
    room.gather(ris(*TITLES[:3]))
    room.match()
    held = screen.hand_out(room.review, room.lead, Wanted("open"), [], 1)[0].id
    with pytest.raises(Conflict, match="Lead Orsel has this record"):
        room.decide(held, "include")
    screen.leave_desk(room.review, room.lead)
    room.decide(held, "include")


def test_excluding_names_a_criterion_of_the_pass(room: Room) -> None:
    room.gather(ris(*TITLES[:1]))
    record = room.records()[0]
    with pytest.raises(Invalid, match="names the criterion"):
        screen.decide(room.review, room.lead, screen.Said(record, 1, "exclude", None))
    first = protocol.protocol(room.review).criteria[0]
    protocol.amend(room.review, room.lead, {"criteria": [protocol.Wording(first.id, "Not bees", "", False, True)]}, "Piloted")
    with pytest.raises(Invalid, match="does not apply"):
        screen.decide(room.review, room.lead, screen.Said(record, 1, "exclude", first.id))


def test_the_second_pass_needs_the_full_text_and_a_pdf_is_a_pdf(room: Room) -> None:
    import io

    room.gather(ris(*TITLES[:1]))
    record = room.records()[0]
    room.decide(record, "include")
    with pytest.raises(Conflict, match="full text"):
        room.decide(record, "include", 2)
    with pytest.raises(Invalid, match="not a PDF"):
        fulltexts.set_full_text(room.review, room.lead, record, "obtained", "", "x.pdf", io.BytesIO(b"<script>"))
    with pytest.raises(Invalid, match="Why"):
        fulltexts.set_full_text(room.review, room.lead, record, "missing", " ")
    fulltexts.set_full_text(room.review, room.lead, record, "obtained", "", "x.pdf", io.BytesIO(b"%PDF-1.7 x"))
    room.decide(record, "include", 2)
    assert room.total().included == 1
    file = fulltexts.full_texts(room.review)[0]["file_id"]
    name, pieces = fulltexts.attached(room.review, file)
    assert (name, b"".join(pieces)) == ("x.pdf", b"%PDF-1.7 x")


def test_verdicts_move_with_their_copies_when_groups_are_joined_and_split(room: Room) -> None:
    room.gather(ris(TITLES[0], TITLES[1]))
    room.match()
    one, two = sorted(room.records())
    room.decide(two, "exclude")
    room.gather(ris(TITLES[1], start=2), source="Vitalis Index")
    room.match()
    assert screen.sheet(room.review, room.lead, two).row["first"] == "exclude"  # a late copy disturbs no verdict
    assert room.total().copies == 1
    late = groups.copies_of(room.review, two).copies[1].id
    groups.split(room.review, room.lead, late)
    assert sorted(room.records()) == [one, two, late]
    assert screen.sheet(room.review, room.lead, late).row["first"] == "open"
    groups.unsplit(room.review, room.lead, late)
    assert sorted(room.records()) == [one, two]


def doubtful(room: Room) -> int:
    """A pair that waits: the same title and authors, as an article and as a conference paper."""
    text = ris("Survival of colonies in insulated hives through three winters")
    room.gather(text)
    room.gather(
        text.replace("JOUR", "CPAPER").replace("VL  - 1", "VL  - 7").replace("SP  - 10", "SP  - 3").replace("AB  -", "N1  -"),
        source="Vitalis Index",
    )
    room.match()
    return int(questions.questions(room.review)[0].row["id"])


def test_an_answer_joins_or_keeps_apart_for_good_and_can_be_taken_back(room: Room) -> None:
    question = doubtful(room)
    pair = questions.pair(room.review, question)
    assert matching_weight(pair) == pytest.approx(pair.question.row["score"], abs=0.01)
    questions.decide_pair(room.review, room.reviewer, question, "same")
    assert (room.total().records, room.total().copies) == (1, 1)
    assert questions.take_back(room.review, room.reviewer) == question
    questions.decide_pair(room.review, room.reviewer, question, "different")
    assert len(questions.told(room.review)) == 1
    assert questions.questions(room.review) == []
    room.gather(ris("Something else entirely", start=40), source="Northern Theses")
    room.match()
    assert questions.questions(room.review) == []  # told apart once, never asked again
    with pytest.raises(Conflict):
        questions.decide_pair(room.review, room.lead, question, "same")


def matching_weight(pair: questions.Pair) -> float:
    return sum(it.weight for it in pair.evidence)


def test_setting_a_file_aside_takes_its_records_out_and_nothing_is_lost(room: Room) -> None:
    room.gather(ris(*TITLES[:4]))
    second = room.gather(ris(*TITLES[2:6], start=3), source="Vitalis Index")
    room.match()
    assert (room.total().found, room.total().copies, room.total().records) == (8, 2, 6)
    room.decide(room.records()[0], "include")
    gather.set_aside(room.review, room.lead, second)
    assert (room.total().found, room.total().records) == (4, 4)
    gather.take_in(room.review, room.lead, second)
    room.match()
    assert (room.total().found, room.total().copies, room.total().records) == (8, 2, 6)
    assert room.total().sought == 1


def test_pasted_identifiers_become_seeds_now_or_later_and_rank_their_like_first(room: Room) -> None:
    seeds.paste_seeds(room.review, room.lead, "https://doi.org/10.5555/A.2, R0000009")
    room.gather(ris(*TITLES, doi="10.5555/a."))
    room.match()
    assert len(room.records("seeds")) == 2
    ranking.rank_review(room.review)
    sheet = screen.sheet(room.review, room.lead, room.records()[0])
    assert sheet.row["rank"] == 1
    assert sheet.row["seed"]
    assert sheet.order is not None
    assert sheet.order["decisions"] == 2
    seed = room.records("seeds")[0]
    seeds.mark_seed(room.review, room.lead, seed, False)
    assert len(room.records("seeds")) == 1


def test_lists_can_be_filtered(room: Room) -> None:
    room.gather(ris(*TITLES) + "\nTY  - JOUR\nTI  - 100% wool_\nPY  - 1985\nER  - \n")
    room.match()

    def n(**wanted: object) -> int:
        return records.page_of(room.review, Wanted(**wanted), 0, 1)[0]  # type: ignore[arg-type]

    assert n(words="foam") == 1
    assert n(words="hives -foam") == 9
    assert n(words="100% wool_") == 1
    assert n(words="%") == 1
    assert n(year_to=1989) == 1
    assert n(abstract=False) == 1
    assert n(source="Agrarica") == 11
    assert n(source="Nowhere") == 0
    assert n(list="found", source="Agrarica") == 11
    assert n(list="found", source="Nowhere") == 0


def test_a_removed_member_is_outside_but_their_decisions_stay(room: Room) -> None:
    room.gather(ris(*TITLES[:2]))
    room.decide(room.records()[0], "exclude")
    plan.remove_member(room.review, room.lead, room.reviewer)
    cookie = people.sign_in(next(it["name"] for it in plan.members(room.review) if it["id"] == room.reviewer), "long enough")
    assert people.membership_of(cookie, room.review) == (room.reviewer, None)
    assert room.total().excluded == 1
    assert next(it for it in plan.members(room.review) if it["id"] == room.reviewer)["decisions"] == 1
    with pytest.raises(Conflict, match="lead"):
        plan.remove_member(room.review, room.lead, room.lead)


def test_signing_in_is_limited_by_network_and_says_nothing_about_accounts(database: str) -> None:
    people.make_account("patient-person", "Patient Person", "long enough")

    def enter(name: str, password: str, address: str, known: str | None = None) -> tuple[str, float]:
        tried = people.try_to_sign_in(name, people.Caller(address, known))
        return people.sign_in(name, password, tried), tried.seconds

    said = set()
    for name in ("patient-person", "nobody-here"):
        with pytest.raises(NotSignedIn) as refused:
            enter(name, "wrong password", "10.0.0.1")
        said.add(refused.value.message)
    assert len(said) == 1
    for address in (*["10.0.0.1"] * 7, *(f"10.0.1.{k}" for k in range(40))):
        with pytest.raises(NotSignedIn):
            enter("patient-person", "wrong password", address)
    with pytest.raises(TooMany):
        enter("patient-person", "long enough", "10.0.0.1")
    cookie, waits = enter("patient-person", "long enough", "10.0.0.2")
    assert waits > 1, "an unknown browser waits where many guess"
    assert people.account_of(cookie).name == "patient-person"
    known = people.knowing(None, "patient-person")
    assert enter("patient-person", "long enough", "10.0.0.1", known)[1] == 0, "the real person is never locked out"
    with pytest.raises(TooMany):
        enter("patient-person", "long enough", "10.0.0.1", known + "x")


def test_attempts_at_once_are_counted_before_any_is_checked(database: str) -> None:
    def attempt(_: int) -> bool:
        try:
            people.try_to_sign_in("raced", people.Caller("2001:db8::1"))
        except TooMany:
            return False
        return True

    with ThreadPoolExecutor(12) as pool:
        assert sum(pool.map(attempt, range(40))) <= settings().sign_in_attempts
    assert people.Caller("2001:db8::1").network == people.Caller("2001:db8::ffff:1").network


def test_what_ended_or_was_changed_is_no_sign_in(database: str) -> None:
    people.make_account("brief-person", "Brief Person", "long enough")
    cookie = people.sign_in("brief-person", "long enough")
    people.sign_out(cookie)
    for bad in (cookie, cookie + "x", None, ""):
        with pytest.raises(NotSignedIn):
            people.account_of(bad)
