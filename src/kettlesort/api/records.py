"""Records as the wire has them, and lists of them: what every figure opens."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Query, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.files import CSV, XLSX, streamed
from kettlesort.core.formats import suffix_of
from kettlesort.core.record import Record
from kettlesort.core.screening import in_words, mark
from kettlesort.core.screening.lists import SECOND, keyed
from kettlesort.store.records import Wanted
from kettlesort.work import labels as labelling
from kettlesort.work import records as lists

router = APIRouter(prefix="/api/reviews/{review}", tags=["records"])
State = Literal["open", "include", "exclude", "unsure", "differs", "aside"]
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
    state: str
    mark: State
    mine: State | None
    seed: bool
    has_abstract: bool
    copies: int
    origin: str
    reason: str
    doi: str
    kind: str
    language: str
    accession: str
    labels: list[str]
    sources: list[str]


class Page(BaseModel):
    total: int
    of_copies: bool
    records: list[Listed]


def _listed(row: Mapping[str, Any]) -> Listed:
    stands = row["first"], row["fulltext"], row["second"]
    return Listed.model_validate({**row, "state": in_words(*stands, row["reason"]), "mark": mark(*stands)})


class Choice(BaseModel):
    value: str
    title: str


class ListShown(BaseModel):
    """A list: its heading, whether it is of copies, of the second pass, of what is set aside; and the lists to choose from."""

    heading: str
    of_copies: bool
    second: bool
    aside: bool
    offered: list[Choice]


def _wanted(
    list: str = Query("all", max_length=300),
    source: str = Query("", max_length=200),
    year_from: int | None = Query(None, ge=0, le=9999),
    year_to: int | None = Query(None, ge=0, le=9999),
    abstract: bool | None = None,
    words: str = Query("", max_length=300),
    verdict: Literal["", "open", "include", "exclude", "unsure", "differs"] = "",
    criterion: int | None = None,
    pass_number: int | None = Query(None, ge=1, le=2),
    query: str = Query("", max_length=30_000),
    typed: str = Query("", max_length=300),
    label: int | None = None,
    kind: str = Query("", max_length=40),
    language: str = Query("", max_length=100),
    doi: bool | None = None,
    pdf: bool | None = None,
    descriptor: str = Query("", max_length=300),
    shared: int | None = Query(None, ge=0, le=100),
    shared_qualified: int | None = Query(None, ge=0, le=100),
    person: int | None = Query(None, ge=0, lt=2**63),
    order: int = Query(0, ge=0, lt=2**63),
) -> Wanted:
    pass_number = pass_number or (2 if keyed(list)[0] in SECOND else 1)
    return Wanted(
        list, source, year_from, year_to, abstract, words, verdict, criterion, pass_number, query, typed, label, kind, language, doi, pdf, descriptor, shared, shared_qualified, person, order=order
    )  # fmt: skip


Filter = Annotated[Wanted, Depends(_wanted)]


@router.get("/records")
def records(member: AsMember, wanted: Filter, offset: int = Query(0, ge=0, le=10_000_000), limit: int = Query(100, ge=1, le=500)) -> Page:
    """A page of a list of records, or of copies."""
    total, page = lists.page_of(member.review, wanted, offset, limit)
    return Page(total=total, of_copies=wanted.of_copies, records=[_listed(entry) for entry in page])


@router.get("/lists")
def list_shown(member: AsMember, list: str = Query("all", max_length=300)) -> ListShown:
    """What a list is called and holds, and the lists that can be chosen."""
    shown, offered = lists.shown_as(member.review, list)
    choices = {**({} if list in offered else {list: shown.heading}), **offered}
    return ListShown(**shown._asdict(), offered=[Choice(value=value, title=title) for value, title in choices.items()])


class ValueCount(BaseModel):
    value: str
    n: int


@router.get("/records/divided")
def divided(member: AsMember, wanted: Filter) -> dict[str, list[ValueCount]]:
    """What the records of a list divide into, each value with its count."""
    return {name: [ValueCount(value=value, n=n) for value, n in found] for name, found in lists.divided(member.review, wanted).items()}


@router.get("/records/ids")
def ids(member: AsMember, wanted: Filter) -> list[int]:
    """The records of a list, all of them, in its order."""
    return lists.ids_of(member.review, wanted)


WriteFormat = Literal["ris", "nbib", "bibtex", "csv", "xlsx", "csljson"]
KINDS = {
    "ris": "application/x-research-info-systems", "nbib": "text/plain; charset=utf-8", "bibtex": "text/plain; charset=utf-8",
    "csv": CSV, "xlsx": XLSX, "csljson": "application/json",
}  # fmt: skip


class Chosen(BaseModel):
    """Records of a list: picked ones, or all that the filter leaves."""

    records: list[int] = Field([], max_length=200_000)
    columns: list[str] = Field([], max_length=60)


class LossSaid(BaseModel):
    field: str
    records: int
    before: str
    after: str


class Losses(BaseModel):
    looked_at: int
    losses: list[LossSaid]


def _chosen(wanted: Wanted, chosen: Chosen) -> Wanted:
    return replace(wanted, chosen=tuple(chosen.records))


@router.post("/records/export", response_class=Response)
def export(member: AsMember, wanted: Filter, chosen: Chosen, to: WriteFormat = "ris") -> Response:
    """Records as a file, with where each came from."""
    one = lists.export(member.review, _chosen(wanted, chosen), to, chosen.columns)
    return streamed(one.file, KINDS[to], f'attachment; filename="records.{suffix_of(to)}"', **{"X-Records": str(one.records)})


@router.post("/records/losses")
def losses(member: AsMember, wanted: Filter, chosen: Chosen, to: WriteFormat = "ris") -> Losses:
    """What a format cannot hold of these records."""
    n, found = lists.losses(member.review, _chosen(wanted, chosen), to)
    return Losses(looked_at=n, losses=[LossSaid(**loss._asdict()) for loss in found])


class CopyOfRecord(BaseModel):
    id: int
    source: str
    number: int
    run: int
    query_version: int | None
    batch_id: int
    filename: str
    line: int
    position: int
    labels: list[str]
    raw: str
    fields: RecordFields


class Happened(BaseModel):
    at: datetime
    by: str
    what: str
    detail: str


class LabelNamed(BaseModel):
    id: int
    name: str


class WholeRecord(BaseModel):
    id: int
    fields: RecordFields
    whose: dict[str, int]
    filled: dict[str, str]
    first: State
    fulltext: FullTextState
    second: State
    state: str
    mark: State
    seed: bool
    narrowing: str
    labels: list[LabelNamed]
    copies: list[CopyOfRecord]
    history: list[Happened]


@router.get("/records/{record}/whole")
def whole(record: int, member: AsMember) -> WholeRecord:
    """One record with its copies as they came and its history."""
    found = lists.whole(member.review, record)
    stands = found.standing["first"], found.standing["fulltext"], found.standing["second"]
    return WholeRecord(
        id=record, state=in_words(*stands), mark=mark(*stands), fields=fields_of(found.record), whose=found.whose, filled=found.filled, first=found.standing["first"], fulltext=found.standing["fulltext"],
        second=found.standing["second"], seed=found.standing["seed"], narrowing=found.narrowing, labels=[LabelNamed.model_validate(dict(one)) for one in found.labels],
        copies=[
            CopyOfRecord.model_validate({**dict(one.origin), "id": one.id, "raw": one.raw[:200_000], "fields": fields_of(one.record)}) for one in found.copies
        ],
        history=[Happened(**one._asdict()) for one in found.history],
    )  # fmt: skip


class LabelListed(BaseModel):
    id: int
    name: str
    by: str
    made_at: datetime
    records: int


class LabelName(BaseModel):
    name: str = Field(max_length=100)


class Labelling(LabelName):
    records: list[int] = Field(min_length=1, max_length=200_000)


class Labelled(BaseModel):
    label: int
    copies: list[int]


class Copies(BaseModel):
    copies: list[int] = Field(min_length=1, max_length=200_000)


class ToUnlabel(Copies):
    """Records, named by any of their copies, or with ``only`` these copies."""

    only: bool = False


@router.get("/labels")
def labels(member: AsMember) -> list[LabelListed]:
    """The team's labels."""
    return [LabelListed.model_validate(dict(label)) for label in labelling.labels(member.review)]


@router.post("/labels", status_code=201)
def put_label(said: Labelling, member: AsReviewer) -> Labelled:
    """Label records; what got the label that had not got it."""
    label, copies = labelling.put(member.review, member.account, said.name, said.records)
    return Labelled(label=label, copies=copies)


@router.post("/labels/{label}/take")
def take_label(label: int, said: ToUnlabel, member: AsReviewer) -> Labelled:
    """Take a label off records or copies; those that had it."""
    return Labelled(label=label, copies=labelling.take(member.review, member.account, label, said.copies, only=said.only))


@router.post("/labels/{label}/give", status_code=204)
def give_label(label: int, said: Copies, member: AsReviewer) -> None:
    """Undo taking a label off copies."""
    labelling.give(member.review, member.account, label, said.copies)


@router.delete("/labels/{label}", status_code=204)
def remove_label(label: int, member: AsReviewer) -> None:
    """Remove a label from all records."""
    labelling.remove(member.review, member.account, label)


@router.post("/labels/{label}/back", status_code=204)
def bring_label_back(label: int, member: AsReviewer) -> None:
    """Undo removing a label."""
    labelling.remove(member.review, member.account, label, back=True)
