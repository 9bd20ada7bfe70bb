"""The query: its three views, trials, versions."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.files import csv_of
from kettlesort.core import query as core
from kettlesort.core.query import limits
from kettlesort.work import query
from kettlesort.work.errors import Invalid

router = APIRouter(prefix="/api/reviews/{review}/query", tags=["query"])
MOST = 2 * core.LONGEST
"""Longer text is refused before it is read; from half of this on it is refused with what to do."""


class QueryConcept(BaseModel):
    label: str = Field("", max_length=MOST)
    joint: Literal["any", "all"] = "any"
    terms: list[str] = Field(max_length=50_000)
    left_out: bool = False
    fields: list[str] = Field([], max_length=5)


class Written(BaseModel):
    """A query in one of its views."""

    text: str | None = Field(None, max_length=MOST)
    lines: list[str] | None = Field(None, max_length=1000)
    concepts: list[QueryConcept] | None = Field(None, max_length=200)


class QueryNote(BaseModel):
    message: str
    begin: int
    end: int


class QueryProblem(BaseModel):
    """What cannot be read: characters ``begin`` to ``end``, of the text, of line ``line``, or of term ``term`` of concept ``concept``, from 0."""

    message: str
    begin: int
    end: int
    expected: str
    mend: str
    line: int | None = None
    concept: int | None = None
    term: int | None = None


class Read(BaseModel):
    """The query in all its views, or what is wrong with it; ``typed`` are the terms of concepts as they came, each as a term of the query."""

    text: str
    typed: list[list[str]]
    concepts: list[QueryConcept]
    lines: list[str]
    notes: list[QueryNote]
    problem: QueryProblem | None


class Asked(BaseModel):
    text: str = Field(max_length=MOST)


class QueryBranch(BaseModel):
    path: list[int]
    text: str
    query: str
    label: str
    joint: Literal["", "any", "all", "not", "in", "near"]
    hits: int
    seeds: list[int]
    without_hits: int | None
    adds: int | None
    lost_seeds: list[int]
    remark: str


class TrialSeed(BaseModel):
    id: int
    title: str
    authors: list[str]
    year: int | None
    found: bool


class Counted(BaseModel):
    """A value of a field, how many hits have it, and the term to which a query is limited by it."""

    value: str
    count: int
    term: str


class Interval(BaseModel):
    low: float
    high: float


class QueryTrial(BaseModel):
    branches: list[QueryBranch]
    seeds: list[TrialSeed]
    records: int
    recall: Interval | None
    breakdown: dict[str, list[Counted]]


class NewStep(BaseModel):
    text: str = Field(max_length=MOST)
    note: str = Field("", max_length=500)
    keep: bool = False


class QueryStep(BaseModel):
    id: int
    text: str
    note: str
    version: int | None
    at: datetime
    by: str
    hits: int
    seeds: int


class Steps(BaseModel):
    steps: list[QueryStep]
    seeds: int


class Two(BaseModel):
    one: str = Field(max_length=MOST)
    other: str = Field(max_length=MOST)


class SeedTitle(BaseModel):
    id: int
    title: str


class Comparison(BaseModel):
    """``found_by_one`` and ``found_by_other`` are the queries of what each alone finds."""

    both: int
    only_one: int
    only_other: int
    found_by_one: str
    found_by_other: str
    seeds_one: list[SeedTitle]
    seeds_other: list[SeedTitle]


@router.post("/read")
def read(said: Written, member: AsMember) -> Read:
    """Read a query in one view, and write it in all of them. What cannot be read is said, not refused."""
    try:
        node, notes = _node_of(said)
    except _Wrong as wrong:
        return Read(text=said.text or "", typed=_typed(said), concepts=[], lines=[], notes=[], problem=wrong.problem)
    concepts = [
        QueryConcept(
            label=concept.label,
            joint=concept.joint,
            terms=[core.beside(term) for term in concept.terms],
            left_out=concept.left_out,
            fields=list(concept.fields),
        )
        for concept in core.concepts_of(node)
    ]
    return Read(
        text=core.write(node),
        typed=_typed(said),
        concepts=concepts,
        lines=core.lines_of(node),
        notes=[QueryNote.model_validate(note._asdict()) for note in notes],
        problem=None,
    )


def _typed(said: Written) -> list[list[str]]:
    return [[core.as_term(term) for term in concept.terms] for concept in said.concepts or ()]


class _Wrong(Exception):
    def __init__(self, error: core.NotAQuery, **where: int) -> None:
        super().__init__(error.message)
        self.problem = problem_of(error, **where)


def problem_of(error: core.NotAQuery, **where: int) -> QueryProblem:
    """What is wrong with a query."""
    return QueryProblem(message=error.message, begin=error.begin, end=error.end, expected=error.expected, mend=error.mend, **where)


def _node_of(said: Written) -> tuple[core.Node, list[core.Note]]:
    try:
        if said.concepts is not None:
            return core.of_concepts([_concept_of(concept, k) for k, concept in enumerate(said.concepts)]), []
        if said.lines is not None:
            return core.of_lines(said.lines), []
        parsed = core.parse(said.text or "")
    except core.BadLine as error:
        raise _Wrong(error, line=error.line - 1) from None
    except core.NotAQuery as error:
        raise _Wrong(error) from None
    return parsed.node, parsed.notes


def _concept_of(said: QueryConcept, place: int) -> core.Concept:
    terms = []
    for k, text in enumerate(said.terms):
        if text.strip():
            try:
                terms.append(core.parse(core.as_term(text)).node)
            except core.NotAQuery as error:
                raise _Wrong(error, concept=place, term=k) from None
    label = " ".join(said.label.replace("[", " ").replace("]", " ").split())
    return core.Concept(label, said.joint, tuple(terms), said.left_out, tuple(said.fields))


class ToLimit(Asked):
    """A query, and a term to which it is to be limited, or that is to be ``left_out``."""

    term: str = Field(max_length=1000)
    left_out: bool = False


class Composed(BaseModel):
    text: str


@router.post("/limited")
def limited(said: ToLimit, member: AsMember) -> Composed:
    """A query limited to a term, or without it."""
    node, term = query.node_of(said.text), query.node_of(said.term)
    return Composed(text=core.write(core.Without(node, term) if said.left_out else core.limited_to(node, term)))


@router.post("/trial")
def trial(said: Asked, member: AsMember) -> QueryTrial:
    """Try a query on the records of the review."""
    tried = query.try_on_records(member.review, said.text)
    found = set(tried.trial.branches[0].seeds)
    return QueryTrial(
        branches=[
            QueryBranch(
                path=list(branch.path),
                text=branch.text,
                query=branch.query,
                label=_label(branch.node),
                joint=_joint(branch.node),
                hits=branch.hits,
                seeds=list(branch.seeds),
                without_hits=branch.without_hits,
                adds=branch.adds,
                lost_seeds=list(branch.lost_seeds),
                remark=branch.remark,
            )
            for branch in tried.trial.branches
        ],
        seeds=[TrialSeed(**seed, found=k in found) for k, seed in enumerate(tried.seeds)],
        records=tried.records,
        recall=Interval(low=tried.recall[0], high=tried.recall[1]) if tried.recall else None,
        breakdown={
            field: [Counted(value=value, count=n, term=limits.term(field, value)) for value, n in counted]
            for field, counted in tried.breakdown.items()
        },
    )


_JOINTS: dict[type[core.Node], Literal["not", "in", "near"]] = {core.Without: "not", core.In: "in", core.Near: "near"}


def _joint(node: core.Node) -> Literal["", "any", "all", "not", "in", "near"]:
    return node.joint if isinstance(node, core.Group) else _JOINTS.get(type(node), "")


def _label(node: core.Node) -> str:
    return node.label if isinstance(node, core.Group) else ", ".join(node.fields) if isinstance(node, core.In) else ""


class Variant(BaseModel):
    term: str
    why: str
    records: int


@router.post("/variants")
def variants(said: Asked, member: AsMember) -> list[Variant]:
    """Other forms of a term that stand in the records."""
    found = query.variants_of(member.review, said.text)
    return [Variant(term=core.write(core.Text(variant.words)), why=variant.why, records=variant.records) for variant in found]


class ToSuggest(BaseModel):
    concepts: list[QueryConcept] = Field(max_length=200)
    concept: int = Field(ge=0)


class Suggestion(BaseModel):
    """A term for a concept; ``brings`` is how many more records the query would find with it."""

    term: str
    origin: Literal["vocabulary", "seeds", "hits"]
    records: int
    brings: int
    seeds: int


@router.post("/suggestions")
def suggestions(said: ToSuggest, member: AsMember) -> list[Suggestion]:
    """Terms for a concept, from vocabularies, seeds, and what the query finds now."""
    try:
        concepts = [_concept_of(concept, k) for k, concept in enumerate(said.concepts)]
    except _Wrong as wrong:
        raise Invalid(f"The query cannot be read: {wrong}", field="concepts") from None
    return [
        Suggestion(**{**suggestion._asdict(), "term": core.write(core.Text(tuple(suggestion.term.split())))})
        for suggestion in query.suggest(member.review, concepts, said.concept)
    ]


class MinedWord(BaseModel):
    """``terms`` are how it goes into the query; ``found_by`` finds the records that have it."""

    terms: list[str]
    found_by: str
    term: str
    forms: list[str]
    seeds: int
    title: int
    abstract: int
    keyword: int
    weight: float
    records: int
    special: float


class MinedWords(BaseModel):
    words: list[MinedWord]
    seeds: int
    others: int


def _settings(
    longest: int = Query(3, ge=1, le=6),
    least: int = Query(2, ge=1, le=1000),
    title: float = Query(3, ge=0, le=100),
    abstract: float = Query(1, ge=0, le=100),
    keyword: float = Query(2, ge=0, le=100),
    common: bool = False,
    stems: bool = False,
) -> core.Settings:
    return core.Settings(longest, least, title, abstract, keyword, common, stems)


Mining = Annotated[core.Settings, Depends(_settings)]


@router.get("/words")
def words(member: AsMember, settings: Mining) -> MinedWords:
    """The words and phrases of the seeds, beside how common they are in the other records."""
    found, seeds, others = query.words_of_seeds(member.review, settings)
    words = [
        {
            **mined._asdict(),
            "terms": [core.as_term(said) for said in (mined.forms if settings.stems else [mined.term])],
            "found_by": " OR ".join(core.as_term(said) for said in mined.forms),
        }
        for mined in found
    ]
    return MinedWords(words=[MinedWord.model_validate(word) for word in words], seeds=seeds, others=others)


@router.get("/words.csv", response_class=Response)
def words_csv(member: AsMember, settings: Mining) -> Response:
    """The same as a table."""
    found, seeds, others = query.words_of_seeds(member.review, settings)
    head = (
        "term",
        "forms",
        f"seeds, of {seeds}",
        "in titles",
        "in abstracts",
        "in descriptors",
        "weight",
        f"other records, of {others}",
        "log-likelihood ratio",
    )
    rows = [(mined.term, "; ".join(mined.forms), *mined[2:8], round(mined.special, 2)) for mined in found]
    return csv_of([head, *rows], "words.csv")


@router.get("/steps")
def steps(member: AsMember) -> Steps:
    """The history of the query, newest first."""
    found, seeds = query.steps(member.review)
    return Steps(steps=[QueryStep(**step.row, hits=step.hits, seeds=step.seeds) for step in found], seeds=seeds)


@router.post("/steps", status_code=201)
def take_step(said: NewStep, member: AsReviewer) -> Steps:
    """Write down that a query was tried, or keep it as a version."""
    query.take_step(member.review, member.account, said.text, said.note, keep=said.keep)
    return steps(member)


@router.post("/compare")
def compare(said: Two, member: AsMember) -> Comparison:
    """Two queries side by side."""
    comparison = query.compare(member.review, said.one, said.other)
    return Comparison(
        both=comparison.both,
        only_one=comparison.only[0],
        only_other=comparison.only[1],
        found_by_one=limits.without(said.one, said.other),
        found_by_other=limits.without(said.other, said.one),
        seeds_one=[SeedTitle(id=seed["id"], title=seed["title"]) for seed in comparison.seeds[0]],
        seeds_other=[SeedTitle(id=seed["id"], title=seed["title"]) for seed in comparison.seeds[1]],
    )
