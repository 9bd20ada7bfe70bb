"""Orders in which records are screened other than by closeness to the seeds."""

from __future__ import annotations

from collections.abc import Sequence
from statistics import median
from typing import Any

import numpy as np
from sqlmodel import Session

from kettlesort.core.ranking.neighbours import likeness_to
from kettlesort.core.ranking.question import ask
from kettlesort.core.ranking.texts import RankedText
from kettlesort.core.screening.allocation import in_order
from kettlesort.core.screening.cited import cited_here, times_cited
from kettlesort.store import orders as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.orders import KINDS, OtherOrder, Placed
from kettlesort.store.records import all_texts, citations
from kettlesort.work import jobs
from kettlesort.work.change import changing, tell
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.ranking import Held, texts_of

LONGEST = 500
MOST_RECORDS = 50


def begin(review: int, account: int, kind: str, *, seed: int = 0, question: str = "", records: Sequence[int] = ()) -> int:
    """Ask for an order. A question, likeness to some records and citations are worked out in the background, the others at once."""
    if kind not in KINDS:
        raise Invalid(f"An order is one of {', '.join(KINDS)}.", field="kind")
    question = " ".join(question.split())
    if kind == "question" and not 1 <= len(question) <= LONGEST:
        raise Invalid(f"Type a question of at most {LONGEST} characters.", field="question")
    if kind == "shuffled" and not 0 <= seed < 2**31:
        raise Invalid("A seed is a whole number from 0 on.", field="seed")
    if kind == "alike" and not 1 <= len(records) <= MOST_RECORDS:
        raise Invalid(f"Choose from 1 to {MOST_RECORDS} records.", field="records")
    of_kind: dict[str, dict[str, Any]] = {
        "shuffled": {"seed": seed},
        "question": {"question": question},
        "alike": {"records": sorted(set(records))},
    }
    said = of_kind.get(kind, {})
    with changing(review, account, "orders", large=True) as change:
        if kind == "alike":
            here = {one["id"]: one["title"] for one in all_texts(change.db, review)}
            if not set(records) <= set(here):
                raise NotFound("One of these records is not in this review.")
            said["title"] = here[said["records"][0]]
        made = OtherOrder(review_id=review, kind=kind, said=said, account_id=account)
        change.db.add(made)
        change.db.flush()
        assert made.id is not None
        if kind in ("question", "alike", "cited"):
            what = "how often records were cited" if kind == "cited" else f"“{question or said['title']}”"
            jobs.begin(change, "order_records", f"Ordering by {what}"[:120], made.id)
        else:
            store.write_places(change.db, made.id, _at_once(change.db, review, kind, seed))
            made.state = "ready"
        change.event("screen.order_made", kind, None, said)
        return made.id


def _at_once(db: Session, review: int, kind: str, seed: int) -> list[Placed]:
    if kind == "shuffled":
        return [Placed(record) for record in in_order([text["id"] for text in all_texts(db, review)], seed)]
    if kind in ("newest", "oldest"):
        return store.by_year(db, review, newest=kind == "newest")
    return _unsure(store.closeness(db, review))


def _unsure(found: Sequence[Row]) -> list[Placed]:
    """Nearest first to the border: midway between the median closeness of what was included and of what was excluded."""
    inside, outside = ([row["closeness"] for row in found if row["first"] == state] for state in ("include", "exclude"))
    if not inside or not outside:
        raise Conflict("Which records are most unsure can be told once some are included and some excluded.")
    border = (median(inside) + median(outside)) / 2
    return [
        Placed(row["record_id"], -abs(row["closeness"] - border)) for row in sorted(found, key=lambda pair: abs(pair["closeness"] - border))
    ]


def order_records(job_id: int) -> None:
    """The job behind an order by a question, or by likeness to records."""
    with jobs.working(job_id) as work:
        if work is None:
            return
        job, progress = work
        assert job.subject_id is not None
        with snapshot() as db:
            held = db.get(OtherOrder, job.subject_id)
            assert held is not None
            kind, said = held.kind, dict(held.said)
        progress.tick(0.1)
        if kind == "cited":
            places = _by_citations(job.review_id)
        else:
            places = (
                _by_question(job.review_id, said["question"]) if kind == "question" else _alike(texts_of(job.review_id), said["records"])
            )
        progress.tick(0.9)
        with session() as db:
            made = db.get(OtherOrder, job.subject_id)
            assert made is not None
            assert made.id is not None
            store.write_places(db, made.id, places)
            made.state = "ready"
            jobs.finish_in(db, job, "done")
            tell(db, job.review_id, "orders")


def _by_question(review: int, question: str) -> list[Placed]:
    with snapshot() as db:
        found = all_texts(db, review)
    ids = [row["id"] for row in found]
    spoken = ask(question, [RankedText(row["title"], row["abstract"]) for row in found])
    return sorted(
        (Placed(record, one.score, one.begin, one.end) for record, one in zip(ids, spoken, strict=True)),
        key=lambda one: (-(one.score or 0), one.record),
    )


def _by_citations(review: int) -> list[Placed]:
    """The most cited first, as sources say; then those of which no source says it, by how many records here cite them."""
    with snapshot() as db:
        found = citations(db, review)
    here = cited_here(row["references"] for row in found)
    told = [(row["id"], times_cited(row["extra"]), here[row["doi"]] if row["doi"] else 0) for row in found]
    placed = [Placed(record, None if times is None else float(times)) for record, times, _ in told]
    rank = {record: (times is None, -(times or 0), -inside, record) for record, times, inside in told}
    return sorted(placed, key=lambda place: rank[place.record])


def _alike(held: Held, records: Sequence[int]) -> list[Placed]:
    """By mean likeness to the chosen records, which come first: in words, characters and sense, as the order by closeness measures it."""
    texts, ids, some = held.ranker.texts, held.ids, set(records)
    meant = np.hstack([texts.meaning, texts.title_meaning])
    score = likeness_to(texts.said, meant, [k for k, record in enumerate(ids) if record in some])
    return sorted(
        (Placed(record, round(float(score[k]), 6)) for k, record in enumerate(ids)), key=lambda one: (-(one.score or 0), one.record)
    )


def orders(review: int) -> list[dict[str, Any]]:
    """The orders that were asked for last, each with what it is called."""
    with snapshot() as db:
        return [{**order, "name": name_of(order["kind"], order["said"])} for order in store.orders(db, review)]


def name_of(kind: str, said: dict[str, Any]) -> str:
    """What an order is called."""
    return {
        "shuffled": f"Shuffled, seed {said.get('seed', 0)}", "newest": "Newest first", "oldest": "Oldest first", "unsure": "Most unsure first", "cited": "Most cited first",
        "question": f"“{said.get('question', '')}”", "alike": f"Most like “{said.get('title', '')}”" + (f" and {len(said['records']) - 1} more" if len(said.get("records", [])) > 1 else ""),
    }[kind]  # fmt: skip
