"""Queries: reading them, trying them on the records of a review, keeping versions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np
from sqlmodel import col, select

from kettlesort.core import query
from kettlesort.core.query import Node, Trial
from kettlesort.core.query.words import words_of
from kettlesort.store import query as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.query import QueryStep
from kettlesort.work.change import changing
from kettlesort.work.errors import Invalid
from kettlesort.work.searchable import Searchable, searchable
from kettlesort.work.vocabulary import names_near, narrower

STEPS = 40
MOST_BRANCHES = 1500
BREAKDOWNS = ("year", "type", "language", "country", "journal", "descriptor")


def node_of(text: str) -> Node:
    """The query that a text says."""
    try:
        return query.parse(text).node
    except query.NotAQuery as error:
        raise Invalid(f"The query cannot be read: {error.message}", field="text") from None


def matching(review: int, text: str) -> list[int]:
    """The records that a query finds."""
    at = searchable(review)
    return [int(record) for record in at.ids[query.find(node_of(text), at.texts, narrower(review))]]


def count_descriptor(review: int, heading: str) -> tuple[int, int]:
    """How many records carry a descriptor: by itself, and with those below it."""
    at, below = searchable(review), narrower(review)
    alone, whole = (query.find(query.Descriptor(heading, "", wide), at.texts, below) for wide in (False, True))
    return int(np.count_nonzero(alone)), int(np.count_nonzero(whole))


class Tried(NamedTuple):
    """A query on trial: its branches, the seeds in the order that branches name them, and how what it finds divides."""

    trial: Trial
    seeds: Sequence[Row]
    records: int
    recall: tuple[float, float] | None
    breakdown: dict[str, list[tuple[str, int]]]


def try_on_records(review: int, text: str) -> Tried:
    """Try a query on the records of a review."""
    node = node_of(text)
    branches = sum(1 for _ in query.walk(node))
    if branches > MOST_BRANCHES:
        raise Invalid(f"A trial counts at most {MOST_BRANCHES:,} branches, and this query has {branches:,}. Try it in parts.", field="text")
    at = searchable(review)
    with snapshot() as db:
        seeds = [seed for seed in store.seeds(db, review) if seed["id"] in set(at.ids.tolist())]
    place = {int(record): k for k, record in enumerate(at.ids)}
    trial = query.try_on(node, at.texts, [place[seed["id"]] for seed in seeds], narrower(review))
    recall = query.recall_interval(len(trial.branches[0].seeds), len(seeds)) if seeds else None
    return Tried(trial, seeds, at.texts.size, recall, {field: at.texts.breakdown(trial.found, field) for field in BREAKDOWNS})


def words_of_seeds(review: int, settings: query.Settings) -> tuple[list[query.Mined], int, int]:
    """The words and phrases of the seeds beside the other records; how many seeds and others there are."""
    at = searchable(review)
    with snapshot() as db:
        wanted = [seed["id"] for seed in store.seeds(db, review)]
    seeds = _texts_of(review, at, wanted)
    try:
        return query.mine(seeds, at.texts, settings), len(seeds), at.texts.size - len(seeds)
    except ValueError as error:
        raise Invalid(f"These settings cannot be used: {error}.") from None


def telling_words(review: int, records: Sequence[int], most: int) -> list[query.Mined]:
    """The words and pairs of words that weigh most in some records."""
    at = searchable(review)
    return query.telling(query.mine(_texts_of(review, at, records), at.texts, query.Settings(longest=2, least=1)), most)


def _texts_of(review: int, at: Searchable, records: Sequence[int]) -> list[query.SeedText]:
    with snapshot() as db:
        found = store.searched(db, review, sorted(records))
    place = {int(record): k for k, record in enumerate(at.ids)}
    return [query.SeedText(place[row["id"]], row["title"], row["abstract"], row["keywords"]) for row in found if row["id"] in place]


def variants_of(review: int, text: str) -> list[query.Variant]:
    """Other forms of a term that stand in the records; none for what is no word or phrase."""
    node = node_of(text)
    return query.variants(node.words, searchable(review).texts) if isinstance(node, query.Text) else []


class Suggestion(NamedTuple):
    """A term for a concept: where it comes from, in how many records it is, how many more the query would find with it, and how many seeds have it."""

    term: str
    origin: Literal["vocabulary", "seeds", "hits"]
    records: int
    brings: int
    seeds: int


MOST_SUGGESTED = 40
_HITS_MINED = 150


def suggest(review: int, concepts: Sequence[query.Concept], place: int) -> list[Suggestion]:
    """Terms for a concept: names from the vocabularies, words special to the seeds, and words special to what the query finds now."""
    if not 0 <= place < len(concepts):
        raise Invalid("There is no such concept.", field="concept")
    at, below = searchable(review), narrower(review)
    with snapshot() as db:
        seeds = [seed["id"] for seed in store.seeds(db, review)]
    is_seed = np.isin(at.ids, seeds)

    def hits(node: Node) -> query.Hits:
        return query.find(node, at.texts, below)

    others = [concept for k, concept in enumerate(concepts) if k != place and concept.terms and not concept.left_out]
    base = np.ones(at.texts.size, np.bool_)
    for other in others:
        base &= hits(query.of_concepts([other]))
    own = (
        hits(query.of_concepts([concepts[place]._replace(left_out=False)])) if concepts[place].terms else np.zeros(at.texts.size, np.bool_)
    )
    known = {" ".join(words_of(query.write(term))) for concept in concepts for term in concept.terms}
    offered: dict[str, Literal["vocabulary", "seeds", "hits"]] = {}
    for name in names_near(review, concepts[place].terms):
        offered.setdefault(name.lower(), "vocabulary")
    for name in _special(review, at, seeds):
        offered.setdefault(name, "seeds")
    found = [int(k) for k in at.ids[base & own & ~is_seed][:_HITS_MINED]]
    for name in _special(review, at, found):
        offered.setdefault(name, "hits")
    out = []
    for name, origin in offered.items():
        words = tuple(words_of(name))
        if words and " ".join(words) not in known and not own.all():
            there = hits(query.Text(words))
            brings = int(np.count_nonzero(base & there & ~own))
            out.append(Suggestion(" ".join(words), origin, int(np.count_nonzero(there)), brings, int(np.count_nonzero(there & is_seed))))
    kept = [suggestion for suggestion in out if suggestion.records]
    return sorted(kept, key=lambda one: (("vocabulary", "seeds", "hits").index(one.origin), -one.seeds, -one.brings, one.term))[
        : 3 * MOST_SUGGESTED
    ]


def _special(review: int, at: Searchable, records: Sequence[int]) -> list[str]:
    """Words and phrases that are more often in some records than chance would have it, the most special first."""
    if len(records) < 2:
        return []
    texts = _texts_of(review, at, records)
    mined = query.mine(texts, at.texts, query.Settings(longest=2, least=max(2, len(texts) // 10)))
    return [one.term for one in sorted(mined, key=lambda each: -each.special) if one.special > 10.83][:MOST_SUGGESTED]


class Step(NamedTuple):
    """A step of the history, with what it finds in the records as they are now."""

    row: Row
    hits: int
    seeds: int


def steps(review: int) -> tuple[list[Step], int]:
    """The history of the query, newest first, and how many seeds there are."""
    with snapshot() as db:
        found = store.steps(db, review, STEPS)
        seeds = [seed["id"] for seed in store.seeds(db, review)]
    if not found:
        return [], len(seeds)
    at = searchable(review)
    is_seed, below = np.isin(at.ids, seeds), narrower(review)
    out = []
    for row in found:
        hits = query.find(node_of(row["text"]), at.texts, below)
        out.append(Step(row, int(np.count_nonzero(hits)), int(np.count_nonzero(hits & is_seed))))
    return out, len(seeds)


def take_step(review: int, account: int, text: str, note: str, *, keep: bool) -> int:
    """Write down that a query was tried, or keep it as a version; the same as the newest is kept without a new step."""
    text = query.write(node_of(text))
    with changing(review, account, "query") as change:
        step = change.db.exec(select(QueryStep).where(QueryStep.review_id == review).order_by(col(QueryStep.id).desc())).first()
        if step is None or step.text != text or (note.strip() and step.note != note.strip()):
            before = step.text if step else None
            step = QueryStep(review_id=review, account_id=account, text=text, note=note.strip()[:500])
            change.db.add(step)
            change.event("plan.query_tried", step.note, before, text)
        if keep and step.version is None:
            step.version = store.latest_version(change.db, review) + 1
            change.event("plan.query_kept", f"Version {step.version}", None, text)
        change.db.flush()
        return step.id or 0


class Comparison(NamedTuple):
    """What two queries find: both, and each alone; and the seeds that each alone finds."""

    both: int
    only: tuple[int, int]
    seeds: tuple[list[Row], list[Row]]


def compare(review: int, one: str, other: str) -> Comparison:
    """Two queries on the records of a review, side by side."""
    at = searchable(review)
    with snapshot() as db:
        seeds = store.seeds(db, review)
    below = narrower(review)
    left, right = (query.find(node_of(text), at.texts, below) for text in (one, other))
    left_only = set(at.ids[left & ~right].tolist())
    right_only = set(at.ids[right & ~left].tolist())
    return Comparison(
        int(np.count_nonzero(left & right)),
        (len(left_only), len(right_only)),
        ([seed for seed in seeds if seed["id"] in left_only], [seed for seed in seeds if seed["id"] in right_only]),
    )
