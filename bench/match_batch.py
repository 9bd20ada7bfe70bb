"""A new file against those that are there: `./kettle run python bench/match_batch.py [SIZE …]`

The time that matching a file of 1,000 records takes, against reviews of growing size (20,000 and 200,000 unless said otherwise): it is
to be that of the file. Works in a database of its own, which it drops at the end.
"""

from __future__ import annotations

import io
import os
import sys
import time

import psycopg

from corpus import invented, ris, write
from kettlesort.core import formats
from kettlesort.core.matching import NOTHING
from kettlesort.core.matching.columns import columns_of
from measure import FOLDER, tell

BATCH = 1000


def review_of(size: int) -> tuple[int, int]:
    """A review in which so many records are taken in and keyed, as if they had been matched."""
    from kettlesort.store.base import session
    from kettlesort.store.sql import rows, run, scalar
    from kettlesort.store.trial import LearntOf, mark_matched, write_keys
    from kettlesort.work import gather, match, people, plan, searches

    account = people.make_account(f"bench{size}", "Bench", "long enough").id or 0
    review = plan.make_review(account, "Bench", "")
    search = searches.write_search(review, account, searches.SearchEntry("Agrarica", "database", "", None, "", "", None))
    path = write(FOLDER / f"{size}.ris", size)
    (batch,) = gather.upload(review, account, search, "all.ris", io.BytesIO(path.read_bytes())).batches
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v", v=review)
    gather.read_file(job)
    gather.take_in(review, account, batch)
    columns = columns_of(entry.record for entry in formats.open_reading(path.open("rb")))
    with session() as db:
        ids = [it["id"] for it in rows(db, "SELECT id FROM copy WHERE batch_id = :b ORDER BY position", b=batch)]
        write_keys(db, review, [(key, place, ids[k]) for key, place, k in match.keys_of(columns, range(size))])
        mark_matched(db, [batch], [batch])
        db.add(LearntOf(review_id=review, data={**NOTHING.plain(), "records": size}))
        run(db, "UPDATE job SET state = 'done' WHERE review_id = :r", r=review)
    with session() as db:
        db.connection().exec_driver_sql("ANALYZE")
    return review, account


def matching(review: int, account: int, size: int) -> float:
    """The seconds that it takes to match a file of `BATCH` records, half of them copies."""
    from kettlesort.store.base import session
    from kettlesort.store.sql import scalar
    from kettlesort.work import gather, match, searches

    known = [it for it, _ in zip(invented(size), range(BATCH // 2), strict=False)]
    new = [it for it, _ in zip(invented(BATCH // 2, seed=77), range(BATCH // 2), strict=False)]
    text = "".join(map(ris, [*known, *new]))
    best = float("inf")
    for k in range(3):
        search = searches.write_search(review, account, searches.SearchEntry(f"Vitalis {k}", "database", "", None, "", "", None))
        (batch,) = gather.upload(review, account, search, "new.ris", io.BytesIO((text + "\n" * k).encode())).batches
        with session() as db:
            job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v", v=review)
        gather.read_file(job)
        gather.take_in(review, account, batch)
        with session() as db:
            job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'match_copies'", v=review)
        begun = time.perf_counter()
        match.match_copies(job)
        best = min(best, time.perf_counter() - begun)
        with session() as db:
            joined = scalar(db, "SELECT count(*) FROM placement WHERE batch_id = :b AND copy_id <> record_id", b=batch)
        assert joined >= BATCH // 2 * 0.95, f"only {joined} joined"
    return best


def main() -> None:
    """Print the ratio of the last size's time to the first's."""
    server = os.environ["KETTLE_PG"]
    name = f"bench_{os.getpid()}"
    sizes = [int(it) for it in sys.argv[1:]] or [20_000, 200_000]
    with psycopg.connect(f"{server}/postgres", autocommit=True) as admin:
        admin.execute(f"CREATE DATABASE {name}".encode())
        os.environ["KETTLE_DATABASE"] = f"{server}/{name}"
        from kettlesort.store.base import engine
        from kettlesort.store.migrate import migrate
        from kettlesort.work import match

        match.WHOLE = 0
        try:
            migrate()
            times = []
            for size in sizes:
                times.append(matching(*review_of(size), size))
                print(f"         {BATCH:,} records against {size:,}: {times[-1]:.2f} s", flush=True)
            tell(f"a file against {sizes[-1]:,}, times as long as against {sizes[0]:,}", times[-1] / times[0], 2, at_most=True)
        finally:
            engine().dispose()
            admin.execute(f"DROP DATABASE {name} WITH (FORCE)".encode())


if __name__ == "__main__":
    main()
