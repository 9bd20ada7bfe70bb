"""Signing in and out, accounts."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field

from kettlesort.api.access import SignedIn
from kettlesort.settings import settings
from kettlesort.work import people

router = APIRouter(prefix="/api/account", tags=["account"])


class Credentials(BaseModel):
    name: str = Field(max_length=200)
    password: str = Field(max_length=2000)


class NewAccount(Credentials):
    full_name: str = Field(max_length=200)


class Me(BaseModel):
    id: int
    name: str
    full_name: str
    theme: str


class Theme(BaseModel):
    theme: Literal["light", "dark"]


def _address(request: Request) -> str:
    return request.client.host if request.client else ""


def _set_cookie(response: Response, cookie: str) -> None:
    response.set_cookie(
        people.COOKIE, cookie, max_age=people.COOKIE_AGE, httponly=True, samesite="strict", secure=settings().secure_cookies
    )


@router.post("/sign-in", status_code=204)
def sign_in(said: Credentials, request: Request, response: Response) -> None:
    """Sign in; sets the cookie."""
    _set_cookie(response, people.sign_in(said.name, said.password, _address(request)))


@router.post("/new", status_code=204)
def new(said: NewAccount, request: Request, response: Response) -> None:
    """Make an account and sign in."""
    people.make_account(said.name, said.full_name, said.password, _address(request))
    _set_cookie(response, people.sign_in(said.name, said.password, _address(request)))


@router.post("/sign-out", status_code=204)
def sign_out(request: Request, response: Response) -> None:
    """Sign out of this browser."""
    people.sign_out(request.cookies.get(people.COOKIE))
    response.delete_cookie(people.COOKIE)


@router.get("")
def me(account: SignedIn) -> Me:
    """Who is signed in."""
    return Me.model_validate(account, from_attributes=True)


@router.put("/theme", status_code=204)
def theme(said: Theme, account: SignedIn) -> None:
    """Remember light or dark."""
    assert account.id is not None
    people.choose_theme(account.id, said.theme)
