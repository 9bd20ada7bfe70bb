"""Labels for files and for selections of records."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime

from sqlmodel import Session

from kettlesort.store import labels as store
from kettlesort.store.base import Row, rows, scalar, snapshot
from kettlesort.store.labels import Label
from kettlesort.store.report import Event
from kettlesort.work.change import change
from kettlesort.work.errors import Invalid, NotFound

LONGEST = 100


def labels(review: int) -> Sequence[Row]:
    """The labels of a review with how many records carry each."""
    with snapshot() as db:
        return store.labels(db, review)


def _named(db: Session, review: int, account: int, name: str) -> int:
    """The label of this name, made if there is none."""
    name = " ".join(name.split())
    if not name or len(name) > LONGEST:
        raise Invalid(f"A label has a name of at most {LONGEST} characters.", field="label")
    found = scalar(db, "SELECT id FROM label WHERE review_id = :v AND lower(name) = lower(:n) AND removed_at IS NULL", v=review, n=name)
    if found:
        return int(found)
    label = Label(review_id=review, name=name, account_id=account)
    db.add(label)
    db.flush()
    assert label.id is not None
    return label.id


def label_batch(db: Session, review: int, account: int, batch: int, name: str) -> None:
    """Label every copy of a file, within a transaction."""
    copies = [it["id"] for it in rows(db, "SELECT id FROM copy WHERE batch_id = :b", b=batch)]
    store.put(db, _named(db, review, account, name), copies)
    db.add(Event(review_id=review, account_id=account, kind="gather.labelled", subject=name, after={"copies": len(copies)}))


def put(review: int, account: int, name: str, records: Sequence[int]) -> tuple[int, list[int]]:
    """Label records; the label, and the copies that had not got it, for taking back."""
    with change(review, account, "gather") as it:
        ids = _own(it.db, review, records)
        label = _named(it.db, review, account, name)
        new = store.put(it.db, label, ids)
        it.event("gather.labelled", name, None, {"records": len(ids)})
        return label, new


def take(review: int, account: int, label: int, copies: Sequence[int]) -> int:
    """Take a label off records, or off copies: whatever of them has it."""
    with change(review, account, "gather") as it:
        found = it.db.get(Label, label)
        if found is None or found.review_id != review:
            raise NotFound("There is no such label.")
        having = [
            c["copy_id"]
            for c in rows(
                it.db,
                "SELECT DISTINCT q.copy_id FROM placement p JOIN placement q ON q.record_id = p.record_id WHERE p.review_id = :v AND p.copy_id = ANY(CAST(:c AS bigint[]))",
                v=review, c=list(copies),
            )
        ]  # fmt: skip
        gone = store.take(it.db, label, having)
        it.event("gather.unlabelled", found.name, {"records": gone})
        return gone


def remove(review: int, account: int, label: int, back: bool = False) -> None:
    """Remove a label from all records, or bring it back as it was."""
    with change(review, account, "gather") as it:
        found = it.db.get(Label, label)
        if found is None or found.review_id != review:
            raise NotFound("There is no such label.")
        found.removed_at = None if back else datetime.now(UTC)
        it.event("gather.label_brought_back" if back else "gather.label_removed", found.name)


def _own(db: Session, review: int, records: Sequence[int]) -> list[int]:
    """Those of the records that are this review's."""
    found = rows(db, "SELECT id FROM record WHERE review_id = :v AND id = ANY(CAST(:i AS bigint[]))", v=review, i=list(records))
    if not found:
        raise NotFound("None of these records is in this review.")
    return [it["id"] for it in found]
