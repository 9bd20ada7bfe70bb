"""An analysis looked at: a closer look at two sides, and the pictures of all."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from kettlesort.api.access import AsMember
from kettlesort.api.files import file_of
from kettlesort.api.pool_wire import PooledStudies, pooled_out
from kettlesort.api.pooling import Without
from kettlesort.core import picture
from kettlesort.core.pooling import pictures, words
from kettlesort.core.pooling.forest import Width
from kettlesort.work import pool_out, pooling
from kettlesort.work.pool_closer import Moderated, closer

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


Plot = Literal["forest", "funnel", "bubble", "labbe", "curve", "treatments"]
Moderator = Annotated[int, Query(ge=0, le=20)]
_DRAWN: dict[str, Callable[[int, int, picture.Palette, list[str]], str]] = {
    "funnel": pool_out.funnel, "labbe": pool_out.labbe, "curve": pool_out.curve, "treatments": pool_out.network,
}  # fmt: skip


def _drawn(
    review: int,
    number: int,
    plot: Plot,
    palette: picture.Palette,
    without: list[str],
    moderator: int = 0,
    width: Width = "page",
    *,
    link: bool = False,
) -> str:
    if plot == "forest":
        return pool_out.forest(review, number, palette, without, width=width, link=link)
    if plot == "bubble":
        return pool_out.bubble(review, number, palette, moderator, without)
    return _DRAWN[plot](review, number, palette, without)


@router.get("/{analysis}/{plot}.svg", response_class=Response)
def plot_svg(
    analysis: int, plot: Plot, member: AsMember, without: Without, screen: bool = False, moderator: Moderator = 0, width: Width = "page"
) -> Response:
    """A picture as SVG; with ``screen`` in the theme's colours, each study of a forest plot a link to its cell. That has the ``width`` of a page or of a column."""
    if screen:
        drawn = _drawn(member.review, analysis, plot, picture.SCREEN, without, moderator, width, link=True)
        return Response(drawn, media_type="image/svg+xml")
    return _as_file("svg", _drawn(member.review, analysis, plot, picture.PAPER, without, moderator, width), plot)


@router.get("/{analysis}/{plot}.png", response_class=Response)
def plot_png(analysis: int, plot: Plot, member: AsMember, without: Without, moderator: Moderator = 0, width: Width = "page") -> Response:
    """The same as PNG."""
    return _as_file("png", _drawn(member.review, analysis, plot, picture.PAPER, without, moderator, width), plot)


@router.get("/{analysis}/{plot}.pdf", response_class=Response)
def plot_pdf(analysis: int, plot: Plot, member: AsMember, without: Without, moderator: Moderator = 0, width: Width = "page") -> Response:
    """The same as PDF."""
    return _as_file("pdf", _drawn(member.review, analysis, plot, picture.PAPER, without, moderator, width), plot)


_TYPES = {"svg": "image/svg+xml", "png": "image/png", "pdf": "application/pdf"}


def _as_file(kind: str, drawing: str, plot: Plot) -> Response:
    return file_of(pictures.drawn(drawing, kind), _TYPES[kind], f"{plot}.{kind}")
