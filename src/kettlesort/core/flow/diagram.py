"""The flow diagram as boxes, in two drawings: ours, with bands as wide as the records, and the standard's."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from typing import NamedTuple

from kettlesort.core.flow.figures import MAIN, Figures, Route, Source


class Line(NamedTuple):
    """A figure with its wording; ``list`` is the key of the list of records that it counts."""

    label: str
    n: int
    list: str


class Box(NamedTuple):
    """A box at ``x``, ``y`` of width ``w``; its height follows from its lines."""

    key: str
    x: int
    y: int
    w: int
    title: str
    lines: tuple[Line, ...]
    strong: bool = False


class Band(NamedTuple):
    """A connection between two boxes, ``n`` records wide; ``down`` stays in play, the others leave."""

    start: str
    end: str
    n: int
    down: bool


class Heading(NamedTuple):
    """A label along the left edge, from box ``first`` to box ``last``."""

    text: str
    first: str
    last: str


class Head(NamedTuple):
    """A heading over a column, from ``x`` on and ``w`` wide."""

    text: str
    x: int
    w: int


class Diagram(NamedTuple):
    """Boxes, their connections and headings; ``wide_bands`` are as wide as the records in them."""

    boxes: tuple[Box, ...]
    bands: tuple[Band, ...]
    headings: tuple[Heading, ...]
    wide_bands: bool
    heads: tuple[Head, ...] = ()


LINE, TITLE, PAD = 18, 28, 8


def wrapped(label: str, width: int) -> list[str]:
    """A label in lines that fit a box of ``width`` beside a figure."""
    return textwrap.wrap(label, int((width - 86) / 6.1)) or [""]


def height(box: Box) -> int:
    """The height of a box."""
    return TITLE + LINE * sum(len(wrapped(line.label, box.w)) for line in box.lines) + PAD


def present(lines: Sequence[Line]) -> tuple[Line, ...]:
    """The lines that count something; the first one when none does, so that a box is never mute."""
    return tuple(line for line in lines if line.n) or tuple(lines[:1])


def _source_lines(sources: Sequence[Source], summed: bool) -> list[Line]:
    if not summed:
        return [Line(source.name, source.copies, f"source:{source.name}") for source in sources if source.copies]
    kinds = {
        "database": "Databases",
        "register": "Registers",
        "website": "Websites",
        "organisation": "Organisations",
        "citation": "Citation searching",
    }
    return [Line(name, sum(source.copies for source in sources if source.kind == kind), f"kind:{kind}") for kind, name in kinds.items()]


def ours(figures: Figures, *, summed: bool = False) -> Diagram:
    """One column, what leaves to its right, bands as wide as the records in them."""
    t = figures.total
    left, right, wide = 96, 520, 300
    sources = [line for line in _source_lines(figures.sources, summed) if line.n]
    found = Box("found", left, 8, wide, "Records found", (*sources, Line("Sum", t.found, "found")), True)
    y = 8 + height(found) + 48
    boxes = [found]
    bands: list[Band] = []

    def step(key: str, title: str, lines: Sequence[Line], strong: bool = False) -> None:
        nonlocal y
        box = Box(key, left, y, wide, title, tuple(lines), strong)
        bands.append(Band(boxes_in_play[-1].key, key, t_in[key], True))
        boxes.append(box)
        boxes_in_play.append(box)
        y += height(box) + 30

    def leave(key: str, title: str, lines: Sequence[Line]) -> None:
        nonlocal y
        kept = present(lines)
        n = sum(line.n for line in kept)
        if not n:
            return
        origin = boxes_in_play[-1]
        box = Box(key, right, origin.y, wide, title, kept)
        if origin is found:
            box = box._replace(y=max(8, origin.y + height(origin) // 2 - height(box) // 2))
        boxes.append(box)
        bands.append(Band(origin.key, key, n, False))
        y = max(y, box.y + height(box) + 30)

    boxes_in_play = [found]
    t_in = {"screen": t.records, "sought": t.sought, "assessed": t.assessed, "included": t.included}
    by_rule = [Line(one.name, one.main + one.other, f"narrowed:{one.key}") for one in figures.narrowed if one.main + one.other]
    leave("removed", "Removed before screening", [Line("Copies", t.copies, "copies"), *by_rule])
    step("screen", "Records to screen", [Line("Decided", t.decided, "decided"), *([Line("Still open", t.open, "open")] if t.open else [])])
    leave("excluded", "Records excluded", [Line("By a person", t.excluded, "excluded")])
    waiting = [Line("Still waiting", t.waiting, "waiting")] if t.waiting else []
    step("sought", "Full texts sought", [Line("Reports", t.sought, "sought"), *waiting])
    leave("missing", "Not obtained", [Line("Reports", t.missing, "missing")])
    still = [Line("Still open", t.second_open, "second_open")] if t.second_open else []
    step("assessed", "Full texts assessed", [Line("Reports", t.assessed, "assessed"), *still])
    leave("reports_excluded", "Reports excluded", [Line(r.criterion, r.n, f"reason:{r.criterion}") for r in t.reasons])
    step(
        "included",
        "Included in the review",
        [Line("Studies", figures.studies, "studies"), Line("Reports of them", t.included, "included")],
        True,
    )
    headings = (
        Heading("Identification", "found", "found"),
        Heading("Screening", "screen", "assessed"),
        Heading("Included", "included", "included"),
    )
    return Diagram(tuple(boxes), tuple(bands), headings, True)


def standard(figures: Figures, *, summed: bool = False) -> Diagram:
    """The boxes and the wording of PRISMA 2020 (Page MJ et al. BMJ 2021;372:n71), new reviews.

    Other methods get the standard's second column when a source of that kind brought
    records. What the standard has no box for, copies and exclusions on title among those
    records, is said in one more box, so that the column adds up.
    """
    boxes: list[Box] = []
    bands: list[Band] = []
    two = bool(figures.other.found)
    main_sources = [source for source in figures.sources if source.kind in MAIN]
    identified = _identified(main_sources, figures.main, summed)
    first = Box("found", 72, 40, 250, "Records identified from:", identified, True)
    top = max(40 + height(first), 40 + TITLE + LINE + PAD) + 40
    m, o = figures.main, figures.other
    boxes.append(first)
    _side(
        boxes,
        bands,
        "found",
        "removed",
        360,
        40,
        "Records removed before screening:",
        [
            Line("Duplicate records removed", m.copies, "copies:main"),
            *_aside(figures, "main"),
        ],
    )
    top = max(top, boxes[-1].y + height(boxes[-1]) + 20)
    y = top
    screened = [Line("", m.decided, "decided:main"), *([Line("Not yet screened", m.open, "open:main")] if m.open else [])]
    y = _down(boxes, bands, "found", Box("screen", 72, y, 250, "Records screened", tuple(screened)), m.records)
    _side(boxes, bands, "screen", "excluded", 360, boxes_y(boxes, "screen"), "Records excluded", [Line("", m.excluded, "excluded:main")])
    y_sought = y
    y = _chain(boxes, bands, m, "", 72, 360, y_sought, "screen", ":main")
    if two:
        y_other = _other_column(boxes, bands, figures, summed, y_sought)
        y = max(y, y_other)
    included = Box(
        "included", 72, y, 250, "Studies included in review",
        (Line("Studies", figures.studies, "studies"), Line("Reports of included studies", figures.total.included, "included")), True,
    )  # fmt: skip
    bands.append(Band("assessed", "included", m.included, True))
    if two:
        bands.append(Band("assessed2", "included", o.included, True))
    boxes.append(included)
    headings = (
        Heading("Identification", "found", "found"),
        Heading("Screening", "screen", "assessed"),
        Heading("Included", "included", "included"),
    )
    heads = [Head("Identification of studies via databases and registers", 72, 538)]
    heads += [Head("Identification of studies via other methods", 660, 538)] if two else []
    return Diagram(tuple(boxes), tuple(bands), headings, False, tuple(heads))


def _aside(figures: Figures, route: str) -> list[Line]:
    """What was set aside before screening, in the standard's words."""

    def n(by_hand: bool) -> int:
        return sum(one.main if route == "main" else one.other for one in figures.narrowed if one.by_hand is by_hand)

    return [
        Line("Records marked as ineligible by automation tools", n(False), f"automated:{route}"),
        Line("Records removed for other reasons", n(True), f"removed:{route}"),
    ]


def boxes_y(boxes: Sequence[Box], key: str) -> int:
    """The upper edge of the box ``key``."""
    return next(box.y for box in boxes if box.key == key)


def _identified(sources: Sequence[Source], route: Route, summed: bool) -> tuple[Line, ...]:
    lines = [line for line in _source_lines(sources, summed) if line.n]
    return tuple(lines) or (Line("Records", route.found, "found"),)


def _down(boxes: list[Box], bands: list[Band], above: str, box: Box, n: int) -> int:
    bands.append(Band(above, box.key, n, True))
    boxes.append(box)
    return box.y + height(box) + 30


def _side(boxes: list[Box], bands: list[Band], origin: str, key: str, x: int, y: int, title: str, lines: Sequence[Line]) -> None:
    kept = present(lines)
    if sum(line.n for line in kept):
        boxes.append(Box(key, x, y, 250, title, kept))
        bands.append(Band(origin, key, sum(line.n for line in kept), False))


def _chain(boxes: list[Box], bands: list[Band], route: Route, tag: str, x: int, side: int, y: int, above: str, suffix: str) -> int:
    """Sought, not retrieved, assessed, excluded: the same in both columns. Returns where the next box goes."""
    lines = [Line("", route.sought, "sought" + suffix)]
    lines += [Line("Not yet retrieved", route.waiting, "waiting" + suffix)] if route.waiting else []
    y = _down(boxes, bands, above, Box("sought" + tag, x, y, 250, "Reports sought for retrieval", tuple(lines)), route.sought)
    at = boxes_y(boxes, "sought" + tag)
    _side(boxes, bands, "sought" + tag, "missing" + tag, side, at, "Reports not retrieved", [Line("", route.missing, "missing" + suffix)])
    lines = [Line("", route.assessed, "assessed" + suffix)]
    lines += [Line("Not yet assessed", route.second_open, "second_open" + suffix)] if route.second_open else []
    y = _down(
        boxes, bands, "sought" + tag, Box("assessed" + tag, x, y, 250, "Reports assessed for eligibility", tuple(lines)), route.assessed
    )
    at = boxes_y(boxes, "assessed" + tag)
    reasons = [Line(reason.criterion, reason.n, f"reason:{reason.criterion}" + suffix) for reason in route.reasons]
    if reasons:
        _side(boxes, bands, "assessed" + tag, "reports_excluded" + tag, side, at, "Reports excluded:", reasons)
        y = max(y, boxes[-1].y + height(boxes[-1]) + 30)
    return y


def _other_column(boxes: list[Box], bands: list[Band], figures: Figures, summed: bool, y_sought: int) -> int:
    o = figures.other
    sources = [source for source in figures.sources if source.kind not in MAIN]
    found = Box("found2", 660, 40, 250, "Records identified from:", _identified(sources, o, summed), True)
    boxes.append(found)
    lines = [
        Line("Duplicate records removed", o.copies, "copies:other"),
        *_aside(figures, "other"),
        Line("Records excluded", o.excluded, "excluded:other"),
        Line("Not yet screened", o.open, "open:other"),
    ]
    _side(boxes, bands, "found2", "removed2", 948, 40, "Records removed before retrieval:", lines)
    lowest = max(box.y + height(box) for box in boxes if box.key in ("found2", "removed2"))
    return _chain(boxes, bands, o, "2", 660, 948, max(y_sought, lowest + 30), "found2", ":other")
