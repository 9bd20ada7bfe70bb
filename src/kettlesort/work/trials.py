"""A matching of the whole review beside what stands: what would change, then all of it in one stroke, and back in one stroke."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from typing import Any

from sqlmodel import Session

from kettlesort.core import matching
from kettlesort.core.matching import Rule, rule_of
from kettlesort.core.matching.passes import edges, reach
from kettlesort.store import match, questions
from kettlesort.store import trial as store
from kettlesort.store.base import Row, count_anew, session, snapshot
from kettlesort.store.jobs import Job, under_way
from kettlesort.store.trial import LearntOf, Trial
from kettlesort.work import jobs, rules
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Conflict, NotFound
from kettlesort.work.match import matched
from kettlesort.work.questions import Side, sides
from kettlesort.work.settling import follow, kept_anew, parts_of

PLANNED_ANEW = 1000
"""Of so many pairs on PostgreSQL looks at the tables that hold them."""
CHANGES = ("join", "part", "ask", "answer", "edge")


def begin(review: int, account: int, text: str) -> int:
    """Try a rule on the whole review, in the background; the trial."""
    rule = rules.rule_from(text)
    with changing(review, account, "match") as change:
        if under_way(change.db, review, "settle_groups"):
            raise Conflict("Records are still being joined and parted after the last dry run; wait for that.")
        if under_way(change.db, review, "try_rule"):
            raise Conflict("A dry run is under way already; wait for it, or cancel it.")
        made = Trial(review_id=review, rule=rule.text(), account_id=account)
        change.db.add(made)
        change.db.flush()
        assert made.id is not None
        jobs.begin(change, "try_rule", f"Trying “{rule.name}”", made.id)
        return made.id


def try_rule(job_id: int) -> None:
    """The job behind a trial."""
    with jobs.working(job_id) as work:
        if work is None:
            return
        job, progress = work
        assert job.subject_id is not None
        with snapshot() as db:
            trial = db.get(Trial, job.subject_id)
            assert trial is not None
            rule = rule_of(trial.rule)
            mark = match.fingerprint(db, job.review_id)
            copies = match.placed(db, job.review_id)
            ruled = [ruling for ruling in match.rulings(db, job.review_id) if not ruling["by_rule"]]
            standing = [ruling for ruling in match.rulings(db, job.review_id) if ruling["by_rule"]]
            open_now = questions.open_questions(db, job.review_id)
        result = matched(copies, ruled, rule, None, progress)
        with session() as db:
            _write(db, job, list(mark), copies, standing, open_now, result)
            jobs.finish_in(db, job, "done")
        if len(result.pairs) > PLANNED_ANEW:
            count_anew("trial_pair", "ruling")  # applying it is planned for as much as there is


def _write(
    db: Session,
    job: Job,
    mark: list[int],
    copies: Sequence[Row],
    standing: Sequence[Row],
    open_now: Sequence[Row],
    result: matching.Matching,
) -> None:
    ids = [row["id"] for row in copies]
    before = {row["id"]: row["record_id"] for row in copies}
    position = {copy: k for k, copy in enumerate(ids)}
    out: list[tuple[Any, ...]] = []
    seen: set[tuple[int, int]] = set()
    same = [pair for pair in result.pairs if pair.verdict == "same"]
    for pair in sorted(same, key=lambda each: -each.score):
        left, right = sorted((ids[pair.left], ids[pair.right]))
        key = (min(before[left], before[right]), max(before[left], before[right]))
        new = key[0] != key[1] and key not in seen
        if new:
            seen.add(key)
        out.append((left, right, pair.score, "same", pair.how, pair.kind, "join" if new else "", ""))
    parted: set[tuple[int, int]] = set()
    for row in standing:
        if not row["same"] or before[row["left_copy"]] != before[row["right_copy"]]:
            continue
        one, two = result.groups.of(position[row["left_copy"]]), result.groups.of(position[row["right_copy"]])
        if one != two and (min(one, two), max(one, two)) not in parted:
            parted.add((min(one, two), max(one, two)))
            out.append((row["left_copy"], row["right_copy"], row["score"] or 0.0, "apart", row["how"], "", "part", ""))
    asked_now = {tuple(sorted((each["left_record"], each["right_record"]))) for each in open_now}
    after: set[tuple[int, ...]] = set()
    for pair in result.pairs:
        if pair.verdict == "unsure":
            left, right = sorted((ids[pair.left], ids[pair.right]))
            records = tuple(sorted((before[left], before[right])))
            after.add(records)
            out.append((left, right, pair.score, "unsure", pair.how, pair.kind, "" if records in asked_now else "ask", ""))
    for row in open_now:
        if tuple(sorted((row["left_record"], row["right_record"]))) not in after:
            out.append((row["left_copy"], row["right_copy"], row["score"], "apart", row["how"], row["kind"], "answer", ""))
    for edge in edges(result):
        left, right = sorted((ids[edge.left], ids[edge.right]))
        out.append((left, right, edge.score, "apart", edge.how, edge.kind, "edge", edge.fails))
    _save(db, job, mark, out, copies, open_now, result)


def _save(
    db: Session,
    job: Job,
    mark: list[int],
    out: list[tuple[Any, ...]],
    copies: Sequence[Row],
    open_now: Sequence[Row],
    result: matching.Matching,
) -> None:
    assert job.subject_id is not None
    store.write_pairs(db, job.subject_id, out)
    trial = db.get(Trial, job.subject_id)
    assert trial is not None
    changes = Counter(one[6] for one in out)
    join, ask = result.thresholds
    trial.summary = {
        "copies": len(copies), "records_before": len({copy["record_id"] for copy in copies}), "records_after": len(result.groups.all()),
        "questions_before": len(open_now), "questions_after": sum(one[3] == "unsure" for one in out), **{name: changes[name] for name in CHANGES},
        "join_from": join, "ask_from": ask, "curve": [tuple(point) for point in result.curve()], "kinds": result.kinds(),
        "passes": [one._asdict() for one in reach(result)], "by_weights": sum(one[3] == "same" and not one[4] for one in out),
    }  # fmt: skip
    apart = result.left_apart(3000)
    ids = [copy["id"] for copy in copies]
    trial.learnt = {
        **result.learnt.plain(), "kinds": result.kinds(), "curve": trial.summary["curve"],
        "apart": {"population": apart.population, "pairs": [(*sorted((ids[i], ids[j])), round(weight, 3)) for i, j, weight in apart.pairs]},
    }  # fmt: skip
    trial.mark, trial.state = mark, "ready"


def trials(review: int) -> Sequence[Row]:
    """All trials, the latest first."""
    with snapshot() as db:
        return store.trials(db, review)


def trial_of(review: int, trial: int) -> tuple[Row, bool]:
    """One trial, and whether the review is still as it was tried on."""
    with snapshot() as db:
        found = store.trial(db, review, trial)
        if found is None:
            raise NotFound("There is no such dry run in this review.")
        return found, list(match.fingerprint(db, review)) == list(found["mark"])


def pairs(review: int, trial: int, change: str, how: str, offset: int, limit: int) -> tuple[int, list[tuple[Row, Side, Side]]]:
    """Pairs of a trial by what would change, the least certain first, or at the edge of a pass, the most alike first."""
    with snapshot() as db:
        if store.trial(db, review, trial) is None:
            raise NotFound("There is no such dry run in this review.")
        found = store.pairs(db, trial, change, how, offset, min(limit, 200))
        by = {side.id: side for side in sides(db, sorted({c for row in found for c in (row["left_copy"], row["right_copy"])}))}
        return (int(found[0]["total"]) if found else 0), [(one, by[one["left_copy"]], by[one["right_copy"]]) for one in found]


def apply(review: int, account: int, trial: int) -> None:
    """Let a trial hold: its rule is in force, its groups and questions replace those of the rules before. What people said stays."""
    with _settling(review, account, trial) as (change, found):
        if found.state not in ("ready", "undone"):
            raise Conflict("This dry run is not ready, or was applied already.")
        if found.state == "ready":
            if list(match.fingerprint(change.db, review)) != list(found.mark):
                raise Conflict("The review has changed since this dry run; try the rule again, so that you see what would change now.")
            store.close_questions(change.db, review, trial)
            asked = [(r["left_copy"], r["right_copy"], r["score"], r["how"], r["kind"]) for r in store.unsure(change.db, trial)]
            questions.ask(change.db, review, asked, trial)
        else:
            store.ask_again(change.db, review, trial)
        found.state, found.applied_at, found.applied_by = "applied", datetime.now(UTC), account
        rule = rules.put_in_force(change, rule_of(found.rule))
        change.db.merge(LearntOf(review_id=review, data=found.learnt, at=datetime.now(UTC)))
        said = {name: found.summary.get(name) for name in ("join", "part", "ask", "answer")}
        change.event("match.applied", rule.name, None, {**said, "trial": trial, "version": rule.version})


def undo(review: int, account: int, trial: int) -> None:
    """Take an applied trial back: what it joined and parted is as before; the rule before it is in force again."""
    with _settling(review, account, trial, undoing=True) as (change, found):
        if found.state != "applied":
            raise Conflict("This dry run is not applied.")
        store.ask_as_before(change.db, trial)
        found.state, found.undone_at, found.undone_by = "undone", datetime.now(UTC), account
        before = store.rule_before(change.db, review)
        rules.put_in_force(change, rule_of(before) if before else Rule())
        change.event("match.undone", rule_of(found.rule).name, {"trial": trial}, None)


@contextmanager
def _settling(review: int, account: int, trial: int, *, undoing: bool = False) -> Iterator[tuple[Change, Trial]]:
    """A change that decides on a trial; groups follow it, the first of them with it, the rest by a job. What follows is worked out before anybody waits for it."""
    with snapshot() as db:
        found = db.get(Trial, trial)
        if found is None or found.review_id != review:
            raise NotFound("There is no such dry run in this review.")
        parts = parts_of(db, found, undo=undoing)
    with changing(review, account, "match") as change:
        if under_way(change.db, review, "settle_groups"):
            raise Conflict("Records are still being joined and parted after the last dry run; wait for that.")
        found = change.db.get_one(Trial, trial, populate_existing=True)
        yield change, found
        change.db.flush()
        anew = kept_anew(change.db, review)
        if len(parts) > 1 or len(anew) > 1:
            jobs.begin(change, "settle_groups", f"{'Undoing' if undoing else 'Applying'} a dry run", trial)
        for part in (parts[0], *anew[:1]):
            follow(change, found, part)


def settle_groups(job_id: int) -> None:
    """The job after a trial was applied or undone: rulings and groups follow in parts. Begun again, it does what is left."""
    with jobs.working(job_id) as work:
        if work is None:
            return
        job, progress = work
        assert job.subject_id is not None
        with snapshot() as db:
            found = db.get_one(Trial, job.subject_id)
            parts = parts_of(db, found, undo=found.state == "undone")
            parts += kept_anew(db, job.review_id)
        for k, part in enumerate(parts):
            with changing(job.review_id, job.account_id, "match") as change:
                follow(change, change.db.get_one(Trial, job.subject_id), part)
            progress.tick(k / len(parts))
        jobs.finish(job, "done", "")
