"""Runs of a query in a connected catalogue: fetched in the background, page by page, taken up where they stopped, repeated when due."""

from __future__ import annotations

import io
from calendar import monthrange
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from typing import Any, NamedTuple

from sqlmodel import Session, col, select

from kettlesort.core.catalogue import NotAnAnswer, read_record
from kettlesort.core.formats import Entry
from kettlesort.core.query import syntax
from kettlesort.core.record import Record, folded
from kettlesort.outside.catalogue import CatalogueError
from kettlesort.store import catalogue as plans
from kettlesort.store import gather as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.catalogue import Catalogue, Schedule
from kettlesort.store.gather import Batch, Search, SearchRun
from kettlesort.store.jobs import Job
from kettlesort.store.people import Account
from kettlesort.store.ranking import titles_of
from kettlesort.work import catalogue, jobs, nearest
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.gather import bring_in
from kettlesort.work.query import node_of
from kettlesort.work.searches import latest_run, new_run, run_of, search_of
from kettlesort.work.syntax import syntax_of

EVERY = ("once", "daily", "weekly", "monthly")
PAGE = 100
MOST = 50_000
"""Records that a run fetches; a query that finds more is to be narrowed first."""


class Wish(NamedTuple):
    """What a person wants fetched: a query of ours, in a catalogue, how often; for an entry of the log, or a new one."""

    catalogue: int
    query: str
    query_version: int | None
    every: str
    search: int | None = None


def begin(review: int, account: int, wish: Wish) -> tuple[int, int]:
    """Begin a run in the background, and plan the next ones; the entry of the log and the run."""
    if wish.every not in EVERY:
        raise Invalid("A run is done once, daily, weekly or monthly.", field="every")
    counted = catalogue.count(review, wish.catalogue, wish.query, seeds=False)
    if counted.hits > MOST:
        raise Invalid(f"This finds {counted.hits:,} records; at most {MOST:,} are fetched at once. Narrow the query first.", field="query")
    with changing(review, account, "gather") as change:
        found = _catalogue(change, wish.catalogue)
        search = _written_down(change, found) if wish.search is None else search_of(change.db, review, wish.search)
        assert search.id is not None
        made = _begin(change, search, found, wish.query, wish.query_version, counted.asked)
        if wish.every != "once":
            change.db.add(
                Schedule(
                    review_id=review, search_id=search.id, catalogue_id=wish.catalogue, query=wish.query, query_version=wish.query_version,
                    every=wish.every, next_at=following(datetime.now(UTC), wish.every), account_id=account,
                )
            )  # fmt: skip
            change.event("gather.run_scheduled", f"Search {search.number}", None, {"every": wish.every})
        return search.id, made


def begin_nearest(review: int, account: int, number: int, records: Sequence[int], keep: int) -> tuple[int, int]:
    """Begin to look in a catalogue for what is most like some records, as a search of its own; the entry of the log and the run."""
    if not 1 <= len(records) <= nearest.MOST_RECORDS:
        raise Invalid(f"Choose from 1 to {nearest.MOST_RECORDS} records.", field="records")
    if not 1 <= keep <= nearest.MOST_KEPT:
        raise Invalid(f"From 1 to {nearest.MOST_KEPT} records can be kept.", field="keep")
    with changing(review, account, "gather") as change:
        found = _catalogue(change, number)
        titles = titles_of(change.db, review, records)
        if len(titles) < len(set(records)):
            raise NotFound("One of these records is not in this review; it may have been joined with another.")
        search = _written_down(change, found)
        more = f" and {len(titles) - 1} more" if len(titles) > 1 else ""
        title = titles[records[0]]["title"] or "(no title)"
        run = _begin(change, search, found, "", None, "", {"records": sorted(titles), "keep": keep, "title": title})
        change.db.get_one(
            SearchRun, run
        ).limits = f"Of what was found, the {keep} most like “{title}”{more}, by their words and their sense, without those that were here already by DOI"
        return search.id or 0, run


def _catalogue(change: Change, number: int) -> Catalogue:
    found = change.db.get(Catalogue, number)
    if found is None or found.review_id != change.review or found.removed_at:
        raise NotFound("There is no such catalogue; another member may have disconnected it.")
    return found


def _written_down(change: Change, at: Catalogue) -> Search:
    """A new entry of the log for a catalogue."""
    number = store.next_search(change.db, change.review)
    search = Search(review_id=change.review, number=number, source=at.name, kind="database")
    change.db.add(search)
    change.db.flush()
    change.event("gather.search_written", f"Search {number}", None, {"source": at.name, "kind": "database", "catalogue": at.name})
    return search


def _begin(
    change: Change, search: Search, at: Catalogue, query: str, version: int | None, asked: str, nearest_to: dict[str, Any] | None = None
) -> int:
    assert search.id is not None
    latest = latest_run(change.db, search.id)
    empty = latest.id is not None and not latest.state and not latest.query and latest.announced is None
    empty = empty and not store.count_files(change.db, search.id, run=latest.id)
    made = latest if empty else new_run(change, search.id)
    made.query, made.query_version, made.catalogue_id, made.state = asked, version, at.id, "fetching"
    made.nearest_to = nearest_to or {}
    made.run_on = datetime.now(UTC).date()
    made.run_by = change.db.get_one(Account, change.account).full_name
    change.db.add(made)
    change.db.flush()
    assert made.id is not None
    jobs.begin(change, "fetch_run", f"Fetching from {at.name}", made.id)
    said: dict[str, Any] = {"most like": nearest_to["title"], "records": len(nearest_to["records"])} if nearest_to else {"query": query}
    change.event("gather.run_begun", f"Search {search.number}, run {made.number}", None, {"catalogue": at.name, **said})
    return made.id


def resume(review: int, account: int, number: int) -> None:
    """Take up a run that failed or was cancelled, where it stopped."""
    with changing(review, account, "gather") as change:
        found = run_of(change.db, review, number)
        if found.state not in ("failed", "cancelled") or found.catalogue_id is None:
            raise Conflict("This run is not waiting to be taken up.")
        search = search_of(change.db, review, found.search_id)
        found.state, found.failure = "fetching", ""
        at = change.db.get(Catalogue, found.catalogue_id)
        jobs.begin(change, "fetch_run", f"Fetching from {at.name if at else 'the catalogue'}", found.id)
        change.event("gather.run_resumed", f"Search {search.number}, run {found.number}")


def fetch_run(job_id: int) -> None:
    """The job behind a run. Each page is kept as it comes; a worker that dies in between goes on after the last one."""
    with jobs.working(job_id) as work:
        if work is None:
            return
        job, progress = work
        assert job.subject_id is not None
        try:
            _fetch(job, progress, job.subject_id)
        except CatalogueError as error:
            _stopped(job, "failed", str(error))
            jobs.finish(job, "failed", f"{error} It can be taken up where it stopped.")
        except (Invalid, NotFound) as error:
            _stopped(job, "failed", str(error))
            jobs.finish(job, "failed", str(error))
        except jobs.Cancelled:
            _stopped(job, "cancelled", "")
            raise


def _stopped(job: Job, state: str, why: str) -> None:
    with changing(job.review_id, job.account_id, "gather") as change:
        found = run_of(change.db, job.review_id, job.subject_id or 0)
        found.state, found.failure = state, why
        change.event("gather.run_stopped", f"Run {found.number}", None, {"state": state, "reason": why})


def _fetch(job: Job, progress: jobs.Progress, number: int) -> None:
    with snapshot() as db:
        found = db.get(SearchRun, number)
        if found is None or found.state != "fetching" or found.catalogue_id is None:
            with session() as other:
                jobs.finish_in(other, job, "done")
            return
        asked, at, near = found.query, found.catalogue_id, found.nearest_to
        have = store.count_fetched(db, number)
    if near and not asked:
        asked = _composed(job, progress, number, at, near["records"])
    asking = catalogue.client(job.review_id, at)
    place, total = have + 1, -1
    for page in asking.pages(asked, start=place, size=PAGE):
        total = page.total
        with session() as db:
            kept = [(place + k, _key(record), raw.replace("\x00", "")) for k, (record, raw) in enumerate(page.records)]
            store.keep_fetched(db, number, kept)
            place += len(page.records)
            told = db.get(SearchRun, number)
            if told is not None:
                told.announced, told.understood = total, [list(understood) for understood in dict.fromkeys(page.understood)]
        progress.tick(min(0.98, (place - 1) / max(1, total)))
    if place - 1 < total:
        raise CatalogueError(f"The catalogue announced {total:,} records and gave {place - 1:,}.")
    with snapshot() as db:
        held = store.fetched(db, number)
    only = nearest.closest(job.review_id, near["records"], held, near["keep"]) if near else None
    _take_in(job, number, held, only)


def _composed(job: Job, progress: jobs.Progress, number: int, at: int, records: Sequence[int]) -> str:
    """The query by which a catalogue is asked for what is like some records; written down before it is asked."""
    made = nearest.compose(job.review_id, at, records, lambda share: progress.tick(0.4 * share))
    with changing(job.review_id, job.account_id, "gather") as change:
        found = run_of(change.db, job.review_id, number)
        found.query = made.asked
        change.event("gather.run_composed", f"Run {found.number}", None, {"query": made.query})
    return made.asked


def _key(record: Record) -> str:
    """What a record is known by from run to run: its accession, DOI, or failing both its title and year."""
    return record.accession or record.doi or f"{folded(record.title)[:200]}|{record.year}"


def _take_in(job: Job, number: int, held: Sequence[Row], only: set[str] | None) -> None:
    """What no earlier run of the search brought becomes the copies of this one; of it ``only`` what has one of these keys, where they are given."""
    with changing(job.review_id, job.account_id, "gather", alone=False) as change:
        found = change.db.get(SearchRun, number, with_for_update=True)
        if found is None or found.state != "fetching":
            jobs.finish_in(change.db, job, "done")
            return
        search = search_of(change.db, job.review_id, found.search_id)
        before = store.fetched_before(change.db, found.search_id, number)
        new = [
            one for one in {one["key"]: one for one in held}.values() if one["key"] not in before and (only is None or one["key"] in only)
        ]
        copies = _batch_of(change, found, search, new, job.account_id) if new else 0
        store.forget_fetched(change.db, number, only)
        found.state = "done"
        said = {"announced": found.announced, "fetched": len(held), "new": copies}
        change.event("gather.run_done", f"Search {search.number}, run {found.number}", None, said)
        jobs.finish_in(change.db, job, "done", f"{copies:,} new of {len(held):,}")


def _batch_of(change: Change, found: SearchRun, search: Search, new: Sequence[Row], account: int) -> int:
    entries: list[Entry] = []
    text = io.StringIO()
    text.write('<?xml version="1.0" encoding="UTF-8"?>\n<records>\n')
    line = 3
    for one in new:
        try:
            record = read_record(one["raw"])
        except NotAnAnswer:
            record = Record()
        raw = one["raw"].strip()
        entries.append(Entry(len(entries) + 1, line, line + raw.count("\n"), raw, record))
        text.write(f"{raw}\n")
        line += raw.count("\n") + 1
    text.write("</records>\n")
    name, _ = store.put_blob(change.db, io.BytesIO(text.getvalue().encode()))
    batch = Batch(
        review_id=change.review, search_id=found.search_id, run_id=found.id or 0, filename=f"{search.source}, run {found.number}.xml"[:200], sha256=name,
        state="taken", format="catalogue", encoding="UTF-8", uploaded_by=account,
    )  # fmt: skip
    change.db.add(batch)
    change.db.flush()
    assert batch.id is not None
    store.write_copies(change.db, change.review, batch.id, entries)
    copies = bring_in(change, batch.id)
    jobs.begin(change, "match_copies", f"Matching {batch.filename}")
    return copies


def following(at: datetime, every: str) -> datetime:
    """The next moment after ``at``, one period later."""
    if every == "daily":
        return at + timedelta(days=1)
    if every == "weekly":
        return at + timedelta(days=7)
    year, month = (at.year + 1, 1) if at.month == 12 else (at.year, at.month + 1)
    return at.replace(year=year, month=month, day=min(at.day, monthrange(year, month)[1]))


def begin_due(now: datetime | None = None) -> int:
    """Begin every planned run that is due, each once however many were missed; how many."""
    now = now or datetime.now(UTC)
    with snapshot() as db:
        due = db.exec(select(Schedule).where(col(Schedule.next_at) <= now, col(Schedule.stopped_at).is_(None))).all()
        db.expunge_all()
    n = 0
    for one in due:
        with changing(one.review_id, one.account_id, "gather") as change:
            plan = change.db.get(Schedule, one.id, with_for_update=True)
            if plan is None or plan.stopped_at or plan.next_at is None or plan.next_at > now:
                continue
            while plan.next_at <= now:
                plan.next_at = following(plan.next_at, plan.every)
            at = change.db.get(Catalogue, plan.catalogue_id)
            search = change.db.get(Search, plan.search_id)
            running = store.fetching(change.db, plan.search_id)
            if at is None or at.removed_at or search is None or search.removed_at or running:
                continue
            try:
                asked = syntax.translate(node_of(plan.query), syntax_of(one.review_id, "cql")).text
            except Invalid:  # a query that an older version of the program could read; the plan waits for a person
                plan.stopped_at = now
                continue
            _begin(change, search, at, plan.query, plan.query_version, asked)
            n += 1
    return n


def schedules(review: int) -> Sequence[Row]:
    """What is planned."""
    with snapshot() as db:
        return plans.schedules(db, review)


def stop(review: int, account: int, schedule: int, back: bool = False) -> None:
    """No more runs of a plan, or again."""
    with changing(review, account, "gather") as change:
        plan = _schedule(change.db, review, schedule)
        if bool(plan.stopped_at) != back:
            raise Conflict("This plan was stopped already." if plan.stopped_at else "This plan is in force.")
        plan.stopped_at = None if back else datetime.now(UTC)
        if back:
            plan.next_at = following(datetime.now(UTC), plan.every)
        change.event("gather.schedule_resumed" if back else "gather.schedule_stopped", plan.every)


def _schedule(db: Session, review: int, schedule: int) -> Schedule:
    found = db.get(Schedule, schedule)
    if found is None or found.review_id != review:
        raise NotFound("There is no such plan in this review.")
    return found
