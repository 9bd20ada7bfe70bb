"""Alembic's entry: runs migrations on the database of the settings."""

from alembic import context
from sqlalchemy import NullPool, create_engine

from kettlesort.settings import settings
from kettlesort.store import Table
from kettlesort.store.base import sqlalchemy_url


def ours(name: str | None, kind: str, _: object) -> bool:
    """Whether a table is ours; those of the queue belong to its library."""
    return kind != "table" or not (name or "").startswith("procrastinate_")


with create_engine(sqlalchemy_url(settings().database), poolclass=NullPool).connect() as connection:
    context.configure(
        connection=connection, target_metadata=Table.metadata, include_name=ours, compare_type=True, compare_server_default=True
    )
    with context.begin_transaction():
        context.run_migrations()
