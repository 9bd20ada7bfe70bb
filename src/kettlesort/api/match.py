"""Pairs and groups."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.files import CSV, file_of
from kettlesort.api.records import RecordFields, fields_of
from kettlesort.core.screening import in_words
from kettlesort.work import groups, questions

router = APIRouter(prefix="/api/reviews/{review}", tags=["match"])


class OpenPair(BaseModel):
    id: int
    score: float
    chance: float
    worth: float
    kind: str
    how: str
    title: str
    copies: int
    decided: int
    later: int
    holder: str | None
    held_by: int | None


class GivenVerdict(BaseModel):
    pass_number: int
    verdict: str
    reason: str | None
    by: str


class Side(BaseModel):
    id: int
    origin: str
    source: str
    raw: str
    group: int
    record: RecordFields
    verdicts: list[GivenVerdict]


class Evidence(BaseModel):
    field: str
    weight: float
    says: str


class Pair(BaseModel):
    open: OpenPair
    join_from: float
    ask_from: float
    left: Side
    right: Side
    others: list[Side]
    says: str
    evidence: list[Evidence]
    kept: RecordFields
    whose: dict[str, int]


class Answer(BaseModel):
    said: Literal["same", "different", "related"]


class Told(BaseModel):
    disagreements: list[str]


class OpenAgain(BaseModel):
    question: int | None


class Group(BaseModel):
    id: int
    title: str
    year: int | None
    copies: int
    sources: list[str]
    weakest: float | None
    by_person: bool
    by_pass: bool
    by_weights: bool
    passes: list[str]


class Groups(BaseModel):
    total: int
    groups: list[Group]


class Ruling(BaseModel):
    id: int
    left_copy: int
    right_copy: int
    same: bool
    by_rule: bool
    score: float | None
    how: str
    at: datetime
    by: str


class ChosenValue(BaseModel):
    id: int
    field: str
    copy_id: int
    by: str


class RelatedRecord(BaseModel):
    id: int
    title: str
    year: int | None
    ruling: int
    by: str


class Copies(BaseModel):
    copies: list[Side]
    whose: dict[str, int]
    kept: RecordFields
    rulings: list[Ruling]
    chosen: list[ChosenValue]
    related: list[RelatedRecord]
    conflicts: list[str]


class Rulings(BaseModel):
    rulings: list[int] = Field(max_length=groups.LARGEST_APART**2)


class PersonSaid(BaseModel):
    id: int
    stroke: int
    left_copy: int
    right_copy: int
    left_record: int
    right_record: int
    left_title: str
    right_title: str
    same: bool
    related: bool
    holds: bool
    at: datetime
    by: str


class Choice(BaseModel):
    field: str


class MadeChoice(BaseModel):
    id: int


class JoinWith(BaseModel):
    other: int


class DecidedTwice(BaseModel):
    id: int
    title: str
    pass_number: int
    said: list[str]
    by: list[str]


class LateCopy(BaseModel):
    id: int
    record_id: int
    title: str
    late_title: str
    source: str
    filename: str
    line: int
    at: datetime
    state: str


class FromSource(BaseModel):
    source: str
    copies: int
    surplus: int
    within: int


class RemovedBy(BaseModel):
    by: str
    copies: int


class RemovedCopies(BaseModel):
    by: list[RemovedBy]
    within: int
    between: int
    sources: list[FromSource]


def side(one: questions.Side) -> Side:
    """A copy as it is shown."""
    return Side(
        id=one.id, origin=one.origin, source=one.source, raw=one.raw, group=one.group, record=fields_of(one.record),
        verdicts=[GivenVerdict.model_validate(v) for v in one.verdicts],
    )  # fmt: skip


def _open(one: questions.Open) -> OpenPair:
    return OpenPair.model_validate({**one.row, "chance": one.chance, "worth": one.worth})


@router.get("/questions")
def open_questions(member: AsMember, by: Literal["worth", "weight", "alike"] = "worth") -> list[OpenPair]:
    """Doubtful pairs that wait for a person."""
    return [_open(question) for question in questions.questions(member.review, by)]


@router.get("/questions/{question}")
def pair(question: int, member: AsMember) -> Pair:
    """One pair, field against field, with the weight of the evidence."""
    one = questions.pair(member.review, question)
    join_from, ask_from = one.thresholds
    return Pair(
        open=_open(one.question),
        join_from=join_from,
        ask_from=ask_from,
        left=side(one.left),
        right=side(one.right),
        others=[side(other) for other in one.others],
        says=one.says,
        evidence=[Evidence(field=e.field, weight=e.weight, says=e.says) for e in one.evidence],
        kept=fields_of(one.kept),
        whose=one.whose,
    )


@router.post("/questions/{question}/take", status_code=204)
def take(question: int, member: AsReviewer) -> None:
    """Look at a pair: nobody else is led to it for some minutes."""
    questions.take(member.review, member.account, question)


@router.post("/questions/{question}/answer")
def answer(question: int, said: Answer, member: AsReviewer) -> Told:
    """Same, different, or another report of the same study; what that contradicts."""
    return Told(disagreements=questions.decide_pair(member.review, member.account, question, said.said))


@router.post("/questions/{question}/later", status_code=204)
def later(question: int, member: AsReviewer) -> None:
    """Put a pair to the end of the line."""
    questions.later(member.review, member.account, question)


@router.post("/questions/take-back")
def take_back(member: AsReviewer) -> OpenAgain:
    """Take one's own last answer back."""
    return OpenAgain(question=questions.take_back(member.review, member.account))


def _sought(
    how: Literal["", "weights", "rule", "person"] = "", source: str = Query("", max_length=200), within: bool | None = None,
    size: int = Query(2, ge=2, le=1000), words: str = Query("", max_length=200), below: float | None = Query(None, ge=-1000, le=1000),
    order: Literal["size", "weakest", "new", "title"] = "size",
) -> groups.Sought:  # fmt: skip
    return groups.Sought(how, source, within, size, words, below, order)


Sought = Annotated[groups.Sought, Depends(_sought)]


@router.get("/groups")
def listed_groups(member: AsMember, sought: Sought, offset: int = Query(0, ge=0), limit: int = Query(100, ge=1, le=500)) -> Groups:
    """Records of more than one copy."""
    total, page = groups.groups(member.review, sought, offset, limit)
    return Groups(total=total, groups=[Group.model_validate(row) for row in page])


@router.get("/groups/export")
def export_groups(member: AsMember, sought: Sought) -> Response:
    """The groups as CSV, one line a copy."""
    data = groups.export(member.review, sought)
    return file_of(data, CSV, "groups.csv")


@router.get("/records/{record}/copies")
def copies(record: int, member: AsMember) -> Copies:
    """The copies of a record, and why they are together."""
    copies_of = groups.copies_of(member.review, record)
    return Copies(
        copies=[side(one) for one in copies_of.copies], whose=copies_of.whose, kept=fields_of(copies_of.kept), rulings=[Ruling.model_validate(r) for r in copies_of.rulings],
        chosen=[ChosenValue.model_validate(c) for c in copies_of.chosen], related=[RelatedRecord.model_validate(r) for r in copies_of.related], conflicts=copies_of.conflicts,
    )  # fmt: skip


@router.post("/copies/{copy}/split", status_code=204)
def split(copy: int, member: AsReviewer) -> None:
    """Take a copy out of its group."""
    groups.split(member.review, member.account, copy)


@router.post("/copies/{copy}/unsplit", status_code=204)
def unsplit(copy: int, member: AsReviewer) -> None:
    """Undo taking a copy out."""
    groups.unsplit(member.review, member.account, copy)


@router.post("/records/{record}/apart")
def take_apart(record: int, member: AsReviewer) -> Rulings:
    """Undo a whole joining: all copies of a record are records of their own."""
    return Rulings(rulings=groups.take_apart(member.review, member.account, record))


@router.post("/rulings/take-back", status_code=204)
def take_back_rulings(of: Rulings, member: AsReviewer) -> None:
    """Take back in one stroke that copies were told apart."""
    groups.take_back(member.review, member.account, of.rulings)


@router.post("/copies/{copy}/choose")
def choose_value(copy: int, choice: Choice, member: AsReviewer) -> MadeChoice:
    """Let the kept record say what this copy says."""
    return MadeChoice(id=groups.choose_value(member.review, member.account, copy, choice.field))


@router.delete("/choices/{choice}", status_code=204)
def choose_no_value(choice: int, member: AsReviewer) -> None:
    """Undo a choice of a value."""
    groups.choose_no_value(member.review, member.account, choice)


@router.post("/records/{record}/join")
def join(record: int, with_: JoinWith, member: AsReviewer) -> Told:
    """Say that two records are the same report."""
    return Told(disagreements=groups.join(member.review, member.account, record, with_.other))


@router.get("/people-said")
def people_said(member: AsMember) -> list[PersonSaid]:
    """What people said is different or related, and what contradicts another answer."""
    return [PersonSaid.model_validate(row) for row in questions.told(member.review)]


@router.delete("/rulings/{ruling}", status_code=204)
def withdraw(ruling: int, member: AsReviewer) -> None:
    """Withdraw a person's ruling."""
    questions.withdraw(member.review, member.account, ruling)


@router.get("/decided-twice")
def decided_twice(member: AsMember) -> list[DecidedTwice]:
    """Records whose copies were decided differently."""
    return [DecidedTwice.model_validate(conflict) for conflict in groups.conflicts(member.review)]


@router.get("/late-copies")
def late_copies(member: AsMember) -> list[LateCopy]:
    """Copies that came after their record was decided."""
    found = groups.late(member.review)
    return [LateCopy.model_validate({**row, "state": in_words(row["first"], row["fulltext"], row["second"])}) for row in found]


@router.get("/removed-copies")
def removed_copies(member: AsMember) -> RemovedCopies:
    """Copies removed by weights, by each pass, by people; within and between sources."""
    removed = groups.removed(member.review)
    by = [RemovedBy(by=name, copies=n) for name, n in removed.by]
    return RemovedCopies(
        by=by, within=removed.within, between=removed.between, sources=[FromSource.model_validate(s) for s in removed.sources]
    )
