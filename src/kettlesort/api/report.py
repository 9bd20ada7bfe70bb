"""Figures, flow diagram, history."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from datetime import datetime
from typing import Any, Literal
from urllib.parse import quote

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from kettlesort.api.access import AsMember
from kettlesort.api.files import CSV, csv_of, file_of
from kettlesort.core import picture
from kettlesort.core.flow import drawing as draw
from kettlesort.core.formats import table
from kettlesort.store.base import Row
from kettlesort.work import groups, report

router = APIRouter(prefix="/api/reviews/{review}", tags=["report"])
Drawing = Literal["ours", "standard"]


class Check(BaseModel):
    name: str
    sum: str
    expected: int
    counted: int
    holds: bool


class Figures(BaseModel):
    seeds: int
    found: int
    copies: int
    aside: int
    records: int
    questions: int
    open: int
    unsure: int
    differs: int
    decided: int
    excluded: int
    sought: int
    waiting: int
    missing: int
    assessed: int
    second_open: int
    reports_excluded: int
    included: int
    studies: int
    charted: int
    analyses: int
    adds_up: bool
    checks: list[Check]


class Event(BaseModel):
    id: int
    at: datetime
    by: str
    kind: str
    subject: str
    before: Any
    after: Any


class History(BaseModel):
    total: int
    events: list[Event]


@router.get("/figures")
def figures(member: AsMember, from_rows: bool = False) -> Figures:
    """All live figures, from one snapshot; with ``from_rows`` held against verdicts and full texts themselves."""
    live_figures = report.standing(member.review, from_rows=from_rows)
    f, t = live_figures.figures, live_figures.figures.total
    return Figures(
        seeds=f.seeds, found=t.found, copies=t.copies, aside=t.aside, records=t.records, questions=f.questions, open=t.open, unsure=t.unsure, differs=t.differs, decided=t.decided,
        excluded=t.excluded, sought=t.sought, waiting=t.waiting, missing=t.missing, assessed=t.assessed, second_open=t.second_open,
        reports_excluded=t.reports_excluded, included=t.included, studies=f.studies, charted=live_figures.charted, analyses=live_figures.analyses, adds_up=f.adds_up,
        checks=[Check(**check._asdict(), holds=check.holds) for check in f.checks],
    )  # fmt: skip


@router.get("/flow.svg", response_class=Response)
def flow_svg(member: AsMember, drawing: Drawing = "ours", summed: bool = False, screen: bool = False) -> Response:
    """The flow diagram as SVG: for a file, or with ``screen`` in the theme's colours and with links."""
    _, diagram = report.diagram(member.review, drawing, summed)
    if screen:
        text = draw.svg(diagram, picture.SCREEN, link=lambda key: f"/reviews/{member.review}/records?list={quote(key)}")
        return Response(text, media_type="image/svg+xml")
    return file_of(draw.svg(diagram), "image/svg+xml", "flow.svg")


@router.get("/flow.png", response_class=Response)
def flow_png(member: AsMember, drawing: Drawing = "ours", summed: bool = False) -> Response:
    """The flow diagram as PNG."""
    _, diagram = report.diagram(member.review, drawing, summed)
    return file_of(picture.png(draw.svg(diagram)), "image/png", "flow.png")


@router.get("/flow.pdf", response_class=Response)
def flow_pdf(member: AsMember, drawing: Drawing = "ours", summed: bool = False) -> Response:
    """The flow diagram as PDF."""
    _, diagram = report.diagram(member.review, drawing, summed)
    return file_of(picture.pdf(draw.svg(diagram)), "application/pdf", "flow.pdf")


@router.get("/flow.csv", response_class=Response)
def flow_csv(member: AsMember, drawing: Drawing = "ours", summed: bool = False) -> Response:
    """The figures of the flow diagram as CSV."""
    found, diagram = report.diagram(member.review, drawing, summed)
    one = groups.removed(member.review)
    removed: list[Sequence[object]] = [("Copies removed", f"by {name}", n) for name, n in one.by]
    removed += [("Copies removed", "within one source", one.within), ("Copies removed", "between sources", one.between)]
    return csv_of([*draw.rows(found, diagram), *removed], "flow.csv")


@router.get("/history")
def history(
    member: AsMember,
    before: int | None = None,
    limit: int = Query(100, ge=1, le=500),
    kind: str = Query("", max_length=60),
    account: int | None = None,
) -> History:
    """The history, newest first, from before an event on."""
    total, events = report.history(member.review, before, limit, kind, account)
    return History(total=total, events=[Event.model_validate(event) for event in events])


def _shown(value: Any) -> str:
    return "" if value is None else value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)


def _history_rows(events: Iterator[Row]) -> Iterator[list[str]]:
    yield ["when", "who", "what", "subject", "from", "to"]
    for event in events:
        yield [event["at"].isoformat(), event["by"], event["kind"], event["subject"], _shown(event["before"]), _shown(event["after"])]


@router.get("/history.csv", response_class=StreamingResponse)
def history_csv(member: AsMember) -> StreamingResponse:
    """The whole history as CSV."""

    def text() -> Iterator[str]:
        yield "\ufeff"
        yield from table.write_csv(_history_rows(report.all_history(member.review)))

    return StreamingResponse(text(), media_type=CSV, headers={"Content-Disposition": 'attachment; filename="history.csv"'})
