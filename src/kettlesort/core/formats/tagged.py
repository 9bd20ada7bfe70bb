"""Tagged text: one tag a line, values that may run over several lines."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import NamedTuple

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.making import record_from
from kettlesort.core.formats.recipe import MANY, RULE, Labelled, Recipe, begins_record, labelled, unquoted
from kettlesort.core.formats.scanner import Scanner
from kettlesort.core.formats.source import Problem, TextSource, heading
from kettlesort.core.record import Record

Make = Callable[[list[str], list[list[str]], list[tuple[str, str]], int, list[Problem]], Record]
"""Builds a record from single values, lists of values, the unknown tags, its line, and where to tell problems."""

RANKS = 8
"""Tags of one field, at most."""


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
            yield from scanner.feed(bytes(memoryview(held)[:cut]))
            del held[:cut]
    yield from scanner.feed(bytes(held) + b"\n")


def speaks(tags: Sequence[str], recipe: Recipe) -> bool:
    """Whether tags are those of a format: a title's among at least three that are known, and most of them known."""
    said = set(tags)
    known = said & recipe.fields.keys()
    return len(known) >= 3 and len(known) >= 0.5 * len(said) and any(recipe.fields[tag] == "title" for tag in known)


def layout(recipe: Recipe, single: Sequence[str], several: Sequence[str], pair: tuple[str, str] | tuple[()] = ()) -> Layout:
    """The layout of a recipe of the shape "dash", with its fields in the order in which a record is made of them."""
    return Layout(
        recipe.start, recipe.end, tuple(recipe.tags_of(field)[:RANKS] for field in single),
        tuple(recipe.tags_of(field) for field in several), pair=pair,
    )  # fmt: skip


def read_recipe(source: TextSource, recipe: Recipe, problems: list[Problem]) -> Iterator[Entry]:
    """The records of a file as a recipe reads them; what stands before the first is told."""
    for position, begun in enumerate(records_of(recipe, _lines(source), problems), 1):
        yield entry_of(recipe, position, begun, problems)


def _lines(source: TextSource) -> Iterator[tuple[int, str]]:
    number, tail = 0, ""
    for piece in source:
        lines = (tail + piece).split("\n")
        tail = lines.pop()
        for line in lines:
            number += 1
            yield number, line
    if tail:
        yield number + 1, tail


Begun = tuple[list[Labelled], list[str]]
"""The lines of a record, with their labels, and as they stand."""


def records_of(recipe: Recipe, lines: Iterable[tuple[int, str]], problems: list[Problem]) -> Iterator[Begun]:
    """The lines of each record."""
    numbered = list[str]()

    def remembered() -> Iterator[tuple[int, str]]:
        for number, text in lines:
            numbered.append(text)
            yield number, text

    held: list[Labelled] = []
    raw: list[str] = []
    numbers = begins_record(recipe)
    many_start = recipe.fields.get(recipe.start, "") in MANY  # several authors in a row begin one record
    started = gap = False
    told = False
    for number, tag, value in labelled(recipe, remembered()):
        text = numbered.pop()
        blank = not text.strip()
        again = many_start and all(label in ("", recipe.start) for _, label, _ in held)
        starts = (
            tag == recipe.start and tag != "" and not (again and held)
            if recipe.begin == "tag"
            else bool(numbers.match(text)) and not blank
            if recipe.begin == "number"
            else bool(RULE.match(text))
            if recipe.begin == "rule"
            else bool(tag) and (gap or not started)
        )
        gap = blank or (gap and not tag)
        if starts or (recipe.begin == "rule" and not started and tag):
            if any(label for _, label, _ in held):
                yield held, raw
            held, raw, started = [], [], True
        if not started:
            if not blank and not told:
                told = True
                problems.append(heading(number, text))
            continue
        if not blank or raw:
            raw.append(text)
            if starts and recipe.begin in ("number", "rule"):
                held.append((number, "", ""))
            else:
                held.append((number, tag, value))
        if tag and tag == recipe.end:
            yield held, raw
            held, raw, started, gap = [], [], recipe.begin != "tag", True
    if any(label for _, label, _ in held):
        yield held, raw


def entry_of(recipe: Recipe, position: int, begun: Begun, problems: list[Problem]) -> Entry:
    """A record from its lines."""
    held, raw = begun
    values: list[tuple[str, list[str]]] = []
    for _, tag, value in held:
        if tag == recipe.end and tag:
            continue
        if tag:
            values.append((tag, [value] if value else []))
        elif values and value.strip():
            values[-1][1].append(value.strip())
    first, last = held[0][0], held[-1][0]
    found: dict[str, list[str]] = {}
    extra: list[tuple[str, str]] = []
    ranks = {tag: rank for rank, tag in enumerate(recipe.fields)}
    many = set(MANY)
    for tag, said in sorted(values, key=lambda pair: ranks.get(pair[0], 0)):
        field = recipe.fields.get(tag, "")
        whole = unquoted(" ".join(said))
        if not whole:
            continue
        if not field:
            extra.append((tag, whole))
        elif field in recipe.lines or (field in many and field in ("authors", "short_authors") and len(said) > 1 and _each_a_name(said)):
            found.setdefault(field, []).extend(said)
        elif field in many or field not in found:
            found.setdefault(field, []).append(whole)
        elif whole != found[field][0]:
            extra.append((tag, whole))
    text = "\n".join(raw).rstrip()
    if recipe.end and not any(tag == recipe.end for _, tag, _ in held):
        problems.append(Problem(first, f"the end of the record ({recipe.end}) is missing; the file may have been cut off here"))
    record = record_from(found, extra, first, problems, split=recipe.split)
    return Entry(position, first, min(last, first + text.count("\n")), text, record)


def _each_a_name(lines: Sequence[str]) -> bool:
    """Whether each line is a name of its own, as "Orsel, T" is."""
    return all("," in line and len(line) < 60 and not line.endswith((",", ";")) and line.count(",") <= 2 for line in lines)
