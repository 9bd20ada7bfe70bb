"""Signing in and out, accounts."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from functools import partial
from typing import Literal, TypeVar

from anyio import CapacityLimiter, to_thread
from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from kettlesort.api.access import SignedIn
from kettlesort.settings import settings
from kettlesort.work import people
from kettlesort.work.errors import TooMany

T = TypeVar("T")
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


_hashing = CapacityLimiter(3)
"""So many passwords are looked at side by side: each takes much memory and time, and holds no thread of others."""
_MOST_WAITING = 40


def _caller(request: Request) -> people.Caller:
    return people.Caller(request.client.host if request.client else "", request.cookies.get(people.KNOWN))


async def _hash(work: Callable[..., T], *arguments: object) -> T:
    if _hashing.statistics().tasks_waiting >= _MOST_WAITING:
        raise TooMany("Many people sign in at this moment. Please try again in a few seconds.")
    return await to_thread.run_sync(partial(work, *arguments), limiter=_hashing)


async def _enter(said: Credentials, request: Request, response: Response, tried: people.Try | None) -> None:
    cookie = await _hash(people.sign_in, said.name, said.password, tried)
    response.set_cookie(
        people.COOKIE, cookie, max_age=people.COOKIE_AGE, httponly=True, samesite="strict", secure=settings().secure_cookies
    )
    known = people.knowing(request.cookies.get(people.KNOWN), said.name)
    response.set_cookie(
        people.KNOWN,
        known,
        max_age=people.KNOWN_AGE,
        httponly=True,
        samesite="strict",
        secure=settings().secure_cookies,
        path="/api/account",
    )


@router.post("/sign-in", status_code=204)
async def sign_in(said: Credentials, request: Request, response: Response) -> None:
    """Sign in; sets the cookie."""
    tried = await run_in_threadpool(people.try_to_sign_in, said.name, _caller(request))
    await asyncio.sleep(tried.seconds)
    await _enter(said, request, response, tried)


@router.post("/new", status_code=204)
async def new(said: NewAccount, request: Request, response: Response) -> None:
    """Make an account and sign in."""
    await _hash(people.make_account, said.name, said.full_name, said.password, _caller(request))
    await _enter(said, request, response, None)


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
