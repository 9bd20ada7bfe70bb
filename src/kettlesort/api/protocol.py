"""The protocol of a review, its versions, and its document."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsLead, AsMember
from kettlesort.api.files import file_of
from kettlesort.api.plan import Role
from kettlesort.core import documents
from kettlesort.core import protocol as core
from kettlesort.work import protocol

router = APIRouter(prefix="/api/reviews/{review}/protocol", tags=["protocol"])
SourceKind = Literal["database", "register", "website", "organisation", "citation"]
DOCX = "application/vnd.openxmlformats-officedocument.wordprocessingml.document"


class Element(BaseModel):
    label: str = Field(max_length=100)
    terms: list[str] = Field(max_length=500)


class Criterion(BaseModel):
    id: int | None = None
    name: str = Field(max_length=120)
    wording: str = Field("", max_length=4000)
    first: bool = True
    second: bool = True
    used: bool = False


class PlannedSource(BaseModel):
    name: str = Field(max_length=200)
    kind: SourceKind = "database"


class Protocol(BaseModel):
    id: int
    title: str
    question: str
    framework: core.Framework
    year_from: int | None
    year_to: int | None
    languages: str
    types: str
    update_of: str
    updates_from: date | None
    registered_in: str
    registration_number: str
    registered_on: date | None
    elements: list[Element]
    criteria: list[Criterion]
    sources: list[PlannedSource]
    limits: str
    years: str
    version: int
    needs_reason: bool
    frameworks: dict[str, list[str]]
    role: Role


class Amended(BaseModel):
    """What an amendment says otherwise; lists replace what was there. ``seen`` is the version that it was made on."""

    title: str | None = Field(None, max_length=300)
    question: str | None = Field(None, max_length=5000)
    framework: core.Framework | None = None
    year_from: int | None = Field(None, ge=1000, le=2999)
    year_to: int | None = Field(None, ge=1000, le=2999)
    languages: str | None = Field(None, max_length=300)
    types: str | None = Field(None, max_length=300)
    update_of: str | None = Field(None, max_length=1000)
    updates_from: date | None = None
    registered_in: str | None = Field(None, max_length=200)
    registration_number: str | None = Field(None, max_length=100)
    registered_on: date | None = None
    elements: list[Element] | None = Field(None, max_length=protocol.MOST_LISTED)
    criteria: list[Criterion] | None = Field(None, max_length=protocol.MOST_LISTED)
    sources: list[PlannedSource] | None = Field(None, max_length=protocol.MOST_LISTED)
    reason: str = Field("", max_length=1000)
    seen: int | None = None


class AmendmentMade(BaseModel):
    version: int


class Difference(BaseModel):
    name: str
    before: str
    after: str


class Section(BaseModel):
    name: str
    text: str


class ExcludedBy(BaseModel):
    """How many records a criterion excludes in the first pass, and full texts in the second."""

    criterion: int
    first: int
    second: int


class ProtocolVersion(BaseModel):
    version: int
    at: datetime
    by: str
    reason: str
    changes: list[Difference]
    sections: list[Section]


@router.get("/excluded")
def excluded(member: AsMember) -> list[ExcludedBy]:
    """What each criterion excludes."""
    return [ExcludedBy.model_validate(row) for row in protocol.excluded_by(member.review)]


@router.get("")
def stands(member: AsMember) -> Protocol:
    """The protocol as it stands."""
    current_protocol = protocol.protocol(member.review)
    plain = {name: getattr(current_protocol.review, name) for name in core.Protocol.model_fields if hasattr(current_protocol.review, name)}
    return Protocol(
        **plain,
        id=member.review,
        elements=[Element.model_validate(element, from_attributes=True) for element in current_protocol.elements],
        criteria=[
            Criterion(**c.model_dump(include={"id", "name", "wording", "first", "second"}), used=c.id in current_protocol.used)
            for c in current_protocol.criteria
        ],
        sources=[PlannedSource.model_validate(source, from_attributes=True) for source in current_protocol.sources],
        limits=core.limits(core.Protocol(**plain)),
        years=core.years(core.Protocol(**plain)),
        version=current_protocol.version,
        needs_reason=current_protocol.needs_reason,
        frameworks={key: list(labels) for key, (_, labels) in core.FRAMEWORKS.items()},
        role=member.role,
    )


@router.put("")
def amend(said: Amended, member: AsLead) -> AmendmentMade:
    """Amend the protocol."""
    changes = said.model_dump(exclude_unset=True, exclude={"reason", "seen", "elements", "criteria", "sources"})
    entry: protocol.Changes = {name: value for name, value in changes.items() if value is not None or name in _MAY_BE_NONE}  # type: ignore[assignment]
    if said.elements is not None:
        entry["elements"] = [(element.label, element.terms) for element in said.elements]
    if said.criteria is not None:
        entry["criteria"] = [protocol.Wording(c.id, c.name, c.wording, c.first, c.second) for c in said.criteria]
    if said.sources is not None:
        entry["sources"] = [(source.name, source.kind) for source in said.sources]
    return AmendmentMade(version=protocol.amend(member.review, member.account, entry, said.reason, seen=said.seen))


_MAY_BE_NONE = ("year_from", "year_to", "updates_from", "registered_on")


@router.get("/versions")
def versions(member: AsMember) -> list[ProtocolVersion]:
    """Every version, newest first, with what it changed."""
    return [
        ProtocolVersion(
            version=version.row["version"],
            at=version.row["at"],
            by=version.row["by"],
            reason=version.row["reason"],
            changes=[Difference(**d._asdict()) for d in version.changes],
            sections=[Section(**part._asdict()) for part in core.sections(version.said) if part.text],
        )
        for version in reversed(protocol.versions(member.review))
    ]


@router.get(".md", response_class=Response)
def as_markdown(member: AsMember) -> Response:
    """The protocol as Markdown."""
    _, blocks = protocol.document(member.review)
    return file_of(documents.markdown(blocks).encode(), "text/markdown; charset=utf-8", "protocol.md")


@router.get(".docx", response_class=Response)
def as_docx(member: AsMember) -> Response:
    """The protocol as a DOCX file."""
    _, blocks = protocol.document(member.review)
    return file_of(documents.docx_file(blocks), DOCX, "protocol.docx")
