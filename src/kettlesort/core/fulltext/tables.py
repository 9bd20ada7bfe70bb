"""Tables of a page, rebuilt from where their words stand: no rule or border is needed."""

from __future__ import annotations

import re
from collections.abc import Sequence
from collections.abc import Set as AbstractSet
from itertools import pairwise
from statistics import median
from typing import NamedTuple

from kettlesort.core.fulltext.pages import Row, Run, Word

_VALUE = re.compile(r"^[<>≤≥~±(\[]*\s*[-−–+]?\d")
_ONLY_A_SIZE = re.compile(r"^\(?\s*n\s*[=:]?\s*\d[\d\s,]*\)?$", re.I)
_NO_VALUE = re.compile(r"^\(?\d{2}\s?%\s*(?:c\.?i|confidence|cred)|^\d[\d\s,]*\)$", re.I)
"""What begins with a figure in a head: the level of an interval, the end of a size whose bracket was opened in the line above."""
_SIGN = re.compile(r"^(?:[-−–—]+|n\.?[ds]\.?|n/?a|\.|nr|…)$", re.I)
_CAPTION = re.compile(r"^(?:supplementary\s+|online\s+)?(?:table|tab\.|tabelle|tableau|tabla)\s*[A-Z]?\d*[IVX]*\b", re.I)
_HEAD_OF_LABELS = re.compile(
    r"^(?:characteristics?|variables?|items?|outcomes?|parameters?|features?|measures?|groups?|arms?|domains?|questions?|category|factor)\b",
    re.I,
)
_STATISTIC = re.compile(r"^(?:mean|median|sd|s\.d\.|se|sem|n|no|number|range|iqr|events?|total|rate|p|ci)\b", re.I)
_OPEN_END = re.compile(r"(?:\b(?:than|of|to|for|with|and|or|in|at|by|from|the)|[,/–-])$", re.I)
_ENDED = re.compile(r"[.!?:;]$")
_GAP = 0.25
"""Words are taken to be so many letter sizes wider on both sides when the white stripes between columns are looked for."""
_HEADS = 4


class Cell(NamedTuple):
    """What stands in one cell."""

    words: tuple[Word, ...] = ()

    @property
    def text(self) -> str:
        """Its words with single spaces; those that a narrow column broke as one."""
        return "".join(word.text if word.broken else f"{word.text} " for word in self.words).rstrip()


class Line(NamedTuple):
    """A row of a table: its cells, of which the first is the label, and the label of the group of rows that it stands in."""

    cells: list[Cell]
    group: Cell


class Table(NamedTuple):
    """A table: its caption, what stands above each column, its rows, and whether it took its head from the page before."""

    page: int
    caption: str
    head: list[Cell]
    lines: list[Line]
    inherited: bool = False


def mended(made: Table, known: AbstractSet[str]) -> Table:
    """A table whose words that a narrow column broke without a hyphen are whole: those that the report has (``known``, in small letters) where their parts are no words of it."""

    def whole(cell: Cell) -> Cell:
        words = list(cell.words)
        for k, (a, b) in enumerate(pairwise(words)):
            one, two = re.split(r"[\W\d_]+", a.text)[-1].lower(), re.split(r"[\W\d_]+", b.text)[0].lower()
            if a.base < b.base - 1 and one and two and one + two in known and not (one in known and two in known):
                words[k] = a._replace(broken=True)
        return Cell(tuple(words))

    return made._replace(
        head=[whole(cell) for cell in made.head],
        lines=[Line([whole(cell) for cell in line.cells], whole(line.group)) for line in made.lines],
    )


def is_caption(text: str) -> bool:
    """Whether a line begins as the caption of a table does."""
    return bool(_CAPTION.match(text))


def regions(rows: Sequence[Row]) -> list[tuple[int, int]]:
    """From where to where rows form tables: most have cells beside each other. The end is not included."""
    out: list[tuple[int, int]] = []
    begin: int | None = None
    last = 0
    for k, row in enumerate(rows):
        if len(row) >= 2:
            if begin is None:
                begin = k
            last = k
        elif begin is not None and (k - last > 3 or _far(rows[k - 1], row) or _is_text(row[0], rows[begin : last + 1])):
            out.append((begin, last + 1))
            begin = None
    if begin is not None:
        out.append((begin, last + 1))
    return [(_with_top(rows, a, b), _with_tail(rows, a, b)) for a, b in out if sum(len(row) >= 2 for row in rows[a:b]) >= 2]


def _far(above: Row, row: Row) -> bool:
    return row[0].base - above[0].base > 3.2 * max(row[0].size, above[0].size)


def _is_text(run: Run, rows: Sequence[Row]) -> bool:
    """Whether a single run is running text rather than a label: it is as wide as the table, or closes a sentence."""
    left, right = min(row[0].left for row in rows), max(row[-1].right for row in rows)
    return (run.right - run.left > 0.7 * (right - left) and len(run.words) > 7) or is_caption(run.text)


def _with_top(rows: Sequence[Row], begin: int, end: int) -> int:
    """The begin of a table, with lines above its first row: what was broken above a column beside the first, or the label of a row that goes on below."""
    first = begin
    right = max(row[-1].right for row in rows[begin:end])
    while first > 0 and begin - first < 3 and len(rows[first - 1]) == 1:
        run, below = rows[first - 1][0], rows[first]
        close = below[0].base - run.base < 1.6 * max(run.size, below[0].size)
        above_a_column = rows[begin][0].right + 0.3 * run.size <= run.left and run.right <= right + 3 * run.size
        label = below[0].text[:1].islower() and _may_be_label(rows[first - 1], below)
        if not close or is_caption(run.text) or not (above_a_column or label):
            break
        first -= 1
    if 0 < begin <= 4 and all(_may_be_label(row, rows[begin]) for row in rows[:begin]):
        return 0  # labels at the top of a column, of a table that began before it
    return first


def _may_be_label(row: Row, below: Row) -> bool:
    """Whether a row is a label, or the begin of one, of the row of values below it."""
    run = row[0]
    beside = len(row) == 1 and abs(run.left - below[0].left) < 2 * run.size and abs(run.size - below[0].size) < 0.6
    values = any(_VALUE.match(one.text) and not _ONLY_A_SIZE.match(one.text) for one in below[1:])
    return beside and values and len(run.words) <= 6 and not _ENDED.search(run.text)


def _with_tail(rows: Sequence[Row], begin: int, end: int) -> int:
    """The end of a table, with a label that goes on below its last row."""
    if end < len(rows) and len(rows[end]) == 1:
        run, above = rows[end][0], rows[end - 1]
        close = run.base - above[0].base < 1.45 * run.size
        if close and abs(run.left - above[0].left) < run.size and run.text[:1].islower() and len(run.words) <= 6:
            return end + 1
    return end


def table(rows: Sequence[Row], page: int, caption: str) -> Table | None:
    """The table that rows form; None if they have no two columns."""
    columns = _columns(rows)
    if len(columns) < 2:
        return None
    lines = [_cells(row, columns) for row in rows]
    heads = _heads(lines)
    head = [Cell() for _ in columns]
    for k in range(heads):
        _put_above(head, rows[k], lines[k], columns, [run for run in rows[k] if k + 1 < heads and _broken_off(run, rows[k + 1])])
    return Table(page, caption, head, _joined(lines[heads:], [row[0].base for row in rows[heads:]]))


def _columns(rows: Sequence[Row]) -> list[tuple[float, float]]:
    """From where to where the columns stand, by the white stripes that all full rows leave."""
    most = max(len(row) for row in rows)
    full = [row for row in rows if len(row) >= max(2, 0.6 * most)]
    spans = sorted((word.left - _GAP * word.size, word.right + _GAP * word.size) for row in full for run in row for word in run.words)
    out: list[tuple[float, float]] = []
    for left, right in spans:
        if out and left <= out[-1][1]:
            out[-1] = (out[-1][0], max(out[-1][1], right))
        else:
            out.append((left, right))
    return out


def _nearest(place: float, columns: Sequence[tuple[float, float]]) -> int:
    return min(range(len(columns)), key=lambda k: max(columns[k][0] - place, place - columns[k][1], 0))


def _cells(row: Row, columns: Sequence[tuple[float, float]]) -> list[Cell]:
    cells: list[list[Word]] = [[] for _ in columns]
    for run in row:
        inside = [k for k, (left, right) in enumerate(columns) if run.left < right and run.right > left]
        if len(row) == 1 and run.left < columns[0][1]:
            cells[0] += run.words  # a label that is wider than its column
            continue
        for word in run.words:
            place = (word.left + word.right) / 2
            cells[_nearest(place, columns) if len(inside) != 1 else inside[0]].append(word)
    return [Cell(tuple(words)) for words in cells]


def _is_value(cell: Cell) -> bool:
    text = cell.text
    if _SIGN.match(text):
        return True
    if not _VALUE.match(text) or _ONLY_A_SIZE.match(text) or _NO_VALUE.match(text):
        return False
    return sum(c.isalpha() for c in text) <= max(4, 0.5 * len(text)) and not re.match(
        r"^[<>≤≥=\s]*\d+[-\s]?(?:weeks?|months?|days?|years?|wk|mo|yr|h|hours?)\b", text, re.I
    )


def _heads(lines: Sequence[Sequence[Cell]]) -> int:
    """How many rows stand above the values: those before the first with a value; the first, where there is no value at all."""
    first = next((k for k, line in enumerate(lines) if any(_is_value(cell) for cell in line[1:])), None)
    if first is None:
        return 1 if len(lines) > 2 and len(lines[0]) > 2 else 0
    labelled = next(
        (
            k
            for k in range(1, first)
            if lines[k][0].words and any(cell.words for cell in lines[k][1:]) and any(line[0].words for line in lines[:k])
        ),
        first,
    )
    if labelled < first:  # a row of words, not of figures
        return 0 if len(lines[0]) == 2 and not _HEAD_OF_LABELS.match(lines[0][0].text) else labelled
    while first > 1 and sum(bool(cell.words) for cell in lines[first - 1]) == 1 and lines[first - 1][0].words:
        first -= 1  # the label of the first group of rows
    if first == 1 and (
        sum(bool(cell.words) for cell in lines[0]) == 1
        or (len(lines[0]) == 2 and lines[0][0].words and not _HEAD_OF_LABELS.match(lines[0][0].text))
    ):
        return 0
    return min(first, _HEADS)


def _broken_off(run: Run, below: Row) -> bool:
    """Whether a run of a head goes on in the row below it, and so stands above that column alone."""
    under = next((one for one in below if abs(one.left - run.left) < 1.5), None)
    if under is None or under.base - run.base > 1.35 * run.size:
        return False
    return bool(_ONLY_A_SIZE.match(under.text)) or (under.text[:1].islower() and not _STATISTIC.match(under.text))


def _put_above(head: list[Cell], row: Row, line: Sequence[Cell], columns: Sequence[tuple[float, float]], broken_off: Sequence[Run]) -> None:
    """Add a row of the head to the columns that it stands above; those that are ``broken_off`` stand above their own alone."""
    runs = [run for run in row if run.right > columns[1][0] - 1]
    if len(runs) >= len(columns) - 1 or not runs:
        for k, cell in enumerate(line):
            head[k] = Cell(head[k].words + cell.words)
        return
    for k in range(1, len(columns)):
        left, right = columns[k]
        over = [run for run in runs if run.left < right and run.right > left]
        middle = (left + right) / 2
        near = over or [run for run in runs if run not in broken_off]
        if not near:
            continue
        run = min(near, key=lambda one: abs((one.left + one.right) / 2 - middle))
        wide = max(b[0] - a[0] for a, b in pairwise(columns))
        if over or abs((run.left + run.right) / 2 - middle) < 1.1 * wide:
            head[k] = Cell(head[k].words + run.words)
    head[0] = Cell(head[0].words + tuple(word for run in row if run not in runs for word in run.words))


def _goes_on(above: Sequence[Cell], line: Sequence[Cell]) -> bool:
    """Whether a row is what goes on of the row above: each of its cells stands under an empty one, opens a bracket, or closes one."""
    return all(
        not a.words or not b.words or b.text[:1] in "([±" or a.text.count("(") > a.text.count(")")
        for a, b in zip(above[1:], line[1:], strict=True)
    )


def _is_of_its_own(above: Sequence[Cell], line: Sequence[Cell]) -> bool:
    """Whether a row without a label says as much as the one above it, and stands for another group of the same outcome."""
    filled = [bool(cell.words) for cell in line[1:]]
    return (
        filled == [bool(cell.words) for cell in above[1:]]
        and sum(filled) > 1
        and any(map(_is_value, line[1:]))
        and not _goes_on(above, line)
    )


def _label_of(waiting: Sequence[Cell], group: Cell) -> tuple[Cell, Cell]:
    """The group that lines above a row name, and the part of the row's label that stands in them: that from the last one on which begins anew."""
    begins = [0, *(k for k, one in enumerate(waiting) if k and one.text[:1].isupper())]
    parts = [Cell(tuple(word for one in waiting[k:end] for word in one.words)) for k, end in pairwise([*begins, len(waiting)])]
    return (parts[-2] if len(parts) > 1 else group), parts[-1]


def _joined(lines: Sequence[list[Cell]], bases: Sequence[float]) -> list[Line]:
    """Rows with what goes on in the next line put together, and labels of groups told from labels of rows."""
    out: list[Line] = []
    group = Cell()
    waiting: list[Cell] = []
    leading = median([b - a for a, b in pairwise(bases)]) if len(bases) > 1 else 0.0
    for k, line in enumerate(lines):
        label, rest = line[0], line[1:]
        close = k > 0 and bases[k] - bases[k - 1] <= 1.15 * leading + 1
        if not any(cell.words for cell in rest):
            if out and not waiting and close and label.text[:1].islower():
                out[-1] = Line([Cell(out[-1].cells[0].words + label.words), *out[-1].cells[1:]], out[-1].group)
            else:
                waiting.append(label)
        elif close and out and not waiting and label.text[:1].islower() and _goes_on(out[-1].cells, line):
            out[-1] = Line([Cell(a.words + b.words) for a, b in zip(out[-1].cells, line, strict=True)], out[-1].group)
        elif not label.words and waiting:
            group, label = _label_of(waiting, group)
            out.append(Line([label, *rest], group))
            waiting = []
        elif not label.words and out and _is_of_its_own(out[-1].cells, line):
            out.append(Line([out[-1].cells[0], *rest], group))
        elif not label.words and out:
            out[-1] = Line([Cell(a.words + b.words) for a, b in zip(out[-1].cells, line, strict=True)], out[-1].group)
        else:
            goes_on = label.text[:1].islower() or label.text[:1] in "([" or (waiting and _OPEN_END.search(waiting[-1].text))
            if waiting and goes_on and close and k > 0:
                group, above = _label_of(waiting, group)
                label = Cell(above.words + label.words)
            elif waiting:
                group = _label_of([*waiting, label], group)[0]
            waiting = []
            out.append(Line([label, *rest], group))
    return out
