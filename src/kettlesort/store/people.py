"""Accounts and their signing in."""

from __future__ import annotations

from sqlalchemy import Column, LargeBinary
from sqlmodel import Field

from kettlesort.store.base import Moment, Table, key, moment, reference


class Account(Table, table=True):
    """A person who can sign in; ``name`` is lower case."""

    id: int | None = key()
    name: str = Field(unique=True)
    full_name: str
    password_hash: str
    theme: str = "light"
    created_at: Moment | None = moment()


class SignedIn(Table, table=True):
    """A browser that is signed in; only the hash of its token is kept."""

    __tablename__ = "signed_in"

    id: int | None = key()
    account_id: int = reference("account.id", index=True)
    token_hash: bytes = Field(sa_column=Column(LargeBinary, nullable=False, unique=True))
    at: Moment | None = moment()
    ended_at: Moment | None = moment(null=True)


class Attempt(Table, table=True):
    """An attempt to sign in, or to make an account, by name and address."""

    id: int | None = key()
    kind: str = "sign_in"
    name: str = Field(index=True)
    address: str = Field(index=True)
    succeeded: bool
    at: Moment | None = moment()


class Presence(Table, table=True):
    """When an account last had a page of a review open."""

    review_id: int = reference("review.id", primary=True)
    account_id: int = reference("account.id", primary=True)
    seen_at: Moment | None = moment()
