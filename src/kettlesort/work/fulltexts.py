"""Full texts: sought, obtained with their PDFs, or not; and a heap of PDFs that are matched to their records."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from functools import partial
from typing import Any, BinaryIO

from kettlesort import apart
from kettlesort.core.formats import table
from kettlesort.core.formats.archive import DAMAGED, Unsafe, members
from kettlesort.core.fulltext import front
from kettlesort.core.fulltext.pages import NotAPdf
from kettlesort.settings import settings
from kettlesort.store import fulltexts as store
from kettlesort.store import gather
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.fulltexts import Delivered, FullText
from kettlesort.store.jobs import under_way
from kettlesort.store.match import title_of
from kettlesort.store.standing import state_in
from kettlesort.work import jobs
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Conflict, Invalid, NotFound

STATES = ("sought", "obtained", "missing")
USUAL_REASONS = (
    "Not held by any library that was asked",
    "Authors did not answer",
    "Only an abstract was ever published",
    "Withdrawn by the publisher",
    "Too costly",
)
"""Why full texts as a rule are not obtained; those that a team writes down come before them."""
_PDF, _ZIP = b"%PDF-", b"PK"


def set_full_text(
    review: int, account: int, record: int, state: str, reason: str, filename: str = "", file: BinaryIO | None = None
) -> None:
    """Say what became of a full text, and attach it."""
    if state not in STATES:
        raise Invalid("A full text is sought, obtained or missing.")
    if state == "missing" and not reason.strip():
        raise Invalid("Why could it not be obtained?", field="reason")
    with changing(review, account, "screen") as change:
        name = None
        if file is not None:
            if not _head(file).startswith(_PDF):
                raise Invalid(f"{filename}: this is not a PDF.", field="file")
            name, _ = gather.put_blob(change.db, file)
        _write(change, record, state, reason.strip(), name, filename)


def _head(file: BinaryIO) -> bytes:
    head = file.read(5)
    file.seek(0)
    return head


def _size(file: BinaryIO) -> int:
    size = file.seek(0, io.SEEK_END)
    file.seek(0)
    return size


def _write(change: Change, record: int, state: str, reason: str = "", sha256: str | None = None, filename: str = "") -> None:
    standing = state_in(change.db, change.review, record)
    if standing is None:
        raise NotFound("There is no such record in this review.")
    if standing["first"] != "include":
        raise Conflict("Full texts are sought for records that the first pass included.")
    change.db.add(
        FullText(
            review_id=change.review, copy_id=record, state=state, reason=reason[:2000], sha256=sha256, filename=filename[:200] if sha256 else "", account_id=change.account
        )
    )  # fmt: skip
    change.stands([record])
    said = state + (f": {reason}" if reason else "") + (f" ({filename})" if sha256 else "")
    change.event("screen.full_text", title_of(change.db, record), standing["fulltext"], said)


def attached(review: int, file_id: int) -> tuple[str, Iterator[bytes]]:
    """An attached file's name, and its content in pieces."""
    with snapshot() as db:
        found = db.get(FullText, file_id)
        if found is None or found.review_id != review or found.sha256 is None:
            raise NotFound("There is no such file in this review.")
        return found.filename, gather.stream_blob(found.sha256)


def full_texts(review: int) -> Sequence[Row]:
    """Every record whose full text is sought, with what became of it."""
    with snapshot() as db:
        return store.sought(db, review)


def reasons(review: int) -> list[str]:
    """Why full texts are not obtained: what the team wrote down so far, then what is usual."""
    with snapshot() as db:
        own = store.reasons(db, review)
    return [*own, *(word for word in USUAL_REASONS if word not in own)]


def to_fetch(review: int) -> str:
    """The full texts that are still sought as CSV, by journal and year, with links by DOI: a list to hand to a library."""
    wanted = sorted(
        (text for text in full_texts(review) if text["fulltext"] == "sought"),
        key=lambda pair: (pair["journal"].lower(), pair["year"] or 0, pair["title"].lower()),
    )
    head = ["journal", "year", "volume", "issue", "pages", "authors", "title", "doi", "link", "accession"]

    def cells(row: Row) -> list[str]:
        link = f"https://doi.org/{row['doi']}" if row["doi"] else ""
        plain = (
            row["journal"],
            row["year"] or "",
            row["volume"],
            row["issue"],
            row["pages"],
            "; ".join(row["authors"]),
            row["title"],
            row["doi"],
            link,
            row["accession"],
        )
        return [str(cell) for cell in plain]

    return "\ufeff" + "".join(table.write_csv([head, *map(cells, wanted)]))


def take_off(review: int, account: int, record: int) -> None:
    """Take a record's PDF off again; if it came in a heap, a person is to say whose it is. The full text is sought again, unless an earlier file is there."""
    with changing(review, account, "screen") as change:
        held = store.file_of(change.db, record)
        if held is None or held.review_id != review or held.sha256 is None:
            raise NotFound("There is no PDF to take off.")
        held.taken_off_at = datetime.now(UTC)
        came = store.came_as(change.db, review, held.sha256, record)
        if came is not None:
            back = change.db.get(Delivered, came)
            assert back is not None
            back.state, back.copy_id, back.problem = "asked" if back.proposals else "unplaced", None, "It was taken off a record."
        change.db.flush()
        _write(change, record, "obtained" if store.file_of(change.db, record) else "sought")


def put_on_again(review: int, account: int, record: int) -> None:
    """Attach the PDF again that was taken off a record last."""
    with changing(review, account, "screen") as change:
        gone = store.taken_off(change.db, record)
        if gone is None or gone.review_id != review:
            raise NotFound("No PDF was taken off this record.")
        for number in store.loose(change.db, review, gone.sha256 or ""):
            held = change.db.get(Delivered, number)
            assert held is not None
            held.state, held.copy_id, held.problem = "placed", record, ""
        _write(change, record, "obtained", "", gone.sha256, gone.filename)


# A heap of PDFs


def deliver(review: int, account: int, filename: str, file: BinaryIO) -> int:
    """Take in a PDF, or an archive of PDFs, to be matched to its record in the background; its number."""
    head = _head(file)
    if not head.startswith((_PDF, _ZIP)):
        raise Invalid(f"{filename}: neither a PDF nor a ZIP of PDFs.", field="file")
    if head.startswith(_ZIP):
        try:
            inside = members(file)
        except Unsafe as error:
            raise Invalid(f"{filename}: {error}", field="file") from error
        if not any(_is_pdf(info.filename) for info in inside):
            raise Invalid(f"{filename}: no PDF is in this archive.", field="file")
    elif _size(file) > settings().max_pdf:
        raise Invalid(f"{filename}: larger than {settings().max_pdf // 1_000_000} MB.", field="file")
    with changing(review, account, "screen", alone=False) as change:
        name, _ = gather.put_blob(change.db, file)
        change.wait_turn()
        made = Delivered(review_id=review, filename=filename[:200], sha256=name, account_id=account)
        change.db.add(made)
        change.db.flush()
        if not under_way(change.db, review, "match_full_texts"):
            jobs.begin(change, "match_full_texts", "Matching PDFs to their records")
        assert made.id is not None
        return made.id


def _is_pdf(name: str) -> bool:
    plain = name.replace("\\", "/")
    return plain.lower().endswith(".pdf") and "__MACOSX/" not in plain and not plain.rpartition("/")[2].startswith(".")


def match_full_texts(job_id: int) -> None:
    """The job behind a heap: each file is read in a process of its own; what is sure is attached, the rest is asked."""
    jobs.one_by_one(job_id, store.waiting, _look_at, "screen")


def _look_at(review: int, _: int, number: int) -> None:
    with session() as db:
        held = db.get(Delivered, number)
        if held is None or held.state != "waiting":
            return
        sha256, filename, account = held.sha256, held.filename, held.account_id
        twin = store.same_file(db, review, sha256, number)
        file = gather.open_blob(db, sha256)
        if _head(file).startswith(_ZIP):
            _unpack(review, account, number, file)
            return
    say = partial(_say, review, account, number)
    if twin:
        say("twice", problem="" if twin["record"] else f"The same file came as {twin['filename']}.", record=twin["record"])
        return
    try:
        with session() as db, apart.on_disk(gather.open_blob(db, sha256)) as path:
            db.rollback()  # nobody waits for what a stranger's file takes
            said: front.Front = apart.call(_front_of, path, filename)
    except (NotAPdf, apart.Broken) as error:
        say("refused", problem=str(error))
        return
    with snapshot() as db:
        sought = [
            front.Sought(row["id"], row["title"], tuple(row["authors"]), row["year"], row["doi"], row["accession"])
            for row in store.sought(db, review)
        ]
    found = front.match(said, sought)
    told: dict[str, Any] = {
        "says": said.title or said.text[:200],
        "pages": said.pages,
        "proposals": [{"id": one.id, "likely": one.likely, "why": list(one.why)} for one in found],
        "problem": "" if said.text.strip() else "It holds no text, only pictures of pages.",
    }
    if found and found[0].sure:
        say("placed", record=found[0].id, **told)
    else:
        say("asked" if found else "unplaced", **told)


def _front_of(path: str, name: str) -> front.Front:
    """In the child."""
    with open(path, "rb") as file:
        return front.front_of(file, name)


def _say(review: int, account: int, number: int, state: str, *, record: int | None = None, **told: Any) -> None:
    """Write down what was found of a delivered file, and attach it if it is placed; a record that has another file by now is asked."""
    with changing(review, account, "screen") as change:
        held = change.db.get(Delivered, number)
        if held is None or held.state != "waiting":
            return
        if state == "placed" and record is not None and store.file_of(change.db, record):
            state, record, told = "asked", None, {**told, "problem": "That record has another PDF already."}
        for name, value in told.items():
            setattr(held, name, value)
        held.state, held.copy_id = state, record
        if state == "placed" and record is not None:
            _write(change, record, "obtained", "", held.sha256, held.filename)


def _unpack(review: int, account: int, number: int, file: BinaryIO) -> None:
    """The PDFs of an archive become deliveries of their own."""
    problem = ""
    with changing(review, account, "screen", alone=False) as change:
        held = change.db.get(Delivered, number)
        assert held is not None
        try:
            with zipfile.ZipFile(file) as archive:
                for info in members(file):
                    if not _is_pdf(info.filename):
                        continue
                    name = info.filename.replace("\\", "/").rpartition("/")[2]
                    if info.file_size > settings().max_pdf:
                        problem = f"{name} is larger than {settings().max_pdf // 1_000_000} MB."
                        continue
                    sha256, _ = gather.put_blob(change.db, io.BytesIO(archive.read(info)))
                    change.db.add(Delivered(review_id=review, filename=name[:200], sha256=sha256, account_id=account))
        except (Unsafe, *DAMAGED):
            problem = "The archive is damaged; what could be read of it is here."
        change.wait_turn()
        held.state, held.problem = ("refused" if problem else "unpacked"), problem


def delivered(review: int) -> Sequence[Row]:
    """What was delivered, what a person has to see to first."""
    with snapshot() as db:
        return store.delivered(db, review)


def place(review: int, account: int, number: int, record: int | None) -> None:
    """Attach a delivered file to a record; without one, drop it."""
    with changing(review, account, "screen") as change:
        held = _delivery(change, review, number)
        if held.state == "placed":
            raise Conflict("This file is attached already; take it off that record first.")
        if record is None:
            if held.state != "dropped":
                held.state, held.dropped_as = "dropped", held.state
            change.event("screen.pdf_dropped", held.filename)
            return
        if held.state == "refused":
            raise Invalid(f"{held.filename} cannot be read: {held.problem.rstrip('.')}.")
        _write(change, record, "obtained", "", held.sha256, held.filename)
        held.state, held.copy_id, held.problem = "placed", record, ""


def put_back(review: int, account: int, number: int) -> None:
    """Bring a dropped file back among those that a person is to place."""
    with changing(review, account, "screen") as change:
        held = _delivery(change, review, number)
        if held.state == "dropped":
            held.state, held.dropped_as = held.dropped_as, ""
            change.event("screen.pdf_put_back", held.filename)


def _delivery(change: Change, review: int, number: int) -> Delivered:
    held = change.db.get(Delivered, number)
    if held is None or held.review_id != review or held.state == "unpacked":
        raise NotFound("There is no such file in this review.")
    return held


def delivered_file(review: int, number: int) -> Iterator[bytes]:
    """A delivered file's content in pieces."""
    with snapshot() as db:
        held = db.get(Delivered, number)
        if held is None or held.review_id != review:
            raise NotFound("There is no such file in this review.")
        return gather.stream_blob(held.sha256)
