"""Accounts, sign-ins, and what a cookie is worth."""

from __future__ import annotations

import os
from itertools import count

import pytest

from kettlesort.settings import settings
from kettlesort.store.base import session
from kettlesort.store.sql import rows, run
from kettlesort.work import people
from kettlesort.work.errors import Conflict, Invalid, NotSignedIn, TooMany

_numbers = count()


@pytest.fixture
def name(database: str) -> str:
    """The name of a fresh account, whose password is “winter honey”."""
    made = f"sam{os.getpid()}-{next(_numbers)}"
    people.make_account(made, "  Sam   Ames ", "winter honey")
    return made


def test_a_cookie_is_signed_belongs_to_one_person_and_ends_with_the_sign_in(name: str) -> None:
    cookie = people.sign_in(f" {name.upper()} ", "winter honey")
    assert people.account_of(cookie).full_name == "Sam Ames"
    other = people.sign_in(name, "winter honey")
    people.sign_out(cookie)
    people.sign_out("nonsense")
    assert people.account_of(other).name == name
    for worthless in (cookie, None, "", "nonsense", cookie[:-1] + ("a" if cookie[-1] != "a" else "b")):
        with pytest.raises(NotSignedIn):
            people.account_of(worthless)


def test_a_cookie_grows_old(name: str) -> None:
    cookie = people.sign_in(name, "winter honey")
    with session() as db:
        run(db, "UPDATE signed_in SET at = at - make_interval(secs => :age)", age=people.COOKIE_AGE + 1)
    with pytest.raises(NotSignedIn):
        people.account_of(cookie)


def test_neither_passwords_nor_tokens_are_stored(name: str) -> None:
    cookie = people.sign_in(name, "winter honey")
    with session() as db:
        stored = str(rows(db, "SELECT * FROM account WHERE name = :n", n=name)) + str(
            rows(db, "SELECT encode(token_hash, 'hex') FROM signed_in")
        )
    assert "$argon2id$" in stored
    assert "winter honey" not in stored
    assert cookie.split(".")[0].strip('"') not in stored


@pytest.mark.parametrize(
    ("account", "full_name", "password", "said"),
    [
        ("a", "Sam", "long enough", "2 to 40"),
        ("has blank", "Sam", "long enough", "2 to 40"),
        ("../up", "Sam", "long enough", "2 to 40"),
        ("samuel", "  ", "long enough", "colleagues"),
        ("samuel", "Sam", "short", "at least"),
    ],
)
def test_an_account_that_does_not_fit_says_why(database: str, account: str, full_name: str, password: str, said: str) -> None:
    with pytest.raises(Invalid, match=said):
        people.make_account(account, full_name, password)


def test_a_name_is_taken_once(name: str) -> None:
    with pytest.raises(Conflict, match="is taken"):
        people.make_account(name.upper(), "Another Sam", "long enough")


def test_new_accounts_from_one_place_are_limited(database: str) -> None:
    caller = people.Caller(f"192.0.2.{100 + next(_numbers)}")
    for _ in range(settings().new_accounts_an_hour):
        people.make_account(f"many{os.getpid()}-{next(_numbers)}", "Many", "long enough", caller)
    with pytest.raises(TooMany, match="Please wait an hour"):
        people.make_account(f"many{os.getpid()}-{next(_numbers)}", "Many", "long enough", caller)


def test_the_theme_is_remembered_with_the_account(name: str) -> None:
    cookie = people.sign_in(name, "winter honey")
    account = people.account_of(cookie)
    people.choose_theme(account.id or 0, "dark")
    assert people.account_of(cookie).theme == "dark"
    with pytest.raises(Invalid):
        people.choose_theme(account.id or 0, "sepia")
