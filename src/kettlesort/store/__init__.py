"""Rows: tables and queries in PostgreSQL, one module per stage or part of one."""

from kettlesort.store import (
    catalogue,
    chart,
    fulltexts,
    gaps,
    gather,
    jobs,
    labels,
    likeness,
    match,
    narrow,
    orders,
    passes,
    people,
    plan,
    query,
    ranking,
    recipes,
    report,
    screen,
    standing,
    stopping,
    trial,
    underline,
    vocabulary,
)
from kettlesort.store.base import Table

__all__ = [
    "Table", "catalogue", "chart", "fulltexts", "gaps", "gather", "jobs", "labels", "likeness", "match", "narrow", "orders", "passes", "people", "plan", "query", "ranking", "recipes", "report", "screen", "standing", "stopping", "trial", "underline", "vocabulary",
]  # fmt: skip
