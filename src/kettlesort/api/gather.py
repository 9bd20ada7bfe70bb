"""Search log, files, seeds."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.protocol import SourceKind
from kettlesort.api.uploads import ONE_FILE, receive
from kettlesort.settings import settings
from kettlesort.work import gather

router = APIRouter(prefix="/api/reviews/{review}", tags=["gather"])
State = Literal["waiting", "reading", "read", "failed", "taken", "aside"]


class SearchEntry(BaseModel):
    source: str = Field(max_length=200)
    kind: SourceKind
    query: str = Field("", max_length=100_000)
    run_on: date | None = None
    run_by: str = Field("", max_length=200)
    notes: str = Field("", max_length=10_000)
    announced: int | None = Field(None, ge=0, le=1_000_000_000)
    limits: str = Field("", max_length=2_000)


class Search(SearchEntry):
    id: int
    number: int
    files: int
    imported: int


class Made(BaseModel):
    id: int


class File(BaseModel):
    id: int
    search_id: int
    filename: str
    state: State
    format: str
    encoding: str
    failure: str
    uploaded_at: datetime
    source: str
    number: int
    announced: int | None
    run_on: date | None
    records: int
    problems: int
    with_others: int


class Problem(BaseModel):
    line: int
    message: str


class Odd(BaseModel):
    position: int
    line: int
    lacks: list[str]


class Look(BaseModel):
    id: int
    filename: str
    state: State
    format: str
    encoding: str
    sure: bool
    failure: str
    search_id: int
    source: str
    number: int
    run_on: date | None
    announced: int | None
    records: int
    with_others: int
    filled: dict[str, int]
    problems: list[Problem]
    odd: list[Odd]


class Line(BaseModel):
    number: int
    text: str
    field: str
    value: str
    odd: str


class Entry(BaseModel):
    position: int
    line: int
    end_line: int
    title: str
    lines: list[Line]
    problems: list[Problem]


@router.get("/searches")
def searches(member: AsMember) -> list[Search]:
    """The search log."""
    return [Search.model_validate(it) for it in gather.search_log(member.review)]


@router.post("/searches", status_code=201)
def write_search(said: SearchEntry, member: AsReviewer) -> Made:
    """Write an entry of the search log."""
    return Made(id=gather.write_search(member.review, member.account, gather.SearchEntry(**said.model_dump())))


@router.put("/searches/{search}", status_code=204)
def change_search(search: int, said: SearchEntry, member: AsReviewer) -> None:
    """Change an entry."""
    gather.write_search(member.review, member.account, gather.SearchEntry(**said.model_dump()), search)


@router.delete("/searches/{search}", status_code=204)
def remove_search(search: int, member: AsReviewer) -> None:
    """Take an entry without files out of the log."""
    gather.remove_search(member.review, member.account, search)


@router.post("/searches/{search}/back", status_code=204)
def bring_search_back(search: int, member: AsReviewer) -> None:
    """Undo taking an entry out."""
    gather.remove_search(member.review, member.account, search, back=True)


@router.get("/files")
def files(member: AsMember) -> list[File]:
    """All uploaded files."""
    return [File.model_validate(it) for it in gather.files(member.review)]


@router.post(
    "/searches/{search}/files",
    status_code=201,
    openapi_extra=ONE_FILE,
)
async def upload(search: int, member: AsReviewer, request: Request) -> Made:
    """Upload a file for a search; it is read in the background."""
    async with receive(request, settings().max_upload) as (filename, file, run):
        return Made(id=await run(gather.upload, member.review, member.account, search, filename, file))


@router.get("/files/{batch}")
def look(batch: int, member: AsMember) -> Look:
    """What a file was read as."""
    it = gather.look_at(member.review, batch)
    filled = {name: n for name, n in it.filled.items() if name != "records"}
    return Look(
        id=batch, filename=it.batch.filename, state=it.batch.state, format=it.batch.format, encoding=it.batch.encoding, sure=it.batch.sure,
        failure=it.batch.failure, search_id=it.search.id or 0, source=it.search.source, number=it.search.number, run_on=it.search.run_on,
        announced=it.search.announced, records=it.filled["records"], with_others=it.with_others, filled=filled,
        problems=[Problem.model_validate(p) for p in it.problems], odd=[Odd.model_validate(o) for o in it.odd],
    )  # fmt: skip


@router.get("/files/{batch}/entries/{position}")
def entry(batch: int, position: int, member: AsMember) -> Entry:
    """One record of a file, line by line beside what was understood."""
    it = gather.entry_of(member.review, batch, position)
    return Entry(
        position=it.position,
        line=it.line,
        end_line=it.end_line,
        title=it.record.title,
        lines=[Line(**line._asdict()) for line in it.lines],
        problems=[Problem.model_validate(p) for p in it.problems],
    )


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
