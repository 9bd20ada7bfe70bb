"""Narrowing."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.core.query.limits import Limits, limited
from kettlesort.work import narrow

router = APIRouter(prefix="/api/reviews/{review}", tags=["narrow"])


class Rule(BaseModel):
    """What is to be set aside: with ``keep`` what the query does not find, else what it finds."""

    name: str = Field("", max_length=120)
    query: str = Field("", max_length=30_000)
    abstract: Literal["", "yes", "no"] = ""
    keep: bool = False
    spare: bool = True
    again: bool = False


class LimitedRule(Rule):
    """The same with limits, which become part of its query."""

    before: int | None = Field(None, ge=2, le=9999)
    after: int | None = Field(None, ge=1, le=9998)
    language: str = Field("", max_length=100)
    kind: str = Field("", max_length=40)


class Spoken(BaseModel):
    id: int
    title: str
    year: int | None


class NarrowingPreview(BaseModel):
    query: str
    records: int
    seeds: list[Spoken]
    included: list[Spoken]
    decided: int
    examples: list[Spoken]


class PickedAside(BaseModel):
    name: str = Field("", max_length=120)
    records: list[int] = Field(min_length=1, max_length=200_000)


class Narrowing(Rule):
    id: int
    by_hand: bool
    has_rule: bool
    by: str
    at: datetime
    withdrawn_at: datetime | None
    records: int
    released: int


class Applied(BaseModel):
    id: int
    records: int


class Again(BaseModel):
    again: bool


def _rule(said: LimitedRule) -> narrow.Rule:
    query = limited(said.query, Limits(said.before, said.after, said.language, said.kind))
    return narrow.Rule(said.name, query, said.abstract, said.keep, said.spare, said.again)


@router.get("/narrowings")
def narrowings(member: AsMember) -> list[Narrowing]:
    """All narrowings, the newest first."""
    return [Narrowing.model_validate(dict(narrowing)) for narrowing in narrow.narrowings(member.review)]


@router.post("/narrowings/preview")
def preview(said: LimitedRule, member: AsMember) -> NarrowingPreview:
    """What would be set aside."""
    rule = _rule(said)
    found = narrow.preview(member.review, rule)
    return NarrowingPreview(
        query=rule.query, records=len(found.records), seeds=[Spoken.model_validate(dict(one)) for one in found.seeds], decided=found.decided,
        included=[Spoken.model_validate(dict(one)) for one in found.included], examples=[Spoken.model_validate(dict(one)) for one in found.examples],
    )  # fmt: skip


@router.post("/narrowings", status_code=201)
def apply(said: LimitedRule, member: AsReviewer) -> Applied:
    """Set it aside."""
    made, n = narrow.apply(member.review, member.account, _rule(said))
    return Applied(id=made, records=n)


@router.post("/narrowings/picked", status_code=201)
def set_aside(said: PickedAside, member: AsReviewer) -> Applied:
    """Set picked records aside."""
    made, n = narrow.set_aside(member.review, member.account, said.name, said.records)
    return Applied(id=made, records=n)


@router.post("/narrowings/{narrowing}/withdraw")
def withdraw(narrowing: int, member: AsReviewer) -> Applied:
    """Take a narrowing back as a whole."""
    return Applied(id=narrowing, records=narrow.withdraw(member.review, member.account, narrowing))


@router.post("/narrowings/{narrowing}/back")
def back(narrowing: int, member: AsReviewer) -> Applied:
    """Apply it again as it was."""
    return Applied(id=narrowing, records=narrow.withdraw(member.review, member.account, narrowing, back=True))


@router.put("/narrowings/{narrowing}/again", status_code=204)
def set_again(narrowing: int, said: Again, member: AsReviewer) -> None:
    """Whether it is applied to what comes later."""
    narrow.set_again(member.review, member.account, narrowing, said.again)


class SomeRecords(BaseModel):
    records: list[int] = Field(min_length=1, max_length=200_000)


class LetIn(BaseModel):
    """What was released: pairs of a narrowing and a copy."""

    released: list[tuple[int, int]] = Field(min_length=1, max_length=400_000)


@router.post("/records/let-in")
def let_in(said: SomeRecords, member: AsReviewer) -> LetIn:
    """Let records in again that were set aside."""
    return LetIn(released=narrow.let_in(member.review, member.account, said.records))


@router.post("/records/hold-again", status_code=204)
def hold_again(said: LetIn, member: AsReviewer) -> None:
    """Undo letting records in."""
    narrow.hold_again(member.review, member.account, said.released)
