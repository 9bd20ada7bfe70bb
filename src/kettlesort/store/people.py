"""Accounts and their signing in."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from sqlalchemy import Column, Index, LargeBinary
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, key, moment, one_of, reference
from kettlesort.store.sql import row, rows, run, scalar


class Account(Table, table=True):
    """A person who can sign in, unless the account is deleted: its name stays with what it decided. ``name`` is lower case."""

    __table_args__ = (one_of("theme", "light", "dark"),)

    id: int | None = key()
    name: str = Field(unique=True)
    full_name: str
    password_hash: str
    theme: str = "light"
    created_at: Moment | None = moment()
    deleted_at: Moment | None = moment(null=True)


class SignedIn(Table, table=True):
    """A browser that is signed in; only the hash of its token is kept."""

    __tablename__ = "signed_in"

    id: int | None = key()
    account_id: int = reference("account.id", index=True)
    token_hash: bytes = Field(sa_column=Column(LargeBinary, nullable=False, unique=True))
    at: Moment | None = moment()
    ended_at: Moment | None = moment(null=True)


class Invitation(Table, table=True):
    """A link by which one person can join a review until it expires; only the hash of its token is kept."""

    __table_args__ = (one_of("role", "lead", "reviewer", "observer"), Index("ix_invitation_review_id", "review_id"))

    id: int | None = key()
    review_id: int = reference("review.id")
    role: str
    token_hash: bytes = Field(sa_column=Column(LargeBinary, nullable=False, unique=True))
    invited_by: int = reference("account.id")
    at: Moment | None = moment()
    expires_at: Moment | None = moment()
    withdrawn_at: Moment | None = moment(null=True)
    used_by: int | None = reference("account.id", null=True)
    used_at: Moment | None = moment(null=True)


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


def end_sign_ins(db: Session, account: int, but: bytes | None = None) -> None:
    """All browsers in which an account is signed in are signed out, but the one of a token's hash."""
    run(
        db,
        "UPDATE signed_in SET ended_at = clock_timestamp() WHERE account_id = :account AND ended_at IS NULL AND token_hash IS DISTINCT FROM :but",
        account=account, but=but,
    )  # fmt: skip


def led_alone(db: Session, account: int) -> list[str]:
    """The titles of reviews in which others are members and nobody but this account leads."""
    return [
        row["title"]
        for row in rows(
            db,
            """SELECT r.title FROM review r JOIN member m ON m.review_id = r.id AND m.account_id = :account AND m.role = 'lead' AND m.removed_at IS NULL
            WHERE EXISTS (SELECT 1 FROM member o WHERE o.review_id = r.id AND o.account_id <> :account AND o.removed_at IS NULL)
            AND NOT EXISTS (SELECT 1 FROM member o WHERE o.review_id = r.id AND o.account_id <> :account AND o.role = 'lead' AND o.removed_at IS NULL)
            ORDER BY r.id""",
            account=account,
        )
    ]


def memberships(db: Session, account: int) -> list[int]:
    """The reviews of which an account is a member."""
    return [
        row["review_id"]
        for row in rows(
            db, "SELECT review_id FROM member WHERE account_id = :account AND removed_at IS NULL ORDER BY review_id", account=account
        )
    ]


_INVITED = """SELECT i.id, i.review_id, i.role, i.at, i.expires_at, i.withdrawn_at, i.used_at, r.title, a.full_name AS invited_by, u.full_name AS used_by,
    i.withdrawn_at IS NULL AND i.used_at IS NULL AND i.expires_at > clock_timestamp() AS open
    FROM invitation i JOIN review r ON r.id = i.review_id JOIN account a ON a.id = i.invited_by LEFT JOIN account u ON u.id = i.used_by """


def invitation(db: Session, digest: bytes, *, held: bool = False) -> Row | None:
    """An invitation by the hash of its token, with the review's title and who sent it; ``held`` against anybody else who uses it."""
    return row(db, _INVITED + "WHERE i.token_hash = :digest" + (" FOR UPDATE OF i" if held else ""), digest=digest)


def invitations(db: Session, review: int) -> Sequence[Row]:
    """The invitations to a review, the latest first."""
    return rows(db, _INVITED + "WHERE i.review_id = :review ORDER BY i.id DESC LIMIT 200", review=review)


def any_account(db: Session) -> bool:
    """Whether there is any account yet."""
    return bool(scalar(db, "SELECT EXISTS (SELECT 1 FROM account)"))
