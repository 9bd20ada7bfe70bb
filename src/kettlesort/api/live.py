"""Jobs, who is here, and word of changes as they happen."""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
import time
from collections import defaultdict
from collections.abc import AsyncIterator, Iterator

import psycopg
from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel
from sse_starlette import EventSourceResponse, ServerSentEvent

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.settings import settings
from kettlesort.work import jobs, people, report
from kettlesort.work.change import CHANNEL
from kettlesort.work.errors import NotSignedIn

router = APIRouter(prefix="/api/reviews/{review}", tags=["live"])
SEEN_EVERY = 10.0
"""Seconds after which a stream says again who is here, and looks whether its person still belongs here and is signed in."""
GATHERED = 0.4
"""Seconds in which words are gathered before they are passed on together."""


class Job(BaseModel):
    id: int
    kind: str
    label: str
    state: str
    share: float
    message: str
    subject_id: int | None
    seconds_left: float | None


class Person(BaseModel):
    id: int
    full_name: str
    role: str
    here: bool


class Exchange:
    """Passes what PostgreSQL notifies on to the open pages of this process: one connection listens for all."""

    def __init__(self) -> None:
        self._waiting: dict[int, set[asyncio.Queue[str]]] = defaultdict(set)
        self._task: asyncio.Task[None] | None = None

    async def start(self) -> None:
        """Begin to listen."""
        self._task = asyncio.create_task(self._listen())

    async def stop(self) -> None:
        """End listening, and every open stream."""
        if self._task:
            self._task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._task

    async def _listen(self) -> None:
        before = False
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(settings().database, autocommit=True) as connection:
                    await connection.execute(f"LISTEN {CHANNEL}")
                    if before:  # what was said meanwhile is not known
                        self.tell_all("missed")
                    before = True
                    async for word in connection.notifies():
                        said = json.loads(word.payload)
                        self._tell(self._waiting.get(said["review"], set()), said["what"])
            except psycopg.Error as error:
                logging.getLogger("kettlesort.api").warning("listening again in a second: %s", error)
            await asyncio.sleep(1)

    def tell_all(self, word: str) -> None:
        """Say a word to every open page."""
        for queues in self._waiting.values():
            self._tell(queues, word)

    def _tell(self, queues: set[asyncio.Queue[str]], word: str) -> None:
        for queue in queues:
            if queue.qsize() < 100:
                queue.put_nowait(word)

    @contextlib.contextmanager
    def subscribed(self, review: int) -> Iterator[asyncio.Queue[str]]:
        """A queue of what changes in a review."""
        queue: asyncio.Queue[str] = asyncio.Queue()
        self._waiting[review].add(queue)
        try:
            yield queue
        finally:
            self._waiting[review].discard(queue)
            if not self._waiting[review]:
                del self._waiting[review]


exchange = Exchange()


async def _words(review: int, account: int, cookie: str | None) -> AsyncIterator[ServerSentEvent]:
    with exchange.subscribed(review) as queue:
        await run_in_threadpool(report.be_seen, review, account)
        yield ServerSentEvent(data="hello", event="word")
        seen = time.monotonic()
        while True:
            words: set[str] = set()
            with contextlib.suppress(TimeoutError):
                words.add(await asyncio.wait_for(queue.get(), max(0.0, seen + SEEN_EVERY - time.monotonic())))
                await asyncio.sleep(GATHERED)
            while not queue.empty():
                words.add(queue.get_nowait())
            if time.monotonic() >= seen + SEEN_EVERY:  # however much goes on meanwhile
                seen = time.monotonic()
                if not await run_in_threadpool(_still_here, review, account, cookie):
                    return
                words.add("presence")
            for word in words:
                yield ServerSentEvent(data=word, event="word")


def _still_here(review: int, account: int, cookie: str | None) -> bool:
    """Whether somebody is still a member and signed in; if so, they are seen."""
    try:
        if people.membership_of(cookie, review)[1] is None:
            return False
    except NotSignedIn:
        return False
    report.be_seen(review, account)
    return True


@router.get("/live", response_class=EventSourceResponse)
async def live(member: AsMember, request: Request) -> EventSourceResponse:
    """Word of every change of the review, as server-sent events: which part, never what."""
    return EventSourceResponse(_words(member.review, member.account, request.cookies.get(people.COOKIE)), ping=20)


@router.get("/jobs")
def current_jobs(member: AsMember) -> list[Job]:
    """Work under way, or just ended."""
    return [Job.model_validate(row) for row in jobs.current(member.review)]


@router.post("/jobs/{job}/cancel", status_code=204)
def cancel(job: int, member: AsReviewer) -> None:
    """Cancel work under way."""
    jobs.cancel(member.review, job)


@router.get("/people")
def people_here(member: AsMember) -> list[Person]:
    """Members, and who is here."""
    return [Person.model_validate(row) for row in report.who_is_here(member.review)]
