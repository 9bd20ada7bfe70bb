"""Controlled vocabularies."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.gather import Made
from kettlesort.api.query import Asked
from kettlesort.api.uploads import ONE_FILE, receive
from kettlesort.core.query import as_descriptor
from kettlesort.core.vocabulary import LARGEST
from kettlesort.work import vocabulary
from kettlesort.work.query import count_descriptor, node_of

router = APIRouter(prefix="/api/reviews/{review}", tags=["vocabulary"])
NameKind = Literal["preferred", "alternative", "hidden"]


class Vocabulary(BaseModel):
    id: int
    name: str
    filename: str
    state: Literal["waiting", "read", "failed"]
    failure: str
    problems: list[str]
    headings: int


class Heading(BaseModel):
    """A heading that was looked up, by the name that was found; how many lie right below it."""

    id: int
    label: str
    name: str
    kind: NameKind
    vocabulary: str
    narrower: int


class Neighbour(BaseModel):
    id: int
    label: str
    narrower: int


class HeadingWhole(BaseModel):
    """A heading; ``below`` counts those under it at any depth, ``records`` those that carry it, alone and with what is below."""

    id: int
    label: str
    vocabulary: str
    uri: str
    alternative: list[str]
    hidden: list[str]
    scope_note: str
    history_note: str
    broader: list[Neighbour]
    narrower: list[Neighbour]
    related: list[Neighbour]
    below: int
    records: int
    records_below: int
    term: str
    term_below: str


class PointedOut(BaseModel):
    """A term of a query that is a name of a heading; ``heading`` is that as a term, with what is below it."""

    term: str
    kind: NameKind
    id: int
    label: str
    vocabulary: str
    heading: str
    used: bool


@router.get("/vocabularies")
def vocabularies(member: AsMember) -> list[Vocabulary]:
    """The vocabularies of the team."""
    return [Vocabulary.model_validate(row) for row in vocabulary.vocabularies(member.review)]


@router.post("/vocabularies", status_code=201, openapi_extra=ONE_FILE)
async def load(member: AsReviewer, request: Request) -> Made:
    """Load a SKOS file; it is read in the background."""
    async with receive(request, LARGEST) as (filename, file, run):
        return Made(id=await run(vocabulary.load, member.review, member.account, filename, file))


@router.delete("/vocabularies/{number}", status_code=204)
def remove(number: int, member: AsReviewer) -> None:
    """Put a vocabulary out of use."""
    vocabulary.use(member.review, member.account, number, False)


@router.post("/vocabularies/{number}/back", status_code=204)
def bring_back(number: int, member: AsReviewer) -> None:
    """Use a vocabulary again."""
    vocabulary.use(member.review, member.account, number, True)


@router.get("/headings")
def look_up(member: AsMember, words: str = Query("", max_length=200)) -> list[Heading]:
    """Look headings up by any of their names; the highest ones for no words."""
    return [Heading.model_validate(row) for row in vocabulary.look_up(member.review, words)]


@router.get("/headings/{number}")
def heading(number: int, member: AsMember) -> HeadingWhole:
    """One heading."""
    looked = vocabulary.heading(member.review, number)
    near = {
        kind: [Neighbour.model_validate(other) for other in looked.neighbours if other["kind"] == kind]
        for kind in ("broader", "narrower", "related")
    }
    alone, below = count_descriptor(member.review, looked.heading["label"])
    return HeadingWhole(
        **{name: looked.heading[name] for name in ("id", "label", "vocabulary", "uri", "scope_note", "history_note")},
        **near,
        alternative=[name["name"] for name in looked.names if name["kind"] == "alternative"],
        hidden=[name["name"] for name in looked.names if name["kind"] == "hidden"],
        below=looked.below,
        records=alone,
        records_below=below,
        term=as_descriptor(looked.heading["label"], narrower=False),
        term_below=as_descriptor(looked.heading["label"], narrower=True),
    )


@router.post("/headings/pointed-out")
def pointed_out(said: Asked, member: AsMember) -> list[PointedOut]:
    """The words and phrases of a query that are names of headings."""
    return [
        PointedOut(
            term=pointed.term,
            kind=pointed.heading["kind"],
            id=pointed.heading["id"],
            label=pointed.heading["label"],
            vocabulary=pointed.heading["vocabulary"],
            heading=as_descriptor(pointed.heading["label"], narrower=True),
            used=pointed.used,
        )
        for pointed in vocabulary.pointed_out(member.review, node_of(said.text))
    ]
