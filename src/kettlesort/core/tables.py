"""Tables of figures as people type them: any separator, decimal commas, blank rows; what is wrong is told by line and column."""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Iterable
from typing import NamedTuple

SEPARATORS = (",", ";", "\t")
_HINT = re.compile(r"sep=(.)\r?\n?", re.I)
_COMMA = re.compile(r"[+-]?\d+,\d+(?:[eE][+-]?\d+)?")
_THOUSANDS = re.compile(r"[+-]?[1-9]\d{0,2}(?:,\d{3})+")
_POINT = re.compile(r"[+-]?\d*\.\d+(?:[eE][+-]?\d+)?")
_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?")


class Problem(NamedTuple):
    """What is wrong with a cell; column "" for a whole row."""

    line: int
    column: str
    message: str


class NotATable(ValueError):
    """Nothing can be read as a table with the columns that are needed."""


class Row(NamedTuple):
    """A row: the line on which it begins, its cells by the column's folded name, and how many values stand beyond the last column."""

    line: int
    cells: dict[str, str]
    beyond: int


class Table(NamedTuple):
    """``columns`` as they are written; cells are found under their `folded` names. ``commas``: numbers have decimal commas."""

    columns: list[str]
    rows: list[Row]
    commas: bool

    def lacks(self, names: Iterable[str]) -> list[str]:
        """Which of these columns are not there."""
        there = {folded(column) for column in self.columns}
        return [name for name in names if folded(name) not in there]

    def has(self, *names: str) -> bool:
        """Whether all these columns are there."""
        return not self.lacks(names)

    def number(self, row: Row, column: str) -> float | Problem:
        """The number in a cell, finite; or what is wrong with it."""
        text = row.cells.get(folded(column), "").replace("\u2212", "-").replace("\u00a0", " ").strip()
        if not text:
            return Problem(row.line, column, "is empty")
        if _COMMA.fullmatch(text) or _THOUSANDS.fullmatch(text):
            if _THOUSANDS.fullmatch(text) and not self.commas:
                return Problem(
                    row.line, column, f"“{text}” may be a decimal comma or thousands; write it with a point, or without separators"
                )
            if not _COMMA.fullmatch(text):
                return Problem(row.line, column, f"“{text}” is not a number")
            text = text.replace(",", ".")
        elif not _NUMBER.fullmatch(text):
            try:
                finite = math.isfinite(float(text.replace("_", "x")))
            except ValueError:
                finite = True
            return Problem(row.line, column, f"“{text[:40]}” is not {'a number' if finite else 'finite'}")
        value = float(text)
        return value if math.isfinite(value) else Problem(row.line, column, f"“{text[:40]}” is not finite")


def folded(name: str) -> str:
    """A column's name as it is compared.

    >>> folded("  Total 1 ")
    'total 1'
    """
    return " ".join(name.casefold().split())


def table_of(text: str) -> Table:
    """Read a table: separator by its first line, which has the names of the columns; blank rows are passed over.

    Raises NotATable when there is no line at all, or when two columns have one name.
    """
    text = text.removeprefix("\ufeff")
    begun = 0
    separator = ""
    if hint := _HINT.match(text):
        separator, text, begun = hint[1], text[hint.end() :], 1
    first = next((line for line in text.splitlines() if line.strip()), "")
    if not first:
        raise NotATable("the table is empty")
    separator = separator or max(SEPARATORS, key=lambda one: _unquoted(first).count(one))
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator)
    columns: list[str] = []
    rows: list[Row] = []
    last = begun
    try:
        for cells in reader:
            line, last = last + 1, reader.line_num + begun
            if not any(cell.strip() for cell in cells):
                continue
            if not columns:
                columns = [cell.strip() for cell in cells]
                _once_each(columns)
                continue
            beyond = sum(bool(cell.strip()) for cell in cells[len(columns) :])
            rows.append(Row(line, {folded(name): cell.strip() for name, cell in zip(columns, cells, strict=False)}, beyond))
    except csv.Error as error:
        raise NotATable(f"line {last + 1}: {error}") from None
    return Table(columns, rows, _decimal_commas(rows))


def _unquoted(line: str) -> str:
    return re.sub(r'"[^"]*"', "", line)


def _once_each(columns: list[str]) -> None:
    names = [folded(column) for column in columns if column]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise NotATable(f"two columns are named “{twice}”")


def _decimal_commas(rows: Iterable[Row]) -> bool:
    """Whether some number can only have a decimal comma, and none has a point."""
    said = [cell for row in rows for cell in row.cells.values()]
    return any(_COMMA.fullmatch(cell) and not _THOUSANDS.fullmatch(cell) for cell in said) and not any(map(_POINT.fullmatch, said))
