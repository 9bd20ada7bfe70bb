"""Statements written in SQL. They stand on this floor alone: the floors above ask for what they want by name, or with models."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from functools import lru_cache
from typing import Any

import psycopg
from sqlalchemy import RowMapping, TextClause, text
from sqlmodel import Session


@lru_cache(maxsize=2000)
def _statement(sql: str) -> TextClause:
    """A statement, its parameters found once."""
    return text(sql)


def rows(db: Session, sql: str, **values: Any) -> Sequence[RowMapping]:
    """All rows of a query, by column name."""
    return db.connection().execute(_statement(sql), values).mappings().all()


def tuples(db: Session, sql: str, **values: Any) -> list[tuple[Any, ...]]:
    """All rows of a query as plain tuples, as the driver gives them: for very many."""
    result = db.connection().execute(_statement(sql), values)
    try:
        return list(result.cursor.fetchall()) if result.cursor else []
    finally:
        result.close()


def row(db: Session, sql: str, **values: Any) -> RowMapping | None:
    """The first row of a query."""
    return db.connection().execute(_statement(sql), values).mappings().first()


def scalar(db: Session, sql: str, **values: Any) -> Any:
    """The first column of the first row."""
    return db.connection().execute(_statement(sql), values).scalar()


def column(db: Session, sql: str, **values: Any) -> list[Any]:
    """The first column of all rows."""
    return list(db.connection().execute(_statement(sql), values).scalars())


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
