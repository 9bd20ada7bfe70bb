"""Narrowing: setting records aside before screening by a query of the team's, seen beforehand and taken back at any time."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import NamedTuple

from sqlmodel import Session

from kettlesort.store import narrow as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.match import records_of, title_of
from kettlesort.store.narrow import Narrowing
from kettlesort.store.records import in_short
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.query import matching, node_of


class Rule(NamedTuple):
    """What a person wants set aside: with ``keep`` what the query does not find, else what it finds; see `Narrowing`."""

    name: str
    query: str
    abstract: str
    keep: bool
    spare: bool
    again: bool


class Preview(NamedTuple):
    """What a rule would set aside: records (their ids), and among all that it speaks of the seeds and those included already."""

    records: list[int]
    seeds: list[Row]
    included: list[Row]
    decided: int
    examples: list[Row]


def _checked(rule: Rule) -> Rule:
    if not rule.name.strip():
        raise Invalid("Give it the name under which it is counted in the flow, such as “Before 1980”.", field="name")
    if not rule.query.strip() and not rule.abstract:
        raise Invalid("Say what is to be set aside: a query, or whether there is an abstract.", field="query")
    if rule.query.strip():
        node_of(rule.query)
    return rule._replace(name=" ".join(rule.name.split())[:120])


def _spoken_of(review: int, rule: Rule, among: Sequence[int] | None = None) -> list[int]:
    """The records that a rule would set aside, whatever was decided on them. Both conditions must hold."""
    with snapshot() as db:
        every = store.with_abstracts(db, review, among)
    held = set(every)
    if rule.query.strip():
        held &= set(matching(review, rule.query))
    if rule.abstract:
        held = {number for number in held if every[number] == (rule.abstract == "yes")}
    return sorted(set(every) - held if rule.keep else held)


def preview(review: int, rule: Rule) -> Preview:
    """What a rule would set aside, before it does."""
    rule = _checked(rule._replace(name=rule.name or "?"))
    ids = _spoken_of(review, rule)
    with snapshot() as db:
        found = in_short(db, review, ids)
    seeds = [row for row in found if row["seed"]]
    included = [row for row in found if row["first"] == "include" and not row["seed"]]
    going = [row for row in found if _goes(row, rule.spare)]
    return Preview([row["id"] for row in going], seeds, included, sum(row["first"] == "exclude" for row in found), going[:50])


def _goes(row: Row, spare: bool) -> bool:
    """Records that are decided stay where they are, but for included ones and seeds where the team wants those set aside too."""
    if row["first"] in ("open", "unsure"):
        return not (row["seed"] and spare)
    return row["first"] == "include" and not spare


def apply(review: int, account: int, rule: Rule) -> tuple[int, int]:
    """Set aside what a rule says; the narrowing, and how many records went."""
    rule = _checked(rule)
    going = preview(review, rule).records
    with changing(review, account, "gather", alone=False, large=True) as change:
        made = Narrowing(
            review_id=review, name=rule.name, query=rule.query, abstract=rule.abstract, keep=rule.keep, spare=rule.spare, again=rule.again, account_id=account
        )  # fmt: skip
        change.db.add(made)
        change.db.flush()
        assert made.id is not None
        n = _put(change, made.id, going, rule.spare)
        change.event("gather.narrowed", rule.name, None, {**rule._asdict(), "records": n})
        return made.id, n


def _put(change: Change, narrowing: int, records: Sequence[int], spare: bool) -> int:
    """Set records aside that may still be; how many. They alone are locked: whoever works elsewhere in the review waits for nothing."""
    ids = [one["id"] for one in in_short(change.db, change.review, records, lock=True) if _goes(one, spare)]
    store.put(change.db, narrowing, change.account, ids)
    change.stands(ids, locked=True)
    return len(ids)


def set_aside(review: int, account: int, name: str, records: Sequence[int]) -> tuple[int, int]:
    """Set picked records aside under a name; the narrowing, and how many went. What is excluded already stays so."""
    name = " ".join(name.split())[:120]
    if not name:
        raise Invalid("Give it the name under which it is counted in the flow, such as “Not about hives”.", field="name")
    with changing(review, account, "gather", alone=False, large=True) as change:
        made, n = hold(change, name, records, by_hand=True)
        change.event("gather.narrowed", name, None, {"picked": len(records), "records": n})
        return made, n


def hold(change: Change, name: str, records: Sequence[int], *, by_hand: bool) -> tuple[int, int]:
    """Hold some records aside under a name, within a change: as picked ``by_hand``, or as automation; the narrowing, and how many went."""
    made = Narrowing(review_id=change.review, name=name, query="", keep=False, by_hand=by_hand, spare=False, account_id=change.account)
    change.db.add(made)
    change.db.flush()
    assert made.id is not None
    n = _put(change, made.id, records, spare=False)
    if not n:
        raise Invalid("None of these records can be set aside; they are excluded or set aside already.", field="records")
    return made.id, n


def withdraw(review: int, account: int, narrowing: int, back: bool = False) -> int:
    """Take a narrowing back as a whole, or apply it again as it was, but for what was read meanwhile; how many records that concerns."""
    with changing(review, account, "gather", alone=False, large=True) as change:
        found = _narrowing(change.db, review, narrowing, held=True)
        if bool(found.withdrawn_at) != back:
            raise Conflict("This narrowing was taken back already." if found.withdrawn_at else "This narrowing is in force.")
        if back and store.stopped_and_gone_on(change.db, review, narrowing):
            raise Conflict("Screening went on since. Stop anew under Screen, What is left: with the figures as they are now.")
        touched = (store.hold_all_again if back else store.release_all)(change.db, narrowing)
        found.withdrawn_at = None if back else datetime.now(UTC)
        change.db.flush()
        change.stands(records_of(change.db, touched))
        change.event("gather.narrowed_again" if back else "gather.narrowing_withdrawn", found.name, None, {"records": len(touched)})
        change.rank_again()
        return len(touched)


def let_in(review: int, account: int, records: Sequence[int]) -> list[tuple[int, int]]:
    """Let records in again that narrowings hold aside; what was released, narrowing and copy, for undoing exactly that."""
    with changing(review, account, "gather", alone=False, large=True) as change:
        released = store.release(change.db, review, records)
        if not released:
            raise NotFound("No narrowing holds these records aside.")
        touched = records_of(change.db, [copy for _, copy in released])
        change.stands(touched)
        change.event("gather.let_in", _named(change.db, touched), [*dict.fromkeys(narrowing for narrowing, _ in released)])
        change.rank_again()
        return released


def hold_again(review: int, account: int, released: Sequence[tuple[int, int]]) -> int:
    """Undo letting records in: what was released then, and was not read meanwhile, is held aside again; how many records."""
    with changing(review, account, "gather", alone=False, large=True) as change:
        held = store.hold_again(change.db, review, released)
        if not held:
            raise NotFound("None of these records can be set aside again: they were not let in, or were read meanwhile.")
        touched = records_of(change.db, held)
        change.stands(touched)
        change.event("gather.narrowed_one_again", _named(change.db, touched), None, {"records": len(touched)})
        change.rank_again()
        return len(touched)


def _named(db: Session, records: Sequence[int]) -> str:
    """The title of one record, or how many there are."""
    return title_of(db, records[0]) if len(records) == 1 else f"{len(records):,} records"


def set_again(review: int, account: int, narrowing: int, again: bool) -> None:
    """Whether a narrowing is applied to what comes later. What was set aside at one moment, by hand or as automation, has no rule to apply."""
    with changing(review, account, "gather") as change:
        found = _narrowing(change.db, review, narrowing)
        if again and not found.has_rule:
            raise Conflict("This set aside what there was at one moment. It has no rule that could be repeated.")
        before, found.again = found.again, again
        change.event("gather.narrowing_changed", found.name, {"again": before}, {"again": again})


def narrow_again(change: Change, copies: Sequence[int]) -> None:
    """Copies came in: the narrowings that are to be repeated are applied once they are matched and searchable."""
    if copies and store.to_be_repeated(change.db, change.review):
        change.enqueue("narrow", once=f"narrow-{change.review}", review=change.review, account=change.account)


def repeat(review: int, account: int) -> int:
    """The task after an intake: every narrowing that is to be repeated, applied to records that it has not seen; how many went."""
    with snapshot() as db:
        due = [db.get_one(Narrowing, number) for number in store.to_be_repeated(db, review)]
        db.expunge_all()
    total = 0
    for one in due:
        assert one.id is not None
        ids = _spoken_of(review, Rule(one.name, one.query, one.abstract, one.keep, one.spare, True))
        with changing(review, account, "gather", alone=False, large=True) as change:
            seen = store.seen_by(change.db, one.id)
            n = _put(change, one.id, [record for record in ids if record not in seen], one.spare)
            total += n
            if n:
                change.event("gather.narrowing_repeated", one.name, None, {"records": n})
    return total


def narrowings(review: int) -> Sequence[Row]:
    """All narrowings with what each holds aside."""
    with snapshot() as db:
        return store.narrowings(db, review)


def _narrowing(db: Session, review: int, narrowing: int, *, held: bool = False) -> Narrowing:
    """A narrowing of a review; one that is ``held`` is taken back or applied again by nobody else meanwhile."""
    found = db.get(Narrowing, narrowing, with_for_update=held)
    if found is None or found.review_id != review:
        raise NotFound("There is no such narrowing in this review.")
    return found
