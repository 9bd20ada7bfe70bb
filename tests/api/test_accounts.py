"""One's own account, and invitations to a review."""

from __future__ import annotations

import os
from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient

from kettlesort.api import app
from kettlesort.settings import settings
from kettlesort.store.base import session
from kettlesort.store.people import Account, Invitation
from kettlesort.work import people, plan
from kettlesort.work.errors import Conflict, NotSignedIn

OURS = {"x-kettle-sort": "1"}


class Somebody:
    """A person with an account and a browser."""

    def __init__(self, name: str, password: str = "long enough") -> None:
        self.name, self.password = f"{name}-{os.getpid()}", password
        self.id = people.make_account(self.name, name.title(), password).id or 0
        self.browser = TestClient(app, base_url="https://testserver")
        self.browser.cookies.set(people.COOKIE, people.sign_in(self.name, password))

    def ask(self, method: str, path: str, expect: int = 200, **body: object) -> object:
        answer = self.browser.request(method, path, json=body or None, headers=OURS)
        assert answer.status_code == expect, answer.text
        return answer.json() if answer.content else None


@pytest.fixture(scope="module")
def lead(database: str) -> Somebody:
    return Somebody("inviter")


@pytest.fixture(scope="module")
def review(lead: Somebody) -> int:
    return plan.make_review(lead.id, "Wraps, by invitation", "")


def test_a_name_and_a_password_change_and_other_browsers_are_signed_out(database: str) -> None:
    it = Somebody("wren")
    other = people.sign_in(it.name, it.password)
    it.ask("PUT", "/api/account", 204, full_name="  Wren   Hale ")
    assert people.account_of(other).full_name == "Wren Hale"
    it.ask("PUT", "/api/account", 422, full_name=" ")
    it.ask("PUT", "/api/account/password", 422, old="wrong one", new="another winter")
    it.ask("PUT", "/api/account/password", 422, old=it.password, new="short")
    assert people.account_of(other)
    it.ask("PUT", "/api/account/password", 204, old=it.password, new="another winter")
    it.ask("GET", "/api/account")  # this browser stays
    with pytest.raises(NotSignedIn):
        people.account_of(other)
    with pytest.raises(NotSignedIn):
        people.sign_in(it.name, it.password)
    again = people.sign_in(it.name, "another winter")
    it.ask("POST", "/api/account/sign-out-everywhere", 204)
    with pytest.raises(NotSignedIn):
        people.account_of(again)


def test_passwords_cannot_be_tried_out_by_a_browser_that_is_signed_in(database: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(settings(), "sign_in_attempts", 3)
    it = Somebody("swift")
    said = [it.browser.post("/api/account/delete", json={"password": f"guess {k}"}, headers=OURS).status_code for k in range(20)]
    assert set(said) == {422, 429}
    assert said.index(429) <= 16  # five times as many where the browser is known
    assert people.account_of(it.browser.cookies[people.COOKIE])


def test_an_invitation_is_for_one_person_and_expires(lead: Somebody, review: int) -> None:
    made = lead.ask("POST", f"/api/reviews/{review}/invitations", 201, role="reviewer", days=3)
    assert isinstance(made, dict)
    link = f"/api/account/invitations/{made['token']}"
    one, two = Somebody("robin"), Somebody("finch")
    stranger = TestClient(app, base_url="https://testserver")
    said = stranger.get(link).json()
    assert (said["title"], said["role"], said["invited_by"]) == ("Wraps, by invitation", "reviewer", "Inviter")
    assert stranger.post(f"{link}/accept", headers=OURS).status_code == 401
    assert one.ask("POST", f"{link}/accept") == {"review": review}
    one.ask("GET", f"/api/reviews/{review}/figures")
    two.ask("POST", f"{link}/accept", 404)
    two.ask("GET", f"/api/reviews/{review}/figures", 404)
    assert stranger.get(link).status_code == 404

    for late in ("withdrawn", "expired"):
        made = lead.ask("POST", f"/api/reviews/{review}/invitations", 201, role="observer", days=1)
        assert isinstance(made, dict)
        if late == "withdrawn":
            lead.ask("DELETE", f"/api/reviews/{review}/invitations/{made['id']}", 204)
            lead.ask("DELETE", f"/api/reviews/{review}/invitations/{made['id']}", 409)
        else:
            with session() as db:
                db.get_one(Invitation, made["id"]).expires_at = datetime.now(UTC) - timedelta(seconds=1)
        two.ask("POST", f"/api/account/invitations/{made['token']}/accept", 404)
    one.ask("POST", f"/api/reviews/{review}/invitations", 403, role="lead", days=3)
    lead.ask("POST", f"/api/reviews/{review}/invitations", 422, role="reviewer", days=900)
    listed = lead.ask("GET", f"/api/reviews/{review}/invitations")
    assert isinstance(listed, list)
    assert [(it["open"], it["used_by"]) for it in listed] == [(False, None), (False, None), (False, "Robin")]
    with session() as db:  # the token itself is kept nowhere
        assert all(made["token"].encode() != db.get_one(Invitation, it["id"]).token_hash for it in listed)


def test_where_only_invited_people_may_a_link_makes_the_account(lead: Somebody, review: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(settings(), "invited_only", True)
    stranger = TestClient(app, base_url="https://testserver")
    assert stranger.get("/api/account/rules").json() == {"invited_only": True}
    new = {"name": f"linnet-{os.getpid()}", "full_name": "Linnet", "password": "long enough"}
    assert stranger.post("/api/account/new", json=new, headers=OURS).status_code == 404
    made = lead.ask("POST", f"/api/reviews/{review}/invitations", 201, role="reviewer", days=3)
    assert isinstance(made, dict)
    assert stranger.post("/api/account/new", json={**new, "invitation": made["token"]}, headers=OURS).status_code == 204
    assert stranger.post(f"/api/account/invitations/{made['token']}/accept", headers=OURS).json() == {"review": review}


def test_a_deleted_account_leaves_what_it_decided_and_no_review_without_a_lead(lead: Somebody, review: int) -> None:
    gone = Somebody("siskin")
    plan.add_member(review, lead.id, gone.name, "reviewer")
    own = plan.make_review(gone.id, "Led by one", "")
    plan.add_member(own, gone.id, lead.name, "reviewer")
    gone.ask("POST", "/api/account/delete", 422, password="wrong one")
    assert "“Led by one”" in str(gone.ask("POST", "/api/account/delete", 409, password=gone.password))
    plan.add_member(own, gone.id, lead.name, "lead")
    gone.ask("POST", "/api/account/delete", 204, password=gone.password)
    with pytest.raises(NotSignedIn):
        people.sign_in(gone.name, gone.password)
    with pytest.raises(Conflict):
        people.make_account(gone.name, "Somebody else", "long enough")
    members = {it["full_name"]: it for it in plan.members(review)}
    assert members["Siskin"]["removed_at"]
    with session() as db:
        assert db.get_one(Account, gone.id).full_name == "Siskin"
