"""Rows: tables and queries in PostgreSQL, one module per stage or part of one."""

from kettlesort.store import (
    asking,
    catalogue,
    chart,
    checks,
    codebook,
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
    proposals,
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
    "Table", "asking", "catalogue", "chart", "checks", "codebook", "fulltexts", "gaps", "gather", "jobs", "labels", "likeness", "match", "narrow", "orders", "passes", "people", "plan", "proposals", "query", "ranking", "recipes", "report", "screen", "standing", "stopping", "trial", "underline", "vocabulary",
]  # fmt: skip
