"""Reviews and their members."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from typing import NamedTuple

from sqlmodel import select

from kettlesort.core.flow.figures import Cell, Route, route
from kettlesort.store import plan as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.people import Account
from kettlesort.store.plan import Amendment, Member, Review
from kettlesort.store.questions import open_questions_of
from kettlesort.store.report import Event, cells_of, copies_of
from kettlesort.store.screen import clear_desk
from kettlesort.work import jobs
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.people import ROLES


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
        said = {"title": review.title, "question": review.question}
        db.add(Amendment(review_id=review.id, account_id=account, version=1, reason="The review was made", protocol=said))
        db.add(Event(review_id=review.id, account_id=account, kind="plan.review_made", after=said))
        return review.id


MADE_UP = 3
"""So many made-up reviews an account may have at a time."""
THROWN_AWAY = timedelta(days=2)
"""So long a made-up review that was thrown away can be brought back."""


def make_up(account: int, title: str, question: str) -> int:
    """A review of one's own that is filled with made-up data, in the background."""
    with session() as db:
        if store.made_up_of(db, account) >= MADE_UP:
            raise Conflict(f"You have {MADE_UP} made-up reviews already. Throw one away first, or go on in it.")
    review = make_review(account, title, question)
    with session() as db:
        store.mark_made_up(db, review)
        jobs.begin_in(db, review, account, "make_up", "Filling with made-up data")
    return review


def forget_thrown_away() -> None:
    """Delete the made-up reviews that were thrown away days ago, with all that is in them. No other review is ever deleted."""
    with session() as db:
        thrown = store.thrown_away(db, datetime.now(UTC) - THROWN_AWAY)
    for review in thrown:
        with session() as db:
            store.forget(db, review)


class MyReview(NamedTuple):
    """A review that somebody belongs to, and where it stands."""

    row: Row
    total: Route
    questions: int


def my_reviews(account: int) -> list[MyReview]:
    """The reviews that an account belongs to, the one that changed last first. Few statements, however many these are."""
    with snapshot() as db:
        found = store.reviews_of(db, account)
        ids = [row["id"] for row in found]
        copies, open_now = copies_of(db, ids), open_questions_of(db, ids)
        cells: dict[int, list[Cell]] = {}
        for row in cells_of(db, ids):
            cell = Cell(row["main"], row["first"], row["fulltext"], row["second"], "", row["n"])
            cells.setdefault(row["review_id"], []).append(cell)
    return [MyReview(one, route(cells.get(one["id"], []), copies.get(one["id"], 0), 0), open_now.get(one["id"], 0)) for one in found]


def archive(review: int, account: int, archived: bool) -> None:
    """Put a review out of sight, or bring it back; nothing in it changes."""
    with changing(review, account, "plan") as change:
        found = change.db.get(Review, review)
        if found is None:
            raise NotFound("There is no such review.")
        if (found.archived_at is not None) != archived:
            found.archived_at = datetime.now(UTC) if archived else None
            change.event("plan.archived" if archived else "plan.brought_back", found.title)


def members(review: int) -> Sequence[Row]:
    """Everybody who is or was a member, with how much they decided."""
    with snapshot() as db:
        return store.members(db, review)


def add_member(review: int, account: int, name: str, role: str) -> None:
    """Add an account, or bring a removed one back, or change a role."""
    if role not in ROLES:
        raise Invalid(f"A role is one of {', '.join(ROLES)}.", field="role")
    with changing(review, account, "plan") as change:
        person = change.db.exec(select(Account).where(Account.name == name.strip().lower())).first()
        if person is None or person.id is None:
            raise NotFound(f"There is no account named “{name.strip()}”. Ask for the name that they sign in with.", field="name")
        member = change.db.get(Member, (review, person.id))
        before = None if member is None or member.removed_at else member.role
        if before == role:
            raise Conflict(f"{person.full_name} is {role} already.", field="name")
        if member is None:
            change.db.add(Member(review_id=review, account_id=person.id, role=role))
        else:
            if before == "lead":
                _another_lead(change, person.id)
            member.role, member.removed_at = role, None
        change.event("plan.member_changed" if before else "plan.member_added", person.full_name, before, role)


def remove_member(review: int, account: int, person: int, *, alone: bool = False) -> None:
    """Remove a member; their decisions stay. Raises Conflict for the only lead, unless they may be the last (``alone``)."""
    with changing(review, account, "plan") as change:
        member = change.db.get(Member, (review, person))
        if member is None or member.removed_at:
            raise NotFound("They are not a member.")
        if member.role == "lead" and not alone:
            _another_lead(change, person)
        member.removed_at = datetime.now(UTC)
        clear_desk(change.db, review, person)
        account_of = change.db.get_one(Account, person)
        change.event("plan.member_removed", account_of.full_name, member.role, None)


def _another_lead(change: Change, person: int) -> None:
    if not store.other_leads(change.db, change.review, person):
        raise Conflict("A review needs a lead; make somebody else lead first.")


def title_of(review: int) -> str:
    """A review's title."""
    with snapshot() as db:
        found = db.get(Review, review)
        return found.title if found else ""
