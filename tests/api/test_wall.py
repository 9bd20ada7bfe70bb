"""A review is a wall: whoever leads one finds nothing of another by any number, and changes nothing there."""

from __future__ import annotations

import os
import re
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kettlesort.work import people, plan
from tests.api.test_wire import LEAD, MEMBER, OURS, REVIEWER
from tests.conftest import Room, make_room
from tests.furnished import RECIPE, furnish, pdf, state_of

BY_PATH = {
    "invitations/{number}": "invitation",
    "catalogues/{number}": "catalogue",
    "vocabularies/{number}": "vocabulary",
    "headings/{number}": "heading",
}
OF_NO_REVIEW = {"syntaxes/{key}", "recipes/{name}", "members/{person}"}
"""Routes whose parameter is a word, or a person of any review; what they hold is named within one's own."""


@pytest.fixture(scope="module")
def theirs(database: str) -> tuple[Room, dict[str, Any]]:
    room = make_room()
    things = furnish(room)
    return room, {**things, "state": state_of(room.review)}


@pytest.fixture(scope="module")
def ours(database: str) -> tuple[TestClient, Room]:
    """Somebody who leads another review."""
    from kettlesort.api import app

    room = make_room()
    furnish(room)
    name = f"neighbour-{room.review}-{os.getpid()}"
    people.make_account(name, "Neighbour", "long enough")
    plan.add_member(room.review, room.lead, name, "lead")
    client = TestClient(app, raise_server_exceptions=False)
    client.cookies.set(people.COOKIE, people.sign_in(name, "long enough"))
    return client, room


def example(schema: dict[str, Any], document: dict[str, Any]) -> Any:
    """A value that fits a schema of the document: the smallest there is."""
    if "$ref" in schema:
        return example(document["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]], document)
    for choice in ("anyOf", "oneOf"):
        if choice in schema:
            return example(schema[choice][0], document)
    if "enum" in schema or "const" in schema:
        return schema["const"] if "const" in schema else schema["enum"][0]
    kind = schema.get("type")
    if kind == "object":
        return {name: example(schema["properties"][name], document) for name in schema.get("required", [])}
    if kind == "array":
        return [example(schema["items"], document) for _ in range(schema.get("minItems", 0))]
    return {"integer": 1, "number": 1.0, "boolean": True, "string": "x" * 60}.get(str(kind))


SAID: dict[str, Any] = {
    "catalogues/{number}/compare": {"forms": ["bees"], "seeds": 0},
    "copies/{copy}/choose": {"field": "title"},
    "files/{batch}/recipe": {"text": RECIPE},
    "records/{record}/join": {"other": 1_000_000_007},  # another than the one that is asked for, which may be the first of all
}
"""Where the smallest body that fits the schema is refused before anything is looked for."""


def with_ids() -> list[str]:
    return sorted(
        it for it in MEMBER | REVIEWER | LEAD if re.findall(r"\{(?!review)\w+\}", it) and not any(part in it for part in OF_NO_REVIEW)
    )


def names_in(path: str) -> list[tuple[str, str]]:
    """Each parameter of a path with the thing that it numbers."""
    found = re.findall(r"\{(\w+)\}", path)
    return [
        (name, next((thing for part, thing in BY_PATH.items() if part in path and name in part), name))
        for name in found
        if name != "review"
    ]


@pytest.mark.parametrize("route", with_ids())
def test_a_number_of_another_review_finds_nothing(route: str, theirs: tuple[Room, dict[str, Any]], ours: tuple[TestClient, Room]) -> None:
    method, path = route.split(" ")
    client, own = ours
    room, things = theirs
    document = client.app.openapi()  # type: ignore[attr-defined]
    body = document["paths"][path][method.lower()].get("requestBody", {}).get("content", {})
    url = path.replace("{review}", str(own.review))
    for name, thing in names_in(path):
        url = url.replace(f"{{{name}}}", str(things[thing]))
    if "multipart/form-data" in body:
        answer = client.request(method, url, files={"file": ("full.pdf", pdf())}, headers=OURS)
    else:
        said = SAID.get(path.removeprefix("/api/reviews/{review}/")) or (
            example(body["application/json"]["schema"], document) if body else None
        )
        answer = client.request(method, f"{url}?change=join" if url.endswith("/pairs") else url, json=said, headers=OURS)
    assert method == "GET" or state_of(room.review) == things["state"]
    assert answer.status_code == 404, answer.text
    assert "nobody else" not in answer.text


BODIES = {
    "POST decisions": {"record": "record", "pass_number": 1, "verdict": "include"},
    "POST labels": {"name": "Stolen", "records": ["record"]},
    "POST narrowings/picked": {"name": "Stolen", "records": ["record"]},
    "POST rulings/take-back": {"rulings": ["ruling"]},
    "POST gaps/take": {"gaps": ["gap"]},
    "POST gaps/leave": {"gaps": ["gap"]},
    "POST gaps/back": {"gaps": ["gap"]},
    "POST gaps/take-back": {"supplements": ["supplement"]},
    "PUT evidence/values": [{"study": "study", "item": "item", "text": "13"}],
    "POST evidence/fitting": [{"study": "study", "item": "item", "text": "13"}],
    "PUT reports-together/apart": {"left": "record", "right": "other"},
    "PUT evidence/derived": {"study": "study", "item": "item", "source": {"way": "group", "givens": {"mean": 1, "sd": 1}}},
    "POST proposals/reading": {"studies": ["study"]},
    "POST proposals/accepted": {"proposals": ["proposal"]},
    "POST proposals/refused": {"study": "study", "item": "item"},
    "PUT extraction/mode": {"mode": {"second": "person", "studies": ["study"]}},
    "POST extraction/settle": {"study": "study", "item": "item", "text": "13", "seen": []},
    "POST appraisal/settle": {"study": "study", "domain": "wraps", "judgement": "sound", "seen": []},
    "POST appraisal/reopen": {"study": "study", "domain": "wraps"},
    "POST extraction/reopen": {"study": "study", "item": "item"},
    "POST seeds/fill": [{"record": "record", "fields": {"abstract": "x"}}],
    "POST seeds/unfill": {"supplements": ["supplement"]},
    "POST catalogue-runs": {"catalogue": "catalogue", "query": "bees", "every": "once"},
    "POST catalogue-runs/nearest": {"catalogue": "catalogue", "records": ["record"], "keep": 5},
    "POST records/export": {"records": ["record"]},
    "POST differences/settle": {"record": "record", "pass_number": 1, "verdict": "include"},
    "POST differences/reopen": {"record": "record", "pass_number": 1},
}


def filled(body: Any, things: dict[str, Any]) -> Any:
    if isinstance(body, dict):
        return {name: filled(value, things) for name, value in body.items()}
    if isinstance(body, list):
        return [filled(value, things) for value in body]
    return things[body] if isinstance(body, str) and body in things else body


@pytest.mark.parametrize("route", sorted(BODIES))
def test_a_number_of_another_review_within_a_body_does_nothing(
    route: str, theirs: tuple[Room, dict[str, Any]], ours: tuple[TestClient, Room]
) -> None:
    method, path = route.split(" ")
    client, own = ours
    room, things = theirs
    mine = state_of(own.review)
    answer = client.request(method, f"/api/reviews/{own.review}/{path}", json=filled(BODIES[route], things), headers=OURS)
    assert 400 <= answer.status_code < 500, answer.text
    assert state_of(room.review) == things["state"]
    assert state_of(own.review)["event"] == mine["event"], "nothing happened, so nothing is in the history"
