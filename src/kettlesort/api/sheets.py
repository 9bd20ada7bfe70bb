"""Lists that go out as spreadsheets and come back in with decisions."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.files import file_of
from kettlesort.api.records import KINDS, Filter
from kettlesort.api.uploads import ONE_FILE, receive
from kettlesort.work import sheets

router = APIRouter(prefix="/api/reviews/{review}/sheet", tags=["screen"])
LARGEST = 50_000_000


class SheetChange(BaseModel):
    line: int
    record: int
    title: str
    before: str
    verdict: str
    criterion: int | None
    reason: str
    note_before: str
    note: str | None


class WrongRow(BaseModel):
    line: int
    message: str


class SheetLooked(BaseModel):
    changes: list[SheetChange]
    same: int
    wrong: list[WrongRow]


class SheetRow(BaseModel):
    record: int
    verdict: Literal["", "include", "exclude", "unsure"] = ""
    criterion: int | None = None
    note: str | None = Field(None, max_length=10_000)


class SheetRows(BaseModel):
    pass_number: Literal[1, 2]
    rows: list[SheetRow] = Field(max_length=sheets.AT_ONCE)


class RefusedRow(BaseModel):
    record: int
    message: str


class SheetTaken(BaseModel):
    records: list[int]
    refused: list[RefusedRow]


@router.get("", response_class=Response)
def out(member: AsMember, wanted: Filter) -> Response:
    """A list as a workbook with columns for decision, reason and note."""
    data = sheets.out(member.review, member.account, wanted.pass_number, wanted)
    return file_of(data, KINDS["xlsx"], "to-decide.xlsx")


@router.post("", openapi_extra=ONE_FILE)
async def look(member: AsReviewer, request: Request, pass_number: int = Query(1, ge=1, le=2)) -> SheetLooked:
    """What a sheet that came back would change."""
    async with receive(request, LARGEST) as (_, file, run):
        looked: Any = await run(sheets.look, member.review, member.account, pass_number, file)
    return SheetLooked(
        changes=[SheetChange.model_validate(one._asdict()) for one in looked.changes], same=looked.same, wrong=[WrongRow.model_validate(one._asdict()) for one in looked.wrong]
    )  # fmt: skip


@router.post("/rows")
def take_in(said: SheetRows, member: AsReviewer) -> SheetTaken:
    """Take rows of a sheet in."""
    rows = [sheets.Taken(row.record, row.verdict, row.criterion, row.note) for row in said.rows]
    done = sheets.take_in(member.review, member.account, said.pass_number, rows)
    return SheetTaken(records=done.records, refused=[RefusedRow(record=record, message=why) for record, why in done.refused])
