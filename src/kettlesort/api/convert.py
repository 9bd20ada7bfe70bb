"""Converting a file of records, outside any review. Nothing is kept."""

from __future__ import annotations

import tempfile
from typing import IO, Any, BinaryIO
from urllib.parse import quote

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel

from kettlesort import apart
from kettlesort.api.access import SignedIn
from kettlesort.api.files import streamed
from kettlesort.api.records import KINDS, LossSaid, WriteFormat
from kettlesort.api.uploads import ONE_FILE, receive
from kettlesort.core import formats
from kettlesort.core.formats import LABELS, WRITABLE, NotReadable
from kettlesort.core.record import Record
from kettlesort.settings import settings
from kettlesort.work import gather
from kettlesort.work.errors import Invalid
from kettlesort.work.records import IN_MEMORY

router = APIRouter(prefix="/api/convert", tags=["convert"])
MOST_COMPARED = 3000


class Trouble(BaseModel):
    line: int
    message: str


class Doubt(BaseModel):
    message: str
    records: int
    lines: list[int]


class Converted(BaseModel):
    """What a file is, and what each format would lose of its first records."""

    filename: str
    format: str
    certainty: str
    encoding: str
    records: int
    compared: int
    filled: dict[str, int]
    problems: list[Trouble]
    doubts: list[Doubt]
    losses: dict[str, list[LossSaid]]


def _look(filename: str, file: BinaryIO) -> Converted:
    looked = gather.looked_at(filename, file, MOST_COMPARED)
    reading = looked.reading
    return Converted(
        filename=filename, format=LABELS[reading.format], certainty=reading.certainty, encoding=reading.encoding, records=reading.records,
        compared=len(looked.first), filled=looked.filled, problems=[Trouble(line=one.line, message=one.message) for one in reading.problems[:200]],
        doubts=[Doubt(message=one.message, records=one.records, lines=[place.line for place in one.places[:20]]) for one in looked.odd],
        losses={name: [LossSaid(**one._asdict()) for one in formats.losses(looked.first, name)] for name in WRITABLE},
    )  # fmt: skip


def _write(filename: str, file: BinaryIO, to: str, columns: list[str]) -> IO[bytes]:
    out = tempfile.SpooledTemporaryFile(max_size=IN_MEMORY)  # noqa: SIM115 -- whoever sends it closes it
    try:
        reading = apart.open_reading(file)
        records = (entry.record for entry in reading)
        if columns and to in ("csv", "xlsx"):
            formats.write(records, to, out, columns)
        else:
            formats.write(records, to, out)
    except NotReadable as error:
        raise Invalid(f"{filename}: {error}.", field="file") from None
    if not reading.records:
        raise Invalid(f"{filename}: no record could be read from it.", field="file")
    return out


@router.post("/look", openapi_extra=ONE_FILE)
async def look(account: SignedIn, request: Request) -> Converted:
    """What a file is, and what each format could hold of it."""
    async with receive(request, settings().max_upload) as (filename, file, run):
        found: Any = await run(_look, filename, file)
        return Converted.model_validate(found)


@router.post("", response_class=Response, openapi_extra=ONE_FILE)
async def convert(account: SignedIn, request: Request, to: WriteFormat, columns: list[str] = Query([], max_length=60)) -> Response:
    """The records of a file as another format; of a table the columns that are named."""
    unknown = set(columns) - {*Record._fields, "other"}
    if unknown:
        raise Invalid(f"There is no column {', '.join(sorted(unknown))}.", field="columns")
    async with receive(request, settings().max_upload) as (filename, file, run):
        made = await run(_write, filename, file, to, columns)
    name = f"{filename.rsplit('.', 1)[0] or 'records'}.{formats.suffix_of(to)}"
    return streamed(made, KINDS[to], f"attachment; filename*=UTF-8''{quote(name)}")
