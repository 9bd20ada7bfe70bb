"""The evidence table."""

from __future__ import annotations

import io
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.codebook import CodebookText, text_of
from kettlesort.api.files import XLSX, csv_of, file_of
from kettlesort.core.charting.items import Factor
from kettlesort.store.base import Row
from kettlesort.work import chart, evidence_out, studies
from kettlesort.work.double import Levels

router = APIRouter(prefix="/api/reviews/{review}", tags=["chart"])
Number = Annotated[int, Field(ge=1, lt=2**63)]


class AtLevels(BaseModel):
    """The levels that a cell is of."""

    arm: Number | None = None
    outcome: Number | None = None
    time: Number | None = None

    @property
    def levels(self) -> Levels:
        """As a tuple."""
        return self.arm, self.outcome, self.time


def at_levels(
    arm: Annotated[int | None, Query(ge=1, lt=2**63)] = None,
    outcome: Annotated[int | None, Query(ge=1, lt=2**63)] = None,
    time: Annotated[int | None, Query(ge=1, lt=2**63)] = None,
) -> Levels:
    """The levels of a cell, from an address."""
    return arm, outcome, time


AtAddress = Annotated[Levels, Depends(at_levels)]


Given = Annotated[float, Field(allow_inf_nan=False)]


class WorkedOutFrom(BaseModel):
    """What a value is worked out from: other numbers of its group, two measurements of it (with the correlation that is assumed), or arms."""

    way: Literal["group", "change", "arms", "log_ratio", "log_se", "difference_se"]
    givens: dict[str, Given] = Field(default={}, max_length=20)
    arms: list[Number] = Field(default=[], max_length=50)
    by: str = ""


class Value(BaseModel):
    """A value that a cell has or had."""

    text: str
    quote: str
    page: str
    how: str
    model: str
    unfit: str
    derived: WorkedOutFrom | None
    by: str
    at: datetime
    record: int | None
    own: bool


class Report(BaseModel):
    """A report of a study; ``file`` is the number of its PDF."""

    record_id: int
    title: str
    file: int | None
    filename: str | None


class Study(BaseModel):
    id: int
    label: str
    reports: list[Report]


class StudyLevel(BaseModel):
    """An arm, an outcome or a time point of all studies, or of one."""

    id: int
    study: int | None
    factor: Factor
    name: str


class StandingValues(BaseModel):
    """Values that stand, a list for each of their parts, as there may be very many: how each is shown if not as it was typed, the figure that it is sorted
    by, the language model that proposed it, and whether it is what the person read for themselves: until the other one has read ("one"), or while they differ ("differs")."""

    study: list[int]
    item: list[int]
    arm: list[int | None]
    outcome: list[int | None]
    time: list[int | None]
    text: list[str]
    shown: list[str | None]
    number: list[float | None]
    quoted: list[bool]
    how: list[str]
    model: list[str]
    unfit: list[str]
    read: list[str]


class EvidenceTable(BaseModel):
    """``upto`` is the number of the last value; what comes after it can be asked for."""

    codebook: CodebookText
    levels: list[StudyLevel]
    studies: list[Study]
    values: StandingValues
    upto: int


class Cell(AtLevels):
    study: Number
    item: Number
    text: str = Field(max_length=20_000)
    quote: str | None = Field(None, max_length=4000)
    page: str | None = Field(None, max_length=40)
    seen: str | None = Field(None, max_length=20_000)
    how: Literal["typed", "pasted", "marked", "derived"] = "typed"
    record: Number | None = None
    back: bool | None = None
    """What is taken back comes as it last stood there, with its words and how it came."""


class WorkOut(AtLevels):
    """A cell that is to be worked out from other numbers."""

    study: Number
    item: Number
    source: WorkedOutFrom


class WorkedOutValue(BaseModel):
    text: str
    by: str
    doubts: list[str]
    """What of the numbers does not go together, for a person to look at."""


class TableView(BaseModel):
    """How a person likes to see the table: columns by item, and the factors whose levels are rows."""

    hidden: list[int] = Field(default=[], max_length=1000)
    pinned: list[int] = Field(default=[], max_length=1000)
    order: list[int] = Field(default=[], max_length=1000)
    widths: dict[int, Annotated[int, Field(ge=40, le=1000)]] = Field(default={}, max_length=1000)
    rows: list[Factor] = Field(default=["outcome", "time"], max_length=3)
    pane: int = Field(480, ge=0, le=2000)


class NotTaken(AtLevels):
    study: int
    item: int
    message: str
    theirs: str | None


class Label(BaseModel):
    label: str = Field(max_length=120)
    seen: str | None = Field(None, max_length=120)


class OfOneStudy(BaseModel):
    """A report that may be of the same study as another."""

    record: int
    study: int
    label: str
    title: str
    authors: list[str]
    year: int | None


class MayBelongTogether(BaseModel):
    """Two reports that may be of one study, and what speaks for it; if values are charted for both, the same participants may be counted twice."""

    left: OfOneStudy
    right: OfOneStudy
    why: list[str]
    both_charted: bool


class ToldApart(BaseModel):
    """Two reports of different studies, by their records."""

    left: Number
    right: Number


class Link(BaseModel):
    study: int | None


def told(some: list[chart.NotTaken]) -> list[NotTaken]:
    """What could not be taken, as it goes over the wire."""
    return [
        NotTaken(study=taken.study, item=taken.item, arm=taken.levels[0], outcome=taken.levels[1], time=taken.levels[2], message=taken.message, theirs=taken.theirs) for taken in some
    ]  # fmt: skip


@router.get("/evidence", response_model=EvidenceTable)
def evidence(member: AsMember, since: Annotated[int, Query(ge=0, lt=2**63)] = 0) -> Response:
    """Included studies and their values, or what was written after the value ``since``."""
    table = chart.evidence_table(member.review, member.account, since)
    said = EvidenceTable(
        codebook=text_of(table.book),
        levels=[StudyLevel(id=one.id or 0, study=one.study_id, factor=one.factor, name=one.name) for one in table.levels],
        studies=[
            Study(
                id=study.id,
                label=study.label,
                reports=[Report(record_id=one["record_id"], title=one["title"], file=one["file"], filename=one["filename"]) for one in study.reports],
            )
            for study in table.studies
        ],
        values=StandingValues(
            study=[v.study for v in table.values],
            item=[v.item for v in table.values],
            arm=[v.levels[0] for v in table.values],
            outcome=[v.levels[1] for v in table.values],
            time=[v.levels[2] for v in table.values],
            text=[v.text for v in table.values],
            shown=[v.shown for v in table.values],
            number=[v.number for v in table.values],
            quoted=[v.quoted for v in table.values],
            how=[v.how for v in table.values],
            model=[v.model for v in table.values],
            unfit=[v.unfit for v in table.values],
            read=[v.read for v in table.values],
        ),
        upto=table.upto,
    )  # fmt: skip
    return Response(said.model_dump_json(), media_type="application/json")  # what is so large is not looked through once more


@router.put("/evidence/values")
def set_values(said: Annotated[list[Cell], Field(max_length=50_000)], member: AsReviewer) -> list[NotTaken]:
    """Write cells; the answer names those that do not fit, which stay as they were."""
    return told(chart.set_values(member.review, member.account, _typed(said)))


@router.post("/evidence/fitting")
def fitting(said: Annotated[list[Cell], Field(max_length=50_000)], member: AsReviewer) -> list[NotTaken]:
    """What of some cells could not be taken, before they are written."""
    return told(chart.fitting(member.review, _typed(said)))


def _typed(said: list[Cell]) -> list[chart.Typed]:
    return [
        chart.Typed(
            cell.study, cell.item, cell.text, cell.quote, cell.page, cell.seen, cell.levels, cell.how, cell.record, back=bool(cell.back)
        )
        for cell in said
    ]


@router.post("/evidence/derived/preview")
def preview_worked_out(said: WorkOut, member: AsMember) -> WorkedOutValue:
    """What a cell comes to, by which formula, and what does not go together."""
    one = chart.worked_out(member.review, _cell(said))
    return WorkedOutValue(text=one.text, by=one.by, doubts=list(one.doubts))


@router.put("/evidence/derived")
def set_worked_out(said: WorkOut, member: AsReviewer) -> list[NotTaken]:
    """Write a cell as it is worked out; what it is worked out from stays with it."""
    return told(chart.set_worked_out(member.review, member.account, _cell(said)))


def _cell(said: WorkOut) -> chart.Typed:
    return chart.Typed(said.study, said.item, "", levels=said.levels, derived=said.source.model_dump(exclude={"by"}))


@router.get("/evidence/view")
def table_view(member: AsMember) -> TableView:
    """How one likes to see the table."""
    return TableView.model_validate(chart.view_of(member.review, member.account))


@router.put("/evidence/view", status_code=204)
def set_table_view(said: TableView, member: AsMember) -> None:
    """Keep how one likes to see the table."""
    chart.set_view(member.review, member.account, said.model_dump(mode="json"))


@router.get("/evidence/values/{study}/{item}")
def value_history(study: int, item: int, member: AsMember, said: AtAddress) -> list[Value]:
    """Who wrote what into a cell."""
    return [Value.model_validate(row) for row in chart.value_history(member.review, study, item, said, member.account)]


@router.put("/studies/{study}/label", status_code=204)
def rename(study: int, said: Label, member: AsReviewer) -> None:
    """Give a study a name of the team's own."""
    studies.rename_study(member.review, member.account, study, said.label, said.seen)


@router.put("/records/{record}/study", status_code=204)
def link(record: int, said: Link, member: AsReviewer) -> None:
    """Say which study a report belongs to."""
    studies.link_report(member.review, member.account, record, said.study)


@router.get("/reports-together")
def reports_together(member: AsMember) -> list[MayBelongTogether]:
    """Reports that may be of one study."""

    def side(row: Row, label: str) -> OfOneStudy:
        return OfOneStudy(
            record=row["record_id"], study=row["study_id"], label=label, title=row["title"], authors=row["authors"], year=row["year"]
        )

    return [
        MayBelongTogether(
            left=side(pair.left, pair.labels[0]), right=side(pair.right, pair.labels[1]), why=list(pair.why), both_charted=pair.both_charted
        )
        for pair in studies.together(member.review)
    ]


@router.put("/reports-together/apart", status_code=204)
def tell_apart(said: ToldApart, member: AsReviewer) -> None:
    """Say that two reports are of different studies."""
    studies.tell_apart(member.review, member.account, said.left, said.right)


@router.put("/reports-together/unsaid", status_code=204)
def not_told_apart(said: ToldApart, member: AsReviewer) -> None:
    """Take back that two reports are of different studies."""
    studies.tell_apart(member.review, member.account, said.left, said.right, back=True)


@router.get("/evidence.csv", response_class=Response)
def as_csv(member: AsMember) -> Response:
    """The evidence table as CSV."""
    return csv_of(evidence_out.export_rows(member.review), "evidence.csv")


@router.get("/evidence-long.csv", response_class=Response)
def as_long_csv(member: AsMember) -> Response:
    """The values one a row, taken apart into figures, as CSV."""
    return csv_of(evidence_out.long_rows(member.review), "evidence-long.csv")


@router.get("/evidence.xlsx", response_class=Response)
def as_xlsx(member: AsMember) -> Response:
    """The evidence table as a workbook: a sheet for each shape, quotes as comments."""
    out = io.BytesIO()
    evidence_out.write_workbook(member.review, out)
    return file_of(out.getvalue(), XLSX, "evidence.xlsx")
