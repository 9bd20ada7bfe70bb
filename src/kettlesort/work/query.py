"""Queries: reading them, trying them on the records of a review, keeping versions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from kettlesort.core import query
from kettlesort.core.query import Node, Trial
from kettlesort.store import query as store
from kettlesort.store.base import Row, scalar, snapshot
from kettlesort.store.query import QueryStep
from kettlesort.work.change import change
from kettlesort.work.errors import Invalid
from kettlesort.work.searchable import searchable
from kettlesort.work.vocabulary import narrower

STEPS = 40
MOST_BRANCHES = 1500
BREAKDOWNS = ("year", "type", "language", "journal", "descriptor")


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
        seeds = [it for it in store.seeds(db, review) if it["id"] in set(at.ids.tolist())]
    place = {int(record): k for k, record in enumerate(at.ids)}
    trial = query.try_on(node, at.texts, [place[it["id"]] for it in seeds], narrower(review))
    recall = query.recall_interval(len(trial.branches[0].seeds), len(seeds)) if seeds else None
    return Tried(trial, seeds, at.texts.size, recall, {field: at.texts.breakdown(trial.found, field) for field in BREAKDOWNS})


def words_of_seeds(review: int, settings: query.Settings) -> tuple[list[query.Mined], int, int]:
    """The words and phrases of the seeds beside the other records; how many seeds and others there are."""
    at = searchable(review)
    with snapshot() as db:
        wanted = {it["id"] for it in store.seeds(db, review)}
        found = store.searched(db, review, sorted(wanted))
    place = {int(record): k for k, record in enumerate(at.ids)}
    seeds = [query.SeedText(place[it["id"]], it["title"], it["abstract"], it["keywords"]) for it in found if it["id"] in place]
    try:
        return query.mine(seeds, at.texts, settings), len(seeds), at.texts.size - len(seeds)
    except ValueError as error:
        raise Invalid(f"These settings cannot be used: {error}.") from None


class Step(NamedTuple):
    """A step of the history, with what it finds in the records as they are now."""

    row: Row
    hits: int
    seeds: int


def steps(review: int) -> tuple[list[Step], int]:
    """The history of the query, newest first, and how many seeds there are."""
    with snapshot() as db:
        found = store.steps(db, review, STEPS)
        seeds = [it["id"] for it in store.seeds(db, review)]
    if not found:
        return [], len(seeds)
    at = searchable(review)
    is_seed, below = np.isin(at.ids, seeds), narrower(review)
    out = []
    for it in found:
        hits = query.find(node_of(it["text"]), at.texts, below)
        out.append(Step(it, int(np.count_nonzero(hits)), int(np.count_nonzero(hits & is_seed))))
    return out, len(seeds)


def take_step(review: int, account: int, text: str, note: str, *, keep: bool) -> int:
    """Write down that a query was tried, or keep it as a version; the same as the newest is kept without a new step."""
    text = query.write(node_of(text))
    with change(review, account, "query") as it:
        newest = scalar(it.db, "SELECT max(id) FROM query_step WHERE review_id = :v", v=review)
        step = it.db.get(QueryStep, newest) if newest else None
        if step is None or step.text != text or (note.strip() and step.note != note.strip()):
            before = step.text if step else None
            step = QueryStep(review_id=review, account_id=account, text=text, note=note.strip()[:500])
            it.db.add(step)
            it.event("plan.query_tried", step.note, before, text)
        if keep and step.version is None:
            step.version = (scalar(it.db, "SELECT max(version) FROM query_step WHERE review_id = :v", v=review) or 0) + 1
            it.event("plan.query_kept", f"Version {step.version}", None, text)
        it.db.flush()
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
        ([it for it in seeds if it["id"] in left_only], [it for it in seeds if it["id"] in right_only]),
    )
