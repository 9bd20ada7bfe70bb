"""Rows: tables and queries in PostgreSQL, one module per stage or part of one."""

from kettlesort.store import (
    appraisal,
    asking,
    catalogue,
    chart,
    checks,
    codebook,
    extraction,
    fulltexts,
    gaps,
    gather,
    jobs,
    labels,
    language_model,
    likeness,
    match,
    narrow,
    orders,
    passes,
    people,
    plan,
    pooling,
    proposals,
    query,
    questions,
    ranking,
    recipes,
    report,
    screen,
    seeds,
    standing,
    stopping,
    trial,
    underline,
    vocabulary,
)
from kettlesort.store.base import Table

__all__ = [
    "Table", "appraisal", "asking", "catalogue", "chart", "checks", "codebook", "extraction", "fulltexts", "gaps", "gather", "jobs", "labels", "language_model", "likeness", "match", "narrow", "orders", "passes", "people", "plan", "pooling", "proposals", "query", "questions", "ranking", "recipes", "report", "screen", "seeds", "standing", "stopping", "trial", "underline", "vocabulary",
]  # fmt: skip
