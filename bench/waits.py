"""How long others wait, and how long a page takes in a large review: `./kettle run python bench/waits.py [MATCHED] [LISTED]`

While a file of MATCHED records (20,000) beside another is taken in, matched, set aside, taken in again, and a dry run of all of them is made, applied
and undone, somebody else makes small changes of the same review: printed is what the longest of them waited. Then every page that a member may ask for
without more than the review's number is asked in a review of LISTED records (100,000), two fifths of them decided, with 500 open questions. Works in a
database of its own, which it drops at the end.
"""

from __future__ import annotations

import io
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from multiprocessing import get_context
from multiprocessing.connection import Connection
from typing import Any

from corpus import write
from living import own_database
from measure import FOLDER, tell

_APART = get_context("spawn")
PASSWORD = "long enough"
LONGEST = 0.5
PAGE = 1000.0
BY_DOI = 'name = "By DOI alone"\nweights = false\n[[passes]]\nname = "DOI"\nthen = "join"\nagree = { doi = "exactly" }\n'
"""A rule that parts about half of what the weights join."""
NOT_LISTS = ("live", "sheet", "pictures", ".svg", ".png", ".pdf", ".docx", ".xlsx", ".csv", ".md", ".toml", "export", "records/ids")
"""Streams, and files that are made to be saved."""


def change_again_and_again(review: int, account: int, asked: Connection) -> None:
    """Make a small change of a review again and again, from one word of the other end to the next, and send back what the longest took to begin."""
    from kettlesort.work.change import changing

    def waited() -> float:
        begun = time.perf_counter()
        with changing(review, account, ""):
            return time.perf_counter() - begun

    waited()  # the first one connects
    asked.send(0.0)
    with suppress(EOFError):  # the other end has gone
        while asked.recv():
            longest = 0.0
            while not asked.poll(0.01):
                longest = max(longest, waited())
            asked.recv()
            asked.send(longest)


class Waiting:
    """Somebody who changes a review meanwhile, in a process of their own as a server is one."""

    def __init__(self, review: int, account: int) -> None:
        self._other, theirs = _APART.Pipe()
        _APART.Process(target=change_again_and_again, args=(review, account, theirs), daemon=True).start()
        self._other.recv()

    @contextmanager
    def meanwhile(self, what: str) -> Iterator[None]:
        """Tell how long it took, and how long the other one waited at most."""
        self._other.send(True)
        begun = time.perf_counter()
        try:
            yield
        finally:
            took = time.perf_counter() - begun
            self._other.send(False)
            longest = self._other.recv()
        tell(f"{what}: the longest wait of another, s", longest, LONGEST, at_most=True, detail=f"of {took:.1f} s")


def job_of(review: int, kind: str) -> int:
    from kettlesort.store.base import session
    from kettlesort.store.sql import scalar

    with session() as db:
        return int(scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = :k", v=review, k=kind))


def file_of(review: int, account: int, source: str, data: bytes) -> int:
    """A file that was read and waits to be taken in."""
    from kettlesort.work import gather, searches

    search = searches.write_search(review, account, searches.SearchEntry(source, "database", "", None, "", "", None))
    (batch,) = gather.upload(review, account, search, f"{source}.ris", io.BytesIO(data)).batches
    gather.read_file(job_of(review, "read_file"))
    return batch


def waits(account: int, size: int) -> None:
    from kettlesort.core.matching import rule_of
    from kettlesort.store.base import session
    from kettlesort.store.sql import run
    from kettlesort.work import gather, match, plan, trials

    review = plan.make_review(account, "Waits", "")
    data = write(FOLDER / f"{size}.ris", size).read_bytes()
    other = Waiting(review, account)
    for source, more in (("Agrarica", b""), ("Vitalis", b"\n")):
        batch = file_of(review, account, source, data + more)
        with other.meanwhile(f"taking in {size:,}"):
            gather.take_in(review, account, batch)
        with other.meanwhile(f"matching {size:,}"):
            match.match_copies(job_of(review, "match_copies"))
    with other.meanwhile(f"setting {size:,} copies aside"):
        gather.set_aside(review, account, batch)
        finished(review)
    with other.meanwhile("taking the same in again"):
        gather.take_in(review, account, batch)
    with other.meanwhile("matching them again"):
        match.match_copies(job_of(review, "match_copies"))
    with session() as db:
        run(db, "UPDATE job SET state = 'done' WHERE review_id = :r", r=review)
    with other.meanwhile("a dry run"):
        trial = trials.begin(review, account, rule_of(BY_DOI).text())
        trials.try_rule(job_of(review, "try_rule"))
    for what, deed in (("applying it", trials.apply), ("undoing it", trials.undo)):
        with other.meanwhile(what):
            deed(review, account, trial)
            finished(review)


def finished(review: int) -> None:
    """What a deed has left to the worker is done."""
    from kettlesort.store.base import session
    from kettlesort.store.sql import rows
    from kettlesort.work import gather, trials

    with session() as db:
        left = rows(
            db,
            "SELECT id, kind FROM job WHERE review_id = :r AND state = 'waiting' AND kind IN ('leave_review', 'settle_groups')",
            r=review,
        )
    for job in left:
        (gather.leave_review if job["kind"] == "leave_review" else trials.settle_groups)(job["id"])


def pages(account: int, size: int) -> None:
    from fastapi.testclient import TestClient

    from kettlesort.api import app
    from kettlesort.store import questions
    from kettlesort.store.base import engine, session
    from kettlesort.store.ranking import Ranked, write_order
    from kettlesort.store.sql import column, run
    from kettlesort.store.standing import refresh_standing
    from kettlesort.work import gather, people, plan, protocol, searchable

    review = plan.make_review(account, "Pages", "")
    protocol.amend(review, account, {"criteria": [protocol.Wording(None, "Not bees", "", True, True)]}, "")
    gather.take_in(review, account, file_of(review, account, "Agrarica", write(FOLDER / f"{size}.ris", size).read_bytes()))
    with session() as db:
        run(
            db,
            """INSERT INTO verdict (review_id, copy_id, pass_number, account_id, verdict, criterion_id, settles)
            SELECT review_id, id, 1, :a, CASE WHEN id % 20 = 0 THEN 'include' ELSE 'exclude' END, CASE WHEN id % 20 = 0 THEN NULL ELSE
                (SELECT min(id) FROM criterion WHERE review_id = :r) END, FALSE FROM copy WHERE review_id = :r AND id % 5 < 2""",
            a=account, r=review,
        )  # fmt: skip
        refresh_standing(db, review, None)
        ids = column(db, "SELECT id FROM copy WHERE review_id = :r ORDER BY id LIMIT 1000", r=review)
        questions.ask(db, review, [(a, b, 1.0, "", "") for a, b in zip(ids[::2], ids[1::2], strict=True)])
        run(db, "UPDATE batch SET matched = TRUE WHERE review_id = :r", r=review)
        run(db, "UPDATE job SET state = 'done' WHERE review_id = :r", r=review)
    with engine().connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.exec_driver_sql("VACUUM ANALYZE")
    with session() as db:  # the order itself is the bench's of ranking
        write_order(
            db,
            review,
            5,
            [Ranked(one, 1 / (1 + one % 97), None) for one in column(db, "SELECT id FROM record WHERE review_id = :r", r=review)],
        )
    searchable.index_review(review)
    http = TestClient(app)
    http.cookies.set(people.COOKIE, people.sign_in("lead", PASSWORD))
    took = sorted(((asked(http, path, review), path) for path in paths(app.openapi())), reverse=True)
    for milliseconds, path in took[:12]:
        tell(f"GET {path}, ms", milliseconds, PAGE, at_most=True)
    print(f"         {len(took)} pages; median {took[len(took) // 2][0]:.0f} ms")


def paths(document: dict[str, Any]) -> list[str]:
    """The pages that want no more than the review's number."""
    return [
        path
        for path, said in document["paths"].items()
        if "get" in said and path.startswith("/api/reviews/{review}/") and path.count("{") == 1 and not any(word in path for word in NOT_LISTS)
        and not any(one.get("required") and one["in"] == "query" for one in said["get"].get("parameters", []))
    ]  # fmt: skip


def asked(http: Any, path: str, review: int) -> float:
    """Milliseconds that a page takes the second time."""
    answer: Callable[[], Any] = lambda: http.get(path.replace("{review}", str(review)))  # noqa: E731
    answer()
    begun = time.perf_counter()
    said = answer()
    assert said.status_code < 500, f"{path}: {said.text[:200]}"
    return 1000 * (time.perf_counter() - begun)


def main() -> None:
    matched, listed = (int(one) for one in (*sys.argv[1:], "20000", "100000")[:2])
    with own_database("waits"):
        from kettlesort.work import people

        account = people.make_account("lead", "Lead", PASSWORD).id or 0
        if matched:
            waits(account, matched)
        if listed:
            pages(account, listed)


if __name__ == "__main__":
    main()
