"""Passes and people: how many read each record, who reads what, what differs, and how far readers agree."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from kettlesort.api.access import AsLead, AsMember, AsReviewer
from kettlesort.api.records import Filter, State
from kettlesort.core.screening.passes import MOST_READERS, Mode
from kettlesort.work import passes
from kettlesort.work import progress as progresses
from kettlesort.work.screen import Said

router = APIRouter(prefix="/api/reviews/{review}", tags=["screen"])
PassNumber = Literal[1, 2]
MOST_PEOPLE = 100


class ModeSaid(BaseModel):
    """How a pass is screened."""

    readers: int = Field(ge=1, le=MOST_READERS)
    differ: Literal["verdict", "reason"] = "verdict"
    unsure: Literal["stays", "goes_on"] = "stays"
    settling: Literal["third", "talk"] = "third"

    def mode(self) -> Mode:
        """The same for the core."""
        return Mode(self.readers, self.differ, self.unsure, self.settling)


class OnePass(BaseModel):
    pass_number: int
    mode: ModeSaid
    since: datetime | None
    by: str | None
    open: int
    differ: int
    mine_left: int
    mine_read: int


class NewMode(BaseModel):
    pass_number: PassNumber
    mode: ModeSaid


class Moved(BaseModel):
    """So many records would go from one state to another; ``judged`` of them have a verdict of the second pass."""

    before: State
    after: State | Literal["settled"]
    records: int
    judged: int


class Part(BaseModel):
    account: int
    share: float = Field(gt=0, le=1_000_000)


class NewSharing(BaseModel):
    pass_number: PassNumber = 1
    name: str = Field("", max_length=100)
    parts: list[Part] = Field(min_length=1, max_length=MOST_PEOPLE)
    most: int | None = Field(None, ge=1, le=passes.MOST_SHARED)
    pilot: bool = False
    overlap: float = Field(0.0, ge=0, le=1)
    seed: int | None = Field(None, ge=0, lt=2**31)

    def shares(self) -> passes.Shares:
        """The same for the work."""
        return passes.Shares(
            self.pass_number, self.name, {part.account: part.share for part in self.parts}, self.most, self.pilot, self.overlap, self.seed
        )


class Given(BaseModel):
    account: int
    records: int


class SharedOut(BaseModel):
    id: int | None
    records: int
    parts: list[Given]


class SharePart(BaseModel):
    """One person's part of a sharing; ``read`` is None where that is not the viewer's to know."""

    account_id: int
    person: str
    records: int
    read: int | None
    given_back: int


class Sharing(BaseModel):
    id: int
    name: str
    pilot: bool
    seed: int | None
    at: datetime
    by: str
    removed: bool
    parts: list[SharePart]


class Records(BaseModel):
    records: int


class SaidOn(BaseModel):
    account_id: int
    by: str
    verdict: State
    criterion_id: int | None
    criterion: str
    note: str
    at: datetime
    settles: bool


class Differing(BaseModel):
    id: int
    title: str
    authors: list[str]
    year: int | None
    journal: str
    state: State
    said: list[SaidOn]


class Settled(BaseModel):
    record: int
    pass_number: PassNumber
    verdict: Literal["include", "exclude"]
    criterion: int | None = None
    seen: State | None = None


class Reopened(BaseModel):
    record: int
    pass_number: PassNumber


class PairAgreement(BaseModel):
    """How far two readers agree; ``table`` has a row for each word of the first and a column for each of the second."""

    a: str
    b: str
    a_id: int
    b_id: int
    n: int
    agreement: float | None
    kappa: float | None
    kappa_ci: list[float] | None
    pabak: float | None
    ac1: float | None
    table: list[list[int]]


class ReasonAgreement(BaseModel):
    number: int
    criterion: str
    records: int
    together: int
    otherwise: int
    not_excluded: int


class Stretch(BaseModel):
    until: datetime
    records: int
    agreement: float


class Agreement(BaseModel):
    people: list[str]
    words: list[str]
    keys: list[str]
    records: int
    pairs: list[PairAgreement]
    fleiss: float | None
    fleiss_records: int
    by_reason: list[ReasonAgreement]
    over_time: list[Stretch]
    differ: list[int]


class PersonAtWork(BaseModel):
    account_id: int
    name: str
    first: int
    second: int
    hours: float
    an_hour: float | None
    last: datetime


class Until(BaseModel):
    """Records a day, and when the rest is done at that pace: the day, the earliest and the latest with 95 % confidence."""

    a_day: float
    day: date
    early: date
    late: date | None


class Progress(BaseModel):
    left: int
    until: Until | None
    people: list[PersonAtWork]


def _mode(mode: Mode) -> ModeSaid:
    return ModeSaid.model_validate(mode._asdict())


@router.get("/passes")
def both(member: AsMember) -> list[OnePass]:
    """How each pass is screened, and what is left in it for whoever asks."""
    return [
        OnePass(
            pass_number=pass_.number, mode=_mode(pass_.mode), since=pass_.since["at"] if pass_.since else None, by=pass_.since["by"] if pass_.since else None,
            open=pass_.open, differ=pass_.differ, mine_left=pass_.mine_left, mine_read=pass_.mine_read,
        )
        for pass_ in passes.passes(member.review, member.account)
    ]  # fmt: skip


@router.post("/passes/preview")
def preview(said: NewMode, member: AsLead) -> list[Moved]:
    """What would become open, settled or differing in another mode."""
    return [Moved.model_validate(moved._asdict()) for moved in passes.preview(member.review, said.pass_number, said.mode.mode())]


@router.put("/passes", status_code=204)
def set_mode(said: NewMode, member: AsLead) -> None:
    """Screen a pass in another mode from now on."""
    passes.set_mode(member.review, member.account, said.pass_number, said.mode.mode())


def _shared(shared_out: passes.SharedOut, number: int | None = None) -> SharedOut:
    return SharedOut(
        id=number, records=shared_out.records, parts=[Given(account=who, records=n) for who, n in shared_out.by_person.items()]
    )


@router.get("/sharings")
def sharings(member: AsMember, pass_number: int = Query(1, ge=1, le=2)) -> list[Sharing]:
    """What was shared out in a pass, the newest first."""
    out: dict[int, Sharing] = {}
    for share in passes.shares(member.review, member.account, member.role, pass_number):
        held = out.setdefault(
            share["id"],
            Sharing(
                id=share["id"], name=share["name"], pilot=share["pilot"], seed=share["seed"], at=share["at"], by=share["by"], removed=share["removed_at"] is not None, parts=[]
            ),
        )  # fmt: skip
        held.parts.append(SharePart.model_validate(share))
    return list(out.values())


@router.post("/sharings/preview")
def try_sharing(said: NewSharing, wanted: Filter, member: AsLead) -> SharedOut:
    """What a sharing would come to."""
    return _shared(passes.try_sharing(member.review, said.shares(), wanted))


@router.post("/sharings")
def share_out(said: NewSharing, wanted: Filter, member: AsLead) -> SharedOut:
    """Share the open records of a list out among people."""
    number, shared_out = passes.share_out(member.review, member.account, said.shares(), wanted)
    return _shared(shared_out, number)


@router.post("/sharings/{sharing}/give-back")
def give_back(sharing: int, member: AsReviewer, person: int | None = None) -> Records:
    """Give back what somebody has not read, or everybody."""
    return Records(records=passes.give_back(member.review, member.account, member.role, sharing, person))


@router.post("/sharings/{sharing}/put-back")
def put_back(sharing: int, member: AsReviewer, person: int | None = None) -> Records:
    """Put back on a share what was given back last."""
    return Records(records=passes.give_back(member.review, member.account, member.role, sharing, person, back=True))


@router.get("/differences")
def differences(member: AsMember, pass_number: int = Query(1, ge=1, le=2), settled: bool = False) -> list[Differing]:
    """Records on which verdicts differ, or differed until they were settled."""
    return [
        Differing(**difference.record, said=[SaidOn.model_validate(one) for one in difference.said])
        for difference in passes.differences(member.review, member.account, pass_number, settled)
    ]


@router.post("/differences/settle", status_code=204)
def settle(said: Settled, member: AsReviewer) -> None:
    """Settle what differs on a record."""
    passes.settle(member.review, member.account, Said(said.record, said.pass_number, said.verdict, said.criterion, said.seen))


@router.post("/differences/reopen", status_code=204)
def reopen(said: Reopened, member: AsReviewer) -> None:
    """Take back what settled a record."""
    passes.reopen(member.review, member.account, said.record, said.pass_number)


@router.get("/agreement")
def agreement(member: AsMember, pass_number: int = Query(1, ge=1, le=2), sharing: int | None = None, reasons: bool = False) -> Agreement:
    """How far readers agree on what several read independently."""
    agreed = passes.agreement(member.review, member.account, pass_number, sharing, reasons=reasons)
    return Agreement(
        people=agreed.people, words=agreed.words, keys=agreed.keys, records=agreed.records, fleiss=agreed.compared.fleiss.kappa, fleiss_records=agreed.compared.fleiss.n,
        pairs=[
            PairAgreement.model_validate({**one._asdict(), "a_id": agreed.accounts[one.a], "b_id": agreed.accounts[one.b], "table": agreed.tables[one.a, one.b]})
            for one in agreed.compared.pairs
        ],
        by_reason=[ReasonAgreement.model_validate(one._asdict()) for one in agreed.by_reason],
        over_time=[Stretch(until=at, records=n, agreement=share) for at, n, share in agreed.over_time], differ=agreed.differ,
    )  # fmt: skip


@router.get("/progress")
def progress(member: AsMember) -> Progress:
    """Where things stand: one's own pace, for a lead everybody's, and when what is left will be done."""
    told = progresses.progress(member.review, member.account, member.role)
    people = [
        PersonAtWork(account_id=one.account, name=one.name, first=one.first, second=one.second, hours=one.pace.hours, an_hour=one.pace.an_hour, last=one.last)
        for one in told.people
    ]  # fmt: skip
    return Progress(left=told.left, until=Until.model_validate(told.until._asdict()) if told.until else None, people=people)
