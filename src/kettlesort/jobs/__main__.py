"""The worker: a lane each for files and matching, for what is asked of others, and for ranking, so that none waits for another.

A worker that dies leaves its jobs marked as begun. Each worker looks for such jobs of
workers whose heartbeat has stopped, and queues them again.
"""

from __future__ import annotations

import asyncio
import logging

from kettlesort.jobs import app

HEARTBEAT = 2.0
DEAD_AFTER = 6.0


async def requeue_orphans() -> None:
    """Queue again, every few seconds, what dead workers had begun."""
    while True:
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_AFTER):
            logging.getLogger("kettlesort.jobs").warning("job %s was left by a dead worker and is queued again", job.id)
            await app.job_manager.retry_job(job)
        await asyncio.sleep(HEARTBEAT)


async def lane(queue: str) -> None:
    """Work on one queue until stopped."""
    await app.run_worker_async(
        queues=[queue],
        name=queue,
        concurrency=1,
        install_signal_handlers=False,
        fetch_job_polling_interval=2.0,
        update_heartbeat_interval=HEARTBEAT,
        stalled_worker_timeout=DEAD_AFTER,
        delete_jobs="successful",
    )


async def main() -> None:
    """Run the lanes until the process is told to stop."""
    async with app.open_async():
        await asyncio.gather(requeue_orphans(), lane("work"), lane("outside"), lane("ranking"))


if __name__ == "__main__":
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(name)s %(message)s")
    logging.getLogger("procrastinate").setLevel(logging.WARNING)
    asyncio.run(main())
