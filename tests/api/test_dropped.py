"""Files that were dropped: looked at before there is a search for them, and nothing of them kept."""

from __future__ import annotations

import os
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kettlesort.api import app
from kettlesort.store.base import session
from kettlesort.store.sql import scalar
from kettlesort.work import people, plan, searches
from tests.conftest import Room, make_room

OURS = {"x-kettle-sort": "1"}
RIS = "TY  - JOUR\nTI  - Lids of straw {k}\nAU  - Orsel, W\nPY  - 2016\nDB  - Agrarica\nER  - \n\n"


def write_down(room: Room, source: str) -> None:
    searches.write_search(room.review, room.lead, searches.SearchEntry(source, "database", "", None, "", "", None))


@pytest.fixture(scope="module")
def room(database: str) -> Room:
    it = make_room()
    write_down(it, "AGRARICA")
    return it


def client(room: Room, role: str) -> TestClient:
    name = f"dropped-{role}-{os.getpid()}"
    people.make_account(name, role.title(), "long enough")
    plan.add_member(room.review, room.lead, name, role)
    it = TestClient(app, raise_server_exceptions=False)
    it.cookies.set(people.COOKIE, people.sign_in(name, "long enough"))
    return it


@pytest.fixture(scope="module")
def reviewer(room: Room) -> TestClient:
    return client(room, "reviewer")


def look(it: TestClient, room: Room, name: str, data: bytes) -> Any:
    return it.post(f"/api/reviews/{room.review}/files/look", files={"file": (name, data)}, headers=OURS)


def test_what_a_file_says_of_itself_is_not_asked(room: Room, reviewer: TestClient) -> None:
    data = "".join(RIS.format(k=k) for k in range(6)) + "TY  - JOUR\nTI  - Wraps\nPY  - spring\nER  - \n"
    said = look(reviewer, room, "export-2026-02-04-part-2.ris", data.encode()).json()
    assert (said["format"], said["certainty"], said["records"], said["problems"]) == ("RIS", "sure", 7, 1)
    assert (said["source"], said["kind"], said["dated"], said["part"]) == ("AGRARICA", "database", "2026-02-04", 2)


def test_a_source_of_another_review_is_not_known_here(room: Room, reviewer: TestClient) -> None:
    other = make_room()
    write_down(other, "Secret Shelf")
    assert look(reviewer, room, "secret shelf.ris", RIS.encode()).json()["source"] != "Secret Shelf"
    assert look(reviewer, other, "secret shelf.ris", RIS.encode()).status_code == 404


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("a.ris", b"", "empty"),
        ("a.ris", b"%PDF-1.7 x", "PDF"),
        ("a.xlsx", b"PK\x03\x04 cut", "damaged"),
        ("a.ris", b"\x00\x01\x02" * 400, "binary"),
    ],
)
def test_what_is_no_export_is_told_by_its_name(room: Room, reviewer: TestClient, name: str, data: bytes, said: str) -> None:
    answer = look(reviewer, room, name, data)
    assert answer.status_code == 422
    assert answer.json()["message"].startswith(f"{name}: ")
    assert said in answer.json()["message"]


def test_nothing_is_kept_and_an_observer_may_not(room: Room, reviewer: TestClient) -> None:
    def kept() -> list[int]:
        with session() as db:
            return [scalar(db, f"SELECT count(*) FROM {table}") for table in ("batch", "copy", "blob", "event")]

    observer = client(room, "observer")
    before = kept()
    assert look(reviewer, room, "a.ris", RIS.encode()).status_code == 200
    assert kept() == before
    assert look(observer, room, "a.ris", RIS.encode()).status_code == 403
