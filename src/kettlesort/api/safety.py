"""What every answer and every request goes through: headers, the guard against cross-site posting, cleaned and bounded bodies, errors as data."""

from __future__ import annotations

import json
import logging
import re
import secrets
from urllib.parse import urlsplit

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from fastapi.routing import iter_route_contexts
from psycopg.errors import LockNotAvailable, QueryCanceled
from sqlalchemy.exc import DataError, OperationalError
from sqlalchemy.exc import TimeoutError as NoConnection
from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from kettlesort.api.uploads import ONE_FILE
from kettlesort.core.text.clean import kept_within
from kettlesort.settings import settings
from kettlesort.work import people
from kettlesort.work.errors import Refused

OUR_HEADER = "x-kettle-sort"
_SAFE = ("GET", "HEAD", "OPTIONS")
_STRANGER, _MEMBER = 64_000, 12_000_000
"""Bytes that a body may have, of somebody who is not signed in and of somebody who is; uploads have a limit of their own."""
_UNKEPT_IN_JSON = re.compile(rb"\\u(?:00(?:0[0-8bcef]|1[0-9a-f]|7f|[89][0-9a-f])|d[89a-f][0-9a-f]{2})", re.I)
"""A control character or half of a surrogate pair as JSON writes it."""
_UNKEPT_IN_QUERY = re.compile(rb"%(?:0[0-8bcef]|1[0-9a-f]|7f)|%c2%(?:8[0-46-9a-f]|9[0-9a-f])", re.I)
_log = logging.getLogger("kettlesort.api")


def policy(nonce: str) -> str:
    """The content-security policy: nothing but our own, styles only with this answer's nonce."""
    return (
        f"default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; img-src 'self' data: blob:; font-src 'self'; "
        "connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
    )


def _answer(status: int, message: str, **details: object) -> JSONResponse:
    return JSONResponse({"message": message, "details": details}, status)


def _foreign(method: str, headers: Headers) -> bool:
    """Whether a writing request comes from another site's page."""
    if method in _SAFE:
        return False
    if headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
        return True
    origin = headers.get("origin")
    if origin and urlsplit(origin).netloc != headers.get("host"):
        return True
    return OUR_HEADER not in headers


class Guard:
    """The door: all requests come in here, and all answers go out."""

    def __init__(self, app: ASGIApp, uploads: tuple[re.Pattern[str], ...] = ()) -> None:
        self.app, self.uploads = app, uploads

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request on."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        nonce = secrets.token_urlsafe(16)
        scope.setdefault("state", {})["nonce"] = nonce
        begun = False

        async def dressed(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                begun = True
                _dress(MutableHeaders(scope=message), scope["path"], nonce)
            await send(message)

        try:
            await self._pass(scope, receive, dressed)
        except Exception as error:
            _log.exception("unforeseen on %s %s", scope["method"], scope["path"], exc_info=error)
            if begun:
                raise
            await _answer(500, "Something unforeseen happened. Nothing was changed; please try again.")(scope, receive, dressed)

    async def _pass(self, scope: Scope, receive: Receive, send: Send) -> None:
        headers = Headers(scope=scope)
        if any(ord(sign) < 32 or sign == "\x7f" for sign in scope["path"]):
            await _answer(404, "There is nothing here.")(scope, receive, send)
            return
        if scope["path"].startswith("/api/") and _foreign(scope["method"], headers):
            await _answer(403, "This request did not come from a page of Kettle Sort.")(scope, receive, send)
            return
        if scope["query_string"]:
            scope["query_string"] = _UNKEPT_IN_QUERY.sub(b"", scope["query_string"])
        upload = any(pattern.match(scope["path"]) for pattern in self.uploads) and headers.get("content-type", "").startswith("multipart/")
        most = settings().max_upload + 100_000 if upload else _MEMBER if people.is_ours(_cookie(headers)) else _STRANGER
        announced = headers.get("content-length", "0")
        if not announced.isdecimal() or int(announced) > most:
            await _too_large(most)(scope, receive, send)
            return
        bounded = _bounded(receive, most)
        await self.app(scope, bounded if upload or scope["method"] in _SAFE else await _cleaned(scope, bounded), send)


def _cookie(headers: Headers) -> str | None:
    found = re.search(rf"(?:^|;\s*){people.COOKIE}=([^;]*)", headers.get("cookie", ""))
    return found[1].strip('"') if found else None


def _dress(headers: MutableHeaders, path: str, nonce: str) -> None:
    headers.setdefault("Content-Security-Policy", policy(nonce))
    headers["X-Content-Type-Options"] = "nosniff"
    headers["Referrer-Policy"] = "same-origin"
    headers["Cross-Origin-Opener-Policy"] = "same-origin"
    if path.startswith("/api/"):
        headers.setdefault("Cache-Control", "no-store")


def _too_large(most: int) -> JSONResponse:
    size = f"{most // 1_000_000:,} MB" if most >= 1_000_000 else f"{most // 1000} kB"
    return _answer(413, f"This is larger than {size}, which is accepted here; send it in parts.", field="file")


def _bounded(receive: Receive, most: int) -> Receive:
    """The same, but that it stops when more comes than is accepted, whatever was announced."""
    seen = 0

    async def receiving() -> Message:
        nonlocal seen
        message = await receive()
        seen += len(message.get("body", b""))
        if seen > most:
            raise HTTPException(413, f"This is larger than {max(1, most // 1_000_000):,} MB, which is accepted here; send it in parts.")
        return message

    return receiving


async def _cleaned(scope: Scope, receive: Receive) -> Receive:
    """The body at once, its texts without what cannot be kept."""
    body = bytearray()
    more = True
    while more:
        try:
            message = await receive()
        except HTTPException as error:
            return _raising(error)
        if message["type"] != "http.request":
            return _giving([message])
        body += message.get("body", b"")
        more = message.get("more_body", False)
    data = bytes(body)
    if _UNKEPT_IN_JSON.search(data):
        try:
            data = json.dumps(kept_within(json.loads(data))).encode()
        except (ValueError, RecursionError):
            pass  # it is no JSON, which is told where it is read
    scope["headers"] = [(k, v) for k, v in scope["headers"] if k != b"content-length"] + [(b"content-length", str(len(data)).encode())]
    return _giving([{"type": "http.request", "body": data, "more_body": False}], receive)


def _giving(messages: list[Message], then: Receive | None = None) -> Receive:
    async def receiving() -> Message:
        if messages:
            return messages.pop(0)
        return await then() if then else {"type": "http.disconnect"}

    return receiving


def _raising(error: Exception) -> Receive:
    async def receiving() -> Message:
        raise error

    return receiving


def _uploads(app: FastAPI) -> tuple[re.Pattern[str], ...]:
    """The addresses to which files are uploaded."""
    found = [str(route.path) for route in iter_route_contexts(app.routes) if getattr(route, "openapi_extra", None) == ONE_FILE]
    return tuple(re.compile(re.sub(r"\\{\w+\\}", "[^/]+", re.escape(path)) + "$") for path in found)


def install(app: FastAPI) -> None:
    """Put the guards on an application whose routes are all there."""
    app.add_middleware(Guard, uploads=_uploads(app))

    @app.exception_handler(Refused)
    async def refused(_: Request, error: Refused) -> JSONResponse:
        return _answer(error.status, error.message, **error.details)

    @app.exception_handler(RequestValidationError)
    async def misfit(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        field = ".".join(str(part) for part in first["loc"][1:])
        return _answer(422, f"{field or 'The request'}: {first['msg']}", field=field)

    @app.exception_handler(HTTPException)
    async def plain(_: Request, error: HTTPException) -> JSONResponse:
        return _answer(error.status_code, "There is nothing here." if error.status_code == 404 else str(error.detail))

    @app.exception_handler(DataError)
    async def out_of_range(_: Request, error: DataError) -> JSONResponse:
        _log.info("value refused by the database: %s", error.orig)
        return _answer(422, "A value is out of range or holds characters that cannot be stored.")

    @app.exception_handler(OperationalError)
    async def database_away(_: Request, error: OperationalError) -> JSONResponse:
        if isinstance(error.orig, QueryCanceled):
            _log.error("a statement took too long: %s", error)
            return _answer(503, "This took too long and was stopped. Nothing was changed; narrow what you ask for, or try again later.")
        if isinstance(error.orig, LockNotAvailable):
            return _answer(503, "Somebody else is changing the same thing at this moment. Nothing was changed; please try again.")
        _log.error("database: %s", error)
        return _answer(503, "The database cannot be reached at the moment. Nothing was lost; please try again.")

    @app.exception_handler(NoConnection)
    async def crowded(_: Request, error: NoConnection) -> JSONResponse:
        _log.error("no connection is free: %s", error)
        return _answer(503, "Too much is asked at once. Nothing was changed; please try again in a moment.")
