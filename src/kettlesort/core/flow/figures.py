"""The figures of the flow, from counted rows, and the sums that must come out."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Literal, NamedTuple

SourceKind = Literal["database", "register", "website", "organisation", "citation"]
MAIN: tuple[SourceKind, ...] = ("database", "register")
"""PRISMA 2020 draws databases and registers in one column, all other methods in another."""


OPEN = ("open", "unsure", "differs")
"""States in which a pass has not settled a record."""


class Source(NamedTuple):
    """How many copies a source brought, over all its searches."""

    name: str
    kind: SourceKind
    copies: int


class Cell(NamedTuple):
    """So many records (``n``) stand alike: their route, and their state in each step.

    ``main`` is true for a record that a database or register brought. ``first`` and
    ``second`` are open, unsure, differs, include or exclude, ``first`` also aside: set aside before screening; ``fulltext`` is sought, obtained or
    missing; ``criterion`` names the reason of an exclusion in the second pass.
    """

    main: bool
    first: str
    fulltext: str
    second: str
    criterion: str
    n: int


class Reason(NamedTuple):
    """A reason for excluding full texts, and how many it excluded."""

    criterion: str
    n: int


class Narrowed(NamedTuple):
    """How many records a narrowing set aside before screening, under the name that the team gave it; ``key`` tells it apart.

    One ``by_hand`` holds what a person picked: to the standard that is no automation but another reason.
    """

    name: str
    key: int
    main: int
    other: int
    by_hand: bool = False


class Route(NamedTuple):
    """The figures of one column of the diagram. All count records but ``found`` and ``copies``, which count copies.

    ``aside`` are records set aside by automation; ``records`` those that are left to screen.
    """

    found: int
    copies: int
    aside: int
    records: int
    open: int
    unsure: int
    differs: int
    excluded: int
    sought: int
    waiting: int
    missing: int
    assessed: int
    second_open: int
    reasons: tuple[Reason, ...]
    included: int

    @property
    def decided(self) -> int:
        """Records with a verdict of the first pass that settles them."""
        return self.excluded + self.sought

    @property
    def reports_excluded(self) -> int:
        """Full texts excluded, for whatever reason."""
        return sum(reason.n for reason in self.reasons)


class Counted(NamedTuple):
    """The same figures as counted from verdicts and full texts themselves, to check those of a `Route`."""

    decided: int
    sought: int
    assessed: int
    included: int


class Check(NamedTuple):
    """One sum: what it is called, how it is made up, what it gives, and what was counted."""

    name: str
    sum: str
    expected: int
    counted: int

    @property
    def holds(self) -> bool:
        """Whether the sum gives what was counted."""
        return self.expected == self.counted


class Figures(NamedTuple):
    """All figures of a review at one moment."""

    sources: tuple[Source, ...]
    narrowed: tuple[Narrowed, ...]
    main: Route
    other: Route
    total: Route
    studies: int
    seeds: int
    questions: int
    checks: tuple[Check, ...]

    @property
    def adds_up(self) -> bool:
        """Whether every sum holds."""
        return all(check.holds for check in self.checks)


def route(cells: Sequence[Cell], found: int, copies: int, criteria: Sequence[str] = ()) -> Route:
    """The figures of one route, or of both together: ``found`` copies, of which so many ``copies`` are surplus."""

    def count(**wanted: str) -> int:
        return sum(cell.n for cell in cells if all(getattr(cell, name) == value for name, value in wanted.items()))

    by_reason = dict.fromkeys(criteria, 0)
    for cell in cells:
        if (cell.first, cell.fulltext, cell.second) == ("include", "obtained", "exclude"):
            by_reason[cell.criterion] = by_reason.get(cell.criterion, 0) + cell.n
    got = {"first": "include", "fulltext": "obtained"}
    return Route(
        found=found,
        copies=copies,
        aside=count(first="aside"),
        records=count() - count(first="aside"),
        open=sum(count(first=state) for state in OPEN),
        unsure=count(first="unsure"),
        differs=count(first="differs"),
        excluded=count(first="exclude"),
        sought=count(first="include"),
        waiting=count(first="include", fulltext="sought"),
        missing=count(first="include", fulltext="missing"),
        assessed=count(**got),
        second_open=sum(count(**got, second=state) for state in OPEN),
        reasons=tuple(Reason(name, n) for name, n in by_reason.items() if n),
        included=count(**got, second="include"),
    )


def _plus(a: Route, b: Route, criteria: Sequence[str]) -> Route:
    by_reason = dict.fromkeys(criteria, 0)
    for reason in a.reasons + b.reasons:
        by_reason[reason.criterion] = by_reason.get(reason.criterion, 0) + reason.n
    sums = {name: getattr(a, name) + getattr(b, name) for name in Route._fields if name != "reasons"}
    return Route(**sums, reasons=tuple(Reason(name, n) for name, n in by_reason.items() if n))


def figures(
    sources: Iterable[Source],
    cells: Iterable[Cell],
    *,
    copies_main: int,
    copies_other: int,
    kept: int,
    studies: int,
    seeds: int,
    questions: int,
    criteria: Sequence[str] = (),
    narrowed: Iterable[Narrowed] = (),
    counted: Counted | None = None,
) -> Figures:
    """The figures of a flow, with their sums checked.

    Parameters
    ----------
    sources : copies brought, by source
    cells : records by where they stand
    copies_main, copies_other : copies that are not the kept one, counted on their own
    kept : records, counted on their own
    studies, seeds, questions : included studies, seeds, pairs waiting for a person
    criteria : names in the order of the protocol, in which reasons are listed
    narrowed : records set aside before screening, by narrowing
    counted : what verdicts and full texts themselves give; without it, the sums are held against the cells alone
    """
    sources = tuple(sources)
    cells, narrowed = tuple(cells), tuple(narrowed)
    found_main = sum(source.copies for source in sources if source.kind in MAIN)
    found_other = sum(source.copies for source in sources if source.kind not in MAIN)
    main = route([cell for cell in cells if cell.main], found_main, copies_main, criteria)
    other = route([cell for cell in cells if not cell.main], found_other, copies_other, criteria)
    total = _plus(main, other, criteria)
    checks = _checks(sources, narrowed, main, other, total, kept, studies, counted)
    return Figures(sources, narrowed, main, other, total, studies, seeds, questions, checks)


def _checks(
    sources: tuple[Source, ...], narrowed: tuple[Narrowed, ...], main: Route, other: Route, total: Route, kept: int, studies: int, counted: Counted | None
) -> tuple[Check, ...]:  # fmt: skip
    t = total
    c = counted or Counted(t.decided, t.sought, t.assessed, t.included)
    listed = " + ".join(f"{source.copies:,}" for source in sources) or "0"
    checks = [
        Check("Found", listed, sum(source.copies for source in sources), kept + t.copies),
        Check("To screen", f"{t.found:,} − {t.copies:,}{_less(t.aside)}", t.found - t.copies - t.aside, t.records),
        Check("Decided", f"{t.records:,} − {t.open:,}", t.records - t.open, c.decided),
        Check("Sought", f"{t.decided:,} − {t.excluded:,}", t.decided - t.excluded, c.sought),
        Check(
            "Assessed",
            f"{t.sought:,} − {t.missing:,}" + (f" − {t.waiting:,} waiting" if t.waiting else ""),
            t.sought - t.missing - t.waiting,
            c.assessed,
        ),
        Check(
            "Included",
            f"{t.assessed:,} − {t.reports_excluded:,}" + (f" − {t.second_open:,} open" if t.second_open else ""),
            t.assessed - t.reports_excluded - t.second_open,
            c.included,
        ),
        Check("Studies", f"{t.included:,} reports of", min(studies, t.included), studies),
    ]
    if narrowed or t.aside:
        each = " + ".join(f"{one.main + one.other:,}" for one in narrowed) or "0"
        checks.append(Check("Set aside", each, sum(one.main + one.other for one in narrowed), t.aside))
    if other.found or other.records:
        for name, route in (("Other methods", other), ("Databases, registers", main)):
            checks.append(
                Check(
                    name, f"{route.found:,} − {route.copies:,}{_less(route.aside)}", route.found - route.copies - route.aside, route.records
                )
            )
    return tuple(checks)


def _less(aside: int) -> str:
    return f" − {aside:,}" if aside else ""
