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
from kettlesort.store import questions as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.match import Ruling, group_copies, of_people, records_of, title_of
from kettlesort.store.questions import Question
from kettlesort.store.records import record_of
from kettlesort.work import rules
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Conflict, NotFound
from kettlesort.work.match import learnt_of, regroup, withdraw_all


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


MOST_LISTED = 1000


def questions(review: int, by: str = "worth") -> list[Open]:
    """Pairs that wait for a person, those whose answer is worth most first, or the weightiest; put off ones last. At most `MOST_LISTED`."""
    with snapshot() as db:
        learnt = _known(db, review)
        found = [_opened(learnt, question) for question in store.open_questions(db, review)]
    if by == "worth":
        found.sort(key=lambda one: (one.row["later"], -one.worth, one.row["id"]))
    else:
        found.sort(key=lambda one: (one.row["later"], one.row["kind"] if by == "alike" else "", -one.row["score"], one.row["id"]))
    return found[:MOST_LISTED]


def take(review: int, account: int, question: int) -> None:
    """Look at a question: nobody else is led to it for some minutes. Told with a Conflict who has it already."""
    with changing(review, account, "pairs") as change:
        found = _question(change.db, review, question)
        if found["held_by"] not in (None, account):
            raise Conflict(f"{found['holder']} is looking at this pair.", holder=found["holder"])
        store.hold(change.db, review, account, question, settings().hold_minutes)


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
        ids = group_copies(db, [found["left_record"], found["right_record"]])
        by = {side.id: side for side in sides(db, ids)}
        left, right = by.pop(found["left_copy"]), by.pop(found["right_copy"])
        said = matching.explain(left.record, right.record, learnt)
        rank = {source: k for k, source in enumerate(rule.trust)}
        everybody = [left, right, *by.values()]
        merged, whose = matching.merge(
            [one.record for one in everybody], [rank.get(one.source, len(rank)) for one in everybody] if rank else ()
        )
        kind = next((alike.says for alike in matching.ALIKE if alike.name == found["kind"]), "")
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
    found, verdicts = store.copies_shown(db, copies), store.verdicts_on(db, copies)
    return [
        Side(
            row["id"],
            record_of(row),
            row["origin"],
            row["source"],
            row["raw"],
            row["record_id"] or row["id"],
            [v for v in verdicts if v["copy_id"] == row["id"]],
        )
        for row in found
    ]


SAME, DIFFERENT, RELATED = "same", "different", "related"


def decide_pair(review: int, account: int, question: int, said: str) -> list[str]:
    """A person says that two copies are the same report, different ones, or ``related``: other reports of the same study.

    Told are the disagreements that this made: what others have said on these groups, or decided on these records.
    """
    with changing(review, account, "match") as change:
        found = change.db.get(Question, question)
        if found is None or found.review_id != review:
            raise NotFound("This pair is not open any more.")
        current = store.open_questions(change.db, review, question)
        if not current:
            raise Conflict("Somebody has answered this pair meanwhile.")
        if current[0]["held_by"] not in (None, account):
            raise Conflict(f"{current[0]['holder']} is looking at this pair.", holder=current[0]["holder"])
        store.let_go(change.db, question)
        return rule_on(change, found.left_copy, found.right_copy, said, found.score)


def rule_on(change: Change, left: int, right: int, said: str, score: float | None = None) -> list[str]:
    """Write down what a person says of two copies; the disagreements that it made."""
    left, right = min(left, right), max(left, right)
    records = records_of(change.db, [left, right])
    change.db.add(
        Ruling(
            review_id=change.review,
            left_copy=left,
            right_copy=right,
            same=said == SAME,
            related=said == RELATED,
            by_rule=False,
            account_id=change.account,
            score=score,
        )
    )
    decided = verdicts_on(change.db, records) if said == SAME else []
    regroup(change, records)
    after = records_of(change.db, [left, right])
    change.event(f"match.{said}", title_of(change.db, left), None, {"copies": [left, right], "weight": score})
    told = []
    if said == SAME and len(after) > 1:
        names = " and ".join(store.who_told_apart(change.db, change.review, after)) or "somebody"
        told.append(f"They stay apart, since {names} told copies of these groups apart; both answers are listed under Disagreements.")
    if said != SAME and len(after) == 1:
        told.append(
            "They stay joined, since somebody said that copies of this group are the same; both answers are listed under Disagreements."
        )
    told += decided
    return told


def verdicts_on(db: Session, records: Sequence[int]) -> list[str]:
    """In which passes records that are being joined were decided differently, in words."""
    return [
        f"Pass {row['pass_number']}: decided both {' and '.join(row['said'])}, by {' and '.join(row['by'])}. What holds follows from how the pass is screened: of one reader, the latest."
        for row in store.decided_differently(db, records)
    ]


def later(review: int, account: int, question: int) -> None:
    """Put a pair to the end of the line."""
    with changing(review, account, "match") as change:
        if not store.put_off(change.db, review, question):
            raise NotFound("This pair is not open any more.")
        change.event("match.later", f"Pair {question}")


def take_back(review: int, account: int) -> int | None:
    """Withdraw one's own latest answer at the pair desk; the question that is open again."""
    with changing(review, account, "match") as change:
        found = store.last_answer(change.db, review, account)
        if found is None:
            raise NotFound("There is no answer of yours to take back.")
        withdraw_all(change, [found])
        return store.question_about(change.db, found["left_copy"], found["right_copy"])


def told(review: int) -> Sequence[Row]:
    """What people said: different or related, and what contradicts another answer; newest first, so that it can be undone.

    ``holds`` is whether the copies stand as it was said.
    """
    with snapshot() as db:
        return store.told(db, review)


def withdraw(review: int, account: int, ruling: int) -> None:
    """Withdraw one person's ruling, same or different."""
    with changing(review, account, "match") as change:
        found = of_people(change.db, review, ids=[ruling], same=None)
        if not found:
            raise NotFound("That was taken back already.")
        withdraw_all(change, found)
