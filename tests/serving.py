"""Serving stand-ins on a free port of loopback, within the test's own process."""

from __future__ import annotations

import socket
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager

import uvicorn
from starlette.applications import Starlette
from starlette.routing import BaseRoute


@contextmanager
def serving(routes: Sequence[BaseRoute]) -> Iterator[str]:
    """The address at which these routes are served."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    server = uvicorn.Server(uvicorn.Config(Starlette(routes=list(routes)), host="127.0.0.1", port=port, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{port}"
    server.should_exit = True
    thread.join(5)
