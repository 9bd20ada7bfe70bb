"""Invitations: links by which one person joins a review until they expire."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from typing import NamedTuple

from kettlesort.store import people as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.people import Account, Invitation
from kettlesort.store.plan import Member
from kettlesort.work.change import changing
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.people import ROLES

LONGEST = 60
"""Days that an invitation holds, at most."""
_GONE = "This invitation does not hold any more: it was used, withdrawn, or has expired. Ask for a new one."


class Made(NamedTuple):
    """An invitation; its ``token`` is said this once and never again."""

    id: int
    token: str
    expires_at: datetime


def _hash(token: str) -> bytes:
    return sha256(token.encode("utf-8", "replace")).digest()


def invite(review: int, account: int, role: str, days: int) -> Made:
    """Make an invitation."""
    if role not in ROLES:
        raise Invalid(f"A role is one of {', '.join(ROLES)}.", field="role")
    if not 1 <= days <= LONGEST:
        raise Invalid(f"An invitation holds 1 to {LONGEST} days.", field="days")
    token, expires = secrets.token_urlsafe(24), datetime.now(UTC) + timedelta(days=days)
    with changing(review, account, "plan") as change:
        made = Invitation(review_id=review, role=role, token_hash=_hash(token), invited_by=account, expires_at=expires)
        change.db.add(made)
        change.db.flush()
        change.event("plan.invited", role, None, {"days": days})
        assert made.id is not None
        return Made(made.id, token, expires)


def invitations(review: int) -> Sequence[Row]:
    """The invitations to a review, the latest first."""
    with snapshot() as db:
        return store.invitations(db, review)


def withdraw(review: int, account: int, number: int) -> None:
    """An invitation holds no longer."""
    with changing(review, account, "plan") as change:
        found = change.db.get(Invitation, number)
        if found is None or found.review_id != review:
            raise NotFound("There is no such invitation in this review.")
        if found.used_at or found.withdrawn_at:
            raise Conflict("It was used or withdrawn already.")
        found.withdrawn_at = datetime.now(UTC)
        change.event("plan.invitation_withdrawn", found.role)


def invitation(token: str) -> Row:
    """What a link invites to. Raises NotFound for one that does not hold."""
    with snapshot() as db:
        found = store.invitation(db, _hash(token))
    if found is None or not found["open"]:
        raise NotFound(_GONE)
    return found


def accept(token: str, account: int) -> int:
    """Join the review that a link invites to; its number. Raises NotFound."""
    with session() as db:
        found = store.invitation(db, _hash(token))
    if found is None:
        raise NotFound(_GONE)
    with changing(found["review_id"], account, "plan") as change:
        held = store.invitation(change.db, _hash(token), held=True)
        if held is None or not held["open"]:
            raise NotFound(_GONE)
        person = change.db.get_one(Account, account)
        member = change.db.get(Member, (change.review, account))
        if member is not None and member.removed_at is None:
            raise Conflict("You are a member of this review already.")
        if member is None:
            change.db.add(Member(review_id=change.review, account_id=account, role=held["role"]))
        else:
            member.role, member.removed_at = held["role"], None
        used = change.db.get_one(Invitation, held["id"])
        used.used_by, used.used_at = account, datetime.now(UTC)
        change.event("plan.member_added", person.full_name, None, held["role"])
        return change.review
