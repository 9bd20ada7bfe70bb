"""The words of a PDF with their places, and its lines in the order in which a person reads them."""

from __future__ import annotations

import ctypes
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from itertools import groupby, pairwise
from math import hypot
from statistics import median
from typing import Any, BinaryIO, NamedTuple

import pypdfium2
import pypdfium2.raw as pdfium

LONGEST = 2_000
"""Pages that are read of one document."""
DENSEST = 60_000
"""Characters that are read of one page."""
_HYPHENS = "\x02\ufffe\u00ad"
"""What the library says for a hyphen at which a word goes on in the next line."""
_WIDE, _WIDE_UNSPACED = 1.1, 0.6
"""A gap of so many letter sizes parts two cells or two columns; less is enough where the file sets no space in a page that sets them."""


class NotAPdf(ValueError):
    """The file is no PDF that can be read; the message says why."""


class Word(NamedTuple):
    """A word of a page: its place in points from the left and the top edge, its letters' size, and from where to where it stands in the page's own text.

    ``broken``: it goes on in the next line. ``spaced``: the file itself sets a space after it; where it does not, the eye sees one.
    """

    text: str
    left: float
    right: float
    base: float
    size: float
    begin: int
    end: int
    broken: bool = False
    spaced: bool = False
    bold: bool = False


class Run(NamedTuple):
    """Words beside each other without a wide gap: a line of a column, or a table's cell."""

    words: tuple[Word, ...]

    @property
    def left(self) -> float:
        """Where it begins."""
        return self.words[0].left

    @property
    def right(self) -> float:
        """Where it ends."""
        return self.words[-1].right

    @property
    def base(self) -> float:
        """The height of its base line, from the top of the page."""
        return self.words[0].base

    @property
    def size(self) -> float:
        """The size of most of its letters."""
        return median(word.size for word in self.words)

    @property
    def text(self) -> str:
        """Its words with single spaces."""
        return " ".join(word.text for word in self.words)


Row = tuple[Run, ...]
"""Runs on one base line, from left to right."""


class Page(NamedTuple):
    """A page from 1: its text as the file holds it, its size in points, and its rows in the order of reading, part by part: a column, or what goes across all columns; ``of`` so many."""

    number: int
    text: str
    width: float
    height: float
    parts: list[list[Row]]
    of: int = 1


class Document(NamedTuple):
    """A PDF: what it says of itself by name (Title, Author, …), and its pages without running heads and feet."""

    said: dict[str, str]
    pages: list[Page]


def document(file: BinaryIO, most: int = LONGEST) -> Document:
    """A PDF, or its first pages. Raises NotAPdf."""
    with _opened(file) as held:
        said = {name: str(value) for name, value in held.get_metadata_dict().items() if value}
        total = len(held)
        found, opened = [], False
        for number in range(min(total, most)):
            try:
                found.append(_page(held[number], number + 1))
                opened = True
            except pypdfium2.PdfiumError:
                found.append((Page(number + 1, "", 1, 1, []), []))
    if not opened:
        raise NotAPdf("none of the pages of this PDF can be opened; it may be damaged")
    running = _running(found)
    return Document(
        said, [page._replace(of=total, parts=_parts([run for run in runs if _key(page, run) not in running], page)) for page, runs in found]
    )


@contextmanager
def _opened(file: BinaryIO) -> Iterator[Any]:
    try:
        held = pypdfium2.PdfDocument(file.read())
    except pypdfium2.PdfiumError as error:
        if "password" in str(error).lower():
            raise NotAPdf("this PDF is locked with a password; save a copy without one") from error
        raise NotAPdf("this is no PDF that can be read; it may be damaged") from error
    try:
        if not len(held):
            raise NotAPdf("this PDF has no pages")
        yield held
    finally:
        held.close()


def _page(page: Any, number: int) -> tuple[Page, list[Run]]:
    width, height = page.get_size()
    textpage = page.get_textpage()
    try:
        text, words = _words(textpage, page.get_rotation(), (width, height), page.get_cropbox())
    finally:
        textpage.close()
    return Page(number, text, width, height, []), list(_runs(words, text))


def _words(textpage: Any, rotation: int, size: tuple[float, float], box: tuple[float, float, float, float]) -> tuple[str, list[Word]]:
    raw = textpage.raw
    n = min(textpage.count_chars(), DENSEST)
    letters = [chr(pdfium.FPDFText_GetUnicode(raw, k) or 32) for k in range(n)]
    x, y = ctypes.c_double(), ctypes.c_double()
    sides = [ctypes.c_double() for _ in range(4)]
    name = ctypes.create_string_buffer(128)
    words: list[Word] = []
    begin = 0
    while begin < n:
        if letters[begin].isspace() or letters[begin] in _HYPHENS:
            begin += 1
            continue
        end = begin
        before: tuple[float, float] | None = None
        left = right = base = 0.0
        points = max(1.0, pdfium.FPDFText_GetFontSize(raw, begin))
        while end < n and not letters[end].isspace() and letters[end] not in _HYPHENS:
            pdfium.FPDFText_GetCharOrigin(raw, end, x, y)
            pdfium.FPDFText_GetCharBox(raw, end, *sides)
            at = _turned(x.value - box[0], y.value - box[1], rotation, size)
            edges = [_turned(sides[k].value - box[0], sides[j].value - box[1], rotation, size)[0] for k, j in ((0, 2), (1, 3))]
            if before is None:
                left, base = at[0], at[1]
            elif abs(at[1] - before[1]) > points or min(edges) - before[0] > 0.9 * points or at[0] < left - 1:
                break  # the file sets no space here, but the eye sees one
            right = max(*edges, left)
            before = (right, at[1])
            end += 1
        grown = _size(raw, begin, points)
        words.append(
            Word(
                "".join(letters[begin:end]),
                left,
                right,
                base,
                grown,
                begin,
                end,
                end < n and letters[end] in _HYPHENS,
                end < n and letters[end] == " " and not pdfium.FPDFText_IsGenerated(raw, end),
                _is_bold(raw, begin, name),
            )
        )
        begin = end
    return "".join(letters), words


def _is_bold(raw: Any, index: int, name: Any) -> bool:
    """Whether a letter is of a bold face, by the name of its font."""
    flags = ctypes.c_int()
    if not 0 < pdfium.FPDFText_GetFontInfo(raw, index, name, len(name), flags) <= len(name):
        return False
    return b"bold" in name.value.lower() or b"black" in name.value.lower() or b"heavy" in name.value.lower()


def _size(raw: Any, index: int, points: float) -> float:
    """The size of a letter as it appears: a file may set size 1 and magnify."""
    matrix = pdfium.FS_MATRIX()
    if points <= 1.01 and pdfium.FPDFText_GetMatrix(raw, index, matrix):
        return max(1.0, points * hypot(matrix.b, matrix.d))
    return float(points)


def _turned(x: float, y: float, rotation: int, size: tuple[float, float]) -> tuple[float, float]:
    """A place as a person sees the page: from its left and top edge."""
    width, height = size
    match rotation:
        case 90:
            return y, x
        case 180:
            return width - x, y
        case 270:
            return width - y, height - x
        case _:
            return x, height - y


def _runs(words: list[Word], text: str) -> Iterator[Run]:
    spaces = sum(word.spaced for word in words) > 0.4 * len(words)
    line: list[Word] = []
    for word in words:
        if line and _goes_on(line[-1], word, text):
            line.append(word)
            continue
        if line:
            yield from _cut(line, spaces)
        line = [word]
    if line:
        yield from _cut(line, spaces)


def _goes_on(before: Word, word: Word, text: str) -> bool:
    if before.broken or "\n" in text[before.end : word.begin] or "\r" in text[before.end : word.begin]:
        # a table's cells often are lines of their own to the library: they are told apart by their gap, and joined in rows later
        return False
    return abs(before.base - word.base) < 0.6 * max(before.size, word.size) and word.left >= before.right - 0.3 * word.size


def _cut(line: list[Word], spaces: bool) -> Iterator[Run]:
    """A line of words where gaps are wide; spaces that were stretched to fill a line are none."""
    gaps = [b.left - a.right for a, b in pairwise(line)]
    size = max(1.0, median(word.size for word in line))
    stretched = len(gaps) >= 4 and max(gaps) < 1.8 * size and max(gaps) < 1.6 * max(0.01, median(gaps))
    begin = 0
    for k, gap in enumerate(gaps, 1):
        unspaced = spaces and not line[k - 1].spaced
        if gap > (_WIDE_UNSPACED if unspaced else _WIDE) * size and not (stretched and not unspaced):
            yield Run(tuple(line[begin:k]))
            begin = k
    yield Run(tuple(line[begin:]))


def _key(page: Page, run: Run) -> tuple[str, int]:
    """What a running head has alike on every page: its words without figures, and its height. No text in the body of the page."""
    edge = min(run.base, page.height - run.base)
    return (re.sub(r"\d+", "#", run.text.lower()), round(run.base / 6)) if edge < 0.11 * page.height else ("", -1)


def _running(found: list[tuple[Page, list[Run]]]) -> set[tuple[str, int]]:
    often = Counter(key for page, runs in found for key in {_key(page, run) for run in runs} if key[1] >= 0)
    least = max(2, len(found) // 3)
    return {key for key, times in often.items() if times >= least and len(found) > 1}


def rows_of(runs: Sequence[Run]) -> list[Row]:
    """Runs as rows from top to bottom."""
    out: list[list[Run]] = []
    for run in sorted(runs, key=lambda one: one.base):
        if out and run.base - out[-1][0].base <= 0.35 * min(run.size, out[-1][0].size) + 0.5:
            out[-1].append(run)
        else:
            out.append([run])
    return [tuple(sorted(row, key=lambda one: one.left)) for row in out]


def _parts(runs: list[Run], page: Page) -> list[list[Row]]:
    """Runs by columns: what goes across them parts what stands above from what stands below."""
    if not runs:
        return []
    gutter = _gutter(runs, page)
    if gutter is None:
        return [rows_of(runs)]
    across = _across(runs, gutter)
    out: list[list[Row]] = []
    band: list[Run] = []
    ordered = sorted(runs, key=lambda run: run.base)
    for is_across, group in groupby(ordered, key=lambda one: id(one) in across):
        some = list(group)
        if is_across:
            out += _sides(band, gutter, page)
            band = []
            out.append(rows_of(some))
        else:
            band += some
    return out + _sides(band, gutter, page)


def _sides(band: list[Run], gutter: float, page: Page) -> list[list[Row]]:
    sides = ([run for run in band if run.left < gutter], [run for run in band if run.left >= gutter])
    return [part for side in sides if side for part in _parts(side, page)]


def _gutter(runs: list[Run], page: Page) -> float | None:
    """The middle of a white stripe with columns of text on both sides, if there is one."""
    left, right = min(run.left for run in runs), max(run.right for run in runs)
    size = median(run.size for run in runs)
    if right - left < 24 * size:
        return None
    best: tuple[float, float] | None = None
    step = max(2.0, size / 3, (right - left) / 400)  # however far text stands beside the page
    at = left + 0.25 * (right - left)
    while at < right - 0.25 * (right - left):
        crossing = sum(run.right - run.left for run in runs if run.left < at < run.right)
        total = sum(run.right - run.left for run in runs)
        if crossing < 0.45 * total:
            before, after = ([run for run in runs if run.right <= at], [run for run in runs if run.left >= at])
            columns = [_is_column(side) for side in (before, after)]
            if all(columns) or (any(columns) and crossing < 0.1 * total and _is_apart(before, after)):
                edge = min((run.left for run in after), default=at)
                share = crossing / total
                if best is None or share < best[0] - 1e-9:
                    best = (share, (max((run.right for run in before), default=at) + edge) / 2)
        at += step
    return best[1] if best else None


def _is_apart(before: list[Run], after: list[Run]) -> bool:
    """Whether what stands beside a column of text is no part of its lines, as the last column of a page with a table and a few words in it: a table's cells share their lines."""
    few, many = sorted((before, after), key=len)
    bases = sorted({run.base for run in many})
    beside = sum(any(abs(base - run.base) < 1 for base in bases) for run in few)
    return len(few) >= 4 and len(many) >= 12 and beside < 0.5 * len(few)


def _is_column(runs: list[Run]) -> bool:
    """Whether runs look like a column of running text: most of its letters in lines that fill its width."""
    if len(runs) < 4:
        return False
    left, right = min(run.left for run in runs), max(run.right for run in runs)
    full = sum(len(run.words) for run in runs if run.right - run.left > 0.75 * (right - left) and len(run.words) >= 4)
    return full > 0.6 * sum(len(run.words) for run in runs)


def _across(runs: list[Run], gutter: float) -> set[int]:
    """The runs that go across columns: over the gutter, or in rows of a table that is as wide as the page."""
    out = {id(run) for run in runs if run.left < gutter < run.right}
    left, right = min(run.left for run in runs), max(run.right for run in runs)
    wide: list[Row] = []
    for row in [*rows_of([run for run in runs if id(run) not in out]), ()]:
        sides = ([one for one in row if one.right <= gutter], [one for one in row if one.left >= gutter])
        loose = [
            bool(side) and (len(side) > 1 or side[-1].right - side[0].left < 0.5 * width)
            for side, width in zip(sides, (gutter - left, right - gutter), strict=True)
        ]
        if len(row) >= 3 and all(loose) and max(one.size for one in row) < 1.3 * min(one.size for one in row):
            wide.append(row)
            continue
        if len(wide) >= 2:
            top, bottom = wide[0][0].base, wide[-1][0].base
            out |= {id(run) for run in runs if top - 0.5 <= run.base <= bottom + 0.5}
        wide = []
    return out
