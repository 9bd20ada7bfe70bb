"""The wire: who may do what on every route, and what comes from outside is not trusted."""

from __future__ import annotations

import os
import re
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from kettlesort.core.formats.recipe import FIELDS
from kettlesort.work import people, plan
from tests.conftest import Room, make_room, ris

ROOT = Path(__file__).parents[2]
OURS = {"x-kettle-sort": "1"}

OPEN = {
    "POST /api/account/sign-in", "POST /api/account/new", "POST /api/account/sign-out", "GET /api/account/rules", "GET /api/account/invitations/{token}", "GET /api/health",
}  # fmt: skip
SIGNED_IN = {
    "POST /api/reviews/made-up",
    "POST /api/convert",
    "POST /api/convert/look",
    "GET /api/account",
    "PUT /api/account/theme",
    "PUT /api/account",
    "PUT /api/account/password",
    "POST /api/account/sign-out-everywhere",
    "POST /api/account/delete",
    "POST /api/account/invitations/{token}/accept",
    "GET /api/reviews",
    "POST /api/reviews",
}
R = "/api/reviews/{review}"
MEMBER = {
    f"GET {R}/{path}"
    for path in [
        "protocol",
        "members",
        "searches",
        "files",
        "files/{batch}",
        "files/{batch}/entries/{position}",
        "files/{batch}/original",
        "files/{batch}/recipe",
        "searches.csv",
        "searches.xlsx",
        "search-appendix.md",
        "search-appendix.docx",
        "recipes",
        "narrowings",
        "schedules",
        "gaps",
        "labels",
        "records/divided",
        "records/ids",
        "records/{record}/whole",
        "seeds",
        "protocol/versions",
        "protocol/excluded",
        "protocol.md",
        "protocol.docx",
        "query/steps",
        "query/words",
        "query/words.csv",
        "syntaxes",
        "catalogues",
        "vocabularies",
        "headings",
        "headings/{number}",
        "records",
        "records/{record}",
        "records/{record}/copies",
        "lists",
        "questions",
        "questions/{question}",
        "groups",
        "groups/export",
        "people-said",
        "decided-twice",
        "late-copies",
        "removed-copies",
        "match-rule",
        "match-rule/versions",
        "match-rule/export",
        "trials",
        "trials/{trial}",
        "trials/{trial}/pairs",
        "samples",
        "samples/{sample}",
        "decisions/own",
        "notes-to-me",
        "passes",
        "sharings",
        "differences",
        "agreement",
        "remaining",
        "orders",
        "sheet",
        "progress",
        "groupings",
        "groupings/{grouping}",
        "alike-groups/{group}/nearest",
        "underlining",
        "full-texts",
        "full-texts/reasons",
        "full-texts/to-fetch",
        "delivered-pdfs",
        "delivered-pdfs/{delivered}/pdf",
        "pdfs/{file}",
        "codebook",
        "evidence",
        "codebook/versions",
        "concepts",
        "reports-together",
        "asking/kept",
        "concepts/{concept}/studies",
        "codebook.toml",
        "proposals",
        "proposals/model",
        "proposals/{study}/{item}",
        "extraction",
        "extraction/compared",
        "extraction/agreement",
        "extraction/readings/{study}/{item}",
        "appraisal",
        "appraisal/form",
        "appraisal/form.toml",
        "appraisal/studies/{study}",
        "appraisal/picture.svg",
        "appraisal/picture.png",
        "appraisal/picture.pdf",
        "appraisal/judgements.csv",
        "analyses",
        "analyses/{analysis}",
        "analyses/{analysis}/{plot}.svg",
        "analyses/{analysis}/{plot}.png",
        "analyses/{analysis}/{plot}.pdf",
        "analyses/{analysis}/figures.csv",
        "analyses/{analysis}/words",
        "analyses/{analysis}/versions",
        "analyses/{analysis}/closer",
        "summary",
        "summary.csv",
        "summary.docx",
        "evidence.csv",
        "evidence-long.csv",
        "evidence/view",
        "evidence.xlsx",
        "evidence/values/{study}/{item}",
        "figures",
        "flow.svg",
        "flow.png",
        "flow.pdf",
        "flow.csv",
        "history",
        "history.csv",
        "live",
        "jobs",
        "people",
    ]
}
MEMBER |= {
    f"POST {R}/match-rule/read",
    f"POST {R}/match-rule/check",
    f"POST {R}/files/{{batch}}/recipe",
    f"POST {R}/codebook/preview",
    f"POST {R}/proposals/marked",
    f"POST {R}/analyses/preview",
    f"POST {R}/appraisal/form/preview",
    f"POST {R}/extraction/preview",
    f"POST {R}/asking",
    f"POST {R}/evidence/derived/preview",
    f"PUT {R}/evidence/view",
    f"POST {R}/recipes/compose",
    f"POST {R}/narrowings/preview",
    f"POST {R}/records/export",
    f"POST {R}/records/losses",
    f"POST {R}/query/read",
    f"POST {R}/query/limited",
    f"POST {R}/query/trial",
    f"POST {R}/query/compare",
    f"POST {R}/headings/pointed-out",
    f"POST {R}/catalogues/{{number}}/records",
    f"POST {R}/catalogues/{{number}}/compare",
    f"POST {R}/query/variants",
    f"POST {R}/query/suggestions",
    f"POST {R}/seeds/look-up",
    f"POST {R}/catalogues/{{number}}/count",
    f"POST {R}/syntaxes/{{key}}/write",
    f"POST {R}/syntaxes/{{key}}/read",
}
REVIEWER = {
    f"POST {R}/files/look", f"POST {R}/searches/{{search}}/runs", f"PUT {R}/searches/{{search}}/runs/{{run}}", f"DELETE {R}/searches/{{search}}/runs/{{run}}", f"POST {R}/files/{{batch}}/read",
    f"POST {R}/recipes", f"DELETE {R}/recipes/{{name}}", f"POST {R}/recipes/{{name}}/back", f"POST {R}/labels", f"DELETE {R}/labels/{{label}}",
    f"POST {R}/labels/{{label}}/back", f"POST {R}/labels/{{label}}/take", f"POST {R}/narrowings", f"POST {R}/narrowings/picked", f"POST {R}/narrowings/{{narrowing}}/withdraw", f"POST {R}/narrowings/{{narrowing}}/back",
    f"PUT {R}/narrowings/{{narrowing}}/again", f"POST {R}/records/let-in", f"POST {R}/records/hold-again", f"POST {R}/labels/{{label}}/give", f"POST {R}/catalogue-runs", f"POST {R}/catalogue-runs/nearest",
    f"POST {R}/catalogue-runs/{{run}}/resume", f"POST {R}/schedules/{{schedule}}/stop", f"POST {R}/schedules/{{schedule}}/go-on", f"POST {R}/one", f"POST {R}/one/look-up",
    f"POST {R}/one/pdf", f"POST {R}/gaps/look-up", f"POST {R}/gaps/take", f"POST {R}/gaps/take-back", f"POST {R}/gaps/leave", f"POST {R}/gaps/back", f"POST {R}/gaps/abstracts",
    f"POST {R}/records/{{record}}/abstract",
    f"POST {R}/query/steps", f"PUT {R}/syntaxes/{{key}}", f"DELETE {R}/syntaxes/{{key}}", f"POST {R}/vocabularies", f"DELETE {R}/vocabularies/{{number}}", f"POST {R}/vocabularies/{{number}}/back",
    f"POST {R}/searches", f"PUT {R}/searches/{{search}}", f"DELETE {R}/searches/{{search}}", f"POST {R}/searches/{{search}}/back", f"POST {R}/searches/{{search}}/files",
    f"POST {R}/files/{{batch}}/take-in", f"POST {R}/files/{{batch}}/set-aside", f"POST {R}/files/{{batch}}/bring-back", f"POST {R}/seeds/paste", f"POST {R}/seeds/add", f"POST {R}/seeds/by-hand", f"POST {R}/seeds/file", f"POST {R}/seeds/fill", f"POST {R}/seeds/unfill", f"GET {R}/seeds/{{record}}/proposal", f"DELETE {R}/seeds/keys/{{key}}",
    f"PUT {R}/records/{{record}}/seed", f"POST {R}/questions/{{question}}/answer", f"POST {R}/questions/{{question}}/later", f"POST {R}/questions/take-back",
    f"POST {R}/copies/{{copy}}/split", f"POST {R}/copies/{{copy}}/unsplit", f"POST {R}/records/{{record}}/apart", f"POST {R}/rulings/take-back", f"DELETE {R}/rulings/{{ruling}}", f"POST {R}/questions/{{question}}/take", f"POST {R}/copies/{{copy}}/choose", f"DELETE {R}/choices/{{choice}}",
    f"POST {R}/records/{{record}}/join", f"POST {R}/trials", f"POST {R}/trials/{{trial}}/apply", f"POST {R}/trials/{{trial}}/undo", f"POST {R}/samples", f"PUT {R}/sampled-pairs/{{pair}}", f"POST {R}/desk", f"DELETE {R}/desk", f"POST {R}/decisions",
    f"POST {R}/decisions/take-back", f"POST {R}/sharings/{{sharing}}/give-back", f"POST {R}/sharings/{{sharing}}/put-back", f"POST {R}/differences/settle", f"POST {R}/groupings", f"POST {R}/alike-groups/{{group}}/set-aside", f"POST {R}/sheet", f"POST {R}/sheet/rows", f"POST {R}/orders", f"POST {R}/remaining/sample", f"DELETE {R}/remaining/sample/{{drawn}}", f"POST {R}/remaining/sample/{{drawn}}/back", f"POST {R}/differences/reopen",
    f"PUT {R}/records/{{record}}/note", f"PUT {R}/records/{{record}}/full-text", f"PUT {R}/underlining", f"POST {R}/records/{{record}}/pdf", f"DELETE {R}/records/{{record}}/pdf", f"POST {R}/records/{{record}}/pdf/back", f"POST {R}/delivered-pdfs", f"PUT {R}/delivered-pdfs/{{delivered}}", f"POST {R}/delivered-pdfs/{{delivered}}/back", f"PUT {R}/codebook",
    f"POST {R}/codebook/from-file", f"POST {R}/studies/{{study}}/levels", f"DELETE {R}/levels/{{level}}", f"POST {R}/levels/{{level}}/back", f"POST {R}/asking/kept", f"DELETE {R}/asking/kept/{{asked}}", f"POST {R}/asking/kept/{{asked}}/back", f"POST {R}/proposals/reading", f"PUT {R}/notes-to-me/{{note}}", f"POST {R}/proposals/model/asking", f"POST {R}/analyses", f"PUT {R}/analyses/{{analysis}}", f"PUT {R}/analyses/{{analysis}}/place", f"PUT {R}/summary", f"DELETE {R}/analyses/{{analysis}}", f"POST {R}/analyses/{{analysis}}/back", f"POST {R}/appraisal/form/from-file", f"PUT {R}/appraisal/studies/{{study}}", f"POST {R}/appraisal/settle", f"POST {R}/appraisal/reopen", f"POST {R}/extraction/settle", f"POST {R}/extraction/reopen",
    f"POST {R}/proposals/accepted", f"POST {R}/proposals/refused", f"DELETE {R}/proposals/answers/{{stroke}}", f"PUT {R}/evidence/values", f"POST {R}/evidence/fitting", f"PUT {R}/reports-together/apart", f"PUT {R}/reports-together/unsaid", f"PUT {R}/evidence/derived", f"PUT {R}/studies/{{study}}/label", f"PUT {R}/records/{{record}}/study", f"POST {R}/jobs/{{job}}/cancel",
}  # fmt: skip
LEAD = {
    f"PUT {R}/archived",
    f"PUT {R}/protocol",
    f"PUT {R}/passes",
    f"POST {R}/passes/preview",
    f"POST {R}/sharings",
    f"POST {R}/sharings/preview",
    f"POST {R}/remaining/stop",
    f"POST {R}/catalogues",
    f"DELETE {R}/catalogues/{{number}}",
    f"POST {R}/catalogues/{{number}}/back",
    f"PUT {R}/extraction/mode",
    f"PUT {R}/proposals/model",
    f"PUT {R}/appraisal/form",
    f"PUT {R}/extraction/given",
    f"POST {R}/extraction/shares",
    f"POST {R}/members",
    f"DELETE {R}/members/{{person}}",
    f"GET {R}/invitations",
    f"POST {R}/invitations",
    f"DELETE {R}/invitations/{{number}}",
}


@pytest.fixture(scope="module")
def room(database: str) -> Room:
    """One review for all tests of this module."""
    return make_room()


@pytest.fixture(scope="module")
def app(database: str) -> Any:
    from kettlesort.api import app

    return app


def client_of(app: Any, name: str | None) -> TestClient:
    client = TestClient(app, raise_server_exceptions=False)
    if name:
        client.cookies.set(people.COOKIE, people.sign_in(name, "long enough"))
    return client


@pytest.fixture(scope="module")
def clients(app: Any, room: Room) -> dict[str, TestClient]:
    """One client each for nobody, an outsider, an observer, a reviewer and a lead of the room's review."""
    names = {}
    for role in ("outsider", "observer", "reviewer", "lead"):
        names[role] = f"{role}-{room.review}-{os.getpid()}"
        people.make_account(names[role], role, "long enough")
        if role != "outsider":
            plan.add_member(room.review, room.lead, names[role], role)
    return {"nobody": client_of(app, None)} | {role: client_of(app, name) for role, name in names.items()}


def test_every_route_is_listed_with_who_may_use_it(app: Any) -> None:
    routes = {f"{method.upper()} {path}" for path, methods in app.openapi()["paths"].items() for method in methods}
    assert routes == OPEN | SIGNED_IN | MEMBER | REVIEWER | LEAD


@pytest.mark.parametrize("route", sorted(SIGNED_IN | MEMBER | REVIEWER | LEAD))
def test_rule_6_every_route_is_closed_to_those_below(route: str, clients: dict[str, TestClient], room: Room) -> None:
    method, path = route.split(" ")
    url = re.sub(r"\{\w+\}", "999999999", path.replace("{review}", str(room.review)))

    def status(who: str) -> int:
        with clients[who].stream(method, url, headers=OURS) as answer:
            return answer.status_code

    assert status("nobody") == 401
    if route in SIGNED_IN:
        return
    assert status("outsider") == 404
    if route in REVIEWER:
        assert status("observer") == 403
    if route in LEAD:
        assert status("observer") == status("reviewer") == 403
    if not path.endswith("/live"):
        allowed = "observer" if route in MEMBER else "reviewer" if route in REVIEWER else "lead"
        assert status(allowed) not in (401, 403, 500)


@pytest.mark.parametrize("headers", [{}, OURS | {"origin": "http://elsewhere.example"}, OURS | {"sec-fetch-site": "cross-site"}])
def test_a_post_from_another_site_is_refused(headers: dict[str, str], clients: dict[str, TestClient]) -> None:
    assert clients["lead"].post("/api/reviews", json={"title": "x"}, headers=headers).status_code == 403


def test_answers_carry_a_strict_policy_and_cookies_are_shut(app: Any, clients: dict[str, TestClient], room: Room) -> None:
    page = clients["nobody"].get("/reviews/1/plan")
    policy = page.headers["content-security-policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    nonce = re.search(r"'nonce-([\w-]+)'", policy)
    assert nonce
    assert f'content="{nonce[1]}"' in page.text
    answer = clients["nobody"].post(
        "/api/account/sign-in", json={"name": f"lead-{room.review}-{os.getpid()}", "password": "long enough"}, headers=OURS
    )
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    assert clients["nobody"].get("/../../pyproject.toml").text.startswith("<!doctype html>")
    assert clients["nobody"].get("/api/nothing").status_code in (401, 404)


def test_uploads_are_limited_with_a_clear_message(clients: dict[str, TestClient], room: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    from kettlesort.settings import settings

    monkeypatch.setattr(settings(), "max_upload", 50_000)
    base = f"/api/reviews/{room.review}/searches"
    search = clients["lead"].post(base, json={"source": "Agrarica", "kind": "database"}, headers=OURS).json()["id"]

    def send(name: str, data: bytes) -> tuple[int, str]:
        answer = clients["lead"].post(f"{base}/{search}/files", files={"file": (name, data)}, headers=OURS)
        return answer.status_code, answer.json().get("message", "")

    assert send("huge.ris", b"x" * 90_000)[0] == 413
    assert "larger than" in send("huge.ris", b"x" * 90_000)[1]
    assert send("../../etc/passwd.ris", ris("A hive").encode())[0] == 201
    again = clients["lead"].post(f"{base}/{search}/files", files={"file": ("again.ris", ris("A hive").encode())}, headers=OURS)
    assert again.json()["same_as"] == "passwd.ris"
    assert send("none.ris", b"")[0] == 422
    assert clients["lead"].post(f"{base}/{search}/files", headers=OURS, content=b"--x\r\nbroken", ).status_code == 422  # fmt: skip


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("POST", "decisions", {"record": 10**30, "pass_number": 1, "verdict": "include"}), ("POST", "decisions", {"record": 1, "pass_number": 3, "verdict": "maybe"}),
        ("GET", "records?list=nonsense", None), ("GET", "records?list=search:x", None), ("GET", "records?words=%00&list=all", None), ("GET", "records?offset=-1", None),
        ("PUT", "protocol", {"year_from": 2020, "year_to": 1990}), ("PUT", "protocol", {"title": "  "}), ("POST", "members", {"name": "nobody-here", "role": "lead"}),
        ("PUT", "protocol", {"criteria": [{"name": "A"}, {"name": "a"}]}), ("PUT", "codebook", {"items": [{"name": "X", "kind": "choice", "choices": ["one"]}]}), ("POST", "searches", {"source": "", "kind": "database"}),
        ("PUT", "protocol", {"elements": "none"}),
    ],
)  # fmt: skip
def test_what_is_typed_wrong_is_answered_with_a_sentence(
    method: str, path: str, body: Any, clients: dict[str, TestClient], room: Room
) -> None:
    answer = clients["lead"].request(method, f"/api/reviews/{room.review}/{path}", json=body, headers=OURS)
    if path.startswith("records?words"):
        assert answer.status_code == 200
        return
    assert 400 <= answer.status_code < 500
    assert len(answer.json()["message"]) > 10
    assert "Traceback" not in answer.text


def test_downloads_of_the_flow_and_the_history(clients: dict[str, TestClient], room: Room) -> None:
    room.gather(ris("One hive", "Two hives"))
    room.match()
    base = f"/api/reviews/{room.review}"
    begins = {"svg": b"<svg", "png": b"\x89PNG", "pdf": b"%PDF", "csv": "\ufeffbox,line,n".encode()}
    for kind, begin in begins.items():
        for drawing in ("ours", "standard"):
            assert clients["observer"].get(f"{base}/flow.{kind}?drawing={drawing}").content.startswith(begin)
    assert "taken_in" in clients["observer"].get(f"{base}/history.csv").text
    assert clients["observer"].get(f"{base}/figures").json()["found"] == 2


def test_the_document_that_the_client_is_generated_from_is_not_stale(app: Any) -> None:
    from kettlesort.api.schema import document

    kept = (ROOT / "frontend" / "openapi.json").read_text(encoding="utf-8")
    assert kept == document(), "run: python -m kettlesort.api.schema > frontend/openapi.json"


def test_every_field_that_a_label_can_hold_has_its_name_on_the_screen() -> None:
    names = (ROOT / "frontend/src/stages/gather/reading.ts").read_text().split("FIELD_NAMES", 1)[1].split("}", 1)[0]
    assert set(re.findall(r"^  (\w+):", names, re.M)) == set(FIELDS)
