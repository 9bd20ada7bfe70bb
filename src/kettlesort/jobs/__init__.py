"""The queue and its tasks. Each task calls one function of `work`."""

from __future__ import annotations

from procrastinate import App, PsycopgConnector

from kettlesort.settings import settings
from kettlesort.work import gaps, gather, match, narrow, ranking, runs, searchable, trials, vocabulary

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


@app.task(name="try_rule", queue="work")
def try_rule(job: int) -> None:
    """Match the whole review beside what stands."""
    trials.try_rule(job)


@app.task(name="fetch_run", queue="outside")
def fetch_run(job: int) -> None:
    """Fetch a run from its catalogue."""
    runs.fetch_run(job)


@app.task(name="fill_gaps", queue="outside")
def fill_gaps(job: int) -> None:
    """Look up what records lack."""
    gaps.fill_gaps(job)


@app.periodic(cron="* * * * *")
@app.task(name="begin_due", queue="outside", queueing_lock="begin_due")
def begin_due(timestamp: int) -> None:
    """Begin the planned runs that are due."""
    runs.begin_due()


@app.task(name="narrow", queue="work")
def narrow_again(review: int, account: int) -> None:
    """Apply the narrowings of a review that are to be repeated."""
    narrow.repeat(review, account)


@app.task(name="index", queue="ranking")
def index(review: int) -> None:
    """Bring the index of a review's records up to date."""
    searchable.index_review(review)


@app.task(name="rank", queue="ranking")
def rank(review: int) -> None:
    """Rank the records of a review."""
    ranking.rank_review(review)
