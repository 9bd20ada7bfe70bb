"""The search log: entries, each with the runs of its query, and the log as a table and as the search appendix."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, date, datetime
from typing import Any, NamedTuple, TypeVar

from sqlmodel import Session, col, select

from kettlesort.core.documents import Block, Grid, Heading, Items, Paragraph, Verbatim
from kettlesort.store import gather as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.gather import Search, SearchRun
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.late import Both, conflict, in_words, merged
from kettlesort.work.protocol import SOURCE_KINDS


class SearchEntry(NamedTuple):
    """An entry of the search log as typed, with the run that it begins with or that is the latest."""

    source: str
    kind: str
    query: str
    run_on: date | None
    run_by: str
    notes: str
    announced: int | None
    limits: str = ""
    query_version: int | None = None


class RunEntry(NamedTuple):
    """A run of a search as typed."""

    query: str
    run_on: date | None
    run_by: str
    notes: str
    announced: int | None
    limits: str = ""
    query_version: int | None = None


T = TypeVar("T", SearchEntry, RunEntry)
_OF_ENTRY = ("source", "kind", "notes")


def _with_theirs(change: Change, kind: str, what: str, said: T, seen: T, now: Mapping[str, Any]) -> T:
    """What is said of an entry or a run, with what others changed since it was ``seen``. Raises Conflict for a field that both changed."""
    mine = {name: _stripped(name, value) for name, value in said._asdict().items()}
    held, both = merged({name: _stripped(name, value) for name, value in seen._asdict().items()}, now, mine)
    if both:
        shown = [Both(_LABELS.get(name, name), in_words(now[name]), in_words(mine[name])) for name in both]
        plain = {name: _plain(value) for name, value in now.items()}
        raise conflict(change.db, change.review, kind, what, shown, plain, {name: _plain(held.get(name)) for name in mine})
    whole: dict[str, Any] = {name: held.get(name) for name in mine}
    return said._replace(**whole)


_LABELS = {"run_on": "Run on", "run_by": "By", "announced": "Announced", "query": "Query", "limits": "Limits", "notes": "Notes", "source": "Source", "kind": "Kind of source", "query_version": "Version of the query"}  # fmt: skip


def _stripped(name: str, value: Any) -> Any:
    return value.strip() if isinstance(value, str) and name != "query" else value


def write_search(review: int, account: int, said: SearchEntry, search: int | None = None, seen: SearchEntry | None = None) -> int:
    """Write a new entry of the search log with its first run, or change one and its latest run.

    ``seen`` is the entry on which the change was made: what others changed since then stays.
    """
    if not said.source.strip():
        raise Invalid("Which source was searched?", field="source")
    if said.kind not in SOURCE_KINDS:
        raise Invalid(f"A source is one of {', '.join(SOURCE_KINDS)}.", field="kind")
    with changing(review, account, "gather") as change:
        if search is None:
            number = store.next_search(change.db, review)
            found, before = Search(review_id=review, number=number, source="", kind=said.kind), None
            run = SearchRun(review_id=review, search_id=0, number=1)
        else:
            found = search_of(change.db, review, search)
            run = latest_run(change.db, search)
            now = {name: getattr(found if name in _OF_ENTRY else run, name) for name in said._fields}
            before = {name: _plain(value) for name, value in now.items()}
            if seen is not None:
                said = _with_theirs(change, "gather.search_changed", f"search {found.number}", said, seen, now)
        for name, value in said._asdict().items():
            setattr(found if name in _OF_ENTRY else run, name, _stripped(name, value))
        change.db.add(found)
        change.db.flush()
        assert found.id is not None
        run.search_id = found.id
        change.db.add(run)
        after = {name: _plain(value) for name, value in said._asdict().items()}
        change.event("gather.search_written" if before is None else "gather.search_changed", f"Search {found.number}", before, after)
        if before is not None and before["kind"] != said.kind:
            change.stands()
        return found.id


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, date) else value


def write_run(review: int, account: int, search: int, said: RunEntry, run: int | None = None, seen: RunEntry | None = None) -> int:
    """Write down that a search was done again, or change one of its runs, ``seen`` as it was then."""
    with changing(review, account, "gather") as change:
        entry = search_of(change.db, review, search)
        if run is None:
            found, before = new_run(change, search), None
        else:
            found = run_of(change.db, review, run)
            if found.search_id != search:
                raise NotFound("This search has no such run.")
            now = {name: getattr(found, name) for name in said._fields}
            before = {name: _plain(value) for name, value in now.items()}
            if seen is not None:
                said = _with_theirs(change, "gather.run_changed", f"run {found.number}", said, seen, now)
        for name, value in said._asdict().items():
            setattr(found, name, _stripped(name, value))
        change.db.add(found)
        change.db.flush()
        after = {name: _plain(value) for name, value in said._asdict().items()}
        change.event(
            "gather.run_written" if before is None else "gather.run_changed", f"Search {entry.number}, run {found.number}", before, after
        )
        assert found.id is not None
        return found.id


def new_run(change: Change, search: int) -> SearchRun:
    """A further run of a search, not yet filled in."""
    number = store.next_run(change.db, search)
    return SearchRun(review_id=change.review, search_id=search, number=number)


def remove_run(review: int, account: int, search: int, run: int) -> None:
    """Take a run without files out of the log; an entry keeps at least one."""
    with changing(review, account, "gather") as change:
        found = run_of(change.db, review, run)
        entry = search_of(change.db, review, search)
        if found.search_id != search:
            raise NotFound("This search has no such run.")
        if found.state:
            raise Conflict("This run was made in a catalogue; what it brought stays in the log.")
        if store.count_files(change.db, search, run=run):
            raise Conflict("This run has files; it stays in the log.")
        if store.count_runs(change.db, search) == 1:
            raise Conflict("A search has at least one run; remove the search instead.")
        gone = {name: _plain(getattr(found, name)) for name in RunEntry._fields}
        change.db.delete(found)
        change.event("gather.run_removed", f"Search {entry.number}, run {found.number}", gone)


def search_of(db: Session, review: int, search: int) -> Search:
    """An entry of this review's log."""
    found = db.get(Search, search)
    if found is None or found.review_id != review or found.removed_at:
        raise NotFound("There is no such search in this review.")
    return found


def run_of(db: Session, review: int, run: int) -> SearchRun:
    """A run of this review's log."""
    found = db.get(SearchRun, run)
    if found is None or found.review_id != review:
        raise NotFound("There is no such run in this review.")
    return found


def latest_run(db: Session, search: int) -> SearchRun:
    """The newest run of a search."""
    return db.exec(select(SearchRun).where(SearchRun.search_id == search).order_by(col(SearchRun.number).desc())).first() or SearchRun(
        review_id=0, search_id=search, number=1
    )


def remove_search(review: int, account: int, search: int, back: bool = False) -> None:
    """Take an entry without files out of the log, or bring it back."""
    with changing(review, account, "gather") as change:
        found = change.db.get(Search, search)
        if found is None or found.review_id != review:
            raise NotFound("There is no such search in this review.")
        if not back and store.count_files(change.db, search, aside=False):
            raise Conflict("This search has files; set them aside first.")
        found.removed_at = None if back else datetime.now(UTC)
        change.event("gather.search_brought_back" if back else "gather.search_removed", f"Search {found.number}")


class Logged(NamedTuple):
    """An entry of the log with its runs, oldest first; the sums are over all runs, ``announced`` of those that have one."""

    id: int
    number: int
    source: str
    kind: str
    notes: str
    runs: list[Row]

    @property
    def latest(self) -> Row:
        """The newest run."""
        return self.runs[-1]

    @property
    def files(self) -> int:
        """Files of all runs."""
        return sum(run["files"] for run in self.runs)

    @property
    def waiting(self) -> int:
        """Files of all runs that wait to be taken in."""
        return sum(run["waiting"] for run in self.runs)

    @property
    def imported(self) -> int:
        """Copies of all runs that are in the review."""
        return sum(run["imported"] for run in self.runs)

    @property
    def announced(self) -> int | None:
        """What the source announced in all runs; ``None`` where it never did."""
        said = [run["announced"] for run in self.runs if run["announced"] is not None]
        return sum(said) if said else None

    @property
    def difference(self) -> int | None:
        """Imported less announced, over runs that announced something and whose files are all taken in."""
        said = [
            run["imported"] - run["announced"] for run in self.runs
            if run["announced"] is not None and not run["catalogue_id"] and not run["waiting"] and (run["files"] or run["imported"])
        ]  # fmt: skip
        return sum(said) if said else None


def search_log(review: int) -> list[Logged]:
    """The search log with its counts."""
    with snapshot() as db:
        return _log(db, review)


def _log(db: Session, review: int) -> list[Logged]:
    runs: dict[int, list[Row]] = {}
    for run in store.runs(db, review):
        runs.setdefault(run["search_id"], []).append(run)
    return [
        Logged(search["id"], search["number"], search["source"], search["kind"], search["notes"], runs.get(search["id"], []))
        for search in store.searches(db, review)
    ]


COLUMNS = (
    "search", "run", "source", "kind of source", "platform or catalogue", "date", "run by", "query", "limits", "version of the query", "announced",
    "imported", "difference", "new records", "files", "notes",
)  # fmt: skip


def log_table(review: int) -> list[list[object]]:
    """The log as a table: a row of names, then a row for each run."""
    out: list[list[object]] = [list(COLUMNS)]
    for entry in search_log(review):
        for run in entry.runs:
            difference = (
                run["imported"] - run["announced"]
                if run["announced"] is not None and run["files"] and not run["waiting"] and not run["catalogue_id"]
                else None
            )
            notes = "; ".join(part for part in (entry.notes if run is entry.latest else "", run["notes"]) if part)
            out.append([
                entry.number, run["number"], entry.source, entry.kind, run["catalogue"] or "", _plain(run["run_on"]) or "", run["run_by"], run["query"], run["limits"],
                run["query_version"], run["announced"], run["imported"], difference, run["new"], run["files"], notes,
            ])  # fmt: skip
    return out


def appendix(review: int, title: str) -> list[Block]:
    """The search appendix in the order of PRISMA-S (Rethlefsen ML et al. Syst Rev 2021;10:39): sources, then each search in full.

    Items 1 to 7 are the sources, 8 the full strategies, 9 limits, 13 dates, 15 and 16 records and copies.
    """
    log = search_log(review)
    with snapshot() as db:
        copies = store.count_copies(db, review)
        records = store.count_records(db, review)
    kinds = {
        "database": "Databases",
        "register": "Study registries",
        "website": "Online resources and browsing",
        "organisation": "Organisations and contacts",
        "citation": "Citation searching",
    }
    parts: list[Block] = [Heading(f"Search appendix: {title}", 1), Heading("Information sources and methods (items 1 to 7)", 2)]
    for kind, name in kinds.items():
        named = [logged for logged in log if logged.kind == kind]
        if named:
            parts += [Heading(name, 3), Items(tuple(dict.fromkeys(_source_line(logged) for logged in named)))]
    parts.append(Heading("Search strategies (items 8 to 14)", 2))
    for entry in log:
        parts.append(Heading(f"Search {entry.number}: {entry.source}", 3))
        for row in entry.runs:
            said = [
                f"Run {row['number']}" if len(entry.runs) > 1 else "Run",
                f"on {_plain(row['run_on'])}" if row["run_on"] else "on a date that was not noted",
            ]
            said += [f"by {row['run_by']}"] if row["run_by"] else []
            said += [f"in the connected catalogue {row['catalogue']}"] if row["catalogue"] else []
            said += [f"with version {row['query_version']} of the query"] if row["query_version"] else []
            parts.append(Paragraph(" ".join(said) + "."))
            if row["query"]:
                parts.append(Verbatim(row["query"]))
            if row["limits"]:
                parts.append(Paragraph(f"Limits: {row['limits']}"))
            if row["notes"]:
                parts.append(Paragraph(row["notes"]))
        if entry.notes:
            parts.append(Paragraph(entry.notes))
    parts += [Heading("Managing records (items 15 and 16)", 2), Grid(("Search", "Source", "Date", "Announced", "Imported", "New records"), tuple(
        (f"{entry.number}.{one['number']}", entry.source, str(_plain(one["run_on"]) or ""), "" if one["announced"] is None else f"{one['announced']:,}", f"{one['imported']:,}", f"{one['new']:,}")
        for entry in log for one in entry.runs
    ))]  # fmt: skip
    parts.append(
        Paragraph(
            f"{copies:,} copies came in; {copies - records:,} of them were copies of a record that was there, which leaves {records:,} records."
        )
    )
    open_ = [logged for logged in log if logged.difference and not logged.notes and not any(run["notes"] for run in logged.runs)]
    if open_:
        parts.append(
            Paragraph(
                "Not explained yet: "
                + "; ".join(f"search {logged.number} announced {logged.announced:,} and brought {logged.imported:,}" for logged in open_)
                + "."
            )
        )
    return parts


def _source_line(logged: Logged) -> str:
    catalogue = logged.latest["catalogue"] if logged.runs else None
    return f"{logged.source} (searched through {catalogue})" if catalogue else logged.source
