"""Reviews and their members."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import NamedTuple

from sqlmodel import select

from kettlesort.core.flow.figures import Figures
from kettlesort.store.base import Row, rows, run, scalar, session, snapshot
from kettlesort.store.people import Account
from kettlesort.store.plan import Amendment, Member, Review
from kettlesort.store.report import Event
from kettlesort.work.change import Change, change
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.people import ROLES
from kettlesort.work.report import flow_figures


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


def title_of(review: int) -> str:
    """A review's title."""
    with snapshot() as db:
        return str(scalar(db, "SELECT title FROM review WHERE id = :v", v=review) or "")
