"""Matching copies, deciding pairs, undoing either."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import NamedTuple

from sqlmodel import Session

from kettlesort.core import matching
from kettlesort.core.matching import Evidence, Groups
from kettlesort.core.record import Record
from kettlesort.store import match as store
from kettlesort.store.base import Row, row, rows, run, session, snapshot
from kettlesort.store.jobs import Job
from kettlesort.store.match import Question, Ruling
from kettlesort.store.records import COLUMNS, record_of
from kettlesort.work import jobs
from kettlesort.work.change import Change, change
from kettlesort.work.errors import Conflict, NotFound


def match_copies(job_id: int) -> None:
    """The job after taking in: compares new copies with all, joins what is certain, asks about what is doubtful.

    The work is done outside the transaction and applied in one; when the review has
    changed meanwhile it is done again.
    """
    with jobs.working(job_id) as work:
        if work is None:
            return
        job, progress = work
        while not _match_once(job, progress):
            pass


def _match_once(job: Job, progress: jobs.Progress) -> bool:
    with snapshot() as db:
        mark = store.fingerprint(db, job.review_id)
        copies = store.placed(db, job.review_id)
        ruled = store.rulings(db, job.review_id)
    position = {it["id"]: k for k, it in enumerate(copies)}
    ids = list(position)
    first_new = sum(1 for it in copies if it["matched"])
    result = matching.match(
        [record_of(it) for it in copies],
        same=[(position[it["left_copy"]], position[it["right_copy"]]) for it in ruled if it["same"]],
        different=[(position[it["left_copy"]], position[it["right_copy"]]) for it in ruled if not it["same"]],
        first_new=first_new,
        tick=progress.tick,
    )
    with change(job.review_id, job.account_id, "match") as it:
        if store.fingerprint(it.db, job.review_id) != mark:
            return False
        _apply(it, result, ids, first_new)
        jobs.finish_in(it.db, job, "done")
    return True


def _apply(it: Change, result: matching.Matching, ids: list[int], first_new: int) -> None:
    new = set(ids[first_new:])
    joined = [pair for pair in result.pairs if pair.verdict == "same"]
    asked = [pair for pair in result.pairs if pair.verdict == "unsure"]
    for pair in joined:
        left, right = sorted((ids[pair.left], ids[pair.right]))
        it.db.add(
            Ruling(review_id=it.review, left_copy=left, right_copy=right, same=True, by_rule=True, score=pair.score, account_id=it.account)
        )
    run(
        it.db, "DELETE FROM question WHERE review_id = :r AND (left_copy = ANY(:new) OR right_copy = ANY(:new))", r=it.review, new=list(new)
    )
    for pair in asked:
        left, right = sorted((ids[pair.left], ids[pair.right]))
        it.db.add(Question(review_id=it.review, left_copy=left, right_copy=right, score=pair.score))
    it.db.flush()
    place: dict[int, int] = {}
    for group in result.groups.all():
        record = min(ids[k] for k in group)
        place.update({ids[k]: record for k in group})
    _place(it, place)
    run(it.db, "UPDATE batch SET matched = TRUE WHERE review_id = :r AND state = 'taken' AND NOT matched", r=it.review)
    it.event(
        "match.run",
        "",
        None,
        {
            "copies": len(ids),
            "new": len(new),
            "joined": len(joined),
            "asked": len(asked),
            "join_from": matching.JOIN,
            "ask_from": matching.ASK,
        },
    )
    it.rank_again()
    it.index_again()


def _place(it: Change, place: dict[int, int]) -> list[int]:
    """Place copies with records, and make what follows from it anew."""
    touched = store.move(it.db, place)
    store.rebuild(it.db, it.review, touched)
    it.stands(touched)
    return touched


def _regroup(it: Change, records: list[int]) -> list[int]:
    """Work out the groups of some records' copies anew from the rulings in force."""
    it.db.flush()
    copies = store.group_copies(it.db, records)
    position = {copy: k for k, copy in enumerate(copies)}
    ruled = store.rulings(it.db, it.review, copies)
    groups = Groups(len(copies), [(position[r["left_copy"]], position[r["right_copy"]]) for r in ruled if not r["same"]])
    for r in ruled:
        if r["same"]:
            groups.join(position[r["left_copy"]], position[r["right_copy"]])
    touched = _place(it, {copies[k]: copies[groups.of(k)] for k in range(len(copies))})
    it.rank_again()
    it.index_again()
    return touched


def leave(it: Change, batch: int) -> None:
    """The copies of a batch leave their records; groups that they held together fall apart."""
    touched = [r["record_id"] for r in rows(it.db, "SELECT DISTINCT record_id FROM placement WHERE batch_id = :b", b=batch)]
    run(it.db, "DELETE FROM placement WHERE batch_id = :b", b=batch)
    copies = store.group_copies(it.db, touched)
    run(it.db, "UPDATE placement SET record_id = copy_id WHERE copy_id = ANY(:c)", c=copies)
    store.rebuild(it.db, it.review, sorted({*touched, *copies}))
    it.stands(sorted({*touched, *copies}))
    if copies:
        _regroup(it, copies)


class Side(NamedTuple):
    """One copy of a pair with what brought it."""

    id: int
    record: Record
    origin: str
    raw: str


class Pair(NamedTuple):
    """A question with its evidence and what the kept record would say, field by field."""

    id: int
    score: float
    left: Side
    right: Side
    evidence: list[Evidence]
    kept: Record
    whose: dict[str, int]


def questions(review: int) -> Sequence[Row]:
    """Pairs that wait for a person."""
    with snapshot() as db:
        return store.open_questions(db, review)


def pair(review: int, question: int) -> Pair:
    """One doubtful pair, to be looked at."""
    with snapshot() as db:
        found = db.get(Question, question)
        if found is None or found.review_id != review:
            raise NotFound("This pair is not open any more.")
        left, right = _side(db, found.left_copy), _side(db, found.right_copy)
        weights = matching.explain(left.record, right.record)
        merged, whose = matching.merge([left.record, right.record])
        return Pair(question, found.score, left, right, weights, merged, whose)


def _side(db: Session, copy: int) -> Side:
    it = row(
        db,
        f"""SELECT c.id, c.raw, s.source || ' · search ' || s.number || ' · ' || b.filename || ', line ' || c.line AS origin,
        {", ".join("c." + name for name in COLUMNS.split(", "))} FROM copy c JOIN batch b ON b.id = c.batch_id JOIN search s ON s.id = b.search_id WHERE c.id = :c""",
        c=copy,
    )
    assert it is not None
    return Side(it["id"], record_of(it), it["origin"], it["raw"])


def decide_pair(review: int, account: int, question: int, same: bool) -> None:
    """A person says that two copies are the same report, or different ones."""
    with change(review, account, "match") as it:
        found = it.db.get(Question, question)
        if found is None or found.review_id != review:
            raise NotFound("This pair is not open any more.")
        if question not in {q["id"] for q in store.open_questions(it.db, review)}:
            raise Conflict("Somebody has answered this pair meanwhile.")
        records = [
            r["record_id"]
            for r in rows(
                it.db, "SELECT DISTINCT record_id FROM placement WHERE copy_id IN (:a, :b)", a=found.left_copy, b=found.right_copy
            )
        ]
        it.db.add(
            Ruling(
                review_id=review,
                left_copy=found.left_copy,
                right_copy=found.right_copy,
                same=same,
                by_rule=False,
                account_id=account,
                score=found.score,
            )
        )
        touched = _regroup(it, records)
        if same and not touched:
            raise Conflict("These two are in groups that somebody told apart; open the groups to see why.")
        it.event(
            "match.same" if same else "match.different",
            _title(it.db, found.left_copy),
            None,
            {"copies": [found.left_copy, found.right_copy], "weight": found.score},
        )


def later(review: int, account: int, question: int) -> None:
    """Put a pair to the end of the line."""
    with change(review, account, "match") as it:
        if not run(it.db, "UPDATE question SET later = later + 1 WHERE id = :q AND review_id = :r", q=question, r=review):
            raise NotFound("This pair is not open any more.")
        it.event("match.later", f"Pair {question}")


def _title(db: Session, copy: int) -> str:
    found = row(db, "SELECT title FROM copy WHERE id = :c", c=copy)
    return found["title"] if found else ""


def take_back(review: int, account: int) -> int | None:
    """Withdraw one's own latest answer at the pair desk; the question that is open again."""
    with change(review, account, "match") as it:
        found = row(
            it.db,
            """SELECT u.* FROM ruling u WHERE u.review_id = :r AND u.account_id = :a AND NOT u.by_rule AND u.withdrawn_at IS NULL
            AND EXISTS (SELECT 1 FROM question q WHERE q.left_copy = u.left_copy AND q.right_copy = u.right_copy) ORDER BY u.id DESC LIMIT 1""",
            r=review, a=account,
        )  # fmt: skip
        if found is None:
            raise NotFound("There is no answer of yours to take back.")
        _withdraw(it, [found])
        question = row(
            it.db, "SELECT id FROM question WHERE left_copy = :l AND right_copy = :t", l=found["left_copy"], t=found["right_copy"]
        )
        return question["id"] if question else None


def _withdraw(it: Change, found: Sequence[Row]) -> None:
    for ruling in found:
        made = it.db.get(Ruling, ruling["id"])
        assert made is not None
        made.withdrawn_at, made.withdrawn_by = datetime.now(UTC), it.account
    copies = [c for ruling in found for c in (ruling["left_copy"], ruling["right_copy"])]
    records = [r["record_id"] for r in rows(it.db, "SELECT DISTINCT record_id FROM placement WHERE copy_id = ANY(:c)", c=copies)]
    _regroup(it, records)
    it.event("match.taken_back", _title(it.db, copies[0]), {"same": found[0]["same"]}, None)


def split(review: int, account: int, copy: int) -> None:
    """Take a copy out of its group: a person says that it differs from all others in it."""
    with change(review, account, "match") as it:
        found = row(it.db, "SELECT record_id FROM placement WHERE copy_id = :c AND review_id = :r", c=copy, r=review)
        if found is None:
            raise NotFound("There is no such copy in this review.")
        others = [c for c in store.group_copies(it.db, [found["record_id"]]) if c != copy]
        if not others:
            raise Conflict("This copy is in no group.")
        run(
            it.db,
            """UPDATE ruling SET withdrawn_at = now(), withdrawn_by = :a WHERE NOT by_rule AND same AND withdrawn_at IS NULL
            AND ((left_copy = :c AND right_copy = ANY(:o)) OR (right_copy = :c AND left_copy = ANY(:o)))""",
            a=account, c=copy, o=others,
        )  # fmt: skip
        for other in others:
            it.db.add(
                Ruling(
                    review_id=review, left_copy=min(copy, other), right_copy=max(copy, other), same=False, by_rule=False, account_id=account
                )
            )
        _regroup(it, [found["record_id"]])
        it.event("match.split", _title(it.db, copy), {"with": others}, {"copy": copy})


def unsplit(review: int, account: int, copy: int) -> None:
    """Undo taking a copy out: what a person said about its being different is withdrawn."""
    with change(review, account, "match") as it:
        found = rows(
            it.db,
            "SELECT * FROM ruling WHERE review_id = :r AND NOT same AND NOT by_rule AND withdrawn_at IS NULL AND (left_copy = :c OR right_copy = :c)",
            r=review, c=copy,
        )  # fmt: skip
        if not found:
            raise NotFound("Nobody has told this copy apart from others.")
        _withdraw(it, found)


def groups(review: int, offset: int, limit: int) -> tuple[int, Sequence[Row]]:
    """Records of more than one copy."""
    with snapshot() as db:
        return store.groups(db, review, offset, min(limit, 500))


class Copies(NamedTuple):
    """The copies of a record, and why they are together."""

    copies: list[Side]
    whose: dict[str, int]
    rulings: Sequence[Row]


def copies_of(review: int, record: int) -> Copies:
    """All copies of one record."""
    with snapshot() as db:
        kept = row(db, "SELECT whose FROM record WHERE id = :i AND review_id = :r", i=record, r=review)
        if kept is None:
            raise NotFound("There is no such record in this review.")
        ids = store.group_copies(db, [record])
        why = rows(
            db,
            """SELECT u.id, u.left_copy, u.right_copy, u.same, u.by_rule, u.score, u.at, a.full_name AS by FROM ruling u JOIN account a ON a.id = u.account_id
            WHERE u.withdrawn_at IS NULL AND u.left_copy = ANY(CAST(:ids AS bigint[])) AND u.right_copy = ANY(CAST(:ids AS bigint[])) ORDER BY u.id""",
            ids=ids,
        )
        return Copies([_side(db, c) for c in ids], kept["whose"], why)


def told_apart(review: int) -> Sequence[Row]:
    """What people said is different, newest first, so that it can be undone."""
    with session() as db:
        return rows(
            db,
            """SELECT u.id, u.left_copy, u.right_copy, u.at, a.full_name AS by, l.title AS left_title, r.title AS right_title FROM ruling u
            JOIN account a ON a.id = u.account_id JOIN copy l ON l.id = u.left_copy JOIN copy r ON r.id = u.right_copy
            WHERE u.review_id = :v AND NOT u.same AND u.withdrawn_at IS NULL ORDER BY u.id DESC LIMIT 500""",
            v=review,
        )


def withdraw(review: int, account: int, ruling: int) -> None:
    """Withdraw one person's ruling, same or different."""
    with change(review, account, "match") as it:
        found = row(
            it.db, "SELECT * FROM ruling WHERE id = :i AND review_id = :v AND NOT by_rule AND withdrawn_at IS NULL", i=ruling, v=review
        )
        if found is None:
            raise NotFound("That was taken back already.")
        _withdraw(it, [found])
