"""Answers that are files to be saved."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from fastapi import Response

from kettlesort.core.formats import table

CSV = "text/csv; charset=utf-8"
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
TOML = "application/toml; charset=utf-8"


def file_of(data: bytes | str, kind: str, name: str) -> Response:
    """A file that is to be saved under a name of plain letters."""
    return Response(data, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def csv_of(rows: Iterable[Sequence[object]], name: str) -> Response:
    """Rows as a CSV file that spreadsheets read as UTF-8."""
    return file_of("\ufeff" + "".join(table.write_csv(rows)), CSV, name)
