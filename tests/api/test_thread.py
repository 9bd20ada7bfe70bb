"""A review through the wire, from nothing to the flow's figures, as any client would do it."""

from __future__ import annotations

import csv
import io
import os
from collections.abc import Callable
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kettlesort.store.base import session
from kettlesort.store.sql import rows
from kettlesort.work import gaps, gather, match, people, runs, trials, vocabulary
from tests.conftest import ris

HEAD = {"x-kettle-sort": "1"}
TITLES = ["Wraps keep colonies warm", "Foam hives in hard winters", "Lids of straw and moisture", "Honey of the southern meadows"]


class Client:
    """Somebody signed in, within one review."""

    def __init__(self, app: Any, name: str) -> None:
        self.http = TestClient(app, raise_server_exceptions=False)
        self.http.cookies.set(people.COOKIE, people.sign_in(name, "long enough"))
        self.review = 0

    def ask(self, method: str, path: str, expect: int = 0, **more: Any) -> Any:
        where = path if path.startswith("/api") else f"/api/reviews/{self.review}/{path}"
        answer = self.http.request(method, where, headers=HEAD, **more)
        assert answer.status_code == expect if expect else answer.status_code < 300, answer.text
        return answer.json() if answer.content and "json" in answer.headers.get("content-type", "") else answer


def run_jobs(review: int) -> None:
    """What the worker would do."""
    work: dict[str, Callable[[int], None]] = {
        "read_file": gather.read_file,
        "match_copies": match.match_copies,
        "try_rule": trials.try_rule,
        "read_vocabulary": vocabulary.read_vocabulary,
        "fetch_run": runs.fetch_run,
        "fill_gaps": gaps.fill_gaps,
    }
    with session() as db:
        waiting = rows(db, "SELECT id, kind FROM job WHERE review_id = :v AND state = 'waiting' ORDER BY id", v=review)
    for job in waiting:
        if job["kind"] in work:
            work[job["kind"]](job["id"])


@pytest.fixture(scope="module")
def planned(database: str) -> Client:
    """The lead of a review that was made and planned through the wire."""
    from kettlesort.api import app

    name = f"wire-{os.getpid()}"
    people.make_account(name, "Wire Lead", "long enough")
    it = Client(app, name)
    it.review = it.ask("POST", "/api/reviews", json={"title": "Through the wire", "question": "Do wraps help?"})["id"]
    it.ask("PUT", "protocol", json={"elements": [{"label": "Population", "terms": ["honeybee"]}]})
    it.ask("PUT", "protocol", json={"criteria": [{"id": None, "name": "Not bees", "wording": "", "first": True, "second": True}]})
    it.ask("PUT", "protocol", json={"sources": [{"name": "Agrarica", "kind": "database"}]})
    it.ask("PUT", "protocol", json={"year_from": 1980})
    return it


@pytest.fixture(scope="module")
def gathered(planned: Client) -> Client:
    """Two files taken in and matched: five copies, four records."""
    entry = {"kind": "database", "query": "wrap*", "run_on": "2026-03-01", "run_by": "", "notes": "", "announced": 4}
    for name, source, text in (
        ("one.ris", "Agrarica", ris(*TITLES)),
        ("two.ris", "Vitalis", ris(TITLES[0]).replace("R0000001", "V0000009")),
    ):
        search = planned.ask("POST", "searches", json={**entry, "source": source})["id"]
        batch = planned.ask("POST", f"searches/{search}/files", files={"file": (name, text.encode())})["batches"][0]
        run_jobs(planned.review)
        look = planned.ask("GET", f"files/{batch}")
        assert (look["format"], look["records"], look["announced"]) == ("ris", text.count("ER  -"), 4)
        lines = planned.ask("GET", f"files/{batch}/entries/1")["lines"]
        assert [line["value"] for line in lines if line["field"] == "Title"] == [TITLES[0]]
        planned.ask("POST", f"files/{batch}/take-in")
        planned.ask("POST", f"files/{batch}/take-in", expect=409)
    run_jobs(planned.review)
    return planned


@pytest.fixture(scope="module")
def screened(gathered: Client) -> Client:
    """Handed out at the desk and decided: three included, one excluded."""
    criterion = gathered.ask("GET", "protocol")["criteria"][0]["id"]
    sheets = gathered.ask("POST", "desk?list=open&pass_number=1", json={"skip": [], "limit": 4})
    assert {sheet["record"]["title"] for sheet in sheets} == set(TITLES)
    for sheet in sorted(sheets, key=lambda it: it["record"]["title"] == TITLES[3]):  # the last one is about honey
        honey = sheet["record"]["title"] == TITLES[3]
        said = {"verdict": "exclude", "criterion": criterion} if honey else {"verdict": "include", "criterion": None}
        gathered.ask("POST", "decisions", json={"record": sheet["id"], "pass_number": 1, **said})
    return gathered


@pytest.fixture(scope="module")
def assessed(screened: Client) -> Client:
    """Full texts obtained and included."""
    for it in screened.ask("GET", "full-texts"):
        screened.ask("PUT", f"records/{it['id']}/full-text", json={"state": "obtained", "reason": ""})
        screened.ask("POST", "decisions", json={"record": it["id"], "pass_number": 2, "verdict": "include", "criterion": None})
    return screened


def test_a_plan_is_written_and_read_back(planned: Client) -> None:
    it = planned.ask("GET", "protocol")
    assert (it["title"], it["year_from"], it["role"]) == ("Through the wire", 1980, "lead")
    assert [element["label"] for element in it["elements"]] == ["Population"]
    assert [criterion["name"] for criterion in it["criteria"]] == ["Not bees"]
    said = planned.ask("PUT", "protocol", expect=422, json={"year_from": 2020, "year_to": 1990})
    assert "after the last" in said["message"]


def test_files_are_uploaded_looked_at_and_taken_in(gathered: Client) -> None:
    figures = gathered.ask("GET", "figures")
    assert (figures["found"], figures["copies"], figures["records"]) == (5, 1, 4)
    assert gathered.ask("GET", "groups?offset=0&limit=10")["total"] == 1


def test_records_are_handed_out_and_decided(screened: Client) -> None:
    assert screened.ask("GET", "records?list=excluded&offset=0&limit=10")["records"][0]["reason"] == "Not bees"
    back = screened.ask("POST", "decisions/take-back", json={"pass_number": 1})["record"]
    assert screened.ask("GET", f"records/{back}")["record"]["title"] == TITLES[3]
    said = {"record": back, "pass_number": 1, "verdict": "exclude", "criterion": None}
    assert "criterion" in screened.ask("POST", "decisions", expect=422, json=said)["message"]
    screened.ask("POST", "decisions", json={**said, "criterion": screened.ask("GET", "protocol")["criteria"][0]["id"]})
    assert screened.ask("GET", "records?list=excluded&offset=0&limit=10")["total"] == 1


def test_full_texts_are_attached_and_come_back_as_files(assessed: Client) -> None:
    one = assessed.ask("GET", "full-texts")[0]["id"]
    assessed.ask("POST", f"records/{one}/pdf", expect=422, files={"file": ("x.pdf", b"<html>")})
    assessed.ask("POST", f"records/{one}/pdf", files={"file": ("x.pdf", b"%PDF-1.7 made up")})
    file = next(it["file_id"] for it in assessed.ask("GET", "full-texts") if it["id"] == one)
    answer = assessed.ask("GET", f"pdfs/{file}")
    assert answer.content == b"%PDF-1.7 made up"
    assert answer.headers["content-type"] == "application/pdf"


def test_the_flow_and_its_list_say_the_same(assessed: Client) -> None:
    figures = assessed.ask("GET", "figures")
    assert figures["included"] == assessed.ask("GET", "records?list=included&offset=0&limit=1")["total"]
    assert figures["adds_up"]
    assert all(check["holds"] and check["expected"] == check["counted"] for check in figures["checks"])
    table = list(csv.reader(io.StringIO(assessed.ask("GET", "flow.csv").text.lstrip("\ufeff"))))
    assert str(figures["included"]) in {cell for row in table for cell in row}
    kinds = [event["kind"] for event in assessed.ask("GET", "history?limit=500")["events"]]
    assert {"plan.review_made", "gather.taken_in", "match.run", "screen.decided_pass_2"} <= set(kinds)
    assert len(assessed.ask("GET", "history.csv").text.strip().splitlines()) == len(kinds) + 1


def test_a_value_is_charted_and_goes_out(assessed: Client) -> None:
    assessed.ask(
        "PUT",
        "codebook",
        json={"items": [{"id": None, "name": "Colonies", "kind": "number", "unit": "", "choices": [], "instructions": ""}]},
    )
    table = assessed.ask("GET", "evidence")
    study, item = table["studies"][0]["id"], table["codebook"]["items"][0]["id"]
    refused = assessed.ask("PUT", "evidence/values", json=[{"study": study, "item": item, "text": "many"}])
    assert [(it["study"], it["item"]) for it in refused] == [(study, item)]
    assessed.ask("PUT", "evidence/values", json=[{"study": study, "item": item, "text": "=1+1"}])
    assessed.ask("PUT", "evidence/values", json=[{"study": study, "item": item, "text": "12"}])
    assert assessed.ask("GET", f"evidence/values/{study}/{item}")[0]["text"] == "12"
    assert ",12" in assessed.ask("GET", "evidence.csv").text
    assert assessed.ask("GET", "evidence.xlsx").content.startswith(b"PK")
