"""Accounts: making one, signing in and out."""

from __future__ import annotations

import re
import secrets
from datetime import UTC, datetime
from functools import lru_cache
from hashlib import sha256

from itsdangerous import BadSignature, URLSafeSerializer
from pwdlib import PasswordHash
from sqlalchemy.exc import IntegrityError
from sqlmodel import select

from kettlesort.settings import settings
from kettlesort.store.base import row, run, scalar, session
from kettlesort.store.people import Account, Attempt, SignedIn
from kettlesort.work.errors import Conflict, Invalid, NotSignedIn, TooMany

COOKIE = "kettlesort"
COOKIE_AGE = 30 * 24 * 3600
_NAME = re.compile(r"[a-z0-9][a-z0-9._-]{1,39}")
MIN_PASSWORD = 10


@lru_cache(maxsize=1)
def _hasher() -> PasswordHash:
    return PasswordHash.recommended()


@lru_cache(maxsize=1)
def _dummy_hash() -> str:
    return _hasher().hash(secrets.token_hex(8))


def _signer() -> URLSafeSerializer:
    return URLSafeSerializer(settings().secret, salt="signed-in")


def make_account(name: str, full_name: str, password: str, address: str = "") -> Account:
    """A new account. Refused when the name is taken or unfit, or the password short."""
    name = name.strip().lower()
    full_name = " ".join(full_name.split())[:80]
    if not _NAME.fullmatch(name):
        raise Invalid("An account name has 2 to 40 small letters, digits, dots, dashes or underscores.", field="name")
    if not full_name:
        raise Invalid("Please give the name that colleagues know you by.", field="full_name")
    if len(password) < MIN_PASSWORD:
        raise Invalid(f"A password needs at least {MIN_PASSWORD} characters.", field="password")
    if address:
        _limit("account", address, "", settings().new_accounts_an_hour, 60, by_name=False)
    made = Account(name=name, full_name=full_name, password_hash=_hasher().hash(password[:1000]))
    try:
        with session() as db:
            db.add(made)
            if address:
                db.add(Attempt(kind="account", name=name, address=address, succeeded=False))
    except IntegrityError as error:
        raise Conflict(f"The account name “{name}” is taken.", field="name") from error
    return made


def _limit(kind: str, address: str, name: str, most: int, minutes: int, *, by_name: bool) -> None:
    with session() as db:
        failed = scalar(
            db,
            """SELECT count(*) FROM attempt WHERE kind = :kind AND NOT succeeded AND at > now() - make_interval(mins => :minutes)
            AND (address = :address AND (NOT :by_name OR name = :name))""",
            kind=kind, minutes=minutes, address=address, by_name=by_name, name=name,
        )  # fmt: skip
        everywhere = scalar(
            db,
            "SELECT count(*) FROM attempt WHERE kind = :kind AND NOT succeeded AND at > now() - make_interval(mins => :minutes) AND name = :name",
            kind=kind, minutes=minutes, name=name,
        )  # fmt: skip
    if failed >= most or (by_name and everywhere >= 4 * most):
        raise TooMany(f"Too many attempts. Please wait {minutes} minutes and try again.")


def sign_in(name: str, password: str, address: str) -> str:
    """The signed cookie of a new sign-in. Refused for a wrong name or password, the same way for both."""
    name = name.strip().lower()[:80]
    _limit("sign_in", address, name, settings().sign_in_attempts, 15, by_name=True)
    with session() as db:
        account = db.exec(select(Account).where(Account.name == name)).first()
        good = _hasher().verify(password[:1000], account.password_hash if account else _dummy_hash())
        succeeded = bool(account and good)
        db.add(Attempt(kind="sign_in", name=name, address=address, succeeded=succeeded))
        token = secrets.token_urlsafe(32)
        if account and succeeded and account.id:
            db.add(SignedIn(account_id=account.id, token_hash=sha256(token.encode()).digest()))
    if not succeeded:
        raise NotSignedIn("That name and password do not go together.")
    return _signer().dumps(token)


def _token_hash(cookie: str | None) -> bytes | None:
    try:
        return sha256(str(_signer().loads(cookie or "")).encode()).digest()
    except BadSignature:
        return None


def account_of(cookie: str | None) -> Account:
    """Who a cookie belongs to. Raises NotSignedIn."""
    digest = _token_hash(cookie)
    if digest is not None:
        with session() as db:
            found = row(
                db,
                """SELECT a.id FROM signed_in s JOIN account a ON a.id = s.account_id WHERE s.token_hash = :digest AND s.ended_at IS NULL
                AND s.at > now() - make_interval(secs => :age)""",
                digest=digest, age=COOKIE_AGE,
            )  # fmt: skip
            account = db.get(Account, found["id"]) if found else None
            if account:
                return account
    raise NotSignedIn("Please sign in.")


def sign_out(cookie: str | None) -> None:
    """End a sign-in; its cookie is worth nothing from now on."""
    digest = _token_hash(cookie)
    if digest is not None:
        with session() as db:
            run(db, "UPDATE signed_in SET ended_at = :now WHERE token_hash = :digest", now=datetime.now(UTC), digest=digest)


def choose_theme(account: int, theme: str) -> None:
    """Remember light or dark."""
    if theme not in ("light", "dark"):
        raise Invalid("The theme is light or dark.")
    with session() as db:
        run(db, "UPDATE account SET theme = :theme WHERE id = :account", theme=theme, account=account)
