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
    included = {report["study_id"] for report in store.reports(db, review)}
    values = store.brief_values(db, review)
    items = {item.id or 0: core_item(item) for item in book.items}
    charted = {
        (value.study, value.item)
        for value in values
        if value.study in included and value.text and not absent(value.text) and not value.unfit
    }
    under = core.studies_under([Concept(concept.name, concept.within) for concept in book.concepts], items, charted)
    return [
        ConceptOfStudies(
            concept.id or 0,
            concept.name,
            concept.within,
            [one.name for one in book.items if one.concept == concept.name],
            sorted(under[concept.name]),
        )
        for concept in book.concepts
    ]


def studies_of(review: int, concept: int) -> list[StudyFound]:
    """The studies under a concept, by name, with their reports and what found them."""
    with snapshot() as db:
        chosen = next((studies for studies in _concepts(db, review) if studies.id == concept), None)
        if chosen is None:
            raise NotFound("There is no such concept in this review.")
        grouped = by_study(store.reports(db, review))
        mine = {study: grouped[study] for study in chosen.studies if study in grouped}
        origins = store.origins(db, review, [one["record_id"] for some in mine.values() for one in some])
    named = labels(grouped)
    found_by = {
        origin["record_id"]: list(origin["sources"]) + [f"version {version} of the query" for version in origin["versions"]]
        for origin in origins
    }
    found = [StudyFound(study, named[study], reports, _of(found_by, reports)) for study, reports in mine.items()]
    return sorted(found, key=lambda each: each.label.casefold())


def _of(found_by: dict[int, list[str]], reports: Sequence[Row]) -> dict[int, list[str]]:
    return {one["record_id"]: found_by.get(one["record_id"], []) for one in reports}
