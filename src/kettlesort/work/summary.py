"""The summary table: one row for each outcome that the team wants to tell, with what it means for a thousand and how sure it is."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from typing import Any, NamedTuple

from kettlesort.core.documents import Block, Grid, Heading, Items, Paragraph
from kettlesort.core.pooling.models import Pooled
from kettlesort.core.pooling.summary import DOUBTS, Absolute, absolute, led_to, usual_baseline
from kettlesort.core.pooling.words import NAMES, scaled
from kettlesort.store import pooling as store
from kettlesort.store.base import snapshot
from kettlesort.store.pooling import SummaryVersion
from kettlesort.work.change import changing
from kettlesort.work.errors import Conflict, Invalid
from kettlesort.work.pool_studies import table_of, worked_out
from kettlesort.work.pool_wording import Wording, checked
from kettlesort.work.pooling import kept_in

WORDS = ("sure", "rather sure", "unsure", "very unsure")
"""Words of certainty that a new table begins with, the surest first."""
MOST = 60


class Doubt(NamedTuple):
    """How much doubt a domain leaves about a row, and why."""

    domain: str
    doubt: str = "none"
    why: str = ""


class RowWording(NamedTuple):
    """A row: the analysis that it tells, of how many in 1,000 it counts the absolute effect (None: the usual), the doubts, the certainty that was chosen, and a note."""

    analysis: int
    baseline: float | None = None
    doubts: tuple[Doubt, ...] = ()
    certainty: str = ""
    note: str = ""


class SummaryWording(NamedTuple):
    """A summary table: the team's words of certainty, the surest first, its domains of doubt, and the rows."""

    words: tuple[str, ...] = WORDS
    domains: tuple[str, ...] = ()
    rows: tuple[RowWording, ...] = ()


class SummaryRow(NamedTuple):
    """A row with its figures: how many studies and people, what is pooled, what that means for a thousand at its baseline, the usual ``baseline``, the certainty that the
    doubts lead to; or why there are none."""

    said: RowWording
    name: str
    wording: Wording | None
    k: int
    people: float
    pooled: Pooled | None
    absolute: Absolute | None
    usual: float | None
    led_to: str
    problem: str


class Summary(NamedTuple):
    """The table as it stands: its version (0 before there is one), who made it, its rows, and the analyses that have none."""

    version: int
    by: str
    said: SummaryWording
    rows: list[SummaryRow]
    others: list[tuple[int, str]]


def wording_of(content: Mapping[str, Any]) -> SummaryWording:
    """A table from data."""
    rows = tuple(
        RowWording(**{**row, "doubts": tuple(Doubt(**doubt) for doubt in row.get("doubts") or ())}) for row in content.get("rows") or ()
    )
    return SummaryWording(tuple(content.get("words") or WORDS), tuple(content.get("domains") or ()), rows)


def as_data(said: SummaryWording) -> dict[str, Any]:
    """A table as data."""
    rows = [{**row._asdict(), "doubts": [doubt._asdict() for doubt in row.doubts]} for row in said.rows]
    return {"words": list(said.words), "domains": list(said.domains), "rows": rows}


def summary(review: int) -> Summary:
    """The summary table with its figures as they are now."""
    with snapshot() as db:
        held = store.summary(db, review)
        said = wording_of(held["content"]) if held else SummaryWording()
        kept = {one.id: one for one in kept_in(db, review)}
        table = table_of(db, review, [one.said for one in kept.values()])
    rows: list[SummaryRow] = []
    for row in said.rows:
        one = kept.get(row.analysis)
        led = led_to(said.words, [doubt.doubt for doubt in row.doubts])
        blank = SummaryRow(row, one.said.name if one else "", one.said if one else None, 0, 0.0, None, None, None, led, "")
        if one is None:
            rows.append(blank._replace(problem="This analysis was removed."))
            continue
        if one.said.kind == "network":
            rows.append(blank._replace(problem="This analysis compares several treatments; a row tells of two sides."))
            continue
        try:
            checked(table.evidence, one.said)
        except Invalid as error:
            rows.append(blank._replace(problem=error.message))
            continue
        result, used = worked_out(table, one.said)
        if result.pooled is None:
            rows.append(blank._replace(problem="No study can be pooled."))
            continue
        usual = usual_baseline(used)
        baseline = row.baseline or usual
        told = absolute(one.said.measure, result.pooled.pooled, baseline) if baseline else None
        rows.append(
            blank._replace(
                k=result.pooled.k, people=math.fsum(study.key.people for study in used), pooled=result.pooled, absolute=told, usual=usual
            )
        )
    there = {row.analysis for row in said.rows}
    others = [(one.id, one.said.name) for one in kept.values() if one.id not in there and one.said.kind == "pair"]
    return Summary(held["id"] if held else 0, held["by"] if held else "", said, rows, others)


def keep(review: int, account: int, said: SummaryWording, seen: int) -> int:
    """Keep another version of the table, made from the version ``seen``; its number."""
    with changing(review, account, "pool") as change:
        held = store.summary(change.db, review)
        now = wording_of(held["content"]) if held else SummaryWording()
        said = _checked(said, {one.id for one in kept_in(change.db, review)} | {row.analysis for row in now.rows})
        if held and held["id"] != seen:
            raise Conflict(f"{held['by']} changed the summary table meanwhile. Look at what it is now.")
        if said == now:
            return held["id"] if held else 0
        made = SummaryVersion(review_id=review, content=as_data(said), account_id=change.account)
        change.db.add(made)
        change.event("pool.summed_up", f"{len(said.rows)} outcomes", _in_short(now), _in_short(said))
        change.db.flush()
        return made.id or 0


def _in_short(said: SummaryWording) -> dict[str, Any]:
    return {
        "words": "; ".join(said.words),
        "domains": "; ".join(said.domains),
        "certainty": "; ".join(row.certainty or "—" for row in said.rows),
    }


def _checked(said: SummaryWording, known: Collection[int]) -> SummaryWording:
    """A table that can be, of analyses that are ``known``. Raises Invalid."""
    words, domains = (
        tuple(dict.fromkeys(" ".join(word.split())[:120] for word in some if word.strip())) for some in (said.words, said.domains)
    )
    if len(words) < 2:
        raise Invalid("At least two words say how sure something is, the surest first.", field="words")
    if len(words) > MOST or len(domains) > MOST or len(said.rows) > MOST:
        raise Invalid(f"At most {MOST} words, domains and rows.")
    seen: set[int] = set()
    for row in said.rows:
        if row.analysis not in known:
            raise Invalid("There is no such analysis in this review.", field="rows")
        if row.analysis in seen:
            raise Invalid("An analysis stands in one row.", field="rows")
        seen.add(row.analysis)
        if row.baseline is not None and not 0 < row.baseline < 1000:
            raise Invalid("A baseline risk is above 0 and below 1,000 of 1,000.", field="baseline")
        if row.certainty and row.certainty not in words:
            raise Invalid(f"“{row.certainty}” is none of the words of certainty.", field="certainty")
        if any(doubt.doubt not in DOUBTS for doubt in row.doubts):
            raise Invalid("A domain leaves no doubt, some, or a serious one.", field="doubts")
        bare = next(
            (doubt.domain for doubt in row.doubts if doubt.domain in domains and doubt.doubt != "none" and not doubt.why.strip()), None
        )
        if bare:
            raise Invalid(f"Say why {bare} leaves doubt.", field="doubts")
    rows = tuple(
        row._replace(
            doubts=tuple(doubt._replace(why=doubt.why.strip()[:2000]) for doubt in row.doubts if doubt.domain in domains),
            note=row.note.strip()[:2000],
        )
        for row in said.rows
    )
    return SummaryWording(words, domains, rows)


HEAD = ("Outcome", "Studies", "Took part", "Effect", "Of 1,000 without", "Of 1,000 with", "Difference", "Certainty", "Why")


def table_rows(review: int) -> list[list[str]]:
    """The summary table as rows of text, the head first."""
    return [list(HEAD), *(in_text(row) for row in summary(review).rows)]


def in_text(row: SummaryRow) -> list[str]:
    """A row as text."""
    if row.pooled is None or row.wording is None:
        return [row.name or "An analysis that is gone", "0", "", row.problem, "", "", "", row.said.certainty, ""]
    how, pooled = row.wording.how, row.pooled.pooled
    low, high = pooled.ci or (pooled.estimate, pooled.estimate)
    effect = f"{NAMES[how.measure]} {scaled(pooled.estimate, how)} ({scaled(low, how)} to {scaled(high, how)})"
    told = row.absolute
    absolute_text = ["", "", ""]
    if told:
        more, least, most = (f"{value:+.0f}".replace("-", "−") for value in (told.more, told.low, told.high))
        absolute_text = [f"{told.baseline:.0f}", f"{told.risk:.0f}", f"{more} ({least} to {most})"]
    why = "; ".join(f"{doubt.domain}: {doubt.doubt} doubt, {doubt.why}" for doubt in row.said.doubts if doubt.doubt != "none")
    people = f"{row.people:.0f}" if row.people else ""
    return [
        row.name,
        str(row.k),
        people,
        effect,
        *absolute_text,
        row.said.certainty,
        "; ".join(part for part in (why, row.said.note) if part),
    ]


def blocks(review: int) -> list[Block]:
    """The summary table as a document."""
    found = summary(review)
    rows = [in_text(row) for row in found.rows]
    notes = [f"{row.name}: {text[-1]}." for row, text in zip(found.rows, rows, strict=True) if text[-1]]
    out: list[Block] = [Heading("Summary of what was found", 1), Grid(HEAD[:-1], [row[:-1] for row in rows])]
    if notes:
        out += [Heading("Why"), Items(notes, numbered=True)]
    out.append(
        Paragraph(
            f"Certainty, the surest first: {', '.join(found.said.words)}. The difference of 1,000 is the pooled effect at the baseline risk that is named, which counts as known "
            "(Newcombe RG, Bender R. Evid Based Med 2014;19:6-8); its interval is that of the effect."
        )
    )
    return out
