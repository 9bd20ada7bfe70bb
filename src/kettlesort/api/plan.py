"""Reviews, protocol, members."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsLead, AsMember, SignedIn
from kettlesort.work import plan

router = APIRouter(prefix="/api/reviews", tags=["plan"])
SourceKind = Literal["database", "register", "website", "organisation", "citation"]
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
    changed_at: datetime | None
    found: int
    records: int
    open: int
    second_open: int
    sought: int
    included: int
    questions: int


class Element(BaseModel):
    label: str = Field(max_length=100)
    terms: list[str] = Field(max_length=500)


class Criterion(BaseModel):
    id: int | None = None
    name: str = Field(max_length=120)
    wording: str = Field("", max_length=4000)
    first: bool = True
    second: bool = True


class PlannedSource(BaseModel):
    name: str = Field(max_length=200)
    kind: SourceKind = "database"


class Protocol(BaseModel):
    id: int
    title: str
    question: str
    year_from: int | None
    year_to: int | None
    languages: str
    elements: list[Element]
    criteria: list[Criterion]
    sources: list[PlannedSource]
    role: Role


class Question(BaseModel):
    title: str | None = Field(None, max_length=300)
    question: str | None = Field(None, max_length=5000)
    year_from: int | None = Field(None, ge=1000, le=2999)
    year_to: int | None = Field(None, ge=1000, le=2999)
    languages: str | None = Field(None, max_length=300)


class Member(BaseModel):
    id: int
    name: str
    full_name: str
    role: Role
    joined_at: datetime
    removed_at: datetime | None
    decisions: int


class NewMember(BaseModel):
    name: str = Field(max_length=80)
    role: Role


@router.get("")
def my_reviews(account: SignedIn) -> list[ReviewSummary]:
    """The reviews that one belongs to."""
    assert account.id is not None
    return [_summary(it) for it in plan.my_reviews(account.id)]


def _summary(it: plan.MyReview) -> ReviewSummary:
    total = it.figures.total
    return ReviewSummary(
        **it.row,
        found=total.found,
        records=total.records,
        open=total.open,
        second_open=total.second_open,
        sought=total.sought,
        included=total.included,
        questions=it.figures.questions,
    )


@router.post("", status_code=201)
def make_review(said: NewReview, account: SignedIn) -> ReviewMade:
    """Make a review, and lead it."""
    assert account.id is not None
    return ReviewMade(id=plan.make_review(account.id, said.title, said.question))


@router.get("/{review}/protocol")
def protocol(member: AsMember) -> Protocol:
    """The plan of a review."""
    it = plan.protocol(member.review)
    return Protocol(
        id=member.review,
        title=it.review.title,
        question=it.review.question,
        year_from=it.review.year_from,
        year_to=it.review.year_to,
        languages=it.review.languages,
        elements=[Element.model_validate(element, from_attributes=True) for element in it.elements],
        criteria=[Criterion.model_validate(criterion, from_attributes=True) for criterion in it.criteria],
        sources=[PlannedSource.model_validate(source, from_attributes=True) for source in it.sources],
        role=member.role,
    )


class Archived(BaseModel):
    archived: bool


@router.put("/{review}/archived", status_code=204)
def archive(said: Archived, member: AsLead) -> None:
    """Put a review out of sight, or bring it back."""
    plan.archive(member.review, member.account, said.archived)


@router.patch("/{review}/protocol", status_code=204)
def set_question(said: Question, member: AsLead) -> None:
    """Change title, question or limits."""
    plan.set_question(member.review, member.account, said.model_dump(exclude_unset=True))


@router.put("/{review}/elements", status_code=204)
def set_elements(said: list[Element], member: AsLead) -> None:
    """Replace the framework's elements."""
    plan.set_elements(member.review, member.account, [(it.label, it.terms) for it in said])


@router.put("/{review}/criteria", status_code=204)
def set_criteria(said: list[Criterion], member: AsLead) -> None:
    """Replace the ordered criteria."""
    plan.set_criteria(member.review, member.account, [plan.Wording(it.id, it.name, it.wording, it.first, it.second) for it in said])


@router.put("/{review}/planned-sources", status_code=204)
def set_sources(said: list[PlannedSource], member: AsLead) -> None:
    """Replace the planned sources."""
    plan.set_sources(member.review, member.account, [(it.name, it.kind) for it in said])


@router.get("/{review}/members")
def members(member: AsMember) -> list[Member]:
    """Everybody who is or was a member."""
    return [Member.model_validate(it) for it in plan.members(member.review)]


@router.post("/{review}/members", status_code=204)
def add_member(said: NewMember, member: AsLead) -> None:
    """Add an account, or change its role."""
    plan.add_member(member.review, member.account, said.name, said.role)


@router.delete("/{review}/members/{person}", status_code=204)
def remove_member(person: int, member: AsLead) -> None:
    """Remove a member; their decisions stay."""
    plan.remove_member(member.review, member.account, person)
