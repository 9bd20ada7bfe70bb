"""Where a record comes from and what ever happened to it."""

from __future__ import annotations

from collections.abc import Sequence

from sqlmodel import Session

from kettlesort.store.base import Row
from kettlesort.store.records import COLUMNS
from kettlesort.store.sql import rows


def records(db: Session, some: Sequence[int]) -> Sequence[Row]:
    """Records with all their fields."""
    return rows(db, f"SELECT id, {COLUMNS} FROM record WHERE id = ANY(CAST(:records AS bigint[]))", records=list(some))


def copies(db: Session, some: Sequence[int]) -> Sequence[Row]:
    """Copies with all their fields and their raw text."""
    return rows(db, f"SELECT id, raw, {COLUMNS} FROM copy WHERE id = ANY(CAST(:copies AS bigint[])) ORDER BY id", copies=list(some))


def supplied(db: Session, some: Sequence[int]) -> Sequence[Row]:
    """Fields of copies that were filled from elsewhere, and from where."""
    return rows(
        db,
        "SELECT field, source FROM supplement WHERE copy_id = ANY(CAST(:copies AS bigint[])) AND withdrawn_at IS NULL ORDER BY id",
        copies=list(some),
    )


def origins(db: Session, review: int, some: Sequence[int]) -> Sequence[Row]:
    """For each record what brought it, in words, its labels, and where it stands."""
    return rows(
        db,
        """SELECT s.record_id AS id, s.seed, s.first, s.fulltext, s.second, string_agg(DISTINCT q.source, '; ') AS sources,
        string_agg(DISTINCT q.number || '.' || u.number, '; ') AS searches,
        string_agg(q.source || ', search ' || q.number || ', ' || b.filename || ', line ' || c.line, ' | ' ORDER BY c.id) AS files,
        coalesce(string_agg(DISTINCT u.query_version::text, '; '), '') AS versions,
        coalesce((SELECT string_agg(DISTINCT l.name, '; ') FROM placement x JOIN seen_labelled d ON d.copy_id = x.copy_id JOIN label l ON l.id = d.label_id
            WHERE x.record_id = s.record_id AND l.removed_at IS NULL), '') AS labels
        FROM standing s JOIN placement p ON p.record_id = s.record_id JOIN copy c ON c.id = p.copy_id JOIN batch b ON b.id = p.batch_id
        JOIN search q ON q.id = b.search_id JOIN search_run u ON u.id = b.run_id
        WHERE s.review_id = :review AND s.record_id = ANY(CAST(:records AS bigint[])) GROUP BY s.record_id""",
        review=review, records=list(some),
    )  # fmt: skip


_HISTORY = """
SELECT at, a.full_name AS by, what, detail FROM (
    SELECT b.uploaded_at AS at, b.uploaded_by AS account, 'uploaded' AS what, q.source || ', search ' || q.number || ', ' || b.filename || ', line ' || c.line AS detail
        FROM copy c JOIN batch b ON b.id = c.batch_id JOIN search q ON q.id = b.search_id WHERE c.id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT u.at, u.account_id, CASE WHEN u.same THEN 'joined' ELSE 'told_apart' END, CASE WHEN u.by_rule THEN 'by rule, weight ' || round(u.score::numeric, 1) ELSE 'by hand' END
        FROM ruling u WHERE u.left_copy = ANY(CAST(:c AS bigint[])) OR u.right_copy = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT u.withdrawn_at, u.withdrawn_by, 'ruling_withdrawn', CASE WHEN u.same THEN 'no longer joined' ELSE 'no longer told apart' END
        FROM ruling u WHERE u.withdrawn_at IS NOT NULL AND u.withdrawn_by IS NOT NULL AND (u.left_copy = ANY(CAST(:c AS bigint[])) OR u.right_copy = ANY(CAST(:c AS bigint[])))
    UNION ALL SELECT v.at, v.account_id, CASE WHEN v.settles THEN 'settled' ELSE 'decided' END, 'pass ' || v.pass_number || ': ' || v.verdict || coalesce(', ' || k.name, '')
        FROM seen_verdict v LEFT JOIN criterion k ON k.id = v.criterion_id WHERE v.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT v.withdrawn_at, coalesce(v.withdrawn_by, v.account_id), 'decision_withdrawn', 'pass ' || v.pass_number || ': ' || v.verdict
        FROM seen_verdict v WHERE v.withdrawn_at IS NOT NULL AND v.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT m.at, m.account_id, 'seed', '' FROM seed_mark m WHERE m.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT n.at, n.account_id, 'noted', n.text FROM seen_note n WHERE n.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT t.at, t.account_id, 'full_text', t.state || CASE WHEN t.reason <> '' THEN ': ' || t.reason ELSE '' END FROM full_text t WHERE t.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT s.at, s.account_id, 'filled', s.field || ', from ' || s.source FROM supplement s WHERE s.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT n.at, n.account_id, 'set_aside', n.name FROM narrowed d JOIN narrowing n ON n.id = d.narrowing_id WHERE d.copy_id = ANY(CAST(:c AS bigint[]))
    UNION ALL SELECT d.released_at, d.account_id, 'let_in', n.name FROM narrowed d JOIN narrowing n ON n.id = d.narrowing_id WHERE d.released_at IS NOT NULL AND d.copy_id = ANY(CAST(:c AS bigint[]))
) h JOIN account a ON a.id = h.account ORDER BY at, what
"""


def history(db: Session, some: Sequence[int]) -> Sequence[Row]:
    """What happened to copies, and who did it, oldest first."""
    return rows(db, _HISTORY, c=list(some))
