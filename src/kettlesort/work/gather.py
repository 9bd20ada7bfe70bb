"""The search log, uploaded files, taking in and setting aside, seeds."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import UTC, date, datetime
from typing import Any, BinaryIO, NamedTuple

from sqlmodel import Session

from kettlesort.core import formats
from kettlesort.core.formats import Entry, NotReadable
from kettlesort.core.formats.trace import Line, trace
from kettlesort.core.record import Record
from kettlesort.store import gather as store
from kettlesort.store.base import Row, row, rows, scalar, session, snapshot
from kettlesort.store.gather import Batch, ReadingProblem, Search
from kettlesort.store.jobs import Job
from kettlesort.store.match import admit
from kettlesort.store.records import COLUMNS, record_of
from kettlesort.store.report import Event
from kettlesort.work import jobs
from kettlesort.work.change import change
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.match import leave
from kettlesort.work.protocol import SOURCE_KINDS

MAX_PROBLEMS = 1000


class SearchEntry(NamedTuple):
    """A search-log entry as typed."""

    source: str
    kind: str
    query: str
    run_on: date | None
    run_by: str
    notes: str
    announced: int | None
    limits: str = ""


def write_search(review: int, account: int, said: SearchEntry, search: int | None = None) -> int:
    """Write a new entry of the search log, or change one."""
    if not said.source.strip():
        raise Invalid("Which source was searched?", field="source")
    if said.kind not in SOURCE_KINDS:
        raise Invalid(f"A source is one of {', '.join(SOURCE_KINDS)}.", field="kind")
    with change(review, account, "gather") as it:
        if search is None:
            number = scalar(it.db, "SELECT coalesce(max(number), 0) + 1 FROM search WHERE review_id = :r", r=review)
            found = Search(review_id=review, number=number, source="", kind=said.kind)
            before: dict[str, Any] | None = None
        else:
            found = _search(it.db, review, search)
            before = {name: _plain(getattr(found, name)) for name in said._fields}
        for name, value in said._asdict().items():
            setattr(found, name, value.strip() if isinstance(value, str) and name != "query" else value)
        it.db.add(found)
        it.db.flush()
        assert found.id is not None
        after = {name: _plain(value) for name, value in said._asdict().items()}
        it.event("gather.search_written" if before is None else "gather.search_changed", f"Search {found.number}", before, after)
        if before is not None and before["kind"] != said.kind:
            it.stands()
        return found.id


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, date) else value


def _search(db: Session, review: int, search: int) -> Search:
    found = db.get(Search, search)
    if found is None or found.review_id != review or found.removed_at:
        raise NotFound("There is no such search in this review.")
    return found


def remove_search(review: int, account: int, search: int, back: bool = False) -> None:
    """Take an entry without files out of the log, or bring it back."""
    with change(review, account, "gather") as it:
        found = it.db.get(Search, search)
        if found is None or found.review_id != review:
            raise NotFound("There is no such search in this review.")
        if not back and scalar(it.db, "SELECT count(*) FROM batch WHERE search_id = :s AND state <> 'aside'", s=search):
            raise Conflict("This search has files; set them aside first.")
        found.removed_at = None if back else datetime.now(UTC)
        it.event("gather.search_brought_back" if back else "gather.search_removed", f"Search {found.number}")


def search_log(review: int) -> Sequence[Row]:
    """The search log with its counts."""
    with snapshot() as db:
        return store.searches(db, review)


def files(review: int) -> Sequence[Row]:
    """All uploaded files."""
    with snapshot() as db:
        return store.batches(db, review)


def upload(review: int, account: int, search: int, filename: str, file: BinaryIO) -> int:
    """Keep an uploaded file and have it read in the background."""
    with session() as db:
        name, size = store.put_blob(db, file)
    with change(review, account, "gather") as it:
        found = _search(it.db, review, search)
        if size == 0:
            raise Invalid(f"{filename}: the file is empty; export it again from the source.", field="file")
        again = row(
            it.db,
            "SELECT filename FROM batch WHERE review_id = :r AND search_id = :s AND sha256 = :n AND state <> 'aside'",
            r=review, s=search, n=name,
        )  # fmt: skip
        if again:
            raise Conflict(f"{filename}: the same file is there already as {again['filename']}.", field="file")
        batch = Batch(review_id=review, search_id=search, filename=filename[:200] or "file", sha256=name, uploaded_by=account)
        it.db.add(batch)
        it.db.flush()
        assert batch.id is not None
        jobs.begin(it, "read_file", f"Reading {batch.filename}", batch.id)
        it.event("gather.file_uploaded", batch.filename, None, {"search": found.number, "bytes": size, "sha256": name})
        return batch.id


def read_file(job_id: int) -> None:
    """The job behind an upload: file to copies, in one transaction, so that a killed worker leaves nothing half done."""
    with jobs.working(job_id) as work:
        if work is None:
            return
        job, progress = work
        assert job.subject_id is not None
        try:
            _read_into_copies(job, progress, job.subject_id)
        except NotReadable as error:
            _not_readable(job, job.subject_id, str(error))


def _read_into_copies(job: Job, progress: jobs.Progress, batch_id: int) -> None:
    with session() as db:
        batch = db.get(Batch, batch_id, with_for_update=True)  # a second worker that was given the same job waits here
        if batch is None or batch.state not in ("waiting", "reading"):
            jobs.finish_in(db, job, "done")
            return
        size = max(1, scalar(db, "SELECT size FROM blob WHERE sha256 = :s", s=batch.sha256))
        with session() as side:  # the file is read on a connection of its own while COPY occupies the other
            file = store.open_blob(side, batch.sha256)
            reading = formats.open_reading(file)
            store.write_copies(db, batch.review_id, batch_id, _ticking(reading, progress, size))
        if reading.records == 0:
            told = reading.problems[0].message if reading.problems else "it holds no record"
            raise NotReadable(f"no record could be read: {told}")
        batch.state, batch.format, batch.encoding, batch.sure = "read", reading.format, reading.encoding, reading.sure
        batch.header = reading.header
        for problem in reading.problems[:MAX_PROBLEMS]:
            db.add(ReadingProblem(batch_id=batch_id, line=problem.line, message=problem.message.replace("\x00", "")))
        db.add(
            _event(
                job,
                "gather.file_read",
                batch.filename,
                {"format": reading.format, "records": reading.records, "problems": len(reading.problems)},
            )
        )
        jobs.finish_in(db, job, "done", f"{reading.records:,} records")


def _ticking(reading: formats.Reading, progress: jobs.Progress, size: int) -> Iterator[Entry]:
    for entry in reading:
        if entry.position % 500 == 0:
            progress.tick(min(0.99, reading.bytes_read / size))
        yield entry


def _event(job: Job, kind: str, subject: str, after: Any) -> Event:
    return Event(review_id=job.review_id, account_id=job.account_id, kind=kind, subject=subject, after=after)


def _not_readable(job: Job, batch_id: int, message: str) -> None:
    with session() as db:
        batch = db.get(Batch, batch_id)
        if batch is not None:
            batch.state, batch.failure = "failed", message
            db.add(_event(job, "gather.file_not_read", batch.filename, {"reason": message}))
        jobs.finish_in(db, job, "failed", f"{batch.filename if batch else 'The file'}: {message}")


def _batch(db: Session, review: int, batch: int) -> Batch:
    found = db.get(Batch, batch)
    if found is None or found.review_id != review:
        raise NotFound("There is no such file in this review.")
    return found


def take_in(review: int, account: int, batch: int) -> None:
    """Records of a file that was read become part of the review, and are matched."""
    with change(review, account, "gather") as it:
        found = _batch(it.db, review, batch)
        if found.state == "taken":
            raise Conflict("This file was taken in already.")
        if found.state not in ("read", "aside") or not found.format:
            raise Conflict("This file has not been read to its end.")
        before, found.state, found.matched = found.state, "taken", False
        it.db.flush()
        admit(it.db, review, batch)
        ids = [r["id"] for r in rows(it.db, "SELECT id FROM copy WHERE batch_id = :b", b=batch)]
        it.stands(ids)
        jobs.begin(it, "match_copies", f"Matching {found.filename}")
        it.event("gather.taken_in", found.filename, before, {"copies": len(ids)})


def set_aside(review: int, account: int, batch: int) -> None:
    """A file's records leave the review; nothing is lost, and it can be taken in again."""
    with change(review, account, "gather") as it:
        found = _batch(it.db, review, batch)
        if found.state in ("waiting", "reading"):
            raise Conflict("This file is still being read; cancel that first.")
        if found.state == "aside":
            raise Conflict("This file was set aside already.")
        before = found.state
        if before == "taken":
            leave(it, batch)
        found.state, found.matched = "aside", False
        it.event("gather.set_aside", found.filename, before, "aside")
        it.rank_again()
        it.index_again()


def bring_back(review: int, account: int, batch: int) -> None:
    """Undo setting aside a file that had not been taken in: it can be looked at again."""
    with change(review, account, "gather") as it:
        found = _batch(it.db, review, batch)
        if found.state != "aside":
            raise Conflict("This file is not set aside.")
        found.state = "read" if found.format else "failed"
        it.event("gather.brought_back", found.filename, "aside", found.state)


class Look(NamedTuple):
    """A file before it is taken in."""

    batch: Batch
    search: Search
    with_others: int
    filled: Row
    problems: Sequence[Row]
    odd: Sequence[Row]


def look_at(review: int, batch: int) -> Look:
    """What a file was read as."""
    with snapshot() as db:
        found = _batch(db, review, batch)
        search = db.get(Search, found.search_id)
        assert search is not None
        problems = rows(db, "SELECT line, message FROM reading_problem WHERE batch_id = :b ORDER BY line, id", b=batch)
        others = scalar(
            db,
            "SELECT count(*) FROM copy c JOIN batch o ON o.id = c.batch_id WHERE o.search_id = :s AND o.state IN ('read', 'taken')",
            s=search.id,
        )
        it = Look(found, search, int(others), store.fullness(db, batch), problems, store.odd_positions(db, batch))
        db.expunge_all()
        return it


class Entered(NamedTuple):
    """One record of a file: where it stands, and its lines beside what was understood."""

    position: int
    line: int
    end_line: int
    record: Record
    lines: list[Line]
    problems: Sequence[Row]


def entry_of(review: int, batch: int, position: int) -> Entered:
    """One record of a file, line by line."""
    with snapshot() as db:
        found = _batch(db, review, batch)
        it = row(db, f"SELECT line, end_line, raw, {COLUMNS} FROM copy WHERE batch_id = :b AND position = :p", b=batch, p=position)
        if it is None:
            raise NotFound(f"This file has no record {position}.")
        record = record_of(it)
        lines = trace(found.format, it["raw"], it["line"], record, found.header)
        problems = rows(
            db,
            "SELECT line, message FROM reading_problem WHERE batch_id = :b AND line BETWEEN :x AND :y ORDER BY line",
            b=batch,
            x=it["line"],
            y=it["end_line"],
        )
        return Entered(position, it["line"], it["end_line"], record, lines, problems)
