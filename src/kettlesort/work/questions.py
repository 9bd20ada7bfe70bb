"""The pair desk: doubtful pairs, who looks at which, what people answer."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from sqlmodel import Session

from kettlesort.core import matching
from kettlesort.core.matching import NOTHING, Evidence, Learnt
from kettlesort.core.record import Record
from kettlesort.settings import settings
from kettlesort.store import match as store
from kettlesort.store.base import Row, row, rows, run, snapshot
from kettlesort.store.match import Question, Ruling
from kettlesort.store.records import COLUMNS, record_of
from kettlesort.work import rules
from kettlesort.work.change import Change, change
from kettlesort.work.errors import Conflict, NotFound
from kettlesort.work.match import learnt_of, records_of, regroup, title_of, withdraw_all


class Side(NamedTuple):
    """One copy with what brought it, the group that it is in, and what was decided on it."""

    id: int
    record: Record
    origin: str
    source: str
    raw: str
    group: int
    verdicts: Sequence[Row]


class Open(NamedTuple):
    """An open question: the pair, the chance that it is one report, how much its answer is worth, who looks at it."""

    row: Row
    chance: float
    worth: float


class Pair(NamedTuple):
    """A question with its evidence, the other copies of both groups, and what the kept record would say, field by field."""

    question: Open
    left: Side
    right: Side
    others: list[Side]
    evidence: list[Evidence]
    says: str
    thresholds: tuple[float, float]
    kept: Record
    whose: dict[str, int]


def _known(db: Session, review: int) -> Learnt:
    return learnt_of(db, review) or NOTHING


def _opened(learnt: Learnt, found: Row) -> Open:
    """How much an answer is worth: the more the chance is open, the more copies and decided records hang on it."""
    chance = float(learnt.weights.chance(found["score"]))
    if found["kind"]:
        chance = min(chance, 0.5)  # look-alikes are asked because the weights cannot tell
    open_by = -sum(p * math.log2(p) for p in (chance, 1 - chance) if p > 0)
    return Open(found, chance, open_by * (1 + math.log2(found["copies"])) * (1 + found["decided"]))


def questions(review: int, by: str = "worth") -> list[Open]:
    """Pairs that wait for a person, those whose answer is worth most first, or the weightiest; put off ones last."""
    with snapshot() as db:
        learnt = _known(db, review)
        found = [_opened(learnt, it) for it in store.open_questions(db, review)]
    if by == "worth":
        return sorted(found, key=lambda it: (it.row["later"], -it.worth, it.row["id"]))
    return sorted(found, key=lambda it: (it.row["later"], it.row["kind"] if by == "alike" else "", -it.row["score"], it.row["id"]))


def take(review: int, account: int, question: int) -> None:
    """Look at a question: nobody else is led to it for some minutes. Told with a Conflict who has it already."""
    with change(review, account, "pairs") as it:
        found = _question(it.db, review, question)
        if found["held_by"] not in (None, account):
            raise Conflict(f"{found['holder']} is looking at this pair.", holder=found["holder"])
        run(
            it.db,
            "UPDATE question SET held_by = NULL, held_until = NULL WHERE review_id = :r AND held_by = :a AND id <> :q",
            r=review,
            a=account,
            q=question,
        )
        run(
            it.db, "UPDATE question SET held_by = :a, held_until = clock_timestamp() + make_interval(mins => :m) WHERE id = :q",
            a=account, q=question, m=settings().hold_minutes,
        )  # fmt: skip


def _question(db: Session, review: int, question: int) -> Row:
    found = store.open_questions(db, review, question)
    if not found:
        raise NotFound("This pair is not open any more; somebody has answered it, or its copies are in one group by now.")
    return found[0]


def pair(review: int, question: int) -> Pair:
    """One doubtful pair, to be looked at."""
    with snapshot() as db:
        found = _question(db, review, question)
        learnt = _known(db, review)
        rule = rules.in_force(db, review)
        ids = store.group_copies(db, [found["left_record"], found["right_record"]])
        by = {side.id: side for side in sides(db, ids)}
        left, right = by.pop(found["left_copy"]), by.pop(found["right_copy"])
        said = matching.explain(left.record, right.record, learnt)
        rank = {source: k for k, source in enumerate(rule.trust)}
        everybody = [left, right, *by.values()]
        merged, whose = matching.merge(
            [it.record for it in everybody], [rank.get(it.source, len(rank)) for it in everybody] if rank else ()
        )
        kind = next((it.says for it in matching.ALIKE if it.name == found["kind"]), "")
        return Pair(
            _opened(learnt, found),
            left,
            right,
            list(by.values()),
            said.evidence,
            kind,
            matching.thresholds(rule, learnt.weights),
            merged,
            whose,
        )


def sides(db: Session, copies: Sequence[int]) -> list[Side]:
    """Copies with what brought them and what was decided on them, in the order of their groups."""
    found = rows(
        db,
        f"""SELECT c.id, c.raw, p.record_id, s.source, s.source || ' · search ' || s.number || ' · ' || b.filename || ', line ' || c.line AS origin,
        {", ".join("c." + name for name in COLUMNS.split(", "))} FROM copy c JOIN batch b ON b.id = c.batch_id JOIN search s ON s.id = b.search_id
        LEFT JOIN placement p ON p.copy_id = c.id WHERE c.id = ANY(CAST(:c AS bigint[])) ORDER BY p.record_id, c.id""",
        c=list(copies),
    )
    verdicts = rows(
        db,
        """SELECT v.copy_id, v.pass_number, v.verdict, k.name AS reason, a.full_name AS by, v.at FROM verdict v JOIN account a ON a.id = v.account_id
        LEFT JOIN criterion k ON k.id = v.criterion_id WHERE v.withdrawn_at IS NULL AND v.copy_id = ANY(CAST(:c AS bigint[])) ORDER BY v.id""",
        c=list(copies),
    )
    return [
        Side(
            it["id"],
            record_of(it),
            it["origin"],
            it["source"],
            it["raw"],
            it["record_id"] or it["id"],
            [v for v in verdicts if v["copy_id"] == it["id"]],
        )
        for it in found
    ]


SAME, DIFFERENT, RELATED = "same", "different", "related"


def decide_pair(review: int, account: int, question: int, said: str) -> list[str]:
    """A person says that two copies are the same report, different ones, or ``related``: other reports of the same study.

    Told are the disagreements that this made: what others have said on these groups, or decided on these records.
    """
    with change(review, account, "match") as it:
        found = it.db.get(Question, question)
        if found is None or found.review_id != review:
            raise NotFound("This pair is not open any more.")
        current = store.open_questions(it.db, review, question)
        if not current:
            raise Conflict("Somebody has answered this pair meanwhile.")
        if current[0]["held_by"] not in (None, account):
            raise Conflict(f"{current[0]['holder']} is looking at this pair.", holder=current[0]["holder"])
        run(it.db, "UPDATE question SET held_by = NULL, held_until = NULL WHERE id = :q", q=question)
        return rule_on(it, found.left_copy, found.right_copy, said, found.score)


def rule_on(it: Change, left: int, right: int, said: str, score: float | None = None) -> list[str]:
    """Write down what a person says of two copies; the disagreements that it made."""
    left, right = min(left, right), max(left, right)
    records = records_of(it.db, [left, right])
    it.db.add(
        Ruling(
            review_id=it.review,
            left_copy=left,
            right_copy=right,
            same=said == SAME,
            related=said == RELATED,
            by_rule=False,
            account_id=it.account,
            score=score,
        )
    )
    decided = verdicts_on(it.db, records) if said == SAME else []
    regroup(it, records)
    after = records_of(it.db, [left, right])
    it.event(f"match.{said}", title_of(it.db, left), None, {"copies": [left, right], "weight": score})
    told = []
    if said == SAME and len(after) > 1:
        others = rows(
            it.db,
            """SELECT DISTINCT a.full_name FROM ruling u JOIN account a ON a.id = u.account_id JOIN placement x ON x.copy_id = u.left_copy JOIN placement y ON y.copy_id = u.right_copy
            WHERE u.review_id = :r AND NOT u.same AND NOT u.by_rule AND u.withdrawn_at IS NULL AND x.record_id = ANY(:p) AND y.record_id = ANY(:p)""",
            r=it.review, p=after,
        )  # fmt: skip
        names = " and ".join(r["full_name"] for r in others) or "somebody"
        told.append(f"They stay apart, since {names} told copies of these groups apart; both answers are listed under Disagreements.")
    if said != SAME and len(after) == 1:
        told.append(
            "They stay joined, since somebody said that copies of this group are the same; both answers are listed under Disagreements."
        )
    told += decided
    return told


def verdicts_on(db: Session, records: Sequence[int]) -> list[str]:
    """In which passes records that are being joined were decided differently, in words."""
    found = rows(
        db,
        """SELECT v.pass_number, array_agg(DISTINCT v.verdict ORDER BY v.verdict) AS said, array_agg(DISTINCT a.full_name) AS by FROM verdict v
        JOIN placement p ON p.copy_id = v.copy_id JOIN account a ON a.id = v.account_id WHERE v.withdrawn_at IS NULL AND p.record_id = ANY(CAST(:p AS bigint[]))
        GROUP BY v.pass_number HAVING count(DISTINCT v.verdict) > 1 ORDER BY v.pass_number""",
        p=list(records),
    )
    return [
        f"Pass {it['pass_number']}: decided both {' and '.join(it['said'])}, by {' and '.join(it['by'])}. The latest decision counts."
        for it in found
    ]


def later(review: int, account: int, question: int) -> None:
    """Put a pair to the end of the line."""
    with change(review, account, "match") as it:
        if not run(
            it.db,
            "UPDATE question SET later = later + 1, held_by = NULL, held_until = NULL WHERE id = :q AND review_id = :r",
            q=question,
            r=review,
        ):
            raise NotFound("This pair is not open any more.")
        it.event("match.later", f"Pair {question}")


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
        withdraw_all(it, [found])
        question = row(
            it.db,
            "SELECT id FROM question WHERE left_copy = :l AND right_copy = :t AND gone_trial_id IS NULL",
            l=found["left_copy"],
            t=found["right_copy"],
        )
        return question["id"] if question else None


def told(review: int) -> Sequence[Row]:
    """What people said: different or related, and what contradicts another answer; newest first, so that it can be undone.

    ``holds`` is whether the copies stand as it was said.
    """
    with snapshot() as db:
        return rows(
            db,
            """SELECT u.id, coalesce(u.stroke, u.id) AS stroke, u.left_copy, u.right_copy, u.at, u.same, u.related, a.full_name AS by, l.title AS left_title, r.title AS right_title,
            x.record_id AS left_record, y.record_id AS right_record, (x.record_id = y.record_id) = u.same AS holds
            FROM ruling u JOIN account a ON a.id = u.account_id JOIN copy l ON l.id = u.left_copy JOIN copy r ON r.id = u.right_copy
            JOIN placement x ON x.copy_id = u.left_copy JOIN placement y ON y.copy_id = u.right_copy
            WHERE u.review_id = :v AND NOT u.by_rule AND u.withdrawn_at IS NULL AND (NOT u.same OR x.record_id <> y.record_id)
            ORDER BY holds, u.id DESC LIMIT 1000""",
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
        withdraw_all(it, [found])
