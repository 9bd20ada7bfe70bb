"""A matching of the whole review beside what stands: what would change, then all of it in one stroke, and back in one stroke."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any

from sqlmodel import Session

from kettlesort.core import matching
from kettlesort.core.matching import Rule, rule_of
from kettlesort.core.matching.passes import edges, reach
from kettlesort.store import match as store
from kettlesort.store.base import Row, row, rows, run, session, snapshot
from kettlesort.store.jobs import Job
from kettlesort.store.trial import LearntOf, Trial
from kettlesort.work import jobs, rules
from kettlesort.work.change import Change, change
from kettlesort.work.errors import Conflict, NotFound
from kettlesort.work.match import matched, records_of, regroup
from kettlesort.work.questions import Side, sides

CHANGES = ("join", "part", "ask", "answer", "edge")


def begin(review: int, account: int, text: str) -> int:
    """Try a rule on the whole review, in the background; the trial."""
    rule = rules.rule_from(text)
    with change(review, account, "match") as it:
        if row(it.db, "SELECT 1 FROM job WHERE review_id = :r AND kind = 'try_rule' AND state IN ('waiting', 'working')", r=review):
            raise Conflict("A trial is under way already; wait for it, or cancel it.")
        made = Trial(review_id=review, rule=rule.text(), account_id=account)
        it.db.add(made)
        it.db.flush()
        assert made.id is not None
        jobs.begin(it, "try_rule", f"Trying “{rule.name}”", made.id)
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
            mark = store.fingerprint(db, job.review_id)
            copies = store.placed(db, job.review_id)
            ruled = [it for it in store.rulings(db, job.review_id) if not it["by_rule"]]
            standing = [it for it in store.rulings(db, job.review_id) if it["by_rule"]]
            open_now = store.open_questions(db, job.review_id)
        result = matched(copies, ruled, rule, None, progress)
        with session() as db:
            _write(db, job, list(mark), copies, standing, open_now, result)
            jobs.finish_in(db, job, "done")


def _write(
    db: Session,
    job: Job,
    mark: list[int],
    copies: Sequence[Row],
    standing: Sequence[Row],
    open_now: Sequence[Row],
    result: matching.Matching,
) -> None:
    ids = [it["id"] for it in copies]
    before = {it["id"]: it["record_id"] for it in copies}
    position = {copy: k for k, copy in enumerate(ids)}
    out: list[tuple[Any, ...]] = []
    seen: set[tuple[int, int]] = set()
    same = [pair for pair in result.pairs if pair.verdict == "same"]
    for pair in sorted(same, key=lambda it: -it.score):
        left, right = sorted((ids[pair.left], ids[pair.right]))
        key = (min(before[left], before[right]), max(before[left], before[right]))
        new = key[0] != key[1] and key not in seen
        if new:
            seen.add(key)
        out.append((left, right, pair.score, "same", pair.how, pair.kind, "join" if new else "", ""))
    parted: set[tuple[int, int]] = set()
    for it in standing:
        if not it["same"] or before[it["left_copy"]] != before[it["right_copy"]]:
            continue
        one, two = result.groups.of(position[it["left_copy"]]), result.groups.of(position[it["right_copy"]])
        if one != two and (min(one, two), max(one, two)) not in parted:
            parted.add((min(one, two), max(one, two)))
            out.append((it["left_copy"], it["right_copy"], it["score"] or 0.0, "apart", it["how"], "", "part", ""))
    asked_now = {tuple(sorted((it["left_record"], it["right_record"]))) for it in open_now}
    after: set[tuple[int, ...]] = set()
    for pair in result.pairs:
        if pair.verdict == "unsure":
            left, right = sorted((ids[pair.left], ids[pair.right]))
            records = tuple(sorted((before[left], before[right])))
            after.add(records)
            out.append((left, right, pair.score, "unsure", pair.how, pair.kind, "" if records in asked_now else "ask", ""))
    for it in open_now:
        if tuple(sorted((it["left_record"], it["right_record"]))) not in after:
            out.append((it["left_copy"], it["right_copy"], it["score"], "apart", it["how"], it["kind"], "answer", ""))
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
    run(
        db,
        """INSERT INTO trial_pair (trial_id, left_copy, right_copy, score, verdict, how, kind, change, edge)
        SELECT :t, u.* FROM unnest(CAST(:l AS bigint[]), CAST(:r AS bigint[]), CAST(:w AS float[]), CAST(:v AS text[]), CAST(:h AS text[]), CAST(:k AS text[]),
            CAST(:c AS text[]), CAST(:e AS text[])) u""",
        t=job.subject_id, **{name: [it[n] for it in out] for n, name in enumerate("lrwvhkce")},
    )  # fmt: skip
    trial = db.get(Trial, job.subject_id)
    assert trial is not None
    changes = Counter(it[6] for it in out)
    join, ask = result.thresholds
    trial.summary = {
        "copies": len(copies), "records_before": len({it["record_id"] for it in copies}), "records_after": len(result.groups.all()),
        "questions_before": len(open_now), "questions_after": sum(it[3] == "unsure" for it in out), **{name: changes[name] for name in CHANGES},
        "join_from": join, "ask_from": ask, "curve": [tuple(point) for point in result.curve()], "kinds": result.kinds(),
        "passes": [it._asdict() for it in reach(result)], "by_weights": sum(it[3] == "same" and not it[4] for it in out),
    }  # fmt: skip
    apart = result.left_apart(3000)
    ids = [it["id"] for it in copies]
    trial.learnt = {
        **result.learnt.plain(), "kinds": result.kinds(), "curve": trial.summary["curve"],
        "apart": {"population": apart.population, "pairs": [(*sorted((ids[i], ids[j])), round(weight, 3)) for i, j, weight in apart.pairs]},
    }  # fmt: skip
    trial.mark, trial.state = mark, "ready"


def trials(review: int) -> Sequence[Row]:
    """All trials, the latest first."""
    with snapshot() as db:
        return rows(
            db,
            """SELECT t.id, t.rule, t.state, t.summary - 'curve' AS summary, t.at, a.full_name AS by, t.applied_at, p.full_name AS applied_by, t.undone_at, u.full_name AS undone_by,
            (SELECT j.state FROM job j WHERE j.kind = 'try_rule' AND j.subject_id = t.id ORDER BY j.id DESC LIMIT 1) AS job FROM trial t JOIN account a ON a.id = t.account_id
            LEFT JOIN account p ON p.id = t.applied_by LEFT JOIN account u ON u.id = t.undone_by WHERE t.review_id = :r ORDER BY t.id DESC LIMIT 100""",
            r=review,
        )


def trial_of(review: int, trial: int) -> tuple[Row, bool]:
    """One trial, and whether the review is still as it was tried on."""
    with snapshot() as db:
        found = row(
            db,
            """SELECT t.*, a.full_name AS by, (SELECT j.state FROM job j WHERE j.kind = 'try_rule' AND j.subject_id = t.id ORDER BY j.id DESC LIMIT 1) AS job
            FROM trial t JOIN account a ON a.id = t.account_id WHERE t.id = :t AND t.review_id = :r""",
            t=trial, r=review,
        )  # fmt: skip
        if found is None:
            raise NotFound("There is no such trial in this review.")
        return found, list(store.fingerprint(db, review)) == list(found["mark"])


def pairs(review: int, trial: int, change: str, how: str, offset: int, limit: int) -> tuple[int, list[tuple[Row, Side, Side]]]:
    """Pairs of a trial by what would change, the least certain first, or at the edge of a pass, the most alike first."""
    with snapshot() as db:
        if row(db, "SELECT 1 FROM trial WHERE id = :t AND review_id = :r", t=trial, r=review) is None:
            raise NotFound("There is no such trial in this review.")
        found = rows(
            db,
            """SELECT *, count(*) OVER () AS total FROM trial_pair WHERE trial_id = :t AND change = :c AND (:h = '' OR how = :h) ORDER BY CASE WHEN change = 'edge' THEN -score ELSE score END, id LIMIT :n OFFSET :o""",
            t=trial, c=change, h=how, n=min(limit, 200), o=offset,
        )  # fmt: skip
        by = {it.id: it for it in sides(db, sorted({c for it in found for c in (it["left_copy"], it["right_copy"])}))}
        return (int(found[0]["total"]) if found else 0), [(it, by[it["left_copy"]], by[it["right_copy"]]) for it in found]


def apply(review: int, account: int, trial: int) -> None:
    """Let a trial hold: its rule is in force, its groups and questions replace those of the rules before. What people said stays."""
    with change(review, account, "match", large=True) as it:
        found = _trial(it, trial)
        if found.state not in ("ready", "undone"):
            raise Conflict("This trial is not ready, or was applied already.")
        if found.state == "ready" and list(store.fingerprint(it.db, review)) != list(found.mark):
            raise Conflict("The review has changed since this trial; try the rule again, so that you see what would change now.")
        if found.state == "undone":
            _redo(it, found)
        else:
            _do(it, found)
        found.state, found.applied_at, found.applied_by = "applied", datetime.now(UTC), account
        rule = rules.put_in_force(it, rule_of(found.rule))
        it.db.merge(LearntOf(review_id=review, data=found.learnt, at=datetime.now(UTC)))
        _settle(it)
        said = {name: found.summary.get(name) for name in ("join", "part", "ask", "answer")}
        it.event("match.applied", rule.name, None, {**said, "trial": trial, "version": rule.version})


def _do(it: Change, found: Trial) -> None:
    new = rows(
        it.db,
        "SELECT left_copy, right_copy, score, verdict, how, kind FROM trial_pair WHERE trial_id = :t AND verdict IN ('same', 'unsure') AND change <> 'edge'",
        t=found.id,
    )
    same = {(r["left_copy"], r["right_copy"]): r for r in new if r["verdict"] == "same"}
    run(
        it.db,
        """UPDATE ruling u SET withdrawn_at = clock_timestamp(), withdrawn_by = :a, withdrawn_trial_id = :t WHERE u.review_id = :r AND u.by_rule AND u.withdrawn_at IS NULL
        AND NOT EXISTS (SELECT 1 FROM trial_pair p WHERE p.trial_id = :t AND p.verdict = 'same' AND p.left_copy = u.left_copy AND p.right_copy = u.right_copy AND p.how = u.how)""",
        a=it.account, t=found.id, r=it.review,
    )  # fmt: skip
    held = rows(it.db, "SELECT left_copy, right_copy FROM ruling WHERE review_id = :r AND by_rule AND withdrawn_at IS NULL", r=it.review)
    for r in held:
        same.pop((r["left_copy"], r["right_copy"]), None)
    store.rule_same(
        it.db, it.review, it.account, [(r["left_copy"], r["right_copy"], r["score"], r["how"], r["kind"]) for r in same.values()], found.id
    )
    run(it.db, "UPDATE question SET gone_trial_id = :t WHERE review_id = :r AND gone_trial_id IS NULL", t=found.id, r=it.review)
    store.ask(
        it.db,
        it.review,
        [(r["left_copy"], r["right_copy"], r["score"], r["how"], r["kind"]) for r in new if r["verdict"] == "unsure"],
        found.id,
    )


def _redo(it: Change, found: Trial) -> None:
    run(
        it.db,
        "UPDATE ruling SET withdrawn_at = clock_timestamp(), withdrawn_by = :a WHERE review_id = :r AND withdrawn_trial_id = :t AND withdrawn_at IS NULL",
        a=it.account, r=it.review, t=found.id,
    )  # fmt: skip
    run(it.db, "UPDATE ruling SET withdrawn_at = NULL, withdrawn_by = NULL WHERE trial_id = :t AND withdrawn_trial_id IS NULL", t=found.id)
    run(it.db, "UPDATE question SET gone_trial_id = NULL WHERE trial_id = :t AND gone_trial_id = :t", t=found.id)
    run(
        it.db,
        "UPDATE question SET gone_trial_id = :t WHERE review_id = :r AND gone_trial_id IS NULL AND trial_id IS DISTINCT FROM :t",
        t=found.id,
        r=it.review,
    )


def undo(review: int, account: int, trial: int) -> None:
    """Take an applied trial back: what it joined and parted is as before, in one stroke; the rule before it is in force again."""
    with change(review, account, "match", large=True) as it:
        found = _trial(it, trial)
        if found.state != "applied":
            raise Conflict("This trial is not applied.")
        run(
            it.db, "UPDATE ruling SET withdrawn_at = clock_timestamp(), withdrawn_by = :a WHERE trial_id = :t AND withdrawn_at IS NULL", a=account, t=trial
        )  # fmt: skip
        run(it.db, "UPDATE ruling SET withdrawn_at = NULL, withdrawn_by = NULL WHERE withdrawn_trial_id = :t", t=trial)
        run(it.db, "UPDATE question SET gone_trial_id = NULL WHERE gone_trial_id = :t AND (trial_id IS NULL OR trial_id <> :t)", t=trial)
        run(it.db, "UPDATE question SET gone_trial_id = :t WHERE trial_id = :t AND gone_trial_id IS NULL", t=trial)
        found.state, found.undone_at, found.undone_by = "undone", datetime.now(UTC), account
        before = row(
            it.db,
            "SELECT text FROM match_rule WHERE review_id = :r AND version < (SELECT max(version) FROM match_rule WHERE review_id = :r) ORDER BY version DESC LIMIT 1",
            r=review,
        )
        rules.put_in_force(it, rule_of(before["text"]) if before else Rule())
        _settle(it)
        it.event("match.undone", rule_of(found.rule).name, {"trial": trial}, None)


def _settle(it: Change) -> None:
    """All groups anew from the rulings in force; kept records too where the order of trust may have changed."""
    it.db.flush()
    copies = [r["copy_id"] for r in rows(it.db, "SELECT copy_id FROM placement WHERE review_id = :r ORDER BY copy_id", r=it.review)]
    before = records_of(it.db, copies)
    regroup(it, before)
    several = rows(it.db, "SELECT record_id FROM placement WHERE review_id = :r GROUP BY record_id HAVING count(*) > 1", r=it.review)
    store.rebuild(it.db, it.review, [r["record_id"] for r in several], rules.trust_of(it.db, it.review))


def _trial(it: Change, trial: int) -> Trial:
    found = it.db.get(Trial, trial)
    if found is None or found.review_id != it.review:
        raise NotFound("There is no such trial in this review.")
    return found
