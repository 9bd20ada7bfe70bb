"""Appraisal of studies: the form, what people judge, pictures and tables of it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsLead, AsMember, AsReviewer
from kettlesort.api.chart import Number
from kettlesort.api.files import TOML, csv_of, file_of
from kettlesort.core import picture
from kettlesort.core.charting import appraisal_picture
from kettlesort.core.charting.appraisal import Form
from kettlesort.core.charting.rules import Proposed
from kettlesort.store.base import Row
from kettlesort.work import appraisal

router = APIRouter(prefix="/api/reviews/{review}/appraisal", tags=["appraisal"])
Short = Annotated[str, Field(max_length=200)]
Long = Annotated[str, Field(max_length=2000)]


class SignallingQuestion(BaseModel):
    key: Short = ""
    text: Long
    help: Long = ""


class JudgementRule(BaseModel):
    when: Long
    judgement: Short


class AppraisalDomain(BaseModel):
    """A domain with its questions; rules name questions by their key, and the first that holds counts."""

    key: Short = ""
    name: Long
    help: Long = ""
    questions: Annotated[list[SignallingQuestion], Field(max_length=200)] = []
    rules: Annotated[list[JudgementRule], Field(max_length=200)] = []
    otherwise: Short = ""


class AppraisalForm(BaseModel):
    """Judgements from the best to the worst, those that stand in no order apart; without rules for the whole, the worst of its domains stands."""

    name: Long = "Appraisal"
    judgements: Annotated[list[Short], Field(max_length=50)] = []
    apart: Annotated[list[Short], Field(max_length=50)] = []
    answers: Annotated[list[Short], Field(max_length=50)] = []
    domains: Annotated[list[AppraisalDomain], Field(max_length=200)] = []
    overall: Annotated[list[JudgementRule], Field(max_length=200)] = []
    otherwise: Short = ""
    whole: bool = True
    appraisers: Literal[1, 2] = 1
    settling: Literal["third", "talk"] = "third"


class KeptForm(BaseModel):
    """The form, and its version."""

    form: AppraisalForm
    version: int


class SetForm(BaseModel):
    """A form that was made from a version; ``agreed`` to what it does to judgements."""

    form: AppraisalForm
    seen: int
    agreed: bool = False


class TouchedJudgements(BaseModel):
    unfit: int
    gone: int


class FormFile(BaseModel):
    text: str = Field(max_length=500_000)


class ProposedJudgement(BaseModel):
    """What the team's rules lead to, and the one that did; or what it waits for, by key."""

    judgement: str
    because: str
    missing: list[str]


class DomainState(BaseModel):
    """Where a domain stands: "", draft, mine, stands, differ, settled, unfit; and the judgement."""

    state: str
    judgement: str


class AppraisedStudy(BaseModel):
    id: int
    label: str
    domains: dict[str, DomainState]
    whole: ProposedJudgement


class AppraisalTable(BaseModel):
    form: AppraisalForm
    version: int
    studies: list[AppraisedStudy]


class SupportedAnswer(BaseModel):
    """An answer with the words that support it, or that there are none."""

    answer: Short
    support: str = Field("", max_length=4000)
    none: bool = False
    page: str = Field("", max_length=40)
    record: Number | None = None


class SaidOfDomain(BaseModel):
    """What somebody answered and judged."""

    id: int
    account: int
    by: str
    at: datetime
    answers: dict[str, SupportedAnswer]
    judgement: str
    reason: str


class DomainOfStudy(BaseModel):
    """A domain of a study: what one said oneself, what others judged as far as one may know, what stands, and what the rules propose."""

    domain: str
    mine: SaidOfDomain | None
    others: list[SaidOfDomain]
    stands: SaidOfDomain | None
    state: str
    proposed: ProposedJudgement


class SayOfDomain(BaseModel):
    """What one says of a domain; ``seen`` is the row that one went on from."""

    domain: Short
    answers: Annotated[dict[Short, SupportedAnswer], Field(max_length=200)] = {}
    judgement: Short = ""
    reason: Long = ""
    seen: int | None = None


class SettleJudgement(BaseModel):
    study: Number
    domain: Short
    of: Annotated[int, Field(ge=1, lt=2**63)] | None = None
    judgement: Short = ""
    reason: Long = ""
    seen: list[int] = Field(max_length=2)


class ReopenJudgement(BaseModel):
    study: Number
    domain: Short


def _form(form: AppraisalForm) -> Form:
    return appraisal.form_of(form.model_dump())


def _wire(form: Form) -> AppraisalForm:
    return AppraisalForm.model_validate(appraisal.as_data(form))


def _proposed(proposed: Proposed) -> ProposedJudgement:
    return ProposedJudgement(judgement=proposed.judgement, because=proposed.because, missing=list(proposed.missing))


def _said(row: Row) -> SaidOfDomain:
    return SaidOfDomain(
        id=row["id"],
        account=row["account_id"],
        by=row["by"],
        at=row["at"],
        answers=row["answers"],
        judgement=row["judgement"],
        reason=row["reason"],
    )


def _of_study(domain: appraisal.DomainOf) -> DomainOfStudy:
    return DomainOfStudy(
        domain=domain.domain, mine=_said(domain.mine) if domain.mine else None, others=[_said(one) for one in domain.others], stands=_said(domain.stands) if domain.stands else None,
        state=domain.state, proposed=_proposed(domain.proposed),
    )  # fmt: skip


@router.get("")
def appraised(member: AsMember) -> AppraisalTable:
    """The form, and every included study as it stands for oneself."""
    form, version, studies = appraisal.appraised(member.review, member.account)
    return AppraisalTable(
        form=_wire(form), version=version,
        studies=[
            AppraisedStudy(
                id=study.id, label=study.label, domains={key: DomainState(**one._asdict()) for key, one in study.domains.items()}, whole=_proposed(study.whole)
            )
            for study in studies
        ],
    )  # fmt: skip


@router.get("/form")
def form(member: AsMember) -> KeptForm:
    """The form that holds."""
    one, version = appraisal.form(member.review)
    return KeptForm(form=_wire(one), version=version)


@router.post("/form/preview")
def preview_form(said: AppraisalForm, member: AsMember) -> TouchedJudgements:
    """What another form would do to judgements."""
    return TouchedJudgements(**appraisal.preview(member.review, _form(said))._asdict())


@router.put("/form")
def set_form(said: SetForm, member: AsLead) -> KeptForm:
    """Keep another version of the form."""
    appraisal.set_form(member.review, member.account, _form(said.form), said.seen, agreed=said.agreed)
    return form(member)


@router.post("/form/from-file")
def form_from_file(said: FormFile, member: AsReviewer) -> AppraisalForm:
    """A form from a TOML file, to be looked at before it is kept."""
    return _wire(appraisal.from_toml(said.text))


@router.get("/form.toml", response_class=Response)
def form_toml(member: AsMember) -> Response:
    """The form as a file."""
    return file_of(appraisal.as_toml(member.review), TOML, "appraisal-form.toml")


@router.get("/studies/{study}")
def of_study(study: int, member: AsMember) -> list[DomainOfStudy]:
    """All domains of a study."""
    return [_of_study(domain) for domain in appraisal.of_study(member.review, member.account, study)]


@router.put("/studies/{study}")
def say(study: int, said: SayOfDomain, member: AsReviewer) -> DomainOfStudy:
    """Say something of a domain of a study; how it stands then, and what the rules propose."""
    answers = {key: answer.model_dump() for key, answer in said.answers.items()}
    return _of_study(
        appraisal.say(member.review, member.account, appraisal.Said(study, said.domain, answers, said.judgement, said.reason, said.seen))
    )


@router.post("/settle", status_code=204)
def settle(said: SettleJudgement, member: AsReviewer) -> None:
    """Say what stands where two judged differently."""
    appraisal.settle(member.review, member.account, said.study, said.domain, said.judgement, said.reason, of=said.of, seen=said.seen)


@router.post("/reopen", status_code=204)
def reopen(said: ReopenJudgement, member: AsReviewer) -> None:
    """Take back how it was settled."""
    appraisal.reopen(member.review, member.account, said.study, said.domain)


def _drawing(review: int, kind: str, palette: picture.Palette = picture.PAPER) -> str:
    form, studies = appraisal.judged(review)
    return (appraisal_picture.bars if kind == "bars" else appraisal_picture.table)(form, studies, palette)


Kind = Literal["table", "bars"]


@router.get("/picture.svg", response_class=Response)
def picture_svg(member: AsMember, kind: Kind = "table", screen: bool = False) -> Response:
    """Studies by domains, or the share of each judgement, as SVG; with ``screen`` in the theme's colours."""
    if screen:
        return Response(_drawing(member.review, kind, picture.SCREEN), media_type="image/svg+xml")
    return file_of(_drawing(member.review, kind), "image/svg+xml", f"appraisal-{kind}.svg")


@router.get("/picture.png", response_class=Response)
def picture_png(member: AsMember, kind: Kind = "table") -> Response:
    """The same as PNG."""
    return file_of(picture.png(_drawing(member.review, kind)), "image/png", f"appraisal-{kind}.png")


@router.get("/picture.pdf", response_class=Response)
def picture_pdf(member: AsMember, kind: Kind = "table") -> Response:
    """The same as PDF."""
    return file_of(picture.pdf(_drawing(member.review, kind)), "application/pdf", f"appraisal-{kind}.pdf")


@router.get("/judgements.csv", response_class=Response)
def judgements_csv(member: AsMember) -> Response:
    """Answers with their support, and judgements with their reasons, as CSV."""
    return csv_of(appraisal.rows(member.review), "appraisal.csv")
