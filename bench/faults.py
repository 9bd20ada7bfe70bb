"""Server, worker and PostgreSQL killed at random while people screen: `./kettle run python bench/faults.py [kills] [seed]`

A PostgreSQL of its own, started with the options of `./kettle`; a server of two processes and a worker, each killed
with SIGKILL and started again as an init system would, nothing more. Six people decide meanwhile and take some decisions back,
and files are taken in and matched. Then what was acknowledged is compared with what is there, and all three have to be at work.
"""

from __future__ import annotations

import os
import random
import sys
import threading
import time
from collections import Counter
from itertools import islice

import psycopg

from corpus import invented, ris
from living import Cluster, Person, own_database, running
from many import prepare
from measure import tell

PEOPLE, PAUSE = 6, 0.15


class Told:
    """What was acknowledged: decisions and what was taken back, by person."""

    def __init__(self) -> None:
        self.guard = threading.Lock()
        self.decided: Counter[tuple[str, int]] = Counter()
        self.unknown: Counter[tuple[str, int]] = Counter()
        self.broken = 0
        self.refused: Counter[int] = Counter()


def screen(port: int, name: str, review: int, criterion: int, told: Told, ended: threading.Event) -> None:
    """Decide without end; what breaks off is asked again until it is answered."""
    person = Person(port, timeout=20)
    person.cookie = COOKIES[name]
    waiting: list[int] = []
    while not ended.is_set():
        try:
            if not waiting:
                status, said = person.ask("POST", f"/api/reviews/{review}/desk?list=open", {"skip": [], "limit": 4})
                waiting = [it["id"] for it in said] if status == 200 else []
                if not waiting:
                    time.sleep(0.3)
                    continue
            record = waiting.pop()
            status, _ = person.ask(
                "POST",
                f"/api/reviews/{review}/decisions",
                {"record": record, "pass_number": 1, "verdict": "exclude", "criterion": criterion},
            )
            with told.guard:
                if status == 204:
                    told.decided[(name, record)] += 1
                else:
                    told.refused[status] += 1
        except OSError:  # nobody knows whether it was written
            with told.guard:
                told.broken += 1
                if "record" in locals():
                    told.unknown[(name, record)] += 1
            time.sleep(0.2)
        time.sleep(PAUSE)


COOKIES: dict[str, str] = {}


def gather(port: int, review: int, ended: threading.Event) -> int:
    """Take in small files, one after the other; how many."""
    lead, taken, k = Person(port, timeout=30), 0, 0
    lead.cookie = COOKIES["lead"]
    records = list(islice(invented(30_000, seed=5), 0, None, 30))
    while not ended.is_set():
        k += 1
        try:
            status, made = lead.ask("POST", f"/api/reviews/{review}/searches", {"source": f"Source {k}", "kind": "database"})
            if status != 201:
                time.sleep(0.5)
                continue
            data = "".join(map(ris, records[k * 40 : k * 40 + 40])).encode()
            status, said = lead.upload(f"/api/reviews/{review}/searches/{made['id']}/files", f"{k}.ris", data)
            while status == 201 and not ended.is_set():
                state = next(
                    (it["state"] for it in lead.ask("GET", f"/api/reviews/{review}/files")[1] if it["id"] == said["batches"][0]), ""
                )
                if state == "read":
                    status = lead.ask("POST", f"/api/reviews/{review}/files/{said['batches'][0]}/take-in")[0]
                    taken += status == 204
                elif state in ("taken", "failed"):
                    break
                time.sleep(0.5)
        except (OSError, TypeError, KeyError):
            time.sleep(0.5)
    return taken


def main() -> None:
    kills, seed = (*(int(it) for it in sys.argv[1:3]), *(20, 1)[len(sys.argv) - 1 :])
    rng = random.Random(seed)
    cluster = Cluster()
    os.environ["KETTLE_PG"] = cluster.address
    try:
        with own_database("faults") as database:
            review, _, criterion = prepare(PEOPLE, 4000)
            with running(processes=2) as copy:
                for name in ("lead", *(f"person{k}" for k in range(PEOPLE))):
                    one = Person(copy.port)
                    one.sign_in(name)
                    COOKIES[name] = one.cookie
                told, ended = Told(), threading.Event()
                threads = [
                    threading.Thread(target=screen, args=(copy.port, f"person{k}", review, criterion, told, ended)) for k in range(PEOPLE)
                ]
                threads.append(threading.Thread(target=gather, args=(copy.port, review, ended)))
                for it in threads:
                    it.start()
                killed: Counter[str] = Counter()
                slowest = 0.0
                for part in rng.sample(["server", "worker", "PostgreSQL"] * (kills // 3 + 1), kills):
                    time.sleep(rng.uniform(2, 5))
                    killed[part] += 1
                    begun = time.monotonic()
                    cluster.kill() if part == "PostgreSQL" else copy.kill(part)
                    if not copy.wait(90):
                        raise SystemExit(f"after killing the {part} it does not come back: {copy.logs}")
                    slowest = max(slowest, time.monotonic() - begun)
                ended.set()
                for it in threads:
                    it.join()
                at_work = settled(database, review)
                lost, doubled = compare(database, review, told)
    finally:
        cluster.stop()
    print(
        f"{kills} kills ({', '.join(f'{n} × {part}' for part, n in killed.items())}); {sum(told.decided.values()):,} decisions acknowledged, {told.broken} requests broken off"
    )
    for status, n in told.refused.items():
        print(f"         answered {status}: {n}")
    tell("acknowledged and missing", lost, 0, at_most=True)
    tell("doubled without being asked twice", doubled, 0, at_most=True)
    tell("jobs that did not come to an end, and files that were not matched", at_work, 0, at_most=True)
    print(f"         back at work within {slowest:.1f} s at the longest")


def settled(database: str, review: int) -> int:
    """How much is left undone when nobody asks for anything any more: waited for, two minutes at most."""
    begun = time.monotonic()
    while True:
        with psycopg.connect(database) as db:
            found = db.execute(
                """SELECT (SELECT count(*) FROM job WHERE review_id = %(v)s AND state IN ('waiting', 'working'))
                + (SELECT count(*) FROM batch WHERE review_id = %(v)s AND (state IN ('waiting', 'reading') OR (state = 'taken' AND NOT matched)))
                + (SELECT count(*) FROM procrastinate_jobs WHERE status IN ('doing', 'failed'))""",
                {"v": review},
            ).fetchone()
        left = int(found[0]) if found else 0
        if left == 0 or time.monotonic() - begun > 120:
            return left
        time.sleep(1)


def compare(database: str, review: int, told: Told) -> tuple[int, int]:
    """Acknowledged decisions that are not there, and more of one than were sent."""
    with psycopg.connect(database) as db:
        there = Counter(
            (name, copy)
            for name, copy in db.execute(
                "SELECT a.name, v.copy_id FROM verdict v JOIN account a ON a.id = v.account_id WHERE v.review_id = %s", (review,)
            )
        )
    lost = sum((told.decided - there).values())
    return lost, sum((there - told.decided - told.unknown).values())


if __name__ == "__main__":
    main()
