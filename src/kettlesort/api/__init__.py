"""The wire: one router a stage, guarded by `access`; and the built front end."""

from __future__ import annotations

import gc
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from anyio import to_thread
from fastapi import FastAPI, Request, Response
from fastapi.responses import FileResponse, HTMLResponse
from fastapi.routing import APIRoute
from sqlmodel import select

from kettlesort.api import (
    account,
    appraisal,
    asking,
    catalogue,
    chart,
    codebook,
    convert,
    extractors,
    fulltexts,
    gather,
    language_model,
    likeness,
    live,
    match,
    narrow,
    orders,
    passes,
    plan,
    pool_looks,
    pooling,
    proposals,
    protocol,
    query,
    recipes,
    records,
    report,
    runs,
    safety,
    screen,
    searches,
    seeds,
    sheets,
    stopping,
    summary,
    syntax,
    trials,
    underline,
    vocabulary,
)
from kettlesort.settings import settings
from kettlesort.store.base import session


@asynccontextmanager
async def _lifespan(_: FastAPI) -> AsyncIterator[None]:
    to_thread.current_default_thread_limiter().total_tokens = settings().threads
    await live.exchange.start()
    gc.freeze()  # what was loaded stays, and need not be looked through with every large answer
    yield
    await live.exchange.stop()


def _operation(route: APIRoute) -> str:
    return f"{route.tags[0] if route.tags else 'api'}_{route.name}"


app = FastAPI(
    title="Kettle Sort",
    version="1",
    lifespan=_lifespan,
    generate_unique_id_function=_operation,
    docs_url=None,
    redoc_url=None,
    openapi_url="/api/openapi.json",
)
for part in (
    account,
    plan,
    protocol,
    query,
    syntax,
    vocabulary,
    catalogue,
    searches,
    fulltexts,
    gather,
    recipes,
    narrow,
    passes,
    seeds,
    records,
    convert,
    match,
    trials,
    underline,
    screen,
    stopping,
    summary,
    likeness,
    sheets,
    orders,
    chart,
    codebook,
    language_model,
    proposals,
    extractors,
    appraisal,
    pool_looks,
    pooling,
    asking,
    report,
    runs,
    live,
):
    app.include_router(part.router)


@app.get("/api/health", tags=["health"])
def health() -> dict[str, str]:
    """Whether server and database answer."""
    with session() as db:
        db.exec(select(1))
    return {"state": "ready"}


safety.install(app)


@app.get("/{path:path}", include_in_schema=False)
def front_end(path: str, request: Request) -> Response:
    """The built front end: its files, and its page for every other address."""
    root = settings().static.resolve()
    wanted = (root / path).resolve()
    if path.startswith("api/"):
        return Response('{"message":"There is nothing here.","details":{}}', 404, media_type="application/json")
    if path and wanted.is_relative_to(root) and wanted.is_file():
        lasting = "public, max-age=31536000, immutable" if path.startswith("assets/") else "no-cache"
        return FileResponse(wanted, headers={"Cache-Control": lasting})
    page = (root / "index.html").read_text(encoding="utf-8").replace("__NONCE__", request.state.nonce)
    return HTMLResponse(page, headers={"Cache-Control": "no-store"})
