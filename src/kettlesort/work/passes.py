"""How each pass is screened: by how many readers, how the work is shared out, and what differs between them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any, NamedTuple

from sqlmodel import Session

from kettlesort.core.agreement import Compared, compare
from kettlesort.core.screening.allocation import Allotted, allot, in_order
from kettlesort.core.screening.passes import MOST_READERS, PASSES, Mode
from kettlesort.store import passes as store
from kettlesort.store.base import Row, count_anew, seen_by, snapshot
from kettlesort.store.chart import ensure_study
from kettlesort.store.passes import OwnReading, Sharing
from kettlesort.store.records import Wanted, ids
from kettlesort.store.report import held_aside
from kettlesort.store.screen import Verdict
from kettlesort.store.standing import lock_state, outcomes
from kettlesort.work.change import changing
from kettlesort.work.errors import Conflict, Invalid, NotAllowed, NotFound
from kettlesort.work.records import found_by
from kettlesort.work.screen import STATES, Said, give_verdict, readers_of

MOST_SHARED = 200_000


class Pass(NamedTuple):
    """How a pass is screened, who set that, and how many records are open, differ, and are left for whoever asks."""

    number: int
    mode: Mode
    since: Row | None
    open: int
    differ: int
    mine_left: int
    mine_read: int


def passes(review: int, account: int) -> list[Pass]:
    """Both passes as they stand for somebody."""
    with seen_by(account), snapshot() as db:
        modes = store.modes(db, review)
        return [_pass(db, review, account, number, modes[number]) for number in PASSES]


def _pass(db: Session, review: int, account: int, number: int, mode: Mode) -> Pass:
    mine = store.own_reading(db, review, account, number)
    left = _left(db, review, number, mode, mine)
    return Pass(
        number, mode, store.mode_since(db, review, number), len(ids(db, review, Wanted("open" if number == 1 else "second_open", pass_number=number))),
        len(ids(db, review, Wanted("differs" if number == 1 else "second_differs", pass_number=number))), len(left), len(mine.read),
    )  # fmt: skip


def _left(db: Session, review: int, number: int, mode: Mode, mine: OwnReading) -> list[int]:
    """The records that somebody still has to read: of their share where they have one, else those that want a reader."""
    open_now = store.to_share(db, review, Wanted(pass_number=number))
    unread = [record for record in open_now if record not in mine.read]
    share = [record for record in unread if record in mine.allotted]
    if share:
        return share
    readers = store.readers_of(db, review, number)
    return [record for record in unread if len(readers.get(record, ())) < mode.readers]


def checked(mode: Mode) -> Mode:
    """A mode that can be. Raises Invalid."""
    if not 1 <= mode.readers <= MOST_READERS:
        raise Invalid(f"A pass has from 1 to {MOST_READERS} readers.", field="readers")
    if mode.differ not in ("verdict", "reason") or mode.unsure not in ("stays", "goes_on") or mode.settling not in ("third", "talk"):
        raise Invalid("There is no such rule for a pass.")
    return mode


class Moved(NamedTuple):
    """So many records would stand elsewhere; ``judged`` of them have a verdict of the second pass, too.

    Of records that are read blind it is not told how they would be ``settled``: that is what some of their readers said.
    """

    before: str
    after: str
    records: int
    judged: int


def preview(review: int, number: int, mode: Mode) -> list[Moved]:
    """What would become open, settled or differing if a pass were screened in another mode. No decision is lost by it."""
    checked(mode)
    with snapshot() as db:
        aside, now, then = held_aside(db, review), outcomes(db, review), outcomes(db, review, others={number: mode})
    moved: dict[tuple[str, str], list[bool]] = {}
    for record, one in now.items():
        before: str = one[number - 1].state
        after: str = then[record][number - 1].state
        if one[number - 1].blind and after != "open":
            after = "settled"
        if before != after and record not in aside and (number == 1 or one.first.state == "include"):
            moved.setdefault((before, after), []).append(number == 1 and one.second.state != "open")
    return [Moved(*key, len(judged), sum(judged)) for key, judged in sorted(moved.items())]


def set_mode(review: int, account: int, number: int, mode: Mode) -> None:
    """Screen a pass in another mode from now on. All decisions stay; where records stand follows from them anew."""
    checked(mode)
    with changing(review, account, "screen", large=True) as change:
        before = store.modes(change.db, review)[number]
        if before == mode:
            return
        store.set_mode(change.db, review, number, account, mode)
        store.forget_holds(change.db, review, number)
        included = set(ids(change.db, review, Wanted("included")))
        change.stands()
        for record in set(ids(change.db, review, Wanted("included"))) - included:
            ensure_study(change.db, review, record)
        change.event(f"screen.mode_pass_{number}", "", before._asdict(), mode._asdict())
        change.rank_again()


class Shares(NamedTuple):
    """How records are to be shared out. ``parts`` are people with their hours or numbers; ``most`` so many records at most; a ``seed`` shuffles them."""

    number: int
    name: str
    parts: Mapping[int, float]
    most: int | None = None
    pilot: bool = False
    overlap: float = 0.0
    seed: int | None = None


class SharedOut(NamedTuple):
    """What a sharing comes to: how many records, and how many each person reads."""

    records: int
    by_person: dict[int, int]


def _allotted(db: Session, review: int, said: Shares, wanted: Wanted) -> tuple[list[int], list[Allotted]]:
    people = store.people_of(db, review)
    strangers = [part for part in said.parts if part not in people]
    if strangers or not said.parts:
        raise Invalid("Choose people who lead or review here.", field="parts")
    readers = len(said.parts) if said.pilot else store.modes(db, review)[said.number].readers
    if len(said.parts) < readers:
        raise Invalid(f"Each record has {readers} readers in this pass: choose at least {readers} people.", field="parts")
    if said.seed is not None and not 0 <= said.seed < 2**31:
        raise Invalid("A seed is a whole number from 0 on.", field="seed")
    if not 0 <= said.overlap <= 1 or min(said.parts.values()) <= 0:
        raise Invalid("Shares are above 0, and the overlap is from 0 to 100 per cent.", field="parts")
    taken = store.readers_of(db, review, said.number)
    free = [record for record in store.to_share(db, review, wanted) if len(taken.get(record, ())) < readers]
    chosen = in_order(free, said.seed)[: said.most or MOST_SHARED]
    return chosen, allot(chosen, said.parts, readers, taken, 0.0 if said.pilot else min(said.overlap, float(len(said.parts) > readers)))


def _found(review: int, said: Shares, wanted: Wanted) -> Wanted:
    if wanted.of_copies:
        raise NotFound(f"There is no list of records named “{wanted.list}”.")
    return replace(found_by(review, wanted), pass_number=said.number)


def try_sharing(review: int, said: Shares, wanted: Wanted) -> SharedOut:
    """What a sharing would come to."""
    with snapshot() as db:
        chosen, allotted = _allotted(db, review, said, _found(review, said, wanted))
    return _summed(chosen, said, allotted)


def _summed(chosen: Sequence[int], said: Shares, allotted: Sequence[Allotted]) -> SharedOut:
    by_person = dict.fromkeys(said.parts, 0)
    for one in allotted:
        by_person[one.person] += 1
    return SharedOut(len(chosen), by_person)


def share_out(review: int, account: int, said: Shares, wanted: Wanted) -> tuple[int, SharedOut]:
    """Share the open records of a list out; the sharing's number, and what it came to."""
    wanted = _found(review, said, wanted)
    with changing(review, account, "screen", large=True) as change:
        chosen, allotted = _allotted(change.db, review, said, wanted)
        if not allotted:
            raise Invalid("No record of this list wants a reader; there is nothing to share out.", field="list")
        name = " ".join(said.name.split())[:100] or ("Pilot" if said.pilot else "Share")
        made = Sharing(review_id=review, pass_number=said.number, name=name, pilot=said.pilot, seed=said.seed, account_id=account)
        change.db.add(made)
        change.db.flush()
        assert made.id is not None
        beyond = _beyond(store.modes(change.db, review)[said.number].readers, allotted, store.readers_of(change.db, review, said.number))
        store.add_allotments(change.db, review, made.id, allotted, {record: place for place, record in enumerate(chosen, 1)}, beyond)
        change.stands(chosen)
        out = _summed(chosen, said, allotted)
        people = store.people_of(change.db, review)
        change.event(
            "screen.shared_out",
            name,
            None,
            {"records": out.records, "seed": said.seed, **{people[who]: n for who, n in out.by_person.items()}},
        )
    count_anew("allotment")  # handing out what was shared a moment ago is planned for as much as there is
    return made.id, out


def _beyond(readers: int, allotted: Sequence[Allotted], taken: Mapping[int, set[int]]) -> set[int]:
    """The records that go to more people than the pass has readers."""
    people: dict[int, set[int]] = {}
    for one in allotted:
        people.setdefault(one.record, set(taken.get(one.record, ()))).add(one.person)
    return {record for record, some in people.items() if len(some) > readers}


def shares(review: int, account: int, role: str, number: int) -> Sequence[Mapping[str, Any]]:
    """Each person's part of each sharing. How much of it somebody has read is for themselves and a lead to know."""
    with snapshot() as db:
        found = store.shares(db, review, number)
    return [{**row, "read": row["read"] if role == "lead" or row["account_id"] == account else None} for row in found]


def give_back(review: int, account: int, role: str, sharing: int, person: int | None, *, back: bool = False) -> int:
    """Give back what somebody has not read of a share, so that others may read it; or put it ``back``. How many records.

    Without a person it is that of everybody, for a lead, and one's own for others.
    """
    if role != "lead" and person is None:
        person = account
    if role != "lead" and person != account:
        raise NotAllowed("Only a lead gives back what is on the share of others.")
    with changing(review, account, "screen", large=True) as change:
        found = change.db.get(Sharing, sharing)
        if found is None or found.review_id != review:
            raise NotFound("There is no such sharing in this review.")
        if back:
            records = store.bring_back(change.db, review, sharing, person)
        else:
            records = store.give_back(change.db, review, sharing, person, datetime.now(UTC))
        if person is None:
            found.removed_at = None if back else datetime.now(UTC)
        change.stands(sorted(set(records)))
        whom = store.people_of(change.db, review).get(person or 0, "everybody" if person is None else "somebody")
        change.event(
            "screen.put_back_on_share" if back else "screen.given_back", found.name, None, {"of": whom, "records": len(set(records))}
        )
        return len(set(records))


class Differing(NamedTuple):
    """A record on which verdicts differ or differed, and what was said."""

    record: Row
    said: list[Row]


def differences(review: int, account: int, number: int, settled: bool = False) -> list[Differing]:
    """What differs in a pass and waits for somebody; or what was ``settled``."""
    with seen_by(account), snapshot() as db:
        found = store.differing(db, review, number, settled)
        said: dict[int, list[Row]] = {}
        for row in store.said_on(db, [one["id"] for one in found], number):
            said.setdefault(row["record_id"], []).append(row)
    return [Differing(each, said.get(each["id"], [])) for each in found]


def settle(review: int, account: int, said: Said) -> None:
    """Settle what readers of a record said differently, or together but wrongly."""
    if said.verdict not in ("include", "exclude"):
        raise Invalid("What differs is settled by including or excluding.")
    with changing(review, account, "screen", alone=said.pass_number == 2) as change:
        standing = lock_state(change.db, review, said.record)
        if standing is None:
            raise NotFound("This record is gone; it was joined with another meanwhile.")
        mode = store.modes(change.db, review)[said.pass_number]
        column = STATES[said.pass_number]
        readers, _ = readers_of(change.db, review, said.record, said.pass_number, account)
        if readers == 1:
            raise Conflict("One reader decides in this pass; decide on the record at the desk.")
        if standing["first"] == "aside" or standing[f"{column}_blind"] or (said.pass_number == 2 and standing["first"] != "include"):
            raise Conflict("Not everybody who should has read this record yet.")
        if mode.settling == "third" and store.has_read(change.db, review, account, said.record, said.pass_number):
            raise Conflict("You read this record yourself; a third person settles it. A lead can change this under Passes.")
        if said.seen and said.seen != standing[column]:
            raise Conflict(f"Somebody settled this record meanwhile; it is {standing[column]} now.", state=standing[column])
        give_verdict(change, standing, said, settles=True)


def reopen(review: int, account: int, record: int, number: int) -> None:
    """Take back what settled a record: it stands as its readers said again."""
    with changing(review, account, "screen", alone=number == 2) as change:
        standing = lock_state(change.db, review, record)
        found = store.latest_settlement(change.db, review, record, number) if standing else None
        if standing is None or found is None:
            raise NotFound("Nothing settles this record that could be taken back.")
        made = change.db.get(Verdict, found["id"])
        assert made is not None
        made.withdrawn_at, made.withdrawn_by = datetime.now(UTC), account
        change.stands([record], locked=True)
        change.event(f"screen.reopened_pass_{number}", standing["title"], found["verdict"], None, about=record, pass_number=number)
        change.rank_again()


class ByReason(NamedTuple):
    """Of the records that at least one of two or more readers excluded for a criterion: how many all did, others excluded for another, did not exclude."""

    number: int
    criterion: str
    records: int
    together: int
    otherwise: int
    not_excluded: int


class Agreed(NamedTuple):
    """How far readers agree: the words that each pair used and their ``keys`` in the name of a list, pairs and all at once, by reason, and over time."""

    people: list[str]
    accounts: dict[str, int]
    words: list[str]
    keys: list[str]
    records: int
    compared: Compared
    tables: dict[tuple[str, str], list[list[int]]]
    by_reason: list[ByReason]
    over_time: list[tuple[datetime, int, float]]
    differ: list[int]


STRETCHES = 10


def agreement(review: int, account: int, number: int, sharing: int | None = None, *, reasons: bool = False) -> Agreed:
    """How far the readers of a pass agree on records that several read independently; with ``reasons``, exclusions for different ones differ."""
    with seen_by(account), snapshot() as db:
        found = store.independent(db, review, number, sharing)
    by_record: dict[int, dict[str, Row]] = {}
    for each in found:
        by_record.setdefault(each["record_id"], {})[each["by"]] = each
    several = {record: said for record, said in by_record.items() if len(said) > 1}
    people = sorted({who for said in several.values() for who in said})

    def word(row: Row | None) -> str:
        if row is None:
            return ""
        return f"exclude: {row['criterion']}" if reasons and row["verdict"] == "exclude" else str(row["verdict"])

    seen = {record: [word(said.get(who)) for who in people] for record, said in several.items()}
    words = sorted({one for row in seen.values() for one in row if one})
    compared = compare(people, list(seen.values()))
    tables = {}
    for one in compared.pairs:
        i, j = people.index(one.a), people.index(one.b)
        counts = [[sum(row[i] == a and row[j] == b for row in seen.values()) for b in words] for a in words]
        tables[one.a, one.b] = counts
    numbers = list(seen)
    keys = {word(each): f"exclude/{each['criterion_id']}" if reasons and each["criterion_id"] else str(each["verdict"]) for each in found}
    accounts = {each["by"]: each["account_id"] for each in found}
    return Agreed(
        people,
        accounts,
        words,
        [keys[one] for one in words],
        len(seen),
        compared,
        tables,
        _by_reason(several),
        _over_time(several, seen),
        [numbers[k] for k in compared.differ],
    )


def _by_reason(several: Mapping[int, Mapping[str, Row]]) -> list[ByReason]:
    out: dict[tuple[int, str], list[int]] = {}
    for said in several.values():
        reasons = [(row["criterion_id"], row["criterion"]) if row["verdict"] == "exclude" else None for row in said.values()]
        for one in {reason for reason in reasons if reason and reason[0]}:
            held = out.setdefault(one, [0, 0, 0])
            held[0 if set(reasons) == {one} else 2 if None in reasons else 1] += 1
    return sorted((ByReason(*one, sum(n), *n) for one, n in out.items()), key=lambda one: (-one.records, one.criterion))


def _over_time(several: Mapping[int, Mapping[str, Row]], seen: Mapping[int, Sequence[str]]) -> list[tuple[datetime, int, float]]:
    """Share of records on which all agree, in up to ten stretches of the same number of records, by when the last of their readers decided."""
    last = sorted((max(row["at"] for row in said.values()), record) for record, said in several.items())
    size = max(10, -(-len(last) // STRETCHES))
    out = []
    for begin in range(0, len(last), size):
        part = last[begin : begin + size]
        alike = sum(len({word for word in seen[record] if word}) == 1 for _, record in part)
        out.append((part[-1][0], len(part), alike / len(part)))
    return out
