"""What a registry proposes for what records lack, beside what stands."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlmodel import Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, one_of, reference
from kettlesort.store.records import COLUMNS
from kettlesort.store.sql import rows, run


class Gap(Table, table=True):
    """A value that a source proposes for a field of a record. State: proposed, taken or left."""

    __table_args__ = (one_of("state", "proposed", "taken", "left"),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    copy_id: int = reference("copy.id", index=True)
    field: str
    before: Any = json_field()
    value: Any = json_field()
    source: str
    state: str = "proposed"
    account_id: int | None = reference("account.id", null=True)
    at: Moment | None = moment()


def leave_proposals(db: Session, review: int, records: Sequence[int]) -> None:
    """What is proposed for these records is left, so that it is asked for anew."""
    run(
        db,
        "UPDATE gap SET state = 'left' WHERE review_id = :review AND state = 'proposed' AND copy_id = ANY(CAST(:records AS bigint[]))",
        review=review, records=list(records),
    )  # fmt: skip


def not_asked_about(db: Session, review: int) -> Sequence[Row]:
    """The records in play for which nothing is proposed, seeds and included ones first."""
    return rows(
        db,
        f"""SELECT r.id, {", ".join("r." + name for name in COLUMNS.split(", "))} FROM record r JOIN standing s ON s.record_id = r.id
        WHERE r.review_id = :review AND s.first NOT IN ('exclude', 'aside') AND NOT EXISTS (SELECT 1 FROM gap g WHERE g.copy_id = r.id AND g.state = 'proposed')
        ORDER BY s.seed DESC, s.first = 'include' DESC, r.id""",
        review=review,
    )


def proposals(db: Session, review: int) -> Sequence[Row]:
    """What is proposed and neither taken nor left, at most 5,000."""
    return rows(
        db,
        """SELECT g.id, p.record_id, r.title, r.year, g.field, g.before, g.value, g.source FROM gap g JOIN placement p ON p.copy_id = g.copy_id
        JOIN record r ON r.id = p.record_id WHERE g.review_id = :review AND g.state = 'proposed' ORDER BY g.id LIMIT 5000""",
        review=review,
    )


def without_abstract(db: Session, review: int) -> Sequence[Row]:
    """The records that have no abstract, with the accessions of their copies."""
    return rows(
        db,
        """SELECT r.id, r.title, r.year, r.doi,
        ARRAY(SELECT lower(c.accession) FROM placement p JOIN copy c ON c.id = p.copy_id WHERE p.record_id = r.id AND c.accession <> '') AS accessions
        FROM record r WHERE r.review_id = :review AND r.abstract = ''""",
        review=review,
    )
