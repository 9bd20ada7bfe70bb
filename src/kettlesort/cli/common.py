"""What all commands share: what they say, how they end, what they write."""

from __future__ import annotations

import csv
import io
import json
import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    help="Records for systematic reviews, without the web application.",
)

Out = Annotated[Path | None, typer.Option("-o", "--output", help="Write here instead of to standard output.")]


def say(message: str) -> None:
    """Tell a person, beside the result."""
    print(message, file=sys.stderr)


def stop(message: str) -> NoReturn:
    """End with exit code 2: wrong usage, or nothing readable."""
    say(f"kettlesort: {message}")
    raise typer.Exit(2)


def one_of(option: str, value: str, allowed: tuple[str, ...]) -> None:
    """End with exit code 2 unless the value of an option is one of those allowed."""
    if value not in allowed:
        stop(f"{option} {value}: one of {', '.join(allowed)}")


@contextmanager
def progress(what: str) -> Iterator[Callable[[float], None]]:
    """A bar on standard error while a person looks at it."""
    if not sys.stderr.isatty():
        yield lambda _: None
        return
    from rich.console import Console
    from rich.progress import Progress

    with Progress(console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task(what, total=1.0)
        yield lambda share: bar.update(task, completed=share)


def write(out: Path | None, data: bytes) -> None:
    """Write the result to a file, or to standard output."""
    if out is None:
        sys.stdout.buffer.write(data)
        sys.stdout.buffer.flush()
        return
    try:
        out.write_bytes(data)
    except OSError as error:
        stop(f"{out}: cannot be written: {error.strerror or error}")


def table(rows: Sequence[Sequence[object]]) -> bytes:
    """Rows as CSV."""
    text = io.StringIO()
    csv.writer(text, lineterminator="\n").writerows(rows)
    return text.getvalue().encode()


def json_of(value: Any) -> bytes:
    """A value as JSON, without NaN and Infinity."""
    return (json.dumps(value, ensure_ascii=False, allow_nan=False) + "\n").encode()


def done(complete: bool) -> None:
    """End with exit code 1 unless everything could be read."""
    if not complete:
        raise typer.Exit(1)
