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
from kettlesort.work.change import Change, change
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


def _with_theirs(it: Change, kind: str, what: str, said: T, seen: T, now: Mapping[str, Any]) -> T:
    """What is said of an entry or a run, with what others changed since it was ``seen``. Raises Conflict for a field that both changed."""
    mine = {name: _stripped(name, value) for name, value in said._asdict().items()}
    held, both = merged({name: _stripped(name, value) for name, value in seen._asdict().items()}, now, mine)
    if both:
        shown = [Both(_LABELS.get(name, name), in_words(now[name]), in_words(mine[name])) for name in both]
        plain = {name: _plain(value) for name, value in now.items()}
        raise conflict(it.db, it.review, kind, what, shown, plain, {name: _plain(held.get(name)) for name in mine})
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
    with change(review, account, "gather") as it:
        if search is None:
            number = store.next_search(it.db, review)
            found, before = Search(review_id=review, number=number, source="", kind=said.kind), None
            run = SearchRun(review_id=review, search_id=0, number=1)
        else:
            found = search_of(it.db, review, search)
            run = latest_run(it.db, search)
            now = {name: getattr(found if name in _OF_ENTRY else run, name) for name in said._fields}
            before = {name: _plain(value) for name, value in now.items()}
            if seen is not None:
                said = _with_theirs(it, "gather.search_changed", f"search {found.number}", said, seen, now)
        for name, value in said._asdict().items():
            setattr(found if name in _OF_ENTRY else run, name, _stripped(name, value))
        it.db.add(found)
        it.db.flush()
        assert found.id is not None
        run.search_id = found.id
        it.db.add(run)
        after = {name: _plain(value) for name, value in said._asdict().items()}
        it.event("gather.search_written" if before is None else "gather.search_changed", f"Search {found.number}", before, after)
        if before is not None and before["kind"] != said.kind:
            it.stands()
        return found.id


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, date) else value


def write_run(review: int, account: int, search: int, said: RunEntry, run: int | None = None, seen: RunEntry | None = None) -> int:
    """Write down that a search was done again, or change one of its runs, ``seen`` as it was then."""
    with change(review, account, "gather") as it:
        entry = search_of(it.db, review, search)
        if run is None:
            found, before = new_run(it, search), None
        else:
            found = run_of(it.db, review, run)
            if found.search_id != search:
                raise NotFound("This search has no such run.")
            now = {name: getattr(found, name) for name in said._fields}
            before = {name: _plain(value) for name, value in now.items()}
            if seen is not None:
                said = _with_theirs(it, "gather.run_changed", f"run {found.number}", said, seen, now)
        for name, value in said._asdict().items():
            setattr(found, name, _stripped(name, value))
        it.db.add(found)
        it.db.flush()
        after = {name: _plain(value) for name, value in said._asdict().items()}
        it.event(
            "gather.run_written" if before is None else "gather.run_changed", f"Search {entry.number}, run {found.number}", before, after
        )
        assert found.id is not None
        return found.id


def new_run(it: Change, search: int) -> SearchRun:
    """A further run of a search, not yet filled in."""
    number = store.next_run(it.db, search)
    return SearchRun(review_id=it.review, search_id=search, number=number)


def remove_run(review: int, account: int, search: int, run: int) -> None:
    """Take a run without files out of the log; an entry keeps at least one."""
    with change(review, account, "gather") as it:
        found = run_of(it.db, review, run)
        entry = search_of(it.db, review, search)
        if found.search_id != search:
            raise NotFound("This search has no such run.")
        if found.state:
            raise Conflict("This run was made in a catalogue; what it brought stays in the log.")
        if store.count_files(it.db, search, run=run):
            raise Conflict("This run has files; it stays in the log.")
        if store.count_runs(it.db, search) == 1:
            raise Conflict("A search has at least one run; remove the search instead.")
        gone = {name: _plain(getattr(found, name)) for name in RunEntry._fields}
        it.db.delete(found)
        it.event("gather.run_removed", f"Search {entry.number}, run {found.number}", gone)


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
    with change(review, account, "gather") as it:
        found = it.db.get(Search, search)
        if found is None or found.review_id != review:
            raise NotFound("There is no such search in this review.")
        if not back and store.count_files(it.db, search, aside=False):
            raise Conflict("This search has files; set them aside first.")
        found.removed_at = None if back else datetime.now(UTC)
        it.event("gather.search_brought_back" if back else "gather.search_removed", f"Search {found.number}")


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
        return sum(it["files"] for it in self.runs)

    @property
    def waiting(self) -> int:
        """Files of all runs that wait to be taken in."""
        return sum(it["waiting"] for it in self.runs)

    @property
    def imported(self) -> int:
        """Copies of all runs that are in the review."""
        return sum(it["imported"] for it in self.runs)

    @property
    def announced(self) -> int | None:
        """What the source announced in all runs; ``None`` where it never did."""
        said = [it["announced"] for it in self.runs if it["announced"] is not None]
        return sum(said) if said else None

    @property
    def difference(self) -> int | None:
        """Imported less announced, over runs that announced something and whose files are all taken in."""
        said = [
            it["imported"] - it["announced"] for it in self.runs
            if it["announced"] is not None and not it["catalogue_id"] and not it["waiting"] and (it["files"] or it["imported"])
        ]  # fmt: skip
        return sum(said) if said else None


def search_log(review: int) -> list[Logged]:
    """The search log with its counts."""
    with snapshot() as db:
        return _log(db, review)


def _log(db: Session, review: int) -> list[Logged]:
    runs: dict[int, list[Row]] = {}
    for it in store.runs(db, review):
        runs.setdefault(it["search_id"], []).append(it)
    return [
        Logged(it["id"], it["number"], it["source"], it["kind"], it["notes"], runs.get(it["id"], [])) for it in store.searches(db, review)
    ]


COLUMNS = (
    "search", "run", "source", "kind of source", "platform or catalogue", "date", "run by", "query", "limits", "version of the query", "announced",
    "imported", "difference", "new records", "files", "notes",
)  # fmt: skip


def log_table(review: int) -> list[list[object]]:
    """The log as a table: a row of names, then a row for each run."""
    out: list[list[object]] = [list(COLUMNS)]
    for entry in search_log(review):
        for it in entry.runs:
            difference = (
                it["imported"] - it["announced"]
                if it["announced"] is not None and it["files"] and not it["waiting"] and not it["catalogue_id"]
                else None
            )
            notes = "; ".join(part for part in (entry.notes if it is entry.latest else "", it["notes"]) if part)
            out.append([
                entry.number, it["number"], entry.source, entry.kind, it["catalogue"] or "", _plain(it["run_on"]) or "", it["run_by"], it["query"], it["limits"],
                it["query_version"], it["announced"], it["imported"], difference, it["new"], it["files"], notes,
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
        named = [it for it in log if it.kind == kind]
        if named:
            parts += [Heading(name, 3), Items(tuple(dict.fromkeys(_source_line(it) for it in named)))]
    parts.append(Heading("Search strategies (items 8 to 14)", 2))
    for entry in log:
        parts.append(Heading(f"Search {entry.number}: {entry.source}", 3))
        for it in entry.runs:
            said = [
                f"Run {it['number']}" if len(entry.runs) > 1 else "Run",
                f"on {_plain(it['run_on'])}" if it["run_on"] else "on a date that was not noted",
            ]
            said += [f"by {it['run_by']}"] if it["run_by"] else []
            said += [f"in the connected catalogue {it['catalogue']}"] if it["catalogue"] else []
            said += [f"with version {it['query_version']} of the query"] if it["query_version"] else []
            parts.append(Paragraph(" ".join(said) + "."))
            if it["query"]:
                parts.append(Verbatim(it["query"]))
            if it["limits"]:
                parts.append(Paragraph(f"Limits: {it['limits']}"))
            if it["notes"]:
                parts.append(Paragraph(it["notes"]))
        if entry.notes:
            parts.append(Paragraph(entry.notes))
    parts += [Heading("Managing records (items 15 and 16)", 2), Grid(("Search", "Source", "Date", "Announced", "Imported", "New records"), tuple(
        (f"{entry.number}.{it['number']}", entry.source, str(_plain(it["run_on"]) or ""), "" if it["announced"] is None else f"{it['announced']:,}", f"{it['imported']:,}", f"{it['new']:,}")
        for entry in log for it in entry.runs
    ))]  # fmt: skip
    parts.append(
        Paragraph(
            f"{copies:,} copies came in; {copies - records:,} of them were copies of a record that was there, which leaves {records:,} records."
        )
    )
    open_ = [it for it in log if it.difference and not it.notes and not any(run["notes"] for run in it.runs)]
    if open_:
        parts.append(
            Paragraph(
                "Not explained yet: "
                + "; ".join(f"search {it.number} announced {it.announced:,} and brought {it.imported:,}" for it in open_)
                + "."
            )
        )
    return parts


def _source_line(it: Logged) -> str:
    catalogue = it.latest["catalogue"] if it.runs else None
    return f"{it.source} (searched through {catalogue})" if catalogue else it.source
