"""Signing in and out, accounts."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from datetime import datetime
from functools import partial
from typing import Literal, TypeVar

from anyio import CapacityLimiter, to_thread
from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from kettlesort.api.access import SignedIn
from kettlesort.settings import settings
from kettlesort.store.people import Account
from kettlesort.work import accounts, invitations, people
from kettlesort.work.errors import TooMany

T = TypeVar("T")
router = APIRouter(prefix="/api/account", tags=["account"])


class Credentials(BaseModel):
    name: str = Field(max_length=200)
    password: str = Field(max_length=2000)


class NewAccount(Credentials):
    full_name: str = Field(max_length=200)
    invitation: str = Field("", max_length=200)


class Known(BaseModel):
    full_name: str = Field(max_length=200)


class NewPassword(BaseModel):
    old: str = Field(max_length=2000)
    new: str = Field(max_length=2000)


class Agreed(BaseModel):
    password: str = Field(max_length=2000)


class Rules(BaseModel):
    """What holds for accounts here."""

    invited_only: bool


class Invited(BaseModel):
    """What a link invites to."""

    review: int
    title: str
    role: people.Role
    invited_by: str
    expires_at: datetime


class Joined(BaseModel):
    review: int


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


async def _try(name: str, request: Request) -> people.Try:
    """Write down that a password is tried, and wait as long as that takes by then."""
    tried = await run_in_threadpool(people.try_to_sign_in, name, _caller(request))
    await asyncio.sleep(tried.seconds)
    return tried


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
    await _enter(said, request, response, await _try(said.name, request))


@router.post("/new", status_code=204)
async def new(said: NewAccount, request: Request, response: Response) -> None:
    """Make an account and sign in; where only invited people may, with their invitation."""
    if settings().invited_only:
        await run_in_threadpool(invitations.invitation, said.invitation)
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


@router.get("/rules")
def rules() -> Rules:
    """What holds for accounts here."""
    return Rules(invited_only=settings().invited_only)


@router.put("", status_code=204)
def rename(said: Known, account: SignedIn) -> None:
    """Be known by another name."""
    accounts.rename(_id(account), said.full_name)


@router.put("/password", status_code=204)
async def change_password(said: NewPassword, account: SignedIn, request: Request) -> None:
    """A new password; all other browsers are signed out."""
    tried = await _try(account.name, request)
    await _hash(accounts.change_password, _id(account), said.old, said.new, request.cookies.get(people.COOKIE), tried)


@router.post("/sign-out-everywhere", status_code=204)
def sign_out_everywhere(account: SignedIn, response: Response) -> None:
    """Sign out of all browsers."""
    accounts.sign_out_everywhere(_id(account))
    response.delete_cookie(people.COOKIE)


@router.post("/delete", status_code=204)
async def delete_account(said: Agreed, account: SignedIn, request: Request, response: Response) -> None:
    """Delete one's account; what it decided stays, under its name."""
    tried = await _try(account.name, request)
    await _hash(accounts.delete_account, _id(account), said.password, tried)
    response.delete_cookie(people.COOKIE)


@router.get("/invitations/{token}")
def invited(token: str) -> Invited:
    """What a link invites to."""
    invitation = invitations.invitation(token[:200])
    return Invited(
        review=invitation["review_id"],
        title=invitation["title"],
        role=invitation["role"],
        invited_by=invitation["invited_by"],
        expires_at=invitation["expires_at"],
    )


@router.post("/invitations/{token}/accept")
def accept(token: str, account: SignedIn) -> Joined:
    """Join the review that a link invites to."""
    return Joined(review=invitations.accept(token[:200], _id(account)))


def _id(account: Account) -> int:
    assert account.id is not None
    return account.id


@router.put("/theme", status_code=204)
def theme(said: Theme, account: SignedIn) -> None:
    """Remember light or dark."""
    people.choose_theme(_id(account), said.theme)
