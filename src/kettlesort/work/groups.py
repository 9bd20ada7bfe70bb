"""Groups of copies as a list; taking one out and putting it back; values chosen by hand; what arrived late, what conflicts."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

from sqlmodel import Session

from kettlesort.core.formats import table
from kettlesort.core.record import Record
from kettlesort.store import match as store
from kettlesort.store.base import Row, row, rows, run, scalar, snapshot
from kettlesort.store.match import Ruling, Supplement
from kettlesort.store.records import COLUMNS, record_of
from kettlesort.work.change import Change, change
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.gaps import made_anew
from kettlesort.work.match import regroup, title_of, withdraw_all
from kettlesort.work.questions import Side, rule_on, sides, verdicts_on

HOW = ("", "weights", "rule", "person")
_CHOSEN = "chosen by hand"

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
_ORDERS = {"size": "g.copies DESC", "weakest": "w.weakest NULLS LAST", "new": "r.id DESC", "title": "lower(r.title)"}


class Sought(NamedTuple):
    """Which groups: how joined (one of `HOW`), a source, within one source or between several, at least so large, words, weakest link below."""

    how: str = ""
    source: str = ""
    within: bool | None = None
    size: int = 2
    words: str = ""
    below: float | None = None
    order: str = "size"


def _groups(db: Session, review: int, sought: Sought, paging: str, **more: Any) -> Sequence[Row]:
    conditions = ["g.copies >= :size"]
    values: dict[str, Any] = {"review": review, "size": sought.size, **more}
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
    sql = _GROUPS.replace("{conditions}", " AND ".join(conditions)).replace("{order}", _ORDERS[sought.order])
    return rows(db, f"{sql} {paging}", **values)


def groups(review: int, sought: Sought, offset: int, limit: int) -> tuple[int, Sequence[Row]]:
    """Records of more than one copy: how many, and a page of them."""
    if sought.order not in _ORDERS or sought.how not in HOW:
        raise Invalid("There is no such order or way of joining.")
    with snapshot() as db:
        page = _groups(db, review, sought, "LIMIT :limit OFFSET :offset", limit=min(limit, 500), offset=offset)
        if not page and offset:
            return int(next(iter(r["total"] for r in _groups(db, review, sought, "LIMIT 1")), 0)), []
        return (int(page[0]["total"]) if page else 0), page


_COLUMNS = (
    "group", "copies", "weakest link", "joined by", "copy", "kept", "source", "origin", "title", "authors", "year", "doi", "accession",
)  # fmt: skip


def export(review: int, sought: Sought) -> bytes:
    """The groups as CSV, one line a copy: what it is, why it is there."""
    with snapshot() as db:
        lines: list[Sequence[object]] = [_COLUMNS, *(line for group in _groups(db, review, sought, "") for line in _lines(db, group))]
    return ("\ufeff" + "".join(table.write_csv(lines))).encode()


def _lines(db: Session, group: Row) -> Iterator[Sequence[object]]:
    how = [
        *(f"pass {name}" for name in group["passes"]),
        *(["weights"] if group["by_weights"] else []),
        *(["a person"] if group["by_person"] else []),
    ]
    weakest = "" if group["weakest"] is None else f"{group['weakest']:.2f}"
    for side in sides(db, store.group_copies(db, [group["id"]])):
        it, kept = side.record, int(side.id == group["id"])
        of_group = (group["id"], group["copies"], weakest, "; ".join(how), side.id, kept, side.source, side.origin)
        yield (*of_group, it.title, "; ".join(it.authors), it.year or "", it.doi, it.accession)


class Copies(NamedTuple):
    """The copies of a record, why they are together, values chosen by hand, and other reports of its study."""

    copies: list[Side]
    whose: dict[str, int]
    kept: Record
    rulings: Sequence[Row]
    chosen: Sequence[Row]
    related: Sequence[Row]
    conflicts: list[str]


def copies_of(review: int, record: int) -> Copies:
    """All copies of one record."""
    with snapshot() as db:
        kept = row(db, f"SELECT whose, {COLUMNS} FROM record WHERE id = :i AND review_id = :r", i=record, r=review)
        if kept is None:
            raise NotFound("There is no such record in this review.")
        ids = store.group_copies(db, [record])
        why = rows(
            db,
            """SELECT u.id, u.left_copy, u.right_copy, u.same, u.by_rule, u.score, u.how, u.at, a.full_name AS by FROM ruling u JOIN account a ON a.id = u.account_id
            WHERE u.withdrawn_at IS NULL AND u.left_copy = ANY(CAST(:ids AS bigint[])) AND u.right_copy = ANY(CAST(:ids AS bigint[])) ORDER BY u.id""",
            ids=ids,
        )
        chosen = rows(
            db,
            """SELECT s.id, s.field, s.copy_id, s.at, a.full_name AS by FROM supplement s JOIN account a ON a.id = s.account_id
            WHERE s.copy_id = ANY(CAST(:ids AS bigint[])) AND s.source = :chosen AND s.withdrawn_at IS NULL ORDER BY s.id""",
            ids=ids, chosen=_CHOSEN,
        )  # fmt: skip
        related = rows(
            db,
            """SELECT DISTINCT ON (o.record_id) o.record_id AS id, k.title, k.year, u.id AS ruling, a.full_name AS by FROM ruling u
            JOIN placement o ON o.copy_id = CASE WHEN u.left_copy = ANY(CAST(:ids AS bigint[])) THEN u.right_copy ELSE u.left_copy END
            JOIN record k ON k.id = o.record_id JOIN account a ON a.id = u.account_id
            WHERE u.related AND u.withdrawn_at IS NULL AND (u.left_copy = ANY(CAST(:ids AS bigint[])) OR u.right_copy = ANY(CAST(:ids AS bigint[])))
            ORDER BY o.record_id, u.id""",
            ids=ids,
        )
        return Copies(sides(db, ids), kept["whose"], record_of(kept), why, chosen, related, verdicts_on(db, [record]))


def split(review: int, account: int, copy: int) -> None:
    """Take a copy out of its group: a person says that it differs from all others in it."""
    with change(review, account, "match") as it:
        found = row(it.db, "SELECT record_id FROM placement WHERE copy_id = :c AND review_id = :r", c=copy, r=review)
        if found is None:
            raise NotFound("There is no such copy in this review.")
        others = [c for c in store.group_copies(it.db, [found["record_id"]]) if c != copy]
        if not others:
            raise Conflict("This copy is in no group.")
        _tell_apart(it, [(min(copy, other), max(copy, other)) for other in others])
        regroup(it, [found["record_id"]])
        it.event("match.split", title_of(it.db, copy), {"with": others}, {"copy": copy})


def unsplit(review: int, account: int, copy: int) -> None:
    """Undo taking a copy out: what a person said about its being different is withdrawn."""
    with change(review, account, "match") as it:
        found = rows(
            it.db,
            "SELECT * FROM ruling WHERE review_id = :r AND NOT same AND NOT by_rule AND withdrawn_at IS NULL AND (left_copy = :c OR right_copy = :c)",
            r=review, c=copy,
        )  # fmt: skip
        if not found:
            raise NotFound("Nobody has told this copy apart from others.")
        _take_back(it, found)


LARGEST_APART = 60
"""A group of so many copies can be taken apart in one stroke."""


def take_apart(review: int, account: int, record: int) -> list[int]:
    """Undo a whole joining: a person says that all copies of a group differ; the rulings, to be taken back."""
    with change(review, account, "match") as it:
        if scalar(it.db, "SELECT 1 FROM record WHERE id = :i AND review_id = :r", i=record, r=review) is None:
            raise NotFound("There is no such record in this review.")
        copies = store.group_copies(it.db, [record])
        if len(copies) < 2:
            raise Conflict("This record has no other copies.")
        if len(copies) > LARGEST_APART:
            raise Invalid(
                f"This group has {len(copies)} copies; at most {LARGEST_APART} are taken apart at once. Take out those that do not belong."
            )
        made = _tell_apart(it, list(itertools.combinations(copies, 2)))
        regroup(it, [record])
        it.event("match.apart", title_of(it.db, record), {"copies": len(copies)}, {"record": record})
        return made


def take_back(review: int, account: int, rulings: Sequence[int]) -> None:
    """Take back that people told copies apart, all in one stroke; what they had said of the same pairs until then holds again."""
    with change(review, account, "match") as it:
        found = rows(
            it.db,
            "SELECT * FROM ruling WHERE review_id = :r AND id = ANY(CAST(:ids AS bigint[])) AND NOT same AND NOT by_rule AND withdrawn_at IS NULL ORDER BY id",
            r=review, ids=list(rulings),
        )  # fmt: skip
        if not found:
            raise NotFound("This was taken back already.")
        _take_back(it, found)


def _tell_apart(it: Change, pairs: Sequence[tuple[int, int]]) -> list[int]:
    """Let a person say in one stroke that pairs of copies (the lower first) differ, and no longer that they are the same."""
    made = [
        Ruling(review_id=it.review, left_copy=left, right_copy=right, same=False, by_rule=False, account_id=it.account)
        for left, right in pairs
    ]
    it.db.add_all(made)
    it.db.flush()
    for ruling in made:
        ruling.stroke = made[0].id
    it.db.flush()
    ids = [ruling.id for ruling in made if ruling.id is not None]
    run(
        it.db,
        """UPDATE ruling r SET withdrawn_at = clock_timestamp(), withdrawn_by = :a, replaced_by = d.id FROM ruling d WHERE d.id = ANY(CAST(:made AS bigint[]))
        AND r.left_copy = d.left_copy AND r.right_copy = d.right_copy AND NOT r.by_rule AND r.same AND r.withdrawn_at IS NULL""",
        a=it.account, made=ids,
    )  # fmt: skip
    return ids


def _take_back(it: Change, different: Sequence[Row]) -> None:
    """Withdraw what told copies apart, and say again what people had said of their being the same until then."""
    before = rows(
        it.db,
        "SELECT DISTINCT left_copy, right_copy, account_id FROM ruling WHERE replaced_by = ANY(CAST(:ids AS bigint[]))",
        ids=[ruling["id"] for ruling in different],
    )
    for said in before:
        it.db.add(Ruling(review_id=it.review, same=True, by_rule=False, **said))
    withdraw_all(it, different)


def join(review: int, account: int, one: int, other: int) -> list[str]:
    """Say of two records that nothing asked about that they are the same report; what that contradicts."""
    with change(review, account, "match") as it:
        if one == other:
            raise Invalid("Name two records.", field="other")
        for record in (one, other):
            if scalar(it.db, "SELECT 1 FROM record WHERE id = :i AND review_id = :r", i=record, r=review) is None:
                raise NotFound(f"There is no record {record} in this review.")
        return rule_on(it, one, other, "same")


CHOOSABLE = tuple(name for name in Record._fields if name != "extra")


def choose_value(review: int, account: int, copy: int, field: str) -> int:
    """Let the kept record say what this copy says, whatever else comes; the choice, so that it can be undone."""
    if field not in CHOOSABLE:
        raise Invalid(f"“{field}” is no field of a record.", field="field")
    with change(review, account, "match") as it:
        found = row(
            it.db,
            f'SELECT c."{field}" AS value FROM copy c JOIN placement p ON p.copy_id = c.id WHERE c.id = :c AND c.review_id = :r',
            c=copy,
            r=review,
        )
        if found is None:
            raise NotFound("There is no such copy in this review.")
        if not found["value"]:
            raise Invalid("This copy says nothing there.", field="field")
        record = scalar(it.db, "SELECT record_id FROM placement WHERE copy_id = :c", c=copy)
        run(
            it.db,
            """UPDATE supplement s SET withdrawn_at = clock_timestamp() FROM placement p WHERE p.copy_id = s.copy_id AND p.record_id = :p AND s.field = :f
            AND s.source = :s AND s.withdrawn_at IS NULL""",
            p=record, f=field, s=_CHOSEN,
        )  # fmt: skip
        made = Supplement(
            review_id=review, copy_id=copy, field=field, value=found["value"], source=_CHOSEN, replaces=True, account_id=account
        )
        it.db.add(made)
        it.db.flush()
        made_anew(it, [copy])
        it.event("match.value_chosen", title_of(it.db, copy), None, {"field": field, "copy": copy})
        assert made.id is not None
        return made.id


def choose_no_value(review: int, account: int, choice: int) -> None:
    """Undo a choice of a value: the field says again what follows from the copies."""
    with change(review, account, "match") as it:
        found = it.db.get(Supplement, choice)
        if found is None or found.review_id != review or found.source != _CHOSEN or found.withdrawn_at is not None:
            raise NotFound("This choice was undone already.")
        run(it.db, "UPDATE supplement SET withdrawn_at = clock_timestamp() WHERE id = :i", i=choice)
        made_anew(it, [found.copy_id])
        it.event("match.value_unchosen", title_of(it.db, found.copy_id), {"field": found.field}, None)


def conflicts(review: int) -> Sequence[Row]:
    """Records whose copies were decided differently, or have several full texts or seeds: nothing of it is settled silently."""
    with snapshot() as db:
        return rows(
            db,
            """SELECT p.record_id AS id, r.title, v.pass_number AS pass_number, array_agg(DISTINCT v.verdict ORDER BY v.verdict) AS said,
            array_agg(DISTINCT a.full_name ORDER BY a.full_name) AS by, max(v.at) AS at FROM verdict v JOIN placement p ON p.copy_id = v.copy_id
            JOIN record r ON r.id = p.record_id JOIN account a ON a.id = v.account_id
            WHERE v.review_id = :r AND v.withdrawn_at IS NULL GROUP BY p.record_id, r.title, v.pass_number
            HAVING count(DISTINCT v.verdict) > 1 AND count(DISTINCT v.copy_id) > 1 ORDER BY max(v.at) DESC LIMIT 500""",
            r=review,
        )


def late(review: int) -> Sequence[Row]:
    """Copies that were joined by a rule to a record that had been decided before, newest first."""
    with snapshot() as db:
        return rows(
            db,
            """SELECT DISTINCT ON (p.copy_id) p.copy_id AS id, p.record_id, r.title, c.title AS late_title, s.source, b.filename, c.line, u.at, st.first, st.second
            FROM ruling u JOIN placement p ON p.copy_id = greatest(u.left_copy, u.right_copy) JOIN record r ON r.id = p.record_id JOIN copy c ON c.id = p.copy_id
            JOIN batch b ON b.id = p.batch_id JOIN search s ON s.id = b.search_id JOIN standing st ON st.record_id = p.record_id
            WHERE u.review_id = :r AND u.same AND u.by_rule AND u.withdrawn_at IS NULL AND p.copy_id <> p.record_id
            AND EXISTS (SELECT 1 FROM verdict v JOIN placement o ON o.copy_id = v.copy_id WHERE o.record_id = p.record_id AND v.withdrawn_at IS NULL
                AND v.verdict IN ('include', 'exclude') AND v.at < u.at AND v.copy_id < p.copy_id AND b.uploaded_at > v.at)
            ORDER BY p.copy_id DESC, u.id LIMIT 1000""",
            r=review,
        )


class Removed(NamedTuple):
    """How many copies went, by the weights, by each pass, by people; and within one source or between two."""

    by: list[tuple[str, int]]
    within: int
    between: int
    sources: Sequence[Row]


def removed(review: int) -> Removed:
    """What the flow needs to know of copies: who or what removed them, and from where.

    A copy was removed by the link that first connects it with those before it: a person's answer counts before a pass, a pass before weights.
    """
    with snapshot() as db:
        links = rows(
            db,
            """SELECT u.left_copy, u.right_copy, u.by_rule, u.how, u.score FROM ruling u JOIN placement a ON a.copy_id = u.left_copy JOIN placement b ON b.copy_id = u.right_copy
            WHERE u.review_id = :r AND u.same AND u.withdrawn_at IS NULL AND a.record_id = b.record_id ORDER BY u.by_rule, u.how = '', u.score DESC NULLS FIRST, u.id""",
            r=review,
        )
        placed = rows(
            db,
            """SELECT s.source, count(*) AS copies, count(*) FILTER (WHERE p.copy_id <> p.record_id) AS surplus,
            count(*) FILTER (WHERE p.copy_id <> p.record_id AND EXISTS (SELECT 1 FROM placement q JOIN batch b2 ON b2.id = q.batch_id JOIN search s2 ON s2.id = b2.search_id
                WHERE q.record_id = p.record_id AND q.copy_id < p.copy_id AND s2.source = s.source)) AS within
            FROM placement p JOIN batch b ON b.id = p.batch_id JOIN search s ON s.id = b.search_id WHERE p.review_id = :r GROUP BY s.source ORDER BY s.source""",
            r=review,
        )
    parent: dict[int, int] = {}

    def top(k: int) -> int:
        while parent.setdefault(k, k) != k:
            parent[k] = parent[parent[k]]
            k = parent[k]
        return k

    counted: dict[str, int] = {}
    for link in links:
        a, b = top(link["left_copy"]), top(link["right_copy"])
        if a != b:
            parent[max(a, b)] = min(a, b)
            name = "people" if not link["by_rule"] else f"pass “{link['how']}”" if link["how"] else "weights"
            counted[name] = counted.get(name, 0) + 1
    within = sum(it["within"] for it in placed)
    return Removed(sorted(counted.items()), within, sum(it["surplus"] for it in placed) - within, placed)
