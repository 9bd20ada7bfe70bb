"""Filling gaps: what registry and catalogues propose for records that lack something, beside what stands; taken or left one by one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any, BinaryIO, NamedTuple

from rapidfuzz import fuzz
from sqlmodel import Session, col, select

from kettlesort import apart
from kettlesort.core.formats import NotReadable
from kettlesort.core.query import In, Text
from kettlesort.core.query.words import words_of
from kettlesort.core.record import Record, doi_of, family_of, folded
from kettlesort.outside.registry import Registry, RegistryError
from kettlesort.settings import settings
from kettlesort.store import gaps as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.gaps import Gap
from kettlesort.store.jobs import Job, under_way
from kettlesort.store.match import Supplement, rebuild, records_of, title_of, withdraw_supplements
from kettlesort.store.records import Wanted, counted, kept, record_of
from kettlesort.work import catalogue, jobs
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Invalid, NotFound
from kettlesort.work.rules import trust_of

FIELDS = ("abstract", "doi", "authors")
_ALIKE = 95.0


def lacks(record: Record) -> list[str]:
    """Which of abstract, DOI and full author names a record lacks."""
    out = [name for name in ("abstract", "doi") if not getattr(record, name)]
    return [*out, "authors"] if not record.authors or any(_initials(name) for name in record.authors) else out


def _initials(name: str) -> bool:
    given = name.partition(",")[2].replace(".", " ").replace("-", " ").split()
    return (bool(given) and all(len(part) == 1 or (part.isupper() and len(part) <= 3) for part in given)) or "et al" in name.lower()


def fuller(had: Sequence[str], offered: Sequence[str]) -> bool:
    """Whether offered names are those that stand, in full: as many or more, the same families in the same order."""
    had = [name for name in had if "et al" not in name.lower()]
    if not offered or len(offered) < len(had):
        return False
    same = all(folded(family_of(a)) == folded(family_of(b)) for a, b in zip(had, offered, strict=False))
    return same and sum(map(len, offered)) > sum(map(len, had))


def begin(review: int, account: int, some: Sequence[int] = ()) -> int:
    """Have records that lack something looked up in the background: the given ones, or all; the job."""
    with changing(review, account, "jobs") as change:
        if under_way(change.db, review, "fill_gaps"):
            raise Invalid("Gaps are being looked up already.")
        if some:
            store.leave_proposals(change.db, review, some)
        return jobs.begin(change, "fill_gaps", "Looking up gaps")


def fill_gaps(job_id: int) -> None:
    """The job: asks politely, record by record, and keeps what is proposed as it comes."""
    with jobs.working(job_id) as work:
        if work is None:
            return
        job, progress = work
        n, asked, problem = 0, 0, ""
        todo = _lacking(job.review_id)
        for k, (number, record) in enumerate(todo):
            progress.tick(k / max(1, len(todo)))
            try:
                n += _propose(job, number, record)
                asked += 1
            except (RegistryError, catalogue.NotCounted) as error:
                problem = str(error)
                break
        said = f"{n:,} proposals for {asked:,} records"
        jobs.finish(job, "failed" if problem else "done", f"{said}. {problem}" if problem else said)


def _lacking(review: int) -> list[tuple[int, Record]]:
    """Records that lack something and were not asked about before, seeds and included ones first."""
    with snapshot() as db:
        found = store.not_asked_about(db, review)
    return [(row["id"], record) for row in found if lacks(record := record_of(row))]


def _propose(job: Job, number: int, record: Record) -> int:
    found, source = _found(job.review_id, record)
    if found is None:
        return 0
    offers = {
        name: getattr(found, name) for name in lacks(record) if getattr(found, name) and getattr(found, name) != getattr(record, name)
    }
    if "authors" in offers and record.authors and not fuller(record.authors, offers["authors"]):
        del offers["authors"]
    with session() as db:
        return sum(_offer(db, job.review_id, number, name, getattr(record, name), value, source) for name, value in offers.items())


def _offer(db: Session, review: int, record: int, field: str, before: Any, value: Any, source: str) -> int:
    """Keep a proposal, unless the same was left before; 1 if it is new."""
    value = list(value) if isinstance(value, tuple) else value
    for one in db.exec(select(Gap).where(Gap.copy_id == record, Gap.field == field)):
        if one.value == value:
            return 0
    before = list(before) if isinstance(before, tuple) else before
    db.add(Gap(review_id=review, copy_id=record, field=field, before=before, value=value, source=source))
    return 1


def _found(review: int, record: Record) -> tuple[Record | None, str]:
    """What the registry has under its DOI; of a record without one, what a connected catalogue has under its title."""
    if record.doi:
        if not settings().registry:
            return None, ""
        return Registry(settings().registry, catalogue.manners()).record(record.doi), "DOI registry"
    words = words_of(record.title)[:25]
    if len(words) < 4:
        return None, ""
    for one in catalogue.catalogues(review):
        for found, _ in catalogue.find_in(review, one.id or 0, In(("title",), Text(tuple(words)))):
            alike = fuzz.ratio(folded(found.title), folded(record.title)) >= _ALIKE
            if alike and (not found.year or not record.year or abs(found.year - record.year) <= 1):
                return found, one.name
    return None, ""


def proposals(review: int) -> Sequence[Row]:
    """What is proposed and not yet taken or left."""
    with snapshot() as db:
        return store.proposals(db, review)


class Lacking(NamedTuple):
    """How many records lack what."""

    records: int
    abstract: int
    doi: int
    authors: int


def standing(review: int) -> Lacking:
    """How many of the records that are in play lack abstract, DOI, or full names: as many as the lists that say so hold."""
    play = Wanted("in_play")
    with snapshot() as db:
        return Lacking(*counted(db, review, play, replace(play, abstract=False), replace(play, doi=False), Wanted("short_names")))


def take(review: int, account: int, gaps: Sequence[int]) -> list[int]:
    """Take proposals: the values become the records'; the numbers of what was filled, for undoing."""
    with changing(review, account, "gather") as change:
        made, touched = [], []
        for gap in _open(change.db, review, gaps):
            gap.state, gap.account_id = "taken", account
            new = Supplement(
                review_id=review, copy_id=gap.copy_id, field=gap.field, value=gap.value, source=gap.source, replaces=gap.field == "authors", account_id=account
            )  # fmt: skip
            change.db.add(new)
            change.db.flush()
            made.append(new.id or 0)
            touched.append(gap.copy_id)
            change.event("gather.filled", title_of(change.db, gap.copy_id), {gap.field: gap.before}, {gap.field: gap.value})
        made_anew(change, touched)
        return made


def leave(review: int, account: int, gaps: Sequence[int], back: bool = False) -> None:
    """Leave proposals: what stands stays; they are not made again. Or bring them back."""
    with changing(review, account, "gather") as change:
        found = change.db.exec(
            select(Gap).where(Gap.review_id == review, col(Gap.id).in_(list(gaps)), Gap.state == ("left" if back else "proposed"))
        ).all()
        if not found:
            raise NotFound("None of these proposals is there to be brought back." if back else "None of these proposals is open any more.")
        for gap in found:
            gap.state, gap.account_id = ("proposed" if back else "left"), account
        change.event("gather.gaps_brought_back" if back else "gather.gaps_left", "", None, {"proposals": len(found)})


def take_back(review: int, account: int, supplements: Sequence[int]) -> None:
    """Undo taking: the old values stand again, and the proposals are open."""
    with changing(review, account, "gather") as change:
        for one in withdraw(change, supplements):
            for gap in change.db.exec(select(Gap).where(Gap.copy_id == one["copy_id"], Gap.field == one["field"], Gap.state == "taken")):
                if gap.value == one["value"]:
                    gap.state = "proposed"


def withdraw(change: Change, supplements: Sequence[int]) -> Sequence[Row]:
    """Take values back that were filled, as part of a change; what they were."""
    found = withdraw_supplements(change.db, change.review, supplements)
    if not found:
        raise NotFound("That was taken back already.")
    change.event("gather.unfilled", "", None, sorted({one["field"] for one in found}))
    made_anew(change, [one["copy_id"] for one in found])
    return found


def _open(db: Session, review: int, gaps: Sequence[int]) -> list[Gap]:
    found = list(db.exec(select(Gap).where(Gap.review_id == review, col(Gap.id).in_(list(gaps)), Gap.state == "proposed")))
    if not found:
        raise NotFound("None of these proposals is open any more.")
    return found


def paste_abstract(review: int, account: int, record: int, text: str) -> int:
    """Give a record without abstract one that a person found; its number, for undoing."""
    text = "\n".join(" ".join(line.split()) for line in text.strip().splitlines())
    if len(text) < 40:
        raise Invalid("An abstract has at least a sentence or two.", field="text")
    with changing(review, account, "gather") as change:
        found = kept(change.db, review, record)
        if found is None:
            raise NotFound("There is no such record in this review.")
        if found["abstract"]:
            raise Invalid("This record has an abstract by now.", field="text")
        new = Supplement(review_id=review, copy_id=record, field="abstract", value=text, source="pasted by hand", account_id=account)
        change.db.add(new)
        change.db.flush()
        change.event("gather.filled", found["title"], {"abstract": ""}, {"abstract": text})
        made_anew(change, [record])
        return new.id or 0


def from_file(review: int, filename: str, file: BinaryIO) -> tuple[int, int]:
    """Abstracts from a file of records, matched by the number of our own export, DOI, accession or title; proposals made, and records that matched none."""
    try:
        reading = apart.open_reading(file)
        held = [entry.record for entry in reading if entry.record.abstract]
    except NotReadable as error:
        raise Invalid(f"{filename}: {error}.", field="file") from None
    if not held:
        raise Invalid(f"{filename}: no record in it has an abstract.", field="file")
    with session() as db:
        by_key: dict[str, int] = {}
        for row in store.without_abstract(db, review):
            by_key |= {f"id {row['id']}": row["id"], f"title {folded(row['title'])}": row["id"]}
            by_key |= {f"doi {row['doi']}": row["id"]} if row["doi"] else {}
            by_key |= {f"accession {name}": row["id"] for name in row["accessions"]}
        made = missed = 0
        for record in held:
            own = next((value for name, value in record.extra if name == "record" and value.isdigit()), "")
            keys = (f"id {own}", f"doi {doi_of(record.doi)}", f"accession {record.accession.lower()}", f"title {folded(record.title)}")
            number = next((by_key[key] for key in keys if key in by_key), None)
            if number is None:
                missed += 1
            else:
                made += _offer(db, review, number, "abstract", "", record.abstract, filename)
        return made, missed


def made_anew(change: Change, copies: Sequence[int]) -> None:
    """The kept records of these copies are made anew, searchable and ranked."""
    records = records_of(change.db, copies)
    rebuild(change.db, change.review, records, trust_of(change.db, change.review))
    change.stands(records)
    change.index_again()
    change.rank_again()
