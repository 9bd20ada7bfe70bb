"""What comes in at the door: texts that cannot be kept, bodies without end, odd addresses; and what goes out when something breaks."""

from __future__ import annotations

import asyncio
import json
import os
from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kettlesort.api import app, safety
from kettlesort.core import picture
from kettlesort.core.flow import drawing
from kettlesort.work import people, plan, report, searches
from tests.api.test_wire import OURS
from tests.conftest import Room, make_room, ris


@pytest.fixture(scope="module")
def room(database: str) -> Room:
    it = make_room()
    it.gather(ris("Wrapped hives", "Foam lids"))
    it.match()
    return it


@pytest.fixture(scope="module")
def lead(room: Room) -> TestClient:
    name = f"door-{room.review}-{os.getpid()}"
    people.make_account(name, "Door Lead", "long enough")
    plan.add_member(room.review, room.lead, name, "lead")
    client = TestClient(app, raise_server_exceptions=False)
    client.cookies.set(people.COOKIE, people.sign_in(name, "long enough"))
    return client


def post(client: TestClient, path: str, raw: str) -> Any:
    return client.post(path, content=raw.encode(), headers=OURS | {"content-type": "application/json"})


def test_what_cannot_be_kept_is_left_out_of_every_text(lead: TestClient, room: Room) -> None:
    base = f"/api/reviews/{room.review}"
    odd = r"A\u0000gra\ud800rica\u0007 \ud83d\udc1d\tand\u0085more"
    made = post(lead, f"{base}/searches", f'{{"source": "{odd}", "kind": "database"}}')
    assert made.status_code == 201
    assert next(it.source for it in searches.search_log(room.review) if it.id == made.json()["id"]) == "Agrarica 🐝\tand\x85more".strip()
    note = f"{base}/records/{room.records()[0]}/note"
    assert lead.put(note, content=rb'{"text": "\udc00\u0000"}', headers=OURS | {"content-type": "application/json"}).status_code == 204
    for path in (
        f"{base}/recipes/compose",
        f"{base}/query/read",
        f"{base}/query/trial",
        f"{base}/seeds/look-up",
        f"{base}/match-rule/read",
    ):
        assert post(lead, path, r'{"text": "\ud800", "name": "\u0000", "lines": ["\udfff"], "batch": 1}').status_code < 500, path
    assert lead.get(f"{base}/records?list=all&words=%00%ed%a0%80&typed=%1f").status_code == 200


@pytest.mark.parametrize("path", ["/%00", "/reviews/%00/x", "/api/reviews/1%00/figures", "/%ff%fe", "/assets/..%2f..%2fkettle"])
def test_odd_addresses_are_answered(lead: TestClient, path: str) -> None:
    assert lead.get(path).status_code in (200, 404)


@pytest.mark.parametrize("which", ["x", "search:x", "narrowed:", "narrowed:99999999999999999999", "found", "reason:"])
def test_the_desk_of_a_list_that_is_none_is_refused_or_empty(lead: TestClient, room: Room, which: str) -> None:
    answer = lead.post(f"/api/reviews/{room.review}/desk?list={which}", json={"skip": [], "limit": 2}, headers=OURS)
    assert answer.status_code in (404, 422) or answer.json() == []


def test_the_desk_hands_out_nothing_that_is_decided(lead: TestClient, room: Room) -> None:
    decided = room.records()[0]
    room.decide(decided, "include")
    handed = lead.post(f"/api/reviews/{room.review}/desk", json={"skip": [], "limit": 9}, headers=OURS).json()
    assert decided not in [it["id"] for it in handed]
    lead.delete(f"/api/reviews/{room.review}/desk", headers=OURS)
    lead.post(f"/api/reviews/{room.review}/decisions/take-back", json={"pass_number": 1}, headers=OURS)


def test_who_decides_on_what_a_colleague_has_just_decided_is_told(lead: TestClient, room: Room) -> None:
    record = room.records()[1]
    room.decide(record, "include")
    said = {"record": record, "pass_number": 1, "verdict": "unsure", "seen": "open"}
    answer = lead.post(f"/api/reviews/{room.review}/decisions", json=said, headers=OURS)
    assert answer.status_code == 409
    assert "Reviewer Ames has decided on this record meanwhile: included" in answer.json()["message"]
    assert lead.post(f"/api/reviews/{room.review}/decisions", json=said | {"seen": "include"}, headers=OURS).status_code == 204


def test_queries_as_large_as_they_may_be_are_read(lead: TestClient, room: Room) -> None:
    base = f"/api/reviews/{room.review}"
    many = " OR ".join(f"word{k}" for k in range(5000))
    for path in ("query/read", "query/steps", "query/trial", "query/variants", "narrowings/preview"):
        body = {"text": many, "note": "", "keep": False, "query": many, "name": "Many", "keep_": True}
        assert lead.post(f"{base}/{path}", json=body, headers=OURS).status_code < 500, path
    lines = ["bees"]
    for k in range(20):
        lines.append(f"#{k + 1} OR (#{k + 1} AND winter{k})")
    answer = lead.post(f"{base}/query/read", json={"lines": lines}, headers=OURS).json()
    assert "more than 50,000 parts" in answer["problem"]["message"]


async def sent(path: str, pieces: Iterator[bytes], headers: list[tuple[bytes, bytes]]) -> tuple[int, int]:
    """The status of an answer to a body that comes in pieces, and how many bytes were taken."""
    taken, status = 0, 0

    async def receive() -> dict[str, Any]:
        nonlocal taken
        piece = next(pieces, None)
        taken += len(piece or b"")
        return {"type": "http.request", "body": piece or b"", "more_body": piece is not None}

    async def send(message: dict[str, Any]) -> None:
        nonlocal status
        status = message.get("status", status)

    scope = {
        "type": "http", "asgi": {"version": "3.0"}, "http_version": "1.1", "method": "POST", "path": path, "raw_path": path.encode(), "root_path": "",
        "query_string": b"", "headers": [(b"x-kettle-sort", b"1"), (b"content-type", b"application/json"), *headers], "client": ("127.0.0.1", 1), "server": ("x", 80), "scheme": "http",
    }  # fmt: skip
    await app(scope, receive, send)  # type: ignore[arg-type]
    return status, taken


def test_a_body_without_end_is_stopped_as_it_comes(lead: TestClient, room: Room) -> None:
    def endless() -> Iterator[bytes]:
        yield b'{"name": "'
        while True:
            yield b"x" * 65_536

    status, taken = asyncio.run(sent("/api/account/sign-in", endless(), []))
    assert (status, taken < 300_000) == (413, True)
    cookie = f"{people.COOKIE}={lead.cookies[people.COOKIE]}".encode()
    status, taken = asyncio.run(sent(f"/api/reviews/{room.review}/searches", endless(), [(b"cookie", cookie)]))
    assert (status, taken < 15_000_000) == (413, True)
    form = [(b"cookie", cookie), (b"content-type", b"multipart/form-data; boundary=x")]
    assert asyncio.run(sent(f"/api/reviews/{room.review}/searches", endless(), form))[0] == 413, "only uploads may be large"


def test_an_upload_without_a_length_is_stopped_at_the_limit(lead: TestClient, room: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(safety.settings(), "max_upload", 1_000_000)
    search = searches.search_log(room.review)[0].id

    def pieces() -> Iterator[bytes]:
        yield b'--x\r\ncontent-disposition: form-data; name="file"; filename="a.ris"\r\n\r\n'
        for _ in range(200):
            yield b"x" * 65_536

    answer = lead.post(
        f"/api/reviews/{room.review}/searches/{search}/files",
        content=pieces(),
        headers=OURS | {"content-type": "multipart/form-data; boundary=x"},
    )
    assert answer.status_code == 413
    assert "MB" in answer.json()["message"]


def test_an_upload_may_be_larger_than_any_other_body(lead: TestClient, room: Room) -> None:
    search = searches.search_log(room.review)[0].id
    large = ris("A large one").encode() + b"\n" * 13_000_000
    answer = lead.post(f"/api/reviews/{room.review}/searches/{search}/files", files={"file": ("large.ris", large)}, headers=OURS)
    assert answer.status_code == 201


def test_what_is_unforeseen_is_a_sentence_under_the_same_headers(lead: TestClient, room: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(review: int, **_: bool) -> None:
        raise KeyError("something")

    monkeypatch.setattr(report, "standing", broken)
    answer = lead.get(f"/api/reviews/{room.review}/figures")
    assert answer.status_code == 500
    assert "unforeseen" in answer.json()["message"]
    assert "default-src 'none'" in answer.headers["content-security-policy"]
    assert answer.headers["x-content-type-options"] == "nosniff"


def test_drawings_hold_any_name(room: Room) -> None:
    named = "Bees\x01 & <b>\ufffe \ud800"
    said = drawing.svg(report.diagram(room.review, "ours", False)[1], title=named)
    assert picture.pdf(said).startswith(b"%PDF")
    assert picture.png(said).startswith(b"\x89PNG")


def test_formulas_do_not_leave_in_the_table_of_groups(lead: TestClient, room: Room) -> None:
    searches.write_search(room.review, room.lead, searches.SearchEntry("=1+1", "database", "", None, "", "", None))
    room.gather(ris("Straw under roofs", start=60), source="=cmd|x")
    room.gather(ris("Straw under roofs", start=60), source="@there", name="=x.ris")
    room.match()
    table = lead.get(f"/api/reviews/{room.review}/groups/export").content.decode("utf-8-sig")
    cells = [cell.strip('"') for line in table.splitlines() for cell in line.split(",")]
    assert any("cmd|x" in cell for cell in cells)
    assert not any(cell.startswith(("=", "@", "+")) for cell in cells)


def test_json_that_is_none_is_said_to_be(lead: TestClient) -> None:
    for raw in ('{"name": "\\ud800', "[" * 100_000, "\\u0000", '"\\u0000"'):
        assert post(lead, "/api/account/sign-in", raw).status_code in (400, 413, 422), raw[:20]
    assert json.loads(post(lead, "/api/reviews", '{"title": "\\u0000 "}').text)["message"] == "A review needs a title."
