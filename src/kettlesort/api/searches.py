"""The search log."""

from __future__ import annotations

import io
from datetime import date, datetime
from typing import Any, Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.files import XLSX, csv_of, file_of
from kettlesort.api.gather import Made
from kettlesort.api.protocol import DOCX, SourceKind
from kettlesort.core import documents
from kettlesort.core.formats import table
from kettlesort.work import plan, searches

router = APIRouter(prefix="/api/reviews/{review}", tags=["gather"])


class RunEntry(BaseModel):
    query: str = Field("", max_length=100_000)
    run_on: date | None = None
    run_by: str = Field("", max_length=200)
    notes: str = Field("", max_length=10_000)
    announced: int | None = Field(None, ge=0, le=1_000_000_000)
    limits: str = Field("", max_length=2_000)
    query_version: int | None = Field(None, ge=1)


class SearchEntry(RunEntry):
    source: str = Field(max_length=200)
    kind: SourceKind


class RunChange(RunEntry):
    """A run as it is to be, and as it was when the change was begun."""

    seen: RunEntry | None = None


class SearchChange(SearchEntry):
    """An entry as it is to be, and as it was when the change was begun."""

    seen: SearchEntry | None = None


class Run(RunEntry):
    id: int
    number: int
    catalogue: str | None
    state: Literal["", "fetching", "done", "failed", "cancelled"]
    failure: str
    understood: list[Any]
    made_at: datetime
    files: int
    imported: int
    new: int
    fetched: int


class Search(SearchEntry):
    """An entry with its runs; what it says of a run is of the latest, sums are of all."""

    id: int
    number: int
    files: int
    imported: int
    waiting: int
    announced_in_all: int | None
    difference: int | None
    runs: list[Run]


def _search(logged: searches.Logged) -> Search:
    runs = [Run.model_validate(run, from_attributes=True) for run in map(_Row, logged.runs)]
    latest = runs[-1].model_dump(include=set(RunEntry.model_fields)) if runs else {}
    return Search(
        **{**latest, "notes": logged.notes}, id=logged.id, number=logged.number, source=logged.source, kind=logged.kind, files=logged.files, imported=logged.imported, waiting=logged.waiting,
        announced_in_all=logged.announced, difference=logged.difference, runs=runs,
    )  # fmt: skip


class _Row:
    """A row's columns as attributes."""

    def __init__(self, row: Any) -> None:
        self.__dict__.update(row)


@router.get("/searches")
def search_log(member: AsMember) -> list[Search]:
    """The search log."""
    return [_search(logged) for logged in searches.search_log(member.review)]


@router.post("/searches", status_code=201)
def write_search(said: SearchEntry, member: AsReviewer) -> Made:
    """Write an entry of the search log with its first run."""
    return Made(id=searches.write_search(member.review, member.account, searches.SearchEntry(**said.model_dump())))


@router.get("/searches.csv", response_class=Response)
def log_csv(member: AsMember) -> Response:
    """The search log as CSV, a row for each run."""
    return csv_of(searches.log_table(member.review), "search-log.csv")


@router.get("/searches.xlsx", response_class=Response)
def log_xlsx(member: AsMember) -> Response:
    """The search log as a workbook."""
    out = io.BytesIO()
    table.write_xlsx(searches.log_table(member.review), out, "Search log")
    return file_of(out.getvalue(), XLSX, "search-log.xlsx")


@router.get("/search-appendix.md", response_class=Response)
def appendix_md(member: AsMember) -> Response:
    """The search appendix as Markdown."""
    blocks = searches.appendix(member.review, plan.title_of(member.review))
    return file_of(documents.markdown(blocks).encode(), "text/markdown; charset=utf-8", "search-appendix.md")


@router.get("/search-appendix.docx", response_class=Response)
def appendix_docx(member: AsMember) -> Response:
    """The search appendix as DOCX."""
    blocks = searches.appendix(member.review, plan.title_of(member.review))
    return file_of(documents.docx_file(blocks), DOCX, "search-appendix.docx")


@router.put("/searches/{search}", status_code=204)
def change_search(search: int, said: SearchChange, member: AsReviewer) -> None:
    """Change an entry and its latest run; what others changed meanwhile stays."""
    seen = searches.SearchEntry(**said.seen.model_dump()) if said.seen else None
    searches.write_search(member.review, member.account, searches.SearchEntry(**said.model_dump(exclude={"seen"})), search, seen)


@router.delete("/searches/{search}", status_code=204)
def remove_search(search: int, member: AsReviewer) -> None:
    """Take an entry without files out of the log."""
    searches.remove_search(member.review, member.account, search)


@router.post("/searches/{search}/back", status_code=204)
def bring_search_back(search: int, member: AsReviewer) -> None:
    """Undo taking an entry out."""
    searches.remove_search(member.review, member.account, search, back=True)


@router.post("/searches/{search}/runs", status_code=201)
def write_run(search: int, said: RunEntry, member: AsReviewer) -> Made:
    """Write down that a search was done again."""
    return Made(id=searches.write_run(member.review, member.account, search, searches.RunEntry(**said.model_dump())))


@router.put("/searches/{search}/runs/{run}", status_code=204)
def change_run(search: int, run: int, said: RunChange, member: AsReviewer) -> None:
    """Change a run; what others changed meanwhile stays."""
    seen = searches.RunEntry(**said.seen.model_dump()) if said.seen else None
    searches.write_run(member.review, member.account, search, searches.RunEntry(**said.model_dump(exclude={"seen"})), run, seen)


@router.delete("/searches/{search}/runs/{run}", status_code=204)
def remove_run(search: int, run: int, member: AsReviewer) -> None:
    """Take a run without files out of the log."""
    searches.remove_run(member.review, member.account, search, run)
