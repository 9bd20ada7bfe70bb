"""The worker: a lane each for files and matching, for reading reports, for what is asked of others, for ranking and for made-up reviews, so that none waits for another.

A worker that dies leaves its jobs marked as begun. Each worker looks for such jobs of
workers whose heartbeat has stopped, and queues them again. One whose database goes away
waits for it, however long.
"""

from __future__ import annotations

import asyncio
import contextlib
import gc
import logging
import os
import signal
from collections.abc import Awaitable, Callable
from functools import partial
from typing import Any

from procrastinate import exceptions
from procrastinate.job_context import JobContext
from procrastinate.jobs import Job, Status
from procrastinate.worker import Worker

from kettlesort.jobs import app, connector
from kettlesort.settings import settings
from kettlesort.work import jobs

HEARTBEAT = 2.0
DEAD_AFTER = 6.0
GRACE = 4.0
"""So many seconds a job that is under way has to end when the worker is told to stop; then it is left to be begun again."""
QUEUES = ("work", "reading", "outside", "ranking", "made_up")
_log = logging.getLogger("kettlesort.jobs")


class Running:
    """The jobs that this process is working on, each with the worker that it is marked with."""

    def __init__(self) -> None:
        self._worker_of: dict[int, Worker] = {}

    async def __call__(self, process: Callable[[], Awaitable[Any]], context: JobContext, worker: Worker) -> Any:
        """Note a job while it runs: procrastinate's middleware."""
        number = context.job.id or 0
        self._worker_of[number] = worker
        try:
            return await process()
        finally:
            self._worker_of.pop(number, None)

    def __contains__(self, job: int | None) -> bool:
        return job in self._worker_of

    async def give_up(self) -> None:
        """Let others begin what is under way here, at once."""
        for worker in {id(one): one for one in self._worker_of.values()}.values():
            if worker.worker_id is not None:
                await app.job_manager.unregister_worker(worker.worker_id)


running = Running()


async def requeue(job: Job) -> None:
    """Queue a job again that a dead worker had begun; one whose like waits already is dropped, one that died too often has failed."""
    _log.warning("job %s (%s) was left by a dead worker", job.id, job.task_name)
    number = job.task_kwargs.get("job")
    if isinstance(number, int) and not await asyncio.to_thread(jobs.may_begin_again, number, job.task_name, job.attempts + 1):
        await app.job_manager.finish_job(job, Status.FAILED, delete_job=True)
        return
    try:
        await app.job_manager.retry_job(job)
    except exceptions.UniqueViolation:
        await app.job_manager.finish_job(job, Status.ABORTED, delete_job=True)


async def requeue_orphans() -> None:
    """Queue again what dead workers had begun."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_AFTER):
        if job.id in running:
            continue
        try:
            await requeue(job)
        except exceptions.ConnectorException as error:  # of this one; another worker may have taken it up
            _log.warning("job %s could not be queued again: %s", job.id, error)


async def lane(queue: str, broken: asyncio.Event) -> None:
    """Work on one queue until stopped, or until a statement of the queue's broke off.

    What became of such a statement is not known. The lane signs off then and begins anew
    under another number, and what is still marked with the old one is queued again.
    """
    broken.clear()
    work = asyncio.ensure_future(
        app.run_worker_async(
            queues=[queue],
            name=queue,
            concurrency=1,
            install_signal_handlers=False,
            fetch_job_polling_interval=1.0,
            update_heartbeat_interval=HEARTBEAT,
            stalled_worker_timeout=DEAD_AFTER,
            delete_jobs="successful",
            worker_middleware=[running],
        )
    )
    watch = asyncio.ensure_future(broken.wait())
    try:
        await asyncio.wait({work, watch}, return_when=asyncio.FIRST_COMPLETED)
    finally:
        watch.cancel()
        work.cancel()
        await asyncio.wait({work})  # the job under way comes to its end
    if not work.cancelled():
        work.result()


async def forever(what: str, work: Callable[[], Awaitable[None]], every: float) -> None:
    """Do some work again and again, whatever becomes of it."""
    while True:
        try:
            await work()
        except Exception as error:
            _log.warning("%s is begun again: %s", what, str(error).strip() or type(error).__name__)
            await asyncio.sleep(every)
        await asyncio.sleep(every)


async def main() -> None:
    """Run the lanes until the process is told to stop."""
    told = asyncio.Event()
    for sign in (signal.SIGTERM, signal.SIGINT):
        asyncio.get_running_loop().add_signal_handler(sign, told.set)
    await opened(told)
    tasks = [asyncio.create_task(forever("the look for orphans", requeue_orphans, HEARTBEAT))]
    for queue in QUEUES:
        broken = connector.told_when_broken()
        tasks.append(asyncio.create_task(forever(f"the lane “{queue}”", partial(lane, queue, broken), 0.5)))
    await told.wait()
    for task in tasks:
        task.cancel()
    await asyncio.wait(tasks, timeout=GRACE)
    with contextlib.suppress(Exception):
        await asyncio.wait_for(running.give_up(), 1)
    logging.shutdown()
    os._exit(0)  # a thread that is still at work would hold the process; its transaction is rolled back


async def opened(told: asyncio.Event) -> None:
    """Open the queue; wait for the database as long as it takes."""
    while not told.is_set():
        try:
            await app.open_async()
            return
        except Exception as error:
            _log.warning("the database cannot be reached yet: %s", error)
            with contextlib.suppress(Exception):
                await app.close_async()
            await asyncio.sleep(1)


if __name__ == "__main__":
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(name)s %(message)s")
    logging.getLogger("procrastinate").setLevel(logging.WARNING)
    logging.getLogger("psycopg.pool").setLevel(logging.ERROR)
    settings().statement_timeout = settings().lock_timeout = 0  # a job takes as long as it takes
    gc.freeze()  # what was loaded stays, and need not be looked through again and again
    os.nice(5)  # people who wait for an answer come first
    asyncio.run(main())
