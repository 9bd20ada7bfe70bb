"""The rule of matching, trials, checks by hand."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.files import TOML, file_of
from kettlesort.api.match import Side, Told, side
from kettlesort.core import matching
from kettlesort.core.matching import ALIKE, Rule
from kettlesort.core.matching.rule import CLOSELY, FIELDS, FINDING
from kettlesort.work import checks, rules, trials
from kettlesort.work.match import chances

router = APIRouter(prefix="/api/reviews/{review}", tags=["match"])


class LookAlike(BaseModel):
    name: str
    says: str
    then: str
    related: bool
    left_apart: int


class CurvePoint(BaseModel):
    weight: float
    links: int
    wrong: float
    missed: float


class MatchingRule(Rule):
    """The team's rule, under a name of its own on the wire."""


def _ruled(rule: Rule) -> MatchingRule:
    return MatchingRule.model_validate(rule.model_dump())


class RuleInForce(BaseModel):
    rule: MatchingRule
    text: str
    own: bool
    """Whether the team has set a rule."""
    join_from: float
    ask_from: float
    records: int
    """From how many records was learnt."""
    curve: list[CurvePoint]
    alike: list[LookAlike]
    fields: list[str]
    closely: list[str]
    finding: list[str]


class RuleText(BaseModel):
    text: str = Field(max_length=60_000)


class RuleVersion(BaseModel):
    version: int
    name: str
    text: str
    at: datetime
    by: str


class CheckedRule(BaseModel):
    rule: MatchingRule
    text: str


class RuleDraft(BaseModel):
    rule: dict[str, Any]


class Reach(BaseModel):
    name: str
    then: str
    holds: int
    alone: int
    adds: int
    edge: int


class TrialSummary(BaseModel):
    copies: int = 0
    records_before: int = 0
    records_after: int = 0
    questions_before: int = 0
    questions_after: int = 0
    join: int = 0
    part: int = 0
    ask: int = 0
    answer: int = 0
    edge: int = 0
    join_from: float = 0
    ask_from: float = 0
    by_weights: int = 0
    kinds: dict[str, int] = {}
    passes: list[Reach] = []


class TrialOf(BaseModel):
    id: int
    name: str
    text: str
    state: str
    job: str | None
    holds: bool
    """Whether the review is as it was when this was tried."""
    summary: TrialSummary
    at: datetime
    by: str
    applied_at: datetime | None
    undone_at: datetime | None


class MadeTrial(BaseModel):
    id: int


class TriedPair(BaseModel):
    left: Side
    right: Side
    score: float
    verdict: str
    how: str
    kind: str
    edge: str


class TriedPairs(BaseModel):
    total: int
    pairs: list[TriedPair]


class Draw(BaseModel):
    of: Literal["joined", "apart"]
    size: int = Field(50, ge=1, le=500)


class SampleOf(BaseModel):
    id: int
    of: str
    population: int
    size: int
    answered: int
    wrong: int
    share: float
    low: float
    high: float
    at: datetime
    by: str


class SampledPair(BaseModel):
    id: int
    left: Side
    right: Side
    score: float
    same: bool | None


class Checked(BaseModel):
    same: bool | None


@router.get("/match-rule")
def rule_in_force(member: AsMember) -> RuleInForce:
    """The rule in force, from where it joins and asks, and what is to be expected of other settings."""
    rule, own = rules.current(member.review)
    known = chances(member.review, rule)
    alike = [
        LookAlike(name=one.name, says=one.says, then=rule.then(k), related=one.related, left_apart=known.kinds.get(one.name, 0))
        for k, one in enumerate(ALIKE, 1)
    ]
    return RuleInForce(
        rule=_ruled(rule), text=rule.text(), own=own, join_from=known.join_from, ask_from=known.ask_from, records=known.records,
        curve=[CurvePoint(weight=a, links=b, wrong=c, missed=d) for a, b, c, d in known.curve], alike=alike,
        fields=list(FIELDS), closely=list(CLOSELY), finding=sorted(FINDING),
    )  # fmt: skip


@router.get("/match-rule/versions")
def rule_versions(member: AsMember) -> list[RuleVersion]:
    """All versions of the rule."""
    return [
        RuleVersion(
            version=version["version"],
            name=matching.rule_of(version["text"]).name,
            text=version["text"],
            at=version["at"],
            by=version["by"],
        )
        for version in rules.versions(member.review)
    ]


@router.get("/match-rule/export")
def export_rule(member: AsMember) -> Response:
    """The rule in force as the file that it is."""
    text = rules.current(member.review)[0].text()
    return file_of(text, TOML, "matching-rule.toml")


@router.post("/match-rule/read")
def read_rule(said: RuleText, member: AsMember) -> CheckedRule:
    """A rule from its file, or what is wrong with it."""
    rule = rules.rule_from(said.text)
    return CheckedRule(rule=_ruled(rule), text=rule.text())


@router.post("/match-rule/check")
def check_rule(draft: RuleDraft, member: AsMember) -> CheckedRule:
    """A rule as it was put together on the screen, as a file, or what is wrong with it."""
    rule = rules.rule_of_parts(draft.rule)
    return CheckedRule(rule=_ruled(rule), text=rule.text())


def _trial(found: Any, holds: bool) -> TrialOf:
    return TrialOf(
        id=found["id"], name=matching.rule_of(found["rule"]).name, text=found["rule"], state=found["state"], job=found["job"], holds=holds,
        summary=TrialSummary.model_validate(found["summary"] or {}), at=found["at"], by=found["by"], applied_at=found["applied_at"], undone_at=found["undone_at"],
    )  # fmt: skip


@router.get("/trials")
def all_trials(member: AsMember) -> list[TrialOf]:
    """All trials, the latest first."""
    return [_trial(trial, True) for trial in trials.trials(member.review)]


@router.post("/trials")
def begin_trial(said: RuleText, member: AsReviewer) -> MadeTrial:
    """Try a rule beside what stands."""
    return MadeTrial(id=trials.begin(member.review, member.account, said.text))


@router.get("/trials/{trial}")
def one_trial(trial: int, member: AsMember) -> TrialOf:
    """One trial: what it would change, by count."""
    return _trial(*trials.trial_of(member.review, trial))


@router.get("/trials/{trial}/pairs")
def trial_pairs(
    trial: int, member: AsMember, change: Literal["join", "part", "ask", "answer", "edge"] = "join", how: str = Query("", max_length=100),
    offset: int = Query(0, ge=0), limit: int = Query(50, ge=1, le=200),
) -> TriedPairs:  # fmt: skip
    """What a trial would change, pair by pair, the least certain first."""
    total, found = trials.pairs(member.review, trial, change, how, offset, limit)
    pairs = [
        TriedPair(
            left=side(a), right=side(b), score=row["score"], verdict=row["verdict"], how=row["how"], kind=row["kind"], edge=row["edge"]
        )
        for row, a, b in found
    ]
    return TriedPairs(total=total, pairs=pairs)


@router.post("/trials/{trial}/apply", status_code=204)
def apply_trial(trial: int, member: AsReviewer) -> None:
    """Let a trial hold, in one stroke."""
    trials.apply(member.review, member.account, trial)


@router.post("/trials/{trial}/undo", status_code=204)
def undo_trial(trial: int, member: AsReviewer) -> None:
    """Take an applied trial back, in one stroke."""
    trials.undo(member.review, member.account, trial)


@router.get("/samples")
def all_samples(member: AsMember) -> list[SampleOf]:
    """Samples checked by hand, and the errors estimated from them."""
    return [
        SampleOf(
            id=sample.row["id"], of=sample.row["of"], population=sample.row["population"], size=sample.size, answered=sample.answered, wrong=sample.wrong,
            share=sample.estimate.share, low=sample.estimate.low, high=sample.estimate.high, at=sample.row["at"], by=sample.row["by"],
        )
        for sample in checks.samples(member.review)
    ]  # fmt: skip


@router.post("/samples")
def draw_sample(said: Draw, member: AsReviewer) -> MadeTrial:
    """Draw a sample of what was joined, or left apart."""
    return MadeTrial(id=checks.draw(member.review, member.account, said.of, said.size))


@router.get("/samples/{sample}")
def sample_pairs(sample: int, member: AsMember) -> list[SampledPair]:
    """The pairs of a sample."""
    return [
        SampledPair(id=pair["id"], left=side(a), right=side(b), score=pair["score"], same=pair["same"])
        for pair, a, b in checks.pairs(member.review, sample)
    ]


@router.put("/sampled-pairs/{pair}")
def check_pair(pair: int, said: Checked, member: AsReviewer) -> Told:
    """Say what a pair of a sample is; a wrong one is mended."""
    return Told(disagreements=list(checks.answer(member.review, member.account, pair, said.same)))
