"""Matching copies after each intake, and working out groups anew from the rulings in force."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from datetime import UTC, datetime
from typing import Any, NamedTuple

import numpy as np
from sqlmodel import Session

from kettlesort.core import matching
from kettlesort.core.matching import Groups, Learnt, learnt_from
from kettlesort.core.matching.blocking import window_of
from kettlesort.core.matching.columns import Columns, columns_of
from kettlesort.core.matching.keys import BY_YEAR, KEYS
from kettlesort.store import match as store
from kettlesort.store import questions
from kettlesort.store.base import Row, count_anew, snapshot
from kettlesort.store.jobs import Job
from kettlesort.store.match import Ruling, records_of, title_of
from kettlesort.store.records import record_of
from kettlesort.store.trial import LearntOf, learnt_from_review, mark_matched, neighbours, unkeyed, with_groups, without_keys, write_keys
from kettlesort.work import jobs, rules
from kettlesort.work.change import Change, changing

WHOLE = 20_000
"""A review of up to so many copies is learnt from anew with each intake; a larger one when it has grown by half."""
APART = 3000
"""So many pairs that were left apart are kept, for checking by hand."""
PART = 120
"""So many copies are joined in one transaction: nobody waits longer than that for the review."""
LEAVING = 300
"""So many leave in one."""


def match_copies(job_id: int) -> None:
    """The job after taking in: compares new copies with all, joins what is certain, asks about what is doubtful.

    The work is done outside the transaction. What is certain is then joined in parts, group by group;
    each follows from the rulings in force at that moment, so what people say or take in meanwhile
    holds, and a job that dies in between goes on where it stopped. The file counts as matched with the last part.
    """
    with jobs.working(job_id) as work:
        if work is None:
            return
        job, progress = work
        with snapshot() as db:
            new = store.count_new(db, job.review_id)
        if new > WHOLE // 20:
            count_anew("placement", "standing", "record", "copy", "batch")
        result = _matched_now(job, progress)
        for part in _parts(result):
            with changing(job.review_id, job.account_id, "") as change:
                _join(change, part)
        with changing(job.review_id, job.account_id, "match", alone=False) as change:
            _finish(change, result)
            jobs.finish_in(change.db, job, "done")


class _Now(NamedTuple):
    """A matching of the copies as they were; ``again`` says that everything was learnt and compared anew."""

    result: matching.Matching
    copies: Sequence[Row]
    first_new: int
    again: bool

    @property
    def ids(self) -> list[int]:
        return [copy["id"] for copy in self.copies]

    @property
    def batches(self) -> list[int]:
        return sorted({copy["batch_id"] for copy in self.copies[self.first_new :]})


def _matched_now(job: Job, progress: jobs.Progress) -> _Now:
    with snapshot() as db:
        rule = rules.in_force(db, job.review_id)
        learnt = learnt_of(db, job.review_id)
        placed = store.fingerprint(db, job.review_id)[0]
        again = learnt is None or placed <= WHOLE or 2 * placed > 3 * learnt.records or unkeyed(db, job.review_id)
        copies = store.placed(db, job.review_id) if again else _near(db, job.review_id)
        ruled = store.rulings(db, job.review_id, None if again else [copy["id"] for copy in copies])
    first_new = sum(1 for copy in copies if copy["matched"])
    return _Now(matched(copies, ruled, rule, None if again else learnt, progress, first_new), copies, first_new, again)


class _Part(NamedTuple):
    """Some groups that are to be joined: their copies, and the pairs by which a rule joins them."""

    copies: list[int]
    pairs: list[tuple[int, int, float, str, str]]


def _parts(now: _Now) -> Iterator[_Part]:
    """The groups whose copies are not together yet, as many in a part as hold about `PART` copies."""
    ids, groups = now.ids, now.result.groups
    by_group: dict[int, list[matching.Pair]] = {}
    for pair in now.result.pairs:
        if pair.verdict == "same":
            by_group.setdefault(groups.of(pair.left), []).append(pair)
    part = _Part([], [])
    for group in groups.all():
        pairs = by_group.get(groups.of(group[0]), [])
        if pairs or len({now.copies[k]["record_id"] for k in group}) > 1:
            part.copies.extend(ids[k] for k in group)
            part.pairs.extend(_of(pair, ids) for pair in pairs)
        if len(part.copies) >= PART:
            yield part
            part = _Part([], [])
    if part.copies:
        yield part


def _join(change: Change, part: _Part) -> None:
    """Join pairs by rule; the groups follow from all rulings in force."""
    store.rule_same(change.db, change.review, change.account, part.pairs)
    _regroup(change, records_of(change.db, part.copies))


def learnt_of(db: Session, review: int) -> Learnt | None:
    """What was learnt from a review before."""
    found = learnt_from_review(db, review)
    return None if found is None else learnt_from(found)


def matched(
    copies: Sequence[Row], ruled: Sequence[Row], rule: matching.Rule, learnt: Learnt | None, progress: jobs.Progress, first_new: int = 0
) -> matching.Matching:
    """Match copies, given the rulings that hold."""
    position = {copy["id"]: k for k, copy in enumerate(copies)}
    pairs = [(position[row["left_copy"]], position[row["right_copy"]], row["same"], row["by_rule"]) for row in ruled]
    return matching.match(
        [record_of(copy) for copy in copies],
        same=[(i, j) for i, j, same, _ in pairs if same],
        different=[(i, j) for i, j, same, _ in pairs if not same],
        answered=[(i, j, same) for i, j, same, by_rule in pairs if not by_rule],
        first_new=first_new,
        rule=rule,
        learnt=learnt,
        sources=[copy["source"] for copy in copies],
        tick=progress.tick,
    )


def _near(db: Session, review: int) -> list[Row]:
    """The copies of files that are not matched yet, after those that they may be copies of with all of their groups."""
    new = store.placed(db, review, new=True)
    columns = columns_of([record_of(row) for row in new])
    by_window: dict[int, list[tuple[int, int]]] = {}
    for key, place, _ in keys_of(columns, range(len(columns))):
        by_window.setdefault(window_of(key), []).append((key, place))
    near = {copy for window, asked in by_window.items() for copy in neighbours(db, review, asked, window)}
    return [*store.placed(db, review, copies=with_groups(db, review, sorted(near))), *new]


def keys_of(columns: Columns, positions: Iterable[int]) -> Iterable[tuple[int, int, int]]:
    """Each key of some records, its place, and the position of its record."""
    wanted = np.zeros(len(columns), bool)
    wanted[list(positions)] = True
    by_year = np.isin(np.arange(KEYS), BY_YEAR)
    places = np.where(by_year, columns.among_titles[:, None], columns.among_others[:, None])
    there = (columns.keys != 0) & wanted[columns.owner][:, None]
    owners = np.broadcast_to(columns.owner[:, None], columns.keys.shape)
    found = np.unique(np.stack((columns.keys[there], places[there], owners[there]), axis=1), axis=0)
    return ((key, place, owner) for key, place, owner in found.tolist())


def _finish(change: Change, now: _Now) -> None:
    """The last part: keys of the new copies, questions, what was learnt."""
    ids, result = now.ids, now.result
    unkept = set(without_keys(change.db, sorted({one["batch_id"] for one in now.copies})))
    keys = keys_of(result.columns, [k for k, copy in enumerate(ids) if copy in unkept])
    write_keys(change.db, change.review, [(key, place, ids[k]) for key, place, k in keys])
    change.wait_turn()
    new = ids[now.first_new :]
    asked = [pair for pair in result.pairs if pair.verdict == "unsure"]
    questions.forget_questions(change.db, change.review, new)
    questions.ask(change.db, change.review, [_of(pair, ids) for pair in asked])
    mark_matched(change.db, now.batches, sorted({one["batch_id"] for one in now.copies if one["id"] in unkept}))
    if now.again:
        keep_learnt(change, result, ids)
        _weigh_questions(change, result, ids)
    join, ask = result.thresholds
    said = {
        "copies": len(ids),
        "new": len(new),
        "joined": sum(pair.verdict == "same" for pair in result.pairs),
        "asked": len(asked),
        "join_from": round(join, 2),
        "ask_from": round(ask, 2),
    }
    change.event("match.run", "", None, {**said, "rule": result.rule.name, "version": result.rule.version})
    change.rank_again()
    change.index_again()


def _of(pair: matching.Pair, ids: Sequence[int]) -> tuple[int, int, float, str, str]:
    """A pair of positions as one of copies: left, right, weight, pass, kind."""
    left, right = sorted((ids[pair.left], ids[pair.right]))
    return left, right, pair.score, pair.how, pair.kind


def keep_learnt(change: Change, result: matching.Matching, ids: Sequence[int]) -> None:
    """Keep what was learnt, the curve of expected errors, and a share of the pairs left apart."""
    apart = result.left_apart(APART)
    pairs = [(*sorted((ids[i], ids[j])), round(weight, 3)) for i, j, weight in apart.pairs]
    data = {
        **result.learnt.plain(), "apart": {"population": apart.population, "pairs": pairs},
        "curve": [tuple(point) for point in result.curve()], "kinds": result.kinds(),
    }  # fmt: skip
    change.db.merge(LearntOf(review_id=change.review, data=data, at=datetime.now(UTC)))


def _weigh_questions(change: Change, result: matching.Matching, ids: Sequence[int]) -> None:
    """Let pairs that were asked before weigh what they weigh now."""
    position = {copy: k for k, copy in enumerate(ids)}
    open_now = [q for q in questions.open_questions(change.db, change.review) if q["left_copy"] in position and q["right_copy"] in position]
    weights = result.weigh([(position[q["left_copy"]], position[q["right_copy"]]) for q in open_now])
    questions.weigh(change.db, [q["id"] for q in open_now], weights)


def _place(change: Change, place: dict[int, int]) -> list[int]:
    """Place copies with records, and make what follows from it anew."""
    touched = store.move(change.db, place)
    store.rebuild(change.db, change.review, touched, rules.trust_of(change.db, change.review))
    change.stands(touched)
    return touched


def regroup(change: Change, records: list[int]) -> list[int]:
    """Work out the groups of some records' copies anew from the rulings in force."""
    touched = _regroup(change, records)
    change.rank_again()
    change.index_again()
    return touched


def _regroup(change: Change, records: list[int]) -> list[int]:
    change.db.flush()
    copies = store.group_copies(change.db, records)
    position = {copy: k for k, copy in enumerate(copies)}
    ruled = store.rulings(change.db, change.review, copies)
    groups = Groups(len(copies), [(position[r["left_copy"]], position[r["right_copy"]]) for r in ruled if not r["same"]])
    for r in ruled:
        if r["same"]:
            groups.join(position[r["left_copy"]], position[r["right_copy"]])
    return _place(change, {copies[k]: copies[groups.of(k)] for k in range(len(copies))})


def leave(change: Change, batch: int) -> bool:
    """The next copies of a batch leave their records, at most `LEAVING`; groups that they held together fall apart. Whether all have left."""
    leaving = store.placed_of_batch(change.db, batch, LEAVING)
    touched = records_of(change.db, leaving)
    store.unplace(change.db, leaving)
    copies = store.group_copies(change.db, touched)
    store.stand_alone(change.db, copies)
    store.rebuild(change.db, change.review, sorted({*touched, *copies}), rules.trust_of(change.db, change.review))
    change.stands(sorted({*touched, *copies}))
    if copies:
        _regroup(change, copies)
    change.rank_again()
    change.index_again()
    return len(leaving) < LEAVING


def withdraw_all(change: Change, found: Sequence[Any]) -> None:
    """Withdraw rulings, and work out the groups of their copies anew."""
    for ruling in found:
        made = change.db.get(Ruling, ruling["id"])
        assert made is not None
        made.withdrawn_at, made.withdrawn_by = datetime.now(UTC), change.account
    copies = [c for ruling in found for c in (ruling["left_copy"], ruling["right_copy"])]
    regroup(change, records_of(change.db, copies))
    change.event("match.taken_back", title_of(change.db, copies[0]), {"same": found[0]["same"]}, None)


class Chances(NamedTuple):
    """From where pairs are joined and asked, what is to be expected of other settings, and what was left apart as look-alikes."""

    join_from: float
    ask_from: float
    records: int
    curve: list[tuple[float, int, float, float]]
    kinds: dict[str, int]


def chances(review: int, rule: matching.Rule) -> Chances:
    """What is known of a review's thresholds."""
    with snapshot() as db:
        found = learnt_from_review(db, review)
    data = found or {}
    learnt = matching.NOTHING if found is None else learnt_from(found)
    join, ask = matching.thresholds(rule, learnt.weights)
    return Chances(join, ask, learnt.records, data.get("curve", []), data.get("kinds", {}))
