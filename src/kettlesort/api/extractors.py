"""Two extractors: who reads what, where they differ, how far they agree."""

from __future__ import annotations

import random
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsLead, AsMember, AsReviewer
from kettlesort.api.chart import AtAddress, AtLevels, Number
from kettlesort.work import extractors
from kettlesort.work.double import Cell, Mode, Reading

router = APIRouter(prefix="/api/reviews/{review}/extraction", tags=["extraction"])
Some = Annotated[list[Number], Field(max_length=5000)]


class ExtractionMode(BaseModel):
    """Who reads besides a person, which items and studies (none for all) two read, what counts as the same, and who settles what is not."""

    second: Literal["nobody", "person", "proposals"] = "nobody"
    blind: bool = True
    rounding: bool = True
    letters: bool = False
    settling: Literal["third", "talk"] = "third"
    items: Some | None = None
    studies: Some | None = None

    @property
    def mode(self) -> Mode:
        """As the rules know it."""
        items, studies = (None if some is None else tuple(dict.fromkeys(some)) for some in (self.items, self.studies))
        return Mode(self.second, self.blind, self.rounding, self.letters, self.settling, items, studies)


class SetExtractionMode(BaseModel):
    """A mode; whether values that stand count as the first readings of those who wrote them."""

    mode: ExtractionMode
    first_readings: bool = False


class ExtractionConsequences(BaseModel):
    stay: int
    first_readings: int
    enter: int
    differ: int


class ExtractionOfStudy(BaseModel):
    """How far a study is: the people to whom it is given, the cells that two read, how many each person read, how many stand, how many differ."""

    id: int
    label: str
    given: list[int]
    asked: int
    read: dict[int, int]
    stand: int
    differ: int


class ExtractionState(BaseModel):
    mode: ExtractionMode
    people: dict[int, str]
    studies: list[ExtractionOfStudy]


class GivenStudies(BaseModel):
    """People by study; a study that is given to nobody is read by whoever comes first."""

    given: Annotated[dict[Number, Annotated[list[Number], Field(max_length=2)]], Field(max_length=5000)]


class ShareStudies(BaseModel):
    people: Annotated[list[Number], Field(max_length=200)]
    seed: Annotated[int, Field(ge=0, lt=2**31)] | None = None


class ReadValue(BaseModel):
    """What somebody read of a cell; account 0 is that of the proposals."""

    account: int
    by: str
    text: str
    quote: str
    page: str
    record: int | None
    at: datetime


class StandingWords(BaseModel):
    text: str
    how: str
    by: str
    at: datetime


class ComparedCell(AtLevels):
    """A cell that both read: what each read, how that differs, and what stands."""

    study: int
    item: int
    label: str
    state: Literal["differ", "settled", "same"]
    said: list[ReadValue]
    why: list[str]
    stands: StandingWords | None


class Settle(AtLevels):
    """What stands: what one of the two read (``of``, by account), or another text. ``seen`` is what both had read."""

    study: Number
    item: Number
    of: Annotated[int, Field(ge=0, lt=2**63)] | None = None
    text: str = Field("", max_length=20_000)
    seen: list[Annotated[str, Field(max_length=20_000)]] = Field(max_length=2)


class ReopenCell(AtLevels):
    study: Number
    item: Number


class ItemAgreement(BaseModel):
    """How far the two agree on an item: the share of the same with its interval (Wilson, 95 %), and Cohen's kappa for choices and yes or no."""

    item: int
    name: str
    read: int
    same: int
    share: float | None
    low: float | None
    high: float | None
    kappa: float | None


@router.get("")
def extraction(member: AsMember) -> ExtractionState:
    """How values are extracted, by whom, and how far each study is that two read."""
    state = extractors.extraction(member.review)
    return ExtractionState(
        mode=ExtractionMode.model_validate(state.mode, from_attributes=True),
        people=state.people,
        studies=[ExtractionOfStudy.model_validate(one, from_attributes=True) for one in state.studies],
    )


@router.post("/preview")
def preview_mode(said: SetExtractionMode, member: AsMember) -> ExtractionConsequences:
    """What another mode would do to values and readings."""
    found = extractors.preview(member.review, said.mode.mode, first_readings=said.first_readings)
    return ExtractionConsequences.model_validate(found, from_attributes=True)


@router.put("/mode", status_code=204)
def set_mode(said: SetExtractionMode, member: AsLead) -> None:
    """Extract in another mode from now on."""
    extractors.set_mode(member.review, member.account, said.mode.mode, first_readings=said.first_readings)


@router.put("/given", status_code=204)
def give(said: GivenStudies, member: AsLead) -> None:
    """Give studies to people."""
    extractors.give(member.review, member.account, said.given)


@router.post("/shares")
def share(said: ShareStudies, member: AsLead) -> GivenStudies:
    """To whom studies would go, if they were shared out evenly."""
    return GivenStudies(
        given=extractors.shared_out(member.review, said.people, random.randrange(2**31) if said.seed is None else said.seed)
    )


@router.get("/compared")
def compared(member: AsMember) -> list[ComparedCell]:
    """Every cell that both have read."""
    out = []
    for each in extractors.compared(member.review):
        study, item, (arm, outcome, time) = each.cell
        out.append(
            ComparedCell(
                study=study, item=item, arm=arm, outcome=outcome, time=time, label=each.study, state=each.state,
                said=[_read(one) for one in each.said], why=each.why, stands=StandingWords.model_validate(each.stands) if each.stands else None,
            )
        )  # fmt: skip
    return out


def _read(reading: Reading) -> ReadValue:
    return ReadValue(
        account=reading["reader_id"],
        by=reading["by"],
        text=reading["text"],
        quote=reading["quote"],
        page=reading["page"],
        record=reading["record"],
        at=reading["at"],
    )


@router.get("/readings/{study}/{item}")
def readings(study: int, item: int, member: AsMember, said: AtAddress) -> list[ReadValue]:
    """What people read of a cell, as far as one may know it yet."""
    return [_read(one) for one in extractors.readings_of(member.review, member.account, (study, item, said))]


@router.post("/settle", status_code=204)
def settle(said: Settle, member: AsReviewer) -> None:
    """Say what stands for a cell that two read differently."""
    extractors.settle(member.review, member.account, _cell(said), said.text, of=said.of, seen=said.seen)


@router.post("/reopen", status_code=204)
def reopen(said: ReopenCell, member: AsReviewer) -> None:
    """Take back how a cell was settled."""
    extractors.reopen(member.review, member.account, _cell(said))


def _cell(said: Settle | ReopenCell) -> Cell:
    return said.study, said.item, said.levels


@router.get("/agreement")
def agreement(member: AsMember) -> list[ItemAgreement]:
    """How far the two agree, by item, over what both read when they were compared first."""
    return [ItemAgreement(item=item.item, name=item.name, **item.figures._asdict()) for item in extractors.agreements(member.review)]
