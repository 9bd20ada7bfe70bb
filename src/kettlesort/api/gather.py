"""Uploaded files."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any, BinaryIO, Literal
from urllib.parse import quote

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.protocol import SourceKind
from kettlesort.api.uploads import ONE_FILE, receive
from kettlesort.core.formats import LABELS
from kettlesort.core.formats.origin import LOOKED_AT
from kettlesort.settings import settings
from kettlesort.work import gather

router = APIRouter(prefix="/api/reviews/{review}", tags=["gather"])
State = Literal["waiting", "reading", "read", "failed", "taken", "leaving", "aside"]


class Made(BaseModel):
    id: int


class Uploaded(BaseModel):
    batches: list[int]
    same_as: str


class File(BaseModel):
    id: int
    search_id: int
    run_id: int
    run_number: int
    filename: str
    state: State
    format: str
    encoding: str
    certainty: str
    failure: str
    uploaded_by: str
    odd: int
    labels: list[str]
    uploaded_at: datetime
    source: str
    number: int
    announced: int | None
    run_on: date | None
    records: int
    problems: int
    with_others: int


class Dropped(BaseModel):
    """A file as it was understood before there is a search for it: what it is, and where it seems to come from."""

    filename: str
    format: str
    certainty: str
    records: int
    problems: int
    odd: int
    source: str
    kind: SourceKind
    dated: date | None
    stem: str
    part: int


class Problem(BaseModel):
    line: int
    message: str


class Odd(BaseModel):
    position: int
    line: int
    lacks: list[str]


class SuspectPlace(BaseModel):
    position: int
    line: int


class Suspicion(BaseModel):
    kind: str
    message: str
    records: int
    places: list[SuspectPlace]
    other: str = ""


class How(BaseModel):
    """How a file is to be read; empty values are found out."""

    format: str = Field("", max_length=40)
    encoding: str = Field("", max_length=40)
    fields: dict[str, str] = Field({}, max_length=500)
    recipe: str = Field("", max_length=40_000)
    sheet: str = Field("", max_length=200)
    header: int | None = Field(None, ge=0, le=60)
    names: str = Field("", max_length=80)


class Look(BaseModel):
    id: int
    filename: str
    state: State
    format: str
    certainty: str
    encoding: str
    sure: bool
    failure: str
    how: How
    habit: bool
    fields: dict[str, str]
    header: list[str]
    recipe: str
    sheets: list[str]
    sheet: str
    search_id: int
    source: str
    number: int
    run: int
    run_on: date | None
    announced: int | None
    records: int
    with_others: int
    filled: dict[str, int]
    problems: list[Problem]
    odd: list[Odd]
    suspicions: list[Suspicion]


class Line(BaseModel):
    number: int
    text: str
    field: str
    value: str
    odd: str
    label: str


class Entry(BaseModel):
    position: int
    line: int
    end_line: int
    title: str
    lines: list[Line]
    problems: list[Problem]


@router.get("/files")
def files(member: AsMember) -> list[File]:
    """All uploaded files."""
    return [File.model_validate(file) for file in gather.files(member.review)]


@router.post("/searches/{search}/files", status_code=201, openapi_extra=ONE_FILE)
async def upload(
    search: int, member: AsReviewer, request: Request, run: int | None = None, label: str = Query("", max_length=100)
) -> Uploaded:  # fmt: skip
    """Upload a file for a search, or for one of its runs; it is read in the background. An archive becomes several files."""
    async with receive(request, settings().max_upload) as (filename, file, work):
        one = await work(gather.upload, member.review, member.account, search, filename, file, run, label)
        return Uploaded(batches=one.batches, same_as=one.same_as)


@router.get("/files/{batch}")
def look(batch: int, member: AsMember) -> Look:
    """What a file was read as."""
    look_at = gather.look_at(member.review, batch)
    filled = {name: n for name, n in look_at.filled.items() if name != "records"}
    said = look_at.batch.how
    return Look(
        id=batch, filename=look_at.batch.filename, state=look_at.batch.state, format=look_at.batch.format, certainty=look_at.batch.certainty, encoding=look_at.batch.encoding,
        sure=look_at.batch.sure, failure=look_at.batch.failure, how=How.model_validate({name: said[name] for name in How.model_fields if name in said}),
        habit=bool(said.get("habit")), fields=look_at.batch.reading.get("fields", {}), header=look_at.batch.header, recipe=look_at.batch.reading.get("recipe", ""),
        sheets=look_at.batch.reading.get("sheets", []), sheet=look_at.batch.reading.get("sheet", ""), search_id=look_at.search.id or 0, source=look_at.search.source,
        number=look_at.search.number, run=look_at.run.number, run_on=look_at.run.run_on, announced=look_at.run.announced, records=look_at.filled["records"],
        with_others=look_at.with_others, filled=filled, problems=[Problem.model_validate(p) for p in look_at.problems],
        odd=[Odd.model_validate(o) for o in look_at.odd], suspicions=[Suspicion(**{**o, "places": [SuspectPlace(position=p, line=n) for p, n in o["places"]]}) for o in look_at.batch.odd],
    )  # fmt: skip


@router.post("/files/{batch}/read", status_code=202)
def read_again(batch: int, how: How, member: AsReviewer) -> Made:
    """Have a file read otherwise; the file that it is then."""
    return Made(id=gather.read_again(member.review, member.account, batch, how.model_dump()))


@router.get("/files/{batch}/original", response_class=StreamingResponse)
def original(batch: int, member: AsMember) -> StreamingResponse:
    """The file as it was uploaded."""
    name, data = gather.original(member.review, batch)
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    return StreamingResponse(data, media_type="application/octet-stream", headers=headers)


@router.get("/files/{batch}/entries/{position}")
def entry(batch: int, position: int, member: AsMember) -> Entry:
    """One record of a file, line by line beside what was understood."""
    entered = gather.entry_of(member.review, batch, position)
    return Entry(
        position=entered.position,
        line=entered.line,
        end_line=entered.end_line,
        title=entered.record.title,
        lines=[Line(**line._asdict()) for line in entered.lines],
        problems=[Problem.model_validate(p) for p in entered.problems],
    )


def _understood(filename: str, file: BinaryIO, known: list[str]) -> Dropped:
    looked = gather.looked_at(filename, file, LOOKED_AT)
    of, reading = gather.origin(filename, looked, known), looked.reading
    return Dropped(
        filename=filename, format=LABELS[reading.format], certainty=reading.certainty, records=reading.records,
        problems=sum(not problem.remark for problem in reading.problems), odd=len(looked.odd), source=of.source, kind=of.kind,
        dated=date.fromisoformat(of.dated) if of.dated else None, stem=of.stem, part=of.part,
    )  # fmt: skip


@router.post("/files/look", openapi_extra=ONE_FILE)
async def look_at_dropped(member: AsReviewer, request: Request) -> Dropped:
    """What a file is and where it seems to come from; nothing of it is kept."""
    known = await run_in_threadpool(gather.sources, member.review)
    async with receive(request, settings().max_upload) as (filename, file, run):
        found: Any = await run(_understood, filename, file, known)
        return Dropped.model_validate(found)


@router.post("/files/{batch}/take-in", status_code=204)
def take_in(batch: int, member: AsReviewer) -> None:
    """Take a file's records in."""
    gather.take_in(member.review, member.account, batch)


@router.post("/files/{batch}/set-aside", status_code=204)
def set_aside(batch: int, member: AsReviewer) -> None:
    """Set a file aside; its records leave the review."""
    gather.set_aside(member.review, member.account, batch)


@router.post("/files/{batch}/bring-back", status_code=204)
def bring_back(batch: int, member: AsReviewer) -> None:
    """Bring a file back that was set aside."""
    gather.bring_back(member.review, member.account, batch)
