"""The command that proposes values of data items from reports."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from kettlesort.cli.common import Out, app, done, json_of, progress, say, stop, write
from kettlesort.cli.figures import AsJson

if TYPE_CHECKING:
    from kettlesort.core.charting.proposals import Asked
    from kettlesort.core.fulltext.article import Article

Reports = Annotated[list[Path], typer.Argument(metavar="FILE...", help="PDFs, or files of records whose titles and abstracts are read.")]


@app.command()
def propose(
    files: Reports,
    items: Annotated[Path, typer.Option(help="Data items as JSON: a list of objects with id, name and kind.")],
    as_json: AsJson = True,
    out: Out = None,
) -> None:
    """Values of data items, each with the words of the report that it comes from, where they stand, and how sure it is."""
    asked = _asked(items)
    told: list[dict[str, Any]] = []
    with progress("reading") as tick:
        for k, path in enumerate(files):
            told += _of_file(path, asked)
            tick((k + 1) / len(files))
    for entry in told:
        for problem in entry["problems"]:
            say(f"{entry['path']}:{problem['line'] or entry['position'] or 1}: {problem['message']}")
    if not any(one["read"] for one in told):
        stop("nothing readable")
    write(out, json_of({"files": told}))
    done(all(not one["problems"] for one in told))


def _asked(path: Path) -> list[Asked]:
    from kettlesort.core.charting.proposals import NotAnItem, items_of

    try:
        return items_of(json.loads(path.read_bytes()))
    except OSError as error:
        stop(f"{path}: cannot be opened: {error.strerror or error}")
    except (ValueError, RecursionError) as error:
        stop(f"{path}: {error}" if isinstance(error, NotAnItem) else f"{path}: no JSON that can be read: {error}")


def _of_file(path: Path, asked: Sequence[Asked]) -> list[dict[str, Any]]:
    try:
        with path.open("rb") as file:
            is_pdf = b"%PDF-" in file.read(1024)
    except OSError as error:
        return [_entry(path, None, None, f"cannot be opened: {error.strerror or error}")]
    return [_of_pdf(path, asked)] if is_pdf else list(_of_records(path, asked))


def _of_pdf(path: Path, asked: Sequence[Asked]) -> dict[str, Any]:
    from kettlesort import apart
    from kettlesort.core.fulltext.article import of_pdf
    from kettlesort.core.fulltext.pages import NotAPdf

    try:
        with path.open("rb") as file:
            article: Article = apart.call_on(of_pdf, file)
    except (NotAPdf, apart.Broken) as error:
        return _entry(path, 1, None, str(error))
    if not any(text.strip() for text in article.pages.values()):
        return _entry(path, 1, article, "it holds no text, only pictures of pages; have its text recognised first")
    return _entry(path, 1, article, asked=asked)


def _of_records(path: Path, asked: Sequence[Asked]) -> Iterator[dict[str, Any]]:
    from kettlesort import apart
    from kettlesort.core.formats import NotReadable
    from kettlesort.core.fulltext.article import of_record

    try:
        with path.open("rb") as file:
            reading = apart.open_reading(file)
            for entry in reading:
                yield _entry(path, entry.position, of_record(entry.record.title, entry.record.abstract), asked=asked)
            for problem in reading.problems:
                if not problem.remark:
                    yield _entry(path, None, None, problem.message, problem.line)
    except NotReadable as error:
        yield _entry(path, None, None, str(error))


def _entry(
    path: Path, position: int | None, article: Article | None, problem: str = "", line: int | None = None, asked: Sequence[Asked] = ()
) -> dict[str, Any]:
    from kettlesort.core.charting.proposals import propose as proposals_of

    return {
        "path": str(path),
        "position": position,
        "read": None if article is None else "full text" if article.whole else "abstract",
        "pages": len(article.pages) if article and article.whole else None,
        "proposals": [proposal._asdict() for proposal in proposals_of(article, asked)] if article and asked else [],
        "problems": [{"line": line, "message": problem}] if problem else [],
    }
