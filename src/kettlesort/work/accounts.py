"""One's own account: its name, its password, its sign-ins, and its end."""

from __future__ import annotations

from datetime import UTC, datetime

from kettlesort.store import people as store
from kettlesort.store.base import session
from kettlesort.store.people import Account
from kettlesort.work.errors import Conflict, Invalid
from kettlesort.work.people import Try, hashed_password, is_password, known_as, token_hash
from kettlesort.work.plan import remove_member


def rename(account: int, full_name: str) -> None:
    """Be known by another name, also beside what was decided before."""
    full_name = known_as(full_name)
    with session() as db:
        db.get_one(Account, account).full_name = full_name


def _agreed(account: int, password: str, tried: Try) -> None:
    """Raises Invalid unless the password is the account's; a wrong one counts as those at signing in do."""
    with session() as db:
        kept = db.get_one(Account, account).password_hash
    if not is_password(password, kept):
        raise Invalid("That is not your password.", field="password")
    with session() as db:
        store.succeeded(db, tried.number)


def change_password(account: int, old: str, new: str, cookie: str | None, tried: Try) -> None:
    """A new password; all sign-ins but the one of this cookie end."""
    _agreed(account, old, tried)
    hashed = hashed_password(new)
    with session() as db:
        db.get_one(Account, account).password_hash = hashed
        store.end_sign_ins(db, account, but=token_hash(cookie))


def sign_out_everywhere(account: int) -> None:
    """End all sign-ins of an account."""
    with session() as db:
        store.end_sign_ins(db, account)


def delete_account(account: int, password: str, tried: Try) -> None:
    """Nobody signs in by it any more, and it is a member of nothing; what it decided stays, under its name. Raises Conflict where it leads alone."""
    _agreed(account, password, tried)
    with session() as db:
        alone = store.led_alone(db, account)
    if alone:
        named = ", ".join(f"“{title}”" for title in alone[:3])
        raise Conflict(f"Make somebody else lead first: in {named}{' and others' if len(alone) > 3 else ''} nobody else is.")
    with session() as db:
        reviews = store.memberships(db, account)
    for review in reviews:
        remove_member(review, account, account, alone=True)
    with session() as db:
        found = db.get_one(Account, account, with_for_update=True)
        found.deleted_at, found.password_hash = datetime.now(UTC), "!"
        store.end_sign_ins(db, account)
