"""Doubtful pairs that wait for a person: which are open, who looks at which."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Index
from sqlmodel import Session

from kettlesort.store.base import Moment, Row, Table, key, moment, reference
from kettlesort.store.match import Found
from kettlesort.store.records import COLUMNS
from kettlesort.store.sql import column, row, rows, run, scalar


class Question(Table, table=True):
    """A doubtful pair that waits for a person. ``kind`` is that of look-alikes, ``how`` the pass that asked; a person who looks at it holds it.

    ``trial_id`` is the trial that asked, ``gone_trial_id`` the one that no longer does.
    """

    __table_args__ = (
        Index("ix_question_left_copy", "left_copy"),
        Index("ix_question_right_copy", "right_copy"),
    )

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    left_copy: int = reference("copy.id")
    right_copy: int = reference("copy.id")
    score: float
    later: int = 0
    kind: str = ""
    how: str = ""
    held_by: int | None = reference("account.id", null=True)
    held_until: Moment | None = moment(null=True)
    trial_id: int | None = reference("trial.id", null=True)
    gone_trial_id: int | None = reference("trial.id", null=True)


def ask(db: Session, review: int, pairs: Sequence[Found], trial: int | None = None) -> None:
    """Write down pairs that wait for a person."""
    run(
        db,
        """INSERT INTO question (review_id, left_copy, right_copy, score, later, how, kind, trial_id)
        SELECT :review, u.l, u.r, u.w, 0, u.how, u.kind, CAST(:trial AS bigint)
        FROM unnest(CAST(:lefts AS bigint[]), CAST(:rights AS bigint[]), CAST(:weights AS float[]), CAST(:hows AS text[]), CAST(:kinds AS text[])) u(l, r, w, how, kind)
        JOIN placement a ON a.copy_id = u.l JOIN placement b ON b.copy_id = u.r""",
        review=review, trial=trial, lefts=[pair[0] for pair in pairs], rights=[pair[1] for pair in pairs], weights=[pair[2] for pair in pairs],
        hows=[pair[3] for pair in pairs], kinds=[pair[4] for pair in pairs],
    )  # fmt: skip


def forget_questions(db: Session, review: int, copies: Sequence[int]) -> None:
    """Questions about these copies are asked anew, or not at all."""
    run(
        db,
        "DELETE FROM question WHERE review_id = :r AND (left_copy = ANY(CAST(:c AS bigint[])) OR right_copy = ANY(CAST(:c AS bigint[])))",
        r=review, c=list(copies),
    )  # fmt: skip


_OPEN = """question q JOIN placement l ON l.copy_id = q.left_copy JOIN placement r ON r.copy_id = q.right_copy
    WHERE {which} AND q.gone_trial_id IS NULL AND l.record_id <> r.record_id AND NOT EXISTS (SELECT 1 FROM ruling u WHERE u.review_id = q.review_id
        AND NOT u.by_rule AND u.withdrawn_at IS NULL AND u.left_copy = q.left_copy AND u.right_copy = q.right_copy)"""


def open_questions(db: Session, review: int, question: int | None = None) -> Sequence[Row]:
    """Doubtful pairs, or one, that no person has answered and that are not in one group by now, the weightiest first.

    ``decided`` counts the two records that are decided already.
    """
    return rows(
        db,
        f"""SELECT q.id, q.left_copy, q.right_copy, q.score, q.later, q.kind, q.how, l.record_id AS left_record, r.record_id AS right_record,
        CASE WHEN q.held_until > now() THEN q.held_by END AS held_by, CASE WHEN q.held_until > now() THEN (SELECT a.full_name FROM account a WHERE a.id = q.held_by) END AS holder,
        (SELECT c.title FROM copy c WHERE c.id = q.left_copy) AS title,
        (SELECT count(*) FROM placement p WHERE p.record_id IN (l.record_id, r.record_id)) AS copies,
        (SELECT count(*) FROM standing s WHERE s.record_id IN (l.record_id, r.record_id) AND s.first IN ('include', 'exclude')) AS decided
        FROM {_OPEN.format(which="q.review_id = :review")} {"" if question is None else "AND q.id = :question"} ORDER BY q.later, q.score DESC, q.id""",
        review=review, **({} if question is None else {"question": question}),
    )  # fmt: skip


def count_open_questions(db: Session, review: int) -> int:
    """How many `open_questions` there are."""
    return int(scalar(db, f"SELECT count(*) FROM {_OPEN.format(which='q.review_id = :review')}", review=review))


def open_questions_of(db: Session, reviews: Sequence[int]) -> dict[int, int]:
    """How many `open_questions` each of several reviews has."""
    which = "q.review_id = ANY(CAST(:reviews AS bigint[]))"
    found = rows(db, f"SELECT q.review_id, count(*) AS n FROM {_OPEN.format(which=which)} GROUP BY q.review_id", reviews=list(reviews))
    return {row["review_id"]: row["n"] for row in found}


def weigh(db: Session, questions: Sequence[int], weights: Sequence[float]) -> None:
    """Let questions weigh what they weigh now."""
    run(
        db,
        "UPDATE question q SET score = u.w FROM unnest(CAST(:ids AS bigint[]), CAST(:weights AS float[])) u(id, w) WHERE q.id = u.id",
        ids=list(questions), weights=list(weights),
    )  # fmt: skip


def hold(db: Session, review: int, account: int, question: int, minutes: int) -> None:
    """Let an account look at a question for some minutes, and at no other."""
    run(
        db,
        "UPDATE question SET held_by = NULL, held_until = NULL WHERE review_id = :review AND held_by = :account AND id <> :question",
        review=review, account=account, question=question,
    )  # fmt: skip
    run(
        db,
        "UPDATE question SET held_by = :account, held_until = clock_timestamp() + make_interval(mins => :minutes) WHERE id = :question",
        account=account, question=question, minutes=minutes,
    )  # fmt: skip


def let_go(db: Session, question: int) -> None:
    """Nobody looks at a question any longer."""
    run(db, "UPDATE question SET held_by = NULL, held_until = NULL WHERE id = :question", question=question)


def put_off(db: Session, review: int, question: int) -> bool:
    """Put a question to the end of the line; whether there is such a one."""
    return bool(
        run(
            db,
            "UPDATE question SET later = later + 1, held_by = NULL, held_until = NULL WHERE id = :question AND review_id = :review",
            question=question, review=review,
        )
    )  # fmt: skip


def question_about(db: Session, left: int, right: int) -> int | None:
    """The question about two copies, if one is asked."""
    found = scalar(
        db, "SELECT id FROM question WHERE left_copy = :left AND right_copy = :right AND gone_trial_id IS NULL", left=left, right=right
    )
    return None if found is None else int(found)


def last_answer(db: Session, review: int, account: int) -> Row | None:
    """The latest answer of an account to a question that is in force."""
    return row(
        db,
        """SELECT u.* FROM ruling u WHERE u.review_id = :review AND u.account_id = :account AND NOT u.by_rule AND u.withdrawn_at IS NULL
        AND EXISTS (SELECT 1 FROM question q WHERE q.left_copy = u.left_copy AND q.right_copy = u.right_copy) ORDER BY u.id DESC LIMIT 1""",
        review=review, account=account,
    )  # fmt: skip


def told(db: Session, review: int) -> Sequence[Row]:
    """What people said in a review: different or related, and what contradicts another answer; newest first, at most 1,000.

    ``holds`` is whether the copies stand as it was said.
    """
    return rows(
        db,
        """SELECT u.id, coalesce(u.stroke, u.id) AS stroke, u.left_copy, u.right_copy, u.at, u.same, u.related, a.full_name AS by, l.title AS left_title, r.title AS right_title,
        x.record_id AS left_record, y.record_id AS right_record, (x.record_id = y.record_id) = u.same AS holds
        FROM ruling u JOIN account a ON a.id = u.account_id JOIN copy l ON l.id = u.left_copy JOIN copy r ON r.id = u.right_copy
        JOIN placement x ON x.copy_id = u.left_copy JOIN placement y ON y.copy_id = u.right_copy
        WHERE u.review_id = :review AND NOT u.by_rule AND u.withdrawn_at IS NULL AND (NOT u.same OR x.record_id <> y.record_id)
        ORDER BY holds, u.id DESC LIMIT 1000""",
        review=review,
    )


def who_told_apart(db: Session, review: int, records: Sequence[int]) -> list[str]:
    """The names of those who said of copies of these records that they differ."""
    return column(
        db,
        """SELECT DISTINCT a.full_name FROM ruling u JOIN account a ON a.id = u.account_id JOIN placement x ON x.copy_id = u.left_copy JOIN placement y ON y.copy_id = u.right_copy
        WHERE u.review_id = :review AND NOT u.same AND NOT u.by_rule AND u.withdrawn_at IS NULL
        AND x.record_id = ANY(CAST(:records AS bigint[])) AND y.record_id = ANY(CAST(:records AS bigint[]))""",
        review=review, records=list(records),
    )  # fmt: skip


def decided_differently(db: Session, records: Sequence[int]) -> Sequence[Row]:
    """The passes in which these records, taken together, were decided in more than one way: what was ``said``, ``by`` whom."""
    return rows(
        db,
        """SELECT v.pass_number, array_agg(DISTINCT v.verdict ORDER BY v.verdict) AS said, array_agg(DISTINCT a.full_name) AS by FROM seen_verdict v
        JOIN placement p ON p.copy_id = v.copy_id JOIN account a ON a.id = v.account_id WHERE v.withdrawn_at IS NULL AND p.record_id = ANY(CAST(:records AS bigint[]))
        GROUP BY v.pass_number HAVING count(DISTINCT v.verdict) > 1 AND count(DISTINCT v.copy_id) > 1 ORDER BY v.pass_number""",
        records=list(records),
    )


def copies_shown(db: Session, copies: Sequence[int]) -> Sequence[Row]:
    """Copies with their fields, their raw text and what brought them, in the order of their records."""
    return rows(
        db,
        f"""SELECT c.id, c.raw, p.record_id, s.source, s.source || ' · search ' || s.number || ' · ' || b.filename || ', line ' || c.line AS origin,
        {", ".join("c." + name for name in COLUMNS.split(", "))} FROM copy c JOIN batch b ON b.id = c.batch_id JOIN search s ON s.id = b.search_id
        LEFT JOIN placement p ON p.copy_id = c.id WHERE c.id = ANY(CAST(:copies AS bigint[])) ORDER BY p.record_id, c.id""",
        copies=list(copies),
    )


def verdicts_on(db: Session, copies: Sequence[int]) -> Sequence[Row]:
    """The verdicts in force on copies that the viewer may see, oldest first."""
    return rows(
        db,
        """SELECT v.copy_id, v.pass_number, v.verdict, k.name AS reason, a.full_name AS by, v.at FROM seen_verdict v JOIN account a ON a.id = v.account_id
        LEFT JOIN criterion k ON k.id = v.criterion_id WHERE v.withdrawn_at IS NULL AND v.copy_id = ANY(CAST(:copies AS bigint[])) ORDER BY v.id""",
        copies=list(copies),
    )
