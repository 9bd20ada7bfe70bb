"""Twenty people at the desk at once, while a large file is taken in: `./kettle run python bench/many.py [people] [decisions] [records]`

A real server of two processes, a worker, real sign-ins, an open event stream for each person. Everybody reads for a moment
(two seconds at the mean, faster than people are), decides, and has the next record; meanwhile 20,000 records are uploaded,
taken in and matched, and somebody looks at the lists of another review. Then what was acknowledged is compared with what is there.
"""

from __future__ import annotations

import random
import statistics
import sys
import threading
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import islice
from pathlib import Path

import psycopg

from corpus import invented, ris, write
from living import Person, own_database, running
from measure import FOLDER, tell

READING = 2.0


class Tally:
    """What everybody saw: times of answers, what was acknowledged, who had which record on the desk."""

    def __init__(self) -> None:
        self.guard = threading.Lock()
        self.times: dict[str, list[float]] = {"decide": [], "next": [], "other": []}
        self.acknowledged: list[tuple[str, int]] = []
        self.on_desk: dict[int, str] = {}
        self.handed_twice = 0
        self.refused: Counter[str] = Counter()

    @contextmanager
    def timed(self, what: str) -> Iterator[None]:
        begun = time.perf_counter()
        yield
        with self.guard:
            self.times[what].append(1000 * (time.perf_counter() - begun))

    def handed(self, name: str, records: list[int]) -> None:
        with self.guard:
            for record in records:
                self.handed_twice += self.on_desk.get(record, name) != name
                self.on_desk[record] = name

    def gone(self, name: str, record: int, *, decided: bool) -> None:
        with self.guard:
            self.on_desk.pop(record, None)
            if decided:
                self.acknowledged.append((name, record))


def screen(person: Person, name: str, review: int, criterion: int, decisions: int, tally: Tally, reading: float) -> None:
    """Decide on so many records as the desk in the browser does: some lie ready, more are asked for meanwhile."""
    rng = random.Random(name)
    waiting: list[int] = []
    done: list[int] = []
    while len(done) < decisions:
        if len(waiting) < 3:
            with tally.timed("next"):
                status, said = person.ask("POST", f"/api/reviews/{review}/desk?list=open", {"skip": [*waiting, *done[-300:]], "limit": 4})
            if status != 200:
                tally.refused[f"next {status}"] += 1
                time.sleep(0.5)
                continue
            waiting += [it["id"] for it in said if it["id"] not in waiting]
            tally.handed(name, waiting)
            if not waiting:
                time.sleep(0.5)
                continue
        record = waiting.pop(0)
        if reading:
            time.sleep(rng.expovariate(1 / reading))
        verdict = "exclude" if rng.random() < 0.9 else "include"
        said_of = {
            "record": record,
            "pass_number": 1,
            "verdict": verdict,
            "criterion": criterion if verdict == "exclude" else None,
            "seen": "open",
        }
        with tally.timed("decide"):
            status, said = person.ask("POST", f"/api/reviews/{review}/decisions", said_of)
        tally.gone(name, record, decided=status == 204)
        done.append(record)
        if status != 204:
            tally.refused[f"decide {status} {(said or {}).get('message', '')[:60]}"] += 1


def take_in(person: Person, review: int, path: Path) -> str:
    """Upload a file, take it in, and wait for its matching; how long each took."""
    begun = time.monotonic()
    _, made = person.ask(
        "POST", f"/api/reviews/{review}/searches", {"source": "Vitalis Index", "kind": "database", "query": "", "notes": ""}
    )
    status, said = person.upload(f"/api/reviews/{review}/searches/{made['id']}/files", path.name, path.read_bytes())
    if status >= 300:
        return f"upload refused: {said}"
    batch = said["batches"][0] if "batches" in said else said["id"]
    uploaded = time.monotonic()
    while True:
        state = next(it["state"] for it in person.ask("GET", f"/api/reviews/{review}/files")[1] if it["id"] == batch)
        if state in ("read", "failed"):
            break
        time.sleep(0.5)
    read = time.monotonic()
    status, said = person.ask("POST", f"/api/reviews/{review}/files/{batch}/take-in")
    taken = time.monotonic()
    while any(
        it["kind"] == "match_copies" and it["state"] in ("waiting", "working") for it in person.ask("GET", f"/api/reviews/{review}/jobs")[1]
    ):
        time.sleep(0.5)
    matched = time.monotonic()
    return f"upload {uploaded - begun:.1f} s, reading {read - uploaded:.1f} s, taking in {taken - read:.1f} s ({status}), matching {matched - taken:.1f} s"


def prepare(people: int, records: int) -> tuple[int, int, int]:
    """A large review, a second one, and the members of both."""
    import io

    from kettlesort.store.base import engine, session
    from kettlesort.store.sql import rows, scalar
    from kettlesort.work import gather, match, plan, protocol, ranking, searches, seeds
    from kettlesort.work.people import make_account
    from living import PASSWORD

    lead = make_account("lead", "Lead", PASSWORD).id or 0
    other = make_account("other", "Other", PASSWORD).id or 0
    for k in range(people):
        make_account(f"person{k}", f"Person {k}", PASSWORD)
    reviews = []
    for owner, size in ((lead, records), (other, 5000)):
        review = plan.make_review(owner, "Hives", "")
        protocol.amend(review, owner, {"criteria": [protocol.Wording(None, "Not bees", "", True, True)]}, "")
        search = searches.write_search(review, owner, searches.SearchEntry("Agrarica", "database", "", None, "", "", None))
        data = write(FOLDER / f"many-{size}.ris", size).read_bytes()
        (batch,) = gather.upload(review, owner, search, "records.ris", io.BytesIO(data)).batches
        with session() as db:
            job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v", v=review)
        gather.read_file(job)
        gather.take_in(review, owner, batch)
        with session() as db:
            waiting = rows(db, "SELECT id FROM job WHERE review_id = :v AND kind = 'match_copies' AND state = 'waiting'", v=review)
        for it in waiting:
            match.match_copies(it["id"])
        with session() as db:
            found = [
                it["record_id"]
                for it in rows(db, "SELECT record_id FROM standing WHERE review_id = :v ORDER BY record_id LIMIT 5", v=review)
            ]
        for record in found:
            seeds.mark_seed(review, owner, record, True)
        ranking.rank_review(review)
        reviews.append(review)
    for k in range(people):
        plan.add_member(reviews[0], lead, f"person{k}", "reviewer")
    with session() as db:
        criterion = scalar(db, "SELECT min(id) FROM criterion WHERE review_id = :v", v=reviews[0])
    with engine().connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.exec_driver_sql("DELETE FROM procrastinate_jobs")
    return reviews[0], reviews[1], criterion


def compare(database: str, review: int, tally: Tally) -> tuple[int, int]:
    """How many acknowledged decisions are not there, and how many are there twice."""
    with psycopg.connect(database) as db:
        found = Counter(
            (name, record)
            for name, record in db.execute(
                "SELECT a.name, v.copy_id FROM verdict v JOIN account a ON a.id = v.account_id WHERE v.review_id = %s", (review,)
            )
        )
    wanted = Counter(tally.acknowledged)
    return sum((wanted - found).values()), sum(n - 1 for n in found.values() if n > 1)


def main() -> None:
    people, decisions, records = (*(int(it) for it in sys.argv[1:4]), *(20, 200, 20_000)[len(sys.argv) - 1 :])
    incoming = FOLDER / f"incoming-{records}.ris"
    incoming.parent.mkdir(parents=True, exist_ok=True)
    incoming.write_text("".join(map(ris, islice(invented(records + 20_000), records, None))))
    with own_database("many") as database:
        review, second, criterion = prepare(people, records)
        with running(processes=2) as copy:
            tally, ended = Tally(), threading.Event()
            crowd = []
            for k in range(people):
                person = Person(copy.port)
                person.sign_in(f"person{k}")
                crowd.append(person)
            listeners = []
            for person in crowd:
                ear = Person(copy.port)
                ear.cookie = person.cookie
                listeners.append(threading.Thread(target=ear.listen, args=(f"/api/reviews/{review}/live", ended), daemon=True))
            desks = [
                threading.Thread(target=screen, args=(person, f"person{k}", review, criterion, decisions, tally, READING))
                for k, person in enumerate(crowd)
            ]
            told: list[str] = []
            lead, other = Person(copy.port), Person(copy.port)
            lead.sign_in("lead")
            other.sign_in("other")

            def elsewhere() -> None:
                while not ended.is_set():
                    with tally.timed("other"):
                        other.ask("GET", f"/api/reviews/{second}/records?list=all&limit=100")
                    time.sleep(0.5)

            intake = threading.Thread(target=lambda: told.append(take_in(lead, review, incoming)))
            threads = [*listeners, *desks, intake]
            aside = threading.Thread(target=elsewhere)
            begun = time.monotonic()
            for it in [*threads, aside]:
                it.start()
            for it in desks:
                it.join()
            took = time.monotonic() - begun
            intake.join()
            ended.set()
            aside.join()
            lost, doubled = compare(database, review, tally)
            memory = copy.memory()
    n = len(tally.acknowledged)
    print(
        f"{people} people, {n:,} decisions acknowledged in {took:.0f} s ({n / took:.1f} a second), {records:,} records to screen; 20,000 more: {told[0]}"
    )
    for what, count in tally.refused.items():
        print(f"         not as asked: {count} × {what}")
    tell("acknowledged and lost", lost, 0, at_most=True)
    tell("doubled", doubled, 0, at_most=True)
    tell("handed to two", tally.handed_twice, 0, at_most=True)
    for what, name, middle, worst in (("decide", "a decision", 60, 300), ("next", "the next records", 60, 300)):
        times = sorted(tally.times[what])
        tell(f"{name}, ms, median", statistics.median(times), middle, at_most=True)
        tell(f"{name}, ms, 99th percentile", times[int(len(times) * 0.99)], worst, at_most=True, detail=f"longest {times[-1]:.0f}")
    times = sorted(tally.times["other"])
    tell(
        "a second review’s page meanwhile, ms, 95th percentile",
        times[int(len(times) * 0.95)],
        200,
        at_most=True,
        detail=f"median {statistics.median(times):.0f}, longest {times[-1]:.0f}",
    )
    print(f"         the server’s processes hold {memory:.0f} MB")


if __name__ == "__main__":
    main()
