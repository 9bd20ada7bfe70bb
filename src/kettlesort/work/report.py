"""Figures, flow diagram, history, and who is here."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal, NamedTuple

from sqlmodel import Session

from kettlesort.core.flow.diagram import Diagram, ours, standard
from kettlesort.core.flow.figures import MAIN, Cell, Counted, Figures, Narrowed, Source, figures
from kettlesort.store import chart, narrow, plan, pooling, questions
from kettlesort.store import report as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.standing import outcomes


class LiveFigures(NamedTuple):
    """All live figures of a review, from one snapshot."""

    figures: Figures
    included_copies: int
    charted: int
    analyses: int


def flow_figures(db: Session, review: int, *, from_rows: bool = False) -> Figures:
    """The figures of the flow within a snapshot; ``from_rows`` holds them against verdicts and full texts themselves, which takes longer."""
    counted = store.source_counts(db, review)
    cells = store.cells(db, review)
    sources: dict[tuple[str, str], int] = {}
    for row in counted:
        key = (row["source"], row["kind"])
        sources[key] = sources.get(key, 0) + int(row["copies"])
    surplus = sum(int(one["surplus"]) for one in counted)
    other_copies = sum(int(one["copies"]) for one in counted if one["kind"] not in MAIN)
    other_records = sum(cell["n"] for cell in cells if not cell["main"])
    copies_other = other_copies - other_records
    return figures(
        [Source(name, kind, n) for (name, kind), n in sources.items()],  # type: ignore[arg-type]
        [Cell(cell["main"], cell["first"], cell["fulltext"], cell["second"], cell["criterion"], cell["n"]) for cell in cells],
        copies_main=surplus - copies_other,
        copies_other=copies_other,
        kept=sum(int(one["copies"]) for one in counted) - surplus,
        studies=store.included_studies(db, review),
        seeds=sum(cell["n"] for cell in cells if cell["seed"]),
        questions=questions.count_open_questions(db, review),
        criteria=list(dict.fromkeys(plan.names_of_criteria(db, review))),
        narrowed=_narrowed(db, review),
        counted=_counted(db, review) if from_rows else None,
    )


def _counted(db: Session, review: int) -> Counted:
    """The figures from verdicts, full texts and narrowings themselves: no standing is looked at."""
    aside, obtained = store.held_aside(db, review), store.obtained(db, review)
    said = {record: outcome for record, outcome in outcomes(db, review).items() if record not in aside}
    sought = {record for record, one in said.items() if one.first.state == "include"}
    return Counted(
        decided=sum(one.first.state in ("include", "exclude") for one in said.values()),
        sought=len(sought),
        assessed=len(sought & obtained),
        included=sum(said[record].second.state == "include" for record in sought & obtained),
    )


def _narrowed(db: Session, review: int) -> list[Narrowed]:
    by_key: dict[int, Narrowed] = {}
    for row in narrow.set_aside_by(db, review):
        held = by_key.get(row["id"], Narrowed(row["name"], row["id"], 0, 0, row["by_hand"]))
        by_key[row["id"]] = held._replace(main=row["n"]) if row["main"] else held._replace(other=row["n"])
    return list(by_key.values())


def standing(review: int, *, from_rows: bool = False) -> LiveFigures:
    """What the ribbon and the flow diagram show."""
    with snapshot() as db:
        figures = flow_figures(db, review, from_rows=from_rows)
        return LiveFigures(figures, figures.total.found, chart.charted_studies(db, review), len(pooling.analyses(db, review)))


def diagram(review: int, drawing: Literal["ours", "standard"], summed: bool) -> tuple[Figures, Diagram]:
    """The figures with one of the two drawings of them."""
    with snapshot() as db:
        figures = flow_figures(db, review, from_rows=True)
    return figures, (ours if drawing == "ours" else standard)(figures, summed=summed)


def history(review: int, before: int | None, limit: int, kind: str = "", account: int | None = None) -> tuple[int, Sequence[Row]]:
    """The history, newest first, and how many events there are."""
    with snapshot() as db:
        return store.count_events(db, review), store.events(db, review, before, min(limit, 1000), kind, account)


def all_history(review: int) -> Iterator[Row]:
    """Every event, newest first, a thousand at a time."""
    before: int | None = None
    while True:
        _, page = history(review, before, 1000)
        yield from page
        if len(page) < 1000:
            return
        before = page[-1]["id"]


def be_seen(review: int, account: int) -> None:
    """Note that an account has a page of the review open."""
    with session() as db:
        plan.be_seen(db, review, account)


def who_is_here(review: int) -> Sequence[Row]:
    """Members, and whether each has a page of the review open."""
    with snapshot() as db:
        return plan.team(db, review)
