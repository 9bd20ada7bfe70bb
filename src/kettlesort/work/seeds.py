"""Seeds: studies that are known to belong. Named by identifiers and titles, from a file, by hand, or marked; and what they lack, filled."""

from __future__ import annotations

import io
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any, BinaryIO, Literal, NamedTuple

import numpy as np
from rapidfuzz import fuzz, process
from sqlmodel import Session, col, select

from kettlesort import apart
from kettlesort.core import formats
from kettlesort.core.formats import NotReadable
from kettlesort.core.identifiers import Named, named
from kettlesort.core.query import In, Text, Value, find
from kettlesort.core.query.words import words_of
from kettlesort.core.record import Record, folded
from kettlesort.outside.registry import Registry, RegistryError
from kettlesort.settings import settings
from kettlesort.store import jobs
from kettlesort.store import seeds as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.gather import copies_of, count_files, entry_for
from kettlesort.store.match import Supplement, records_of
from kettlesort.store.records import in_short, kept, record_of
from kettlesort.store.seeds import SeedKey, SeedMark
from kettlesort.work import catalogue, gather, searches
from kettlesort.work.change import changing
from kettlesort.work.errors import Invalid, NotFound
from kettlesort.work.gaps import made_anew, withdraw
from kettlesort.work.searchable import Searchable, searchable

MOST_LINES = 300
MOST_IN_FILE = 500
KNOWN = "Known studies"
"""The entry of the search log under which seeds come in that no search has brought yet."""
MOST_ALIKE = 20_000
_LIKE = 90.0
FILLED = ("abstract", "keywords", "authors", "journal", "year", "volume", "issue", "pages", "language", "title")
"""Fields that a registry may fill where they are empty."""


def mark_seed(review: int, account: int, record: int, seed: bool) -> None:
    """Mark a record as a seed, or take the mark away."""
    with changing(review, account, "gather") as change:
        there = store.seed_and_title(change.db, review, record)
        if there is None:
            raise NotFound("There is no such record in this review.")
        if there["seed"] == seed:
            return
        if seed:
            change.db.add(SeedMark(review_id=review, copy_id=record, account_id=account))
        else:
            store.unmark(change.db, review, record)
        change.stands([record])
        change.event("gather.seed_marked" if seed else "gather.seed_unmarked", there["title"], not seed, seed)
        change.rank_again()


def paste_seeds(review: int, account: int, text: str) -> int:
    """DOIs and accession numbers, in lines; how many were new. Records that carry one become seeds, now or later."""
    keys = [one.key for one in named(text) if one.kind != "title" and len(one.key) <= 200]
    if not keys:
        raise Invalid("Paste DOIs or accession numbers, one a line.", field="text")
    return add_keys(review, account, keys)


def add_keys(review: int, account: int, keys: Sequence[str]) -> int:
    """Identifiers that make the records which carry them seeds; how many were new."""
    with changing(review, account, "gather") as change:
        present = {
            k.key for k in change.db.exec(select(SeedKey).where(SeedKey.review_id == review, col(SeedKey.removed_at).is_(None))).all()
        }
        new = [key for key in dict.fromkeys(keys) if key not in present]
        for key in new:
            change.db.add(SeedKey(review_id=review, key=key))
        change.stands(store.carrying(change.db, review, new))
        change.event("gather.seeds_pasted", "", None, new)
        change.rank_again()
        return len(new)


def drop_seed_key(review: int, account: int, key_id: int) -> None:
    """Take a pasted identifier away again."""
    with changing(review, account, "gather") as change:
        found = change.db.get(SeedKey, key_id)
        if found is None or found.review_id != review or found.removed_at:
            raise NotFound("That identifier is gone already.")
        found.removed_at = datetime.now(UTC)
        change.stands(store.carrying(change.db, review, [found.key]))
        change.event("gather.seed_key_removed", found.key)
        change.rank_again()


def seeds(review: int) -> tuple[Sequence[Row], Sequence[Row]]:
    """Seeds with what they lack, and the pasted identifiers with the record that each found."""
    with snapshot() as db:
        return store.seeds(db, review), store.keys(db, review)


class Answer(NamedTuple):
    """What became of a line: found among the records (``record``), in the catalogue, or not; ``title`` and ``year`` are of what was found.

    One that is not ``sure`` only has a title that is much like it: twins differ in a word.
    """

    named: Named
    state: Literal["here", "catalogue", "nowhere"]
    record: int | None = None
    title: str = ""
    year: int | None = None
    doi: str = ""
    seed: bool = False
    sure: bool = True
    problem: str = ""


def look_up(review: int, text: str, in_catalogue: int | None) -> list[Answer]:
    """An answer for every line: among the records first, then in a catalogue."""
    lines = named(text)
    if not lines:
        raise Invalid("Paste DOIs, accession numbers or titles, one a line.", field="text")
    if len(lines) > MOST_LINES:
        raise Invalid(f"At most {MOST_LINES} lines are looked up at once; these are {len(lines):,}.", field="text")
    here = _here(review, lines)
    out, away = [], ""
    for one, record in zip(lines, here, strict=True):
        if record:
            sure = one.kind != "title" or _same_title(record["title"], one.key)
            out.append(Answer(one, "here", record["id"], record["title"], record["year"], record["doi"], record["seed"], sure))
        elif in_catalogue is None or one.kind == "accession" or away:
            out.append(Answer(one, "nowhere", problem=away))
        else:
            try:
                found = _in_catalogue(review, in_catalogue, one)
                sure = found is not None and (one.kind != "title" or _same_title(found.title, one.key))
                out.append(
                    Answer(one, "catalogue", None, found.title, found.year, found.doi, False, sure) if found else Answer(one, "nowhere")
                )
            except catalogue.NotCounted as error:
                away = str(error)
                out.append(Answer(one, "nowhere", problem=away))
    return out


def _same_title(title: str, said: str) -> bool:
    """Whether a title is what was said, or stands whole in it, as in a reference, or goes on with a subtitle."""
    title, said = folded(title), folded(said)
    return title == said or (len(title.split()) >= 4 and title in said) or (len(said.split()) >= 4 and title.startswith(said))


def _here(review: int, lines: Sequence[Named]) -> list[Row | None]:
    """The record of each line, ``None`` for those that are not among the records."""
    at = searchable(review)
    with snapshot() as db:
        keys = [line.key for line in lines if line.kind != "title"]
        by_key = store.by_key(db, review, keys)
        wanted = [by_key.get(line.key) if line.kind != "title" else _by_title(db, at, line.key) for line in lines]
        found = {row["id"]: row for row in in_short(db, review, [number for number in wanted if number])}
    return [found.get(number) if number else None for number in wanted]


def _by_title(db: Session, at: Searchable, title: str) -> int | None:
    """The record with this title; or, for a whole reference, the one whose title stands in it; or the one whose title is most like it."""
    words = words_of(title)
    if len(words) < 3:
        return None
    hits = find(In(("title",), Text(tuple(words[:40]))), at.texts)
    if not hits.any():  # those that share one of its three rarest words
        having = [find(In(("title",), Text((word,))), at.texts) for word in dict.fromkeys(words)]
        rare = sorted((one for one in having if one.any()), key=np.count_nonzero)[:3]
        hits = np.any(rare, axis=0) if rare else hits
    ids = [int(text) for text in at.ids[hits]]
    if not ids or len(ids) > MOST_ALIKE:
        return None
    titles = {number: folded(said) for number, said in store.titles(db, ids).items()}
    wanted = folded(title)
    inside = [each for each, said in titles.items() if len(said.split()) >= 4 and said in wanted]
    if inside:
        return int(max(inside, key=lambda each: len(titles[each])))
    best = process.extractOne(wanted, titles, scorer=fuzz.ratio, score_cutoff=_LIKE)
    return int(best[2]) if best else None


def _in_catalogue(review: int, number: int, named: Named) -> Record | None:
    """What a catalogue has under this name. Raises NotCounted."""
    if named.kind == "doi":
        found = catalogue.find_in(review, number, Value("doi", named.key))
        return next((record for record, _ in found if record.doi == named.key), None)
    words = words_of(named.key)[:25]
    if len(words) < 3:
        return None
    found = catalogue.find_in(review, number, In(("title",), Text(tuple(words))))
    alike = [
        record
        for record, _ in found
        if fuzz.ratio(folded(record.title), folded(named.key)) >= _LIKE or folded(named.key) in folded(record.title)
    ]
    return alike[0] if alike else None


class Chosen(NamedTuple):
    """Lines to add as seeds: records that are here, identifiers to wait for, and lines to bring in from a catalogue."""

    records: Sequence[int]
    keys: Sequence[str]
    bring: Sequence[str]


def add(review: int, account: int, chosen: Chosen, in_catalogue: int | None) -> tuple[int, int]:
    """Make seeds of what was looked up; how many records became seeds, and how many were brought in."""
    brought: list[Record] = []
    if chosen.bring and in_catalogue is not None:
        for one in named("\n".join(chosen.bring))[:MOST_LINES]:
            found = _in_catalogue(review, in_catalogue, one)
            if found:
                brought.append(found)
    for record in chosen.records:
        mark_seed(review, account, record, True)
    keys = [key for key in chosen.keys if key and len(key) <= 200]
    if keys:
        add_keys(review, account, keys)
    if brought:
        bring_in(review, account, brought)
    return len(chosen.records) + len(keys), len(brought)


def bring_in(review: int, account: int, records: Sequence[Record]) -> None:
    """Records that no search has brought yet come in as a file of their own, and are seeds."""
    out = io.BytesIO()
    formats.write(records, "ris", out)
    out.seek(0)
    with snapshot() as db:
        entry = entry_for(db, review, KNOWN, "citation")
        number = 1 + (count_files(db, entry) if entry else 0)
    from_file(review, account, f"known-studies-{number}.ris", out)


def from_file(review: int, account: int, filename: str, file: BinaryIO) -> int:
    """Take a file of known studies in; its records are seeds, and are matched with what is there. How many they are."""
    try:
        reading = apart.open_reading(file)
        held = 0
        for _ in reading:
            held += 1
            if held > MOST_IN_FILE:
                raise Invalid(
                    f"{filename}: a file of seeds holds at most {MOST_IN_FILE} records. Upload it under Gather, and mark its seeds there.",
                    field="file",
                )
    except NotReadable as error:
        raise Invalid(f"{filename}: {error}.", field="file") from None
    if not held:
        raise Invalid(f"{filename}: no record could be read from it.", field="file")
    file.seek(0)
    with snapshot() as db:
        search = entry_for(db, review, KNOWN, "citation")
    if search is None:
        search = searches.write_search(
            review,
            account,
            searches.SearchEntry(
                KNOWN, "citation", "", datetime.now(UTC).date(), "", "Studies that the team knew before it searched", None
            ),
        )
    (batch,) = gather.upload(review, account, search, filename, file).batches
    with session() as db:
        job = jobs.latest(db, review, "read_file", batch)
    gather.read_file(job)
    gather.take_in(review, account, batch)
    with changing(review, account, "gather") as change:
        copies = copies_of(change.db, batch)
        for copy in copies:
            change.db.add(SeedMark(review_id=review, copy_id=copy, account_id=account))
        change.db.flush()
        change.stands(records_of(change.db, copies))
        change.event("gather.seeds_brought_in", filename, None, {"records": len(copies)})
        change.rank_again()
        return len(copies)


class Proposal(NamedTuple):
    """What a registry would fill in a record, by field; ``problem`` says why nothing."""

    record: int
    fields: dict[str, Any]
    problem: str


def _lacking(record: Record) -> list[str]:
    return [name for name in FILLED if not getattr(record, name)]


def propose(review: int, record: int) -> Proposal:
    """Ask the DOI registry for what a record lacks; nothing is changed."""
    with snapshot() as db:
        kept = _kept(db, review, record)
    if not settings().registry:
        return Proposal(record, {}, "This server knows no DOI registry; whoever runs it can name one.")
    if not kept.doi:
        return Proposal(record, {}, "It has no DOI.")
    lacking = _lacking(kept)
    if not lacking:
        return Proposal(record, {}, "It lacks nothing that a registry holds.")
    try:
        found = Registry(settings().registry, catalogue.manners()).record(kept.doi)
    except RegistryError as error:
        return Proposal(record, {}, str(error))
    if found is None:
        return Proposal(record, {}, "The registry does not know its DOI.")
    fields = {name: getattr(found, name) for name in lacking if getattr(found, name)}
    return Proposal(record, fields, "" if fields else "The registry lacks the same.")


def _kept(db: Session, review: int, record: int) -> Record:
    found = kept(db, review, record)
    if found is None:
        raise NotFound("There is no such record in this review.")
    return record_of(found)


def fill(review: int, account: int, chosen: Sequence[tuple[int, Sequence[str]]]) -> list[int]:
    """Fill fields of records with what the registry says, where they are empty still; the numbers of what was filled, for undoing."""
    asked = [(propose(review, record), set(fields)) for record, fields in chosen]
    with changing(review, account, "gather") as change:
        made: list[int] = []
        touched = []
        for proposal, wanted in asked:
            kept = _kept(change.db, review, proposal.record)
            for name, value in proposal.fields.items():
                if name in wanted and not getattr(kept, name):
                    new = Supplement(
                        review_id=review,
                        copy_id=proposal.record,
                        field=name,
                        value=list(value) if isinstance(value, tuple) else value,
                        source="DOI registry",
                        account_id=account,
                    )
                    change.db.add(new)
                    change.db.flush()
                    made.append(new.id or 0)
            touched.append(proposal.record)
            change.event("gather.filled", kept.title, None, {name: proposal.fields[name] for name in proposal.fields if name in wanted})
        made_anew(change, touched)
        return made


def unfill(review: int, account: int, supplements: Sequence[int]) -> None:
    """Take back what was filled."""
    with changing(review, account, "gather") as change:
        withdraw(change, supplements)
