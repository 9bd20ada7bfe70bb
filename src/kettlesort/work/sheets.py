"""A list of records as a spreadsheet to decide on elsewhere, and what comes back in it."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import BinaryIO, NamedTuple

from kettlesort import apart
from kettlesort.core.formats import decisions
from kettlesort.store import passes as store
from kettlesort.store import provenance
from kettlesort.store.base import seen_by, snapshot
from kettlesort.store.ranking import titles_of
from kettlesort.store.records import Wanted, record_of
from kettlesort.work import protocol, screen
from kettlesort.work.errors import Invalid, Refused
from kettlesort.work.records import ids_of
from kettlesort.work.screen import Said

MOST = 20_000
AT_ONCE = 200


def _read(path: str, reasons: list[tuple[int, str]]) -> decisions.Returned:
    with open(path, "rb") as file:
        return decisions.read(file, reasons)


def _reasons(review: int, number: int) -> list[tuple[int, str]]:
    return [
        (criterion.id or 0, criterion.name)
        for criterion in protocol.protocol(review).criteria
        if (criterion.first if number == 1 else criterion.second)
    ]


def out(review: int, account: int, number: int, wanted: Wanted) -> bytes:
    """The records of a list as a workbook, with what one said of them oneself."""
    held = ids_of(review, wanted, MOST)
    if not held:
        raise Invalid("This list is empty; there is nothing to send out.", field="list")
    with seen_by(account), snapshot() as db:
        records = {row["id"]: record_of(row) for row in provenance.records(db, held)}
        own = store.own_said(db, review, account, number)
    rows = []
    for one in held:
        if one not in records:
            continue
        record, said = records[one], own.get(one)
        rows.append(
            (one, record.title, "; ".join(record.authors), record.year or "", record.journal, record.doi, record.abstract, said["verdict"] if said else "",
             said["criterion"] if said else "", said["note"] if said else "")
        )  # fmt: skip
    made = io.BytesIO()
    decisions.write(rows, [name for _, name in _reasons(review, number)], made)
    return made.getvalue()


class Change(NamedTuple):
    """What a row would change: the verdict, the note, or both; ``before`` and ``note_before`` are one's own as they are."""

    line: int
    record: int
    title: str
    before: str
    verdict: str
    criterion: int | None
    reason: str
    note_before: str
    note: str | None


class Looked(NamedTuple):
    """What a sheet would change, how many of its rows change nothing, and what in it cannot be understood."""

    changes: list[Change]
    same: int
    wrong: list[decisions.Wrong]


def look(review: int, account: int, number: int, file: BinaryIO) -> Looked:
    """What a sheet that came back would change, before it does."""
    reasons = _reasons(review, number)
    try:
        with apart.on_disk(file) as path:
            said = apart.call(_read, path, reasons)
    except (ValueError, apart.Broken) as error:
        raise Invalid(f"This sheet cannot be read: {error}.", field="file") from None
    with seen_by(account), snapshot() as db:
        titles = {number: row["title"] for number, row in titles_of(db, review, [line.record for line in said.lines]).items()}
        own = store.own_said(db, review, account, number)
    names = dict(reasons)
    changes, wrong, same = [], list(said.wrong), 0
    for line in said.lines:
        if line.record not in titles:
            wrong.append(
                decisions.Wrong(line.line, f"there is no record {line.record} in this review; it may have been joined with another")
            )
            continue
        held = own.get(line.record)
        before, why, note = (held["verdict"], held["criterion_id"], held["note"]) if held else ("", None, "")
        verdict = line.decision if line.decision and (line.decision, line.reason) != (before, why) else ""
        noted = line.note if said.with_notes and line.note != note else None
        if not verdict and noted is None:
            same += 1
            continue
        changes.append(
            Change(
                line.line,
                line.record,
                titles[line.record],
                before,
                verdict,
                line.reason if verdict else None,
                names.get(line.reason or 0, "") if verdict else "",
                note,
                noted,
            )
        )
    return Looked(changes, same, sorted(wrong))


class Taken(NamedTuple):
    """A row to be taken in as it was shown: "" for no verdict, None for no note."""

    record: int
    verdict: str
    criterion: int | None
    note: str | None


class TakenIn(NamedTuple):
    """How many records were changed, and which were refused, with the reason."""

    records: list[int]
    refused: list[tuple[int, str]]


def take_in(review: int, account: int, number: int, rows: Sequence[Taken]) -> TakenIn:
    """Take rows of a sheet in, each as if it had been decided at the desk; what cannot be is told and nothing else is held up by it."""
    if len(rows) > AT_ONCE:
        raise Invalid(f"At most {AT_ONCE} rows are taken in at once.")
    done, refused = [], []
    for row in rows:
        try:
            if row.note is not None:
                screen.note(review, account, row.record, row.note)
            if row.verdict:
                screen.decide(review, account, Said(row.record, number, row.verdict, row.criterion))
            done.append(row.record)
        except Refused as error:
            refused.append((row.record, str(error)))
    return TakenIn(done, refused)
