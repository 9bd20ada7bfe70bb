"""Rows: tables and queries in PostgreSQL, one module per stage."""

from kettlesort.store import chart, gather, jobs, match, people, plan, query, report, screen
from kettlesort.store.base import Table

__all__ = ["Table", "chart", "gather", "jobs", "match", "people", "plan", "query", "report", "screen"]
