"""The server: `python -m kettlesort.api --port 8640 --workers 2`.

Whom an answer goes to is the address that the connection comes from. What a proxy says of it
is believed only of proxies that `KETTLE_PROXY` names (addresses or networks, separated by commas).
"""

from __future__ import annotations

import argparse

import uvicorn

from kettlesort.settings import settings


def main() -> None:
    """Serve until stopped."""
    said = argparse.ArgumentParser(prog="python -m kettlesort.api", description="The server of Kettle Sort.")
    said.add_argument("--host", default="127.0.0.1")
    said.add_argument("--port", type=int, default=8640)
    said.add_argument("--workers", type=int, default=1, help="processes that answer side by side")
    options = said.parse_args()
    uvicorn.run(
        "kettlesort.api:app",
        host=options.host,
        port=options.port,
        workers=options.workers,
        access_log=False,
        timeout_graceful_shutdown=2,
        timeout_keep_alive=15,
        proxy_headers=bool(settings().proxy),
        forwarded_allow_ips=settings().proxy or None,
        server_header=False,
        h11_max_incomplete_event_size=64_000,
    )


if __name__ == "__main__":
    main()
