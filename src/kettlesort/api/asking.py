"""Asking the reports."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.chart import Number
from kettlesort.work import asking

router = APIRouter(prefix="/api/reviews/{review}/asking", tags=["chart"])


class AskReports(BaseModel):
    """A question, and the studies whose reports are asked; all without any."""

    question: str = Field(max_length=500)
    studies: list[Number] | None = Field(None, max_length=10_000)


class AnsweringPassage(BaseModel):
    """A passage as it stands in a report."""

    study: int
    label: str
    record: int
    text: str
    page: int | None
    heading: str
    score: float
    whole: bool


class AnswersFound(BaseModel):
    """``reports`` were asked, ``abstracts`` of them by their abstract alone; of those, ``unread`` have a PDF that was not read yet."""

    answers: list[AnsweringPassage]
    reports: int
    abstracts: int
    unread: int


class QuestionKept(BaseModel):
    id: int
    text: str
    at: datetime
    by: str


class NewQuestion(BaseModel):
    text: str = Field(max_length=500)


class QuestionNumber(BaseModel):
    id: int


@router.post("")
def ask_reports(said: AskReports, member: AsMember) -> AnswersFound:
    """The passages that speak to a question."""
    found = asking.ask(member.review, said.question, None if said.studies is None else set(said.studies))
    return AnswersFound(
        answers=[AnsweringPassage(**answer._asdict()) for answer in found.answers],
        reports=found.reports,
        abstracts=found.abstracts,
        unread=found.unread,
    )


@router.get("/kept")
def kept_questions(member: AsMember) -> list[QuestionKept]:
    """The questions that were kept."""
    return [QuestionKept.model_validate(row) for row in asking.kept(member.review)]


@router.post("/kept")
def keep_question(said: NewQuestion, member: AsReviewer) -> QuestionNumber:
    """Keep a question."""
    return QuestionNumber(id=asking.keep(member.review, member.account, said.text))


@router.delete("/kept/{asked}", status_code=204)
def drop_question(asked: int, member: AsReviewer) -> None:
    """Keep a question no longer."""
    asking.drop(member.review, member.account, asked)


@router.post("/kept/{asked}/back", status_code=204)
def question_back(asked: int, member: AsReviewer) -> None:
    """Bring back a question that was dropped."""
    asking.drop(member.review, member.account, asked, back=True)
