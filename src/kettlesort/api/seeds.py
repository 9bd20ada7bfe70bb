"""Seeds: studies that are known to belong."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.outside import asks_outside
from kettlesort.api.uploads import ONE_FILE, receive
from kettlesort.core.names import author_name
from kettlesort.core.record import Record, doi_of
from kettlesort.work import seeds as work

router = APIRouter(prefix="/api/reviews/{review}", tags=["seeds"])
LARGEST_FILE = 30_000_000


class Seed(BaseModel):
    id: int
    title: str
    authors: list[str]
    year: int | None
    doi: str
    has_abstract: bool
    has_keywords: bool


class SeedKey(BaseModel):
    id: int
    key: str
    record_id: int | None


class Seeds(BaseModel):
    seeds: list[Seed]
    keys: list[SeedKey]


class Pasted(BaseModel):
    text: str = Field(max_length=200_000)


class ToLookUp(Pasted):
    catalogue: int | None = None


class SeedAnswer(BaseModel):
    """What became of a line; ``key`` is the DOI or accession that names the study, or its title."""

    line: str
    kind: Literal["doi", "accession", "title"]
    key: str
    state: Literal["here", "catalogue", "nowhere"]
    record: int | None
    title: str
    year: int | None
    doi: str
    seed: bool
    sure: bool
    problem: str


class ToAdd(BaseModel):
    records: list[int] = Field([], max_length=work.MOST_LINES)
    keys: list[str] = Field([], max_length=work.MOST_LINES)
    bring: list[str] = Field([], max_length=work.MOST_LINES)
    catalogue: int | None = None


class SeedsMade(BaseModel):
    seeds: int
    brought: int


class Added(BaseModel):
    added: int


class ByHand(BaseModel):
    title: str = Field(min_length=1, max_length=1000)
    authors: list[str] = Field([], max_length=500)
    year: int | None = Field(None, ge=1500, le=2099)
    journal: str = Field("", max_length=500)
    doi: str = Field("", max_length=300)
    abstract: str = Field("", max_length=50_000)


class SeedMark(BaseModel):
    seed: bool


class Proposal(BaseModel):
    """What the registry would fill, by field."""

    record: int
    fields: dict[str, Any]
    problem: str


class ToFill(BaseModel):
    record: int
    fields: list[str] = Field(max_length=20)


class Filled(BaseModel):
    supplements: list[int]


@router.get("/seeds")
def seeds(member: AsMember) -> Seeds:
    """The seeds, and the pasted identifiers."""
    found, keys = work.seeds(member.review)
    return Seeds(seeds=[Seed.model_validate(row) for row in found], keys=[SeedKey.model_validate(key) for key in keys])


@router.post("/seeds/look-up")
@asks_outside
def look_up(said: ToLookUp, member: AsMember) -> list[SeedAnswer]:
    """An answer for every line: found here, in the catalogue, or not."""
    return [
        SeedAnswer(
            line=answer.named.line,
            kind=answer.named.kind,
            key=answer.named.key,
            **{name: getattr(answer, name) for name in ("state", "record", "title", "year", "doi", "seed", "sure", "problem")},
        )
        for answer in work.look_up(member.review, said.text, said.catalogue)
    ]


@router.post("/seeds/add")
def add(said: ToAdd, member: AsReviewer) -> SeedsMade:
    """Make seeds of what was looked up."""
    made, brought = work.add(member.review, member.account, work.Chosen(said.records, said.keys, said.bring), said.catalogue)
    return SeedsMade(seeds=made, brought=brought)


@router.post("/seeds/paste")
def paste_seeds(said: Pasted, member: AsReviewer) -> Added:
    """Paste identifiers; records that carry one become seeds, now or later."""
    return Added(added=work.paste_seeds(member.review, member.account, said.text))


@router.post("/seeds/by-hand", status_code=204)
def by_hand(said: ByHand, member: AsReviewer) -> None:
    """Write a seed down by hand."""
    record = Record(
        kind="article" if said.journal else "other",
        title=" ".join(said.title.split()),
        authors=tuple(author_name(name) for name in said.authors if name.strip()),
        year=said.year,
        journal=" ".join(said.journal.split()),
        doi=doi_of(said.doi),
        abstract=" ".join(said.abstract.split()),
    )
    work.bring_in(member.review, member.account, [record])


@router.post("/seeds/file", status_code=201, openapi_extra=ONE_FILE)
async def from_file(member: AsReviewer, request: Request) -> Added:
    """Upload a file of known studies; they come in as seeds."""
    async with receive(request, LARGEST_FILE) as (filename, file, run):
        return Added(added=await run(work.from_file, member.review, member.account, filename, file))


@router.get("/seeds/{record}/proposal")
@asks_outside
def propose(record: int, member: AsReviewer) -> Proposal:
    """Ask the DOI registry for what a record lacks; nothing is changed."""
    proposal = work.propose(member.review, record)
    return Proposal(record=record, fields=proposal.fields, problem=proposal.problem)


@router.post("/seeds/fill")
def fill(said: list[ToFill], member: AsReviewer) -> Filled:
    """Fill what records lack with what the registry says."""
    return Filled(supplements=work.fill(member.review, member.account, [(to_fill.record, to_fill.fields) for to_fill in said]))


@router.post("/seeds/unfill", status_code=204)
def unfill(said: Filled, member: AsReviewer) -> None:
    """Take back what was filled."""
    work.unfill(member.review, member.account, said.supplements)


@router.delete("/seeds/keys/{key}", status_code=204)
def drop_seed_key(key: int, member: AsReviewer) -> None:
    """Take a pasted identifier away again."""
    work.drop_seed_key(member.review, member.account, key)


@router.put("/records/{record}/seed", status_code=204)
def mark_seed(record: int, said: SeedMark, member: AsReviewer) -> None:
    """Mark a record as a seed, or take the mark away."""
    work.mark_seed(member.review, member.account, record, said.seed)
