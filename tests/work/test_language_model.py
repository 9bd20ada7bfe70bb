"""A language model asked beside the reader: only where a lead lets it, marked wherever its values go, and refused where it invents."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

import pytest
from starlette.routing import Mount

from kettlesort.core.charting.language_model import NO_FIGURE, NO_QUOTE, NONSENSE
from kettlesort.settings import settings
from kettlesort.standins.language_model import KEY, Mood, Temper, language_model_app
from kettlesort.store.base import session
from kettlesort.store.extraction import first_proposals
from kettlesort.store.sql import rows, scalar
from kettlesort.work import chart, codebook, evidence_out, language_model, proposals
from kettlesort.work.codebook import Book
from kettlesort.work.errors import Conflict, Invalid
from tests.conftest import Room
from tests.serving import serving
from tests.work.test_proposals import BOOK, report, work

NAME = "The hive’s model"


@pytest.fixture(scope="module")
def temper() -> Temper:
    return Temper(("right",), late=0.2)


@pytest.fixture(scope="module")
def known(temper: Temper) -> Iterator[None]:
    """This server knows a language model."""
    with serving([Mount("/model", language_model_app(temper))]) as address:
        said = settings()
        said.language_model, said.language_model_key, said.language_model_name = f"{address}/model/", KEY, NAME
        yield
        said.language_model = said.language_model_key = said.language_model_name = ""


@pytest.fixture
def read(room: Room, known: None, temper: Temper) -> Room:
    """A review with one included report that was read; texts may be sent to the model, which is right."""
    room.include("Wraps in winter", pdf=report())
    codebook.set_codebook(room.review, room.lead, BOOK)
    proposals.ask(room.review, room.lead)
    work(room)
    language_model.allow(room.review, room.lead, True)
    in_mood(temper, "right")
    return room


def in_mood(temper: Temper, mood: Mood) -> None:
    temper.moods = (mood,)


def ask(room: Room, *, again: bool = False) -> language_model.Model:
    language_model.ask(room.review, room.lead, again=again)
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'ask_model'", v=room.review)
    language_model.ask_model(job)
    return language_model.model(room.review)


def offered(room: Room, item: str = "Thickness") -> list[tuple[str, str]]:
    """What is proposed for a cell, by whom."""
    table = chart.evidence_table(room.review)
    number = next(one.id or 0 for one in table.book.items if one.name == item)
    return [(one["text"], one["model"]) for one in proposals.of_cell(room.review, table.studies[0].id, number, (None, None, None))]


def test_nothing_leaves_the_server_before_a_lead_has_said_so(room: Room, known: None, temper: Temper) -> None:
    room.include("Wraps in winter", pdf=report())
    codebook.set_codebook(room.review, room.lead, BOOK)
    before = next(temper.asked)
    proposals.ask(room.review, room.lead)
    work(room)
    with pytest.raises(Conflict, match="has not allowed"):
        language_model.ask(room.review, room.lead)
    assert next(temper.asked) == before + 1  # nobody asked in between
    assert not language_model.model(room.review).allowed
    language_model.allow(room.review, room.lead, True)
    found = language_model.model(room.review)
    assert (found.allowed, found.by, found.unasked) == (True, "Lead Orsel", 1)
    language_model.ask(room.review, room.lead)
    language_model.allow(room.review, room.lead, False)
    assert language_model.model(room.review).waiting == 0  # what was to be asked is not


def test_a_server_without_a_model_says_so(room: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(settings(), "language_model", "")
    assert language_model.model(room.review).name == ""
    with pytest.raises(Invalid, match="knows no language model"):
        language_model.allow(room.review, room.lead, True)


def test_what_it_proposes_stands_beside_the_reader_marked_into_every_table(read: Room) -> None:
    table = chart.evidence_table(read.review)
    proposals.refuse(
        read.review,
        read.reviewer,
        table.studies[0].id,
        next(one.id or 0 for one in table.book.items if one.name == "Blinded"),
        (None, None, None),
    )
    found = ask(read)
    assert (found.asked, found.failed, found.refused) == (1, 0, {})
    assert found.passed_over == 0  # what was said before it proposed is not about it
    assert found.proposed >= 3
    assert ("3 cm", NAME) in offered(read) or ("3 mm", NAME) in offered(read)
    assert any(by == "" for _, by in offered(read))
    study, item = table.studies[0].id, next(one.id or 0 for one in table.book.items if one.name == "Thickness")
    mine = next(one for one in proposals.of_cell(read.review, study, item, (None, None, None)) if one["model"])
    done = proposals.accept(read.review, read.reviewer, [mine["id"]])
    assert done.taken == 1
    (value,) = (one for one in chart.evidence_table(read.review).values if one.item == item)
    assert (value.how, value.model) == ("accepted", NAME)
    head, *lines = evidence_out.long_rows(read.review)
    assert [line[head.index("model")] for line in lines if line[head.index("item")] == "Thickness"] == [NAME]
    assert language_model.model(read.review).accepted == 1
    (before,) = (one for one in chart.value_history(read.review, study, item) if one["text"])
    for back in (chart.Typed(study, item, ""), chart.Typed(study, item, before["text"], back=True)):  # Delete, and undone
        assert chart.set_values(read.review, read.reviewer, [back]) == []
    again = chart.value_history(read.review, study, item)[0]
    parts = ("text", "quote", "page", "how", "model", "derived", "record")
    assert [again[part] for part in parts] == [before[part] for part in parts]
    assert again["quote"]
    changed = [one if one.name != "Thickness" else one._replace(unit="cm") for one in chart.evidence_table(read.review).book.items]
    book = chart.evidence_table(read.review).book
    codebook.set_codebook(read.review, read.lead, Book(changed, book.concepts, book.levels))
    assert next(one.model for one in chart.evidence_table(read.review).values if one.item == item) == NAME  # carried over, and marked still
    chart.set_values(read.review, read.reviewer, [chart.Typed(study, item, "4 cm")])
    assert next(one.model for one in chart.evidence_table(read.review).values if one.item == item) == ""  # a person's own


@pytest.mark.parametrize(("mood", "why"), [("invented", NO_QUOTE), ("wrong", NO_FIGURE), ("nonsense", NONSENSE)])
def test_what_it_invents_is_refused_and_counted(read: Room, temper: Temper, mood: Mood, why: str) -> None:
    in_mood(temper, mood)
    found = ask(read)
    assert found.asked == 1
    assert found.refused[why] >= 3
    assert all(by == "" for _, by in offered(read))


def test_late_is_not_never_and_silent_is_not_wrong(read: Room, temper: Temper) -> None:
    in_mood(temper, "silent")
    assert ask(read).proposed == 0
    in_mood(temper, "late")
    found = ask(read, again=True)
    assert found.proposed >= 3
    once = offered(read)
    assert ask(read, again=True).proposed == found.proposed
    assert offered(read) == once  # asked again, it replaces what it said


def test_a_model_that_is_away_or_does_not_know_us_is_said(read: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(settings(), "language_model_key", "another")
    found = ask(read)
    assert (found.asked, found.failed) == (0, 1)
    assert "does not take the key" in found.problem
    monkeypatch.setattr(language_model.MANNERS, "sleep", lambda _: None)
    monkeypatch.setattr(settings(), "language_model", "http://127.0.0.1:9/model/")
    found = ask(read)
    assert "is away" in found.problem
    monkeypatch.undo()
    found = ask(read)  # what could not be asked is asked the next time, and then no trouble any more
    assert (found.asked, found.failed, found.problem) == (1, 0, "")


def test_a_server_that_knows_it_no_more_asks_nobody_and_comes_to_an_end(
    read: Room, temper: Temper, monkeypatch: pytest.MonkeyPatch
) -> None:
    language_model.ask(read.review, read.lead)
    monkeypatch.setattr(settings(), "language_model", "")
    before = next(temper.asked)
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'ask_model'", v=read.review)
    language_model.ask_model(job)
    found = language_model.model(read.review)
    assert (found.waiting, found.failed, found.problem) == (0, 1, "The language model may not be asked any more.")
    assert next(temper.asked) == before + 1


def test_what_came_before_it_went_away_is_kept_once(read: Room, temper: Temper, monkeypatch: pytest.MonkeyPatch) -> None:
    asked = language_model.LanguageModel.ask
    left = 0

    def until_it_goes(model: language_model.LanguageModel, question: Mapping[str, Any]) -> bytes:
        nonlocal left
        left -= 1
        if left < 0:
            raise language_model.ModelError("The language model is away.")
        return asked(model, question)

    monkeypatch.setattr(language_model.LanguageModel, "ask", until_it_goes)
    for _ in range(2):
        left = 2
        found = ask(read)
        assert found.problem == "The language model is away."
        with session() as db:
            kept = scalar(db, "SELECT count(*) FROM proposal WHERE review_id = :v AND model <> '' AND gone_at IS NULL", v=read.review)
        assert kept == 3, "of both arms, and the thickness; not once more the second time"


def test_who_reads_twice_is_compared_with_the_reader_not_with_the_model(read: Room) -> None:
    ask(read)
    with session() as db:
        marked = rows(db, "SELECT signs, model FROM proposal WHERE review_id = :v AND model <> ''", v=read.review)
        first = {one["id"] for one in first_proposals(db, read.review)}
        models = {one["id"] for one in rows(db, "SELECT id FROM proposal WHERE review_id = :v AND model <> ''", v=read.review)}
    assert marked
    assert all(one["signs"] == {} for one in marked)  # it teaches the reader nothing
    assert not first & models


def test_a_report_that_is_read_again_is_asked_about_again(read: Room) -> None:
    ask(read)
    proposals.ask(read.review, read.lead, again=True)
    work(read)
    assert language_model.model(read.review).waiting == 1
