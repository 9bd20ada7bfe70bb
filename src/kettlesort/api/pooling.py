"""Analyses that pool what is charted: what they come to, pictures, figures."""

from __future__ import annotations

import math
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.chart import Number
from kettlesort.api.files import file_of
from kettlesort.core.formats import table
from kettlesort.core.pooling.models import Estimate, Pooled
from kettlesort.work import pool_out, pooling
from kettlesort.work.pool_network import NetworkResult
from kettlesort.work.pool_studies import Result
from kettlesort.work.pool_wording import Wording, as_data, wording_of

router = APIRouter(prefix="/api/reviews/{review}/analyses", tags=["pool"])
Ids = Annotated[list[Number], Field(max_length=5000)]
Without = Annotated[list[int], Query(default_factory=list, max_length=500)]
"""Studies that are left out for a look."""


class AnalysisText(BaseModel):
    """What an analysis pools and how. ``arms`` against ``against``, several joined as one or with ``split`` each on its own; in a ``network`` all ``arms`` against each other,
    the first leading. ``group``: an item by whose values studies are grouped, 0 for their appraisal; ``moderators``: items that are numbers, 0 for the year."""

    name: str = Field(max_length=300)
    measure: Literal["OR", "RR", "RD", "MD", "SMD", "GEN"]
    item: Number
    arms: Ids = []
    against: Ids = []
    outcome: Number | None = None
    time: Number | None = None
    se_item: Number | None = None
    model: Literal["fixed", "random"] = "random"
    tau2: Literal["REML", "DL", "PM", "ML", "HE", "SJ"] = "REML"
    hk: bool = False
    weights: Literal["iv", "mh", "peto"] = "iv"
    level: Annotated[float, Field(ge=0.5, lt=1)] = 0.95
    correction: Annotated[float, Field(ge=0, le=10)] = 0.5
    left_out: Ids = []
    group: Annotated[int, Field(ge=0, lt=2**63)] | None = None
    order: Literal["name", "year", "effect", "weight", "people"] = "name"
    left: str = Field("", max_length=200)
    right: str = Field("", max_length=200)
    kind: Literal["pair", "network"] = "pair"
    split: bool = False
    moderators: Annotated[list[Annotated[int, Field(ge=0, lt=2**63)]], Field(max_length=20)] = []
    better: Literal["larger", "smaller"] = "larger"

    @property
    def wording(self) -> Wording:
        """As the rules know it."""
        return wording_of(self.model_dump())


class SetAnalysis(BaseModel):
    """Another version of an analysis, made from the version ``seen``."""

    analysis: AnalysisText
    seen: int


class PooledEstimate(BaseModel):
    """A figure with its interval, on the scale of the measure (ratios as ratios)."""

    estimate: float | None
    low: float | None
    high: float | None
    se: float | None
    p: float | None


class PooledStudies(BaseModel):
    k: int
    pooled: PooledEstimate
    prediction: list[float] | None
    q: float
    q_df: int
    q_p: float
    i2: float
    tau2: float


class StudyInAnalysis(BaseModel):
    study: int
    label: str
    columns: list[str]
    effect: PooledEstimate | None
    weight: float
    why_not: str
    cells: list[str]
    out: bool
    group: str


class GroupOfStudies(BaseModel):
    name: str
    pooled: PooledStudies


class BetweenGroups(BaseModel):
    q: float | None
    q_df: int
    q_p: float | None


class AnalysisResult(BaseModel):
    """Studies with their effects, what they come to together and in groups; ``spread`` says in words how far they differ."""

    studies: list[StudyInAnalysis]
    pooled: PooledStudies | None
    groups: list[GroupOfStudies]
    between: BetweenGroups | None
    spread: str


class WholeAnalysis(BaseModel):
    id: int
    version: int
    analysis: AnalysisText
    by: str
    at: datetime
    result: AnalysisResult


class NetworkInShort(BaseModel):
    """How many treatments a network has, of how many studies, in how many parts, and which of them ranks first."""

    treatments: int
    studies: int
    parts: int
    first: str


class ListedAnalysis(BaseModel):
    """An analysis with what it comes to now, all together or as a network, or why it cannot be worked out any more."""

    id: int
    version: int
    analysis: AnalysisText
    by: str
    at: datetime
    pooled: PooledStudies | None
    network: NetworkInShort | None
    problem: str


class AnalysisInWords(BaseModel):
    """Two paragraphs with the sources that they name, numbered."""

    methods: str
    results: str
    sources: list[str]


class MadeAnalysis(BaseModel):
    id: int


def estimate_out(estimate: Estimate, ratio: bool) -> PooledEstimate:
    """An estimate, on the scale of its measure."""
    low, high = estimate.ci or (None, None)

    def shown(value: float | None) -> float | None:
        return value if value is None or not ratio else math.exp(value) if value < 700 else None

    return PooledEstimate(estimate=shown(estimate.estimate), low=shown(low), high=shown(high), se=estimate.se, p=estimate.p)


def pooled_out(pooled: Pooled | None, ratio: bool) -> PooledStudies | None:
    """Pooled studies, on the scale of the measure."""
    if pooled is None:
        return None
    ends = [math.exp(min(end, 700)) if ratio else end for end in pooled.prediction or ()]
    return PooledStudies(
        k=pooled.k, pooled=estimate_out(pooled.pooled, ratio), prediction=ends or None, q=pooled.q, q_df=pooled.q_df, q_p=pooled.q_p, i2=pooled.i2, tau2=pooled.tau2
    )  # fmt: skip


def _result(result: Result, ratio: bool) -> AnalysisResult:
    return AnalysisResult(
        studies=[
            StudyInAnalysis(
                study=row.study, label=row.name, columns=list(row.columns), effect=estimate_out(row.effect, ratio) if row.effect else None, weight=row.weight,
                why_not=row.why_not, cells=[pool_out.cell_key(at) for at in row.cells], out=row.out, group=row.group,
            )
            for row in result.rows
        ],
        pooled=pooled_out(result.pooled, ratio),
        groups=[GroupOfStudies(name=name, pooled=found) for name, one in result.groups if (found := pooled_out(one, ratio))],
        between=BetweenGroups(**result.between._asdict()) if result.between else None,
        spread=pool_out.spread_in_words(result),
    )  # fmt: skip


def _in_short(found: NetworkResult) -> NetworkInShort:
    first = found.treatments[found.ranking[0][0]] if found.ranking else ""
    return NetworkInShort(treatments=len(found.treatments), studies=found.used, parts=len(found.parts), first=first)


def text_of(wording: Wording) -> AnalysisText:
    """An analysis as it travels."""
    return AnalysisText.model_validate(as_data(wording))


@router.get("")
def analyses(member: AsMember) -> list[ListedAnalysis]:
    """Every analysis with what it comes to now."""
    return [
        ListedAnalysis(
            id=one.kept.id, version=one.kept.version, analysis=text_of(one.kept.said), by=one.kept.by, at=one.kept.at, pooled=pooled_out(one.pooled, one.kept.said.how.ratio),
            network=_in_short(one.network) if one.network else None, problem=one.problem,
        )
        for one in pooling.analyses(member.review)
    ]  # fmt: skip


@router.post("", status_code=201)
def make(said: AnalysisText, member: AsReviewer) -> MadeAnalysis:
    """Keep a new analysis."""
    return MadeAnalysis(id=pooling.keep(member.review, member.account, said.wording))


@router.post("/preview")
def preview(said: AnalysisText, member: AsMember) -> AnalysisResult:
    """What an analysis would come to."""
    wording = said.wording
    return _result(pooling.preview(member.review, wording), wording.how.ratio)


@router.get("/{analysis}")
def analysis(analysis: int, member: AsMember, without: Without) -> WholeAnalysis:
    """An analysis and what it comes to, without some studies for a look."""
    opened = pooling.opened(member.review, analysis, without)
    kept = opened.kept
    return WholeAnalysis(
        id=kept.id, version=kept.version, analysis=text_of(kept.said), by=kept.by, at=kept.at, result=_result(opened.result, kept.said.how.ratio)
    )  # fmt: skip


@router.get("/{analysis}/words")
def in_words(analysis: int, member: AsMember) -> AnalysisInWords:
    """An analysis as the methods and the results of a report would tell it."""
    words = pool_out.in_words(member.review, analysis)
    return AnalysisInWords(methods=words.methods, results=words.results, sources=[f"{k}. {said}" for k, said in words.sources])


@router.put("/{analysis}", status_code=204)
def change(analysis: int, said: SetAnalysis, member: AsReviewer) -> None:
    """Keep another version of an analysis."""
    pooling.keep(member.review, member.account, said.analysis.wording, analysis, said.seen)


@router.delete("/{analysis}", status_code=204)
def remove(analysis: int, member: AsReviewer) -> None:
    """Take an analysis out of sight."""
    pooling.remove(member.review, member.account, analysis)


@router.post("/{analysis}/back", status_code=204)
def bring_back(analysis: int, member: AsReviewer) -> None:
    """Bring an analysis back."""
    pooling.remove(member.review, member.account, analysis, back=True)


@router.get("/{analysis}/figures.csv", response_class=Response)
def figures_csv(analysis: int, member: AsMember) -> Response:
    """What an analysis is worked out from and comes to, as CSV."""
    return file_of(
        "\ufeff" + "".join(table.write_csv(pool_out.data_rows(member.review, analysis))), "text/csv; charset=utf-8", "analysis.csv"
    )
