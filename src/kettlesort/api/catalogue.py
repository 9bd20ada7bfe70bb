"""Connected catalogues."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsLead, AsMember
from kettlesort.api.gather import Made
from kettlesort.api.outside import asks_outside
from kettlesort.api.query import MOST
from kettlesort.api.syntax import Loss
from kettlesort.work import catalogue

router = APIRouter(prefix="/api/reviews/{review}/catalogues", tags=["catalogue"])
Version = Literal["1.2", "2.0"]
RecordForm = Literal["marcxml", "mods", "dc"]


class NewCatalogue(BaseModel):
    name: str = Field("", max_length=200)
    address: str = Field(max_length=1000)
    version: Version = "2.0"
    form: RecordForm = "marcxml"


class Catalogue(BaseModel):
    id: int
    name: str
    address: str
    version: Version
    form: RecordForm


class ToCount(BaseModel):
    """A query; with ``without``, the path of a branch, what it would be without that branch."""

    text: str = Field(max_length=MOST)
    without: list[int] | None = Field(None, max_length=200)
    seeds: bool = True


class Understood(BaseModel):
    said: str
    taken: str


class Counted(BaseModel):
    """What a catalogue finds; ``seeds`` are records of the review."""

    hits: int
    seeds: list[int]
    understood: list[Understood]
    asked: str
    losses: list[Loss]


@router.get("")
def catalogues(member: AsMember) -> list[Catalogue]:
    """The catalogues of the team."""
    return [Catalogue.model_validate(one, from_attributes=True) for one in catalogue.catalogues(member.review)]


@router.post("", status_code=201)
@asks_outside
def connect(said: NewCatalogue, member: AsLead) -> Made:
    """Connect a catalogue; it is asked first what it is."""
    return Made(id=catalogue.add(member.review, member.account, said.name, said.address, said.version, said.form))


@router.delete("/{number}", status_code=204)
def disconnect(number: int, member: AsLead) -> None:
    """Disconnect a catalogue."""
    catalogue.use(member.review, member.account, number, False)


@router.post("/{number}/back", status_code=204)
def connect_again(number: int, member: AsLead) -> None:
    """Connect a catalogue again."""
    catalogue.use(member.review, member.account, number, True)


class ToLookAt(BaseModel):
    text: str = Field(max_length=MOST)
    start: int = Field(1, ge=1, le=10_000_000)


class CatalogueRecord(BaseModel):
    """A record as a catalogue has it; ``here`` is the record of the review with the same DOI."""

    title: str
    authors: list[str]
    year: int | None
    journal: str
    doi: str
    abstract: str
    here: int | None


class CataloguePage(BaseModel):
    total: int
    start: int
    records: list[CatalogueRecord]


@router.post("/{number}/records")
@asks_outside
def records(number: int, said: ToLookAt, member: AsMember) -> CataloguePage:
    """A page of what a catalogue finds, to read."""
    page = catalogue.look(member.review, number, said.text, said.start)
    return CataloguePage(
        total=page.total,
        start=page.start,
        records=[
            CatalogueRecord(
                title=r.title,
                authors=list(r.authors),
                year=r.year,
                journal=r.journal,
                doi=r.doi,
                abstract=r.abstract,
                here=page.here.get(r.doi) if r.doi else None,
            )
            for r in page.records
        ],
    )


class ToCompare(BaseModel):
    """A term of the seeds, in all its forms, and how many of them have it."""

    forms: list[str] = Field(min_length=1, max_length=20)
    seeds: int = Field(ge=0)


class Compared(BaseModel):
    records: int
    special: float


@router.post("/{number}/compare")
@asks_outside
def compare(number: int, said: ToCompare, member: AsMember) -> Compared:
    """A term of the seeds beside a catalogue."""
    records, special = catalogue.compare(member.review, number, said.forms, said.seeds)
    return Compared(records=records, special=special)


@router.post("/{number}/count")
@asks_outside
def count(number: int, said: ToCount, member: AsMember) -> Counted:
    """Count in a catalogue what a query finds."""
    counted = catalogue.count(member.review, number, said.text, without=said.without, seeds=said.seeds)
    return Counted(
        hits=counted.hits,
        seeds=counted.seeds,
        understood=[Understood(**u._asdict()) for u in counted.understood],
        asked=counted.asked,
        losses=[Loss(**loss._asdict()) for loss in counted.losses],
    )
