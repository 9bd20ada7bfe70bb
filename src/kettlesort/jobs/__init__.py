"""The queue and its tasks. Each task calls one function of `work`."""

from __future__ import annotations

import asyncio
import logging
import time
from collections.abc import Callable
from functools import wraps
from typing import Any, ParamSpec

import psycopg
from procrastinate import App, PsycopgConnector, exceptions
from sqlalchemy.exc import DBAPIError

from kettlesort.settings import settings
from kettlesort.store.base import passes
from kettlesort.work import (
    fulltexts,
    gaps,
    gather,
    language_model,
    likeness,
    match,
    narrow,
    orders,
    plan,
    proposals,
    ranking,
    runs,
    searchable,
    trials,
    vocabulary,
)

P = ParamSpec("P")


class Connector(PsycopgConnector):
    """The queue's connections; who wants to know is told when a statement broke off."""

    _told: tuple[asyncio.Event, ...] = ()

    def told_when_broken(self) -> asyncio.Event:
        """An event that is set whenever a statement breaks off."""
        self._told = (*self._told, asyncio.Event())
        return self._told[-1]

    async def _watched(self, method: Callable[..., Any], query: Any, **arguments: Any) -> Any:
        try:
            return await method(query, **arguments)
        except exceptions.UniqueViolation:
            raise
        except exceptions.ConnectorException:
            for event in self._told:
                event.set()
            raise

    async def execute_query_async(self, query: Any, **arguments: Any) -> None:
        """Execute a statement."""
        await self._watched(super().execute_query_async, query, **arguments)

    async def execute_query_one_async(self, query: Any, **arguments: Any) -> dict[str, Any]:
        """The only row of a query."""
        found: dict[str, Any] = await self._watched(super().execute_query_one_async, query, **arguments)
        return found

    async def execute_query_all_async(self, query: Any, **arguments: Any) -> list[dict[str, Any]]:
        """All rows of a query."""
        found: list[dict[str, Any]] = await self._watched(super().execute_query_all_async, query, **arguments)
        return found


connector = Connector(conninfo=settings().database, min_size=1, max_size=8)
app = App(connector=connector)


def patiently(work: Callable[P, None]) -> Callable[P, None]:
    """Begin a task again when the database went away under it, however long that lasts.

    Every task may be killed at any instant and begun again, so it may also be begun again at once.
    """

    @wraps(work)
    def until_done(*args: P.args, **kwargs: P.kwargs) -> None:
        while True:
            try:
                return work(*args, **kwargs)
            except (DBAPIError, psycopg.Error) as error:
                if not passes(error):
                    raise
                logging.getLogger("kettlesort.jobs").warning("%s is begun again: %s", work.__name__, str(error).strip())
                time.sleep(1)

    return until_done


@app.task(name="read_file", queue="work")
@patiently
def read_file(job: int) -> None:
    """Read an uploaded file into copies."""
    gather.read_file(job)


@app.task(name="read_vocabulary", queue="work")
@patiently
def read_vocabulary(job: int) -> None:
    """Read a loaded vocabulary."""
    vocabulary.read_vocabulary(job)


@app.task(name="match_copies", queue="work")
@patiently
def match_copies(job: int) -> None:
    """Match the copies of a review."""
    match.match_copies(job)


@app.task(name="leave_review", queue="work")
@patiently
def leave_review(job: int) -> None:
    """Let what is left of a file that was set aside leave its review."""
    gather.leave_review(job)


@app.task(name="settle_groups", queue="work")
@patiently
def settle_groups(job: int) -> None:
    """Let groups follow what a dry run decided."""
    trials.settle_groups(job)


@app.task(name="try_rule", queue="work")
@patiently
def try_rule(job: int) -> None:
    """Match the whole review beside what stands."""
    trials.try_rule(job)


@app.task(name="group_records", queue="work")
@patiently
def group_records(job: int) -> None:
    """Group the undecided records by likeness."""
    likeness.group_records(job)


@app.task(name="order_records", queue="work")
@patiently
def order_records(job: int) -> None:
    """Order records by a question, or by likeness."""
    orders.order_records(job)


@app.task(name="match_full_texts", queue="work")
@patiently
def match_full_texts(job: int) -> None:
    """Match delivered PDFs to their records."""
    fulltexts.match_full_texts(job)


@app.task(name="propose_values", queue="reading")
@patiently
def propose_values(job: int) -> None:
    """Read reports for values."""
    proposals.propose_values(job)


@app.task(name="ask_model", queue="outside")
@patiently
def ask_model(job: int) -> None:
    """Ask the language model about reports that were read."""
    language_model.ask_model(job)


@app.task(name="fetch_run", queue="outside")
@patiently
def fetch_run(job: int) -> None:
    """Fetch a run from its catalogue."""
    runs.fetch_run(job)


@app.task(name="fill_gaps", queue="outside")
@patiently
def fill_gaps(job: int) -> None:
    """Look up what records lack."""
    gaps.fill_gaps(job)


@app.task(name="make_up", queue="made_up")
@patiently
def make_up(job: int) -> None:
    """Fill a review with made-up data."""
    from kettlesort.demo import load  # writes PDFs, which takes half a second to load

    load.make_up(job)


@app.periodic(cron="17 3 * * *")
@app.task(name="sweep", queue="made_up", queueing_lock="sweep")
@patiently
def sweep(timestamp: int) -> None:
    """Forget the made-up reviews that were thrown away."""
    plan.forget_thrown_away()


@app.periodic(cron="* * * * *")
@app.task(name="begin_due", queue="outside", queueing_lock="begin_due")
@patiently
def begin_due(timestamp: int) -> None:
    """Begin the planned runs that are due."""
    runs.begin_due()


@app.task(name="narrow", queue="work")
@patiently
def narrow_again(review: int, account: int) -> None:
    """Apply the narrowings of a review that are to be repeated."""
    narrow.repeat(review, account)


@app.task(name="index", queue="ranking")
@patiently
def index(review: int) -> None:
    """Bring the index of a review's records up to date."""
    searchable.index_review(review)


@app.task(name="rank", queue="ranking")
@patiently
def rank(review: int) -> None:
    """Rank the records of a review."""
    ranking.rank_review(review)


@app.task(name="rate", queue="ranking")
@patiently
def rate(review: int) -> None:
    """Rate what is proposed for a review's table by what was said of it."""
    proposals.rate(review)
