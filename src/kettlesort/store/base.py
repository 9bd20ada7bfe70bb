"""The engine, sessions, and what all tables share."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from functools import lru_cache
from typing import Any

from sqlalchemy import BigInteger, Column, DateTime, Engine, Identity, RowMapping, create_engine, func, text
from sqlalchemy.dialects.postgresql import JSONB
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
    return Field(default=None, sa_column=Column(DateTime(timezone=True), nullable=False, server_default=func.now()))


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


class Table(SQLModel):
    """Base of all tables."""


def sqlalchemy_url(address: str) -> str:
    """A libpq address as SQLAlchemy wants it."""
    return address.replace("postgresql://", "postgresql+psycopg://", 1)


@lru_cache(maxsize=1)
def engine() -> Engine:
    """The engine of this process; compiling a query costs more than any of ours takes."""
    return create_engine(
        sqlalchemy_url(settings().database), pool_size=20, max_overflow=20, pool_pre_ping=True, connect_args={"options": "-c jit=off"}
    )


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


def rows(db: Session, sql: str, **values: Any) -> Sequence[Row]:
    """All rows of a query, by column name."""
    return db.connection().execute(text(sql), values).mappings().all()


def row(db: Session, sql: str, **values: Any) -> Row | None:
    """The first row of a query."""
    return db.connection().execute(text(sql), values).mappings().first()


def scalar(db: Session, sql: str, **values: Any) -> Any:
    """The first column of the first row."""
    return db.connection().execute(text(sql), values).scalar()


def run(db: Session, sql: str, **values: Any) -> int:
    """Execute a statement; the number of rows that it touched."""
    return int(db.connection().execute(text(sql), values).rowcount or 0)


Moment = datetime
