"""Serves all stand-ins on one port of loopback: `python -m kettlesort.standins PORT`."""

from __future__ import annotations

import sys

import uvicorn
from starlette.applications import Starlette
from starlette.routing import Mount

from kettlesort.standins.catalogue import catalogue_app
from kettlesort.standins.language_model import language_model_app
from kettlesort.standins.registry import registry_app


def main() -> None:
    """Serve until told to stop."""
    app = Starlette(
        routes=[Mount("/hive-union", catalogue_app()), Mount("/doi", registry_app()), Mount("/language-model", language_model_app())]
    )
    uvicorn.run(app, host="127.0.0.1", port=int(sys.argv[1]), access_log=False, timeout_graceful_shutdown=1)


if __name__ == "__main__":
    main()
