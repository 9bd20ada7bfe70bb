"""The language model of this server: whether a review lets it be asked, and what came of it."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter
from pydantic import BaseModel

from kettlesort.api.access import AsLead, AsMember, AsReviewer
from kettlesort.api.proposals import Waiting
from kettlesort.work import language_model

router = APIRouter(prefix="/api/reviews/{review}/proposals/model", tags=["chart"])


class RefusedAnswers(BaseModel):
    why: str
    n: int


class LanguageModelHere(BaseModel):
    """The language model of this server, none without a ``name``, and where the review stands with it: whether texts may be sent to ``host``, and who said so;
    how many reports it was not asked about; how many values it proposed, and what was refused of its answers; what people said of the rest."""

    name: str
    host: str
    allowed: bool
    by: str
    at: datetime | None
    unasked: int
    waiting: int
    asking: bool
    asked: int
    failed: int
    problem: str
    proposed: int
    refused: list[RefusedAnswers]
    accepted: int
    changed: int
    passed_over: int


class Allowed(BaseModel):
    allowed: bool


class AskAgain(BaseModel):
    """``again``: also about reports of which it was asked."""

    again: bool = False


@router.get("")
def model(member: AsMember) -> LanguageModelHere:
    """Where the review stands with the language model."""
    found = language_model.model(member.review)
    return LanguageModelHere(**{**found._asdict(), "refused": [RefusedAnswers(why=why, n=n) for why, n in found.refused.items()]})


@router.put("", status_code=204)
def allow(said: Allowed, member: AsLead) -> None:
    """Let texts of the review's reports be sent to the language model, or forbid it."""
    language_model.allow(member.review, member.account, said.allowed)


@router.post("/asking")
def ask(said: AskAgain, member: AsReviewer) -> Waiting:
    """Ask the language model about the reports that were read."""
    return Waiting(waiting=language_model.ask(member.review, member.account, again=said.again))
