"""The headless tool: the core from the command line, without database or network."""

from __future__ import annotations

import logging
import sys

from kettlesort.cli import charting, figures, network, pooling, records
from kettlesort.cli.common import app

__all__ = ["app", "charting", "figures", "main", "network", "pooling", "records"]


def main() -> None:
    """Run the tool; a person sees messages, never a trace of Python."""
    logging.getLogger("bibtexparser").setLevel(logging.CRITICAL)
    try:
        app()
    except KeyboardInterrupt:
        sys.exit(130)
    except BrokenPipeError:
        sys.exit(1)


if __name__ == "__main__":
    main()
