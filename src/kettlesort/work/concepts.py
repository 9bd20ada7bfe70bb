"""The concepts of the codebook with the studies that state something under each."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from sqlmodel import Session

from kettlesort.core.charting import codebook as core
from kettlesort.core.charting.items import Concept
from kettlesort.core.charting.values import absent
from kettlesort.store import chart as store
from kettlesort.store.base import Row, snapshot
from kettlesort.work.codebook import book_in, core_item
from kettlesort.work.errors import NotFound
from kettlesort.work.studies import by_study, labels


class ConceptOfStudies(NamedTuple):
    """A concept, the broader one, its own items, and the studies that state something under it."""

    id: int
    name: str
    within: str
    items: list[str]
    studies: list[int]


class StudyFound(NamedTuple):
    """A study with its reports, and what found each: sources with their searches, and versions of the query."""

    id: int
    label: str
    reports: list[Row]
    found_by: dict[int, list[str]]


def concepts(review: int) -> list[ConceptOfStudies]:
    """Every concept in its order, with the included studies under it."""
    with snapshot() as db:
        return _concepts(db, review)


def _concepts(db: Session, review: int) -> list[ConceptOfStudies]:
    book = book_in(db, review)
    included = {it["study_id"] for it in store.reports(db, review)}
    values = store.brief_values(db, review)
    items = {it.id or 0: core_item(it) for it in book.items}
    charted = {(it.study, it.item) for it in values if it.study in included and it.text and not absent(it.text) and not it.unfit}
    under = core.studies_under([Concept(it.name, it.within) for it in book.concepts], items, charted)
    return [
        ConceptOfStudies(it.id or 0, it.name, it.within, [one.name for one in book.items if one.concept == it.name], sorted(under[it.name]))
        for it in book.concepts
    ]


def studies_of(review: int, concept: int) -> list[StudyFound]:
    """The studies under a concept, by name, with their reports and what found them."""
    with snapshot() as db:
        chosen = next((it for it in _concepts(db, review) if it.id == concept), None)
        if chosen is None:
            raise NotFound("There is no such concept in this review.")
        grouped = by_study(store.reports(db, review))
        mine = {study: grouped[study] for study in chosen.studies if study in grouped}
        origins = store.origins(db, review, [one["record_id"] for some in mine.values() for one in some])
    named = labels(grouped)
    found_by = {it["record_id"]: list(it["sources"]) + [f"version {version} of the query" for version in it["versions"]] for it in origins}
    found = [StudyFound(study, named[study], reports, _of(found_by, reports)) for study, reports in mine.items()]
    return sorted(found, key=lambda it: it.label.casefold())


def _of(found_by: dict[int, list[str]], reports: Sequence[Row]) -> dict[int, list[str]]:
    return {one["record_id"]: found_by.get(one["record_id"], []) for one in reports}
