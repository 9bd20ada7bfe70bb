"""Receiving a file without trusting its size or its name."""

from __future__ import annotations

import re
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from functools import partial
from typing import Any, BinaryIO

from anyio import CapacityLimiter, to_thread
from fastapi import Request
from starlette.datastructures import UploadFile
from starlette.formparsers import MultiPartException

from kettlesort.core.text.clean import kept
from kettlesort.work.errors import Invalid, TooLarge

Run = Callable[..., Awaitable[Any]]
_FORM = {"type": "object", "required": ["file"], "properties": {"file": {"type": "string", "format": "binary"}}}
ONE_FILE = {"requestBody": {"required": True, "content": {"multipart/form-data": {"schema": _FORM}}}}
"""What `receive` takes, as the OpenAPI document says it."""


def tidy(filename: str) -> str:
    """A file's name without folders and control characters."""
    name = re.sub(r"[\t\n\r]", " ", kept(filename.replace("\\", "/").rsplit("/", 1)[-1])).strip()
    return name[:200] or "file"


_reading = CapacityLimiter(6)
"""So many uploads are looked at side by side: what a large or hostile one takes of time and memory holds up only other uploads."""


async def _read(work: Callable[..., Any], *arguments: Any) -> Any:
    return await to_thread.run_sync(partial(work, *arguments), limiter=_reading)


@asynccontextmanager
async def receive(request: Request, most: int) -> AsyncIterator[tuple[str, BinaryIO, Run]]:
    """The one file of a multipart request: its name, the file, and a way to run blocking work. Raises TooLarge or Invalid."""
    announced = request.headers.get("content-length", "0")
    if announced.isdecimal() and int(announced) > most + 10_000:
        raise TooLarge(f"The file is larger than {most // 1_000_000:,} MB; export it in parts.", field="file")
    try:
        async with request.form(max_files=1, max_fields=4) as form:
            file = form.get("file")
            if not isinstance(file, UploadFile):
                raise Invalid("No file came with the request; choose one and try again.", field="file")
            if (file.size or 0) > most:
                raise TooLarge(f"The file is larger than {most // 1_000_000:,} MB; export it in parts.", field="file")
            yield tidy(file.filename or ""), file.file, _read
    except MultiPartException as error:
        raise Invalid("The upload was cut off; please try again.", field="file") from error
