"""Controlled vocabularies: loading them, looking headings up, and what lies below a heading."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from typing import BinaryIO, NamedTuple

from sqlmodel import col, select

from kettlesort import apart
from kettlesort.core import vocabulary as core
from kettlesort.core.query import Descriptor, Node, Text, walk
from kettlesort.store import gather as files
from kettlesort.store import vocabulary as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.report import Event
from kettlesort.store.vocabulary import Vocabulary
from kettlesort.work import jobs
from kettlesort.work.change import changing
from kettlesort.work.errors import Invalid, NotFound

MOST_FOUND = 200


def load(review: int, account: int, filename: str, file: BinaryIO) -> int:
    """Keep a SKOS file and have it read in the background; its number."""
    with session() as db:
        name, size = files.put_blob(db, file)
    with changing(review, account, "vocabularies") as change:
        if size == 0:
            raise Invalid(f"{filename}: the file is empty.", field="file")
        made = Vocabulary(review_id=review, name=filename[:200] or "file", filename=filename[:200] or "file", sha256=name)
        change.db.add(made)
        change.db.flush()
        assert made.id is not None
        jobs.begin(change, "read_vocabulary", f"Reading {made.filename}", made.id)
        change.event("plan.vocabulary_loaded", made.filename, None, {"bytes": size, "sha256": name})
        return made.id


def read_vocabulary(job_id: int) -> None:
    """The job behind a loaded file: in one transaction, so that a killed worker leaves nothing half done."""
    with jobs.working(job_id) as work:
        if work is None:
            return
        job, progress = work
        with session() as db:
            found = db.get(Vocabulary, job.subject_id, with_for_update=True)
            if found is None or found.state != "waiting":
                jobs.finish_in(db, job, "done")
                return
            with session() as side:
                file = files.open_blob(side, found.sha256)
                data = file.read(core.LARGEST + 1)
            try:
                said = apart.call(core.read_skos, data, limits=apart.Limits(seconds=300, megabytes=2500))
            except (core.NotAVocabulary, apart.Broken) as error:
                found.state, found.failure = "failed", str(error)
                jobs.finish_in(db, job, "failed", f"{found.filename}: {error}")
                db.add(
                    Event(
                        review_id=found.review_id,
                        account_id=job.account_id,
                        kind="plan.vocabulary_not_read",
                        subject=found.filename,
                        after=str(error),
                    )
                )
                return
            progress.tick(0.6)
            store.write_headings(db, found.id or 0, said.concepts)
            found.state, found.problems, found.name = "read", said.problems, said.name or found.filename
            jobs.finish_in(db, job, "done", f"{len(said.concepts):,} headings")


def vocabularies(review: int) -> Sequence[Row]:
    """The vocabularies of a review, with how many headings each has."""
    with snapshot() as db:
        return store.vocabularies(db, review)


def use(review: int, account: int, vocabulary: int, used: bool) -> None:
    """Put a vocabulary out of use, or bring it back."""
    with changing(review, account, "vocabularies") as change:
        found = change.db.exec(select(Vocabulary).where(Vocabulary.review_id == review, col(Vocabulary.id) == vocabulary)).first()
        if found is None or (found.removed_at is None) == used:
            raise NotFound("There is no such vocabulary; another member may have removed it.")
        found.removed_at = None if used else datetime.now(UTC)
        change.event("plan.vocabulary_used" if used else "plan.vocabulary_removed", found.name)


def look_up(review: int, words: str) -> Sequence[Row]:
    """Headings by any of their names; the highest ones for no words."""
    with snapshot() as db:
        return store.look_up(db, review, store.words_in(words[:200]), MOST_FOUND)


class Looked(NamedTuple):
    """A heading with its names and neighbours."""

    heading: Row
    names: Sequence[Row]
    neighbours: Sequence[Row]
    below: int


def heading(review: int, number: int) -> Looked:
    """One heading, and how many lie below it at any depth."""
    with snapshot() as db:
        found = store.heading(db, review, number)
        if found is None:
            raise NotFound("There is no such heading in this review's vocabularies.")
        return Looked(
            found, store.names(db, number), store.neighbours(db, number), len(store.below(db, review, store.words_in(found["label"]))) - 1
        )


def narrower(review: int) -> Callable[[str], list[str]]:
    """What a heading stands for with its narrower ones: by review, asked once for each heading."""
    known: dict[str, list[str]] = {}

    def below(name: str) -> list[str]:
        words = store.words_in(name)
        if words not in known:
            with snapshot() as db:
                known[words] = store.below(db, review, words)
        return known[words]

    return below


def names_near(review: int, terms: Sequence[Node], most: int = 40) -> list[str]:
    """Names of the headings that some terms name, and of the headings right below these."""
    wanted = [
        " ".join(node.words) if isinstance(node, Text) else node.heading
        for term in terms
        for _, node in walk(term)
        if isinstance(node, (Text, Descriptor))
    ]
    with snapshot() as db:
        headings = {row["id"] for row in store.named(db, review, [store.words_in(name) for name in wanted])}
        out: list[str] = []
        for number in sorted(headings):
            out += [row["name"] for row in store.names(db, number) if row["kind"] != "hidden"]
            out += [neighbour["label"] for neighbour in store.neighbours(db, number) if neighbour["kind"] == "narrower"][:most]
    return list(dict.fromkeys(out))[:most]


class Pointed(NamedTuple):
    """A free term of a query that is a name of a heading; ``used`` when the query has the heading too."""

    term: str
    heading: Row
    used: bool


def pointed_out(review: int, node: Node) -> list[Pointed]:
    """The words and phrases of a query that are names of headings."""
    terms: dict[str, str] = {}
    used = set()
    for _, part in walk(node):
        if isinstance(part, Text) and not any("*" in word or "?" in word for word in part.words):
            terms.setdefault(store.words_in(" ".join(part.words)), " ".join(part.words))
        elif isinstance(part, Descriptor):
            used.add(store.words_in(part.heading))
    with snapshot() as db:
        found = store.named(db, review, list(terms))
    return [Pointed(terms[row["words"]], row, store.words_in(row["label"]) in used) for row in found]
