"""Accounts: making one, signing in and out."""

from __future__ import annotations

import re
import secrets
from functools import lru_cache
from hashlib import sha256
from ipaddress import IPv6Address, ip_address, ip_network
from typing import Literal, NamedTuple, get_args

from itsdangerous import BadSignature, URLSafeSerializer
from pwdlib import PasswordHash
from sqlalchemy.exc import IntegrityError
from sqlmodel import col, select

from kettlesort.settings import settings
from kettlesort.store import people as store
from kettlesort.store.base import session
from kettlesort.store.people import Account, SignedIn
from kettlesort.work.errors import Conflict, Invalid, NotSignedIn, TooMany

Role = Literal["lead", "reviewer", "observer"]
ROLES: tuple[Role, ...] = get_args(Role)
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


class Caller(NamedTuple):
    """Where a request comes from: its address, and the cookie by which a browser shows on which accounts it signed in before."""

    address: str = ""
    known: str | None = None

    @property
    def network(self) -> str:
        """The address, or of the newer ones the network that one household has."""
        try:
            address = ip_address(self.address.partition("%")[0])
        except ValueError:
            return self.address[:80]
        if isinstance(address, IPv6Address):
            return str(address.ipv4_mapped or ip_network(f"{address}/64", strict=False))
        return str(address)


def known_as(full_name: str) -> str:
    """A person's name as it is kept. Raises Invalid."""
    full_name = " ".join(full_name.split())[:80]
    if not full_name:
        raise Invalid("Please give the name that colleagues know you by.", field="full_name")
    return full_name


def hashed_password(password: str) -> str:
    """A password as it is kept. Raises Invalid for a short one."""
    if len(password) < MIN_PASSWORD:
        raise Invalid(f"A password needs at least {MIN_PASSWORD} characters.", field="password")
    return _hasher().hash(password[:1000])


def is_password(password: str, kept: str) -> bool:
    """Whether a password is the one that is kept."""
    return _hasher().verify(password[:1000], kept)


def make_account(name: str, full_name: str, password: str, caller: Caller = Caller()) -> Account:
    """A new account. Refused when the name is taken or unfit, or the password short."""
    name = name.strip().lower()
    if not _NAME.fullmatch(name):
        raise Invalid("An account name has 2 to 40 small letters, digits, dots, dashes or underscores.", field="name")
    full_name, hashed = known_as(full_name), hashed_password(password)
    if caller.address:
        with session() as db:
            tried = store.try_in(db, "account", name, caller.network)
        with session() as db:
            if store.failures(db, tried, "account", 60).network > settings().new_accounts_an_hour:
                raise TooMany("Too many accounts were made from this network. Please wait an hour and try again.")
    made = Account(name=name, full_name=full_name, password_hash=hashed)
    try:
        with session() as db:
            db.add(made)
    except IntegrityError as error:
        raise Conflict(f"The account name “{name}” is taken.", field="name") from error
    return made


class Try(NamedTuple):
    """A sign-in that is being tried: written down already, and how long it has to wait before its password is looked at."""

    number: int
    seconds: float


MINUTES = 15
SLOWEST = 8.0


def try_to_sign_in(name: str, caller: Caller) -> Try:
    """Write down that somebody tries to sign in, before anything is checked. Raises TooMany.

    A network that gave wrong passwords is refused for some minutes. Where a name is tried from many networks, browsers that
    never signed in under it have to wait some seconds; nobody is locked out of an account by what others do.
    """
    name = _folded(name)
    knows = name in known_names(caller.known)
    with session() as db:
        number = store.try_in(db, "sign_in", name, caller.network)
    with session() as db:
        failed = store.failures(db, number, "sign_in", MINUTES)
    most = settings().sign_in_attempts
    if failed.name_in_network > (5 * most if knows else most) or (failed.network > 5 * most and not knows):
        with session() as db:
            store.forget_try(db, number)  # else the waiting would never end
        raise TooMany(f"Too many attempts. Please wait {MINUTES} minutes and try again.")
    return Try(number, 0.0 if knows else min(SLOWEST, max(0, failed.name - most) * 0.25))


def sign_in(name: str, password: str, tried: Try | None = None) -> str:
    """The signed cookie of a new sign-in. Refused for a wrong name or password, the same way for both."""
    with session() as db:
        account = db.exec(select(Account).where(Account.name == _folded(name), col(Account.deleted_at).is_(None))).first()
    good = is_password(password, account.password_hash if account else _dummy_hash())
    if account is None or account.id is None or not good:
        raise NotSignedIn("That name and password do not go together.")
    token = secrets.token_urlsafe(32)
    with session() as db:
        if tried:
            store.succeeded(db, tried.number)
        db.add(SignedIn(account_id=account.id, token_hash=sha256(token.encode()).digest()))
    return _signer().dumps(token)


def _folded(name: str) -> str:
    return name.strip().lower()[:80]


KNOWN = "kettlesort-known"
KNOWN_AGE = 400 * 24 * 3600


def known_names(cookie: str | None) -> list[str]:
    """The accounts on which a browser signed in before, by the cookie that says so."""
    try:
        return [str(load) for load in URLSafeSerializer(settings().secret, salt="known").loads(cookie or "")]
    except BadSignature:
        return []


def knowing(cookie: str | None, name: str) -> str:
    """The cookie of a browser that has signed in under a name."""
    names = [_folded(name), *(word for word in known_names(cookie) if word != _folded(name))][:5]
    return str(URLSafeSerializer(settings().secret, salt="known").dumps(names))


def is_ours(cookie: str | None) -> bool:
    """Whether a cookie is one that we gave; whether its sign-in has ended is not looked at."""
    return token_hash(cookie) is not None


def token_hash(cookie: str | None) -> bytes | None:
    """The hash of a cookie's token, by which its sign-in is kept; ``None`` for a cookie that is not ours."""
    try:
        return sha256(str(_signer().loads(cookie or "")).encode()).digest()
    except BadSignature:
        return None


def account_of(cookie: str | None) -> Account:
    """Who a cookie belongs to. Raises NotSignedIn."""
    with session() as db:
        found = store.signed_in(db, token_hash(cookie), COOKIE_AGE)
        account = db.get(Account, found["id"]) if found else None
    if account is None:
        raise NotSignedIn("Please sign in.")
    return account


def membership_of(cookie: str | None, review: int) -> tuple[int, Role | None]:
    """Who a cookie belongs to, and their role in a review: ``None`` for outsiders and removed members. Raises NotSignedIn."""
    with session() as db:
        found = store.signed_in(db, token_hash(cookie), COOKIE_AGE, review)
    if found is None:
        raise NotSignedIn("Please sign in.")
    return found["id"], found["role"]


def sign_out(cookie: str | None) -> None:
    """End a sign-in; its cookie is worth nothing from now on."""
    digest = token_hash(cookie)
    if digest is not None:
        with session() as db:
            store.sign_out(db, digest)


def choose_theme(account: int, theme: str) -> None:
    """Remember light or dark."""
    if theme not in ("light", "dark"):
        raise Invalid("The theme is light or dark.")
    with session() as db:
        db.get_one(Account, account).theme = theme
