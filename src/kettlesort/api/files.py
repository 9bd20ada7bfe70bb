"""Answers that are files to be saved."""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator, Sequence
from typing import IO

from fastapi import Response
from fastapi.responses import StreamingResponse

from kettlesort.core.formats import table

CSV = "text/csv; charset=utf-8"
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
PIECE = 256_000
TOML = "application/toml; charset=utf-8"


def file_of(data: bytes | str, kind: str, name: str) -> Response:
    """A file that is to be saved under a name of plain letters."""
    return Response(data, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def streamed(file: IO[bytes], kind: str, disposition: str, **headers: str) -> StreamingResponse:
    """A file that is sent in pieces, and closed when it is sent or whoever asked has gone."""
    size = file.seek(0, io.SEEK_END)
    file.seek(0)

    def pieces() -> Iterator[bytes]:
        with file:
            while piece := file.read(PIECE):
                yield piece

    return StreamingResponse(
        pieces(), media_type=kind, headers={"Content-Disposition": disposition, "Content-Length": str(size), **headers}
    )


def csv_of(rows: Iterable[Sequence[object]], name: str) -> Response:
    """Rows as a CSV file that spreadsheets read as UTF-8."""
    return file_of("\ufeff" + "".join(table.write_csv(rows)), CSV, name)
