"""Seeds: copies that people marked, identifiers that they pasted, and the records that follow."""

from __future__ import annotations

from collections.abc import Sequence

from sqlmodel import Session

from kettlesort.store.base import Moment, Row, Table, key, moment, reference
from kettlesort.store.sql import column, row, rows, run


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


def carrying_seed_keys(db: Session, review: int, batch: int) -> list[int]:
    """The records of a file's copies that carry a pasted identifier."""
    found = rows(
        db,
        """SELECT DISTINCT p.record_id FROM copy c JOIN placement p ON p.copy_id = c.id
        JOIN seed_key k ON k.review_id = :r AND k.removed_at IS NULL AND k.key IN (c.doi, lower(c.accession)) WHERE c.batch_id = :b""",
        r=review, b=batch,
    )  # fmt: skip
    return [row["record_id"] for row in found]


def carrying(db: Session, review: int, keys: Sequence[str]) -> list[int]:
    """The records that have a copy with one of these DOIs or accessions."""
    return column(
        db,
        """SELECT DISTINCT p.record_id FROM placement p JOIN copy c ON c.id = p.copy_id
        WHERE p.review_id = :review AND (c.doi = ANY(CAST(:keys AS text[])) OR lower(c.accession) = ANY(CAST(:keys AS text[])))""",
        review=review, keys=list(keys),
    )  # fmt: skip


def by_key(db: Session, review: int, keys: Sequence[str]) -> dict[str, int]:
    """The first record that carries each of these DOIs or accessions."""
    found = rows(
        db,
        """SELECT p.record_id, c.doi, lower(c.accession) AS accession FROM placement p JOIN copy c ON c.id = p.copy_id
        WHERE p.review_id = :review AND (c.doi = ANY(CAST(:keys AS text[])) OR lower(c.accession) = ANY(CAST(:keys AS text[]))) ORDER BY p.record_id DESC""",
        review=review, keys=list(keys),
    )  # fmt: skip
    return {carried: row["record_id"] for row in found for carried in (row["doi"], row["accession"])}


def seed_and_title(db: Session, review: int, record: int) -> Row | None:
    """Whether a record is a ``seed``, and its title."""
    return row(
        db,
        "SELECT s.seed, r.title FROM standing s JOIN record r ON r.id = s.record_id WHERE s.review_id = :review AND s.record_id = :record",
        review=review, record=record,
    )  # fmt: skip


def unmark(db: Session, review: int, record: int) -> None:
    """Withdraw whatever makes a record a seed: marks on its copies, and identifiers that they carry."""
    run(
        db,
        """UPDATE seed_mark SET withdrawn_at = clock_timestamp()
        WHERE withdrawn_at IS NULL AND copy_id IN (SELECT copy_id FROM placement WHERE record_id = :record)""",
        record=record,
    )
    run(
        db,
        """UPDATE seed_key SET removed_at = clock_timestamp() WHERE review_id = :review AND removed_at IS NULL AND key IN
        (SELECT unnest(ARRAY[c.doi, lower(c.accession)]) FROM placement p JOIN copy c ON c.id = p.copy_id WHERE p.record_id = :record)""",
        review=review, record=record,
    )  # fmt: skip


def seeds(db: Session, review: int) -> Sequence[Row]:
    """The seeds, with whether each has an abstract and keywords."""
    return rows(
        db,
        """SELECT r.id, r.title, r.authors, r.year, r.doi, r.abstract <> '' AS has_abstract, cardinality(r.keywords) > 0 AS has_keywords
        FROM standing s JOIN record r ON r.id = s.record_id WHERE s.review_id = :review AND s.seed ORDER BY r.year, r.id""",
        review=review,
    )


def keys(db: Session, review: int) -> Sequence[Row]:
    """The pasted identifiers, each with the record that carries it."""
    return rows(
        db,
        """SELECT k.id, k.key, (SELECT p.record_id FROM placement p JOIN copy c ON c.id = p.copy_id WHERE p.review_id = :review
        AND (c.doi = k.key OR lower(c.accession) = k.key) ORDER BY p.record_id LIMIT 1) AS record_id
        FROM seed_key k WHERE k.review_id = :review AND k.removed_at IS NULL ORDER BY k.id""",
        review=review,
    )


def titles(db: Session, records: Sequence[int]) -> dict[int, str]:
    """The titles of records."""
    found = rows(db, "SELECT id, title FROM record WHERE id = ANY(CAST(:records AS bigint[]))", records=list(records))
    return {row["id"]: row["title"] for row in found}
