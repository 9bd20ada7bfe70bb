"""Pairs and groups."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter, Query
from pydantic import BaseModel

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.records import RecordFields, fields_of
from kettlesort.core import matching
from kettlesort.work import match

router = APIRouter(prefix="/api/reviews/{review}", tags=["match"])


class OpenPair(BaseModel):
    id: int
    score: float
    title: str
    copies: int
    later: int


class Side(BaseModel):
    id: int
    origin: str
    raw: str
    record: RecordFields


class Evidence(BaseModel):
    field: str
    weight: float


class Pair(BaseModel):
    id: int
    score: float
    join_from: float
    ask_from: float
    left: Side
    right: Side
    evidence: list[Evidence]
    kept: RecordFields
    whose: dict[str, int]


class Answer(BaseModel):
    same: bool


class OpenAgain(BaseModel):
    question: int | None


class Group(BaseModel):
    id: int
    title: str
    year: int | None
    copies: int
    sources: list[str]
    by_person: bool


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
    at: datetime
    by: str


class Copies(BaseModel):
    copies: list[Side]
    whose: dict[str, int]
    rulings: list[Ruling]


class Apart(BaseModel):
    id: int
    left_copy: int
    right_copy: int
    left_title: str
    right_title: str
    at: datetime
    by: str


def _side(it: match.Side) -> Side:
    return Side(id=it.id, origin=it.origin, raw=it.raw, record=fields_of(it.record))


@router.get("/questions")
def questions(member: AsMember) -> list[OpenPair]:
    """Doubtful pairs that wait for a person."""
    return [OpenPair.model_validate(it) for it in match.questions(member.review)]


@router.get("/questions/{question}")
def pair(question: int, member: AsMember) -> Pair:
    """One pair, field against field, with the weight of the evidence."""
    it = match.pair(member.review, question)
    return Pair(
        id=it.id,
        score=it.score,
        join_from=matching.JOIN,
        ask_from=matching.ASK,
        left=_side(it.left),
        right=_side(it.right),
        evidence=[Evidence(field=e.field, weight=e.weight) for e in it.evidence],
        kept=fields_of(it.kept),
        whose=it.whose,
    )


@router.post("/questions/{question}/answer", status_code=204)
def answer(question: int, said: Answer, member: AsReviewer) -> None:
    """Same, or different."""
    match.decide_pair(member.review, member.account, question, said.same)


@router.post("/questions/{question}/later", status_code=204)
def later(question: int, member: AsReviewer) -> None:
    """Put a pair to the end of the line."""
    match.later(member.review, member.account, question)


@router.post("/questions/take-back")
def take_back(member: AsReviewer) -> OpenAgain:
    """Take one's own last answer back."""
    return OpenAgain(question=match.take_back(member.review, member.account))


@router.get("/groups")
def groups(member: AsMember, offset: int = Query(0, ge=0), limit: int = Query(100, ge=1, le=500)) -> Groups:
    """Records of more than one copy."""
    total, page = match.groups(member.review, offset, limit)
    return Groups(total=total, groups=[Group.model_validate(it) for it in page])


@router.get("/records/{record}/copies")
def copies(record: int, member: AsMember) -> Copies:
    """The copies of a record, and why they are together."""
    it = match.copies_of(member.review, record)
    return Copies(copies=[_side(side) for side in it.copies], whose=it.whose, rulings=[Ruling.model_validate(r) for r in it.rulings])


@router.post("/copies/{copy}/split", status_code=204)
def split(copy: int, member: AsReviewer) -> None:
    """Take a copy out of its group."""
    match.split(member.review, member.account, copy)


@router.post("/copies/{copy}/unsplit", status_code=204)
def unsplit(copy: int, member: AsReviewer) -> None:
    """Undo taking a copy out."""
    match.unsplit(member.review, member.account, copy)


@router.get("/told-apart")
def told_apart(member: AsMember) -> list[Apart]:
    """What people said is different."""
    return [Apart.model_validate(it) for it in match.told_apart(member.review)]


@router.delete("/rulings/{ruling}", status_code=204)
def withdraw(ruling: int, member: AsReviewer) -> None:
    """Withdraw a person's ruling."""
    match.withdraw(member.review, member.account, ruling)
