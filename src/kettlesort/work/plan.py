"""Reviews, protocol, members."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any, Literal, NamedTuple, get_args

from sqlmodel import col, select

from kettlesort.core.flow.figures import Figures
from kettlesort.store.base import Row, row, rows, run, scalar, session, snapshot
from kettlesort.store.people import Account
from kettlesort.store.plan import Criterion, Element, Member, PlannedSource, Review
from kettlesort.store.report import Event
from kettlesort.work.change import Change, change
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.report import flow_figures

Role = Literal["lead", "reviewer", "observer"]
ROLES: tuple[Role, ...] = get_args(Role)
SOURCE_KINDS = ("database", "register", "website", "organisation", "citation")


def role_in(review: int, account: int) -> Role | None:
    """An account's role in a review, or ``None`` for outsiders and removed members."""
    with session() as db:
        found = row(db, "SELECT role FROM member WHERE review_id = :r AND account_id = :a AND removed_at IS NULL", r=review, a=account)
        return found["role"] if found else None


def make_review(account: int, title: str, question: str) -> int:
    """A new review, led by the account that makes it."""
    title = " ".join(title.split())
    if not title:
        raise Invalid("A review needs a title.", field="title")
    with session() as db:
        review = Review(title=title[:300], question=question.strip()[:5000])
        db.add(review)
        db.flush()
        assert review.id is not None
        db.add(Member(review_id=review.id, account_id=account, role="lead"))
        db.add(
            Event(
                review_id=review.id, account_id=account, kind="plan.review_made", after={"title": review.title, "question": review.question}
            )
        )
        return review.id


class MyReview(NamedTuple):
    """A review that somebody belongs to, and where it stands."""

    row: Row
    figures: Figures


def my_reviews(account: int) -> list[MyReview]:
    """The reviews that an account belongs to, the one that changed last first."""
    with snapshot() as db:
        found = rows(
            db,
            """SELECT r.id, r.title, r.question, m.role, r.archived_at IS NOT NULL AS archived,
            (SELECT max(e.at) FROM event e WHERE e.review_id = r.id) AS changed_at
            FROM member m JOIN review r ON r.id = m.review_id WHERE m.account_id = :account AND m.removed_at IS NULL
            ORDER BY changed_at DESC NULLS LAST, r.id DESC""",
            account=account,
        )
        return [MyReview(it, flow_figures(db, it["id"])) for it in found]


def archive(review: int, account: int, archived: bool) -> None:
    """Put a review out of sight, or bring it back; nothing in it changes."""
    with change(review, account, "plan") as it:
        found = it.db.get(Review, review)
        if found is None:
            raise NotFound("There is no such review.")
        if (found.archived_at is not None) != archived:
            found.archived_at = datetime.now(UTC) if archived else None
            it.event("plan.archived" if archived else "plan.brought_back", found.title)


class Protocol(NamedTuple):
    """The plan of a review."""

    review: Review
    elements: Sequence[Element]
    criteria: Sequence[Criterion]
    sources: Sequence[PlannedSource]


def protocol(review: int) -> Protocol:
    """The plan as it stands."""
    with snapshot() as db:
        found = db.get(Review, review)
        if found is None:
            raise NotFound("There is no such review.")
        it = Protocol(
            found,
            db.exec(select(Element).where(Element.review_id == review).order_by(col(Element.position))).all(),
            db.exec(
                select(Criterion)
                .where(Criterion.review_id == review, col(Criterion.removed_at).is_(None))
                .order_by(col(Criterion.position))
            ).all(),
            db.exec(select(PlannedSource).where(PlannedSource.review_id == review).order_by(col(PlannedSource.position))).all(),
        )
        db.expunge_all()
        return it


def set_question(review: int, account: int, values: dict[str, Any]) -> None:
    """Change title, question, or limits."""
    with change(review, account, "plan") as it:
        found = it.db.get(Review, review)
        if found is None:
            raise NotFound("There is no such review.")
        title = " ".join(str(values.get("title", found.title)).split())
        if not title:
            raise Invalid("A review needs a title.", field="title")
        values = {**values, "title": title[:300]}
        low, high = values.get("year_from", found.year_from), values.get("year_to", found.year_to)
        if low is not None and high is not None and low > high:
            raise Invalid(f"The first year, {low}, is after the last, {high}.", field="year_to")
        before = {name: getattr(found, name) for name in values if getattr(found, name) != values[name]}
        for name in before:
            setattr(found, name, values[name])
        if before:
            it.event("plan.question_changed", "", before, {name: values[name] for name in before})


def set_elements(review: int, account: int, elements: Sequence[tuple[str, list[str]]]) -> None:
    """Replace the framework's elements and their terms."""
    with change(review, account, "plan") as it:
        before = rows(it.db, "SELECT label, terms FROM element WHERE review_id = :r ORDER BY position", r=review)
        run(it.db, "DELETE FROM element WHERE review_id = :r", r=review)
        after = []
        for position, (label, terms) in enumerate(elements):
            clean = list(dict.fromkeys(" ".join(term.split()) for term in terms if term.strip()))
            if label.strip() or clean:
                it.db.add(Element(review_id=review, position=position, label=label.strip()[:100], terms=clean))
                after.append({"label": label.strip(), "terms": clean})
        it.event("plan.elements_changed", "", [dict(b) for b in before], after)


def set_sources(review: int, account: int, sources: Sequence[tuple[str, str]]) -> None:
    """Replace the planned sources."""
    with change(review, account, "plan") as it:
        before = rows(it.db, "SELECT name, kind FROM planned_source WHERE review_id = :r ORDER BY position", r=review)
        run(it.db, "DELETE FROM planned_source WHERE review_id = :r", r=review)
        after = []
        for position, (name, kind) in enumerate(sources):
            if kind not in SOURCE_KINDS:
                raise Invalid(f"A source is one of {', '.join(SOURCE_KINDS)}.", field="kind")
            if name.strip():
                it.db.add(PlannedSource(review_id=review, position=position, name=name.strip()[:200], kind=kind))
                after.append({"name": name.strip(), "kind": kind})
        it.event("plan.sources_changed", "", [dict(b) for b in before], after)


class Wording(NamedTuple):
    """A criterion as typed; ``id`` of one that exists."""

    id: int | None
    name: str
    wording: str
    first: bool
    second: bool


def set_criteria(review: int, account: int, criteria: Sequence[Wording]) -> None:
    """Replace the ordered list of criteria. One that a verdict names stays on those verdicts when it is removed."""
    names = [it.name.strip().casefold() for it in criteria]
    if any(not name for name in names):
        raise Invalid("Every criterion needs a short name.", field="name")
    if len(set(names)) < len(names):
        raise Invalid("Two criteria have the same name.", field="name")
    with change(review, account, "plan") as it:
        present = {
            c.id: c for c in it.db.exec(select(Criterion).where(Criterion.review_id == review, col(Criterion.removed_at).is_(None))).all()
        }
        before = [_criterion(c) for c in sorted(present.values(), key=lambda c: c.position)]
        for position, said in enumerate(criteria):
            found = present.pop(said.id, None) if said.id else None
            if said.id and found is None:
                raise NotFound("A criterion in this list was removed meanwhile; load the page again.")
            found = found or Criterion(review_id=review, position=position, name="")
            found.position, found.name, found.wording = position, said.name.strip()[:120], said.wording.strip()[:4000]
            found.first, found.second = said.first, said.second
            it.db.add(found)
        for gone in present.values():
            gone.removed_at = datetime.now(UTC)
        it.db.flush()
        it.event("plan.criteria_changed", "", before, [{"name": said.name.strip(), "wording": said.wording.strip()} for said in criteria])


def _criterion(it: Criterion) -> dict[str, Any]:
    return {"name": it.name, "wording": it.wording}


def members(review: int) -> Sequence[Row]:
    """Everybody who is or was a member, with how much they decided."""
    with snapshot() as db:
        return rows(
            db,
            """SELECT a.id, a.name, a.full_name, m.role, m.joined_at, m.removed_at,
            (SELECT count(*) FROM verdict v WHERE v.review_id = :review AND v.account_id = a.id AND v.withdrawn_at IS NULL) AS decisions
            FROM member m JOIN account a ON a.id = m.account_id WHERE m.review_id = :review ORDER BY m.removed_at NULLS FIRST, m.joined_at, a.id""",
            review=review,
        )


def add_member(review: int, account: int, name: str, role: str) -> None:
    """Add an account, or bring a removed one back, or change a role."""
    if role not in ROLES:
        raise Invalid(f"A role is one of {', '.join(ROLES)}.", field="role")
    with change(review, account, "plan") as it:
        person = it.db.exec(select(Account).where(Account.name == name.strip().lower())).first()
        if person is None or person.id is None:
            raise NotFound(f"There is no account named “{name.strip()}”. Ask for the name that they sign in with.", field="name")
        member = it.db.get(Member, (review, person.id))
        before = None if member is None or member.removed_at else member.role
        if before == role:
            raise Conflict(f"{person.full_name} is {role} already.", field="name")
        if member is None:
            it.db.add(Member(review_id=review, account_id=person.id, role=role))
        else:
            if before == "lead":
                _another_lead(it, person.id)
            member.role, member.removed_at = role, None
        it.event("plan.member_changed" if before else "plan.member_added", person.full_name, before, role)


def remove_member(review: int, account: int, person: int) -> None:
    """Remove a member; their decisions stay."""
    with change(review, account, "plan") as it:
        member = it.db.get(Member, (review, person))
        if member is None or member.removed_at:
            raise NotFound("They are not a member.")
        if member.role == "lead":
            _another_lead(it, person)
        member.removed_at = datetime.now(UTC)
        run(it.db, "DELETE FROM hold WHERE review_id = :r AND account_id = :a", r=review, a=person)
        name = scalar(it.db, "SELECT full_name FROM account WHERE id = :a", a=person)
        it.event("plan.member_removed", name, member.role, None)


def _another_lead(it: Change, person: int) -> None:
    others = scalar(
        it.db,
        "SELECT count(*) FROM member WHERE review_id = :r AND role = 'lead' AND removed_at IS NULL AND account_id <> :a",
        r=it.review,
        a=person,
    )
    if not others:
        raise Conflict("A review needs a lead; make somebody else lead first.")
