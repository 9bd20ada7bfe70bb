"""Blind is a wall: whoever looks anywhere sees no trace of what another said of a record that is still to be read."""

from __future__ import annotations

import io
import os
import re
import zipfile
from collections.abc import Iterator
from typing import Any, NamedTuple

import psycopg
import pytest
from fastapi.testclient import TestClient

from kettlesort.core.charting.appraisal import Domain, Form
from kettlesort.core.screening.passes import Mode
from kettlesort.store.base import session
from kettlesort.store.sql import run
from kettlesort.work import appraisal, chart, extractors, labels, passes, people, plan, screen
from kettlesort.work.change import CHANNEL
from kettlesort.work.chart import Typed
from kettlesort.work.screen import Said
from tests.api.test_wall import names_in
from tests.api.test_wire import MEMBER, OURS
from tests.conftest import Room, make_room
from tests.furnished import furnish

ALONE = {"/live", "/jobs"}
"""What does not end, which is heard below, and what changes with time alone."""
OF_LEADS = {"/progress"}
"""How many decisions each person made is for a lead to know, though never on which record."""
MORE = [
    "records?list=open", "records?list=differs", "records?list=all&verdict=exclude", "records?list=all&verdict=open&label={label}", "records/divided?list=all", "records/divided?list=all&pass_number=2", "records?list=all&person={person}", "records?list=all&criterion={criterion}", "records/ids?list=label:{label}",
    "records?list=label:{label}", "records?list=decided", "history?kind=screen", "decisions/own?pass_number=2", "differences?settled=true", "sharings?pass_number=1", "figures?from_rows=true",
    "records/{open}", "records/{open}/whole", "records/{open}/copies", "records?list=open&criterion={criterion}", "groups/conflicts",
]  # fmt: skip
WRITTEN = ["ris", "nbib", "bibtex", "csv", "xlsx", "csljson"]


class Blind(NamedTuple):
    room: Room
    things: dict[str, Any]
    record: int
    third: int
    clients: dict[str, TestClient]


@pytest.fixture(scope="module")
def blind(database: str) -> Iterator[Blind]:
    from kettlesort.api import app

    room = make_room()
    things = furnish(room)
    clients = {}
    for name in ("third", "watcher"):
        said = f"{name}-{room.review}-{os.getpid()}"
        account = people.make_account(said, name.title(), "long enough").id or 0
        plan.add_member(room.review, room.lead, said, "reviewer" if name == "third" else "lead")
        client = TestClient(app, raise_server_exceptions=False)
        client.cookies.set(people.COOKIE, people.sign_in(said, "long enough"))
        clients[name] = client
        if name == "third":
            third = account
    passes.set_mode(room.review, room.lead, 1, Mode(2))
    record = room.records("open")[-1]
    return Blind(room, {**things, "open": record}, record, third, clients)


def plainly(data: bytes) -> Any:
    """What a file says, without the moment at which it was made."""
    if not data.startswith(b"PK"):
        return re.sub(rb"/CreationDate \([^)]*\)", b"", data)
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        return {name: packed.read(name) for name in packed.namelist() if "docProps" not in name}


def walk(it: Blind, who: str) -> dict[str, Any]:
    """Everything that somebody can read in the review, route by route."""
    seen = {}
    client, base = it.clients[who], f"/api/reviews/{it.room.review}"
    paths = [route.split(" ")[1] for route in sorted(MEMBER) if route.startswith("GET ")]
    paths = [path for path in paths if not path.endswith(tuple(ALONE))]
    for path in [*(path.removeprefix("/api/reviews/{review}") for path in paths), *(f"/{more}" for more in MORE)]:
        url = path
        for name, thing in names_in(path):
            url = url.replace(f"{{{name}}}", str(it.things[thing]))
        answer = client.get(base + url, headers=OURS)
        assert answer.status_code < 500, (url, answer.text)
        seen[url] = plainly(answer.content)
    for form in WRITTEN:
        answer = client.post(f"{base}/records/export?list=all&to={form}", json={}, headers=OURS)
        seen[f"export {form}"] = plainly(answer.content)
    assert sum(b'"detail"' not in data for data in seen.values() if isinstance(data, bytes)) > 50, "most of them are found"
    return seen


def test_nothing_anywhere_tells_what_another_said_of_an_open_record(blind: Blind) -> None:
    room, record = blind.room, blind.record
    before = {who: walk(blind, who) for who in blind.clients}
    with psycopg.connect(os.environ["KETTLE_DATABASE"], autocommit=True) as ear:
        ear.execute(f"LISTEN {CHANNEL}")
        room.decide(record, "exclude")
        screen.take_back(room.review, room.reviewer, 1)
        room.decide(record, "exclude")
        screen.note(room.review, room.reviewer, record, "Not bees at all")
        heard = [it.payload for it in ear.notifies(timeout=0.3)]
    labels.put(room.review, room.reviewer, "Hand search", [record])
    for who, seen in before.items():
        now = walk(blind, who)
        told = [path for path, said in seen.items() if now[path] != said and not (who == "watcher" and path in OF_LEADS)]
        assert not told, f"{who} could see it at {told}"
    assert not [it for it in heard if '"screen"' in it], "nobody was told that something happened"

    # the readers themselves see theirs, and once all have read it everybody sees all
    assert blind.clients["third"].get(f"/api/reviews/{room.review}/records/{record}").json()["mine"] is None
    screen.decide(room.review, blind.third, Said(record, 1, "include", None))
    for who, seen in before.items():
        now = walk(blind, who)
        told = {path for path, said in seen.items() if now[path] != said}
        assert {
            f"/records/{record}",
            f"/records/{record}/whole",
            "/differences",
            "/figures",
            "/labels",
            "/history",
            "/agreement",
        } <= told, who
    said = blind.clients["watcher"].get(f"/api/reviews/{room.review}/records/{record}").json()
    assert [it["verdict"] for it in said["history"] if not it["withdrawn_at"]] == ["exclude", "include"]
    assert [it["text"] for it in said["notes"]] == ["Not bees at all"]


def test_nothing_anywhere_tells_what_one_of_two_extractors_read_or_judged(blind: Blind) -> None:
    room, things = blind.room, blind.things
    base = f"/api/reviews/{room.review}"
    passes.set_mode(room.review, room.lead, 1, Mode(1))  # its study is included
    extractors.set_mode(room.review, room.lead, extractors.Mode("person"))
    with session() as db:  # what stands is no reading: the cell is empty
        run(db, "DELETE FROM value WHERE review_id = :v", v=room.review)

    def read(account: int, text: str) -> None:
        said = Typed(things["study"], things["item"], text, f"There were {text} of them.")
        assert chart.set_values(room.review, account, [said]) == []

    form = Form("F", ("sound", "doubt"), ("yes", "no"), (Domain("wraps", "Wraps"),), appraisers=2)
    appraisal.set_form(room.review, room.lead, form, 0)
    read(room.reviewer, "73190462")
    appraisal.say(room.review, room.reviewer, appraisal.Said(things["study"], "wraps", {}, "doubt", "Number 55501177."))
    for who, client in blind.clients.items():
        told = [path for path, said in walk(blind, who).items() if "73190462" in str(said) or "55501177" in str(said)]
        assert not told, f"{who} could see it at {told}"
        domain = client.get(f"{base}/appraisal").json()["studies"][0]["domains"]["wraps"]
        assert domain == {"state": "", "judgement": ""}
    evidence = blind.clients["third"].get(f"{base}/evidence").json()
    assert things["item"] not in evidence["values"]["item"]
    read(blind.third, "73190463")
    appraisal.say(room.review, blind.third, appraisal.Said(things["study"], "wraps", {}, "sound", "Because."))
    now = walk(blind, "watcher")
    told = {path for path, said in now.items() if "73190462" in str(said)}
    assert told == {"/extraction/compared", f"/extraction/readings/{things['study']}/{things['item']}"}
    assert {path for path, said in now.items() if "55501177" in str(said)} == {f"/appraisal/studies/{things['study']}"}
    passes.set_mode(room.review, room.lead, 1, Mode(2))


def test_without_a_viewer_nothing_blind_is_seen(blind: Blind) -> None:
    """What jobs and files read, nobody in particular does."""
    room = blind.room
    (record,) = [it for it in room.records("open") if it != blind.record][:1]
    room.decide(record, "exclude")
    with session() as db:
        from kettlesort.store.sql import scalar

        assert not scalar(
            db, "SELECT count(*) FROM seen_verdict v JOIN placement p ON p.copy_id = v.copy_id WHERE p.record_id = :r", r=record
        )
