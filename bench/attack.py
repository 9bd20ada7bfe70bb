"""What an attacker, or a bad day, did to a running copy: done again, and what held: `./kettle run python bench/attack.py [names of attacks]`

A PostgreSQL of its own, a server and a worker. Each line says what was done, what was seen, and whether it holds.
"""

from __future__ import annotations

import http.client
import os
import socket
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import psycopg

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.core.books import FAR

from living import PASSWORD, Cluster, Copy, Person, own_database, running
from many import prepare
from measure import tell

RECORDS = 20_000
BOMB = (
    '<?xml version="1.0"?><!DOCTYPE r [<!ENTITY a "aaaaaaaaaa">'
    + "".join(f'<!ENTITY {chr(98 + k)} "{f"&{chr(97 + k)};" * 10}">' for k in range(9))
    + ']><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">&j;</rdf:RDF>'
)


class Scene:
    """The running copy, its database, and who attacks it: a lead of a review, and an account in none."""

    def __init__(self, cluster: Cluster, database: str, copy: Copy, review: int, criterion: int) -> None:
        self.cluster, self.database, self.copy, self.review, self.criterion = cluster, database, copy, review, criterion
        self.lead, self.stranger = Person(copy.port), Person(copy.port)
        self.lead.sign_in("lead")
        self.stranger.sign_in("person0")

    def sql(self, statement: str) -> object:
        with psycopg.connect(self.database, autocommit=True) as db:
            found = db.execute(statement.encode())
            return found.fetchone()[0] if found.description else None  # type: ignore[index]

    def until(self, statement: str, wanted: object, seconds: float) -> float:
        """Seconds until a statement says something; infinite if it does not in time."""
        begun = time.monotonic()
        while time.monotonic() - begun < seconds:
            try:
                if self.sql(statement) == wanted:
                    return time.monotonic() - begun
            except psycopg.OperationalError:
                pass
            time.sleep(0.2)
        return float("inf")

    def upload(self, path: str, name: str, data: bytes) -> int:
        _, made = self.lead.ask("POST", f"/api/reviews/{self.review}/searches", {"source": "Agrarica", "kind": "database"})
        status, said = self.lead.upload(path.format(search=made["id"]), name, data)
        assert status == 201, said
        return int(said["batches"][0] if "batches" in said else said["id"])


def slowest_health(copy: Copy, work: Callable[[], object]) -> float:
    """The longest that /api/health takes while something is done; milliseconds."""
    ended, longest = threading.Event(), [0.0]

    def look() -> None:
        one = Person(copy.port)
        while not ended.is_set():
            begun = time.perf_counter()
            one.ask("GET", "/api/health")
            longest[0] = max(longest[0], 1000 * (time.perf_counter() - begun))
            time.sleep(0.05)

    thread = threading.Thread(target=look)
    thread.start()
    work()
    ended.set()
    thread.join()
    return longest[0]


def worker_with_its_like_waiting(at: Scene) -> None:
    pid = at.copy.worker.pid
    for _ in range(5):
        at.sql(f"""INSERT INTO procrastinate_jobs (queue_name, task_name, lock, queueing_lock, args, status)
            VALUES ('ranking', 'rank', 'x-{time.monotonic_ns()}', 'rank-{at.review}', '{{"review": {at.review}}}', 'doing')""")
    at.sql(f"""INSERT INTO procrastinate_jobs (queue_name, task_name, lock, queueing_lock, args)
        VALUES ('ranking', 'rank', 'rank-{at.review}', 'rank-{at.review}', '{{"review": {at.review}}}') ON CONFLICT DO NOTHING""")
    at.copy.kill("worker")
    took = at.until("SELECT count(*) FROM procrastinate_jobs WHERE task_name = 'rank' AND status IN ('todo', 'doing')", 0, 90)
    alive = at.copy.worker.poll() is None and at.copy.worker.pid != pid
    tell("1  stalled jobs whose like waits: seconds until all are done", took, 60, at_most=True, detail="" if alive else "THE WORKER ENDED")


def database_away(at: Scene) -> None:
    pid = at.copy.worker.pid
    at.cluster.stop_for(25)
    status = Person(at.copy.port).ask("GET", "/api/health")[0]
    at.sql(f"""INSERT INTO procrastinate_jobs (queue_name, task_name, lock, queueing_lock, args)
        VALUES ('ranking', 'rank', 'rank-{at.review}', 'rank-{at.review}', '{{"review": {at.review}}}')""")
    took = at.until("SELECT count(*) FROM procrastinate_jobs WHERE task_name = 'rank' AND status IN ('todo', 'doing')", 0, 60)
    same = at.copy.worker.poll() is None and at.copy.worker.pid == pid
    detail = f"the server answers {status}; the worker {'lived on' if same else 'ENDED'}"
    tell("1  database away for 25 s: seconds until the next job is done", took if same else float("inf"), 40, at_most=True, detail=detail)


def workbooks(at: Scene) -> None:
    before, held = at.copy.memory(), 0
    for name, book in FAR.items():
        status, said = at.stranger.upload("/api/convert/look", f"{name}.xlsx", book.getvalue())
        held += status == 422 and "Traceback" not in str(said)
    alive = at.copy.server.poll() is None
    tell(
        "2  workbooks that ask for 157 GB, of",
        len(FAR) - held,
        0,
        at_most=True,
        detail=f"{held} of {len(FAR)} refused with a message; server {'alive' if alive else 'DEAD'}",
    )
    tell("2  memory of the server, MB more", at.copy.memory() - before, 150, at_most=True)
    batch = at.upload(f"/api/reviews/{at.review}/searches/{{search}}/files", "far.xlsx", FAR["small letters"].getvalue())
    took = at.until(f"SELECT state FROM batch WHERE id = {batch}", "failed", 60)
    alive = at.copy.worker.poll() is None
    tell(
        "2  one uploaded: seconds until it has failed",
        took,
        30,
        at_most=True,
        detail=f"{at.sql(f'SELECT failure FROM batch WHERE id = {batch}')}; worker {'alive' if alive else 'DEAD'}",
    )


def lines_of_lines(at: Scene) -> None:
    lines = ["bees"] + [f"#{k} OR (#{k} AND winter{k})" for k in range(1, 21)]
    begun = time.monotonic()
    _, said = at.lead.ask("POST", f"/api/reviews/{at.review}/query/read", {"lines": lines})
    tell("3  20 lines that name lines: seconds", time.monotonic() - begun, 5, at_most=True, detail=said["problem"]["message"])


def sign_ins(at: Scene) -> None:
    before = at.copy.memory()
    answers: list[int] = []

    def crowd(n: int, wrong: bool) -> None:
        def one(k: int) -> int:
            body = {"name": "lead" if wrong else f"crowd{k}", "password": "wrong password" if wrong else PASSWORD, "full_name": "Crowd"}
            return Person(at.copy.port).ask("POST", "/api/account/sign-in" if wrong else "/api/account/new", body)[0]

        with ThreadPoolExecutor(n) as pool:
            answers.extend(pool.map(one, range(n)))

    longest = slowest_health(at.copy, lambda: crowd(100, True))
    looked_at = sum(it == 401 for it in answers)
    tell("4  100 wrong sign-ins at once: passwords looked at", looked_at, 8, at_most=True, detail=f"health at most {longest:.0f} ms")
    longest = slowest_health(at.copy, lambda: crowd(60, False))
    tell("4  60 new accounts at once: longest answer of health, ms", longest, 2000, at_most=True)
    tell("4  memory of the server, MB more", at.copy.memory() - before, 400, at_most=True)


def killed_database(at: Scene) -> None:
    acknowledged: list[int] = []
    ended = threading.Event()

    def decide(name: str) -> None:
        one = Person(at.copy.port, timeout=10)
        one.sign_in(name)
        while not ended.is_set():
            try:
                status, said = one.ask("POST", f"/api/reviews/{at.review}/desk?list=open", {"skip": [], "limit": 1})
                if status != 200 or not said:
                    continue
                said_of = {"record": said[0]["id"], "pass_number": 1, "verdict": "exclude", "criterion": at.criterion}
                if one.ask("POST", f"/api/reviews/{at.review}/decisions", said_of)[0] == 204:
                    acknowledged.append(said[0]["id"])
            except OSError:
                time.sleep(0.2)

    threads = [threading.Thread(target=decide, args=(f"person{k}",)) for k in range(1, 5)]
    for it in threads:
        it.start()
    for _ in range(3):
        time.sleep(4)
        at.cluster.kill()
        at.copy.wait()
    ended.set()
    for it in threads:
        it.join()
    with psycopg.connect(at.database) as db:
        there = {it[0] for it in db.execute("SELECT copy_id FROM verdict")}
    lost = len(set(acknowledged) - there)
    tell(
        "5  PostgreSQL killed three times: acknowledged and lost",
        lost,
        0,
        at_most=True,
        detail=f"of {len(acknowledged)} decisions; synchronous_commit is {at.sql('SHOW synchronous_commit')}",
    )


def the_desk(at: Scene) -> None:
    times = []
    for _ in range(20):
        begun = time.perf_counter()
        at.lead.ask("POST", f"/api/reviews/{at.review}/desk?list=open", {"skip": [], "limit": 4})
        times.append(1000 * (time.perf_counter() - begun))
    tell(f"6  the next four of {RECORDS:,} records, ms, median", sorted(times)[10], 150, at_most=True, detail=f"longest {max(times):.0f}")


def vocabularies(at: Scene) -> None:
    with socket.socket() as ear:
        ear.bind(("127.0.0.1", 0))
        ear.listen()
        ear.settimeout(1)
        there = f"http://127.0.0.1:{ear.getsockname()[1]}/context"
        nested = f'{{"@context": [{{"a": {{"@id": "x:a", "@context": [["{there}"]]}}}}], "a": {{"b": 1}}}}'
        for name, data in (("nested.jsonld", nested), ("file.jsonld", nested.replace(there, "file:///etc/passwd")), ("entities.rdf", BOMB)):
            status, said = at.lead.upload(f"/api/reviews/{at.review}/vocabularies", name, data.encode())
            assert status in (201, 202), said
        took = at.until("SELECT count(*) FROM vocabulary WHERE state = 'waiting'", 0, 60)
        try:
            ear.accept()
            asked = 1
        except TimeoutError:
            asked = 0
    tell("7  vocabularies that want something fetched: requests made", asked, 0, at_most=True)
    failed = at.sql("SELECT count(*) FROM vocabulary WHERE state = 'failed'")
    tell("7  entities in entities: seconds until all have failed", took, 30, at_most=True, detail=f"{failed} of 3 failed with a message")


def health(at: Scene) -> None:
    """What `./kettle start` goes by."""
    at.cluster.halt()
    away = Person(at.copy.port, timeout=60).ask("GET", "/api/health")[0]
    at.cluster.start()
    begun = time.monotonic()
    back = at.copy.wait(60)
    tell(
        "8  health while the database is away is 503; seconds until it is well again",
        time.monotonic() - begun if back and away == 503 else float("inf"),
        15,
        at_most=True,
    )


def hanging_catalogue(at: Scene) -> None:
    with socket.socket() as ear:
        ear.bind(("127.0.0.1", 0))
        ear.listen(200)  # it takes what comes and never answers
        at.sql(f"""INSERT INTO catalogue (review_id, name, address, version, schema)
            VALUES ({at.review}, 'Hanging', 'http://127.0.0.1:{ear.getsockname()[1]}/', '2.0', 'marcxml')""")
        number = at.sql("SELECT max(id) FROM catalogue")

        def count(_: int) -> None:
            one = Person(at.copy.port, timeout=8)
            one.cookie = at.lead.cookie
            try:
                one.ask("POST", f"/api/reviews/{at.review}/catalogues/{number}/count", {"text": "bees"})
            except OSError:
                pass

        def crowd() -> None:
            with ThreadPoolExecutor(45) as pool:
                list(pool.map(count, range(45)))

        tell("9  45 questions to a catalogue that hangs: longest answer of health, ms", slowest_health(at.copy, crowd), 1000, at_most=True)


def huge_bodies(at: Scene) -> None:
    before = at.copy.memory()

    def send(path: str, kind: str, cookie: str) -> int:
        connection = http.client.HTTPConnection("127.0.0.1", at.copy.port, timeout=60)
        try:
            connection.putrequest("POST", path)
            for name, value in (("x-kettle-sort", "1"), ("content-type", kind), ("transfer-encoding", "chunked"), ("cookie", cookie)):
                connection.putheader(name, value)
            connection.endheaders()
            piece = b"10000\r\n" + b"x" * 65_536 + b"\r\n"
            for _ in range(4800):
                connection.send(piece)
        except OSError:
            pass  # it was shut, as it should be
        try:
            return connection.getresponse().status
        except (OSError, http.client.HTTPException):
            return 413
        finally:
            connection.close()

    said = [send("/api/account/sign-in", "application/json", ""), send("/api/account/sign-in", "multipart/form-data; boundary=x", "")]
    said.append(send(f"/api/reviews/{at.review}/searches", "application/json", at.lead.cookie))
    tell(
        "10 three bodies of 300 MB: memory of the server, MB more", at.copy.memory() - before, 150, at_most=True, detail=f"answered {said}"
    )


def main() -> None:
    cluster = Cluster()
    os.environ["KETTLE_PG"] = cluster.address
    try:
        with own_database("attack") as database:
            review, _, criterion = prepare(6, RECORDS)
            with running(processes=1) as copy:
                at = Scene(cluster, database, copy, review, criterion)
                wanted = sys.argv[1:]
                for attack in (
                    the_desk,
                    workbooks,
                    lines_of_lines,
                    vocabularies,
                    hanging_catalogue,
                    huge_bodies,
                    worker_with_its_like_waiting,
                    database_away,
                    health,
                    killed_database,
                    sign_ins,
                ):
                    if not wanted or attack.__name__ in wanted:
                        attack(at)
    finally:
        cluster.stop()


if __name__ == "__main__":
    main()
