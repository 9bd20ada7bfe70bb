"""Records as the wire has them, and lists of them: what every figure opens."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query
from pydantic import BaseModel

from kettlesort.api.access import AsMember
from kettlesort.core.record import Record
from kettlesort.store.records import Wanted
from kettlesort.work import screen

router = APIRouter(prefix="/api/reviews/{review}", tags=["records"])
State = Literal["open", "include", "exclude", "unsure"]
FullTextState = Literal["sought", "obtained", "missing"]


class RecordFields(BaseModel):
    kind: str
    title: str
    authors: list[str]
    year: int | None
    date: str
    journal: str
    journal_short: str
    volume: str
    issue: str
    pages: str
    doi: str
    accession: str
    issn: str
    abstract: str
    language: str
    keywords: list[str]
    url: str
    publisher: str
    references: list[str]
    note: str
    extra: list[list[str]]


def fields_of(record: Record) -> RecordFields:
    """A record for the wire."""
    return RecordFields.model_validate(record._asdict())


class Listed(BaseModel):
    id: int
    title: str
    authors: list[str]
    year: int | None
    journal: str
    rank: int | None
    closeness: float | None
    first: State
    fulltext: FullTextState
    second: State
    seed: bool
    has_abstract: bool
    copies: int
    origin: str
    reason: str


class Page(BaseModel):
    total: int
    of_copies: bool
    records: list[Listed]


class FilterValues(BaseModel):
    first: int | None
    last: int | None
    sources: list[str]


def _wanted(
    list: str = Query("all", max_length=300),
    source: str = Query("", max_length=200),
    year_from: int | None = Query(None, ge=0, le=9999),
    year_to: int | None = Query(None, ge=0, le=9999),
    abstract: bool | None = None,
    words: str = Query("", max_length=300),
    verdict: Literal["", "open", "include", "exclude", "unsure"] = "",
    criterion: int | None = None,
    pass_number: int = Query(1, ge=1, le=2),
    query: str = Query("", max_length=30_000),
) -> Wanted:
    return Wanted(list, source, year_from, year_to, abstract, words.replace("\x00", ""), verdict, criterion, pass_number, query)


Filter = Annotated[Wanted, Depends(_wanted)]


@router.get("/records")
def records(member: AsMember, wanted: Filter, offset: int = Query(0, ge=0, le=10_000_000), limit: int = Query(100, ge=1, le=500)) -> Page:
    """A page of a list of records, or of copies."""
    total, page = screen.records(member.review, wanted, offset, limit)
    return Page(total=total, of_copies=wanted.of_copies, records=[Listed.model_validate(it) for it in page])


@router.get("/filter-values")
def filter_values(member: AsMember) -> FilterValues:
    """What a filter can offer."""
    return FilterValues.model_validate(screen.filter_values(member.review))
