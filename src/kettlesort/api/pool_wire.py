"""Analyses as they travel: what they pool, what they come to."""

from __future__ import annotations

import math
from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from kettlesort.api.chart import Number
from kettlesort.core.pooling.models import Estimate, Pooled
from kettlesort.core.pooling.network import Spread
from kettlesort.work import pool_out
from kettlesort.work.pool_network import NetworkResult
from kettlesort.work.pool_studies import Result
from kettlesort.work.pool_wording import Wording, as_data, part_key, wording_of
from kettlesort.work.pooling import Shown

Ids = Annotated[list[Number], Field(max_length=5000)]
PartKey = Annotated[str, Field(pattern=r"^[0-9]{1,18}(:[0-9]{1,18})?$", max_length=40)]
"""A study, or one comparison of it: ``12`` or ``12:3``."""


class AnalysisText(BaseModel):
    """What an analysis pools and how. ``arms`` against ``against``, several joined as one or with ``split`` each on its own; in a ``network`` all ``arms`` against each other,
    the first leading. ``group``: an item by whose values studies are grouped, 0 for their appraisal; ``moderators``: items that are numbers, 0 for the year. ``beside``: items whose
    values stand beside the names in the picture; ``hidden``: what it goes without."""

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
    left_out: Annotated[list[PartKey], Field(max_length=5000)] = []
    group: Annotated[int, Field(ge=0, lt=2**63)] | None = None
    order: Literal["name", "year", "effect", "weight", "people"] = "name"
    left: str = Field("", max_length=200)
    right: str = Field("", max_length=200)
    kind: Literal["pair", "network"] = "pair"
    split: bool = False
    moderators: Annotated[list[Annotated[int, Field(ge=0, lt=2**63)]], Field(max_length=20)] = []
    better: Literal["larger", "smaller"] = "larger"
    only: Annotated[int, Field(ge=0, lt=2**63)] | None = None
    among: Annotated[list[Annotated[str, Field(max_length=500)]], Field(max_length=200)] = []
    beside: Annotated[list[Number], Field(max_length=20)] = []
    hidden: Annotated[list[Literal["figures", "effect", "weight"]], Field(max_length=3)] = []

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
    """A study, or one comparison of it; ``key`` names what can be left out."""

    study: int
    key: str
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
    others: int


class WholeAnalysis(BaseModel):
    id: int
    version: int
    analysis: AnalysisText
    by: str
    at: datetime
    result: AnalysisResult | None
    network: NetworkFigures | None


class StudyInNetwork(BaseModel):
    study: int
    key: str
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
    others: int
    used: int
    tau2: float | None
    league: list[NetworkComparison]
    ranking: list[RankedTreatment]
    q: NetworkSpread | None
    within: NetworkSpread | None
    between: NetworkSpread | None


class NetworkInShort(BaseModel):
    """How many treatments a network has, of how many studies, in how many parts, and which of them ranks first."""

    treatments: int
    studies: int
    parts: int
    first: str


class AnalysisPreview(BaseModel):
    """What an analysis would come to: of two sides a ``result``, of several treatments a ``network``."""

    result: AnalysisResult | None
    network: NetworkFigures | None


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


class VersionOfAnalysis(BaseModel):
    """A version of an analysis; ``changed`` names what is other than in the one before."""

    version: int
    analysis: AnalysisText
    by: str
    at: datetime
    changed: list[str]


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


def result_out(result: Result, ratio: bool) -> AnalysisResult:
    """What an analysis of two sides comes to, on the scale of its measure."""
    return AnalysisResult(
        studies=[
            StudyInAnalysis(
                study=row.study, key=row.key, label=row.name, columns=list(row.columns), effect=estimate_out(row.effect, ratio) if row.effect else None, weight=row.weight,
                why_not=row.why_not, cells=[pool_out.cell_key(at) for at in row.cells], out=row.out, group=row.group,
            )
            for row in result.rows
        ],
        pooled=pooled_out(result.pooled, ratio),
        groups=[GroupOfStudies(name=name, pooled=found) for name, one in result.groups if (found := pooled_out(one, ratio))],
        between=BetweenGroups(**result.between._asdict()) if result.between else None,
        spread=pool_out.spread_in_words(result), others=result.others,
    )  # fmt: skip


def in_short(found: NetworkResult) -> NetworkInShort:
    """A network in a line."""
    first = found.treatments[found.ranking[0][0]] if found.ranking else ""
    return NetworkInShort(treatments=len(found.treatments), studies=found.used, parts=len(found.parts), first=first)


def text_of(wording: Wording) -> AnalysisText:
    """An analysis as it travels."""
    return AnalysisText.model_validate(as_data(wording))


def _spread(spread: Spread) -> NetworkSpread:
    return NetworkSpread(q=spread.total, df=spread.df, p=spread.p)


def network_out(found: NetworkResult, ratio: bool) -> NetworkFigures:
    """A network, on the scale of its measure."""
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
                treatment=treatment, score=score, rank=rank.median, low=rank.low, high=rank.high, best=rank.best, against_first=estimate_out(against.turned, ratio) if against else None
            )
        )  # fmt: skip
    whole = found.network
    return NetworkFigures(
        treatments=found.treatments, people=found.people, parts=found.parts, others=found.others, used=found.used, league=league, ranking=ranking,
        studies=[StudyInNetwork(study=row.study, key=part_key(row.study), label=row.label, columns=list(row.columns), cells=[pool_out.cell_key(at) for at in row.cells], out=row.out, why_not=row.why_not) for row in found.rows],
        tau2=whole.tau2 if whole else None, q=_spread(whole.q) if whole else None, within=_spread(whole.within) if whole else None, between=_spread(whole.between) if whole else None,
    )  # fmt: skip


def preview_out(shown: Shown, ratio: bool) -> AnalysisPreview:
    """What an analysis comes to, whichever it is."""
    return AnalysisPreview(
        result=result_out(shown.result, ratio) if shown.result else None,
        network=network_out(shown.network, ratio) if shown.network else None,
    )
