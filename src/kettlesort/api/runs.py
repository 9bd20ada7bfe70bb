"""Runs in connected catalogues, single records, and filling gaps: what comes from outside."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.gather import Made
from kettlesort.api.outside import asks_outside
from kettlesort.api.protocol import SourceKind
from kettlesort.api.records import RecordFields, fields_of
from kettlesort.api.uploads import ONE_FILE, receive
from kettlesort.settings import settings
from kettlesort.work import gaps, runs, single

router = APIRouter(prefix="/api/reviews/{review}", tags=["outside"])
Every = Literal["once", "daily", "weekly", "monthly"]


class RunWish(BaseModel):
    catalogue: int
    query: str = Field(min_length=1, max_length=30_000)
    query_version: int | None = Field(None, ge=1)
    every: Every = "once"
    search: int | None = None


class NearestWish(BaseModel):
    catalogue: int
    records: list[int] = Field(min_length=1, max_length=20)
    keep: int = Field(50, ge=1, le=200)


class RunBegun(BaseModel):
    search: int
    run: int


class ScheduleListed(BaseModel):
    id: int
    search_id: int
    number: int
    catalogue: str
    query: str
    query_version: int | None
    every: Every
    next_at: datetime | None
    stopped_at: datetime | None
    by: str


@router.post("/catalogue-runs", status_code=202)
@asks_outside
def begin(said: RunWish, member: AsReviewer) -> RunBegun:
    """Begin to fetch what a query finds in a catalogue, once or regularly."""
    search, run = runs.begin(
        member.review, member.account, runs.Wish(said.catalogue, said.query, said.query_version, said.every, said.search)
    )
    return RunBegun(search=search, run=run)


@router.post("/catalogue-runs/nearest", status_code=202)
def begin_nearest(said: NearestWish, member: AsReviewer) -> RunBegun:
    """Begin to look in a catalogue for what is most like some records; what is kept of it enters as a search of its own."""
    search, run = runs.begin_nearest(member.review, member.account, said.catalogue, said.records, said.keep)
    return RunBegun(search=search, run=run)


@router.post("/catalogue-runs/{run}/resume", status_code=204)
def resume(run: int, member: AsReviewer) -> None:
    """Take up a run where it stopped."""
    runs.resume(member.review, member.account, run)


@router.get("/schedules")
def schedules(member: AsMember) -> list[ScheduleListed]:
    """The planned runs."""
    return [ScheduleListed.model_validate(dict(schedule)) for schedule in runs.schedules(member.review)]


@router.post("/schedules/{schedule}/stop", status_code=204)
def stop(schedule: int, member: AsReviewer) -> None:
    """No more runs of a plan."""
    runs.stop(member.review, member.account, schedule)


@router.post("/schedules/{schedule}/go-on", status_code=204)
def go_on(schedule: int, member: AsReviewer) -> None:
    """The plan is in force again."""
    runs.stop(member.review, member.account, schedule, back=True)


class OneName(BaseModel):
    text: str = Field(min_length=1, max_length=300)


class OneFound(BaseModel):
    fields: RecordFields | None
    source: str
    here: int | None
    title: str
    problem: str


class OneRecord(BaseModel):
    source: str = Field("", max_length=200)
    source_kind: SourceKind = "citation"
    kind: str = Field("article", max_length=40)
    title: str = Field(max_length=3000)
    authors: list[str] = Field([], max_length=2000)
    year: int | None = Field(None, ge=1500, le=2099)
    journal: str = Field("", max_length=1000)
    volume: str = Field("", max_length=60)
    issue: str = Field("", max_length=60)
    pages: str = Field("", max_length=60)
    doi: str = Field("", max_length=300)
    accession: str = Field("", max_length=200)
    abstract: str = Field("", max_length=50_000)
    language: str = Field("", max_length=100)
    url: str = Field("", max_length=2000)
    label: str = Field("", max_length=100)


@router.post("/one/look-up")
@asks_outside
def look_up(said: OneName, member: AsReviewer) -> OneFound:
    """What a DOI or accession number stands for."""
    up = single.look_up(member.review, said.text)
    return OneFound(fields=fields_of(up.record) if up.record else None, source=up.source, here=up.here, title=up.title, problem=up.problem)


@router.post("/one/pdf", openapi_extra=ONE_FILE)
async def from_pdf(member: AsReviewer, request: Request) -> OneFound:
    """What a PDF seems to be about; nothing is kept."""
    async with receive(request, settings().max_upload) as (filename, file, run):
        record = await run(single.from_pdf, filename, file)
        return OneFound(fields=fields_of(record), source=filename, here=None, title=record.title, problem="")


@router.post("/one", status_code=201)
def add(said: OneRecord, member: AsReviewer) -> Made:
    """Take a single record in."""
    return Made(id=single.add(member.review, member.account, single.Typed(**said.model_dump())))


class GapProposal(BaseModel):
    id: int
    record_id: int
    title: str
    year: int | None
    field: str
    before: Any
    value: Any
    source: str


class GapStanding(BaseModel):
    records: int
    abstract: int
    doi: int
    authors: int
    proposals: list[GapProposal]


class ToAsk(BaseModel):
    records: list[int] = Field([], max_length=100_000)


class SomeGaps(BaseModel):
    gaps: list[int] = Field(min_length=1, max_length=5000)


class GapsTaken(BaseModel):
    supplements: list[int]


class PastedAbstract(BaseModel):
    text: str = Field(max_length=50_000)


class AbstractsRead(BaseModel):
    proposals: int
    missed: int


@router.get("/gaps")
def standing(member: AsMember) -> GapStanding:
    """How many records lack what, and what is proposed for them."""
    lacking = gaps.standing(member.review)
    return GapStanding(**lacking._asdict(), proposals=[GapProposal.model_validate(dict(one)) for one in gaps.proposals(member.review)])


@router.post("/gaps/look-up", status_code=202)
def look_up_gaps(said: ToAsk, member: AsReviewer) -> Made:
    """Have what records lack looked up in the background."""
    return Made(id=gaps.begin(member.review, member.account, said.records))


@router.post("/gaps/take")
def take(said: SomeGaps, member: AsReviewer) -> GapsTaken:
    """Take proposals."""
    return GapsTaken(supplements=gaps.take(member.review, member.account, said.gaps))


@router.post("/gaps/take-back", status_code=204)
def take_back(said: GapsTaken, member: AsReviewer) -> None:
    """Undo taking proposals."""
    gaps.take_back(member.review, member.account, said.supplements)


@router.post("/gaps/leave", status_code=204)
def leave(said: SomeGaps, member: AsReviewer) -> None:
    """Leave proposals."""
    gaps.leave(member.review, member.account, said.gaps)


@router.post("/gaps/back", status_code=204)
def leave_back(said: SomeGaps, member: AsReviewer) -> None:
    """Undo leaving proposals."""
    gaps.leave(member.review, member.account, said.gaps, back=True)


@router.post("/records/{record}/abstract")
def paste_abstract(record: int, said: PastedAbstract, member: AsReviewer) -> GapsTaken:
    """Give a record without abstract one."""
    return GapsTaken(supplements=[gaps.paste_abstract(member.review, member.account, record, said.text)])


@router.post("/gaps/abstracts", openapi_extra=ONE_FILE)
async def abstracts(member: AsReviewer, request: Request) -> AbstractsRead:
    """Abstracts from a file, proposed for the records that lack one."""
    async with receive(request, settings().max_upload) as (filename, file, run):
        made, missed = await run(gaps.from_file, member.review, filename, file)
        return AbstractsRead(proposals=made, missed=missed)
