"""What is left to find, a random sample, and stopping."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsLead, AsMember, AsReviewer
from kettlesort.core.screening.stopping import Range
from kettlesort.work import stopping

router = APIRouter(prefix="/api/reviews/{review}/remaining", tags=["screen"])


class Between(BaseModel):
    estimate: float
    low: float
    high: float


class Sample(BaseModel):
    id: int
    seed: int
    at: datetime
    by: str
    records: int
    settled: int


class Point(BaseModel):
    answered: int
    found: int


class BandAt(Point):
    """How many there are in all, as far as could be told after so many answers."""

    low: float
    high: float


class Stopped(BaseModel):
    narrowing: int
    at: datetime
    by: str
    figures: dict[str, Any]


class Outlook(BaseModel):
    records: int
    answered: int
    found: int
    unsettled: int
    unread: int
    left: Between
    recall: Between | None
    p95: float
    method: str
    assumptions: list[str]
    sample: Sample | None
    curve: list[Point]
    looks: list[BandAt]
    stopped: Stopped | None


class NewSample(BaseModel):
    size: int = Field(ge=1, le=1_000_000)
    seed: int | None = Field(None, ge=0, lt=2**31)


class Drawn(BaseModel):
    id: int


class SetAside(BaseModel):
    narrowing: int
    records: int


def _between(found: Range) -> Between:
    return Between(estimate=found.estimate, low=found.low, high=found.high)


@router.get("")
def outlook(member: AsMember) -> Outlook:
    """What is left in the first pass, and how sure that is."""
    told = stopping.outlook(member.review)
    return Outlook(
        records=told.records, answered=told.answered, found=told.found, unsettled=told.unsettled, unread=told.unread, left=_between(told.told.left),
        recall=_between(told.told.recall) if told.told.recall else None, p95=told.told.p95, method=told.told.method, assumptions=told.told.assumptions,
        sample=Sample.model_validate(told.sample._asdict()) if told.sample else None, curve=[Point(answered=n, found=found) for n, found in told.curve],
        looks=[BandAt.model_validate(one._asdict()) for one in told.looks], stopped=Stopped.model_validate(told.stopped._asdict()) if told.stopped else None,
    )  # fmt: skip


@router.post("/sample")
def draw(said: NewSample, member: AsReviewer) -> Drawn:
    """Draw a random sample of what is undecided; it comes first at every desk."""
    return Drawn(id=stopping.draw_sample(member.review, member.account, said.size, said.seed))


@router.delete("/sample/{drawn}", status_code=204)
def withdraw(drawn: int, member: AsReviewer) -> None:
    """Take a sample back."""
    stopping.withdraw_sample(member.review, member.account, drawn)


@router.post("/sample/{drawn}/back", status_code=204)
def bring_back(drawn: int, member: AsReviewer) -> None:
    """Bring a sample back."""
    stopping.withdraw_sample(member.review, member.account, drawn, back=True)


@router.post("/stop")
def stop(member: AsLead) -> SetAside:
    """Set aside what nobody has read; it is undone by taking its narrowing back."""
    made, n = stopping.stop(member.review, member.account)
    return SetAside(narrowing=made, records=n)
