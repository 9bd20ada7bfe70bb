"""The OpenAPI document against the application: whatever fits it is answered without falling over."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any, NamedTuple

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from kettlesort.work import people, plan
from tests.api.test_wire import OURS
from tests.conftest import make_room
from tests.furnished import furnish

EXAMPLES = 3
DOCUMENT = json.loads((Path(__file__).parents[2] / "frontend" / "openapi.json").read_text(encoding="utf-8"))
SPARED = ("/live", "/sign-in", "/account/new", "/sign-out", "/archived")
"""Streams without end, what signs out or in, and what would put the review out of sight."""
SCHEMA = schemathesis.openapi.from_dict(DOCUMENT)
OPERATIONS = {it.ok().label: it.ok() for it in SCHEMA.get_all_operations() if not it.ok().path.endswith(SPARED)}


class Furnished(NamedTuple):
    client: TestClient
    things: dict[str, Any]


@pytest.fixture(scope="module")
def furnished(database: str) -> Furnished:
    from kettlesort.api import app

    room = make_room()
    things = furnish(room) | {"review": room.review}
    name = f"schema-{room.review}-{os.getpid()}"
    people.make_account(name, "Schema Lead", "long enough")
    plan.add_member(room.review, room.lead, name, "lead")
    client = TestClient(app, raise_server_exceptions=False)
    client.cookies.set(people.COOKIE, people.sign_in(name, "long enough"))
    return Furnished(client, things)


@pytest.mark.parametrize("label", sorted(OPERATIONS))
def test_whatever_is_asked_nothing_falls_over(label: str, furnished: Furnished) -> None:
    operation = OPERATIONS[label]
    client, things = furnished

    @seed(20261128)
    @settings(max_examples=EXAMPLES, deadline=None, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck))
    @given(case=operation.as_strategy(), real=st.booleans())
    def asked(case: Any, real: bool) -> None:
        given_ids = {**dict(case.path_parameters or {}), "review": things["review"]}
        path = operation.path
        for name, value in given_ids.items():
            path = path.replace(
                f"{{{name}}}", str(things.get(name, value) if real else value).replace("/", "%2F").replace("?", "%3F").replace("#", "%23")
            )
        files = {"file": ("any.ris", b"TY  - JOUR\nTI  - Any\nER  - \n")} if "multipart" in str(case.media_type) else None
        body = None if files or isinstance(case.body, schemathesis.core.NotSet) else case.body
        query = {name: value for name, value in dict(case.query or {}).items() if isinstance(value, (str, int, float, bool, list))}
        answer = client.request(
            operation.method,
            path,
            params=query,
            files=files,
            content=None if files else json.dumps(body).encode(),
            headers=OURS | {"content-type": "application/json"} if not files else OURS,
        )
        assert answer.status_code < 500 or answer.status_code == 503, f"{operation.method} {path} {query} {body}: {answer.text[:300]}"

    asked()
