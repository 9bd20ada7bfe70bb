"""Uploaded files: kept, read, looked at, read otherwise, taken in and set aside."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any, BinaryIO, NamedTuple

from sqlmodel import Session

from kettlesort import apart
from kettlesort.core import formats
from kettlesort.core.formats import Entry, How, NotReadable
from kettlesort.core.formats.origin import Origin, origin_of
from kettlesort.core.formats.recipe import NotARecipe, Recipe, fields_from, recipe_of
from kettlesort.core.formats.suspicion import Suspicion, Watch
from kettlesort.core.formats.trace import Line, trace
from kettlesort.core.record import FILLABLE, Record
from kettlesort.store import gather as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.gather import Batch, ReadingProblem, Search, SearchRun
from kettlesort.store.jobs import Job
from kettlesort.store.match import admit
from kettlesort.store.plan import written
from kettlesort.store.recipes import Habit
from kettlesort.store.records import record_of
from kettlesort.store.report import Event
from kettlesort.store.seeds import carrying_seed_keys
from kettlesort.work import jobs
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.labels import label_batch
from kettlesort.work.match import LEAVING, leave
from kettlesort.work.narrow import narrow_again
from kettlesort.work.recipes import recipes_of
from kettlesort.work.searches import latest_run, run_of, search_of

MAX_PROBLEMS = 1000
READING = apart.Limits(seconds=900, megabytes=3000)
"""What a workbook or an archive may take in the background."""
HOW = ("format", "fields", "encoding", "header", "sheet", "recipe", "names")
"""What is remembered of how a person wanted a file read."""


def files(review: int) -> Sequence[Row]:
    """All uploaded files."""
    with snapshot() as db:
        return store.batches(db, review)


class Uploaded(NamedTuple):
    """What an upload became: its files (an archive is several), and the name of a file of the review with the same content, "" for none."""

    batches: list[int]
    same_as: str


def upload(review: int, account: int, search: int, filename: str, file: BinaryIO, of_run: int | None = None, label: str = "") -> Uploaded:
    """Keep an uploaded file of a search's run, the latest if none is named, and have it read in the background.

    An archive is unpacked: each file in it is kept on its own. All records get the ``label``, if there is one.
    """
    try:
        held = formats.members_of(file)
    except NotReadable:  # it is kept all the same, and reading it will say so
        held = []
    with snapshot() as db:
        search_of(db, review, search)  # else its content would be kept for nothing
    parts = [(f"{filename}/{name.rsplit('/', 1)[-1]}", member) for name, member in held] or [(filename, file)]
    kept: list[tuple[str, str, int]] = []
    with session() as db:
        for name, part in parts:
            try:
                kept.append((name, *store.put_blob(db, part)))
            except NotReadable as error:
                raise Invalid(f"{filename}: {error}.", field="file") from None
            if part is not file:
                part.close()
    with changing(review, account, "gather") as change:
        entry = search_of(change.db, review, search)
        found = run_of(change.db, review, of_run) if of_run else latest_run(change.db, search)
        if found.search_id != search or found.id is None:
            raise NotFound("This search has no such run.")
        if not any(size for _, _, size in kept):
            raise Invalid(f"{filename}: the file is empty; export it again from the source.", field="file")
        out, same_as = [], ""
        for name, sha256, size in kept:
            same_as = same_as or store.same_content(change.db, review, sha256)
            how = {"label": label.strip()[:100]} if label.strip() else {}
            batch = Batch(
                review_id=review,
                search_id=search,
                run_id=found.id,
                filename=name[:200] or "file",
                sha256=sha256,
                uploaded_by=account,
                how=how,
            )
            change.db.add(batch)
            change.db.flush()
            assert batch.id is not None
            jobs.begin(change, "read_file", f"Reading {batch.filename}", batch.id)
            said = {"search": entry.number, "run": found.number, "bytes": size, "sha256": sha256}
            change.event("gather.file_uploaded", batch.filename, None, said)
            out.append(batch.id)
        return Uploaded(out, same_as)


class Looked(NamedTuple):
    """A file that was read to its end and of which nothing is kept: how, its first records, what is odd, how full each field is."""

    reading: formats.Reading
    first: list[Record]
    odd: list[Suspicion]
    filled: dict[str, int]


def looked_at(filename: str, file: BinaryIO, most: int) -> Looked:
    """Read a file and keep its first records, ``most`` of them. Raises Invalid for one that holds none."""
    try:
        reading = apart.open_reading(file)
        watch, first, filled = Watch(), list[Record](), dict.fromkeys(FILLABLE, 0)
        for entry in watch.over(reading):
            if len(first) < most:
                first.append(entry.record)
            for name in FILLABLE:
                filled[name] += bool(getattr(entry.record, name))
    except NotReadable as error:
        raise Invalid(f"{filename}: {error}.", field="file") from None
    if not reading.records:
        raise Invalid(f"{filename}: no record could be read from it.", field="file")
    return Looked(reading, first, watch.suspicions(reading.people, reading.settled), filled)


def origin(filename: str, looked: Looked, known: Sequence[str]) -> Origin:
    """Where a file that was looked at seems to come from; ``known`` are the sources of the review."""
    return origin_of(filename, looked.first, known)


def sources(review: int) -> list[str]:
    """The names of the sources that the review has searched, each once."""
    with session() as db:
        return list(dict.fromkeys(search["source"] for search in store.searches(db, review)))


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
        size = max(1, store.blob_size(db, batch.sha256))
        recipes = recipes_of(db, batch.review_id)
        with session() as side:  # the file is read on a connection of its own while COPY occupies the other
            reading = _open(db, side, batch, recipes)
            watch = Watch()
            store.write_copies(db, batch.review_id, batch_id, _ticking(watch.over(reading), reading, progress, size))
        if reading.records == 0:
            told = reading.problems[0].message if reading.problems else "it holds no record"
            raise NotReadable(f"no record could be read: {told}")
        batch.state, batch.format, batch.encoding, batch.sure = "read", reading.format, reading.encoding, reading.sure
        batch.header, batch.certainty, batch.failure = reading.header, reading.certainty, ""
        batch.reading = {
            "fields": reading.fields, "recipe": reading.recipe.text() if reading.recipe else "", "delimiter": reading.delimiter,
            "sheets": reading.sheets, "sheet": reading.sheet,
        }  # fmt: skip
        batch.odd = [
            {**suspicion._asdict(), "places": [list(place) for place in suspicion.places]}
            for suspicion in watch.suspicions(reading.people, reading.settled)
        ]
        for problem in reading.problems[:MAX_PROBLEMS]:
            db.add(ReadingProblem(batch_id=batch_id, line=problem.line, message=problem.message.replace("\x00", "")))
        if batch.how.get("label"):
            label_batch(db, batch.review_id, job.account_id, batch_id, batch.how["label"])
        summary = {"format": reading.format, "records": reading.records, "problems": len(reading.problems)}
        db.add(_event(job, "gather.file_read", batch.filename, summary))
        jobs.finish_in(db, job, "done", f"{reading.records:,} records")


def _open(db: Session, side: Session, batch: Batch, recipes: list[Recipe]) -> formats.Reading:
    """Begin to read a file as a person wants it; failing that, as files of its source were read the last time."""
    how = how_of(batch.how)
    reading = apart.open_reading(store.open_blob(side, batch.sha256), how, recipes, READING)
    if any(name in batch.how for name in HOW):
        return reading
    source = store.source_of(db, batch.search_id)
    habit = db.get(Habit, (batch.review_id, source, reading.format))
    if habit is None or not habit.how:
        return reading
    batch.how = {**batch.how, **habit.how, "habit": True}
    return apart.open_reading(store.open_blob(side, batch.sha256), how_of(batch.how), recipes, READING)


def how_of(said: Mapping[str, Any]) -> How:
    """How a file is to be read, from what was kept of it."""
    try:
        recipe = recipe_of(said["recipe"]) if said.get("recipe") else None
    except NotARecipe:
        recipe = None
    header = said.get("header")
    return How(
        str(said.get("format", "")), str(said.get("encoding", "")), fields_from(said.get("fields")), recipe, str(said.get("sheet", "")),
        header if isinstance(header, int) else None, str(said.get("names", "")),
    )  # fmt: skip


def _ticking(entries: Iterator[Entry], reading: formats.Reading, progress: jobs.Progress, size: int) -> Iterator[Entry]:
    for entry in entries:
        if entry.position % 500 == 0:
            progress.tick(min(0.99, reading.bytes_read / size))
        yield entry


def read_again(review: int, account: int, batch: int, how: Mapping[str, Any]) -> int:
    """Have a file read otherwise; the file that it is then: the same, or a new one where its records were in the review before.

    ``how`` has the keys of `How`; empty values are found out anew. A recipe is its text.
    """
    if how.get("format") and how["format"] not in formats.FORMATS:
        raise Invalid("There is no such format.", field="format")
    if how.get("encoding") and how["encoding"] not in formats.CODECS:
        raise Invalid("There is no such encoding.", field="encoding")
    if how.get("recipe"):
        try:
            recipe_of(str(how["recipe"]))
        except NotARecipe as error:
            raise Invalid(f"This recipe cannot be used. {error}", field="recipe") from None
    kept = {name: value for name, value in how.items() if value not in ("", None, {}, False)}
    with changing(review, account, "gather", alone=False) as change:
        found = _held(change.db, review, batch)
        change.wait_turn()
        if found.state in ("waiting", "reading"):
            raise Conflict("This file is still being read.")
        if found.format == "catalogue":
            raise Conflict("These records are as the catalogue gave them; there is no other way to read them.")
        if found.state == "leaving":
            raise Conflict("This file is still being set aside; wait for that.")
        if found.state == "taken":
            raise Conflict("The records of this file are in the review. Set the file aside first; then it can be read otherwise.")
        label = {"label": found.how["label"]} if found.how.get("label") else {}
        before = {name: value for name, value in found.how.items() if name != "label"}
        if store.hangs_on(change.db, batch):
            found.state = "aside"
            found = Batch(
                review_id=review, search_id=found.search_id, run_id=found.run_id, filename=found.filename, sha256=found.sha256, uploaded_by=account
            )  # fmt: skip
            change.db.add(found)
        else:
            store.forget_copies(change.db, batch)
            found.keyed = False
        found.state, found.how, found.odd, found.failure = "waiting", {**label, **kept}, [], ""
        change.db.flush()
        assert found.id is not None
        jobs.begin(change, "read_file", f"Reading {found.filename} again", found.id)
        change.event("gather.read_again", found.filename, before, kept)
        return found.id


def _event(job: Job, kind: str, subject: str, after: Any) -> Event:
    return Event(review_id=job.review_id, account_id=job.account_id, kind=kind, subject=subject, after=after)


def _not_readable(job: Job, batch_id: int, message: str) -> None:
    with session() as db:
        batch = db.get(Batch, batch_id)
        if batch is not None:
            batch.state, batch.failure = "failed", message
            db.add(_event(job, "gather.file_not_read", batch.filename, {"reason": message}))
        jobs.finish_in(db, job, "failed", f"{batch.filename if batch else 'The file'}: {message}")


def _held(db: Session, review: int, batch: int) -> Batch:
    """A file that nobody else takes in, sets aside or has read otherwise meanwhile. It is locked before the review is."""
    return _batch(db, review, batch, held=True)


def _batch(db: Session, review: int, batch: int, *, held: bool = False) -> Batch:
    found = db.get(Batch, batch)
    if held and found is not None and found.state not in ("waiting", "reading"):  # while it is read, the reader holds it
        db.refresh(found, with_for_update=True)
    if found is None or found.review_id != review:
        raise NotFound("There is no such file in this review.")
    return found


def take_in(review: int, account: int, batch: int) -> None:
    """Records of a file that was read become part of the review, and are matched."""
    with changing(review, account, "gather", alone=False, large=True) as change:
        found = _held(change.db, review, batch)
        if found.state == "taken":
            raise Conflict("This file was taken in already.")
        if found.state not in ("read", "aside", "leaving") or not found.format:
            raise Conflict("This file has not been read to its end.")
        before, found.state, found.matched = found.state, "taken", False
        change.db.flush()
        copies = bring_in(change, batch)
        _remember(change.db, found)
        jobs.begin(change, "match_copies", f"Matching {found.filename}")
        change.event("gather.taken_in", found.filename, before, {"copies": copies})


def bring_in(change: Change, batch: int) -> int:
    """Make records of a file's copies; how many. Others see nothing of it and wait for nothing until all is made; then it is this change's turn."""
    ids = admit(change.db, batch)
    change.stands(ids)
    change.wait_turn()
    change.stands(carrying_seed_keys(change.db, change.review, batch))  # pasted while the records were made
    written(change.db, change.review)
    narrow_again(change, ids)
    return len(ids)


def _remember(db: Session, batch: Batch) -> None:
    """Files of this source are to be read as this one was, if a person said how."""
    kept = {name: value for name, value in batch.how.items() if name in HOW}
    source = store.source_of(db, batch.search_id)
    if kept:
        db.merge(Habit(review_id=batch.review_id, source=source, format=batch.format, how=kept))


def set_aside(review: int, account: int, batch: int) -> None:
    """A file's records leave the review; nothing is lost, and it can be taken in again. Those of a large one leave in parts, the first of them now."""
    with changing(review, account, "gather", alone=False) as change:
        found = _held(change.db, review, batch)
        change.wait_turn()
        if found.state in ("waiting", "reading"):
            raise Conflict("This file is still being read; cancel that first.")
        if found.state in ("aside", "leaving"):
            raise Conflict("This file was set aside already.")
        before = found.state
        gone = before != "taken" or leave(change, batch)
        found.state, found.matched = "aside" if gone else "leaving", False
        if not gone:
            jobs.begin(change, "leave_review", f"Setting {found.filename} aside", batch)
        change.event("gather.set_aside", found.filename, before, "aside")


def leave_review(job_id: int) -> None:
    """The job behind setting a large file aside: what is left of its copies leaves in parts, unless the file is taken in again meanwhile."""
    with jobs.working(job_id) as work:
        if work is None:
            return
        job, progress = work
        assert job.subject_id is not None
        left = 0
        while True:
            with changing(job.review_id, job.account_id, "gather", alone=False) as change:
                found = _held(change.db, job.review_id, job.subject_id)
                change.wait_turn()
                if found.state != "leaving" or leave(change, job.subject_id):
                    found.state = "aside" if found.state == "leaving" else found.state
                    jobs.finish_in(change.db, job, "done")
                    return
                left += LEAVING
                of = store.size_of(change.db, job.subject_id)
            progress.tick(min(1.0, left / of))


def bring_back(review: int, account: int, batch: int) -> None:
    """Undo setting aside a file that had not been taken in: it can be looked at again."""
    with changing(review, account, "gather", alone=False) as change:
        found = _held(change.db, review, batch)
        change.wait_turn()
        if found.state != "aside":
            raise Conflict("This file is not set aside.")
        found.state = "read" if found.format else "failed"
        change.event("gather.brought_back", found.filename, "aside", found.state)


class Look(NamedTuple):
    """A file before it is taken in."""

    batch: Batch
    search: Search
    run: SearchRun
    with_others: int
    filled: Row
    problems: Sequence[Row]
    odd: Sequence[Row]


def look_at(review: int, batch: int) -> Look:
    """What a file was read as."""
    with snapshot() as db:
        found = _batch(db, review, batch)
        search, of_run = db.get(Search, found.search_id), db.get(SearchRun, found.run_id)
        assert search is not None
        assert of_run is not None
        problems, others = store.problems_of(db, batch), store.copies_of_run(db, found.run_id)
        look = Look(found, search, of_run, others, store.fullness(db, batch), problems, store.odd_positions(db, batch))
        db.expunge_all()
        return look


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
        copy_at = store.copy_at(db, batch, position)
        if copy_at is None:
            raise NotFound(f"This file has no record {position}.")
        record = record_of(copy_at)
        kept = found.reading
        recipe = recipe_of(kept["recipe"]) if kept.get("recipe") else None
        lines = trace(
            found.format, copy_at["raw"], copy_at["line"], record, found.header, kept.get("fields") or None, recipe, kept.get("delimiter", "")
        )  # fmt: skip
        problems = store.problems_of(db, batch, copy_at["line"], copy_at["end_line"])
        return Entered(position, copy_at["line"], copy_at["end_line"], record, lines, problems)


def original(review: int, batch: int) -> tuple[str, Iterator[bytes]]:
    """A file as it was uploaded, in pieces, with its name."""
    with session() as db:
        found = _batch(db, review, batch)
        return found.filename.replace("/", "-"), store.stream_blob(found.sha256)
