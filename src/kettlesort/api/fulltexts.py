"""Full texts: what became of each, PDFs in place, and a heap of them that is matched to its records."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Literal

from fastapi import APIRouter, Request, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.files import CSV, file_of
from kettlesort.api.records import FullTextState, State
from kettlesort.api.uploads import ONE_FILE, receive
from kettlesort.settings import settings
from kettlesort.work import fulltexts

router = APIRouter(prefix="/api/reviews/{review}", tags=["screen"])


class NewState(BaseModel):
    state: FullTextState
    reason: str = Field("", max_length=2000)


class Sought(BaseModel):
    id: int
    title: str
    authors: list[str]
    year: int | None
    journal: str
    doi: str
    fulltext: FullTextState
    second: State
    reason: str
    criterion: str
    at: datetime | None
    by: str | None
    file_id: int | None
    filename: str | None


class PdfClaim(BaseModel):
    """A record that a file may belong to: how likely, from 0 to 1, and what speaks for it."""

    id: int
    likely: float
    why: list[str]


class DeliveredPdf(BaseModel):
    """A PDF that came in a heap: what its first page says, the records that it may belong to, and where it was placed."""

    id: int
    filename: str
    state: Literal["waiting", "placed", "asked", "unplaced", "twice", "refused"]
    says: str
    pages: int
    problem: str
    proposals: list[PdfClaim]
    record: int | None
    record_title: str | None
    at: datetime
    by: str


class PlacedAt(BaseModel):
    """Whose file it is; nobody's if it is dropped."""

    record: int | None


class NewDelivery(BaseModel):
    id: int


@router.get("/full-texts")
def full_texts(member: AsMember) -> list[Sought]:
    """Records whose full text is sought."""
    return [Sought.model_validate(text) for text in fulltexts.full_texts(member.review)]


@router.put("/records/{record}/full-text", status_code=204)
def set_full_text(record: int, said: NewState, member: AsReviewer) -> None:
    """Say what became of a full text."""
    fulltexts.set_full_text(member.review, member.account, record, said.state, said.reason)


@router.post(
    "/records/{record}/pdf",
    status_code=204,
    openapi_extra=ONE_FILE,
)
async def attach(record: int, member: AsReviewer, request: Request) -> None:
    """Attach a PDF; the full text is obtained then."""
    async with receive(request, settings().max_pdf) as (filename, file, run):
        await run(fulltexts.set_full_text, member.review, member.account, record, "obtained", "", filename, file)


@router.get("/pdfs/{file}", response_class=StreamingResponse)
def pdf(file: int, member: AsMember) -> StreamingResponse:
    """An attached PDF, shown by the browser."""
    _, data = fulltexts.attached(member.review, file)
    return _shown(data, f"full-text-{file}")


@router.delete("/records/{record}/pdf", status_code=204)
def take_off(record: int, member: AsReviewer) -> None:
    """Take a record's PDF off again."""
    fulltexts.take_off(member.review, member.account, record)


@router.post("/records/{record}/pdf/back", status_code=204)
def put_on_again(record: int, member: AsReviewer) -> None:
    """Attach the PDF again that was taken off last."""
    fulltexts.put_on_again(member.review, member.account, record)


@router.get("/full-texts/reasons")
def full_text_reasons(member: AsMember) -> list[str]:
    """Why full texts are not obtained: the team's own list, then the usual."""
    return fulltexts.reasons(member.review)


@router.get("/full-texts/to-fetch", response_class=Response)
def to_fetch(member: AsMember) -> Response:
    """The full texts still sought, by journal and year, as CSV for a library."""
    return file_of(fulltexts.to_fetch(member.review), CSV, "full-texts-to-fetch.csv")


@router.get("/delivered-pdfs")
def delivered_pdfs(member: AsMember) -> list[DeliveredPdf]:
    """PDFs that came in a heap, those that a person has to see to first."""
    return [DeliveredPdf.model_validate(row) for row in fulltexts.delivered(member.review)]


@router.post("/delivered-pdfs", openapi_extra=ONE_FILE)
async def deliver_pdf(member: AsReviewer, request: Request) -> NewDelivery:
    """Take in a PDF or a ZIP of PDFs, to be matched in the background."""
    async with receive(request, settings().max_upload) as (filename, file, run):
        return NewDelivery(id=await run(fulltexts.deliver, member.review, member.account, filename, file))


@router.put("/delivered-pdfs/{delivered}", status_code=204)
def place_pdf(delivered: int, said: PlacedAt, member: AsReviewer) -> None:
    """Attach a delivered PDF to a record, or drop it."""
    fulltexts.place(member.review, member.account, delivered, said.record)


@router.post("/delivered-pdfs/{delivered}/back", status_code=204)
def put_pdf_back(delivered: int, member: AsReviewer) -> None:
    """Bring a dropped PDF back."""
    fulltexts.put_back(member.review, member.account, delivered)


@router.get("/delivered-pdfs/{delivered}/pdf", response_class=StreamingResponse)
def delivered_pdf(delivered: int, member: AsMember) -> StreamingResponse:
    """A delivered PDF, shown by the browser."""
    return _shown(fulltexts.delivered_file(member.review, delivered), f"delivered-{delivered}")


def _shown(data: Iterator[bytes], name: str) -> StreamingResponse:
    return StreamingResponse(
        data,
        media_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="{name}.pdf"', "Content-Security-Policy": "sandbox"},
    )
