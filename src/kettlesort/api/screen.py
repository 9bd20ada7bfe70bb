"""The desk."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.records import Filter, FullTextState, RecordFields, State, fields_of
from kettlesort.work import screen

router = APIRouter(prefix="/api/reviews/{review}", tags=["screen"])


class Term(BaseModel):
    term: str
    weight: float


class Other(BaseModel):
    """A record that has to do with another's place: what it lends to its score, or how like it is."""

    id: int
    title: str
    weight: float
    verdict: State
    seed: bool


class Chance(BaseModel):
    """How likely a record belongs, 0 to 1, with its 95 % band, learnt from so many included and excluded records."""

    chance: float
    low: float
    high: float
    included: int
    excluded: int


class Why(BaseModel):
    """What adds up to a record's score: its words, the rest of them, the sense of the whole text, where every record starts, and the records most like it; the nearest decided ones; and the chance
    that it belongs, where decisions reach so far."""

    words: list[Term]
    rest: float
    sense: float
    start: float
    alike: list[Other]
    nearest: list[Other]
    chance: Chance | None


class Mark(BaseModel):
    """What is underlined: for or against, by a word of the team's own or one that the order learned."""

    begin: int
    end: int
    supports: bool
    own: bool


class OwnWord(BaseModel):
    word: str
    supports: bool


class Part(BaseModel):
    """From where to where the label of a part of a structured abstract stands."""

    begin: int
    end: int


class Origin(BaseModel):
    run: int
    query_version: int | None
    labels: list[str]
    id: int
    source: str
    number: int
    search_id: int
    filename: str
    batch_id: int
    line: int
    position: int
    accession: str


class Past(BaseModel):
    pass_number: int
    verdict: State
    criterion: str
    by: str
    at: datetime
    withdrawn_at: datetime | None
    settles: bool


class Note(BaseModel):
    account_id: int
    by: str
    text: str
    at: datetime


class FullText(BaseModel):
    state: FullTextState
    reason: str
    at: datetime
    by: str
    file_id: int | None
    filename: str | None


class SpokenIn(BaseModel):
    """A record's place in another order, its score there, and where in its abstract the sentence stands that speaks most to the question; 0, 0 for none."""

    rank: int
    score: float | None
    begin: int
    end: int


class Sheet(BaseModel):
    id: int
    record: RecordFields
    whose: dict[str, int]
    first: State
    fulltext: FullTextState
    second: State
    blind: bool
    mine: State | None
    seed: bool
    rank: int | None
    closeness: float | None
    learned_from: int | None
    ranked_at: datetime | None
    why: Why | None
    title_marks: list[Mark]
    abstract_marks: list[Mark]
    abstract_parts: list[Part]
    own_words: list[OwnWord]
    origins: list[Origin]
    history: list[Past]
    notes: list[Note]
    full_text: FullText | None
    question: int | None
    holder: str | None
    spoken: SpokenIn | None


class Ask(BaseModel):
    skip: list[int] = Field(default=[], max_length=500)
    limit: int = Field(3, ge=1, le=10)


class Decision(BaseModel):
    record: int
    pass_number: Literal[1, 2]
    verdict: Literal["include", "exclude", "unsure"]
    criterion: int | None = None
    seen: State | None = None
    again: bool = False
    """It was sent before, and no answer came: what arrived already is not written down twice."""


class PassNumber(BaseModel):
    """Of one's own decisions in a pass the last, or the one on a record."""

    pass_number: Literal[1, 2]
    record: int | None = None


class TakenBack(BaseModel):
    record: int


class Own(BaseModel):
    id: int
    record_id: int
    title: str
    verdict: State
    criterion: str
    at: datetime
    withdrawn: bool


class NewNote(BaseModel):
    text: str = Field(max_length=10_000)


def _chance(chance: float, low: float, high: float, included: int, excluded: int) -> Chance:
    return Chance(chance=chance, low=low, high=high, included=included, excluded=excluded)


def _why(sheet: screen.Sheet) -> Why | None:
    if sheet.why is None:
        return None

    def others(some: list[tuple[int, float]]) -> list[Other]:
        found = [(sheet.others[number], weight) for number, weight in some if number in sheet.others]
        return [
            Other(id=o["id"], title=o["title"], weight=weight, verdict=o["second"] if o["second"] != "open" else o["first"], seed=o["seed"])
            for o, weight in found
        ]

    return Why(
        words=[Term(term=word, weight=share) for word, share, _ in sheet.why.words], rest=sheet.why.rest, sense=sheet.why.sense, start=sheet.why.start,
        alike=others(sheet.why.alike), nearest=others(sheet.why.nearest),
        chance=_chance(*sheet.why.chance) if sheet.why.chance else None,
    )  # fmt: skip


def _sheet(sheet: screen.Sheet) -> Sheet:
    row, order = sheet.row, sheet.order
    return Sheet(
        id=sheet.id, record=fields_of(sheet.record), whose=row["whose"], first=row["first"], fulltext=row["fulltext"], second=row["second"],
        blind=row["blind"], mine=row["mine"], seed=row["seed"], rank=row["rank"], closeness=row["closeness"], learned_from=order["decisions"] if order else None,
        ranked_at=order["made_at"] if order else None, why=_why(sheet),
        title_marks=[Mark.model_validate(m._asdict()) for m in sheet.title_marks], abstract_marks=[Mark.model_validate(m._asdict()) for m in sheet.abstract_marks],
        abstract_parts=[Part(begin=b, end=e) for b, e in sheet.abstract_parts], own_words=[OwnWord(word=w, supports=s) for w, s in sheet.own_words],
        origins=[Origin.model_validate(o) for o in sheet.origins], history=[Past.model_validate(h) for h in sheet.history],
        notes=[Note.model_validate(n) for n in sheet.notes], full_text=FullText.model_validate(sheet.full_text) if sheet.full_text else None,
        question=row["question"], holder=row["holder"], spoken=SpokenIn.model_validate(sheet.spoken) if sheet.spoken else None,
    )  # fmt: skip


@router.get("/records/{record}")
def sheet(record: int, member: AsMember, pass_number: int = Query(1, ge=1, le=2), order: int = Query(0, ge=0, lt=2**63)) -> Sheet:
    """A record with all that is known of it."""
    return _sheet(screen.sheet(member.review, member.account, record, pass_number, order))


@router.post("/desk")
def hand_out(said: Ask, wanted: Filter, member: AsReviewer) -> list[Sheet]:
    """Put the next undecided records on one's desk."""
    return [_sheet(sheet) for sheet in screen.hand_out(member.review, member.account, wanted, said.skip, said.limit)]


@router.delete("/desk", status_code=204)
def leave_desk(member: AsReviewer) -> None:
    """Give up what is on one's desk."""
    screen.leave_desk(member.review, member.account)


@router.post("/decisions", status_code=204)
def decide(said: Decision, member: AsReviewer) -> None:
    """Decide on a record."""
    screen.decide(
        member.review, member.account, screen.Said(said.record, said.pass_number, said.verdict, said.criterion, said.seen, said.again)
    )


@router.post("/decisions/take-back")
def take_back(said: PassNumber, member: AsReviewer) -> TakenBack:
    """Take one's own last decision back."""
    return TakenBack(record=screen.take_back(member.review, member.account, said.pass_number, said.record))


@router.get("/decisions/own")
def own(member: AsMember, pass_number: int = Query(1, ge=1, le=2), limit: int = Query(50, ge=1, le=500)) -> list[Own]:
    """One's own decisions, newest first."""
    return [Own.model_validate(row) for row in screen.history(member.review, member.account, pass_number, limit)]


@router.put("/records/{record}/note", status_code=204)
def note(record: int, said: NewNote, member: AsReviewer) -> None:
    """Note something about a record."""
    screen.note(member.review, member.account, record, said.text)


class NoteToOne(BaseModel):
    """A note on a record that names the person who asks."""

    id: int
    record: int
    title: str
    by: str
    at: datetime
    text: str
    done: bool


class Done(BaseModel):
    done: bool


@router.get("/notes-to-me")
def notes_to_me(member: AsMember) -> list[NoteToOne]:
    """The notes that name one."""
    return [NoteToOne.model_validate(row) for row in screen.notes_to(member.review, member.account)]


@router.put("/notes-to-me/{note}", status_code=204)
def be_done(note: int, said: Done, member: AsReviewer) -> None:
    """Say that one is done with a note, or not yet."""
    screen.be_done(member.review, member.account, note, done=said.done)
