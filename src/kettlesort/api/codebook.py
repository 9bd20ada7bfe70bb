"""The codebook: items, concepts, levels; what a change would do; versions; as a file."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.files import TOML, file_of
from kettlesort.core.charting.items import Factor, Kind
from kettlesort.work import codebook, concepts, studies

router = APIRouter(prefix="/api/reviews/{review}", tags=["chart"])


class DataItem(BaseModel):
    id: int | None = Field(None, ge=1, lt=2**63)
    name: str = Field(max_length=120)
    kind: Kind
    unit: str = Field("", max_length=40)
    choices: list[str] = Field(default=[], max_length=200)
    instructions: str = Field("", max_length=4000)
    low: float | None = Field(None, allow_inf_nan=False)
    high: float | None = Field(None, allow_inf_nan=False)
    per: list[Factor] = []
    concept: str = Field("", max_length=120)
    examples: str = Field("", max_length=4000)


class BroaderConcept(BaseModel):
    """A concept, and the broader one of which it is a kind."""

    id: int | None = Field(None, ge=1, lt=2**63)
    name: str = Field(max_length=120)
    within: str = Field("", max_length=120)


class FactorLevel(BaseModel):
    """An arm, an outcome or a time point of all studies."""

    id: int | None = Field(None, ge=1, lt=2**63)
    factor: Factor
    name: str = Field(max_length=120)
    words: list[str] = Field(default=[], max_length=50)


class CodebookText(BaseModel):
    """A codebook as typed."""

    items: list[DataItem] = Field(max_length=1000)
    concepts: list[BroaderConcept] = Field(default=[], max_length=500)
    levels: list[FactorLevel] = Field(default=[], max_length=600)


class Codebook(CodebookText):
    """A codebook as it stands, with the number of values of each item that has any."""

    used: dict[int, int]
    version: int


class NewCodebook(CodebookText):
    """The codebook as it is to be, and as it was when the change was begun; ``agreed`` when what becomes of values was looked at."""

    seen: CodebookText | None = None
    agreed: bool = False


class UnfitValue(BaseModel):
    study: int
    label: str
    text: str
    why: str


class Consequence(BaseModel):
    """What becomes of the values of an item: how many stay, are worded anew, go out of sight, do not fit."""

    name: str
    kept: int
    reworded: int
    hidden: int
    unfit: list[UnfitValue]


class CodebookPreview(BaseModel):
    changes: list[str]
    consequences: list[Consequence]


class CodebookVersion(BaseModel):
    number: int
    at: datetime
    by: str
    changes: list[str]


class CodebookFile(BaseModel):
    text: str = Field(max_length=2_000_000)


class ConceptStudies(BaseModel):
    """A concept of the picture: its own items, and the studies that state something under it."""

    id: int
    name: str
    within: str
    items: list[str]
    studies: list[int]


class FoundReport(BaseModel):
    """A report with its abstract, and the searches that found it."""

    record_id: int
    title: str
    abstract: str
    found_by: list[str]


class FoundStudy(BaseModel):
    id: int
    label: str
    reports: list[FoundReport]


class NewLevel(BaseModel):
    """An arm, an outcome or a time point that a single study has."""

    factor: Factor
    name: str = Field(max_length=120)
    words: list[str] = Field(default=[], max_length=50)


class MadeLevel(BaseModel):
    id: int


def _book(said: CodebookText) -> codebook.Book:
    return codebook.Book(
        [codebook.ItemWording(**item.model_dump()) for item in said.items],
        [codebook.ConceptWording(**concept.model_dump()) for concept in said.concepts],
        [codebook.LevelWording(**level.model_dump()) for level in said.levels],
    )


def text_of(book: codebook.Book) -> CodebookText:
    """A codebook as it goes over the wire."""
    return CodebookText.model_validate(codebook.as_data(book))


@router.get("/codebook")
def codebook_as_it_stands(member: AsMember) -> Codebook:
    """The codebook, and how many values each item has."""
    book, used, version = codebook.codebook(member.review)
    return Codebook.model_validate({**codebook.as_data(book), "used": used, "version": version})


@router.put("/codebook", status_code=204)
def set_codebook(said: NewCodebook, member: AsReviewer) -> None:
    """Replace the codebook; what others changed meanwhile stays. A change that touches values has to be agreed to."""
    seen = None if said.seen is None else _book(said.seen)
    codebook.set_codebook(member.review, member.account, _book(said), seen, agreed=said.agreed)


@router.post("/codebook/preview")
def preview_codebook(said: CodebookText, member: AsMember) -> CodebookPreview:
    """What a codebook would change, and what becomes of the values that stand."""
    return CodebookPreview.model_validate(codebook.preview(member.review, _book(said)), from_attributes=True)


@router.get("/codebook/versions")
def codebook_versions(member: AsMember) -> list[CodebookVersion]:
    """Every version with what it changed, the newest first."""
    return [CodebookVersion(**version._asdict()) for version in codebook.versions(member.review)]


@router.get("/codebook.toml", response_class=Response)
def codebook_file(member: AsMember) -> Response:
    """The codebook as TOML."""
    return file_of(codebook.as_toml(member.review), TOML, "codebook.toml")


@router.post("/codebook/from-file")
def codebook_from_file(said: CodebookFile, member: AsReviewer) -> CodebookText:
    """This codebook with what a file has more, to be looked at before it is saved."""
    return text_of(codebook.from_toml(member.review, said.text))


@router.get("/concepts")
def concepts_with_studies(member: AsMember) -> list[ConceptStudies]:
    """The concepts with the studies under each."""
    return [ConceptStudies(**concept._asdict()) for concept in concepts.concepts(member.review)]


@router.get("/concepts/{concept}/studies")
def studies_of_concept(concept: int, member: AsMember) -> list[FoundStudy]:
    """The studies under a concept, with their abstracts and what found them."""
    return [
        FoundStudy(
            id=found.id,
            label=found.label,
            reports=[FoundReport(record_id=one["record_id"], title=one["title"], abstract=one["abstract"], found_by=found.found_by[one["record_id"]]) for one in found.reports],
        )
        for found in concepts.studies_of(member.review, concept)
    ]  # fmt: skip


@router.post("/studies/{study}/levels")
def add_level(study: int, said: NewLevel, member: AsReviewer) -> MadeLevel:
    """Give a study an arm, an outcome or a time point that others do not have."""
    return MadeLevel(id=studies.add_level(member.review, member.account, study, said.factor, said.name, said.words))


@router.delete("/levels/{level}", status_code=204)
def remove_level(level: int, member: AsReviewer) -> None:
    """Take away what a study has for itself."""
    studies.remove_level(member.review, member.account, level)


@router.post("/levels/{level}/back", status_code=204)
def level_back(level: int, member: AsReviewer) -> None:
    """Bring back what was taken away of a study."""
    studies.remove_level(member.review, member.account, level, back=True)
