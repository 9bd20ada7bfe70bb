"""Reviews and their members."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsLead, AsMember, SignedIn
from kettlesort.demo import QUESTION, TITLE
from kettlesort.work import invitations, plan

router = APIRouter(prefix="/api/reviews", tags=["plan"])
Role = Literal["lead", "reviewer", "observer"]


class NewReview(BaseModel):
    title: str = Field(max_length=300)
    question: str = Field("", max_length=5000)


class ReviewMade(BaseModel):
    id: int


class ReviewSummary(BaseModel):
    id: int
    title: str
    question: str
    role: Role
    archived: bool
    made_up: bool
    changed_at: datetime | None
    found: int
    records: int
    open: int
    second_open: int
    sought: int
    included: int
    questions: int


class Member(BaseModel):
    id: int
    name: str
    full_name: str
    role: Role
    joined_at: datetime
    removed_at: datetime | None
    decisions: int | None
    """None where it is for the person and a lead alone to know."""


class NewMember(BaseModel):
    name: str = Field(max_length=80)
    role: Role


@router.get("")
def my_reviews(account: SignedIn) -> list[ReviewSummary]:
    """The reviews that one belongs to."""
    assert account.id is not None
    return [_summary(review) for review in plan.my_reviews(account.id)]


def _summary(review: plan.MyReview) -> ReviewSummary:
    total = review.total
    return ReviewSummary(
        **review.row,
        found=total.found,
        records=total.records,
        open=total.open,
        second_open=total.second_open,
        sought=total.sought,
        included=total.included,
        questions=review.questions,
    )


@router.post("", status_code=201)
def make_review(said: NewReview, account: SignedIn) -> ReviewMade:
    """Make a review, and lead it."""
    assert account.id is not None
    return ReviewMade(id=plan.make_review(account.id, said.title, said.question))


@router.post("/made-up", status_code=202)
def make_up(account: SignedIn) -> ReviewMade:
    """Make a review of one's own that is being filled with made-up data."""
    assert account.id is not None
    return ReviewMade(id=plan.make_up(account.id, TITLE, QUESTION))


class Archived(BaseModel):
    archived: bool


@router.put("/{review}/archived", status_code=204)
def archive(said: Archived, member: AsLead) -> None:
    """Put a review out of sight, or bring it back."""
    plan.archive(member.review, member.account, said.archived)


@router.get("/{review}/members")
def members(member: AsMember) -> list[Member]:
    """Everybody who is or was a member."""
    found = [Member.model_validate(row) for row in plan.members(member.review)]
    if member.role == "lead":
        return found
    return [model if model.id == member.account else model.model_copy(update={"decisions": None}) for model in found]


@router.post("/{review}/members", status_code=204)
def add_member(said: NewMember, member: AsLead) -> None:
    """Add an account, or change its role."""
    plan.add_member(member.review, member.account, said.name, said.role)


@router.delete("/{review}/members/{person}", status_code=204)
def remove_member(person: int, member: AsLead) -> None:
    """Remove a member; their decisions stay."""
    plan.remove_member(member.review, member.account, person)


class NewInvitation(BaseModel):
    role: Role
    days: int = Field(14, ge=1, le=invitations.LONGEST)


class MadeInvitation(BaseModel):
    """An invitation; its token is said this once and never again."""

    id: int
    token: str
    expires_at: datetime


class Invitation(BaseModel):
    id: int
    role: Role
    invited_by: str
    at: datetime
    expires_at: datetime
    withdrawn_at: datetime | None
    used_by: str | None
    used_at: datetime | None
    open: bool


@router.post("/{review}/invitations", status_code=201)
def invite(said: NewInvitation, member: AsLead) -> MadeInvitation:
    """Make a link by which one person can join."""
    return MadeInvitation(**invitations.invite(member.review, member.account, said.role, said.days)._asdict())


@router.get("/{review}/invitations")
def all_invitations(member: AsLead) -> list[Invitation]:
    """The invitations to a review, the latest first."""
    return [Invitation.model_validate(invitation) for invitation in invitations.invitations(member.review)]


@router.delete("/{review}/invitations/{number}", status_code=204)
def withdraw(number: int, member: AsLead) -> None:
    """An invitation holds no longer."""
    invitations.withdraw(member.review, member.account, number)
