"""Values proposed from reports, and what people say of them."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.chart import AtAddress, AtLevels, NotTaken, Number, told
from kettlesort.work import proposals

router = APIRouter(prefix="/api/reviews/{review}/proposals", tags=["chart"])


class OpenCell(AtLevels):
    """A cell that waits for a person: the surest proposal for it, and how many there are."""

    proposal: int
    study: int
    item: int
    text: str
    confidence: float
    n: int
    model: str = Field(description="The language model that proposed it, empty for the reader")


class ReportRead(BaseModel):
    """A report and what became of reading it; ``late`` if its file or the codebook changed since. ``whole``: there is a PDF, else the abstract is read."""

    record: int
    study: int
    state: str
    whole: bool
    pages: int | None
    problem: str
    late: bool


class Proposals(BaseModel):
    cells: list[OpenCell]
    reports: list[ReportRead]
    accepted: int
    changed: int
    refused: int
    waiting: int
    reading: bool


class ProposedValue(BaseModel):
    """A proposal for a cell with the words that it comes from, and what was said of it."""

    id: int
    text: str
    quote: str
    page: int | None
    confidence: float
    model: str
    record: int
    verdict: str | None
    answered_at: datetime | None
    answered_by: str | None


class ReadThese(BaseModel):
    """Studies whose reports are to be read; all without any. ``again``: also those that were read."""

    studies: list[Number] | None = Field(None, max_length=10_000)
    again: bool = False


class Waiting(BaseModel):
    waiting: int


class Accept(BaseModel):
    """Proposals to take as they are, or one with another text."""

    proposals: list[Number] = Field(min_length=1, max_length=10_000)
    text: str | None = Field(None, max_length=20_000)


class Accepted(BaseModel):
    stroke: int
    taken: int
    refused: list[NotTaken]


class RefuseCell(AtLevels):
    study: Number
    item: Number


class Stroke(BaseModel):
    stroke: int


class AnswersTakenBack(BaseModel):
    cells: int


class Marked(BaseModel):
    """Words that somebody marked in a report, for an item."""

    item: Number
    words: str = Field(max_length=20_000)


class MarkedValue(BaseModel):
    text: str


@router.get("", response_model_exclude_none=True)
def proposed(member: AsMember) -> Proposals:
    """Every cell that waits for a person, and what became of reading each report."""
    cells = [
        OpenCell(proposal=cell.proposal, study=cell.study, item=cell.item, arm=cell.levels[0], outcome=cell.levels[1], time=cell.levels[2], text=cell.text, confidence=cell.confidence, n=cell.n, model=cell.model)
        for cell in proposals.open_cells(member.review)
    ]  # fmt: skip
    reports = [ReportRead(**report._asdict()) for report in proposals.reports(member.review)]
    return Proposals(cells=cells, reports=reports, **proposals.counts(member.review))


@router.get("/{study}/{item}")
def proposals_of_cell(study: int, item: int, member: AsMember, said: AtAddress) -> list[ProposedValue]:
    """The proposals for a cell, the surest first."""
    return [ProposedValue.model_validate(row) for row in proposals.of_cell(member.review, study, item, said)]


@router.post("/reading")
def read_reports(said: ReadThese, member: AsReviewer) -> Waiting:
    """Have reports read for values in the background."""
    studies = None if said.studies is None else set(said.studies)
    return Waiting(waiting=proposals.ask(member.review, member.account, studies, again=said.again))


@router.post("/accepted")
def accept(said: Accept, member: AsReviewer) -> Accepted:
    """Take proposals into the table."""
    accepted = proposals.accept(member.review, member.account, said.proposals, said.text)
    return Accepted(stroke=accepted.stroke, taken=accepted.taken, refused=told(accepted.refused))


@router.post("/refused")
def refuse(said: RefuseCell, member: AsReviewer) -> Stroke:
    """Say of a cell that none of its proposals is right."""
    return Stroke(stroke=proposals.refuse(member.review, member.account, said.study, said.item, said.levels))


@router.delete("/answers/{stroke}")
def take_back(stroke: int, member: AsReviewer) -> AnswersTakenBack:
    """Take back what was said in one stroke."""
    return AnswersTakenBack(cells=proposals.take_back(member.review, member.account, stroke))


@router.post("/marked")
def value_of_marked_words(said: Marked, member: AsMember) -> MarkedValue:
    """The value of an item that marked words state."""
    return MarkedValue(text=proposals.value_in(member.review, said.item, said.words))
