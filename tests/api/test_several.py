"""Two servers and two workers on one database: what one of them knows holds for the other."""

from __future__ import annotations

import http.client
import threading
import time
from collections.abc import Callable, Iterator

import pytest

from kettlesort.settings import settings
from kettlesort.store.base import session
from kettlesort.store.people import Account
from kettlesort.store.sql import scalar
from living import Copy, Person, running
from tests.conftest import Room, ris

pytestmark = pytest.mark.xdist_group("several")
TITLES = [f"Wrapped hives in the winter of {year}, told at some length" for year in range(1970, 1994)]


@pytest.fixture(scope="module")
def copies(database: str) -> Iterator[tuple[Copy, Copy]]:
    with running() as one, running() as other:
        yield one, other


def signed_in(copy: Copy, account: int) -> Person:
    """Somebody at one of the servers."""
    with session() as db:
        name = db.get_one(Account, account).name
    person = Person(copy.port)
    status, said = person.ask("POST", "/api/account/sign-in", {"name": name, "password": "long enough"})
    assert status == 204, said
    return person


def until(done: Callable[[], object], what: str, seconds: float = 60) -> None:
    begun = time.monotonic()
    while not done():
        assert time.monotonic() - begun < seconds, f"not within {seconds} s: {what}"
        time.sleep(0.1)


class Ear:
    """An open page of a review: the words that it hears."""

    def __init__(self, person: Person, review: int) -> None:
        self.heard: list[str] = []
        self._connection = http.client.HTTPConnection("127.0.0.1", person.port, timeout=60)
        self._connection.request("GET", f"/api/reviews/{review}/live", headers={"cookie": person.cookie})
        self._lines = self._connection.getresponse().fp
        threading.Thread(target=self._listen, daemon=True).start()

    def _listen(self) -> None:
        try:
            for line in self._lines:
                if line.startswith(b"data:"):
                    self.heard.append(line[5:].strip().decode())
        except (OSError, ValueError, AttributeError):
            pass  # the page was left


def test_two_people_at_two_servers_are_handed_different_records_and_hear_of_each_other(room: Room, copies: tuple[Copy, Copy]) -> None:
    room.gather(ris(*TITLES))
    lead, other = signed_in(copies[0], room.lead), signed_in(copies[1], room.reviewer)
    ear = Ear(other, room.review)
    until(lambda: "hello" in ear.heard, "a page that listens")
    desk = f"/api/reviews/{room.review}/desk?list=open&pass_number=1"
    mine, theirs = (person.ask("POST", desk, {"skip": [], "limit": 8})[1] for person in (lead, other))
    assert len(mine) == len(theirs) == 8
    assert not {it["id"] for it in mine} & {it["id"] for it in theirs}

    decide = f"/api/reviews/{room.review}/decisions"
    assert lead.ask("POST", decide, {"record": mine[0]["id"], "pass_number": 1, "verdict": "include"})[0] < 300
    until(lambda: "screen" in ear.heard, "the decision heard at the other server")
    status, said = other.ask("POST", decide, {"record": mine[1]["id"], "pass_number": 1, "verdict": "include"})
    assert (status, said["message"]) == (409, "Lead Orsel has this record on the desk.")

    # the word of changes breaks off, and is heard again
    with session() as db:
        listening = (
            "FROM pg_stat_activity WHERE query LIKE 'LISTEN kettlesort%' AND datname = current_database() AND pid <> pg_backend_pid()"
        )
        broken = scalar(db, f"SELECT count(pg_terminate_backend(pid)) {listening}")
    assert broken == 2
    until(lambda: "missed" in ear.heard, "that the word of changes had broken off")
    before = ear.heard.count("screen")
    assert lead.ask("POST", decide, {"record": mine[1]["id"], "pass_number": 1, "verdict": "unsure"})[0] < 300
    until(lambda: ear.heard.count("screen") > before, "a decision heard again")


def test_wrong_passwords_are_counted_at_both_servers_together(copies: tuple[Copy, Copy]) -> None:
    answers = []
    for k in range(2 * settings().sign_in_attempts):
        said = {"name": "nobody-at-two", "password": "wrong enough"}
        answers.append(Person(copies[k % 2].port).ask("POST", "/api/account/sign-in", said)[0])
    assert answers.count(401) <= settings().sign_in_attempts
    assert answers[-1] == 429


def test_each_file_is_read_by_one_of_two_workers_and_a_dead_one_is_replaced(room: Room, copies: tuple[Copy, Copy]) -> None:
    lead = signed_in(copies[0], room.lead)
    _, made = lead.ask("POST", f"/api/reviews/{room.review}/searches", {"source": "Agrarica", "kind": "database"})
    for k in range(6):
        if k == 3:
            copies[0].kill("worker")
        person = signed_in(copies[k % 2], room.lead)
        data = ris(*TITLES, start=1 + 100 * k).encode()
        status, said = person.upload(f"/api/reviews/{room.review}/searches/{made['id']}/files", f"part-{k}.ris", data)
        assert status == 201, said

    def count(sql: str) -> int:
        with session() as db:
            return int(scalar(db, sql, v=room.review))

    until(lambda: count("SELECT count(*) FROM batch WHERE review_id = :v AND state = 'read'") == 6, "all files read", 120)
    assert count("SELECT count(*) FROM copy WHERE review_id = :v") == 6 * len(TITLES)
    assert count("SELECT count(*) FROM event WHERE review_id = :v AND kind = 'gather.file_read'") == 6
