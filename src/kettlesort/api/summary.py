"""The summary table: outcomes with what they mean for a thousand and how sure they are."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.chart import Number
from kettlesort.api.files import csv_of, file_of
from kettlesort.api.pool_wire import PooledEstimate, estimate_out
from kettlesort.api.protocol import DOCX
from kettlesort.core import documents
from kettlesort.work import summary as work
from kettlesort.work.summary import Doubt, RowWording, SummaryWording

router = APIRouter(prefix="/api/reviews/{review}/summary", tags=["pool"])


class DoubtText(BaseModel):
    """How much doubt a domain leaves, and why."""

    domain: str = Field(max_length=200)
    doubt: Literal["none", "some", "serious"] = "none"
    why: str = Field("", max_length=3000)


class SummaryRowText(BaseModel):
    """A row: its analysis, of how many in 1,000 its absolute effect counts (nothing: the usual), doubts, certainty, note."""

    analysis: Number
    baseline: Annotated[float, Field(gt=0, lt=1000)] | None = None
    doubts: list[DoubtText] = Field([], max_length=100)
    certainty: str = Field("", max_length=200)
    note: str = Field("", max_length=3000)


class SummaryText(BaseModel):
    """A summary table: words of certainty, the surest first, domains of doubt, rows."""

    words: list[str] = Field(max_length=100)
    domains: list[str] = Field(max_length=100)
    rows: list[SummaryRowText] = Field(max_length=100)


class SetSummary(BaseModel):
    """Another version of the table, made from the version ``seen`` (0: there was none)."""

    table: SummaryText
    seen: int


class AbsoluteEffect(BaseModel):
    """Of 1,000 without, of 1,000 with, and the difference with its interval."""

    baseline: float
    risk: float
    more: float
    low: float
    high: float


class SummaryFigures(BaseModel):
    """A row's figures, or why there are none; ``usual`` baseline, and the certainty that its doubts lead to."""

    analysis: int
    name: str
    measure: str
    k: int
    people: float
    pooled: PooledEstimate | None
    absolute: AbsoluteEffect | None
    usual: float | None
    led_to: str
    problem: str


class OtherAnalysis(BaseModel):
    id: int
    name: str


class SummaryTable(BaseModel):
    """The table as it stands, with its figures as they are now, and the analyses that have no row."""

    version: int
    by: str
    table: SummaryText
    rows: list[SummaryFigures]
    others: list[OtherAnalysis]


@router.get("")
def summary(member: AsMember) -> SummaryTable:
    """The summary table with its figures as they are now."""
    found = work.summary(member.review)
    return SummaryTable(
        version=found.version, by=found.by, table=SummaryText.model_validate(work.as_data(found.said)),
        rows=[
            SummaryFigures(
                analysis=row.said.analysis, name=row.name, measure=row.wording.measure if row.wording else "", k=row.k, people=row.people,
                pooled=estimate_out(row.pooled.pooled, row.wording.how.ratio) if row.pooled and row.wording else None,
                absolute=AbsoluteEffect(**row.absolute._asdict()) if row.absolute else None, usual=row.usual, led_to=row.led_to, problem=row.problem,
            )
            for row in found.rows
        ],
        others=[OtherAnalysis(id=number, name=name) for number, name in found.others],
    )  # fmt: skip


@router.put("", status_code=204)
def set_summary(said: SetSummary, member: AsReviewer) -> None:
    """Keep another version of the table."""
    table = said.table
    rows = tuple(
        RowWording(
            row.analysis, row.baseline, tuple(Doubt(doubt.domain, doubt.doubt, doubt.why) for doubt in row.doubts), row.certainty, row.note
        )
        for row in table.rows
    )
    work.keep(member.review, member.account, SummaryWording(tuple(table.words), tuple(table.domains), rows), said.seen)


@router.get(".csv", response_class=Response)
def as_csv(member: AsMember) -> Response:
    """The table as CSV."""
    return csv_of(work.table_rows(member.review), "summary.csv")


@router.get(".docx", response_class=Response)
def as_docx(member: AsMember) -> Response:
    """The table as DOCX, with the reasons below it."""
    return file_of(documents.docx_file(work.blocks(member.review)), DOCX, "summary.docx")
