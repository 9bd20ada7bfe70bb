"""Accounts and their signing in."""

from __future__ import annotations

from typing import NamedTuple

from sqlalchemy import Column, Index, LargeBinary
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, key, moment, one_of, reference
from kettlesort.store.sql import row, run, scalar


class Account(Table, table=True):
    """A person who can sign in; ``name`` is lower case."""

    __table_args__ = (one_of("theme", "light", "dark"),)

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
    """An attempt to sign in, or to make an account, by name and network. It is written down before it is looked at."""

    __table_args__ = (
        one_of("kind", "sign_in", "account"),
        Index("ix_attempt_name_at", "name", "at"),
        Index("ix_attempt_address_at", "address", "at"),
    )

    id: int | None = key()
    kind: str = "sign_in"
    name: str
    address: str
    succeeded: bool
    at: Moment | None = moment()


class Presence(Table, table=True):
    """When an account last had a page of a review open."""

    review_id: int = reference("review.id", primary=True)
    account_id: int = reference("account.id", primary=True)
    seen_at: Moment | None = moment()


def signed_in(db: Session, digest: bytes | None, seconds: int, review: int = 0) -> Row | None:
    """The account of a sign-in by the hash of its token, if it has not ended and is no older than that; and the role in a review."""
    if digest is None:
        return None
    return row(
        db,
        """SELECT s.account_id AS id, m.role FROM signed_in s LEFT JOIN member m ON m.account_id = s.account_id AND m.review_id = :review AND m.removed_at IS NULL
        WHERE s.token_hash = :digest AND s.ended_at IS NULL AND s.at > clock_timestamp() - make_interval(secs => :seconds)""",
        digest=digest, seconds=seconds, review=review,
    )  # fmt: skip


def try_in(db: Session, kind: str, name: str, network: str) -> int:
    """Write down an attempt; its number. Those of one network are written one after another, so that each sees all before it."""
    scalar(db, "SELECT pg_advisory_xact_lock(73, hashtext(:network))", network=network)
    made = Attempt(kind=kind, name=name, address=network, succeeded=False)
    db.add(made)
    db.flush()
    assert made.id is not None
    return made.id


class Failures(NamedTuple):
    """Attempts that did not succeed, or are under way: in a network, under a name anywhere, and under the name in the network."""

    network: int
    name: int
    name_in_network: int


def failures(db: Session, number: int, kind: str, minutes: int) -> Failures:
    """What failed within so many minutes up to an attempt, and that itself."""
    found = row(
        db,
        """SELECT count(*) FILTER (WHERE o.address = t.address) AS network, count(*) FILTER (WHERE o.name = t.name) AS name,
        count(*) FILTER (WHERE o.name = t.name AND o.address = t.address) AS both FROM attempt t JOIN attempt o ON (o.name = t.name OR o.address = t.address)
        WHERE t.id = :number AND o.kind = :kind AND NOT o.succeeded AND o.at > clock_timestamp() - make_interval(mins => :minutes) AND o.id <= t.id""",
        number=number, kind=kind, minutes=minutes,
    )  # fmt: skip
    return Failures(found["network"], found["name"], found["both"]) if found else Failures(0, 0, 0)


def forget_try(db: Session, number: int) -> None:
    """An attempt was refused without being looked at."""
    run(db, "DELETE FROM attempt WHERE id = :number", number=number)


def succeeded(db: Session, number: int) -> None:
    """An attempt was a good one."""
    run(db, "UPDATE attempt SET succeeded = TRUE WHERE id = :number", number=number)


def sign_out(db: Session, digest: bytes) -> None:
    """A sign-in ends, by the hash of its token."""
    run(db, "UPDATE signed_in SET ended_at = clock_timestamp() WHERE token_hash = :digest", digest=digest)


def any_account(db: Session) -> bool:
    """Whether there is any account yet."""
    return bool(scalar(db, "SELECT EXISTS (SELECT 1 FROM account)"))
