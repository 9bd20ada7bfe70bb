"""Labels for files and for selections of records."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime

from sqlmodel import Session

from kettlesort.store import labels as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.gather import copies_of
from kettlesort.store.labels import Label
from kettlesort.store.report import Event
from kettlesort.work.change import changing
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
    found = store.named(db, review, name)
    if found:
        return found
    label = Label(review_id=review, name=name, account_id=account)
    db.add(label)
    db.flush()
    assert label.id is not None
    return label.id


def label_batch(db: Session, review: int, account: int, batch: int, name: str) -> None:
    """Label every copy of a file, within a transaction."""
    copies = copies_of(db, batch)
    store.put(db, _named(db, review, account, name), copies)
    db.add(Event(review_id=review, account_id=account, kind="gather.labelled", subject=name, after={"copies": len(copies)}))


def put(review: int, account: int, name: str, records: Sequence[int]) -> tuple[int, list[int]]:
    """Label records; the label, and the copies that had not got it, for taking back."""
    with changing(review, account, "gather") as change:
        ids = _own(change.db, review, records)
        label = _named(change.db, review, account, name)
        new = store.put(change.db, label, ids, account)
        change.event("gather.labelled", name, None, {"records": len(ids)}, about=ids[0] if len(ids) == 1 else None)
        return label, new


def take(review: int, account: int, label: int, copies: Sequence[int], *, only: bool = False) -> list[int]:
    """Take a label off records, named by any of their copies, or ``only`` off these copies; those that had it, for giving it back."""
    with changing(review, account, "gather") as change:
        found = _label(change.db, review, label)
        having = list(copies) if only else store.with_their_records(change.db, review, copies)
        gone = store.take(change.db, label, store.ours(change.db, review, having))
        change.event("gather.unlabelled", found.name, {"copies": len(gone)})
        return gone


def give(review: int, account: int, label: int, copies: Sequence[int]) -> None:
    """Undo taking a label off: exactly these copies have it again."""
    with changing(review, account, "gather") as change:
        found = _label(change.db, review, label)
        ours = store.ours(change.db, review, copies)
        if not ours:
            raise NotFound("None of these copies is in this review.")
        change.event("gather.labelled", found.name, None, {"copies": len(store.put(change.db, label, ours, account))})


def _label(db: Session, review: int, label: int) -> Label:
    found = db.get(Label, label)
    if found is None or found.review_id != review:
        raise NotFound("There is no such label.")
    return found


def remove(review: int, account: int, label: int, back: bool = False) -> None:
    """Remove a label from all records, or bring it back as it was."""
    with changing(review, account, "gather") as change:
        found = _label(change.db, review, label)
        found.removed_at = None if back else datetime.now(UTC)
        change.event("gather.label_brought_back" if back else "gather.label_removed", found.name)


def _own(db: Session, review: int, records: Sequence[int]) -> list[int]:
    """Those of the records that are this review's."""
    found = store.records_here(db, review, records)
    if not found:
        raise NotFound("None of these records is in this review.")
    return found
