"""Bringing a database to the newest shape: ours by Alembic, the queue's by procrastinate."""

from __future__ import annotations

from pathlib import Path

import psycopg
from alembic import command
from alembic.config import Config
from procrastinate.schema import SchemaManager

from kettlesort.settings import settings


def config() -> Config:
    """Alembic's configuration."""
    one = Config()
    one.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    return one


def migrate() -> None:
    """Upgrade to the newest migration, and lay out the queue once."""
    command.upgrade(config(), "head")
    with psycopg.connect(settings().database) as connection:
        there = connection.execute("SELECT to_regclass('procrastinate_jobs')").fetchone()
        if not there or there[0] is None:
            connection.execute(SchemaManager.get_schema().encode())


if __name__ == "__main__":
    migrate()
