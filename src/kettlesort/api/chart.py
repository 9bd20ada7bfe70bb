"""Codebook and evidence table."""

from __future__ import annotations

import io
from datetime import datetime
from typing import Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.core.formats import table
from kettlesort.work import chart

router = APIRouter(prefix="/api/reviews/{review}", tags=["chart"])
Kind = Literal["text", "number", "date", "choice", "yesno", "events"]


class Item(BaseModel):
    id: int | None = None
    name: str = Field(max_length=120)
    kind: Kind
    unit: str = Field("", max_length=40)
    choices: list[str] = Field(default=[], max_length=200)
    instructions: str = Field("", max_length=4000)


class Codebook(BaseModel):
    """The codebook as it is to be, and as it was when the change was begun."""

    items: list[Item] = Field(max_length=1000)
    seen: list[Item] | None = Field(None, max_length=1000)


class Value(BaseModel):
    text: str
    quote: str
    page: str
    by: str
    at: datetime


class Report(BaseModel):
    record_id: int
    title: str


class Study(BaseModel):
    id: int
    label: str
    reports: list[Report]
    values: dict[int, Value]


class EvidenceTable(BaseModel):
    items: list[Item]
    studies: list[Study]


class Cell(BaseModel):
    study: int
    item: int
    text: str = Field(max_length=20_000)
    quote: str | None = Field(None, max_length=4000)
    page: str | None = Field(None, max_length=40)
    seen: str | None = Field(None, max_length=20_000)


class NotTaken(BaseModel):
    study: int
    item: int
    message: str
    theirs: str | None


class Label(BaseModel):
    label: str = Field(max_length=120)
    seen: str | None = Field(None, max_length=120)


class Link(BaseModel):
    study: int | None


@router.get("/codebook")
def codebook(member: AsMember) -> list[Item]:
    """The data items."""
    return [Item.model_validate(it, from_attributes=True) for it in chart.codebook(member.review)]


@router.put("/codebook", status_code=204)
def set_codebook(said: Codebook, member: AsReviewer) -> None:
    """Replace the codebook; what others changed meanwhile stays."""
    seen = None if said.seen is None else [_wording(it) for it in said.seen]
    chart.set_codebook(member.review, member.account, [_wording(it) for it in said.items], seen)


def _wording(it: Item) -> chart.ItemWording:
    return chart.ItemWording(it.id, it.name, it.kind, it.unit, it.choices, it.instructions)


@router.get("/evidence")
def evidence(member: AsMember) -> EvidenceTable:
    """Included studies and their values."""
    items, studies = chart.evidence_table(member.review)
    return EvidenceTable(
        items=[Item.model_validate(it, from_attributes=True) for it in items],
        studies=[
            Study(
                id=study.id,
                label=study.label,
                reports=[Report.model_validate(it) for it in study.reports],
                values={item: Value.model_validate(value) for item, value in study.values.items()},
            )
            for study in studies
        ],
    )


@router.put("/evidence/values")
def set_values(said: list[Cell], member: AsReviewer) -> list[NotTaken]:
    """Write cells; the answer names those that do not fit, which stay as they were."""
    cells = [chart.Typed(it.study, it.item, it.text, it.quote, it.page, it.seen) for it in said]
    return [NotTaken(**it._asdict()) for it in chart.set_values(member.review, member.account, cells)]


@router.get("/evidence/values/{study}/{item}")
def value_history(study: int, item: int, member: AsMember) -> list[Value]:
    """Who wrote what into a cell."""
    return [Value.model_validate(it) for it in chart.value_history(member.review, study, item)]


@router.put("/studies/{study}/label", status_code=204)
def rename(study: int, said: Label, member: AsReviewer) -> None:
    """Give a study a name of the team's own."""
    chart.rename_study(member.review, member.account, study, said.label, said.seen)


@router.put("/records/{record}/study", status_code=204)
def link(record: int, said: Link, member: AsReviewer) -> None:
    """Say which study a report belongs to."""
    chart.link_report(member.review, member.account, record, said.study)


@router.get("/evidence.csv", response_class=Response)
def as_csv(member: AsMember) -> Response:
    """The evidence table as CSV."""
    text = "\ufeff" + "".join(table.write_csv(chart.export_rows(member.review)))
    return Response(text, media_type="text/csv; charset=utf-8", headers={"Content-Disposition": 'attachment; filename="evidence.csv"'})


@router.get("/evidence.xlsx", response_class=Response)
def as_xlsx(member: AsMember) -> Response:
    """The evidence table as a workbook."""
    out = io.BytesIO()
    table.write_xlsx(chart.export_rows(member.review), out, "Evidence")
    return Response(
        out.getvalue(),
        media_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        headers={"Content-Disposition": 'attachment; filename="evidence.xlsx"'},
    )
