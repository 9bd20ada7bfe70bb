"""Groups of copies as a list; taking one out and putting it back; values chosen by hand; what arrived late, what conflicts."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from sqlmodel import Session

from kettlesort.core.formats import table
from kettlesort.core.record import Record
from kettlesort.store import groups as store
from kettlesort.store import match
from kettlesort.store.base import Row, snapshot
from kettlesort.store.groups import HOW, ORDERS
from kettlesort.store.groups import Sought as Sought
from kettlesort.store.match import Ruling, Supplement
from kettlesort.store.records import kept, record_of
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.gaps import made_anew
from kettlesort.work.match import regroup, withdraw_all
from kettlesort.work.questions import Side, rule_on, sides, verdicts_on

_CHOSEN = "chosen by hand"


def groups(review: int, sought: Sought, offset: int, limit: int) -> tuple[int, Sequence[Row]]:
    """Records of more than one copy: how many, and a page of them."""
    if sought.order not in ORDERS or sought.how not in HOW:
        raise Invalid("There is no such order or way of joining.")
    with snapshot() as db:
        page = store.groups(db, review, sought, offset, min(limit, 500))
        some = page or (store.groups(db, review, sought, 0, 1) if offset else [])
        return (int(some[0]["total"]) if some else 0), page


_COLUMNS = (
    "group", "copies", "weakest link", "joined by", "copy", "kept", "source", "origin", "title", "authors", "year", "doi", "accession",
)  # fmt: skip


def export(review: int, sought: Sought) -> bytes:
    """The groups as CSV, one line a copy: what it is, why it is there."""
    with snapshot() as db:
        lines: list[Sequence[object]] = [_COLUMNS, *(line for group in store.groups(db, review, sought) for line in _lines(db, group))]
    return ("\ufeff" + "".join(table.write_csv(lines))).encode()


def _lines(db: Session, group: Row) -> Iterator[Sequence[object]]:
    how = [
        *(f"pass {name}" for name in group["passes"]),
        *(["weights"] if group["by_weights"] else []),
        *(["a person"] if group["by_person"] else []),
    ]
    weakest = "" if group["weakest"] is None else f"{group['weakest']:.2f}"
    for side in sides(db, match.group_copies(db, [group["id"]])):
        record, kept = side.record, int(side.id == group["id"])
        of_group = (group["id"], group["copies"], weakest, "; ".join(how), side.id, kept, side.source, side.origin)
        yield (*of_group, record.title, "; ".join(record.authors), record.year or "", record.doi, record.accession)


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
        held = kept(db, review, record)
        if held is None:
            raise NotFound("There is no such record in this review.")
        ids = match.group_copies(db, [record])
        why, chosen = store.rulings_among(db, ids), store.supplements_from(db, ids, _CHOSEN)
        related = store.related(db, ids)
        return Copies(sides(db, ids), held["whose"], record_of(held), why, chosen, related, verdicts_on(db, [record]))


def split(review: int, account: int, copy: int) -> None:
    """Take a copy out of its group: a person says that it differs from all others in it."""
    with changing(review, account, "match") as change:
        record = match.record_of_copy(change.db, review, copy)
        if record is None:
            raise NotFound("There is no such copy in this review.")
        others = [c for c in match.group_copies(change.db, [record]) if c != copy]
        if not others:
            raise Conflict("This copy is in no group.")
        _tell_apart(change, [(min(copy, other), max(copy, other)) for other in others])
        regroup(change, [record])
        change.event("match.split", match.title_of(change.db, copy), {"with": others}, {"copy": copy})


def unsplit(review: int, account: int, copy: int) -> None:
    """Undo taking a copy out: what a person said about its being different is withdrawn."""
    with changing(review, account, "match") as change:
        found = match.of_people(change.db, review, copy=copy)
        if not found:
            raise NotFound("Nobody has told this copy apart from others.")
        _take_back(change, found)


LARGEST_APART = 60
"""A group of so many copies can be taken apart in one stroke."""


def take_apart(review: int, account: int, record: int) -> list[int]:
    """Undo a whole joining: a person says that all copies of a group differ; the rulings, to be taken back."""
    with changing(review, account, "match") as change:
        if not match.record_here(change.db, review, record):
            raise NotFound("There is no such record in this review.")
        copies = match.group_copies(change.db, [record])
        if len(copies) < 2:
            raise Conflict("This record has no other copies.")
        if len(copies) > LARGEST_APART:
            raise Invalid(
                f"This group has {len(copies)} copies; at most {LARGEST_APART} are taken apart at once. Take out those that do not belong."
            )
        made = _tell_apart(change, list(itertools.combinations(copies, 2)))
        regroup(change, [record])
        change.event("match.apart", match.title_of(change.db, record), {"copies": len(copies)}, {"record": record})
        return made


def take_back(review: int, account: int, rulings: Sequence[int]) -> None:
    """Take back that people told copies apart, all in one stroke; what they had said of the same pairs until then holds again."""
    with changing(review, account, "match") as change:
        found = match.of_people(change.db, review, ids=rulings)
        if not found:
            raise NotFound("This was taken back already.")
        _take_back(change, found)


def _tell_apart(change: Change, pairs: Sequence[tuple[int, int]]) -> list[int]:
    """Let a person say in one stroke that pairs of copies (the lower first) differ, and no longer that they are the same."""
    made = [
        Ruling(review_id=change.review, left_copy=left, right_copy=right, same=False, by_rule=False, account_id=change.account)
        for left, right in pairs
    ]
    change.db.add_all(made)
    change.db.flush()
    for ruling in made:
        ruling.stroke = made[0].id
    change.db.flush()
    ids = [ruling.id for ruling in made if ruling.id is not None]
    match.replace_by(change.db, change.account, ids)
    return ids


def _take_back(change: Change, different: Sequence[Row]) -> None:
    """Withdraw what told copies apart, and say again what people had said of their being the same until then."""
    for said in match.replaced_by(change.db, [ruling["id"] for ruling in different]):
        change.db.add(Ruling(review_id=change.review, same=True, by_rule=False, **said))
    withdraw_all(change, different)


def join(review: int, account: int, one: int, other: int) -> list[str]:
    """Say of two records that nothing asked about that they are the same report; what that contradicts."""
    with changing(review, account, "match") as change:
        if one == other:
            raise Invalid("Name two records.", field="other")
        for record in (one, other):
            if not match.record_here(change.db, review, record):
                raise NotFound(f"There is no record {record} in this review.")
        return rule_on(change, one, other, "same")


CHOOSABLE = tuple(name for name in Record._fields if name != "extra")


def choose_value(review: int, account: int, copy: int, field: str) -> int:
    """Let the kept record say what this copy says, whatever else comes; the choice, so that it can be undone."""
    if field not in CHOOSABLE:
        raise Invalid(f"“{field}” is no field of a record.", field="field")
    with changing(review, account, "match") as change:
        record, value = match.record_of_copy(change.db, review, copy), match.said_in(change.db, review, copy, field)
        if record is None:
            raise NotFound("There is no such copy in this review.")
        if not value:
            raise Invalid("This copy says nothing there.", field="field")
        match.unchoose(change.db, record, field, _CHOSEN)
        made = Supplement(review_id=review, copy_id=copy, field=field, value=value, source=_CHOSEN, replaces=True, account_id=account)
        change.db.add(made)
        change.db.flush()
        made_anew(change, [copy])
        change.event("match.value_chosen", match.title_of(change.db, copy), None, {"field": field, "copy": copy})
        assert made.id is not None
        return made.id


def choose_no_value(review: int, account: int, choice: int) -> None:
    """Undo a choice of a value: the field says again what follows from the copies."""
    with changing(review, account, "match") as change:
        found = change.db.get(Supplement, choice)
        if found is None or found.review_id != review or found.source != _CHOSEN or found.withdrawn_at is not None:
            raise NotFound("This choice was undone already.")
        match.withdraw_supplements(change.db, review, [choice])
        made_anew(change, [found.copy_id])
        change.event("match.value_unchosen", match.title_of(change.db, found.copy_id), {"field": found.field}, None)


def conflicts(review: int) -> Sequence[Row]:
    """Records whose copies were decided differently, or have several full texts or seeds: nothing of it is settled silently."""
    with snapshot() as db:
        return store.conflicts(db, review)


def late(review: int) -> Sequence[Row]:
    """Copies that were joined by a rule to a record that had been decided before, newest first."""
    with snapshot() as db:
        return store.late(db, review)


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
        links, placed = store.links(db, review), store.surplus_by_source(db, review)
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
    within = sum(row["within"] for row in placed)
    return Removed(sorted(counted.items()), within, sum(row["surplus"] for row in placed) - within, placed)
