"""One record as it stands in its file."""

from __future__ import annotations

from typing import NamedTuple

from kettlesort.core.record import Record


class Entry(NamedTuple):
    """A record with its place: ``position`` and lines count from 1; ``raw`` is what the file says."""

    position: int
    line: int
    end_line: int
    raw: str
    record: Record
