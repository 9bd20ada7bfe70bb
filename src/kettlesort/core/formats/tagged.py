"""Scanning tagged text: one tag a line, values that may run over several lines.

A file of a million records has thirty million lines, and each is seen here once: the text
is split by methods of `str`, a line's first six characters are looked up, and its value
goes where the answer says.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import NamedTuple

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.source import Problem, TextSource
from kettlesort.core.record import Record

Make = Callable[[list[str], list[list[str]], list[tuple[str, str]], int, list[Problem]], Record]
"""Builds a record from single values, lists of values, the unknown tags, its line, and where to tell problems."""

_RANKS = 16
_TAG_LINE = re.compile(r"([A-Z][A-Z0-9]{1,3}) {0,2}-(?: |$)")
_NOTHING = "\x00\x1a\ufeff\x0c\t "


class Layout(NamedTuple):
    """Which tag begins a record, which ends it (``""`` for none), and which field each fills.

    A line begins with the tag, spaces up to ``dash``, a dash and a space: ``TI  - ``,
    ``PMID- ``. ``single`` names the tags of each field that has one value, the best first; ``several``
    those of each field that has many.
    """

    start: str
    end: str
    single: tuple[tuple[str, ...], ...]
    several: tuple[tuple[str, ...], ...]
    dash: int = 4

    def head_of(self, tag: str) -> str:
        """The beginning of a line of ``tag``."""
        return tag.ljust(self.dash) + "- "


def _places(layout: Layout) -> dict[str, int]:
    """For the head of each known line its field and rank; fields of many values count down from -1."""
    place: dict[str, int] = {}
    for field, tags in enumerate(layout.single):
        for rank, tag in enumerate(tags):
            place[layout.head_of(tag)] = field * _RANKS + rank
    for field, tags in enumerate(layout.several):
        for tag in tags:
            place[layout.head_of(tag)] = -1 - field
    return place


def entries(source: TextSource, layout: Layout, make: Make, problems: list[Problem], size: int = 1 << 18) -> Iterator[Entry]:
    """The records of a file, in constant memory: text is scanned in pieces that end where a record ends."""
    held, line, position = "", 1, 0
    mark = "\n" + layout.head_of(layout.start)
    for piece in source:
        held += piece
        cut = held.rfind(mark) + 1 if len(held) >= size else 0
        if cut > 0:
            found, line = scan(held[:cut], line, position, layout, make, problems)
            position += len(found)
            yield from found
            held = held[cut:]
    found, line = scan(held, line, position, layout, make, problems)
    yield from found


def scan(text: str, line: int, position: int, layout: Layout, make: Make, problems: list[Problem]) -> tuple[list[Entry], int]:
    """The records of ``text``, whose first line is number ``line``, and the number of the line after it.

    Text outside every record is told to ``problems`` with its line.
    """
    place_of = _places(layout)
    mark = layout.head_of(layout.start)
    end_mark = layout.head_of(layout.end) if layout.end else ""
    found: list[Entry] = []
    blocks = text.split("\n" + mark)
    blocks[0] = "\n" + blocks[0]
    first = True
    for block in blocks:
        if first:
            first = False
            if not block.startswith("\n" + mark):
                if block.strip("\n" + _NOTHING):
                    _tell_stray(block[1:], line, problems)
                line += block.count("\n")
                continue
            block = block[1 + len(mark) :]
        raw, after = mark + block, ""
        if end_mark:
            cut = raw.find("\n" + end_mark[:-1])
            if cut < 0:
                problems.append(Problem(line, "the end of the record (ER) is missing; the file may have been cut off here"))
            else:
                stop = raw.find("\n", cut + 1)
                if stop >= 0:
                    raw, after = raw[:stop], raw[stop:]
        raw = raw.rstrip()
        position += 1
        record = _read(raw, line, layout, place_of, make, problems)
        lines = raw.count("\n")
        found.append(Entry(position, line, line + lines, raw, record))
        if after and not after.isspace() and after.strip("\n" + _NOTHING):
            _tell_stray(after, line + lines, problems)
        line += block.count("\n") + 1
    if text.endswith("\n"):
        line -= 1
    return found, line


_UNKNOWN, _REST = -1000, -999


def _read(raw: str, line: int, layout: Layout, place_of: dict[str, int], make: Make, problems: list[Problem]) -> Record:
    """The record that the lines ``raw`` make."""
    values = [""] * len(layout.single)
    holders = [0] * len(layout.single)
    lists: list[list[str]] = [[] for _ in layout.several]
    rest: list[tuple[str, str]] = []
    last = _REST
    head = layout.dash + 2
    for said in raw.replace("\n      ", " ").split("\n"):
        place = place_of.get(said[:head], _UNKNOWN)
        if place == _UNKNOWN:
            tag = _TAG_LINE.match(said)
            if tag is None:
                _continue(said, last, values, lists, rest)
                continue
            place = place_of.get(layout.head_of(tag[1]), _REST)
            value = said[tag.end() :].strip()
            if place == _REST:
                if value and tag[1] != layout.end:
                    rest.append((tag[1], value))
                last = place
                continue
        else:
            value = said[head:].strip()
        last = place
        if place < 0:
            if value:
                lists[-1 - place].append(value)
            continue
        field = place // _RANKS
        kept = values[field]
        if not kept:
            values[field] = value
            holders[field] = place
        elif value and value != kept:
            if place < holders[field]:
                values[field], value = value, kept
                place, holders[field] = holders[field], place
            rest.append((layout.single[field][place % _RANKS], value))
            last = _REST
    return make(values, lists, rest, line, problems)


def _continue(said: str, last: int, values: list[str], lists: list[list[str]], rest: list[tuple[str, str]]) -> None:
    """Add a line without a tag to the value that it goes on with."""
    value = said.strip(_NOTHING)
    if not value:
        return
    if last >= 0:
        field = last // _RANKS
        values[field] = f"{values[field]} {value}" if values[field] else value
    elif last != _REST:
        cell = lists[-1 - last]
        if cell:
            cell[-1] = f"{cell[-1]} {value}"
        else:
            cell.append(value)
    elif rest:
        rest[-1] = (rest[-1][0], f"{rest[-1][1]} {value}")


def _tell_stray(text: str, line: int, problems: list[Problem]) -> None:
    """Say where text stands outside every record."""
    for said in text.split("\n"):
        if said.strip(_NOTHING):
            shown = said.strip()
            problems.append(Problem(line, f"text outside any record, not read: “{shown[:60]}{'…' if len(shown) > 60 else ''}”"))
            return
        line += 1
