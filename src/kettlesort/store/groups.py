"""Groups of copies: the list of them, why each is together, what conflicts in them, what arrived late, what was removed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

from sqlmodel import Session

from kettlesort.store.base import Row
from kettlesort.store.sql import rows

HOW = ("", "weights", "rule", "person")
"""How copies may have been joined."""

_GROUPS = """
WITH g AS (
    SELECT p.record_id, count(*) AS copies, array_agg(DISTINCT s.source ORDER BY s.source) AS sources, count(DISTINCT s.source) AS several
    FROM placement p JOIN batch b ON b.id = p.batch_id JOIN search s ON s.id = b.search_id WHERE p.review_id = :review GROUP BY p.record_id HAVING count(*) > 1
), links AS (
    SELECT p.record_id, count(*) FILTER (WHERE NOT u.by_rule) AS by_person, count(*) FILTER (WHERE u.by_rule AND u.how <> '') AS by_pass,
        count(*) FILTER (WHERE u.by_rule AND u.how = '') AS by_weights, array_remove(array_agg(DISTINCT u.how), '') AS passes
    FROM ruling u JOIN placement p ON p.copy_id = u.left_copy JOIN placement q ON q.copy_id = u.right_copy AND q.record_id = p.record_id
    WHERE u.review_id = :review AND u.same AND u.withdrawn_at IS NULL GROUP BY p.record_id
), weakest AS (
    -- each copy hangs on its weightiest link; the weakest of these holds the group together
    SELECT record_id, min(best) AS weakest FROM (
        SELECT p.record_id, p.copy_id, max(u.score) AS best FROM placement p JOIN g ON g.record_id = p.record_id
        JOIN ruling u ON (u.left_copy = p.copy_id OR u.right_copy = p.copy_id) AND u.same AND u.withdrawn_at IS NULL AND u.score IS NOT NULL
        JOIN placement q ON q.copy_id = CASE WHEN u.left_copy = p.copy_id THEN u.right_copy ELSE u.left_copy END AND q.record_id = p.record_id
        GROUP BY p.record_id, p.copy_id) w GROUP BY record_id
)
SELECT r.id, r.title, r.year, g.copies, g.sources, w.weakest, coalesce(l.by_person, 0) > 0 AS by_person, coalesce(l.by_pass, 0) > 0 AS by_pass,
    coalesce(l.by_weights, 0) > 0 AS by_weights, coalesce(l.passes, '{}') AS passes, count(*) OVER () AS total
FROM g JOIN record r ON r.id = g.record_id LEFT JOIN links l ON l.record_id = g.record_id LEFT JOIN weakest w ON w.record_id = g.record_id
WHERE {conditions} ORDER BY {order}, r.id
"""
ORDERS = {"size": "g.copies DESC", "weakest": "w.weakest NULLS LAST", "new": "r.id DESC", "title": "lower(r.title)"}


class Sought(NamedTuple):
    """Which groups: how joined (one of `HOW`), a source, within one source or between several, at least so large, words, weakest link below."""

    how: str = ""
    source: str = ""
    within: bool | None = None
    size: int = 2
    words: str = ""
    below: float | None = None
    order: str = "size"


def groups(db: Session, review: int, sought: Sought, offset: int = 0, limit: int | None = None) -> Sequence[Row]:
    """Records of more than one copy, with how they were joined and their weakest link; ``total`` is how many there are in all."""
    conditions = ["g.copies >= :size"]
    values: dict[str, Any] = {"review": review, "size": sought.size, "limit": limit, "offset": offset}
    if sought.how:
        conditions.append(
            {"weights": "coalesce(l.by_weights, 0) > 0", "rule": "coalesce(l.by_pass, 0) > 0", "person": "coalesce(l.by_person, 0) > 0"}[
                sought.how
            ]
        )
    if sought.source:
        conditions.append(":source = ANY(g.sources)")
        values["source"] = sought.source
    if sought.within is not None:
        conditions.append("g.several = 1" if sought.within else "g.several > 1")
    if sought.below is not None:
        conditions.append("w.weakest < :below")
        values["below"] = sought.below
    for number, word in enumerate(sought.words.split()[:8]):
        conditions.append(f"r.title ILIKE :word{number}")
        values[f"word{number}"] = "%" + word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
    sql = _GROUPS.replace("{conditions}", " AND ".join(conditions)).replace("{order}", ORDERS[sought.order])
    return rows(db, f"{sql} LIMIT :limit OFFSET :offset", **values)


def rulings_among(db: Session, copies: Sequence[int]) -> Sequence[Row]:
    """What was said of any two of these copies, oldest first."""
    return rows(
        db,
        """SELECT u.id, u.left_copy, u.right_copy, u.same, u.by_rule, u.score, u.how, u.at, a.full_name AS by FROM ruling u JOIN account a ON a.id = u.account_id
        WHERE u.withdrawn_at IS NULL AND u.left_copy = ANY(CAST(:copies AS bigint[])) AND u.right_copy = ANY(CAST(:copies AS bigint[])) ORDER BY u.id""",
        copies=list(copies),
    )


def supplements_from(db: Session, copies: Sequence[int], source: str) -> Sequence[Row]:
    """Values that came to these copies from one source and hold."""
    return rows(
        db,
        """SELECT s.id, s.field, s.copy_id, s.at, a.full_name AS by FROM supplement s JOIN account a ON a.id = s.account_id
        WHERE s.copy_id = ANY(CAST(:copies AS bigint[])) AND s.source = :source AND s.withdrawn_at IS NULL ORDER BY s.id""",
        copies=list(copies), source=source,
    )  # fmt: skip


def related(db: Session, copies: Sequence[int]) -> Sequence[Row]:
    """Records that a person called other reports of the same study."""
    return rows(
        db,
        """SELECT DISTINCT ON (o.record_id) o.record_id AS id, k.title, k.year, u.id AS ruling, a.full_name AS by FROM ruling u
        JOIN placement o ON o.copy_id = CASE WHEN u.left_copy = ANY(CAST(:copies AS bigint[])) THEN u.right_copy ELSE u.left_copy END
        JOIN record k ON k.id = o.record_id JOIN account a ON a.id = u.account_id
        WHERE u.related AND u.withdrawn_at IS NULL AND (u.left_copy = ANY(CAST(:copies AS bigint[])) OR u.right_copy = ANY(CAST(:copies AS bigint[])))
        ORDER BY o.record_id, u.id""",
        copies=list(copies),
    )


def conflicts(db: Session, review: int) -> Sequence[Row]:
    """Records whose copies were decided differently, the latest first, at most 500."""
    return rows(
        db,
        """SELECT p.record_id AS id, r.title, v.pass_number AS pass_number, array_agg(DISTINCT v.verdict ORDER BY v.verdict) AS said,
        array_agg(DISTINCT a.full_name ORDER BY a.full_name) AS by, max(v.at) AS at FROM seen_verdict v JOIN placement p ON p.copy_id = v.copy_id
        JOIN record r ON r.id = p.record_id JOIN account a ON a.id = v.account_id
        WHERE v.review_id = :review AND v.withdrawn_at IS NULL GROUP BY p.record_id, r.title, v.pass_number
        HAVING count(DISTINCT v.verdict) > 1 AND count(DISTINCT v.copy_id) > 1 ORDER BY max(v.at) DESC LIMIT 500""",
        review=review,
    )


def late(db: Session, review: int) -> Sequence[Row]:
    """Copies that were joined by a rule to a record that had been decided before, newest first, at most 1,000."""
    return rows(
        db,
        """SELECT DISTINCT ON (p.copy_id) p.copy_id AS id, p.record_id, r.title, c.title AS late_title, s.source, b.filename, c.line, u.at, st.first, st.fulltext, st.second
        FROM ruling u JOIN placement p ON p.copy_id = greatest(u.left_copy, u.right_copy) JOIN record r ON r.id = p.record_id JOIN copy c ON c.id = p.copy_id
        JOIN batch b ON b.id = p.batch_id JOIN search s ON s.id = b.search_id JOIN standing st ON st.record_id = p.record_id
        WHERE u.review_id = :review AND u.same AND u.by_rule AND u.withdrawn_at IS NULL AND p.copy_id <> p.record_id
        AND EXISTS (SELECT 1 FROM seen_verdict v JOIN placement o ON o.copy_id = v.copy_id WHERE o.record_id = p.record_id AND v.withdrawn_at IS NULL
            AND v.verdict IN ('include', 'exclude') AND v.at < u.at AND v.copy_id < p.copy_id AND b.uploaded_at > v.at)
        ORDER BY p.copy_id DESC, u.id LIMIT 1000""",
        review=review,
    )


def links(db: Session, review: int) -> Sequence[Row]:
    """Every link that holds copies together: those of people first, then of passes, then the weightiest."""
    return rows(
        db,
        """SELECT u.left_copy, u.right_copy, u.by_rule, u.how, u.score FROM ruling u JOIN placement a ON a.copy_id = u.left_copy JOIN placement b ON b.copy_id = u.right_copy
        WHERE u.review_id = :review AND u.same AND u.withdrawn_at IS NULL AND a.record_id = b.record_id ORDER BY u.by_rule, u.how = '', u.score DESC NULLS FIRST, u.id""",
        review=review,
    )


def surplus_by_source(db: Session, review: int) -> Sequence[Row]:
    """For each source its copies, how many of them are surplus, and how many of these ``within`` it: a copy before them is of the same source."""
    return rows(
        db,
        """SELECT s.source, count(*) AS copies, count(*) FILTER (WHERE p.copy_id <> p.record_id) AS surplus,
        count(*) FILTER (WHERE p.copy_id <> p.record_id AND EXISTS (SELECT 1 FROM placement q JOIN batch b2 ON b2.id = q.batch_id JOIN search s2 ON s2.id = b2.search_id
            WHERE q.record_id = p.record_id AND q.copy_id < p.copy_id AND s2.source = s.source)) AS within
        FROM placement p JOIN batch b ON b.id = p.batch_id JOIN search s ON s.id = b.search_id WHERE p.review_id = :review GROUP BY s.source ORDER BY s.source""",
        review=review,
    )
