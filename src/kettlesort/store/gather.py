"""Searches, uploaded files, and the copies read from them."""

from __future__ import annotations

from datetime import date

from sqlalchemy import ARRAY, BigInteger, Column, Index, LargeBinary, Text
from sqlmodel import Field

from kettlesort.store.base import Moment, Table, json_field, key, moment, reference


class Search(Table, table=True):
    """One query run on one source on one day. ``announced`` is the count that the source gave."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    number: int
    source: str
    kind: str
    query: str = ""
    run_on: date | None = None
    run_by: str = ""
    notes: str = ""
    announced: int | None = None
    removed_at: Moment | None = moment(null=True)


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
    """An imported file of a search. State: waiting, reading, read, failed, taken or aside."""

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    search_id: int = reference("search.id", index=True)
    filename: str
    sha256: str = Field(foreign_key="blob.sha256")
    state: str = "waiting"
    format: str = ""
    encoding: str = ""
    sure: bool = True
    failure: str = ""
    header: list[str] = json_field([])
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


class SeedKey(Table, table=True):
    """A pasted identifier, DOI or accession, that makes the records which carry it seeds."""

    __tablename__ = "seed_key"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    key: str
    removed_at: Moment | None = moment(null=True)


class SeedMark(Table, table=True):
    """A copy marked as a seed by a person; withdrawn by time, never deleted."""

    __tablename__ = "seed_mark"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    copy_id: int = reference("copy.id", index=True)
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    withdrawn_at: Moment | None = moment(null=True)
