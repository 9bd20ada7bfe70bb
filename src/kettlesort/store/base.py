"""The engine, sessions, and what all tables share."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import datetime
from functools import lru_cache
from typing import Any

import psycopg
from sqlalchemy import BigInteger, CheckConstraint, Column, DateTime, Engine, Identity, RowMapping, create_engine, func, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.exc import DBAPIError
from sqlmodel import Field, Session, SQLModel

from kettlesort.settings import settings
from kettlesort.store.sql import run

Row = RowMapping


def key() -> Any:
    """A primary key that PostgreSQL numbers."""
    return Field(default=None, sa_column=Column(BigInteger, Identity(), primary_key=True))


def moment(*, null: bool = False) -> Any:
    """A moment in time; unless it may be missing, the moment of writing."""
    if null:
        return Field(default=None, sa_column=Column(DateTime(timezone=True), nullable=True))
    return Field(default=None, sa_column=Column(DateTime(timezone=True), nullable=False, server_default=func.clock_timestamp()))


def json_field(default: Any = None) -> Any:
    """A JSON value."""
    return Field(default_factory=lambda: default, sa_column=Column(JSONB, nullable=False))


def reference(target: str, *, index: bool = False, null: bool = False, primary: bool = False) -> Any:
    """A foreign key."""
    if primary:
        return Field(foreign_key=target, primary_key=True, sa_type=BigInteger)
    if null:
        return Field(default=None, foreign_key=target, index=index, nullable=True, sa_type=BigInteger)
    return Field(foreign_key=target, index=index, sa_type=BigInteger)


def one_of(column: str, *values: str | int) -> CheckConstraint:
    """That a column holds one of some values."""
    said = ", ".join(f"'{value}'" if isinstance(value, str) else str(value) for value in values)
    return CheckConstraint(f"{column} IN ({said})", name=f"{column}_is_known")


class Table(SQLModel):
    """Base of all tables."""


def sqlalchemy_url(address: str) -> str:
    """A libpq address as SQLAlchemy wants it."""
    return address.replace("postgresql://", "postgresql+psycopg://", 1)


@lru_cache(maxsize=1)
def engine() -> Engine:
    """The engine of this process; compiling a query costs more than any of ours takes.

    It has a connection for each thread, and some for the work that takes a second one on the side.
    """
    one = settings()
    limits = f"-c statement_timeout={int(one.statement_timeout * 1000)} -c lock_timeout={int(one.lock_timeout * 1000)}"
    return create_engine(
        sqlalchemy_url(one.database),
        pool_size=one.threads,
        max_overflow=one.threads // 3,
        pool_pre_ping=True,
        connect_args={"options": f"-c jit=off {limits}"},
    )


_PASSING = ("08", "57P0", "53300", "40001", "40P01")
"""SQLSTATEs of what passes by itself: no connection, the server stops or starts, too many connections, a conflict of transactions."""


def passes(error: DBAPIError | psycopg.Error) -> bool:
    """Whether what went wrong passes by itself, so that the same work can be begun again."""
    cause = error.orig if isinstance(error, DBAPIError) else error
    if isinstance(error, DBAPIError) and error.connection_invalidated:
        return True
    state = getattr(cause, "sqlstate", None)
    return isinstance(cause, psycopg.OperationalError) and (state is None or state.startswith(_PASSING))


viewer: ContextVar[int] = ContextVar("viewer", default=0)
"""The account for whom things are read: what others say of a record that is screened blind is not shown to it (views named ``seen_…``)."""


@contextmanager
def seen_by(account: int) -> Iterator[None]:
    """Within it things are read as this account may see them."""
    token = viewer.set(account)
    try:
        yield
    finally:
        viewer.reset(token)


def _for_viewer(db: Session) -> None:
    if viewer.get():
        db.execute(text(f"SET LOCAL kettle.viewer = '{viewer.get():d}'"))


@contextmanager
def session() -> Iterator[Session]:
    """One transaction: committed at the end, rolled back by an exception."""
    with Session(engine(), expire_on_commit=False) as one, one.begin():
        _for_viewer(one)
        yield one


@contextmanager
def snapshot() -> Iterator[Session]:
    """A read-only transaction in which all queries see the same moment."""
    with Session(engine().execution_options(isolation_level="REPEATABLE READ")) as session, session.begin():
        session.execute(text("SET TRANSACTION READ ONLY"))
        _for_viewer(session)
        yield session


def unhurried(db: Session) -> None:
    """What follows in this transaction may take as long as it takes."""
    run(db, "SET LOCAL statement_timeout = 0")


def count_anew(*tables: str) -> None:
    """Let PostgreSQL look at tables that have grown a lot, or at all, so that it plans for what they hold now."""
    with engine().connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        for table in tables or ("",):
            connection.execute(text(f'ANALYZE "{table}"' if table else "ANALYZE"))


Moment = datetime
