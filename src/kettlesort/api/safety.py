"""What every answer and every request goes through: headers, the guard against cross-site posting, errors as data."""

from __future__ import annotations

import logging
import secrets
from collections.abc import Awaitable, Callable
from urllib.parse import urlsplit

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from sqlalchemy.exc import DataError, OperationalError
from starlette.exceptions import HTTPException

from kettlesort.work.errors import Refused

OUR_HEADER = "x-kettle-sort"
_SAFE = ("GET", "HEAD", "OPTIONS")
_log = logging.getLogger("kettlesort.api")


def policy(nonce: str) -> str:
    """The content-security policy: nothing but our own, styles only with this answer's nonce."""
    return (
        f"default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; img-src 'self' data: blob:; font-src 'self'; "
        "connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
    )


def _foreign(request: Request) -> bool:
    """Whether a writing request comes from another site's page."""
    if request.method in _SAFE:
        return False
    if request.headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
        return True
    origin = request.headers.get("origin")
    if origin and urlsplit(origin).netloc != request.headers.get("host"):
        return True
    return OUR_HEADER not in request.headers


def _answer(status: int, message: str, **details: object) -> JSONResponse:
    return JSONResponse({"message": message, "details": details}, status)


def install(app: FastAPI) -> None:
    """Put the guards on an application."""

    @app.middleware("http")
    async def guard(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
        request.state.nonce = secrets.token_urlsafe(16)
        if request.url.path.startswith("/api/") and _foreign(request):
            response: Response = _answer(403, "This request did not come from a page of Kettle Sort.")
        else:
            response = await call_next(request)
        response.headers.setdefault("Content-Security-Policy", policy(request.state.nonce))
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        if request.url.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response

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
        _log.error("database: %s", error)
        return _answer(503, "The database cannot be reached at the moment. Nothing was lost; please try again.")

    @app.exception_handler(Exception)
    async def unforeseen(request: Request, error: Exception) -> JSONResponse:
        _log.exception("unforeseen on %s %s", request.method, request.url.path, exc_info=error)
        return _answer(500, "Something unforeseen happened. Nothing was changed; please try again.")
