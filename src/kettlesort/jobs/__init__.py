"""The queue and its tasks. Each task calls one function of `work`."""

from __future__ import annotations

from procrastinate import App, PsycopgConnector

from kettlesort.settings import settings
from kettlesort.work import gather, match, ranking, searchable, vocabulary

app = App(connector=PsycopgConnector(conninfo=settings().database))


@app.task(name="read_file", queue="work")
def read_file(job: int) -> None:
    """Read an uploaded file into copies."""
    gather.read_file(job)


@app.task(name="read_vocabulary", queue="work")
def read_vocabulary(job: int) -> None:
    """Read a loaded vocabulary."""
    vocabulary.read_vocabulary(job)


@app.task(name="match_copies", queue="work")
def match_copies(job: int) -> None:
    """Match the copies of a review."""
    match.match_copies(job)


@app.task(name="index", queue="ranking")
def index(review: int) -> None:
    """Bring the index of a review's records up to date."""
    searchable.index_review(review)


@app.task(name="rank", queue="ranking")
def rank(review: int) -> None:
    """Rank the records of a review."""
    ranking.rank_review(review)
