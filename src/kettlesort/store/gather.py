"""Searches, uploaded files, and the copies read from them."""

from __future__ import annotations

import io
import json
from collections.abc import Iterable, Iterator, Sequence
from datetime import date
from hashlib import sha256
from typing import Any, BinaryIO, cast

from sqlalchemy import ARRAY, BigInteger, Column, Computed, Index, LargeBinary, Text, UniqueConstraint
from sqlmodel import Field, Session

from kettlesort.core.formats import Entry
from kettlesort.core.record import Record
from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, one_of, reference, session
from kettlesort.store.sql import column, copying, row, rows, run, scalar

_PIECE = 1 << 20


class Search(Table, table=True):
    """An entry of the search log: a source, and every time that it was searched for one purpose."""

    __table_args__ = (
        one_of("kind", "database", "register", "website", "organisation", "citation"),
        UniqueConstraint("review_id", "number"),
    )

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    number: int
    source: str
    kind: str
    notes: str = ""
    removed_at: Moment | None = moment(null=True)


class SearchRun(Table, table=True):
    """One query run on one day, within limits in words. ``announced`` is the count that the source gave.

    A run in a connected catalogue has a ``state`` (fetching, done, failed or cancelled) and what the catalogue
    ``understood`` by each term. One for what is like some records has these in ``nearest_to``, and how many are to be kept.
    """

    __tablename__ = "search_run"
    __table_args__ = (one_of("state", "", "fetching", "done", "failed", "cancelled"), UniqueConstraint("search_id", "number"))

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    search_id: int = reference("search.id", index=True)
    number: int
    query: str = ""
    limits: str = ""
    run_on: date | None = None
    run_by: str = ""
    announced: int | None = None
    notes: str = ""
    query_version: int | None = None
    catalogue_id: int | None = reference("catalogue.id", null=True)
    state: str = ""
    failure: str = ""
    understood: list[Any] = json_field([])
    nearest_to: dict[str, Any] = json_field({})
    made_at: Moment | None = moment()


class Fetched(Table, table=True):
    """A record that a run in a catalogue brought, as the catalogue gave it, until the run is whole. ``key`` is "" for one that was not kept."""

    run_id: int = reference("search_run.id", primary=True)
    position: int = Field(primary_key=True)
    key: str
    raw: str


class Blob(Table, table=True):
    """An uploaded file by its content; reached only through what names it within a review."""

    sha256: str = Field(primary_key=True)
    size: int = Field(sa_type=BigInteger)


class BlobPiece(Table, table=True):
    """A piece of a blob, at most a megabyte."""

    __tablename__ = "blob_piece"

    sha256: str = Field(foreign_key="blob.sha256", primary_key=True)
    number: int = Field(primary_key=True)
    data: bytes = Field(sa_column=Column(LargeBinary, nullable=False))


class Batch(Table, table=True):
    """An imported file of a search's run. State: waiting, reading, read, failed, taken or aside.

    ``certainty`` is how sure its format is, ``reading`` what else the reader found out (labels and their fields, recipe,
    delimiter, sheets), ``odd`` what looks wrong in it, ``how`` how a person wants it read.
    """

    __table_args__ = (
        one_of("state", "waiting", "reading", "read", "failed", "taken", "leaving", "aside"),
        Index("ix_batch_sha256", "sha256"),
    )

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    search_id: int = reference("search.id", index=True)
    run_id: int = reference("search_run.id", index=True)
    filename: str
    sha256: str = Field(foreign_key="blob.sha256")
    state: str = "waiting"
    format: str = ""
    encoding: str = ""
    sure: bool = True
    failure: str = ""
    header: list[str] = json_field([])
    certainty: str = "sure"
    reading: dict[str, Any] = json_field({})
    odd: list[Any] = json_field([])
    how: dict[str, Any] = json_field({})
    matched: bool = False
    keyed: bool = False
    uploaded_by: int = reference("account.id")
    uploaded_at: Moment | None = moment()


class ReadingProblem(Table, table=True):
    """Something in a file that could not be read as it stands."""

    __tablename__ = "reading_problem"

    id: int | None = key()
    batch_id: int = reference("batch.id", index=True)
    line: int
    message: str


def _list_of_text() -> Column[list[str]]:
    return Column(ARRAY(Text), nullable=False, server_default="{}")


def descriptors_of_keywords() -> Column[list[str]]:
    """The descriptors of the keywords, each once and in one spelling; worked out by the database."""
    return Column(ARRAY(Text), Computed("descriptors_of(keywords)", persisted=True), nullable=False)


class Fields(Table):
    """The fields of a record, as columns."""

    kind: str = "other"
    title: str = Field(default="", sa_type=Text)
    year: int | None = None
    date: str = ""
    journal: str = ""
    journal_short: str = ""
    volume: str = ""
    issue: str = ""
    pages: str = ""
    doi: str = ""
    accession: str = ""
    issn: str = ""
    abstract: str = Field(default="", sa_type=Text)
    language: str = ""
    url: str = ""
    publisher: str = ""
    note: str = ""


class Copy(Fields, table=True):
    """One imported occurrence of a record, as its file has it. Never changed."""

    __table_args__ = (Index("ix_copy_batch_position", "batch_id", "position", unique=True),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    batch_id: int = reference("batch.id")
    position: int
    line: int
    end_line: int
    raw: str = Field(sa_type=Text)
    authors: list[str] = Field(default_factory=list, sa_column=_list_of_text())
    keywords: list[str] = Field(default_factory=list, sa_column=_list_of_text())
    references: list[str] = Field(default_factory=list, sa_column=_list_of_text())
    extra: list[list[str]] = json_field([])
    descriptors: list[str] = Field(default_factory=list, sa_column=descriptors_of_keywords())


def put_blob(db: Session, file: BinaryIO) -> tuple[str, int]:
    """Store a file by its content, once; its hash and size."""
    digest, size = sha256(), 0
    while piece := file.read(_PIECE):
        digest.update(piece)
        size += len(piece)
    name = digest.hexdigest()
    if db.get(Blob, name) is None:
        file.seek(0)
        run(db, "INSERT INTO blob (sha256, size) VALUES (:name, :size) ON CONFLICT DO NOTHING", name=name, size=size)
        number = 0
        while piece := file.read(_PIECE):
            run(
                db,
                "INSERT INTO blob_piece (sha256, number, data) VALUES (:name, :number, :data) ON CONFLICT DO NOTHING",
                name=name, number=number, data=piece,
            )  # fmt: skip
            number += 1
    return name, size


class BlobReader(io.RawIOBase):
    """A stored blob as a seekable binary file, a piece in memory at a time."""

    def __init__(self, db: Session, name: str) -> None:
        self._db, self._name, self._at = db, name, 0
        blob = db.get(Blob, name)
        self.size = blob.size if blob else 0
        self._held: tuple[int, bytes] = (-1, b"")

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def tell(self) -> int:
        return self._at

    def seek(self, offset: int, whence: int = 0) -> int:
        self._at = max(0, offset + (0 if whence == 0 else self._at if whence == 1 else self.size))
        return self._at

    def readinto(self, buffer: Any) -> int:
        number, skip = divmod(self._at, _PIECE)
        if self._held[0] != number:
            found = scalar(
                self._db, "SELECT data FROM blob_piece WHERE sha256 = :name AND number = :number", name=self._name, number=number
            )
            self._held = (number, bytes(found or b""))
        piece = self._held[1][skip : skip + len(buffer)]
        buffer[: len(piece)] = piece
        self._at += len(piece)
        return len(piece)


def stream_blob(name: str) -> Iterator[bytes]:
    """A stored blob, a piece at a time, each read by itself: who downloads slowly holds nothing."""
    number = 0
    while True:
        with session() as db:
            data = scalar(db, "SELECT data FROM blob_piece WHERE sha256 = :name AND number = :number", name=name, number=number)
        if data is None:
            return
        yield bytes(data)
        number += 1


def open_blob(db: Session, name: str) -> BinaryIO:
    """A stored blob for reading."""
    return cast(BinaryIO, io.BufferedReader(BlobReader(db, name), _PIECE))


def size_of(db: Session, batch: int) -> int:
    """How many copies were read from a file."""
    return int(scalar(db, "SELECT count(*) FROM copy WHERE batch_id = :b", b=batch))


def copies_of(db: Session, batch: int) -> list[int]:
    """The copies that were read from a file."""
    return [row["id"] for row in rows(db, "SELECT id FROM copy WHERE batch_id = :b ORDER BY id", b=batch)]


_FIELDS = tuple(f'"{name}"' for name in Record._fields)
_COPY_COLUMNS = ("review_id", "batch_id", "position", "line", "end_line", "raw", *Record._fields)


def write_copies(db: Session, review: int, batch: int, entries: Iterable[Entry]) -> None:
    """Write entries as copies of a batch, as a stream."""
    with copying(db, "copy", _COPY_COLUMNS) as out:
        for position, line, end_line, text, record in entries:
            out.write(_copy_line(review, batch, position, line, end_line, text, record))


_YEAR, _EXTRA = Record._fields.index("year"), Record._fields.index("extra")
_TUPLES = [Record._fields.index(name) for name in ("authors", "keywords", "references")]
_BETWEEN = "\x1f"


def _array(values: Sequence[str]) -> str:
    if not values:
        return "{}"
    return "{" + ",".join(['"' + value.replace("\\", "\\\\").replace('"', '\\"') + '"' for value in values]) + "}"


def _escaped(text: str) -> str:
    """Text as PostgreSQL's COPY wants it; NUL, which it cannot hold, is left out."""
    return text.replace("\\", "\\\\").replace("\t", "\\t").replace("\n", "\\n").replace("\r", "\\r").replace("\x00", "")


def _cells(values: list[str]) -> str:
    """Cells side by side; escaped in one go, unless a cell itself holds the separator."""
    text = _BETWEEN.join(values)
    if text.count(_BETWEEN) >= len(values):
        return "\t".join(map(_escaped, values))
    return _escaped(text).replace(_BETWEEN, "\t")


def _copy_line(review: int, batch: int, position: int, line: int, end_line: int, text: str, record: Record) -> str:
    """One row for COPY."""
    values: list[Any] = list(record)
    for k in _TUPLES:
        values[k] = _array(values[k])
    values[_EXTRA] = json.dumps(record.extra, ensure_ascii=False).replace("\\u0000", "") if record.extra else "[]"
    year = "\\N" if record.year is None else record.year
    return f"{review}\t{batch}\t{position}\t{line}\t{end_line}\t{_cells([text, *values[:_YEAR]])}\t{year}\t{_cells(values[_YEAR + 1 :])}\n"


def searches(db: Session, review: int) -> Sequence[Row]:
    """The entries of the search log."""
    return rows(db, "SELECT * FROM search WHERE review_id = :review AND removed_at IS NULL ORDER BY number", review=review)


def runs(db: Session, review: int, search: int | None = None) -> Sequence[Row]:
    """Every run with its counts: files, copies imported, and records that no earlier copy of the review had."""
    return rows(
        db,
        """SELECT r.*, c.name AS catalogue, (SELECT count(*) FROM batch b WHERE b.run_id = r.id AND b.state <> 'aside') AS files,
        (SELECT count(*) FROM batch b WHERE b.run_id = r.id AND b.state IN ('waiting', 'reading', 'read')) AS waiting,
        (SELECT count(*) FROM placement p JOIN batch b ON b.id = p.batch_id WHERE p.review_id = :review AND b.run_id = r.id) AS imported,
        (SELECT count(*) FROM placement p JOIN batch b ON b.id = p.batch_id WHERE p.review_id = :review AND b.run_id = r.id AND p.copy_id = p.record_id) AS new,
        (SELECT count(*) FROM fetched f WHERE f.run_id = r.id) AS fetched
        FROM search_run r JOIN search s ON s.id = r.search_id LEFT JOIN catalogue c ON c.id = r.catalogue_id
        WHERE r.review_id = :review AND s.removed_at IS NULL AND (CAST(:search AS bigint) IS NULL OR r.search_id = :search) ORDER BY r.search_id, r.number""",
        review=review, search=search,
    )  # fmt: skip


def batches(db: Session, review: int) -> Sequence[Row]:
    """All uploaded files, by search, with the number of copies read from each, and the labels that all of them carry."""
    return rows(
        db,
        """SELECT b.id, b.search_id, b.run_id, b.filename, b.state, b.format, b.encoding, b.certainty, b.failure, b.uploaded_at, s.source, s.number, u.number AS run_number,
        u.announced, u.run_on, a.full_name AS uploaded_by,
        (SELECT count(*) FROM copy c WHERE c.batch_id = b.id) AS records,
        (SELECT count(*) FROM reading_problem r WHERE r.batch_id = b.id) AS problems,
        jsonb_array_length(b.odd) AS odd,
        ARRAY(SELECT l.name FROM copy c JOIN seen_labelled d ON d.copy_id = c.id JOIN label l ON l.id = d.label_id WHERE c.batch_id = b.id AND l.removed_at IS NULL
            GROUP BY l.id, l.name HAVING count(DISTINCT c.id) = (SELECT count(*) FROM copy x WHERE x.batch_id = b.id) ORDER BY l.name) AS labels,
        (SELECT count(*) FROM copy c JOIN batch o ON o.id = c.batch_id WHERE o.run_id = b.run_id AND o.state IN ('read', 'taken')) AS with_others
        FROM batch b JOIN search s ON s.id = b.search_id JOIN search_run u ON u.id = b.run_id JOIN account a ON a.id = b.uploaded_by
        WHERE b.review_id = :review ORDER BY s.number, b.id""",
        review=review,
    )


def fullness(db: Session, batch: int) -> Row:
    """How many copies of a batch have each field filled."""
    columns = ", ".join(
        f"count(*) FILTER (WHERE {'cardinality(' + name + ') > 0' if name in ('authors', 'keywords') else name + (' IS NOT NULL' if name == 'year' else chr(32) + '<> ' + chr(39) * 2)}) AS {name}"
        for name in ("title", "authors", "year", "journal", "abstract", "doi", "keywords", "accession")
    )
    return rows(db, f"SELECT count(*) AS records, {columns} FROM copy WHERE batch_id = :batch", batch=batch)[0]


def odd_positions(db: Session, batch: int) -> Sequence[Row]:
    """Copies of a batch that a person should look at, with what is odd about each."""
    return rows(
        db,
        """SELECT position, line, array_remove(ARRAY[CASE WHEN title = '' THEN 'title' END, CASE WHEN cardinality(authors) = 0 THEN 'authors' END,
        CASE WHEN year IS NULL THEN 'year' END, CASE WHEN abstract = '' THEN 'abstract' END], NULL) AS lacks
        FROM copy WHERE batch_id = :batch AND (title = '' OR cardinality(authors) = 0 OR year IS NULL OR abstract = '') ORDER BY position""",
        batch=batch,
    )


def blob_size(db: Session, sha256: str) -> int:
    """The size of a stored blob, in bytes."""
    return int(scalar(db, "SELECT size FROM blob WHERE sha256 = :sha256", sha256=sha256))


def source_of(db: Session, search: int) -> str:
    """The source of an entry of the search log."""
    return str(scalar(db, "SELECT source FROM search WHERE id = :search", search=search))


def entry_for(db: Session, review: int, source: str, kind: str) -> int | None:
    """The first entry of the search log for a source of a kind."""
    return scalar(  # type: ignore[no-any-return]
        db,
        "SELECT id FROM search WHERE review_id = :review AND source = :source AND kind = :kind AND removed_at IS NULL ORDER BY id LIMIT 1",
        review=review, source=source, kind=kind,
    )  # fmt: skip


def next_search(db: Session, review: int) -> int:
    """The number of the next entry of the search log."""
    return int(scalar(db, "SELECT coalesce(max(number), 0) + 1 FROM search WHERE review_id = :review", review=review))


def next_run(db: Session, search: int) -> int:
    """The number of the next run of a search."""
    return int(scalar(db, "SELECT coalesce(max(number), 0) + 1 FROM search_run WHERE search_id = :search", search=search))


def count_runs(db: Session, search: int) -> int:
    """How many runs a search has."""
    return int(scalar(db, "SELECT count(*) FROM search_run WHERE search_id = :search", search=search))


def count_files(db: Session, search: int, *, run: int | None = None, aside: bool = True) -> int:
    """How many files a search has, or one run of it; with those that were set ``aside``, or without."""
    return int(
        scalar(
            db,
            f"""SELECT count(*) FROM batch WHERE search_id = :search {"" if aside else "AND state <> 'aside'"}
            AND (CAST(:run AS bigint) IS NULL OR run_id = :run)""",
            search=search, run=run,
        )
    )  # fmt: skip


def same_content(db: Session, review: int, sha256: str) -> str:
    """The name of the first file of a review with this content that is not set aside, or ""."""
    return str(
        scalar(
            db, "SELECT filename FROM batch WHERE review_id = :review AND sha256 = :sha256 AND state <> 'aside' ORDER BY id LIMIT 1",
            review=review, sha256=sha256,
        )
        or ""
    )  # fmt: skip


def copies_of_run(db: Session, run: int) -> int:
    """How many copies were read from the files of a run, whether they are taken in or not yet."""
    return int(
        scalar(
            db,
            "SELECT count(*) FROM copy c JOIN batch o ON o.id = c.batch_id WHERE o.run_id = :run AND o.state IN ('read', 'taken')",
            run=run,
        )
    )


def problems_of(db: Session, batch: int, first: int = 0, last: int = 2**31 - 1) -> Sequence[Row]:
    """What could not be read as it stands, of some lines of a file."""
    return rows(
        db,
        "SELECT line, message FROM reading_problem WHERE batch_id = :batch AND line BETWEEN :first AND :last ORDER BY line, id",
        batch=batch, first=first, last=last,
    )  # fmt: skip


def copy_at(db: Session, batch: int, position: int) -> Row | None:
    """One copy of a file, with where it stands in it."""
    return row(
        db,
        f"SELECT line, end_line, raw, {', '.join(_FIELDS)} FROM copy WHERE batch_id = :batch AND position = :position",
        batch=batch, position=position,
    )  # fmt: skip


def forget_copies(db: Session, batch: int) -> None:
    """What was read from a file is gone, with its labels and keys, so that it can be read otherwise. `hangs_on` must have said no."""
    run(db, "DELETE FROM labelled d USING copy c WHERE d.copy_id = c.id AND c.batch_id = :batch", batch=batch)
    run(db, "DELETE FROM match_key k USING copy c WHERE k.copy_id = c.id AND c.batch_id = :batch", batch=batch)
    run(db, "DELETE FROM copy WHERE batch_id = :batch", batch=batch)
    run(db, "DELETE FROM reading_problem WHERE batch_id = :batch", batch=batch)


def hangs_on(db: Session, batch: int) -> bool:
    """Whether anything was ever said or decided of a copy of a file."""
    return bool(
        scalar(
            db,
            """SELECT EXISTS (SELECT 1 FROM copy c WHERE c.batch_id = :batch AND (EXISTS (SELECT 1 FROM ruling u WHERE c.id IN (u.left_copy, u.right_copy))
            OR EXISTS (SELECT 1 FROM verdict v WHERE v.copy_id = c.id) OR EXISTS (SELECT 1 FROM seed_mark m WHERE m.copy_id = c.id)
            OR EXISTS (SELECT 1 FROM supplement p WHERE p.copy_id = c.id) OR EXISTS (SELECT 1 FROM note t WHERE t.copy_id = c.id)
            OR EXISTS (SELECT 1 FROM narrowed n WHERE n.copy_id = c.id) OR EXISTS (SELECT 1 FROM question q WHERE c.id IN (q.left_copy, q.right_copy))
            OR EXISTS (SELECT 1 FROM full_text f WHERE f.copy_id = c.id) OR EXISTS (SELECT 1 FROM delivered d WHERE d.copy_id = c.id) OR EXISTS (SELECT 1 FROM gap g WHERE g.copy_id = c.id)
            OR EXISTS (SELECT 1 FROM study_report s WHERE s.copy_id = c.id) OR EXISTS (SELECT 1 FROM value w WHERE w.copy_id = c.id)
            OR EXISTS (SELECT 1 FROM proposal o WHERE o.copy_id = c.id) OR EXISTS (SELECT 1 FROM report_reading e WHERE e.copy_id = c.id)
            OR EXISTS (SELECT 1 FROM report_text i WHERE i.copy_id = c.id) OR EXISTS (SELECT 1 FROM told_apart j WHERE c.id IN (j.left_copy, j.right_copy)) OR EXISTS (SELECT 1 FROM trial_pair y WHERE c.id IN (y.left_copy, y.right_copy))
            OR EXISTS (SELECT 1 FROM checked_pair z WHERE c.id IN (z.left_copy, z.right_copy))))""",
            batch=batch,
        )
    )


def fetched(db: Session, run: int) -> Sequence[Row]:
    """What a run in a catalogue has fetched until now, in its order."""
    return rows(db, "SELECT position, key, raw FROM fetched WHERE run_id = :run ORDER BY position", run=run)


def count_fetched(db: Session, run: int) -> int:
    """The place of the last record that a run has fetched."""
    return int(scalar(db, "SELECT coalesce(max(position), 0) FROM fetched WHERE run_id = :run", run=run))


def keep_fetched(db: Session, run_: int, records: Sequence[tuple[int, str, str]]) -> None:
    """Keep what a run has fetched: place, key and text of each record."""
    run(
        db,
        """INSERT INTO fetched (run_id, position, key, raw) SELECT :run, u.* FROM unnest(CAST(:places AS int[]), CAST(:keys AS text[]), CAST(:texts AS text[])) u
        ON CONFLICT DO NOTHING""",
        run=run_, places=[record[0] for record in records], keys=[record[1] for record in records], texts=[record[2] for record in records],
    )  # fmt: skip


def forget_fetched(db: Session, run_: int, only: set[str] | None = None) -> None:
    """The texts that a run fetched are copies by now; its keys stay, or ``only`` these where not all was kept: what was not may come with a later run."""
    run(
        db,
        """UPDATE fetched SET raw = '', key = CASE WHEN CAST(:only AS text[]) IS NULL OR key = ANY(CAST(:only AS text[])) THEN key ELSE '' END
        WHERE run_id = :run""",
        run=run_, only=None if only is None else sorted(only),
    )  # fmt: skip


def fetched_before(db: Session, search: int, run: int) -> set[str]:
    """The keys that earlier runs of a search brought."""
    return set(
        column(
            db,
            "SELECT f.key FROM fetched f JOIN search_run r ON r.id = f.run_id WHERE r.search_id = :search AND r.id <> :run AND r.state = 'done'",
            search=search, run=run,
        )
    )  # fmt: skip


def fetching(db: Session, search: int) -> bool:
    """Whether a run of this search is under way in a catalogue."""
    return bool(scalar(db, "SELECT EXISTS (SELECT 1 FROM search_run WHERE search_id = :search AND state = 'fetching')", search=search))


def count_copies(db: Session, review: int) -> int:
    """How many copies are in a review."""
    return int(scalar(db, "SELECT count(*) FROM placement WHERE review_id = :review", review=review))


def count_records(db: Session, review: int) -> int:
    """How many records these copies are."""
    return int(scalar(db, "SELECT count(*) FROM record WHERE review_id = :review", review=review))
