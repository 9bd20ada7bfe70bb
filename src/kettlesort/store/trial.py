"""The team's rule of matching, what was learnt from the review, matchings on trial, and keys to find copies by."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import BigInteger
from sqlmodel import Field, Session

from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, one_of, reference
from kettlesort.store.sql import copying, row, rows, run, scalar


class MatchRule(Table, table=True):
    """A version of the team's rule; the latest is in force. ``text`` is its file."""

    __tablename__ = "match_rule"

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    version: int
    text: str
    account_id: int = reference("account.id")
    at: Moment | None = moment()


class LearntOf(Table, table=True):
    """What matching learnt from a review's copies: common words, shared DOIs, weights."""

    __tablename__ = "learnt"

    review_id: int = reference("review.id", primary=True)
    data: dict[str, Any] = json_field({})
    at: Moment | None = moment()


class Trial(Table, table=True):
    """A matching of the whole review under another rule. State: waiting, ready, failed, applied or undone.

    ``mark`` tells whether the review has changed since; ``summary`` holds its counts and its curve.
    """

    __table_args__ = (one_of("state", "waiting", "ready", "failed", "applied", "undone"),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    rule: str
    state: str = "waiting"
    mark: list[int] = json_field([])
    summary: dict[str, Any] = json_field({})
    learnt: dict[str, Any] = json_field({})
    failure: str = ""
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    applied_at: Moment | None = moment(null=True)
    applied_by: int | None = reference("account.id", null=True)
    undone_at: Moment | None = moment(null=True)
    undone_by: int | None = reference("account.id", null=True)


class TrialPair(Table, table=True):
    """A pair that a trial joins or asks about, or that it shows for another reason.

    ``change`` is what applying it would do: join, part, ask, answer (no longer asked), or "" for none; ``edge`` is the field by
    which it just fails the pass ``how``.
    """

    __tablename__ = "trial_pair"

    id: int | None = key()
    trial_id: int = reference("trial.id", index=True)
    left_copy: int = reference("copy.id", index=True)
    right_copy: int = reference("copy.id", index=True)
    score: float
    verdict: str
    how: str
    kind: str
    change: str
    edge: str


class MatchKey(Table, table=True):
    """A key under which copies are compared, and the place of the copy among those that share it (`core.matching.keys`)."""

    __tablename__ = "match_key"

    review_id: int = reference("review.id", primary=True)
    key: int = Field(primary_key=True, sa_type=BigInteger)
    place: int = Field(primary_key=True, sa_type=BigInteger)
    copy_id: int = Field(foreign_key="copy.id", primary_key=True, index=True, sa_type=BigInteger)


def rule_in_force(db: Session, review: int) -> Row | None:
    """The latest version of a review's rule."""
    return row(
        db,
        """SELECT m.id, m.version, m.text, m.at, a.full_name AS by FROM match_rule m JOIN account a ON a.id = m.account_id
        WHERE m.review_id = :r ORDER BY m.version DESC LIMIT 1""",
        r=review,
    )


def write_keys(db: Session, review: int, keys: Sequence[tuple[int, int, int]]) -> None:
    """Keep keys (key, place, copy) of copies that have none yet, thousands a second."""
    with copying(db, "match_key", ("review_id", "key", "place", "copy_id")) as out:
        for value, place, copy in keys:
            out.write_row((review, value, place, copy))


def unkeyed(db: Session, review: int) -> bool:
    """Whether some matched copies have no keys, as from before keys were kept."""
    return row(db, "SELECT 1 FROM batch WHERE review_id = :r AND state = 'taken' AND matched AND NOT keyed LIMIT 1", r=review) is not None


def neighbours(db: Session, review: int, asked: Sequence[tuple[int, int]], window: int) -> list[int]:
    """Copies of matched files next to these keys at these places; time of the keys asked for."""
    found = rows(
        db,
        """SELECT DISTINCT n.copy_id FROM unnest(CAST(:keys AS bigint[]), CAST(:places AS bigint[])) a(key, place) CROSS JOIN LATERAL (
            (SELECT m.copy_id FROM match_key m WHERE m.review_id = :r AND m.key = a.key AND m.place >= a.place ORDER BY m.place, m.copy_id LIMIT :w)
            UNION ALL
            (SELECT m.copy_id FROM match_key m WHERE m.review_id = :r AND m.key = a.key AND m.place < a.place ORDER BY m.place DESC, m.copy_id DESC LIMIT :w)
        ) n""",
        keys=[key for key, _ in asked], places=[place for _, place in asked], r=review, w=window,
    )  # fmt: skip
    return [row["copy_id"] for row in found]


def with_groups(db: Session, review: int, copies: Sequence[int]) -> list[int]:
    """Those of some copies that are placed, with all copies of their groups that are of matched files, ascending."""
    found = rows(
        db,
        """WITH near AS (SELECT DISTINCT record_id FROM placement WHERE review_id = :r AND copy_id = ANY(CAST(:copies AS bigint[])))
        SELECT g.copy_id FROM near JOIN placement g ON g.record_id = near.record_id JOIN batch b ON b.id = g.batch_id
        WHERE b.matched ORDER BY g.copy_id""",
        copies=list(copies), r=review,
    )  # fmt: skip
    return [row["copy_id"] for row in found]


def without_keys(db: Session, batches: Sequence[int]) -> list[int]:
    """The placed copies of those of some files whose keys are not kept yet."""
    found = rows(
        db,
        """SELECT p.copy_id FROM batch b JOIN placement p ON p.review_id = b.review_id AND p.batch_id = b.id
        WHERE b.id = ANY(CAST(:batches AS bigint[])) AND NOT b.keyed ORDER BY p.copy_id""",
        batches=list(batches),
    )
    return [row["copy_id"] for row in found]


def mark_matched(db: Session, batches: Sequence[int], keyed: Sequence[int]) -> None:
    """The copies of some files are matched now, and those of some are kept with their keys."""
    run(db, "UPDATE batch SET matched = TRUE WHERE id = ANY(CAST(:ids AS bigint[])) AND state = 'taken'", ids=list(batches))
    run(db, "UPDATE batch SET keyed = TRUE WHERE id = ANY(CAST(:ids AS bigint[])) AND state = 'taken'", ids=list(keyed))


def rules(db: Session, review: int) -> Sequence[Row]:
    """All versions of a review's rule, the latest first."""
    return rows(
        db,
        "SELECT m.id, m.version, m.text, m.at, a.full_name AS by FROM match_rule m JOIN account a ON a.id = m.account_id WHERE m.review_id = :review ORDER BY m.version DESC",
        review=review,
    )


def rule_before(db: Session, review: int) -> str | None:
    """The text of the version before the one in force."""
    return scalar(db, "SELECT text FROM match_rule WHERE review_id = :review ORDER BY version DESC LIMIT 1 OFFSET 1", review=review)  # type: ignore[no-any-return]


def learnt_from_review(db: Session, review: int) -> dict[str, Any] | None:
    """What matching learnt from a review, as it is kept."""
    return scalar(db, "SELECT data FROM learnt WHERE review_id = :review", review=review)  # type: ignore[no-any-return]


def left_apart(db: Session, review: int) -> tuple[int, list[tuple[int, int, float]]]:
    """How many pairs were left apart, and those of them that are kept for checking."""
    kept = scalar(db, "SELECT data -> 'apart' FROM learnt WHERE review_id = :review", review=review) or {"population": 0, "pairs": []}
    return int(kept["population"]), [(left, right, weight) for left, right, weight in kept["pairs"]]


_JOB = "(SELECT j.state FROM job j WHERE j.kind = 'try_rule' AND j.subject_id = t.id ORDER BY j.id DESC LIMIT 1) AS job"


def trials(db: Session, review: int) -> Sequence[Row]:
    """The trials of a review with who did what, and the state of their job; the latest first, at most 100."""
    return rows(
        db,
        f"""SELECT t.id, t.rule, t.state, t.summary - 'curve' AS summary, t.at, a.full_name AS by, t.applied_at, p.full_name AS applied_by, t.undone_at, u.full_name AS undone_by,
        {_JOB} FROM trial t JOIN account a ON a.id = t.account_id
        LEFT JOIN account p ON p.id = t.applied_by LEFT JOIN account u ON u.id = t.undone_by WHERE t.review_id = :review ORDER BY t.id DESC LIMIT 100""",
        review=review,
    )


def trial(db: Session, review: int, number: int) -> Row | None:
    """One trial of a review, with the state of its job."""
    return row(
        db,
        f"SELECT t.*, a.full_name AS by, {_JOB} FROM trial t JOIN account a ON a.id = t.account_id WHERE t.id = :number AND t.review_id = :review",
        number=number, review=review,
    )  # fmt: skip


def write_pairs(db: Session, number: int, pairs: Sequence[tuple[Any, ...]]) -> None:
    """Write down the pairs of a trial: left and right copy, weight, verdict, pass, kind, change, edge."""
    run(
        db,
        """INSERT INTO trial_pair (trial_id, left_copy, right_copy, score, verdict, how, kind, change, edge)
        SELECT :number, u.* FROM unnest(CAST(:l AS bigint[]), CAST(:r AS bigint[]), CAST(:w AS float[]), CAST(:v AS text[]), CAST(:h AS text[]), CAST(:k AS text[]),
            CAST(:c AS text[]), CAST(:e AS text[])) u""",
        number=number, **{name: [pair[n] for pair in pairs] for n, name in enumerate("lrwvhkce")},
    )  # fmt: skip


def pairs(db: Session, number: int, change: str, how: str, offset: int, limit: int) -> Sequence[Row]:
    """Pairs of a trial by what would change, the least certain first, or at the edge of a pass, the most alike first; ``total`` counts all of them."""
    return rows(
        db,
        """SELECT *, count(*) OVER () AS total FROM trial_pair WHERE trial_id = :number AND change = :change AND (:how = '' OR how = :how)
        ORDER BY CASE WHEN change = 'edge' THEN -score ELSE score END, id LIMIT :limit OFFSET :offset""",
        number=number, change=change, how=how, limit=limit, offset=offset,
    )  # fmt: skip


def unsure(db: Session, number: int) -> Sequence[Row]:
    """The pairs that a trial asks about."""
    return rows(
        db,
        """SELECT left_copy, right_copy, score, how, kind FROM trial_pair WHERE trial_id = :number AND verdict = 'unsure' AND change <> 'edge'""",
        number=number,
    )


_PLACED = (
    "u.left_copy, u.right_copy, coalesce(a.record_id, u.left_copy) AS left_record, coalesce(b.record_id, u.right_copy) AS right_record"
)
_PLACES = "LEFT JOIN placement a ON a.copy_id = u.left_copy LEFT JOIN placement b ON b.copy_id = u.right_copy"


def not_shared(db: Session, review: int, number: int, upto: int) -> Sequence[Row]:
    """Rulings of rules in force, up to the ruling ``upto``, that a trial does not share and has never withdrawn, with the records that their copies are in."""
    return rows(
        db,
        f"""SELECT u.id, {_PLACED} FROM ruling u {_PLACES}
        WHERE u.review_id = :review AND u.by_rule AND u.withdrawn_at IS NULL AND u.id <= :upto
        AND u.trial_id IS DISTINCT FROM :number AND u.withdrawn_trial_id IS DISTINCT FROM :number AND NOT EXISTS (SELECT 1 FROM trial_pair p
            WHERE p.trial_id = :number AND p.verdict = 'same' AND p.left_copy = u.left_copy AND p.right_copy = u.right_copy AND p.how = u.how)""",
        number=number, review=review, upto=upto,
    )  # fmt: skip


def not_joined(db: Session, review: int, number: int) -> Sequence[Row]:
    """Pairs that a trial joins, that no rule does yet, and that it never joined before, with the records that their copies are in."""
    return rows(
        db,
        """SELECT u.left_copy, u.right_copy, u.score, u.how, u.kind, a.record_id AS left_record, b.record_id AS right_record FROM trial_pair u
        JOIN placement a ON a.copy_id = u.left_copy JOIN placement b ON b.copy_id = u.right_copy
        WHERE u.trial_id = :number AND u.verdict = 'same' AND u.change <> 'edge'
        AND NOT EXISTS (SELECT 1 FROM ruling r WHERE r.left_copy = u.left_copy AND r.right_copy = u.right_copy AND r.review_id = :review AND r.by_rule
            AND r.how = u.how AND r.withdrawn_at IS NULL)
        AND NOT EXISTS (SELECT 1 FROM ruling r WHERE r.left_copy = u.left_copy AND r.right_copy = u.right_copy AND r.trial_id = :number AND r.by_rule
            AND r.how = u.how)""",
        number=number, review=review,
    )  # fmt: skip


def of_trial(db: Session, number: int) -> Sequence[Row]:
    """The rulings that a trial ``made`` or else withdrew, whether they hold, with the records that their copies are in."""
    return rows(
        db,
        f"""SELECT u.id, u.trial_id IS NOT DISTINCT FROM :number AND u.withdrawn_trial_id IS NULL AS made, u.withdrawn_at IS NULL AS holds, {_PLACED}
        FROM ruling u {_PLACES} WHERE u.trial_id = :number OR u.withdrawn_trial_id = :number""",
        number=number,
    )


def withdraw(db: Session, account: int, rulings: Sequence[int], trial: int | None = None) -> None:
    """Rulings hold no longer, on account of a ``trial`` or as it was undone or done again."""
    run(
        db,
        """UPDATE ruling SET withdrawn_at = clock_timestamp(), withdrawn_by = :account, withdrawn_trial_id = coalesce(CAST(:trial AS bigint), withdrawn_trial_id)
        WHERE id = ANY(CAST(:ids AS bigint[])) AND withdrawn_at IS NULL""",
        account=account, ids=list(rulings), trial=trial,
    )  # fmt: skip


def restore(db: Session, rulings: Sequence[int]) -> None:
    """Rulings hold again."""
    run(db, "UPDATE ruling SET withdrawn_at = NULL, withdrawn_by = NULL WHERE id = ANY(CAST(:ids AS bigint[]))", ids=list(rulings))


def close_questions(db: Session, review: int, number: int) -> None:
    """Questions that are open are no longer asked, under a trial's number."""
    run(db, "UPDATE question SET gone_trial_id = :number WHERE review_id = :review AND gone_trial_id IS NULL", number=number, review=review)


def ask_again(db: Session, review: int, number: int) -> None:
    """Questions are again as when this trial had been applied."""
    run(db, "UPDATE question SET gone_trial_id = NULL WHERE trial_id = :number AND gone_trial_id = :number", number=number)
    run(
        db,
        "UPDATE question SET gone_trial_id = :number WHERE review_id = :review AND gone_trial_id IS NULL AND trial_id IS DISTINCT FROM :number",
        number=number, review=review,
    )  # fmt: skip


def ask_as_before(db: Session, number: int) -> None:
    """Questions are again as before this trial was applied."""
    run(
        db,
        "UPDATE question SET gone_trial_id = NULL WHERE gone_trial_id = :number AND (trial_id IS NULL OR trial_id <> :number)",
        number=number,
    )
    run(db, "UPDATE question SET gone_trial_id = :number WHERE trial_id = :number AND gone_trial_id IS NULL", number=number)
