"""Analyses: kept in versions, worked out from the evidence table as it stands."""

from __future__ import annotations

from collections.abc import Collection
from datetime import UTC, datetime
from typing import NamedTuple

from sqlmodel import Session

from kettlesort.core.pooling.analysis import Study
from kettlesort.core.pooling.models import Pooled
from kettlesort.store import pooling as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.pooling import Analysis, AnalysisVersion
from kettlesort.work.change import Change, changing
from kettlesort.work.chart import evidence_in
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.pool_network import NetworkResult, compared
from kettlesort.work.pool_studies import Result, Table, table_of, worked_out
from kettlesort.work.pool_wording import Wording, as_data, changed, checked, wording_of


class Kept(NamedTuple):
    """An analysis as it is kept: its number, the number of its version, who made that and when."""

    id: int
    version: int
    said: Wording
    by: str
    at: datetime


def _kept(row: Row) -> Kept:
    return Kept(row["id"], row["version"], wording_of(row["content"]), row["by"], row["at"])


def kept_in(db: Session, review: int) -> list[Kept]:
    """Every analysis of a review, in their order."""
    return [_kept(row) for row in store.analyses(db, review)]


class Listed(NamedTuple):
    """An analysis with what it comes to now, all together or as a network, or why it cannot be worked out any more."""

    kept: Kept
    pooled: Pooled | None
    network: NetworkResult | None
    problem: str


def analyses(review: int) -> list[Listed]:
    """Every analysis with what it comes to now."""
    with snapshot() as db:
        kept = kept_in(db, review)
        table = table_of(db, review, [one.said for one in kept])
    out: list[Listed] = []
    for one in kept:
        try:
            checked(table.evidence, one.said)
        except Invalid as error:
            out.append(Listed(one, None, None, error.message))
            continue
        now = _shown(table, one.said)
        out.append(Listed(one, now.result.pooled if now.result else None, now.network, ""))
    return out


def _find(db: Session, review: int, number: int) -> Kept:
    found = next((one for one in kept_in(db, review) if one.id == number), None)
    if found is None:
        raise NotFound("There is no such analysis in this review.")
    return found


class Opened(NamedTuple):
    """An analysis of two sides, the table that it is worked out from, what it comes to, and the studies that are pooled in it."""

    kept: Kept
    table: Table
    result: Result
    used: list[Study]


def found(review: int, number: int) -> tuple[Kept, Table]:
    """An analysis and the table that it is worked out from."""
    with snapshot() as db:
        kept = _find(db, review, number)
        table = table_of(db, review, [kept.said])
    checked(table.evidence, kept.said)
    return kept, table


def opened(review: int, number: int, without: Collection[str] = ()) -> Opened:
    """An analysis of two sides and what it comes to now, without some studies for a look."""
    return opened_in(*found(review, number), without)


def opened_in(kept: Kept, table: Table, without: Collection[str] = ()) -> Opened:
    """The same, of a table that is read already."""
    if kept.said.kind == "network":
        raise Invalid("This analysis compares several treatments; it has no two sides.")
    return Opened(kept, table, *worked_out(table, kept.said, without))


class Shown(NamedTuple):
    """What an analysis comes to: of two sides a ``result``, of several treatments a ``network``."""

    result: Result | None = None
    network: NetworkResult | None = None


def _shown(table: Table, said: Wording, without: Collection[str] = ()) -> Shown:
    if said.kind == "network":
        return Shown(network=compared(table, said, without))
    return Shown(worked_out(table, said, without)[0])


def shown(review: int, number: int, without: Collection[str] = ()) -> tuple[Kept, Shown]:
    """An analysis and what it comes to now, without some studies for a look."""
    kept, table = found(review, number)
    return kept, _shown(table, kept.said, without)


def network_of(review: int, number: int, without: Collection[str] = ()) -> NetworkResult:
    """A network and what it comes to now, without some studies for a look."""
    kept, table = found(review, number)
    if kept.said.kind != "network":
        raise Invalid("This analysis compares two sides; it is no network.")
    return compared(table, kept.said, without)


def preview(review: int, said: Wording) -> Shown:
    """What an analysis would come to."""
    with snapshot() as db:
        table = table_of(db, review, [said])
    return _shown(table, checked(table.evidence, said))


class Version(NamedTuple):
    """A version of an analysis, and which parts of it are other than in the one before."""

    kept: Kept
    changed: list[str]


def versions(review: int, number: int) -> list[Version]:
    """Every version of an analysis, the newest first."""
    with snapshot() as db:
        _find(db, review, number)
        kept = [Kept(number, row["id"], wording_of(row["content"]), row["by"], row["at"]) for row in store.versions(db, number)]
    before: list[Wording | None] = [*(one.said for one in kept[1:]), None]
    return [Version(one, changed(one.said, old) if old else []) for one, old in zip(kept, before, strict=True)]


def keep(review: int, account: int, said: Wording, number: int | None = None, seen: int | None = None) -> int:
    """Keep a new analysis, or another version of one, made from the version ``seen``; its number."""
    with changing(review, account, "pool") as change:
        now = _find(change.db, review, number) if number is not None else None
        said = checked(evidence_in(change.db, review), said)
        if now is None:
            made = Analysis(review_id=review, position=len(store.analyses(change.db, review)))
            change.db.add(made)
            change.db.flush()
            assert made.id
            _append(change, made.id, said)
            change.event("pool.made", said.name)
            return made.id
        if now.version != seen:
            raise Conflict(f"{now.by} changed this analysis meanwhile. Look at what it is now.")
        if now.said != said:
            _append(change, now.id, said)
            before, after = as_data(now.said), as_data(said)
            change.event(
                "pool.changed",
                said.name,
                *({name: some[name] for name in before if before[name] != after[name]} for some in (before, after)),
            )
        return now.id


def _append(change: Change, number: int, said: Wording) -> None:
    change.db.add(AnalysisVersion(analysis_id=number, content=as_data(said), account_id=change.account))


def move(review: int, account: int, number: int, place: int) -> None:
    """Let an analysis stand at a place among the others, from 0."""
    with changing(review, account, "pool") as change:
        order = [one.id for one in kept_in(change.db, review)]
        if number not in order:
            raise NotFound("There is no such analysis in this review.")
        order.remove(number)
        order.insert(max(0, place), number)
        for position, one in enumerate(order):
            change.db.get_one(Analysis, one).position = position
        change.event("pool.moved", store.versions(change.db, number)[0]["content"]["name"], None, order.index(number) + 1)


def remove(review: int, account: int, number: int, *, back: bool = False) -> None:
    """Take an analysis out of sight, or bring it ``back``."""
    with changing(review, account, "pool") as change:
        found = change.db.get(Analysis, number)
        if found is None or found.review_id != review:
            raise NotFound("There is no such analysis in this review.")
        found.removed_at = None if back else datetime.now(UTC)
        name = store.versions(change.db, number)[0]["content"]["name"]
        change.event("pool.brought_back" if back else "pool.removed", name)
