"""Intake against a bare COPY, and all figures against one count: `./kettle run python bench/database.py`

Works in a database of its own, which it drops at the end.
"""

from __future__ import annotations

import io
import os
import time
from pathlib import Path

import psycopg

from corpus import write
from kettlesort.core import formats
from kettlesort.core.record import Record
from measure import FOLDER, best, tell


def intake(path: Path) -> tuple[int, int]:
    """Take in a file of 30,000 records and compare with reading it and copying the same rows, bare."""
    from kettlesort.store.base import session
    from kettlesort.store.sql import scalar
    from kettlesort.work import gather, people, plan, searches

    account = people.make_account("bench", "Bench", "long enough").id or 0
    review = plan.make_review(account, "Bench", "")
    search = searches.write_search(review, account, searches.SearchEntry("Agrarica", "database", "", None, "", "", None))
    with session() as db:
        db.connection().exec_driver_sql("CREATE TABLE bare (LIKE copy INCLUDING DEFAULTS INCLUDING IDENTITY)")
    bare_times, whole_times = [], []
    for k in range(3):
        begun = time.perf_counter()
        rows = [(e.position, e.line, e.end_line, e.raw, *map(_plain, e.record)) for e in formats.open_reading(path.open("rb"))]
        with psycopg.connect(os.environ["KETTLE_DATABASE"]) as raw, raw.cursor() as cursor:
            names = ", ".join(f'"{name}"' for name in ("position", "line", "end_line", "raw", *Record._fields))
            with cursor.copy(f"COPY bare (review_id, batch_id, {names}) FROM STDIN".encode()) as out:
                for row in rows:
                    out.write_row((1, 1, *row))
        bare_times.append(time.perf_counter() - begun)
        data = path.read_bytes() + b"\n" * k  # another file, or it would be known already
        begun = time.perf_counter()
        (batch,) = gather.upload(review, account, search, f"bench-{k}.ris", io.BytesIO(data)).batches
        with session() as db:
            job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v", v=review)
        gather.read_file(job)
        gather.take_in(review, account, batch)
        whole_times.append(time.perf_counter() - begun)
    tell(
        "intake of 30,000 records, times reading and a bare COPY",
        min(whole_times) / min(bare_times),
        4,
        at_most=True,
        detail=f"{min(whole_times):.1f} s",
    )
    return review, account


def _plain(value: object) -> object:
    if isinstance(value, tuple):
        return "[]" if value and isinstance(value[0], tuple) else [str(it) for it in value]
    return value


def figures(review: int, account: int) -> None:
    """All figures with 100,000 records against one count of them."""
    from kettlesort.store.base import engine, session
    from kettlesort.store.sql import run, scalar
    from kettlesort.work import gather, report, searches

    search = searches.write_search(review, account, searches.SearchEntry("Vitalis Index", "database", "", None, "", "", None))
    path = write(FOLDER / "10k.ris", 10_000)
    with session() as db:
        (job_batch,) = gather.upload(review, account, search, "ten.ris", io.BytesIO(path.read_bytes())).batches
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v", v=review)
    gather.read_file(job)
    gather.take_in(review, account, job_batch)
    with session() as db:
        run(
            db,
            "UPDATE standing SET first = (ARRAY['open', 'exclude', 'include', 'unsure'])[1 + record_id % 4], fulltext = 'obtained' WHERE review_id = :v",
            v=review,
        )
    with engine().connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.exec_driver_sql("VACUUM ANALYZE")

    def one_count() -> None:
        with session() as db:
            assert scalar(db, "SELECT count(*) FROM record WHERE review_id = :v", v=review) == 100_000

    mine, peer = best(lambda: report.standing(review), one_count, runs=7)
    tell("all figures with 100,000 records, times one count(*)", mine / peer, 5, at_most=True, detail=f"{mine * 1000:.0f} ms")


TYPED = (
    "w",
    "wi",
    "win",
    "winter",
    "winter ho",
    "winter honey",
    "colony -mite",
    "inv",
    "annals",
    "gor",
    "tam",
    "zu",
    "10.5555/inv.77",
    "loss wrap foam",
    "x",
)


def typing(review: int) -> None:
    """A page of records found as one types, among 100,000, each prefix for the first time."""
    from kettlesort.store.records import Wanted
    from kettlesort.work import records, searchable

    begun = time.perf_counter()
    searchable.index_review(review)
    records.page_of(review, Wanted("all", typed="warm"), 0, 100)
    print(f"         index made in {time.perf_counter() - begun:.0f} s")
    times = []
    for typed in TYPED:
        begun = time.perf_counter()
        total, _ = records.page_of(review, Wanted("all", typed=typed), 0, 100)
        times.append((time.perf_counter() - begun, typed, total))
    slowest = max(times)
    detail = f"median {sorted(times)[len(times) // 2][0] * 1000:.0f} ms; slowest “{slowest[1]}”, {slowest[2]:,} found"
    tell("finding as one types among 100,000 records, ms at most", slowest[0] * 1000, 100, at_most=True, detail=detail)


def main() -> None:
    server = os.environ["KETTLE_PG"]
    name = f"bench_{os.getpid()}"
    with psycopg.connect(f"{server}/postgres", autocommit=True) as admin:
        admin.execute(f"CREATE DATABASE {name}".encode())
        os.environ["KETTLE_DATABASE"] = f"{server}/{name}"
        from kettlesort.store.migrate import migrate

        try:
            migrate()
            review, account = intake(write(FOLDER / "30k.ris", 30_000))
            figures(review, account)
            typing(review)
        finally:
            from kettlesort.store.base import engine

            engine().dispose()
            admin.execute(f"DROP DATABASE {name} WITH (FORCE)".encode())


if __name__ == "__main__":
    main()
