"""Tagged text: one tag a line, values that may run over several lines."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.scanner import Scanner
from kettlesort.core.formats.source import Problem, TextSource
from kettlesort.core.record import Record

Make = Callable[[list[str], list[list[str]], list[tuple[str, str]], int, list[Problem]], Record]
"""Builds a record from single values, lists of values, the unknown tags, its line, and where to tell problems."""


class Layout(NamedTuple):
    """Which tag begins a record, which ends it (``""`` for none), and which field each fills.

    A line begins with the tag, spaces up to ``dash``, a dash and a space: ``TI  - ``,
    ``PMID- ``; a line that begins with six spaces goes on with the one before. ``single``
    names the tags of each field that has one value, the best first (25 fields of 8 tags at
    most); ``several`` those of each field that has many. A line of the second tag of ``pair``
    directly after one of the first says the same in short, and is passed over.
    """

    start: str
    end: str
    single: tuple[tuple[str, ...], ...]
    several: tuple[tuple[str, ...], ...]
    dash: int = 4
    pair: tuple[str, str] | tuple[()] = ()

    def head_of(self, tag: str) -> bytes:
        """The beginning of a line of ``tag``."""
        return tag.encode().ljust(self.dash) + b"- "


def entries(source: TextSource, layout: Layout, make: Make, problems: list[Problem]) -> Iterator[Entry]:
    """The records of a file, in constant memory: text is scanned in pieces that end where a record ends."""
    scanner = Scanner(layout, make, problems)
    held, mark = bytearray(), b"\n" + layout.head_of(layout.start)
    for piece in source.utf8():
        searched = max(0, len(held) - len(mark))  # a record of any length is looked through once
        held += piece
        cut = held.rfind(mark, searched) + 1
        if cut > 0:
            yield from scanner.feed(bytes(held[:cut]))
            del held[:cut]
    yield from scanner.feed(bytes(held) + b"\n")
