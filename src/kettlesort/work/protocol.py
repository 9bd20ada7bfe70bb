"""The protocol of a review: what it says now, and every version that it had."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, date, datetime
from typing import Any, NamedTuple, TypedDict

from sqlmodel import Session, col, select

from kettlesort.core import protocol as core
from kettlesort.core.documents import Block
from kettlesort.store import plan as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.plan import Amendment, Criterion, Element, PlannedSource, Review
from kettlesort.work.change import changing
from kettlesort.work.errors import Conflict, Invalid, NotFound

SOURCE_KINDS = ("database", "register", "website", "organisation", "citation")
MOST_LISTED = 200


class Wording(NamedTuple):
    """A criterion as typed; ``id`` of one that exists."""

    id: int | None
    name: str
    wording: str = ""
    first: bool = True
    second: bool = True


class Changes(TypedDict, total=False):
    """What an amendment says otherwise; lists replace what was there, in their order."""

    title: str
    question: str
    framework: core.Framework
    year_from: int | None
    year_to: int | None
    languages: str
    types: str
    update_of: str
    updates_from: date | None
    registered_in: str
    registration_number: str
    registered_on: date | None
    elements: Sequence[tuple[str, Sequence[str]]]
    criteria: Sequence[Wording]
    sources: Sequence[tuple[str, str]]


class CurrentProtocol(NamedTuple):
    """The protocol as it stands. ``used`` are the criteria that verdicts name; once records are judged, a change needs a reason."""

    review: Review
    elements: Sequence[Element]
    criteria: Sequence[Criterion]
    sources: Sequence[PlannedSource]
    used: frozenset[int]
    version: int
    needs_reason: bool


def protocol(review: int) -> CurrentProtocol:
    """The protocol as it stands."""
    with snapshot() as db:
        current_protocol = _standing(db, review)
        db.expunge_all()
        return current_protocol


def _standing(db: Session, review: int) -> CurrentProtocol:
    found = db.get(Review, review)
    if found is None:
        raise NotFound("There is no such review.")
    return CurrentProtocol(
        found,
        db.exec(select(Element).where(Element.review_id == review).order_by(col(Element.position))).all(),
        db.exec(
            select(Criterion).where(Criterion.review_id == review, col(Criterion.removed_at).is_(None)).order_by(col(Criterion.position))
        ).all(),
        db.exec(select(PlannedSource).where(PlannedSource.review_id == review).order_by(col(PlannedSource.position))).all(),
        store.criteria_named(db, review),
        store.version(db, review),
        store.judged(db, review),
    )


def _said(protocol: CurrentProtocol) -> core.Protocol:
    """What the protocol says, apart from its rows."""
    plain = {name: getattr(protocol.review, name) for name in core.Protocol.model_fields if hasattr(protocol.review, name)}
    return core.Protocol(
        **plain,
        elements=tuple(core.Element(label=e.label, terms=tuple(e.terms)) for e in protocol.elements),
        criteria=tuple(core.Criterion(name=c.name, wording=c.wording, first=c.first, second=c.second) for c in protocol.criteria),
        sources=tuple(core.Source(name=s.name, kind=s.kind) for s in protocol.sources),
    )


def amend(review: int, account: int, changes: Changes, reason: str = "", *, seen: int | None = None) -> int:
    """Change the protocol, as a new version with its reason; its number, or that of the last when nothing changed.

    ``seen`` is the version that the changes were made on: when somebody amended it
    meanwhile, nothing is changed. Raises Invalid, Conflict, NotFound.
    """
    with changing(review, account, "plan") as change:
        before = _standing(change.db, review)
        if seen is not None and seen != before.version:
            last = store.versions(change.db, review)[-1:]
            raise Conflict(
                f"{last[0]['by'] if last else 'Somebody'} changed the protocol meanwhile. What you typed is still here: look at version {before.version} and save again."
            )
        said_before = _said(before)
        _set_plain(before.review, changes)
        if "elements" in changes:
            _set_elements(change.db, review, changes["elements"])
        if "criteria" in changes:
            _set_criteria(change.db, review, changes["criteria"])
        if "sources" in changes:
            _set_sources(change.db, review, changes["sources"])
        change.db.flush()
        said = _said(_standing(change.db, review))
        if said == said_before:
            return before.version
        reason = " ".join(reason.split())[:1000]
        if before.needs_reason and not reason:
            raise Invalid(
                "Records have been judged by this protocol. Say why it changes; the reason stands in its history.", field="reason"
            )
        version = before.version + 1
        change.db.add(
            Amendment(review_id=review, account_id=account, version=version, reason=reason, protocol=said.model_dump(mode="json"))
        )
        parts = core.differences(said_before, said)
        change.event(
            "plan.amended",
            f"Version {version}" + (f": {reason}" if reason else ""),
            {d.name: d.before for d in parts},
            {d.name: d.after for d in parts},
        )
        return version


_PLAIN_LENGTHS = {
    "question": 5000, "languages": 300, "types": 300, "update_of": 1000, "registered_in": 200, "registration_number": 100,
}  # fmt: skip


def _set_plain(found: Review, changes: Changes) -> None:
    values: dict[str, Any] = {name: value for name, value in changes.items() if name not in ("elements", "criteria", "sources")}
    if "title" in values:
        values["title"] = " ".join(str(values["title"]).split())[:300]
        if not values["title"]:
            raise Invalid("A review needs a title.", field="title")
    if values.get("framework", "free") not in core.FRAMEWORKS:
        raise Invalid(f"A framework is one of {', '.join(core.FRAMEWORKS)}.", field="framework")
    for name, most in _PLAIN_LENGTHS.items():
        if name in values:
            values[name] = str(values[name]).strip()[:most]
    for name, value in values.items():
        setattr(found, name, value)
    if found.year_from is not None and found.year_to is not None and found.year_from > found.year_to:
        raise Invalid(f"The first year, {found.year_from}, is after the last, {found.year_to}.", field="year_to")


def _set_elements(db: Session, review: int, elements: Sequence[tuple[str, Sequence[str]]]) -> None:
    store.forget_elements(db, review)
    for position, (label, terms) in enumerate(elements[:MOST_LISTED]):
        clean = list(dict.fromkeys(" ".join(term.split()) for term in terms if term.strip()))
        if label.strip() or clean:
            db.add(Element(review_id=review, position=position, label=label.strip()[:100], terms=clean))


def _set_sources(db: Session, review: int, sources: Sequence[tuple[str, str]]) -> None:
    store.forget_sources(db, review)
    for position, (name, kind) in enumerate(sources[:MOST_LISTED]):
        if kind not in SOURCE_KINDS:
            raise Invalid(f"A source is one of {', '.join(SOURCE_KINDS)}.", field="kind")
        if name.strip():
            db.add(PlannedSource(review_id=review, position=position, name=name.strip()[:200], kind=kind))


def _set_criteria(db: Session, review: int, criteria: Sequence[Wording]) -> None:
    """One that a verdict names keeps its identity when reworded, and stays on those verdicts when it is removed."""
    names = [criterion.name.strip().casefold() for criterion in criteria]
    if any(not name for name in names):
        raise Invalid("Every criterion needs a short name.", field="name")
    if len(set(names)) < len(names):
        raise Invalid("Two criteria have the same name.", field="name")
    present = {c.id: c for c in db.exec(select(Criterion).where(Criterion.review_id == review, col(Criterion.removed_at).is_(None))).all()}
    for position, said in enumerate(criteria):
        found = present.pop(said.id, None) if said.id else None
        if said.id and found is None:
            raise NotFound("A criterion in this list was removed meanwhile; load the page again.")
        found = found or Criterion(review_id=review, position=position, name="")
        found.position, found.name, found.wording = position, said.name.strip()[:120], said.wording.strip()[:4000]
        found.first, found.second = said.first, said.second
        db.add(found)
    for gone in present.values():
        gone.removed_at = datetime.now(UTC)


def excluded_by(review: int) -> Sequence[Row]:
    """How many records each criterion excludes, in both passes: what rewording it touches."""
    with snapshot() as db:
        return store.excluded_by(db, review)


class Version(NamedTuple):
    """A version of the protocol, and what it changed in the one before."""

    row: Row
    said: core.Protocol
    changes: list[core.Difference]


def versions(review: int) -> list[Version]:
    """Every version, oldest first."""
    with snapshot() as db:
        return _versions(db, review)


def _versions(db: Session, review: int) -> list[Version]:
    out: list[Version] = []
    for version in store.versions(db, review):
        said = core.Protocol.model_validate(version["protocol"])
        out.append(Version(version, said, core.differences(out[-1].said, said) if out else []))
    return out


def document(review: int) -> tuple[str, list[Block]]:
    """The title, and the protocol as a document with its amendments."""
    with snapshot() as db:
        said = _said(_standing(db, review))
        kept = _versions(db, review)
        team = store.team(db, review)
    amendments = [
        core.Amendment(version.row["version"], version.row["at"].date(), version.row["by"], version.row["reason"]) for version in kept
    ]
    return said.title, core.document(said, [(row["full_name"], row["role"]) for row in team], amendments, [one.changes for one in kept])
