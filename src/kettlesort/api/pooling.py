"""Analyses that pool what is charted, and what they come to."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.files import csv_of
from kettlesort.api.pool_wire import (
    AnalysisInWords,
    AnalysisPreview,
    AnalysisText,
    ListedAnalysis,
    MadeAnalysis,
    PartKey,
    SetAnalysis,
    VersionOfAnalysis,
    WholeAnalysis,
    in_short,
    pooled_out,
    preview_out,
    text_of,
)
from kettlesort.work import pool_out, pooling

router = APIRouter(prefix="/api/reviews/{review}/analyses", tags=["pool"])
Without = Annotated[list[PartKey], Query(default_factory=list, max_length=500)]
"""What is left out for a look."""


@router.get("")
def analyses(member: AsMember) -> list[ListedAnalysis]:
    """Every analysis with what it comes to now."""
    return [
        ListedAnalysis(
            id=one.kept.id, version=one.kept.version, analysis=text_of(one.kept.said), by=one.kept.by, at=one.kept.at, pooled=pooled_out(one.pooled, one.kept.said.how.ratio),
            network=in_short(one.network) if one.network else None, problem=one.problem,
        )
        for one in pooling.analyses(member.review)
    ]  # fmt: skip


@router.post("", status_code=201)
def make(said: AnalysisText, member: AsReviewer) -> MadeAnalysis:
    """Keep a new analysis."""
    return MadeAnalysis(id=pooling.keep(member.review, member.account, said.wording))


@router.post("/preview")
def preview(said: AnalysisText, member: AsMember) -> AnalysisPreview:
    """What an analysis would come to."""
    wording = said.wording
    return preview_out(pooling.preview(member.review, wording), wording.how.ratio)


@router.get("/{analysis}")
def analysis(analysis: int, member: AsMember, without: Without) -> WholeAnalysis:
    """An analysis and what it comes to, without some studies for a look."""
    kept, shown = pooling.shown(member.review, analysis, without)
    told = preview_out(shown, kept.said.how.ratio)
    return WholeAnalysis(
        id=kept.id, version=kept.version, analysis=text_of(kept.said), by=kept.by, at=kept.at, result=told.result, network=told.network
    )


@router.get("/{analysis}/words")
def in_words(analysis: int, member: AsMember) -> AnalysisInWords:
    """An analysis as the methods and the results of a report would tell it."""
    words = pool_out.in_words(member.review, analysis)
    return AnalysisInWords(methods=words.methods, results=words.results, sources=[f"{k}. {said}" for k, said in words.sources])


@router.get("/{analysis}/versions")
def versions(analysis: int, member: AsMember) -> list[VersionOfAnalysis]:
    """Every version of an analysis, the newest first."""
    return [
        VersionOfAnalysis(version=one.kept.version, analysis=text_of(one.kept.said), by=one.kept.by, at=one.kept.at, changed=one.changed)
        for one in pooling.versions(member.review, analysis)
    ]


@router.put("/{analysis}", status_code=204)
def change(analysis: int, said: SetAnalysis, member: AsReviewer) -> None:
    """Keep another version of an analysis."""
    pooling.keep(member.review, member.account, said.analysis.wording, analysis, said.seen)


class Place(BaseModel):
    """A place among all analyses, from 0."""

    place: Annotated[int, Field(ge=0, lt=10_000)]


@router.put("/{analysis}/place", status_code=204)
def move(analysis: int, said: Place, member: AsReviewer) -> None:
    """Let an analysis stand elsewhere among the others."""
    pooling.move(member.review, member.account, analysis, said.place)


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
    return csv_of(pool_out.data_rows(member.review, analysis), "analysis.csv")
