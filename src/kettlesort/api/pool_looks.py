"""An analysis looked at: a closer look at two sides, a network of several treatments, and the pictures of both."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from kettlesort.api.access import AsMember
from kettlesort.api.files import file_of
from kettlesort.api.pooling import AnalysisText, PooledEstimate, PooledStudies, Without, estimate_out, pooled_out, text_of
from kettlesort.core import picture
from kettlesort.core.pooling import words
from kettlesort.core.pooling.network import Spread
from kettlesort.work import pool_out, pooling
from kettlesort.work.pool_closer import Moderated, closer
from kettlesort.work.pool_network import NetworkResult

router = APIRouter(prefix="/api/reviews/{review}/analyses", tags=["pool"])


class NamedPooled(BaseModel):
    name: str
    pooled: PooledStudies | None


class AsymmetryTest(BaseModel):
    intercept: float
    se: float
    t: float | None
    df: int
    p: float | None


class InfluentialStudy(BaseModel):
    """What a study carries: studentised residual, Cook's distance, hat value, and τ² and Q without it."""

    name: str
    residual: float | None
    cook: float | None
    hat: float
    tau2: float | None
    q: float | None
    stands_out: bool


class Tau2Interval(BaseModel):
    """Where the likelihood of τ² is highest, its interval by the likelihood ratio and by Q."""

    best: float
    low: float
    high: float
    q_low: float
    q_high: float


class Coefficient(BaseModel):
    """A coefficient of a meta-regression, on the scale of the axis (logarithms for ratios)."""

    name: str
    estimate: float
    se: float | None
    low: float | None
    high: float | None
    p: float | None


class MetaRegression(BaseModel):
    """Effects on moderators; without coefficients where ``k`` studies are too few. ``lacking``: studies without a figure."""

    names: list[str]
    k: int
    coefficients: list[Coefficient]
    tau2: float | None
    qe: float | None
    qe_df: int
    qe_p: float | None
    qm: float | None
    qm_df: list[int]
    qm_p: float | None
    r2: float | None
    lacking: list[str]


class CloserLook(BaseModel):
    """The same without each study, with one after another, by every model, by moderators, and what each study carries."""

    without: list[NamedPooled]
    added: list[NamedPooled]
    ways: list[NamedPooled]
    asymmetry: AsymmetryTest | None
    influence: list[InfluentialStudy]
    tau2: Tau2Interval | None
    moderated: MetaRegression | None
    k: int


class StudyInNetwork(BaseModel):
    study: int
    label: str
    columns: list[str]
    cells: list[str]
    out: bool
    why_not: str


class NetworkComparison(BaseModel):
    """Treatments ``a`` against ``b``, by their positions: the whole network, the studies that compare them, what goes around, and whether the two differ."""

    a: int
    b: int
    network: PooledEstimate
    studies: int
    direct: PooledEstimate | None
    indirect: PooledEstimate | None
    difference: PooledEstimate | None


class RankedTreatment(BaseModel):
    """How sure a treatment is better than the others on average, its rank with its interval, and how likely it is the best."""

    treatment: int
    score: float
    rank: float
    low: float
    high: float
    best: float
    against_first: PooledEstimate | None


class NetworkSpread(BaseModel):
    q: float
    df: int
    p: float | None


class NetworkFigures(BaseModel):
    """What a network comes to. ``parts``: positions of treatments that hang together; figures are of the first."""

    treatments: list[str]
    people: list[float]
    parts: list[list[int]]
    studies: list[StudyInNetwork]
    used: int
    tau2: float | None
    league: list[NetworkComparison]
    ranking: list[RankedTreatment]
    q: NetworkSpread | None
    within: NetworkSpread | None
    between: NetworkSpread | None


class WholeNetwork(BaseModel):
    id: int
    version: int
    analysis: AnalysisText
    by: str
    at: datetime
    network: NetworkFigures


def _moderated(found: Moderated) -> MetaRegression:
    told = found.regression
    coefficients = [] if told is None else list(zip(("intercept", *found.names), told.coefficients, strict=True))
    return MetaRegression(
        names=found.names, k=len(found.used), lacking=found.lacking,
        coefficients=[
            Coefficient(name=name, estimate=one.estimate, se=one.se, low=one.ci[0] if one.ci else None, high=one.ci[1] if one.ci else None, p=one.p)
            for name, one in coefficients
        ],
        tau2=told.tau2 if told else None, qe=told.qe if told else None, qe_df=told.qe_df if told else 0, qe_p=told.qe_p if told else None, qm=told.qm if told else None,
        qm_df=[] if told is None else told.qm_df if isinstance(told.qm_df, list) else [told.qm_df], qm_p=told.qm_p if told else None, r2=told.r2 if told else None,
    )  # fmt: skip


@router.get("/{analysis}/closer")
def closer_look(analysis: int, member: AsMember, without: Without) -> CloserLook:
    """A closer look at an analysis of two sides."""
    opened = pooling.opened(member.review, analysis, without)
    found, ratio = closer(opened.table, opened.kept.said, opened.used), opened.kept.said.how.ratio
    tau2 = found.profile
    return CloserLook(
        without=[NamedPooled(name=name, pooled=pooled_out(one, ratio)) for name, one in found.without],
        added=[NamedPooled(name=name, pooled=pooled_out(one, ratio)) for name, one in found.added],
        ways=[NamedPooled(name=words.model(how), pooled=pooled_out(one, ratio)) for how, one in found.ways],
        asymmetry=AsymmetryTest(**found.asymmetry._asdict()) if found.asymmetry else None,
        influence=[InfluentialStudy(name=one.name, stands_out=one.stands_out, **one.influence._asdict()) for one in found.influence],
        tau2=Tau2Interval(best=tau2.best, low=tau2.low, high=tau2.high, q_low=tau2.q_low, q_high=tau2.q_high) if tau2 else None,
        moderated=_moderated(found.moderated) if found.moderated else None, k=found.k,
    )  # fmt: skip


def _spread(spread: Spread) -> NetworkSpread:
    return NetworkSpread(q=spread.total, df=spread.df, p=spread.p)


def _network(found: NetworkResult, ratio: bool) -> NetworkFigures:
    apart = {(one.a, one.b): one for one in found.apart}
    first = {one.b: one.estimate for one in found.league if one.a == 0}
    league = []
    for one in found.league:
        own = apart.get((one.a, one.b))
        league.append(
            NetworkComparison(
                a=one.a, b=one.b, network=estimate_out(one.estimate, ratio), studies=one.studies, direct=estimate_out(own.direct, ratio) if own else None,
                indirect=estimate_out(own.indirect, ratio) if own and own.indirect else None, difference=estimate_out(own.difference, ratio) if own and own.difference else None,
            )
        )  # fmt: skip
    ranking = []
    for treatment, score, rank in found.ranking:
        against = first.get(treatment)
        ranking.append(
            RankedTreatment(
                treatment=treatment, score=score, rank=rank.median, low=rank.low, high=rank.high, best=rank.best, against_first=estimate_out(pool_out.turned(against), ratio) if against else None
            )
        )  # fmt: skip
    whole = found.network
    return NetworkFigures(
        treatments=found.treatments, people=found.people, parts=found.parts, used=found.used, league=league, ranking=ranking,
        studies=[StudyInNetwork(study=row.study, label=row.label, columns=list(row.columns), cells=[pool_out.cell_key(at) for at in row.cells], out=row.out, why_not=row.why_not) for row in found.rows],
        tau2=whole.tau2 if whole else None, q=_spread(whole.q) if whole else None, within=_spread(whole.within) if whole else None, between=_spread(whole.between) if whole else None,
    )  # fmt: skip


@router.post("/preview-network")
def preview_network(said: AnalysisText, member: AsMember) -> NetworkFigures:
    """What a network would come to."""
    wording = said.wording
    return _network(pooling.preview_network(member.review, wording), wording.how.ratio)


@router.get("/{analysis}/network")
def network(analysis: int, member: AsMember, without: Without) -> WholeNetwork:
    """A network of several treatments and what it comes to, without some studies for a look."""
    kept, found = pooling.opened_network(member.review, analysis, without)
    return WholeNetwork(
        id=kept.id, version=kept.version, analysis=text_of(kept.said), by=kept.by, at=kept.at, network=_network(found, kept.said.how.ratio)
    )


Plot = Literal["forest", "funnel", "bubble", "labbe", "curve", "treatments"]
Moderator = Annotated[int, Query(ge=0, le=20)]
_DRAWN: dict[str, Callable[[int, int, picture.Palette], str]] = {
    "funnel": pool_out.funnel, "labbe": pool_out.labbe, "curve": pool_out.curve, "treatments": pool_out.network,
}  # fmt: skip


def _drawn(
    review: int, number: int, plot: Plot, palette: picture.Palette, without: list[int], moderator: int = 0, *, link: bool = False
) -> str:
    if plot == "forest":
        return pool_out.forest(review, number, palette, without, link=link)
    if plot == "bubble":
        return pool_out.bubble(review, number, palette, moderator)
    return _DRAWN[plot](review, number, palette)


@router.get("/{analysis}/{plot}.svg", response_class=Response)
def plot_svg(analysis: int, plot: Plot, member: AsMember, without: Without, screen: bool = False, moderator: Moderator = 0) -> Response:
    """A picture as SVG; with ``screen`` in the theme's colours, each study of a forest plot a link to its cell."""
    if screen:
        drawn = _drawn(member.review, analysis, plot, picture.SCREEN, without, moderator, link=True)
        return Response(drawn, media_type="image/svg+xml")
    return file_of(_drawn(member.review, analysis, plot, picture.PAPER, without, moderator), "image/svg+xml", f"{plot}.svg")


@router.get("/{analysis}/{plot}.png", response_class=Response)
def plot_png(analysis: int, plot: Plot, member: AsMember, moderator: Moderator = 0) -> Response:
    """The same as PNG."""
    return file_of(picture.png(_drawn(member.review, analysis, plot, picture.PAPER, [], moderator)), "image/png", f"{plot}.png")


@router.get("/{analysis}/{plot}.pdf", response_class=Response)
def plot_pdf(analysis: int, plot: Plot, member: AsMember, moderator: Moderator = 0) -> Response:
    """The same as PDF."""
    return file_of(picture.pdf(_drawn(member.review, analysis, plot, picture.PAPER, [], moderator)), "application/pdf", f"{plot}.pdf")
