"""The engine, sessions, and what all tables share."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from functools import lru_cache
from typing import Any

import psycopg
from sqlalchemy import BigInteger, CheckConstraint, Column, DateTime, Engine, Identity, RowMapping, TextClause, create_engine, func, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.exc import DBAPIError
from sqlmodel import Field, Session, SQLModel

from kettlesort.settings import settings

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
    it = settings()
    limits = f"-c statement_timeout={int(it.statement_timeout * 1000)} -c lock_timeout={int(it.lock_timeout * 1000)}"
    return create_engine(
        sqlalchemy_url(it.database),
        pool_size=it.threads,
        max_overflow=it.threads // 3,
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


@contextmanager
def session() -> Iterator[Session]:
    """One transaction: committed at the end, rolled back by an exception."""
    with Session(engine(), expire_on_commit=False) as it, it.begin():
        yield it


@contextmanager
def snapshot() -> Iterator[Session]:
    """A read-only transaction in which all queries see the same moment."""
    with Session(engine().execution_options(isolation_level="REPEATABLE READ")) as it, it.begin():
        it.execute(text("SET TRANSACTION READ ONLY"))
        yield it


@lru_cache(maxsize=2000)
def _statement(sql: str) -> TextClause:
    """A statement, its parameters found once."""
    return text(sql)


def rows(db: Session, sql: str, **values: Any) -> Sequence[Row]:
    """All rows of a query, by column name."""
    return db.connection().execute(_statement(sql), values).mappings().all()


def row(db: Session, sql: str, **values: Any) -> Row | None:
    """The first row of a query."""
    return db.connection().execute(_statement(sql), values).mappings().first()


def scalar(db: Session, sql: str, **values: Any) -> Any:
    """The first column of the first row."""
    return db.connection().execute(_statement(sql), values).scalar()


def run(db: Session, sql: str, **values: Any) -> int:
    """Execute a statement; the number of rows that it touched."""
    return int(db.connection().execute(_statement(sql), values).rowcount or 0)


@contextmanager
def copying(db: Session, table: str, columns: Sequence[str]) -> Iterator[psycopg.Copy]:
    """PostgreSQL's COPY into some columns of a table, within the transaction: thousands of rows a second."""
    raw = db.connection().connection.driver_connection
    assert isinstance(raw, psycopg.Connection)
    names = ", ".join(f'"{name}"' for name in columns)
    with raw.cursor() as cursor, cursor.copy(f'COPY "{table}" ({names}) FROM STDIN'.encode()) as out:
        yield out


def unhurried(db: Session) -> None:
    """What follows in this transaction may take as long as it takes."""
    run(db, "SET LOCAL statement_timeout = 0")


def count_anew(*tables: str) -> None:
    """Let PostgreSQL look at tables that have grown a lot, so that it plans for what they hold now."""
    with engine().connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        for table in tables:
            connection.execute(text(f'ANALYZE "{table}"'))


Moment = datetime
