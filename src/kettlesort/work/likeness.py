"""Groups of records that are alike, and setting a far one aside as a whole."""

from __future__ import annotations

from collections.abc import Sequence

from sqlmodel import Session

from kettlesort.core.ranking.groups import Settings, group
from kettlesort.core.ranking.texts import RankedText
from kettlesort.store import likeness as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.jobs import under_way
from kettlesort.store.likeness import AlikeGroup, Grouping
from kettlesort.store.records import Wanted, ids
from kettlesort.work import jobs, narrow
from kettlesort.work.change import changing, tell
from kettlesort.work.errors import Conflict, Invalid, NotFound

LOOKED_AT = 5
"""So many of a group's members, the nearest to what is known, are looked at before it is set aside."""
MOST_GROUPS = 200


def begin(review: int, account: int, how: Settings) -> int:
    """Group the undecided records that have an abstract, in the background; the grouping."""
    if not 2 <= how.groups <= MOST_GROUPS:
        raise Invalid(f"From 2 to {MOST_GROUPS} groups can be made.", field="groups")
    if not 1 <= how.rarest <= 1000:
        raise Invalid("A word counts from 1 to 1,000 records on.", field="rarest")
    if not 0 < how.commonest <= 1:
        raise Invalid("A word may be in more than 0 and at most 100 per cent of the records.", field="commonest")
    with changing(review, account, "groups") as change:
        if under_way(change.db, review, "group_records"):
            raise Conflict("Records are being grouped already; wait for it, or cancel it.")
        made = Grouping(review_id=review, account_id=account, **how._asdict())
        change.db.add(made)
        change.db.flush()
        assert made.id is not None
        jobs.begin(change, "group_records", f"Grouping into {how.groups}", made.id)
        change.event("screen.grouped", "", None, how._asdict())
        return made.id


def group_records(job_id: int) -> None:
    """The job behind a grouping."""
    with jobs.working(job_id) as work:
        if work is None:
            return
        job, progress = work
        assert job.subject_id is not None
        with snapshot() as db:
            held = db.get(Grouping, job.subject_id)
            assert held is not None
            how = Settings(held.groups, held.rarest, held.commonest)
            texts = store.texts_to_group(db, job.review_id)
            without = len(ids(db, job.review_id, Wanted("open", abstract=False)))
        progress.tick(0.1)
        among = [k for k, text in enumerate(texts) if text["open"]]
        known = [k for k, text in enumerate(texts) if text["known"]]
        found = group([RankedText(text["title"], text["abstract"]) for text in texts], known, how, among)
        progress.tick(0.9)
        with session() as db:
            made = db.get(Grouping, job.subject_id)
            assert made is not None
            assert made.id is not None
            store.forget_groups(db, made.id)
            made.state, made.records, made.without_abstract, made.known = "ready", len(among), without, len(known)
            for number, one in enumerate(found, 1):
                members = [(texts[k]["id"], near) for k, near in zip(one.members, one.closeness, strict=True)]
                store.add_group(db, AlikeGroup(grouping_id=made.id, number=number, words=one.words, near=one.near), members)
            jobs.finish_in(db, job, "done")
            tell(db, job.review_id, "groups")


def groupings(review: int) -> Sequence[Row]:
    """All groupings, the newest first."""
    with snapshot() as db:
        return store.groupings(db, review)


def groups(review: int, grouping: int) -> Sequence[Row]:
    """The groups of a grouping, the nearest to what is known first."""
    with snapshot() as db:
        held = db.get(Grouping, grouping)
        if held is None or held.review_id != review:
            raise NotFound("There is no such grouping in this review.")
        return store.groups_of(db, review, grouping)


def nearest(review: int, number: int) -> Sequence[Row]:
    """The undecided members of a group that have to be looked at before it is set aside."""
    with snapshot() as db:
        _group(db, review, number)
        return store.nearest_open(db, number, LOOKED_AT)


def _group(db: Session, review: int, number: int) -> AlikeGroup:
    found = db.get(AlikeGroup, number)
    held = db.get(Grouping, found.grouping_id) if found else None
    if found is None or held is None or held.review_id != review:
        raise NotFound("There is no such group in this review.")
    return found


def set_aside(review: int, account: int, number: int, looked_at: Sequence[int]) -> tuple[int, int]:
    """Set a whole group aside, as automation, once its members nearest to what is known were looked at; the narrowing, and how many records went.

    What somebody has decided on, seeds and included records stay.
    """
    with changing(review, account, "screen", large=True) as change:
        found = _group(change.db, review, number)
        if found.near is None:
            raise Conflict("Nothing is known yet of what belongs, so no group is far from it. Name seeds first, and group again.")
        unseen = [one["title"] for one in store.nearest_open(change.db, number, LOOKED_AT) if one["id"] not in looked_at]
        if unseen:
            raise Conflict(
                f"Look first at the members that are nearest to what is known: “{unseen[0]}”"
                + (f" and {len(unseen) - 1} more." if unseen[1:] else ".")
            )
        going = [one["id"] for one in store.open_members(change.db, number) if not one["touched"]]
        if not going:
            raise Conflict("No undecided record is left in this group.")
        words = [word for word, _ in found.words[:3]]
        made, n = narrow.hold(change, f"Far group: {', '.join(words)}" if words else "Far group", going, by_hand=False)
        found.narrowing_id = made
        change.event("screen.group_set_aside", ", ".join(words), None, {"narrowing": made, "records": n, "looked_at": len(looked_at)})
        return made, n
