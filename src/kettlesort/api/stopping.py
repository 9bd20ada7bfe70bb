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
    each = stopping.outlook(member.review)
    return Outlook(
        records=each.records, answered=each.answered, found=each.found, unsettled=each.unsettled, unread=each.unread, left=_between(each.told.left),
        recall=_between(each.told.recall) if each.told.recall else None, p95=each.told.p95, method=each.told.method, assumptions=each.told.assumptions,
        sample=Sample.model_validate(each.sample._asdict()) if each.sample else None, curve=[Point(answered=n, found=found) for n, found in each.curve],
        looks=[BandAt.model_validate(one._asdict()) for one in each.looks], stopped=Stopped.model_validate(each.stopped._asdict()) if each.stopped else None,
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
