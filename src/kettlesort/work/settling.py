"""Rulings and groups after a dry run is applied or undone: in parts that hang together, so that nobody waits long for the review."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from sqlmodel import Session

from kettlesort.core.matching import Groups, rule_of
from kettlesort.store import match
from kettlesort.store import trial as store
from kettlesort.store.base import Row
from kettlesort.store.trial import Trial
from kettlesort.work import rules
from kettlesort.work.change import Change
from kettlesort.work.match import regroup

PART = 150
"""So many copies are joined and parted in one transaction, and a few more where they hang together."""


class Part(NamedTuple):
    """Some copies whose records hang together: rulings on them that hold no longer and that hold again, and pairs that are joined."""

    copies: list[int]
    withdrawn: list[int]
    restored: list[int]
    joined: list[match.Found]


class _Step(NamedTuple):
    """One ruling or pair: its copies, and the records that they are in."""

    copies: tuple[int, int]
    records: tuple[int, int]
    withdrawn: int | None = None
    restored: int | None = None
    joined: match.Found | None = None


def parts_of(db: Session, trial: Trial, *, undo: bool) -> list[Part]:
    """What is left to do until the review is as a trial says, or as it was before; there is a first part, if an empty one.

    A trial that is applied withdraws what it does not share of the rulings that stood when it was made, and joins its pairs. One that is applied again after
    it was undone takes its own rulings up again, and does the rest, if it never came to that.
    """
    assert trial.id is not None
    steps = [
        _Step(*_about(row), withdrawn=row["id"]) if row["holds"] else _Step(*_about(row), restored=row["id"])
        for row in store.of_trial(db, trial.id)
        if row["holds"] == (row["made"] == undo)
    ]
    if not undo:
        steps += [_Step(*_about(row), withdrawn=row["id"]) for row in store.not_shared(db, trial.review_id, trial.id, trial.mark[1])]
        steps += [_Step(*_about(row), joined=_found(row)) for row in store.not_joined(db, trial.review_id, trial.id)]
    return _hanging_together(steps)


def _about(row: Row) -> tuple[tuple[int, int], tuple[int, int]]:
    return (row["left_copy"], row["right_copy"]), (row["left_record"], row["right_record"])


def _found(row: Row) -> match.Found:
    return row["left_copy"], row["right_copy"], row["score"], row["how"], row["kind"]


def _hanging_together(steps: Sequence[_Step]) -> list[Part]:
    """Steps in parts: those whose records hang together in the same one."""
    records = sorted({record for step in steps for record in step.records})
    place = {record: k for k, record in enumerate(records)}
    groups = Groups(len(records))
    for step in steps:
        groups.join(place[step.records[0]], place[step.records[1]])
    steps_of: dict[int, list[_Step]] = {}
    for step in steps:
        steps_of.setdefault(groups.of(place[step.records[0]]), []).append(step)
    parts = [Part([], [], [], [])]
    for group in groups.all():
        if len(parts[-1].copies) >= PART:
            parts.append(Part([], [], [], []))
        part, some = parts[-1], steps_of[groups.of(group[0])]
        part.copies.extend(sorted({copy for step in some for copy in step.copies}))
        part.withdrawn.extend(step.withdrawn for step in some if step.withdrawn is not None)
        part.restored.extend(step.restored for step in some if step.restored is not None)
        part.joined.extend(step.joined for step in some if step.joined is not None)
    return parts


def kept_anew(db: Session, review: int) -> list[Part]:
    """The records whose values may change as the latest version of the rule trusts sources in another order than the one before; none where it does not."""
    latest = [tuple(rule_of(version["text"]).trust) for version in store.rules(db, review)[:2]]
    if len({*latest, *([()] if len(latest) < 2 else [])}) < 2:
        return []
    records = match.several(db, review)
    return [Part(match.group_copies(db, records[k : k + PART // 2]), [], [], []) for k in range(0, len(records), PART // 2)]


def follow(change: Change, trial: Trial, part: Part) -> None:
    """Do one part: its rulings, the groups that follow from all rulings in force, and what is kept of them."""
    store.withdraw(change.db, change.account, part.withdrawn, trial.id if trial.state == "applied" else None)
    store.restore(change.db, part.restored)
    match.rule_same(change.db, change.review, change.account, part.joined, trial.id)
    records = match.records_of(change.db, part.copies)  # as they are now: somebody may have joined or parted some meanwhile
    copies = match.group_copies(change.db, records)
    regroup(change, records)
    match.rebuild(change.db, change.review, match.records_of(change.db, copies), rules.trust_of(change.db, change.review))
