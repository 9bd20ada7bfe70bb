"""Groups of records that are alike."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.core.ranking.groups import Settings
from kettlesort.work import likeness

router = APIRouter(prefix="/api/reviews/{review}", tags=["screen"])


class NewGrouping(BaseModel):
    groups: int = Field(20, ge=2, le=likeness.MOST_GROUPS)
    rarest: int = Field(3, ge=1, le=1000)
    commonest: float = Field(0.4, gt=0, le=1)


class Grouping(NewGrouping):
    """A grouping: of how many records, from how many known ones, into how many groups, and how many of them are set aside by groups now."""

    id: int
    state: Literal["waiting", "ready", "failed"]
    failure: str
    records: int
    without_abstract: int
    known: int
    made: int
    aside: int
    at: datetime
    by: str


class AlikeGroup(BaseModel):
    id: int
    number: int
    words: list[str]
    near: float | None
    narrowing_id: int | None
    size: int
    open: int
    aside: int
    included: int
    excluded: int


class NearMember(BaseModel):
    id: int
    title: str
    abstract: str
    year: int | None
    closeness: float


class Begun(BaseModel):
    id: int


class LookedAt(BaseModel):
    looked_at: list[int] = Field(max_length=1000)


class GroupSetAside(BaseModel):
    narrowing: int
    records: int


@router.get("/groupings")
def groupings(member: AsMember) -> list[Grouping]:
    """All groupings, the newest first."""
    return [Grouping.model_validate(grouping) for grouping in likeness.groupings(member.review)]


@router.post("/groupings")
def begin(said: NewGrouping, member: AsReviewer) -> Begun:
    """Group the undecided records, in the background."""
    return Begun(id=likeness.begin(member.review, member.account, Settings(said.groups, said.rarest, said.commonest)))


@router.get("/groupings/{grouping}")
def groups(grouping: int, member: AsMember) -> list[AlikeGroup]:
    """The groups of a grouping, the nearest to what is known first."""
    return [
        AlikeGroup.model_validate({**group, "words": [word for word, _ in group["words"]]})
        for group in likeness.groups(member.review, grouping)
    ]


@router.get("/alike-groups/{group}/nearest")
def nearest(group: int, member: AsMember) -> list[NearMember]:
    """The members to look at before a group is set aside."""
    return [NearMember.model_validate(row) for row in likeness.nearest(member.review, group)]


@router.post("/alike-groups/{group}/set-aside")
def set_aside(group: int, said: LookedAt, member: AsReviewer) -> GroupSetAside:
    """Set a far group aside as a whole; it is undone by taking its narrowing back."""
    made, n = likeness.set_aside(member.review, member.account, group, said.looked_at)
    return GroupSetAside(narrowing=made, records=n)
